"""Proofs: every state that a control circuit can come into, over all inputs and all orders of pull-in and drop-out."""

from collections import deque
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, replace

from volmek.core.circuit.kernel.engine import Engine, Positions
from volmek.core.circuit.kernel.power import PowerNet
from volmek.core.circuit.model.behaviour import IN, OUT
from volmek.core.circuit.model.netlist import LIVE, RETURN, Circuit
from volmek.core.circuit.proof.walk import State, Walk

RULES = {
    "no_power_short": "No two lines and no transformer winding are ever shorted, opening poles still counted as closed.",
    "forbidden_pairs_exclusive": "Contactors that must not be in together never have both coils energised: the electrical interlock alone.",
    "mechanical_interlock_fitted": "Contactors that would short the supply together have a mechanical interlock too: no race between them decides.",
    "stop_drops_all": "Stop drops out every contactor of the power circuit, start held or not.",
    "emergency_stop_drops_all": "Emergency stop drops out every contactor of the power circuit.",
    "overload_drops_all": "A tripped overload drops out every contactor of the power circuit.",
    "phase_monitor_drops_all": "A phase monitor that has dropped out takes out every contactor of the power circuit.",
    "no_self_start": "Nothing starts by itself when the supply, the monitor, the overload or the emergency stop comes back.",
    "every_coil_reachable": "Every coil can be energised.",
    "lamps_truthful": "Every lamp shows the true state.",
    "jog_drops_out": "Releasing jog drops out the contactor, however quickly it is released.",
    "no_backfeed": "While no contactor is in, no terminal of the motor is live.",
    "earth_fault_tolerant": "No single earth fault starts the motor or defeats a stop or a trip.",
}


@dataclass(frozen=True, slots=True)
class Proof:
    """One rule.

    Attributes
    ----------
    rule, words : which, and in a fitter's words
    holds : over every reachable state; None where the walk was cut short before that was decided
    shortest : operations that break it, None where nothing does
    why : what happens then; where it is declared, why it is meant
    declared : the circuit is meant to break it
    """

    rule: str
    words: str
    holds: bool | None
    shortest: list[str] | None = None
    why: str = ""
    declared: bool = False

    @property
    def passed(self) -> bool:
        """Held, or declared not to be."""
        return self.holds is True or self.declared


#: Said of a rule that could not be decided.
UNDECIDED = "Not decided: the circuit has more states than were looked at."


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
        found += [_forbidden(walk), *_mechanical(walk)]
    drops: list[tuple[str, Iterable[str]]] = [
        ("stop_drops_all", circuit.stops), ("emergency_stop_drops_all", circuit.of_kind("emergency_stop")),
        ("overload_drops_all", circuit.overloads), ("phase_monitor_drops_all", circuit.of_kind("monitor")),
    ]  # fmt: skip
    for rule, devices in drops:
        there = [d for d in devices if d in e.index]
        if there:
            found.append(_drops(walk, rule, there))
    found.append(_power_returns(walk) or _self_start(walk))
    found.append(_reachable(walk))
    if circuit.named("jog"):
        found.append(_jog(walk))
    poles = {
        t for c in circuit.contacts if c.device in circuit.power_contactors and c.side == "power" for t in c.terminals
    }
    if circuit.source.from_lines and any(
        w.side == "control" and not poles.isdisjoint((w.a, w.b)) for w in circuit.wires
    ):
        found.append(_backfeed(walk))
    if circuit.meanings:
        found.append(_lamps(walk))
    if circuit.earthed:
        found.append(_earth_faults(circuit))
    return [_judged(p, walk, circuit) for p in found]


def _judged(p: Proof, walk: Walk, circuit: Circuit) -> Proof:
    """With what was declared, and not decided where the walk was cut short before it could tell."""
    open_end = p.holds is True or p.rule == "every_coil_reachable"
    if not walk.complete and open_end and p.rule not in ("earth_fault_tolerant", "mechanical_interlock_fitted"):
        return Proof(p.rule, p.words, None, None, UNDECIDED)
    if p.holds is False and p.rule in circuit.declared:
        return replace(p, why=circuit.declared[p.rule], declared=True)
    return p


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
        shorts = net.shorts(walk.e.closed_poles(tuple(positions), arcing=True), present)
        if shorts:
            together = [k for k, p in zip(walk.coils, key, strict=True) if p not in (OUT, 1, 4)]
            return _proof("no_power_short", walk.explored.story(state), f"{shorts[0][0]} and {shorts[0][1]} are joined through {' and '.join(together)}.")  # fmt: skip
    return _proof("no_power_short")


def needs_mechanical(circuit: Circuit) -> list[tuple[str, str]]:
    """Pairs of contactors that only a lever keeps apart, where both coils can be live at once."""
    return _both_live(Walk(Engine(circuit)))


def _both_live(walk: Walk) -> list[tuple[str, str]]:
    reached = set(walk.states_live.values())
    return [pair for pair in walk.e.circuit.forbidden if any(pair[0] in live and pair[1] in live for live in reached)]


def _forbidden(walk: Walk) -> Proof:
    for state, live in walk.states_live.items():
        for a, b in walk.e.circuit.forbidden:
            if a in live and b in live:
                return _proof(
                    "forbidden_pairs_exclusive",
                    walk.explored.story(state),
                    f"The coils of {a} and {b} are energised together.",
                )
    return _proof("forbidden_pairs_exclusive")


def _mechanical(walk: Walk) -> list[Proof]:
    """For the pairs that a scheme gives a lever, and those whose coils can both be live; without such a pair the rule does not apply."""
    needed = list(dict.fromkeys([*walk.e.circuit.levers, *_both_live(walk)]))
    if not needed:
        return []
    missing = [pair for pair in needed if pair not in walk.e.circuit.mechanical]
    if missing:
        a, b = missing[0]
        return [_proof("mechanical_interlock_fitted", [], f"{a} and {b} have no mechanical interlock.")]
    return [_proof("mechanical_interlock_fitted")]


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
                how = walk.e.circuit.trial(name)[0]
                story = walk.explored.story(state)
                return _proof(rule, story if known else [*story, how], f"{' and '.join(held)} stay in.")
    return _proof(rule)


def _power_returns(walk: Walk) -> Proof | None:
    """A control circuit that outlives the power circuit: a contactor that stays in through the loss starts the motor when power returns."""
    e = walk.e
    if not e.circuit.source.alive_with_main_off:
        return None
    lines = e.circuit.supply.taken_lines
    monitor = sum(
        1 << bit
        for bit, c in enumerate(e.contacts)
        if c.device == e.circuit.monitor and c.side == "control" and c.name not in e.stuck_poles
    )
    name = e.circuit.named("main_breaker")
    main = sum(
        1 << bit
        for bit, c in enumerate(e.contacts)
        if c.device == name and c.side == "control" and c.name not in e.stuck_poles
    )
    for what, opened, story in (
        (name, main | monitor, [f"open {name}", f"close {name}"]),
        ("the supply", monitor, [*(f"lose {x}" for x in lines), *(f"restore {x}" for x in lines)]),
    ):
        for state in walk.resting:
            if not walk.starts_released(state) or not walk.states_live[state] & set(walk.coils):
                continue
            held = [k for k in walk.coils if k in e.live_loads(walk.mask(state) & ~opened)]
            if held:
                why = f"{' and '.join(held)} stay in without power: the motor starts when {what} comes back."
                return _proof("no_self_start", [*walk.explored.story(state), *story], why)
    return None


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
                "Jog seals in when it is released faster than the contactor drops out.",
            )
        turns = [
            (f, walk.words_of(walk.inputs[k], state[1][k], value))
            for f, k, value in walk.turns(state)
            if walk.inputs[k].names == (walk.e.circuit.named("jog"),)
        ]
        for following, words in [*moving, *turns]:
            if following not in came:
                came[following] = (state, words)
                queue.append(following)
    return _proof("jog_drops_out")


def _backfeed(walk: Walk) -> Proof:
    """Ways from the control's live side to the motor that no power contactor closes."""
    e = walk.e
    ends = {e.node[t] for t in e.node if t.partition(":")[0] == e.circuit.motor}
    ways = e.between(e.live, ends)
    poles = sum(1 << b for b, c in enumerate(e.contacts) if c.side == "power" and c.device in walk.coils)
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
        return _proof("every_coil_reachable", [], f"{' and '.join(dict.fromkeys(missing))} can never be energised.")
    return _proof("every_coil_reachable")


def _lamps(walk: Walk) -> Proof:
    for positions, state in full_states(walk):
        if lie := lie_of(walk.e, positions, supplied=walk.supplied(state)):
            return _proof("lamps_truthful", walk.explored.story(state), lie)
    return _proof("lamps_truthful")


def full_states(walk: Walk) -> Iterator[tuple[Positions, State]]:
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
            yield tuple(positions), state
        for x in chains[:1] if len(chains) == 1 else []:
            for name in x.names:
                if name == "supply":
                    continue
                opened = list(positions)
                i = e.index[name]
                opened[i] = next(
                    v for v in e.behaviours[i].values(e.circuit.devices[name], 1) if v != e.behaviours[i].rest
                )
                yield tuple(opened), state


def lie_of(e: Engine, positions: Positions, *, supplied: bool = True) -> str:
    """False indication of a lamp; empty where all are true."""
    lit = e.shown_live(e.closed(positions)) if supplied else frozenset()
    at = e.where(positions)
    running = [k for k in e.circuit.feeders if at[k] == IN]
    tripped = any(at[x] != e.behaviours[e.index[x]].rest for x in e.circuit.overloads)
    healthy = at.get(e.circuit.monitor, 1) == 1
    for lamp, meaning in e.circuit.meanings.items():
        word, _, which = meaning.partition(" ")
        on = lamp in lit
        if word == "running":
            mine = [k for k in running if k in which.split()]
            if on and not mine:
                return f"{lamp} shows running, and no contactor feeds the motor."
            if mine and not on and supplied:
                return f"{lamp} is not lit while {mine[0]} feeds the motor."
        elif word == "stopped" and on and running:
            return f"{lamp} shows stopped while {running[0]} feeds the motor."
        elif word == "tripped":
            if on and not tripped:
                return f"{lamp} shows tripped, and no overload has."
            if (
                tripped
                and not on
                and supplied
                and healthy
                and e.kinds[e.index[lamp]] == "lamp"
                and not e.circuit.named("trip_relay")
            ):
                return f"{lamp} is not lit while an overload has tripped."
        elif word == "healthy" and on and not healthy:
            return f"{lamp} shows healthy, and the monitor has dropped out."
        elif word == "phase" and on and healthy:
            return f"{lamp} shows phase fault, and the monitor is in."
    return ""


def _earth_faults(circuit: Circuit) -> Proof:
    if RETURN not in circuit.sources or LIVE not in circuit.sources:
        return _proof("earth_fault_tolerant")
    back = {w.number for w in circuit.wires if circuit.node_of[w.a] == circuit.node_of[circuit.sources[RETURN]]}
    numbers = list(
        dict.fromkeys(
            w.number
            for w in circuit.wires
            if w.side == "control" and w.number not in back and not w.number.startswith("H")
        )
    )
    guards = {*circuit.stops, *circuit.overloads, *circuit.of_kind("emergency_stop")}
    cut_short = False
    for number in numbers:
        touched = frozenset(t for w in circuit.wires if w.number == number for t in (w.a, w.b))
        walk = Walk(Engine(circuit, earthed_nodes=touched, coarse=True), lamps=False)
        cut_short |= not walk.complete
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
                what = "starts by itself" if nothing_done else "is not dropped out by stop or trip"
                return _proof(
                    "earth_fault_tolerant",
                    [f"earth {number}", *walk.explored.story(state)],
                    f"With wire {number} earthed {held[0]} {what}.",
                )
        for name in (*circuit.stops, *circuit.overloads, *circuit.of_kind("emergency_stop")):
            known = any(name in x.names for x in walk.inputs)
            if not known and any(walk.states_live[s] & set(walk.coils) for s in walk.resting):
                return _proof(
                    "earth_fault_tolerant",
                    [f"earth {number}"],
                    f"With wire {number} earthed {name} no longer opens any coil circuit.",
                )
    if cut_short:
        return Proof("earth_fault_tolerant", RULES["earth_fault_tolerant"], None, None, UNDECIDED)
    return _proof("earth_fault_tolerant")
