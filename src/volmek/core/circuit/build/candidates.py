"""Single mistakes and defects that a wiring can have: the candidates among which causes are looked for."""

from collections import Counter, defaultdict
from collections.abc import Iterator
from dataclasses import dataclass
from itertools import combinations, permutations
from typing import Literal

from volmek.core.circuit.build.plan import Plan, Stage
from volmek.core.circuit.build.wiring import spot
from volmek.core.circuit.model.netlist import RETURN, Circuit, Wire, makes_at_rest

Kind = Literal[
    "missing", "same_device", "two_devices", "moved", "supply", "make_break", "wrong_contact", "coil", "coils", "contact", "power", "guard",
    "setting",
]  # fmt: skip
#: Kinds of mistakes and defects that are tried, the one most often found first, each single candidate weighed: an order from practice, no statistics. With the words for the list.
KINDS: dict[Kind, str] = {
    "missing": "each wire missing or loose",
    "coil": "coil open or for another voltage",
    "supply": "control supply missing or the wrong way round, phase monitor",
    "make_break": "make and break contact exchanged",
    "same_device": "conductors exchanged at one device",
    "coils": "coils, relays or lamps exchanged",
    "two_devices": "conductors exchanged between two terminals anywhere in the control circuit",
    "moved": "one end on another terminal of the same device, or anywhere in the same place: panel, door, station",
    "wrong_contact": "a contact of another device in its place",
    "guard": "overload contact left out or on the return side",
    "contact": "each contact bridged, welded or never closing",
    "power": "conductors of the power circuit exchanged or one terminal along, capacitor, relay not looped",
    "setting": "time relays set too short or too long",
}


@dataclass(frozen=True, slots=True)
class Cause:
    """A mistake or defect that gives exactly what was seen.

    Attributes
    ----------
    kind : what sort of mistake it is
    what : what is wrong
    mend : what to look at
    faults : it in the language of the simulation
    fresh : it lies in the wires of this stage
    about : what many of a kind have in common: the end of a wire that may be on any of several other terminals
    alike : others about the same that give exactly the same, in words
    """

    kind: Kind
    what: str
    mend: str
    faults: tuple[str, ...]
    fresh: bool
    about: str = ""
    alike: tuple[str, ...] = ()


def covered(*, everywhere: bool) -> list[str]:
    """What the candidates cover, in words; what is not among them was not tried.

    Examples
    --------
    >>> covered(everywhere=True)[0]
    'each wire missing or loose'
    """
    return [
        *KINDS.values(),
        *(
            []
            if everywhere
            else [
                "wires of earlier stages only missing or loose, or exchanged with new ones: the rest was tried with them"
            ]
        ),
    ]


def distinct(circuit: Circuit, stage: Stage, plan: Plan, *, everywhere: bool = False) -> Iterator[Cause]:
    """Candidates, each change once.

    Parameters
    ----------
    circuit : the part that is wired so far
    stage, plan : where the work is
    everywhere : wires of earlier stages may be exchanged or moved too; else those are taken as tried, and can only be missing or loose
    """
    keys = set(stage.wires)
    fresh = {frozenset(i.within) for i in plan.wires if i.within and (everywhere or i.key in keys)}
    known: set[tuple[str, ...]] = set()
    for cause in _candidates(circuit, fresh):
        if cause.faults not in known:
            known.add(cause.faults)
            yield cause


def alike_terminals(circuit: Circuit) -> dict[tuple[str, bool, int], list[str]]:
    """Terminals of each device that can be mistaken for each other: nobody puts a power conductor on an auxiliary contact."""
    power = {t for w in circuit.wires if w.side == "power" for t in (w.a, w.b)}
    power |= {t for c in circuit.contacts if c.side == "power" for t in c.terminals}
    found: dict[tuple[str, bool, int], list[str]] = defaultdict(list)
    for t in circuit.node_of:
        device, _, name = t.partition(":")
        side = int(name) % 2 if t in power and name.isdigit() else 0  # a pole is reached from above or from below
        found[device, t in power, side].append(t)
    return found


def _candidates(circuit: Circuit, fresh: set[frozenset[str]]) -> Iterator[Cause]:
    mine = [w for w in circuit.wires if frozenset((w.a, w.b)) in fresh]
    touched = {t for w in mine for t in (w.a, w.b)}
    yield from _supply(circuit)
    yield from _missing(circuit, mine)
    yield from _contacts(circuit, touched)
    yield from _moved(circuit, mine)
    yield from _exchanged(circuit, mine)
    yield from _crossed(circuit, mine)
    yield from _elsewhere(circuit, mine)
    yield from _coils(circuit, touched)
    yield from _wrong_contacts(circuit, touched)
    yield from _power(circuit, mine)
    yield from _guards(circuit, mine)


def _supply(circuit: Circuit) -> Iterator[Cause]:
    live, back = circuit.sources.get("L"), circuit.sources.get(RETURN)
    if live and back:
        yield Cause(
            "supply",
            "Live and return of the control circuit are swapped.",
            f"The wires at {live} and {back}.",
            (f"swap {live} {back}",),
            True,
        )
    for t, words in (
        (
            live,
            f"The control circuit has no voltage: {circuit.named('control_breaker')} is open or has tripped, or its feed is missing.",
        ),
        (back, "The return of the control circuit is not connected."),
    ):
        ends = [w for w in circuit.wires if t in (w.a, w.b)]
        if t and ends:
            yield Cause("supply", words, f"The voltage at {t}.", tuple(f"remove {w.a} {w.b}" for w in ends), True)
    name = circuit.monitor
    if name and not circuit.monitor_behind:
        yield Cause(
            "supply",
            "The phase monitor is supplied from the load side of the contactor.",
            f"Where {name}:L1, L2 and L3 are connected.",
            (f"behind {name}",),
            True,
        )
        yield Cause(
            "supply",
            "The phase monitor does not detect healthy phases.",
            "Its sequence, voltage setting and the three lines.",
            (f"open {name}:11-14", f"weld {name}:11-12"),
            True,
        )


def _missing(circuit: Circuit, mine: list[Wire]) -> Iterator[Cause]:
    for w in circuit.wires:
        new = w in mine
        yield Cause(
            "missing",
            f"Wire {w.number} from {w.a} to {w.b} is missing or loose.",
            f"{w.a} and {w.b}.",
            (f"remove {w.a} {w.b}",),
            new,
        )
    star = circuit.named("star")
    ends = [f"{star}:{n}" for n in (2, 4, 6)]
    bridge = [w for w in mine if {w.a, w.b} <= set(ends)]
    if len(bridge) == 2:
        yield Cause(
            "missing",
            f"The star bridge at {star} is missing.",
            f"{ends[0]}, {ends[1]} and {ends[2]}.",
            tuple(f"remove {w.a} {w.b}" for w in bridge),
            True,
        )


def _contacts(circuit: Circuit, touched: set[str]) -> Iterator[Cause]:
    for c in circuit.contacts:
        if c.side == "power" or not all(circuit.number_of.get(t) for t in c.terminals):
            continue
        new = bool(touched & set(c.terminals))
        kind = circuit.devices[c.device].kind
        yield Cause("contact", f"{c.name} does not close.", f"The contact {c.name} itself.", (f"open {c.name}",), new)
        bridged = (
            "The interlock " + c.name + " is bridged."
            if kind == "contactor" and not makes_at_rest(c)
            else f"{c.name} is bridged or welded."
        )
        yield Cause(
            "contact", bridged, f"The wires at {c.terminals[0]} and {c.terminals[1]}.", (f"weld {c.name}",), new
        )
        if kind in ("button", "emergency_stop", "overload", "monitor", "contactor", "relay"):
            yield Cause(
                "make_break",
                f"NO and NC contact are swapped at {c.name}.",
                f"The contact block of {c.device}.",
                (f"exchange {c.name}",),
                new,
            )
    for x in circuit.loads:
        if any(circuit.number_of.get(t) for t in x.terminals):
            new = bool(touched & set(x.terminals))
            what = "coil of" if circuit.devices[x.device].kind in ("contactor", "relay") else "inside of"
            yield Cause(
                "coil",
                f"The {what} {x.device} is open, or made for another voltage.",
                f"The voltage printed on {x.device}.",
                (f"dead {x.device}",),
                new,
            )
    for name in circuit.of_kind("timer", "star_delta_timer"):
        seconds = circuit.devices[name].time_s
        if seconds:
            yield Cause(
                "setting",
                f"{name} is set too long.",
                f"The time setting of {name}.",
                (f"set {name} {min(4 * seconds + 20, 3600):g}",),
                False,
            )
            yield Cause(
                "setting", f"{name} is set far too short.", f"The time setting of {name}.", (f"set {name} 0.1",), False
            )


def _moved(circuit: Circuit, mine: list[Wire]) -> Iterator[Cause]:
    """One end of a new wire on another terminal of the same device."""
    of = alike_terminals(circuit)
    for w in mine:
        for end, other in ((w.a, w.b), (w.b, w.a)):
            for t in next(ts for ts in of.values() if end in ts):
                if t in (end, other) or circuit.node_of[t] == circuit.node_of[end]:
                    continue
                yield Cause(
                    "moved",
                    f"Wire {w.number} from {other} is connected to {t} instead of {end}.",
                    f"{t} and {end}.",
                    (f"remove {w.a} {w.b}", f"add {other} {t}"),
                    True,
                )


def _exchanged(circuit: Circuit, mine: list[Wire]) -> Iterator[Cause]:
    """All wires on two terminals of one device swapped."""
    touched = {t for w in mine for t in (w.a, w.b)}
    for (device, _, _), terminals in alike_terminals(circuit).items():
        for a, b in combinations(terminals, 2):
            if (a in touched or b in touched) and circuit.node_of[a] != circuit.node_of[b]:
                yield Cause(
                    "same_device",
                    f"The wires at {a} and {b} are swapped.",
                    f"{a} and {b} at {device}.",
                    (f"swap {a} {b}",),
                    True,
                )


def _control(circuit: Circuit) -> list[str]:
    """Terminals on which a conductor of the control circuit can be put."""
    return [
        t
        for (name, power, _), ts in alike_terminals(circuit).items()
        if not power and name in circuit.devices
        for t in ts
    ]


def _crossed(circuit: Circuit, mine: list[Wire]) -> Iterator[Cause]:
    """Two conductors exchanged, each on the other's terminal: one of them new, the other anywhere."""
    able = set(_control(circuit))
    conductors = Counter(t for w in circuit.wires for t in (w.a, w.b))
    new = set(map(id, mine))
    ends = [(w, t, u) for w in circuit.wires for t, u in ((w.a, w.b), (w.b, w.a)) if t in able]
    for (v, t, t_other), (w, u, u_other) in combinations(ends, 2):
        if v is w or not (id(v) in new or id(w) in new) or circuit.node_of[t] == circuit.node_of[u]:
            continue
        same = t.partition(":")[0] == u.partition(":")[0]
        if (same and conductors[t] == conductors[u] == 1) or t_other == u or u_other == t:
            continue  # the wires of two terminals of a device are exchanged anyway; or nothing would change
        yield Cause(
            "same_device" if same else "two_devices",
            f"Wire {v.number} at {t} and wire {w.number} at {u} are exchanged.",
            f"{t} and {u}.",
            (f"remove {v.a} {v.b}", f"remove {w.a} {w.b}", f"add {t_other} {u}", f"add {u_other} {t}"),
            True,
            f"exchanged, {t} of {t_other}" if id(v) in new else f"exchanged, {u} of {u_other}",
        )


def _elsewhere(circuit: Circuit, mine: list[Wire]) -> Iterator[Cause]:
    """One end of a new wire on a terminal of another device in the same place."""
    able = _control(circuit)
    place = {t: spot(circuit, t) for t in able}
    for w in mine:
        for end, other in ((w.a, w.b), (w.b, w.a)):
            for t in able if end in place else ():
                alike = place[t] == place[end] and t.partition(":")[0] != end.partition(":")[0]
                if alike and t != other and circuit.node_of[t] != circuit.node_of[end]:
                    yield Cause(
                        "moved",
                        f"Wire {w.number} from {other} is connected to {t} instead of {end}.",
                        f"{t} and {end}.",
                        (f"remove {w.a} {w.b}", f"add {other} {t}"),
                        True,
                        f"moved, {end} of {other}",
                    )


def _coils(circuit: Circuit, touched: set[str]) -> Iterator[Cause]:
    """Two coils, relays or lamps, each wired as the other."""
    node = circuit.node_of
    wired = [x for x in circuit.loads if any(circuit.number_of.get(t) for t in x.terminals)]
    for a, b in combinations(wired, 2):
        if touched.isdisjoint((*a.terminals, *b.terminals)):
            continue
        pairs = [(t, u) for t, u in zip(a.terminals, b.terminals, strict=True) if node[t] != node[u]]
        if pairs:
            lamps = circuit.devices[a.device].kind == circuit.devices[b.device].kind == "lamp"
            yield Cause(
                "coils",
                f"{a.device} and {b.device} are exchanged: each is wired as the other.",
                f"{'The lenses and' if lamps else 'The'} wires of {a.device} and {b.device}.",
                tuple(f"swap {t} {u}" for t, u in pairs),
                True,
            )


def _wrong_contacts(circuit: Circuit, touched: set[str]) -> Iterator[Cause]:
    """A contact of another device of the same sort, used in the place of one."""
    contacts = [c for c in circuit.contacts if c.side == "control"]
    for c, d in combinations(contacts, 2):
        kinds = [circuit.devices[x.device].kind for x in (c, d)]
        if c.device == d.device or kinds[0] != kinds[1] or makes_at_rest(c) != makes_at_rest(d):
            continue
        if not touched.isdisjoint((*c.terminals, *d.terminals)):
            yield Cause(
                "wrong_contact",
                f"{c.name} and {d.name} are exchanged: the contact of the wrong device is wired.",
                f"{c.name} and {d.name}.",
                tuple(f"swap {t} {u}" for t, u in zip(c.terminals, d.terminals, strict=True)),
                True,
            )


def _power(circuit: Circuit, mine: list[Wire]) -> Iterator[Cause]:
    """The three conductors of one side of a contactor in another order."""
    wired = {t for w in mine if w.side == "power" for t in (w.a, w.b)}
    for k in circuit.power_contactors:
        for side in ([f"{k}:{n}" for n in numbers] for numbers in ((1, 3, 5), (2, 4, 6))):
            if not set(side) <= wired:
                continue
            for order in permutations(range(3)):
                if (
                    sum(i != n for i, n in enumerate(order)) == 3
                ):  # two exchanged are tried with every pair of terminals
                    first = next(i for i in range(3) if order[i] == 0)
                    faults = (f"swap {side[0]} {side[first]}", f"swap {side[3 - first]} {side[0]}") if first else ()
                    yield Cause(
                        "power",
                        f"The three conductors at {', '.join(side)} are each one terminal along.",
                        f"{', '.join(side)}.",
                        faults,
                        True,
                    )
    yield from _unlooped(circuit, mine)
    before = (f"{circuit.named('main_breaker')}:2", *(f"{k}:1" for k in circuit.feeders[:1]))
    lines = [t for t in before if t in circuit.node_of and circuit.number_of.get(t)]
    for w in mine:
        for t in (w.a, w.b):
            if t.partition(":")[0] == circuit.named("run_capacitor") and lines:
                yield Cause("power", "The run capacitor is connected ahead of the contactor: live at standstill.", f"The wire at {t}.",
                            (f"remove {w.a} {w.b}", f"add {t} {lines[0]}"), True)  # fmt: skip


def _unlooped(circuit: Circuit, mine: list[Wire]) -> Iterator[Cause]:
    """A relay of a single-phase motor whose middle pole carries nothing: behind its first pole straight on to the motor."""
    if not circuit.single_phase or not circuit.of_kind("overload"):
        return
    (f1,) = circuit.of_kind("overload")
    first, third, fourth = ([w for w in mine if f"{f1}:{n}" in (w.a, w.b)] for n in (2, 3, 4))
    for out in fourth:
        onward = out.a if out.b == f"{f1}:4" else out.b
        gone = [*first, *third, out]
        yield Cause("power", f"The relay is not looped: its middle pole {f1}:3-4 carries no current.", f"The loop {f1}:2, {f1}:3 and {f1}:4.",
                    (*(f"remove {w.a} {w.b}" for w in gone), f"add {f1}:2 {onward}"), True)  # fmt: skip


def _guards(circuit: Circuit, mine: list[Wire]) -> Iterator[Cause]:
    """The overload contact on the return side, and not in the coil's circuit at all."""
    for name in circuit.overloads:
        a, b = f"{name}:95", f"{name}:96"
        into = next((w for w in mine if a in (w.a, w.b) and b not in (w.a, w.b)), None)
        out = next((w for w in mine if b in (w.a, w.b) and a not in (w.a, w.b)), None)
        if into is None or out is None:
            continue
        x, y = (w.a if w.b in (a, b) else w.b for w in (into, out))
        straight = (f"remove {into.a} {into.b}", f"remove {out.a} {out.b}", f"add {x} {y}")
        yield Cause("guard", f"The contact of {name} is not in the coil circuit.", f"{a} and {b}.", straight, True)
        back = next((w for w in mine if circuit.sources.get(RETURN) in (w.a, w.b)), None)
        if back is not None:
            coil = back.a if back.b == circuit.sources[RETURN] else back.b
            moved = (*straight, f"remove {back.a} {back.b}", f"add {coil} {a}", f"add {b} {circuit.sources[RETURN]}")
            yield Cause(
                "guard", f"The contact of {name} is on the return side of the coil.", f"{a} and {b}.", moved, True
            )
