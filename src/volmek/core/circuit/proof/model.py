"""A circuit as conditions over bits: which contacts are closed, which coils are live, what may move."""

from collections import deque
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from functools import cached_property

from volmek.core.circuit.kernel.engine import Engine
from volmek.core.circuit.model.behaviour import GOING_IN, GOING_OUT, HALF, HELD, IN, OUT, PRESSED, REST, TIMING
from volmek.core.circuit.model.netlist import Load
from volmek.core.circuit.proof.diagrams import ALL, NONE, Diagrams

#: Stands for the control supply among the indices of the devices.
SUPPLY = -1


@dataclass(frozen=True, slots=True)
class Variable:
    """What can change, with its positions, each a pattern of bits in which neighbours differ by one.

    Attributes
    ----------
    index : of the device; ``SUPPLY`` for the control supply
    positions : those that it can take, the one at rest first
    levels : its bits
    """

    index: int
    positions: tuple[int, ...]
    levels: tuple[int, ...]

    def bits(self, position: int) -> dict[int, int]:
        """Its bits in a position."""
        k = self.positions.index(position)
        gray = k ^ (k >> 1)
        return {level: gray >> n & 1 for n, level in enumerate(self.levels)}


@dataclass(frozen=True, slots=True)
class Move:
    """One step of one variable.

    Attributes
    ----------
    variable, before, after : what goes from where to where
    guard : states in which it may
    own : by itself, not by an operator
    words : wait that belongs to it; of an input the operation is told when the story is
    """

    variable: Variable
    before: int
    after: int
    guard: int
    own: bool
    words: str = ""


class Model:
    """Conditions of an engine.

    Parameters
    ----------
    engine : of a circuit, damaged or not
    limit_s : time after which any question raises ``CutShort`` [s]

    References
    ----------
    Contactors and relays move in any order and at any time: the delay-insensitive model of asynchronous circuits.
    """

    def __init__(self, engine: Engine, limit_s: float | None = None) -> None:
        self.e = engine
        self.d = Diagrams(limit_s)
        self.rest = engine.at_rest()
        self.variables: dict[int, Variable] = {}
        #: Make contacts of an armature that a welded pole holds: nobody can tell how they stand.
        self.undefined: dict[int, int] = {}
        self.levels = 0
        self._lay_out()
        self.closed = [self._condition(c.device, c.closed_in, c.name) for c in engine.contacts]
        self.supplied = self.at(SUPPLY, 1)
        self._joined_live, self._joined_back = self.joined(engine.live), self.joined(engine.back)
        self.short = self.d.any_of(self._joined_live.get(n, NONE) for n in engine.back)
        self.alive = self.d.without(self.supplied, self.short)
        self.acting = {x.device: NONE for x in engine.loads}
        for x in engine.loads:
            self.acting[x.device] = self.d.either(self.acting[x.device], self._acts(x))
        self.own_moves = self._own()
        self.inputs = self._operations()

    # Variables

    def _lay_out(self) -> None:
        e, c = self.e, self.e.circuit
        guards = {*c.stops, *c.starts, *c.overloads, *c.of_kind("emergency_stop", "monitor")}
        contacts = [x.device for x in e.contacts if x.side == "control"]
        coils = [e.index[x.device] for x in e.loads]
        for i, name in enumerate(e.names):
            if not e.behaviours[i].coil and (name in contacts or name in guards):
                values = e.behaviours[i].values(c.devices[name], contacts.count(name))
                rest = self.rest[i]
                if len(values) > 1:
                    self._add(i, values if values[0] == rest else (rest, *(v for v in values if v != rest)))
        self._add(SUPPLY, (1, 0))
        for name in sorted(e.held):
            self.undefined[e.index[name]] = self.d.bit(self.levels)
            self.levels += 1
        for i in dict.fromkeys(coils):
            self._add(i, self._positions(i))

    def _add(self, index: int, positions: tuple[int, ...]) -> None:
        if len(positions) < 2:
            return
        width = (len(positions) - 1).bit_length()
        self.variables[index] = Variable(index, positions, tuple(range(self.levels, self.levels + width)))
        self.levels += width

    def _positions(self, i: int) -> tuple[int, ...]:
        """Positions that a device with a coil comes into, in the order in which they follow each other."""
        found = [self.rest[i]]
        for at in found:
            for live in (True, False):
                following = self._follows(i, at, live=live, locked=False)
                if following is not None and following not in found:
                    found.append(following)
        return tuple(found)

    def _follows(self, i: int, at: int, *, live: bool, locked: bool) -> int | None:
        return self.e.follows(i, at, live, _Locked(locked))

    def at(self, index: int, position: int) -> int:
        """States in which a device is in a position."""
        v = self.variables.get(index)
        if v is None:
            return ALL if index != SUPPLY and self.rest[index] == position else NONE
        return self.d.cube(v.bits(position)) if position in v.positions else NONE

    def position(self, name: str, *positions: int) -> int:
        """States in which a device is in one of some positions, by its designation."""
        return self.d.any_of(self.at(self.e.index[name], p) for p in positions)

    @cached_property
    def valid(self) -> int:
        """Patterns of bits that stand for a state: those of three positions in two bits leave one out."""
        return self.d.all_of(self.d.any_of(self.at(i, p) for p in v.positions) for i, v in self.variables.items())

    @cached_property
    def initial(self) -> int:
        """Under voltage, nothing operated; make contacts of an armature that is held stand either way."""
        return self.d.all_of(self.at(i, v.positions[0]) for i, v in self.variables.items())

    # Contacts and loads

    def _condition(self, device: str, closed_in: Iterable[int], name: str) -> int:
        if name in self.e.stuck_poles:
            return ALL
        i, closed = self.e.index[device], set(closed_in)
        found = self.d.any_of(self.at(i, p) for p in closed)
        if i in self.undefined and IN in closed and HELD not in closed:
            between = self.d.any_of(self.at(i, p) for p in (HELD, GOING_IN, GOING_OUT))
            found = self.d.either(found, self.d.both(between, self.undefined[i]))
        return found

    def joined(self, starts: set[int], *, cut: frozenset[str] = frozenset()) -> dict[int, int]:
        """For each node the states in which contacts join it to one of some others.

        Parameters
        ----------
        cut : devices whose contacts in the control circuit are taken as open, but for those that are stuck
        """
        d, e = self.d, self.e
        found = dict.fromkeys(starts, ALL)
        queue = deque(starts)
        while queue:
            node = queue.popleft()
            for following, bit in e.edges.get(node, ()):
                contact = e.contacts[bit]
                if contact.device in cut and contact.side == "control" and contact.name not in e.stuck_poles:
                    continue
                before = found.get(following, NONE)
                now = d.either(before, d.both(found[node], self.closed[bit]))
                if now != before:
                    found[following] = now
                    if following not in queue:
                        queue.append(following)
        return found

    def between(self, load: Load, one: Mapping[int, int], other: Mapping[int, int]) -> int:
        """States in which a load lies between two sides."""
        a, b = (self.e.node[t] for t in load.terminals)
        d = self.d
        return d.either(d.both(one.get(a, NONE), other.get(b, NONE)), d.both(one.get(b, NONE), other.get(a, NONE)))

    def _acts(self, load: Load) -> int:
        """It pulls in or holds: live, or by the share that an earth fault leaves it."""
        d, e = self.d, self.e
        found = d.both(self.alive, self.between(load, self._joined_live, self._joined_back))
        if e.earth:
            earth = self.joined(e.earth)
            rails = {n: d.either(self._joined_live.get(n, NONE), self._joined_back.get(n, NONE)) for n in {*self._joined_live, *self._joined_back}}  # fmt: skip
            share = d.both(self.alive, self.between(load, earth, rails))
            if not e.earth_pulls_in:
                share = d.both(share, self.position(load.device, IN, GOING_IN))
            found = d.either(found, share)
        return found

    @cached_property
    def lit(self) -> dict[str, int]:
        """States in which each lamp, buzzer and heater is on."""
        e, d = self.e, self.d
        away = [self.joined({e.node[e.circuit.sources[s]]}) if e.foreign else {} for s in ("LF5", "NF5")]
        found: dict[str, int] = {}
        for x in e.shown:
            one, other = away if x in e.foreign else (self._joined_live, self._joined_back)
            found[x.device] = d.either(found.get(x.device, NONE), d.both(self.alive, self.between(x, one, other)))
        return found

    def live_without(self, cut: frozenset[str]) -> dict[str, int]:
        """States in which each coil stays live with the contacts of some devices open."""
        one, other = self.joined(self.e.live, cut=cut), self.joined(self.e.back, cut=cut)
        found: dict[str, int] = {}
        for x in self.e.loads:
            found[x.device] = self.d.either(
                found.get(x.device, NONE), self.d.both(self.alive, self.between(x, one, other))
            )
        return found

    def at_live(self, terminals: Iterable[str]) -> int:
        """States in which the live side of the control supply reaches one of some terminals."""
        nodes = {self.e.node[t] for t in terminals if t in self.e.node}
        return self.d.both(self.supplied, self.d.any_of(self._joined_live.get(n, NONE) for n in nodes))

    # Moves

    def _own(self) -> list[Move]:
        found = []
        for i in dict.fromkeys(self.e.index[x.device] for x in self.e.loads):
            v = self.variables.get(i)
            if v is None:
                continue
            live = self.acting[self.e.names[i]]
            other = self.e.locked.get(i)
            locked = NONE if other is None else self.d.without(self.valid, self.at(other, OUT))
            for before in v.positions:
                guards: dict[int, int] = {}
                for is_live, when in ((True, live), (False, self.d.other(live))):
                    for is_locked, where in ((True, locked), (False, self.d.other(locked))):
                        after = self._follows(i, before, live=is_live, locked=is_locked)
                        if after is not None:
                            guards[after] = self.d.either(guards.get(after, NONE), self.d.both(when, where))
                for after, guard in guards.items():
                    if guard:
                        found.append(Move(v, before, after, guard, own=True, words=self._wait(i, before, after)))
        return found

    def _wait(self, i: int, before: int, after: int) -> str:
        """What an operator waits for while a timer runs out."""
        device = self.e.circuit.devices[self.e.names[i]]
        runs_out = device.kind in ("timer", "star_delta_timer") and before == TIMING and after > before
        return f"wait {device.time_s + 0.5:g}" if runs_out else ""

    def _operations(self) -> list[Move]:
        found = []
        c = self.e.circuit
        behind = self.e.index.get(c.monitor) if c.monitor_behind else None
        for i, v in self.variables.items():
            if i != SUPPLY and self.e.behaviours[i].coil:
                continue
            by_half = set(v.positions) == {REST, HALF, PRESSED} and c.devices[self.e.names[i]].kind != "selector"
            for before in v.positions:
                for after in v.positions:
                    if before == after or (by_half and abs(before - after) > 1):
                        continue
                    # Behind the contactor a monitor sees phases only while one is in.
                    guard = self.d.any_of(self.position(f, IN) for f in c.feeders) if i == behind and after else ALL
                    found.append(Move(v, before, after, guard, own=False))
        # Of two stories of the same length the one with the start buttons is told: an operator does that by mistake.
        return sorted(found, key=lambda m: m.variable.index == SUPPLY or self.e.names[m.variable.index] not in c.starts)

    @cached_property
    def possible(self) -> dict[int, int]:
        """States in which each device moves by itself."""
        found: dict[int, int] = {}
        for m in self.own_moves:
            i = m.variable.index
            found[i] = self.d.either(found.get(i, NONE), self.d.both(self.at(i, m.before), m.guard))
        return found

    @cached_property
    def resting(self) -> int:
        """States in which nothing moves by itself, no timer runs either."""
        return self.d.without(self.valid, self.d.any_of(self.possible.values()))

    @cached_property
    def patient(self) -> tuple[list[Move], list[Move]]:
        """Moves by itself, and operations, as they follow each other when nobody is as quick as a contactor.

        Timers move when no contactor or relay does; an operator waits until only running timers are left.
        """
        d = self.d
        timers = {i for i in self.possible if self.e.kinds[i] in ("timer", "star_delta_timer")}
        still = d.other(d.any_of(when for i, when in self.possible.items() if i not in timers))
        resets = d.any_of(d.both(self.at(m.variable.index, m.before), m.guard) for m in self.own_moves if m.variable.index in timers and m.after == m.variable.positions[0])  # fmt: skip
        own = [replace(m, guard=d.both(m.guard, still)) if m.variable.index in timers else m for m in self.own_moves]
        return own, [replace(m, guard=d.without(d.both(m.guard, still), resets)) for m in self.inputs]


class _Locked:
    """Stands for the positions that the engine asks about a lever: the other contactor is out, or not."""

    def __init__(self, locked: bool) -> None:
        self.locked = locked

    def __getitem__(self, i: int) -> int:
        return IN if self.locked else OUT
