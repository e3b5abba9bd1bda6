"""In which order a starter is wired: one coil after the other, each by its shortest way, then its holds, then lamps and power."""

from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import Literal

from volmek.core.circuit.build.wiring import spot
from volmek.core.circuit.kernel.engine import Engine
from volmek.core.circuit.model.behaviour import MOVING
from volmek.core.circuit.model.netlist import Circuit, Contact, Load, makes_at_rest

Order = Literal["control_first", "power_first"]
Kind = Literal["supply", "coil", "hold", "lamps", "heater", "rest", "power", "links", "ask", "motor"]


@dataclass(frozen=True, slots=True)
class StagePlan:
    """Terminals that are wired in one stage.

    Attributes
    ----------
    kind : what sort of stage
    title : in a fitter's words
    why : why it is a stage of its own
    terminals : that are needed from now on
    load : coil that the stage is about
    path : contacts from the live side to the coil and on to the return, in order
    """

    kind: Kind
    title: str
    why: str
    terminals: frozenset[str]
    load: Load | None = None
    path: tuple[Contact, ...] = ()
    adds: tuple[Contact, ...] = field(default=())


def stages_of(circuit: Circuit, order: Order = "control_first") -> list[StagePlan]:
    """The stages of a starter.

    Parameters
    ----------
    order : the control circuit first and the motor last, or the power circuit first; two schools

    Examples
    --------
    >>> from volmek.core.circuit.schemes import circuit_of
    >>> from volmek.core.document.model import parse
    >>> [s.title for s in stages_of(circuit_of(parse({"tag": "A"})))]
    ['Supply', 'Coil of K1', 'Seal-in of K1', 'Power circuit up to the strip', 'Motor']
    """
    supply = StagePlan(
        "supply",
        "Supply",
        "Nothing can be tested until the control circuit has voltage.",
        frozenset(circuit.sources.values()),
    )
    power = list(_power(circuit))
    control = list(_control(circuit, frozenset(t for s in power for t in s.terminals))) if circuit.loads else []
    if order == "power_first":
        return [supply, *power[:1], *control, *power[1:]]
    return [supply, *control, *power]


def _control(circuit: Circuit, power: frozenset[str]) -> Iterator[StagePlan]:
    e = Engine(circuit)
    used = {t for w in circuit.wires if w.side == "control" for t in (w.a, w.b)}
    seen: set[str] = set()
    waiting = list(e.loads)
    placed: list[Load] = []
    there: set[str] = set()

    def contacts(mask: int) -> list[Contact]:
        return [c for bit, c in enumerate(e.contacts) if mask >> bit & 1]

    def makes(mask: int) -> set[str]:
        return {c.device for c in contacts(mask) if makes_at_rest(c) and circuit.devices[c.device].kind in MOVING}

    def ends(found: list[Contact]) -> frozenset[str]:
        return frozenset(t for c in found for t in c.terminals)

    def far(mask: int) -> int:
        """Contacts that are not in the panel or on its door."""
        return sum(spot(circuit, c.terminals[0])[0] == "field" for c in contacts(mask))

    ways = {x: sorted(e.paths[x], key=lambda m: (m.bit_count(), far(m))) for x in e.loads}
    while waiting:
        load, mask = next(
            ((x, m) for x in waiting for m in ways[x] if makes(m) <= there),
            (waiting[0], e.paths[waiting[0]][0] if e.paths[waiting[0]] else 0),
        )
        waiting.remove(load)
        placed.append(load)
        there.add(load.device)
        path = contacts(mask)
        what = (
            "Coil"
            if circuit.devices[load.device].kind in ("contactor", "relay")
            else "Run input"
            if circuit.devices[load.device].kind == "soft_starter"
            else "Time relay"
        )
        title = f"{what} of {load.device}" if what != "Time relay" else f"Time relay {load.device}"
        yield StagePlan(
            "coil", title, f"The shortest path to {load.device} only: a fault can only be in these wires.",
            ends(path) | frozenset(load.terminals), load, _ordered(e, load, mask), tuple(c for c in path if c.name not in seen),
        )  # fmt: skip
        seen |= {c.name for c in path}
        more = [c for x in placed for m in e.paths[x] if makes(m) <= there for c in contacts(m) if c.name not in seen]
        more = list(dict.fromkeys(more))
        if more:
            seen |= {c.name for c in more}
            holds = list(dict.fromkeys(c.device for c in more if circuit.devices[c.device].kind in MOVING))
            others = list(dict.fromkeys(c.device for c in more if circuit.devices[c.device].kind not in MOVING))
            words = ([f"Seal-in of {' and '.join(holds)}"] if holds else []) + (
                [f"{'Further ways' if not holds else 'further ways'} through {', '.join(others)}"] if others else []
            )
            yield StagePlan(
                "hold", "; ".join(words),
                "The parallel paths: seal-in contacts and further stations.", ends(more), load, _ordered(e, load, mask), tuple(more),
            )  # fmt: skip
    heater = [x for x in e.shown if _foreign(circuit, e, x)]
    lamps = [x for x in e.shown if x not in heater]
    shows: tuple[tuple[Kind, str, str, list[Load]], ...] = (
        ("lamps", "Lamps", "A lamp is proved only when every state has been seen once.", lamps),
        (
            "heater",
            "Heater",
            f"It has a supply of its own, which stays on when {circuit.named('main_breaker')} is off.",
            heater,
        ),
    )
    for kind, title, why, shown in shows:
        if shown:
            found = list(dict.fromkeys(c for x in shown for m in e.paths[x] for c in contacts(m)))
            terminals = ends(found) | frozenset(t for x in shown for t in x.terminals)
            yield StagePlan(kind, title, why, terminals, None, (), tuple(c for c in found if c.name not in seen))
            seen |= {c.name for c in found}
    known = {t for c in circuit.contacts if c.name in seen for t in c.terminals} | {
        t for x in (*e.loads, *e.shown) for t in x.terminals
    }
    left = frozenset(used - known - power - set(circuit.sources.values()))
    if left:
        yield StagePlan("rest", "Signals", "Contacts that only signal to other equipment.", left)


def _foreign(circuit: Circuit, e: Engine, load: Load) -> bool:
    """It is fed from the heater's supply."""
    return load in e.foreign


def _ordered(e: Engine, load: Load, mask: int) -> tuple[Contact, ...]:
    """Contacts of a way in the order in which the current meets them."""
    left = [c for bit, c in enumerate(e.contacts) if mask >> bit & 1]
    found: list[Contact] = []
    at = set(e.live)
    a, b = (e.node[t] for t in load.terminals)
    while left:
        following = next((c for c in left if {e.node[t] for t in c.terminals} & at), None)
        if following is None:
            if not at & {a, b}:
                break
            at = {a, b}  # through the coil
            following = next((c for c in left if {e.node[t] for t in c.terminals} & at), None)
            if following is None:
                break
        left.remove(following)
        found.append(following)
        at = {e.node[t] for t in following.terminals} - at or {e.node[t] for t in following.terminals}
    return (*found, *left)


def _power(circuit: Circuit) -> Iterator[StagePlan]:
    terminals = {t for w in circuit.wires if w.side == "power" for t in (w.a, w.b)}
    out = frozenset(t for t in terminals if circuit.devices[t.partition(":")[0]].kind == "motor")
    yield StagePlan(
        "power",
        "Power circuit up to the strip",
        "Tested without the motor: nothing can turn the wrong way.",
        frozenset(terminals - out),
    )
    if circuit.connection.out:
        yield StagePlan(
            "links", "Links of the motor out", "The contactors join the ends: a link left in shorts the supply through the first contactor.", frozenset(),
        )  # fmt: skip
    if circuit.connection.asks:
        yield StagePlan("ask", "Connection of the motor", circuit.connection.asks, frozenset())
        return
    yield StagePlan("motor", "Motor", "Last, when everything before it has been seen to work.", out)
