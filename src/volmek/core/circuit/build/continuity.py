"""Readings with everything dead: which terminals are joined, through contacts alone or through a coil, for contacts held by hand."""

from collections import defaultdict
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from itertools import combinations

from volmek.core.circuit.build.stages import StagePlan
from volmek.core.circuit.kernel.engine import Engine
from volmek.core.circuit.model.behaviour import IN, PRESSED
from volmek.core.circuit.model.netlist import Circuit, Contact, makes_at_rest

READINGS = {"closed": "closed, near 0 Ω", "coil": "a coil or winding, not 0 Ω", "open": "open, no continuity"}
#: Devices whose contacts a hand can move while everything is dead.
BY_HAND = ("contactor", "relay", "button", "emergency_stop", "selector", "overload", "field", "breaker")


@dataclass(frozen=True, slots=True)
class Check:
    """One reading between two terminals.

    Attributes
    ----------
    a, b : where the tips go
    held : what is held meanwhile, in words; empty where nothing is touched
    reads : ``closed``, ``coil`` or ``open``
    operations : the same for the simulation
    """

    a: str
    b: str
    held: str
    reads: str
    operations: tuple[str, ...] = ()


class Dead:
    """A circuit without voltage, everything at rest, its breakers open."""

    def __init__(self, circuit: Circuit, stuck: frozenset[str] = frozenset()) -> None:
        self.c = circuit
        self.e = Engine(circuit, stuck)
        self.stuck = stuck
        self.node = circuit.node_of
        # Unpowered a monitor rests; the main breaker is locked off.
        self.rest = {
            n: 0 if k in ("monitor", "breaker") else p
            for n, k, p in zip(self.e.names, self.e.kinds, self.e.at_rest(), strict=True)
        }

    def positions(self, operations: tuple[str, ...]) -> dict[str, int]:
        """Positions with some devices held by hand."""
        at = dict(self.rest)
        for o in operations:
            verb, name, *rest = o.split()
            device = self.c.devices[name]
            at[name] = (
                {"press": PRESSED, "push": IN, "trip": 1, "act": 1, "close": 1}.get(verb, 0)
                if verb != "turn"
                else device.positions.index(rest[0])
            )
        return at

    def closed(self, c: Contact, at: Mapping[str, int]) -> bool:
        """A contact is closed while devices are held in positions."""
        return at[c.device] in c.closed_in or c.name in self.stuck or (c.device in self.stuck and IN in c.closed_in)

    def joined(self, operations: tuple[str, ...], *, through: bool = False) -> dict[int, int]:
        """Root of each node, contacts joined, loads and windings too where asked."""
        at = self.positions(operations)
        near: dict[int, list[int]] = defaultdict(list)

        def join(a: str, b: str) -> None:
            x, y = self.node[a], self.node[b]
            near[x].append(y)
            near[y].append(x)

        for c in self.c.contacts:
            if self.closed(c, at):
                join(*c.terminals)
        if through:
            for x in self.c.loads:
                join(*x.terminals)
            for w in self.c.windings:
                join(w.a, w.b)
        root: dict[int, int] = {}
        for start in set(self.node.values()):
            queue = [start]
            while queue:
                n = queue.pop()
                if n not in root:
                    root[n] = start
                    queue += near[n]
        return root

    def reads(self, a: str, b: str, operations: tuple[str, ...] = ()) -> str:
        """Continuity reading between two terminals.

        Examples
        --------
        >>> from volmek.core.circuit.schemes import circuit_of
        >>> from volmek.core.document.model import parse
        >>> d = Dead(circuit_of(parse({"tag": "A"})))
        >>> d.reads("F3:2", "K1:A1"), d.reads("F3:2", "K1:A1", ("press S2",)), d.reads("K1:A1", "K1:A2")
        ('open', 'closed', 'coil')
        """
        if a not in self.node or b not in self.node:
            return "open"
        for name, through in (("closed", False), ("coil", True)):
            root = self.joined(operations, through=through)
            if root[self.node[a]] == root[self.node[b]]:
                return name
        return "open"

    def check(self, a: str, b: str, *operations: str) -> Check:
        """A reading as it must be."""
        return Check(a, b, held(operations), self.reads(a, b, operations), operations)


def held(operations: tuple[str, ...]) -> str:
    """Contacts held during the reading, in words.

    Examples
    --------
    >>> held(("press S2", "push K1")), held(())
    ('S2 held pressed, K1 pushed in by hand', 'nothing touched')
    """
    words = {
        "press": "{} held pressed",
        "push": "{} pushed in by hand",
        "trip": "{} tripped",
        "act": "{} operated",
        "close": "{} closed",
    }
    said = [
        f"{o.split()[1]} at {o.split()[2]}" if o.startswith("turn") else words[o.split()[0]].format(o.split()[1])
        for o in operations
    ]
    return ", ".join(said) or "nothing touched"


def dead_checks(d: Dead, s: StagePlan) -> Iterator[Check]:
    """The readings at the end of a stage, before any voltage.

    Parameters
    ----------
    d : the part wired up to the stage
    s : the stage
    """
    if s.kind == "supply":
        if "0" in d.c.sources and d.c.loads:
            yield d.check(d.c.sources["L"], d.c.sources["0"])
        return
    if s.load is not None:
        yield from _load(d, s)
    elif s.kind in ("lamps", "heater", "rest"):
        yield from _contacts(d, s)
    elif s.kind == "power":
        yield from _power(d)
    elif s.kind == "links":
        yield from _links(d)
    elif s.kind == "ask":
        return
    else:
        yield from _motor(d)


def _by_hand(d: Dead, c: Contact) -> str:
    """Operation that moves a contact by hand from rest; empty where there is none."""
    device = d.c.devices[c.device]
    if device.kind not in BY_HAND or (c.side == "power" and device.kind == "breaker"):
        return ""
    verb = {
        "contactor": "push",
        "relay": "push",
        "button": "press",
        "emergency_stop": "press",
        "overload": "trip",
        "field": "act",
        "breaker": "close",
    }
    if device.kind == "selector":
        wanted = min((p for p in range(len(device.positions)) if (p in c.closed_in) != (0 in c.closed_in)), default=0)
        return f"turn {c.device} {device.positions[wanted]}"
    return f"{verb[device.kind]} {c.device}"


def _load(d: Dead, s: StagePlan) -> Iterator[Check]:
    """The way to a coil: as it rests, with its make contacts held, and with each break contact opened in turn."""
    assert s.load is not None
    at = d.c.sources["L"] if s.path and s.path[0].terminals[0] in d.node else s.load.terminals[0]
    a_end, b_end = s.load.terminals
    run: list[Contact] = []
    for c in s.path:
        if d.node.get(c.terminals[0]) == d.node.get(b_end) or d.node.get(c.terminals[1]) == d.node.get(b_end):
            break  # what follows lies behind the coil
        moved = _by_hand(d, c)
        if makes_at_rest(c) and not moved:
            at, run = c.terminals[1], []  # a contact that no hand moves: the reading begins behind it
            continue
        run.append(c)
    if s.kind == "hold":
        for c in s.adds:
            if moved := _by_hand(d, c):
                yield d.check(*c.terminals)
                yield d.check(*c.terminals, moved)
        return
    makes = tuple(dict.fromkeys(_by_hand(d, c) for c in run if makes_at_rest(c)))
    yield d.check(at, a_end)
    if makes:
        yield d.check(at, a_end, *makes)
    for c in run:
        moved = _by_hand(d, c)
        if not makes_at_rest(c) and moved and moved not in makes:
            yield d.check(at, a_end, *makes, moved)
    yield d.check(b_end, d.c.sources["0"])
    yield d.check(a_end, b_end)


def _contacts(d: Dead, s: StagePlan) -> Iterator[Check]:
    """Each contact of a lamp or signal as it rests and as it is moved."""
    mine = s.adds or tuple(
        c for c in d.c.contacts if c.side == "control" and all(x in s.terminals for x in c.terminals)
    )
    for c in mine:
        if moved := _by_hand(d, c):
            yield d.check(*c.terminals)
            yield d.check(*c.terminals, moved)


def _ends(d: Dead) -> tuple[list[str], list[str]]:
    """Terminals at the load side of the main breaker, and those where the conductors leave, the poles of the relays among them."""
    wires = [w for w in d.c.wires if w.side == "power"]
    lines: list[str] = [
        t
        for t in (f"{d.c.named('main_breaker')}:{n}" for n in (2, 4, 6))
        if t in d.node and any(t in (w.a, w.b) for w in wires)
    ]
    strips = [t for w in wires for t in (w.a, w.b) if d.c.on_strip(t)]
    poles = [c.terminals[0] for c in d.c.contacts if c.side == "power" and d.c.devices[c.device].kind == "overload"]
    return lines, list(dict.fromkeys([*poles, *strips]))


def _power(d: Dead) -> Iterator[Check]:
    """For each contactor pushed in alone: which ends are joined, and that no two lines are."""
    lines, outs = _ends(d)
    yield from (d.check(a, b) for a, b in combinations(lines, 2))
    for k in d.c.power_contactors or ("",):
        operations = (f"push {k}",) if k else ()
        root, rest = d.joined(operations), d.joined(())
        yield from (d.check(a, b, *operations) for a, b in combinations(lines, 2) if k)
        groups: dict[int, list[str]] = defaultdict(list)
        for t in (*lines, *outs):
            groups[root[d.node[t]]].append(t)
        for group in groups.values():
            for t in group[1:]:
                if rest[d.node[group[0]]] != rest[d.node[t]] or not k:
                    yield d.check(group[0], t, *operations)
    for a, b in d.c.forbidden:
        yield from _interlock(d, a, b)


def _interlock(d: Dead, a: str, b: str) -> Iterator[Check]:
    """The break contacts that keep two contactors apart: each opens as the other is pushed in."""
    for k in (a, b):
        for c in d.c.contacts:
            if (
                c.device == k
                and c.side == "control"
                and not makes_at_rest(c)
                and all(d.c.number_of.get(t) for t in c.terminals)
            ):
                yield d.check(*c.terminals, f"push {k}")


def _links(d: Dead) -> Iterator[Check]:
    """The ends of the windings are not joined: neither by delta links nor by a star."""
    ends = [t for t in (f"{d.c.motor}:{x}" for x in ("U1", "V1", "W1", "U2", "V2", "W2")) if t in d.node]
    for a, b in combinations(ends, 2):
        if a[-2] != b[-2]:
            yield d.check(a, b)


def _motor(d: Dead) -> Iterator[Check]:
    """The windings as they are met at the strip."""
    _, outs = _ends(d)
    strips = [t for t in outs if d.c.on_strip(t)]
    for a, b in combinations(strips, 2):
        if d.reads(a, b) != "open":
            yield d.check(a, b)
