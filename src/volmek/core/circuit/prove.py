"""Proofs: every state that a control circuit can come into, over all inputs and all orders of pull-in and drop-out."""

from collections import deque
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field

from volmek.core.circuit.engine import Engine, Positions
from volmek.core.circuit.netlist import HALF, IN, LIVE, OUT, PRESSED, REST, RETURN, TIMING, Circuit, Load
from volmek.core.circuit.power import PowerNet

#: States after which a proof gives up.
MOST_STATES = 400_000
RULES = {
    "no_power_short": "No two lines, and no transformer winding, are ever joined, with parting poles counted as closed.",
    "forbidden_pairs_exclusive": "Contactors that must not be in together never have both coils live.",
    "stop_drops_all": "Stop takes every contactor of the power circuit out, start held or not.",
    "emergency_stop_drops_all": "Emergency stop takes every contactor of the power circuit out.",
    "overload_drops_all": "A tripped overload takes every contactor of the power circuit out.",
    "phase_monitor_drops_all": "A monitor that has dropped out takes every contactor of the power circuit out.",
    "no_self_start": "Nothing starts by itself when the supply, the monitor, the overload or the emergency stop comes back.",
    "every_coil_reachable": "Every coil can be live.",
    "lamps_truthful": "Every lamp tells the truth.",
    "jog_drops_out": "Letting go of jog takes the contactor out, however quickly it is let go.",
    "no_backfeed": "While no contactor is in, no terminal of the motor is live.",
    "earth_fault_tolerant": "No single earth fault starts the motor or defeats a stop or a trip.",
}


@dataclass(frozen=True, slots=True)
class Proof:
    """One rule.

    Attributes
    ----------
    rule, words : which, and in a fitter's words
    holds : over every state
    shortest : operations that break it, None where it holds
    why : what happens then
    """

    rule: str
    words: str
    holds: bool
    shortest: list[str] | None = None
    why: str = ""


@dataclass(slots=True)
class Input:
    """Something from outside that moves at any time.

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
    """What moves from outside, as far as any coil depends on it; contacts of one chain are one input."""
    ways: list[frozenset[int]] = []
    paths = [p for load in e.loads for p in e.paths[load]] + e.short_paths
    members: dict[int, list[int]] = {}
    for bit, contact in enumerate(e.contacts):
        uses = frozenset(k for k, p in enumerate(paths) if p >> bit & 1)
        ways.append(uses)
        if uses and contact.circle == "control":
            members.setdefault(e.index[contact.device], []).append(bit)
    chains: dict[frozenset[int], list[tuple[str, int]]] = {}
    found: list[Input] = []
    rest = e.at_rest()
    for i, bits in members.items():
        kind, name = e.kinds[i], e.names[i]
        if kind in ("contactor", "relay", "timer", "star_delta_timer", "soft_starter"):
            continue
        contact = e.contacts[bits[0]]
        if len(bits) == 1 and rest[i] in contact.closed_in and kind in ("button", "emergency_stop", "overload", "monitor") and not (kind == "monitor" and e.circuit.monitor_behind):  # fmt: skip
            chains.setdefault(ways[bits[0]], []).append((name, bits[0]))
            continue
        buttons = (REST, HALF, PRESSED) if len(bits) > 1 else (REST, PRESSED)
        values = {"button": buttons, "emergency_stop": buttons, "selector": tuple(range(len(e.circuit.devices[name].positions)))}.get(kind, (0, 1))  # fmt: skip
        found.append(Input((name,), i, 0, values, rest[i]))
    whole = frozenset(range(len(paths)))
    for uses, chain in chains.items():
        names = tuple(name for name, _ in chain)
        chained = sum(1 << bit for _, bit in chain)
        found.append(Input((*names, "supply") if uses == whole else names, None, chained, (1, 0), 1))
    if not any("supply" in x.names for x in found):
        found.append(Input(("supply",), None, 0, (1, 0), 1))
    return found


def _cone(e: Engine) -> list[Load]:
    """Loads on which a contactor of the power circuit, or a lamp, may depend; the others are only watched."""
    needed = set(e.circuit.power_contactors) | {x.device for x in e.shown}
    bits = {bit: c.device for bit, c in enumerate(e.contacts)}
    while True:
        paths = [p for x, ways in e.paths.items() if x.device in needed for p in ways]
        more = {bits[b] for p in paths for b in bits if p >> b & 1} | needed
        if more == needed:
            return [x for x in e.loads if x.device in needed]
        needed = more


class Walk:
    """A walk through every state of an engine."""

    def __init__(self, engine: Engine) -> None:
        self.e = engine
        self.inputs = _inputs(engine)
        self.loads = _cone(engine)
        self.moving = list(dict.fromkeys(engine.index[x.device] for x in self.loads))
        self.place = {i: k for k, i in enumerate(self.moving)}
        self.lamp_index = {name: i for i, name in enumerate(engine.names)}
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
        self.behind = engine.index["F2"] if engine.circuit.monitor_behind and "F2" in engine.index else None
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
        return self.e.live_loads(self.mask(state)) if self.supplied(state) else frozenset()

    def moves(self, state: State, live: frozenset[str]) -> Iterator[tuple[State, str]]:
        """What moves by itself."""
        e = self.e
        positions = _Positions(self, state)
        for load in self.loads:
            i = e.index[load.device]
            k = self.place[i]
            now = state[0][k]
            following = e.follows(i, now, load.device in live, positions)  # type: ignore[arg-type]
            if following is not None:
                words = ""
                device = e.circuit.devices[load.device]
                if device.kind in ("timer", "star_delta_timer") and now == TIMING and following > now:
                    words = f"wait {device.time_s + 0.5:g}"
                yield ((*state[0][:k], following, *state[0][k + 1 :]), state[1]), words

    def turns(self, state: State) -> Iterator[tuple[State, str, int]]:
        """What may be done from outside, with the input that it moves."""
        for k, x in enumerate(self.inputs):
            now = state[1][k]
            for value in x.values:
                if value == now or (x.values == (REST, HALF, PRESSED) and abs(value - now) != 1):
                    continue
                if x.index is not None and x.index == self.behind:
                    fed = any(state[0][self.place[self.e.index[f]]] == IN for f in self.e.circuit.feeders)
                    if value == 1 and not fed:
                        continue
                yield (state[0], (*state[1][:k], value, *state[1][k + 1 :])), self._words(x, now, value), k

    def _words(self, x: Input, before: int, after: int) -> str:
        name = x.names[0]
        if name == "supply":
            return "restore L1" if after else "lose L1"
        kind = self.e.kinds[self.e.index[name]]
        if kind in ("button", "emergency_stop"):
            if x.index is None:
                return f"release {name}" if after else f"press {name}"
            return f"press {name}" if before == REST else f"release {name}" if before == PRESSED else ""
        if kind == "overload":
            return f"reset {name}" if after else f"trip {name}"
        if kind == "monitor":
            return "restore L3" if after else "lose L3"
        if kind == "selector":
            return f"turn {name} {self.e.circuit.devices[name].positions[after]}"
        return f"close {name}" if after else f"open {name}"

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
            for following, words, k in self.turns(state):
                if following not in came:
                    came[following] = (state, words)
                    queue.append(following)
                if rested and self.inputs[k].index is None and following[1][k] == 1:
                    self.recoveries.append((state, following, words))

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


class _Positions:
    """The positions of a walk's state as the engine asks for them: by index."""

    def __init__(self, walk: Walk, state: State) -> None:
        self.walk, self.state = walk, state

    def __getitem__(self, i: int) -> int:
        k = self.walk.place.get(i)
        return OUT if k is None else self.state[0][k]


def prove(circuit: Circuit, engine: Engine | None = None) -> list[Proof]:
    """Every rule that applies to a circuit, held or broken with its shortest story.

    Parameters
    ----------
    engine : of the circuit, damaged or not

    References
    ----------
    IEC 60204-1, 9.3 and 9.4; the states are walked breadth first, so that the first that breaks a rule is the nearest.
    """
    e = engine or Engine(circuit)
    if not e.loads:
        return []
    walk = Walk(e)
    found = [_power_short(walk)]
    if circuit.forbidden:
        found.append(_forbidden(walk))
    drops: list[tuple[str, Iterable[str]]] = [
        ("stop_drops_all", circuit.stops), ("emergency_stop_drops_all", circuit.of_kind("emergency_stop")),
        ("overload_drops_all", circuit.of_kind("overload")), ("phase_monitor_drops_all", circuit.of_kind("monitor")),
    ]  # fmt: skip
    for rule, devices in drops:
        there = [d for d in devices if d in e.index]
        if there and rule not in circuit.declared:
            found.append(_drops(walk, rule, there))
    if "no_self_start" not in circuit.declared:
        found.append(_self_start(walk))
    found.append(_reachable(walk))
    if "Jog" in {d.label for d in circuit.devices.values()}:
        found.append(_jog(walk))
    if circuit.common_live and any(
        t.startswith("K") and t[-2] == ":" for w in circuit.wires if w.circle == "control" for t in (w.a, w.b)
    ):
        found.append(_backfeed(walk))
    if circuit.meanings:
        found.append(_lamps(walk))
    if circuit.earthed:
        found.append(_earth_faults(circuit))
    return found


def _proof(rule: str, story: list[str] | None = None, why: str = "") -> Proof:
    return Proof(rule, RULES[rule], story is None, story, why)


def _power_short(walk: Walk) -> Proof:
    net, seen = PowerNet(walk.e.circuit), set()
    present = tuple((p, p) for p in net.sources)
    rest = list(walk.e.at_rest())
    for state in walk.states_live:
        key = tuple(state[0][walk.place[walk.e.index[k]]] for k in walk.coils)
        if key in seen:
            continue
        seen.add(key)
        positions = list(rest)
        for i, p in zip(walk.moving, state[0], strict=True):
            positions[i] = p
        shorts = net.state(walk.e.closed_poles(tuple(positions), arcing=True), present).shorts
        if shorts:
            together = [k for k, p in zip(walk.coils, key, strict=True) if p not in (OUT, 1, 4)]
            return _proof("no_power_short", walk.explored.story(state), f"{shorts[0][0]} and {shorts[0][1]} are joined through {' and '.join(together)}.")  # fmt: skip
    return _proof("no_power_short")


def needs_mechanical(circuit: Circuit) -> list[tuple[str, str]]:
    """Pairs of contactors that only a lever keeps apart, where both coils can be live at once."""
    walk = Walk(Engine(circuit))
    return [
        pair
        for pair in circuit.forbidden
        if any(pair[0] in live and pair[1] in live for live in set(walk.states_live.values()))
    ]


def _forbidden(walk: Walk) -> Proof:
    c = walk.e.circuit
    for state, live in walk.states_live.items():
        for a, b in c.forbidden:
            if a in live and b in live and (a, b) not in c.mechanical:
                return _proof(
                    "forbidden_pairs_exclusive",
                    walk.explored.story(state),
                    f"The coils of {a} and {b} are live together.",
                )
    return _proof("forbidden_pairs_exclusive")


def _drops(walk: Walk, rule: str, devices: list[str]) -> Proof:
    for name in devices:
        selector = walk.e.kinds[walk.e.index[name]] == "selector"
        known = any(name in x.names for x in walk.inputs)
        for state in walk.resting:
            value = walk.value(state, name)
            index = next((x.index for x in walk.inputs if name in x.names), None)
            active = (value == 0) if index is None or selector else value not in (walk.e.at_rest()[index],)
            held = [k for k in walk.coils if k in walk.states_live[state]]
            if held and (not known or active):
                how = {"overload": f"trip {name}", "monitor": "lose L3"}.get(
                    walk.e.kinds[walk.e.index[name]], f"press {name}"
                )
                story = walk.explored.story(state)
                return _proof(rule, story if known else [*story, how], f"{' and '.join(held)} stay in.")
    return _proof(rule)


def _self_start(walk: Walk) -> Proof:
    for before, after, words in walk.recoveries:
        if not walk.starts_released(before) or not walk.out(before):
            continue
        seen, queue = {after}, deque([after])
        while queue:
            state = queue.popleft()
            live = walk.live(state)
            started = [k for k in walk.coils if k in live]
            if started:
                return _proof(
                    "no_self_start",
                    [*walk.explored.story(before), words],
                    f"{' and '.join(started)} pull in without start.",
                )
            for following, _ in walk.moves(state, live):
                if following not in seen:
                    seen.add(following)
                    queue.append(following)
    return _proof("no_self_start")


def _jog(walk: Walk) -> Proof:
    """From rest only jog is touched: once it is let go everything must come out again."""
    start = next(iter(walk.states_live))
    came: dict[State, tuple[State, str] | None] = {start: None}
    queue = deque([start])
    while queue:
        state = queue.popleft()
        live = walk.live(state)
        moving = list(walk.moves(state, live))
        if not moving and walk.starts_released(state) and live & set(walk.coils):
            walk.explored.came = {**walk.explored.came, **came}
            return _proof(
                "jog_drops_out",
                walk.explored.story(state),
                "Jog latches when it is let go faster than the contactor drops out.",
            )
        turns = [(f, w) for f, w, k in walk.turns(state) if walk.inputs[k].names == ("S4",)]
        for following, words in [*moving, *turns]:
            if following not in came:
                came[following] = (state, words)
                queue.append(following)
    return _proof("jog_drops_out")


def _backfeed(walk: Walk) -> Proof:
    """Ways from the control's live side to the motor that no power contactor closes."""
    e = walk.e
    ends = {e.node[t] for t in e.node if t.startswith("M1:")}
    ways = e.between(e.live, ends)
    poles = sum(1 << b for b, c in enumerate(e.contacts) if c.circle == "power" and c.device in walk.coils)
    ways = [w for w in ways if not w & poles]
    for state in walk.resting:
        mask = walk.mask(state)
        if walk.supplied(state) and walk.out(state) and any(mask & w == w for w in ways):
            return _proof(
                "no_backfeed",
                walk.explored.story(state),
                "A start button puts its voltage on the motor's terminals past the open contactor.",
            )
    return _proof("no_backfeed")


def _reachable(walk: Walk) -> Proof:
    reached = frozenset().union(*set(walk.states_live.values()))
    watched = {bit for bit, c in enumerate(walk.e.contacts) if walk.e.index[c.device] not in walk.place and walk.e.kinds[walk.e.index[c.device]] in ("relay", "timer", "contactor")}  # fmt: skip
    free = sum(1 << b for b in watched)
    masks = {walk.mask(s) | free for s in walk.resting if walk.supplied(s)}
    reached |= frozenset().union(*(walk.e.live_loads(m) for m in masks))
    missing = [x.device for x in walk.e.loads if x.device not in reached]
    if missing:
        return _proof("every_coil_reachable", [], f"{' and '.join(dict.fromkeys(missing))} can never be live.")
    return _proof("every_coil_reachable")


def _lamps(walk: Walk) -> Proof:
    for positions, state, words in full_states(walk):
        if lie := lie_of(walk.e, positions, supplied=walk.supplied(state) and not words.startswith("lose L1")):
            return _proof(
                "lamps_truthful", [*walk.explored.story(state), words] if words else walk.explored.story(state), lie
            )
    return _proof("lamps_truthful")


def full_states(walk: Walk) -> Iterator[tuple[Positions, State, str]]:
    """States at rest with the position of every device: of an open chain each member once."""
    e = walk.e
    rest = list(e.at_rest())
    for state in walk.resting:
        positions = list(rest)
        for i, p in zip(walk.moving, state[0], strict=True):
            positions[i] = p
        chains = []
        for x, value in zip(walk.inputs, state[1], strict=True):
            if x.index is not None:
                positions[x.index] = value
            elif value == 0:
                chains.append(x)
        if not chains:
            yield tuple(positions), state, ""
        for x in chains[:1] if len(chains) == 1 else []:
            for name in x.names:
                if name == "supply":
                    continue
                opened = list(positions)
                i = e.index[name]
                opened[i] = {"monitor": 0, "overload": 1}.get(e.kinds[i], PRESSED)
                yield tuple(opened), state, ""


def lie_of(e: Engine, positions: Positions, *, supplied: bool = True) -> str:
    """What a lamp says that is not so; empty where all tell the truth."""
    lit = e.shown_live(e.closed(positions)) if supplied else frozenset()
    at = e.where(positions)
    running = [k for k in e.circuit.feeders if at[k] == IN]
    tripped = any(at[x] for x in e.circuit.of_kind("overload"))
    healthy = at.get("F2", 1) == 1
    for lamp, meaning in e.circuit.meanings.items():
        word, _, which = meaning.partition(" ")
        on = lamp in lit
        if word == "running":
            mine = [k for k in running if k in which.split()]
            if on and not mine:
                return f"{lamp} says running, and no contactor feeds the motor."
            if mine and not on and supplied:
                return f"{lamp} is dark while {mine[0]} feeds the motor."
        elif word == "stopped" and on and running:
            return f"{lamp} says stopped while {running[0]} feeds the motor."
        elif word == "tripped":
            if on and not tripped:
                return f"{lamp} says tripped, and no overload has."
            if tripped and not on and supplied and healthy and e.kinds[e.index[lamp]] == "lamp" and "K5" not in e.index:
                return f"{lamp} is dark while an overload has tripped."
        elif word == "healthy" and on and not healthy:
            return f"{lamp} says healthy, and the monitor has dropped out."
        elif word == "phase" and on and healthy:
            return f"{lamp} says phase fault, and the monitor is in."
    return ""


def _earth_faults(circuit: Circuit) -> Proof:
    if RETURN not in circuit.sources or LIVE not in circuit.sources:
        return _proof("earth_fault_tolerant")
    back = {w.number for w in circuit.wires if circuit.node_of[w.a] == circuit.node_of[circuit.sources[RETURN]]}
    numbers = list(
        dict.fromkeys(
            w.number
            for w in circuit.wires
            if w.circle == "control" and w.number not in back and not w.number.startswith("H")
        )
    )
    guards = {*circuit.stops, *circuit.of_kind("overload", "emergency_stop")}
    for number in numbers:
        touched = frozenset(t for w in circuit.wires if w.number == number for t in (w.a, w.b))
        walk = Walk(Engine(circuit, earthed_nodes=touched, coarse=True))
        for state in walk.resting:
            held = [k for k in walk.coils if k in walk.states_live[state]]
            if not held:
                continue
            open_chain = any(
                value == 0 and x.index is None and guards & set(x.names)
                for x, value in zip(walk.inputs, state[1], strict=True)
            )
            nothing_done = walk.explored.story(state) == []
            if nothing_done or open_chain:
                what = "starts by itself" if nothing_done else "is not dropped by stop or trip"
                return _proof(
                    "earth_fault_tolerant",
                    [f"earth {number}", *walk.explored.story(state)],
                    f"With wire {number} earthed {held[0]} {what}.",
                )
        for name in (*circuit.stops, *circuit.of_kind("overload", "emergency_stop")):
            known = any(name in x.names for x in walk.inputs)
            if not known and any(walk.states_live[s] & set(walk.coils) for s in walk.resting):
                return _proof(
                    "earth_fault_tolerant",
                    [f"earth {number}"],
                    f"With wire {number} earthed {name} no longer opens any coil circuit.",
                )
    return _proof("earth_fault_tolerant")
