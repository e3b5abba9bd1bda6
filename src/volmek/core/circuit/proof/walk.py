"""Reachable states of a control circuit: inputs at any time, contactors and relays in any order."""

from collections import deque
from collections.abc import Iterator
from dataclasses import dataclass, field

from volmek.core.circuit.kernel.engine import Engine
from volmek.core.circuit.model.behaviour import HALF, IN, OUT, PRESSED, REST, TIMING
from volmek.core.circuit.model.netlist import Load

#: States after which a walk gives up.
MOST_STATES = 400_000


@dataclass(slots=True)
class Input:
    """An input that can change at any time.

    Attributes
    ----------
    names : devices that it stands for: those in one chain have the same effect on every coil
    index : of its device, None for a chain
    bits : contacts of a chain
    values : values it may have, in the order in which they follow each other
    """

    names: tuple[str, ...]
    index: int | None
    bits: int
    values: tuple[int, ...]
    rest: int


State = tuple[tuple[int, ...], tuple[int, ...]]


@dataclass
class Explored:
    """All states, how each was first reached, and those that rest."""

    engine: Engine
    inputs: list[Input]
    moving: list[int]
    came: dict[State, tuple[State, str] | None] = field(default_factory=dict)

    def story(self, state: State) -> list[str]:
        """Shortest operations to a state."""
        found: list[str] = []
        at: State | None = state
        while at is not None:
            before = self.came[at]
            if before is None:
                break
            at, words = before
            if words:
                found.append(words)
        return found[::-1]


def _inputs(e: Engine) -> list[Input]:
    """Inputs of the circuit that any coil depends on; contacts of one chain are one input."""
    ways: list[frozenset[int]] = []
    paths = [p for load in e.loads for p in e.paths[load]] + e.short_paths
    members: dict[int, list[int]] = {}
    for bit, contact in enumerate(e.contacts):
        uses = frozenset(k for k, p in enumerate(paths) if p >> bit & 1)
        ways.append(uses)
        if uses and contact.side == "control":
            members.setdefault(e.index[contact.device], []).append(bit)
    chains: dict[frozenset[int], list[tuple[str, int]]] = {}
    found: list[Input] = []
    rest = e.at_rest()
    for i, bits in members.items():
        kind, name = e.kinds[i], e.names[i]
        if e.behaviours[i].coil:
            continue
        contact = e.contacts[bits[0]]
        if len(bits) == 1 and rest[i] in contact.closed_in and e.behaviours[i].chained and not (kind == "monitor" and e.circuit.monitor_behind):  # fmt: skip
            chains.setdefault(ways[bits[0]], []).append((name, bits[0]))
            continue
        values = e.behaviours[i].values(e.circuit.devices[name], len(bits))
        found.append(Input((name,), i, 0, values, rest[i]))
    found = _side_by_side(e, found, paths)
    whole = frozenset(range(len(paths)))
    for uses, chain in chains.items():
        names = tuple(name for name, _ in chain)
        chained = sum(1 << bit for _, bit in chain)
        found.append(Input((*names, "supply") if uses == whole else names, None, chained, (1, 0), 1))
    if not any("supply" in x.names for x in found):
        found.append(Input(("supply",), None, 0, (1, 0), 1))
    return found


def _side_by_side(e: Engine, inputs: list[Input], paths: list[int]) -> list[Input]:
    """Of make contacts in parallel, each with the same ways beside it, one stands for all: any of them closed is the same."""
    kept: dict[tuple[int, ...], Input] = {}
    found = []
    for x in inputs:
        mine = [b for b, c in enumerate(e.contacts) if e.index[c.device] == x.index and any(p >> b & 1 for p in paths)]
        if x.values != (REST, PRESSED) or len(mine) != 1:
            found.append(x)
            continue
        beside = tuple(sorted(p & ~(1 << mine[0]) for p in paths if p >> mine[0] & 1))
        if beside in kept:
            kept[beside].names = (*kept[beside].names, *x.names)
        else:
            kept[beside] = x
            found.append(x)
    return found


def _cone(e: Engine, *, lamps: bool) -> list[Load]:
    """Loads on which a contactor of the power circuit, or a lamp, may depend; the others are only watched."""
    needed = set(e.circuit.power_contactors) | ({x.device for x in e.shown} if lamps else set())
    bits = {bit: c.device for bit, c in enumerate(e.contacts)}
    while True:
        paths = [p for x, ways in e.paths.items() if x.device in needed for p in ways]
        more = {bits[b] for p in paths for b in bits if p >> b & 1} | needed
        if more == needed:
            return [x for x in e.loads if x.device in needed]
        needed = more


class Walk:
    """A walk through every state of an engine; without its lamps where only the contactors are asked about."""

    def __init__(self, engine: Engine, *, lamps: bool = True) -> None:
        self.e = engine
        self.inputs = _inputs(engine)
        self.loads = _cone(engine, lamps=lamps)
        self.moving = list(dict.fromkeys(engine.index[x.device] for x in self.loads))
        self.place = {i: k for k, i in enumerate(self.moving)}
        self.supply = next(k for k, x in enumerate(self.inputs) if "supply" in x.names)
        self.only_supply = self.inputs[self.supply].names == ("supply",)
        self.coils = [k for k in engine.circuit.power_contactors if any(x.device == k for x in engine.loads)]
        # Devices whose position no coil depends on stay at rest here: their contacts are closed or open for good.
        used = {x.index for x in self.inputs if x.index is not None} | set(self.moving)
        grouped = {engine.index[n] for x in self.inputs if x.index is None for n in x.names if n in engine.index}
        rest = engine.at_rest()
        self.fixed = engine.always
        for i, position in enumerate(rest):
            if i not in used and i not in grouped:
                self.fixed |= engine.masks[i].get(position, 0)
        for i in grouped:
            chained = sum(x.bits for x in self.inputs)
            self.fixed |= engine.masks[i].get(rest[i], 0) & ~chained
        self.behind = engine.index.get(engine.circuit.monitor) if engine.circuit.monitor_behind else None
        self._coils_at = [
            (x, self.place[i], self.place.get(engine.locked.get(i, -1)))
            for x in self.loads
            for i in [engine.index[x.device]]
        ]
        self._steps: dict[tuple[int, int, bool, bool], tuple[int | None, str]] = {}
        # A button is pressed and let go by way of its half: its neighbours follow, of the others any other value.
        self._values = [
            {
                now: [v for v in x.values if v != now and (x.values != (REST, HALF, PRESSED) or abs(v - now) == 1)]
                for now in x.values
            }
            for x in self.inputs
        ]
        self.explored = Explored(engine, self.inputs, self.moving)
        self._run()

    def mask(self, state: State) -> int:
        """Closed contacts in a state."""
        mask, e = self.fixed, self.e
        for i, position in zip(self.moving, state[0], strict=True):
            mask |= e.masks[i].get(position, 0)
        for x, value in zip(self.inputs, state[1], strict=True):
            if x.index is None:
                mask |= x.bits if value else 0
            else:
                mask |= e.masks[x.index].get(value, 0)
        return mask

    def supplied(self, state: State) -> bool:
        """The control circuit has its voltage."""
        return not self.only_supply or state[1][self.supply] == 1

    def live(self, state: State) -> frozenset[str]:
        """Live coils in a state."""
        if not self.supplied(state):
            return frozenset()
        place, e = self.place, self.e
        return e.acting(self.mask(state), lambda x: state[0][place[e.index[x]]] if e.index[x] in place else OUT)

    def moves(self, state: State, live: frozenset[str]) -> Iterator[tuple[State, str]]:
        """Devices that move by themselves."""
        positions, outside = state
        for load, k, lock in self._coils_at:
            now = positions[k]
            locked = lock is not None and positions[lock] != OUT
            step = (k, now, load.device in live, locked)
            if step not in self._steps:
                self._steps[step] = self._step(load, *step)
            following, words = self._steps[step]
            if following is not None:
                yield ((*positions[:k], following, *positions[k + 1 :]), outside), words

    def _step(self, load: Load, k: int, now: int, live: bool, locked: bool) -> tuple[int | None, str]:
        """Position that follows, and what an operator waits for meanwhile; the same in every state with these four."""
        e = self.e
        following = e.follows(e.index[load.device], now, live, _Locked(locked))
        device = e.circuit.devices[load.device]
        runs_out = device.kind in ("timer", "star_delta_timer") and now == TIMING and (following or 0) > now
        return following, f"wait {device.time_s + 0.5:g}" if runs_out else ""

    def turns(self, state: State) -> Iterator[tuple[State, int, int]]:
        """Operations from outside: the state that follows, the input that moves and its new value."""
        positions, outside = state
        for k, x in enumerate(self.inputs):
            for value in self._values[k][outside[k]]:
                behind = value == 1 and x.index is not None and x.index == self.behind
                if behind and not any(positions[self.place[self.e.index[f]]] == IN for f in self.e.circuit.feeders):
                    continue
                yield (positions, (*outside[:k], value, *outside[k + 1 :])), k, value

    def words_of(self, x: Input, before: int, after: int) -> str:
        """Operation that takes an input from one value to another."""
        name, e = x.names[0], self.e
        if name == "supply":
            back, away = ("restore", "lose")
            return f"{back if after else away} {e.circuit.source.lost_with[0]}"
        behaviour, device = e.behaviours[e.index[name]], e.circuit.devices[name]
        if device.kind == "monitor":
            return e.circuit.monitor_trial[1 if after else 0]
        if x.index is None:  # of a chain 1 stands for closed, 0 for one of its members opened
            opened = next(v for v in behaviour.values(device, 1) if v != behaviour.rest)
            before, after = (behaviour.rest if v else opened for v in (before, after))
        return behaviour.operation(device, before, after)

    def _run(self) -> None:
        rest = self.e.at_rest()
        start: State = (tuple(rest[i] for i in self.moving), tuple(x.rest for x in self.inputs))
        came = self.explored.came
        came[start] = None
        queue = deque([start])
        self.resting: list[State] = []
        self.recoveries: list[tuple[State, State, str]] = []
        self.states_live: dict[State, frozenset[str]] = {}
        while queue and len(came) < MOST_STATES:
            state = queue.popleft()
            live = self.live(state)
            self.states_live[state] = live
            rested = True
            for following, words in self.moves(state, live):
                rested = False
                if following not in came:
                    came[following] = (state, words)
                    queue.append(following)
            if rested:
                self.resting.append(state)
            for following, k, value in self.turns(state):
                recovers = rested and value == 1 and self.inputs[k].index is None
                if following in came and not recovers:
                    continue
                words = self.words_of(self.inputs[k], state[1][k], value)
                if following not in came:
                    came[following] = (state, words)
                    queue.append(following)
                if recovers:
                    self.recoveries.append((state, following, words))
        self.complete = not queue

    def starts_released(self, state: State) -> bool:
        """No start button is touched."""
        return all(
            value == REST for x, value in zip(self.inputs, state[1], strict=True) if x.names[0] in self.e.circuit.starts
        )

    def out(self, state: State) -> bool:
        """No contactor of the power circuit is in."""
        return all(state[0][self.place[self.e.index[k]]] in (OUT, 4) for k in self.coils)

    def value(self, state: State, name: str) -> int | None:
        """Value of the input that a device belongs to."""
        for x, value in zip(self.inputs, state[1], strict=True):
            if name in x.names:
                return value
        return None

    def positions(self, state: State) -> dict[str, int]:
        """Positions of the moving devices by name."""
        return {self.e.names[i]: p for i, p in zip(self.moving, state[0], strict=True)}


class _Locked:
    """Stands for the positions that the engine asks about a lever: the other contactor is out, or not."""

    def __init__(self, locked: bool) -> None:
        self.locked = locked

    def __getitem__(self, i: int) -> int:
        return IN if self.locked else OUT
