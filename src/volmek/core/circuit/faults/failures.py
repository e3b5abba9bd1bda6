"""The single-failure table: what each welded contact, broken wire and earth fault does, found by operating the damaged circuit."""

from collections.abc import Callable
from dataclasses import dataclass
from enum import IntEnum

from volmek.core.circuit.faults.injection import damage
from volmek.core.circuit.kernel.dynamics import usual
from volmek.core.circuit.kernel.engine import Engine
from volmek.core.circuit.kernel.operator import MONITOR_S, WHOLE_START_S, Operator, quick
from volmek.core.circuit.kernel.power import PowerNet
from volmek.core.circuit.kernel.report import has_conductors
from volmek.core.circuit.kernel.state import State
from volmek.core.circuit.kernel.telling import joined
from volmek.core.circuit.model.netlist import RETURN, Circuit
from volmek.core.circuit.proof.diagrams import CutShort
from volmek.core.circuit.proof.lamps import lie_of
from volmek.core.circuit.proof.rules import RULES, Decide, applicable


class Hazard(IntEnum):
    """Danger of an effect, the worst first."""

    SHORT_CIRCUIT = 0
    STARTS_BY_ITSELF = 1
    WRONG_CONNECTION = 2
    NOT_STOPPED = 3
    NOT_DROPPED_OUT = 4
    WRONG_WAY = 5
    START_WINDING = 6
    NONE = 9


#: How a fault is noticed, the soonest first.
AT_ONCE, BY_LAMP = "at once: it runs or trips by itself", "by a lamp, for whoever looks"
NEXT_START, NEXT_STOP = "by the next start", "by the next stop"
BY_TRIAL, BY_CONTINUITY = "only by a trial of the guard", "only dead, by continuity"
NOTICED = (AT_ONCE, NEXT_START, NEXT_STOP, BY_TRIAL, BY_LAMP, BY_CONTINUITY)
#: How what is dangerous is noticed.
HAZARD_NOTICED = {
    Hazard.SHORT_CIRCUIT: AT_ONCE, Hazard.STARTS_BY_ITSELF: AT_ONCE, Hazard.WRONG_CONNECTION: NEXT_START, Hazard.WRONG_WAY: NEXT_START,
    Hazard.START_WINDING: NEXT_START, Hazard.NOT_STOPPED: NEXT_STOP, Hazard.NOT_DROPPED_OUT: BY_TRIAL,
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class Effect:
    """An effect of a fault, in words, its danger, and how it is noticed where it is not dangerous."""

    words: str
    hazard: Hazard = Hazard.NONE
    noticed: str = BY_LAMP


@dataclass(frozen=True, slots=True)
class Failure:
    """One fault.

    Attributes
    ----------
    fault : as it is injected
    effect : what happens, one sentence
    dangerous : somebody can be hurt, or something burns
    hidden : nothing changes until a second fault comes
    breaks : rules that hold as built and not with it
    undecided : rules for which there was no time
    found : how it is noticed
    measure : what is usually done against it; empty where nothing is asked for
    test : a test that finds it where nothing else does before somebody needs what has failed; empty where it shows itself
    """

    fault: str
    effect: str
    dangerous: bool
    hidden: bool
    breaks: tuple[str, ...] = ()
    undecided: tuple[str, ...] = ()
    found: str = ""
    measure: str = ""
    test: str = ""


@dataclass(frozen=True, slots=True)
class Seen:
    """Effects seen over the whole sequence in their order; and the lamps lit at each of its moments."""

    effects: tuple[Effect, ...]
    lamps: tuple[tuple[str, frozenset[str]], ...] = ()


def single_faults(circuit: Circuit) -> list[str]:
    """Every single fault that is looked at."""
    found = [f"weld {k}" for k in circuit.power_contactors]
    found += [
        f"weld {c.name}"
        for c in circuit.contacts
        if c.side == "power" and circuit.devices[c.device].kind == "contactor" and has_conductors(circuit, c)
    ]
    found += [f"weld {circuit.start_switch}"] if circuit.start_switch else []
    found += [
        f"weld {c.name}"
        for c in circuit.contacts
        if c.side == "control" and circuit.devices[c.device].kind != "breaker" and has_conductors(circuit, c)
    ]
    counted: dict[str, int] = {}
    for w in circuit.wires:
        if w.side == "control":
            counted[w.number] = counted.get(w.number, 0) + 1
            found.append(f"break {w.number}" + (f"/{counted[w.number]}" if counted[w.number] > 1 else ""))
    if circuit.earthed and RETURN in circuit.sources:
        back = circuit.node_of[circuit.sources[RETURN]]
        own = _heater_nodes(circuit)
        numbers = [w.number for w in circuit.wires if w.side == "control" and circuit.node_of[w.a] not in {back, *own}]
        found += [f"earth {n}" for n in dict.fromkeys(numbers)]
    return found


def _heater_nodes(circuit: Circuit) -> set[int]:
    """Nodes of the heater's own supply, whose earth faults trip its own breaker."""
    if "LF5" not in circuit.sources:
        return set()
    reached = {circuit.node_of[circuit.sources["LF5"]]}
    for _ in circuit.contacts:
        for c in circuit.contacts:
            ends = {circuit.node_of[t] for t in c.terminals}
            if c.side == "control" and ends & reached:
                reached |= ends
    return reached | {circuit.node_of[circuit.sources["NF5"]]}


class Programme(Operator):
    """A circuit put through everything that an operator does, written down as effects."""

    def __init__(self, circuit: Circuit, faults: list[str]) -> None:
        damaged = damage(quick(circuit), faults)
        super().__init__(damaged.circuit, usual(0.4), damaged.engine())
        self.effects: list[Effect] = []
        self.lies: set[str] = set()
        self.lit: list[tuple[str, frozenset[str]]] = []

    def run(self) -> Seen:
        """The whole programme: at rest, start, stop, trip, emergency stop, supply away and back."""
        s = self.wait(self.sim.begin(self.log), 0.6)
        self._look("at rest", s)
        if self.running(s) and "no_self_start" not in self.circuit.declared:
            self._note("starts by itself as soon as the supply is on", Hazard.STARTS_BY_ITSELF)
        ready = self.ready(self.sim.begin())
        pressed = self.press(ready, self.start)
        self.early = self.sim.electrical(pressed)
        started = self.wait(self.do(pressed, f"release {self.start}", 0.1) if self.start else pressed, WHOLE_START_S)
        if not self.running(started):
            self._note("runs only while start is held" if self.running(pressed) else "does not start")
        else:
            self._look("while it runs", started)
            self._way(started)
            self._drops(started)
            self._back(started)
        if heater := self.circuit.named("heater_switch"):
            self._look("with the heater on", self.do(ready, f"turn {heater} on", 0.1))
        self._other(started)
        self._blown()
        if self.lies:
            self._note(sorted(self.lies)[0].rstrip("."), noticed=BY_LAMP)
        return Seen(tuple(dict.fromkeys(self.effects)), tuple(self.lit))

    def wait(self, s: State, seconds: float) -> State:
        """Let time pass, then check whether a lamp shows the wrong state."""
        s = super().wait(s, seconds)
        if lie := lie_of(self.sim.engine, s.positions, supplied=self.sim.supplied(s)):
            self.lies.add(lie)
        return s

    def _look(self, when: str, s: State) -> None:
        self.lit.append((when, frozenset(x for x, on in self.sim.lamps(s).items() if on)))

    def _note(self, words: str, hazard: Hazard = Hazard.NONE, noticed: str = NEXT_START) -> None:
        self.effects.append(Effect(words, hazard, HAZARD_NOTICED.get(hazard, noticed)))

    def _way(self, started: State) -> None:
        """The way in which it runs, against what it should be."""
        power = self.sim.electrical(started)
        if power.direction == "reverse":
            self._note("turns the wrong way", Hazard.WRONG_WAY)
        sound = _sound(self.circuit)
        if power.connection != sound[1]:
            self._note(f"stays in {power.connection}" if power.connection != "none" else "does not run properly")
        if self.start and self.early.connection != sound[0] and self.early.connection != "off":
            self._note(f"runs at once in the wrong connection: {self.early.connection}", Hazard.WRONG_CONNECTION)

    def _drops(self, started: State) -> None:
        c = self.circuit
        tries = [
            (f"press {x}", f"is not stopped by {x}", Hazard.NOT_STOPPED)
            for x in c.stops
            if x in c.devices and c.devices[x].kind == "button"
        ]
        tries += [
            (f"turn {x} {c.devices[x].positions[0]}", f"is not stopped by {x}", Hazard.NOT_STOPPED)
            for x in c.stops
            if c.devices[x].kind == "selector"
        ]
        tries += [(c.trial(x)[0], f"is not dropped out by {x}", Hazard.NOT_DROPPED_OUT) for x in c.overloads]
        tries += [
            (f"press {x}", f"is not dropped out by {x}", Hazard.NOT_DROPPED_OUT) for x in c.of_kind("emergency_stop")
        ]
        tries += (
            [(c.monitor_trial[0], f"is not dropped out by the phase monitor {c.monitor}", Hazard.NOT_DROPPED_OUT)]
            if c.monitor
            else []
        )
        for operation, words, hazard in tries:
            s = self.do(started, operation, MONITOR_S if operation == c.monitor_trial[0] else 1.0)
            self._look(f"after '{operation}'", s)
            meant = "stop_drops_all" in c.declared and operation.startswith("press") and operation.split()[1] in c.stops
            if self.running(s) and not meant:
                self._note(words, hazard)

    def _back(self, started: State) -> None:
        """Let stop go again, and take the supply away and back: it must stay off."""
        if "no_self_start" in self.circuit.declared:
            return
        c = self.circuit
        named = (
            *(x for x in c.stops[:1] if c.devices[x].kind == "button"),
            c.named("control_breaker"),
            *c.overloads[:1],
        )
        for first, then in (c.trial(x) for x in named if x):
            s = self.do(started, first, 1.0)
            if not self.running(s) and self.running(self.do(s, then, 1.5)):
                self._note(f"starts by itself after '{then}'", Hazard.STARTS_BY_ITSELF)

    def _other(self, started: State) -> None:
        """The second direction or speed, where there is one."""
        second = self.circuit.named("second_start")
        if not second:
            return
        stop = next(iter(self.circuit.stops), None)
        s = self.do(self.do(started, f"press {stop}", 0.6), f"release {stop}", 0.8) if stop else started
        s = self.wait(self.do(self.do(s, f"press {second}", 0.5), f"release {second}", 0.1), 1.0)
        if not self.running(s):
            self._note("the second direction or speed does not start")

    def _blown(self) -> None:
        for event in self.log:
            if event.kind == "short_circuit":
                self._note(f"short circuit: {joined(event)}", Hazard.SHORT_CIRCUIT)
            elif event.kind == "control_short":
                self._note(f"the control breaker {event.device} trips", noticed=AT_ONCE)
            elif event.kind == "chatters":
                self._note(f"{event.device} chatters")
            elif event.kind == "overheats":
                self._note("the start winding stays in and burns", Hazard.START_WINDING)


def _sound(circuit: Circuit) -> tuple[str, str]:
    """Connection soon after the start and in the end, of the circuit as it was designed."""
    if circuit.star_delta:
        return "star", "delta"
    if circuit.of_kind("transformer"):
        return "reduced", "plate" if any(
            w.group == "box" for w in circuit.windings
        ) else "delta" if circuit.rated_share > 0.9 else "star"
    if any(w.group == "half" for w in circuit.windings):
        return "half", "star"
    if any(w.group in ("low", "tapped") for w in circuit.windings):
        return "low", "low"
    if any(w.name == "main" for w in circuit.windings):
        return "single", "single"
    end = (
        "plate" if any(w.group == "box" for w in circuit.windings) else "delta" if circuit.rated_share > 0.9 else "star"
    )
    return ("reduced" if any(w.kind == "resistor" for w in circuit.windings) and not circuit.rotor_steps else end), end


def _other_lamps(circuit: Circuit, seen: Seen, sound: dict[str, frozenset[str]]) -> list[Effect]:
    """Lamps, buzzers and heaters that are off where they should be on, or on where they should be off."""
    for when, lit in seen.lamps:
        should = sound.get(when, lit)
        for name in sorted(should ^ lit):
            word = {"heater": "cold", "buzzer": "silent"}.get(circuit.devices[name].kind, "not lit")
            return [Effect(f"{name} is {word} {when}" if name in should else f"{name} is on {when}")]
    return []


#: Rules that are held against each fault; a mechanical lever is not changed by it, and an earth fault would be a second one.
UNDER_FAULT = tuple(
    r for r in RULES if r not in ("mechanical_interlock_fitted", "comes_to_rest", "earth_fault_tolerant")
)
#: Time for the rules of one fault [s].
FAULT_S = 5.0
#: What is usually done against a fault that breaks a rule, by what fails.
MEASURES = {
    "contactor": "Two contactors in series, each with a mirror contact in the start path: one that is welded refuses the next start.",
    "emergency_stop": "Two contacts of the button in series, watched by a safety relay.",
    "stop": "A stop with two contacts in series.",
    "start": "A start whose release is watched before it counts again (monitored reset).",
    "hold": "A seal-in from a contact that is linked to the poles, and a reset that is watched.",
    "overload": "A trial with the relay's test button once a year.",
    "monitor": "A trial of the monitor once a year; its second contact to a signal.",
    "interlock": "A mechanical interlock beside the electrical one.",
    "earth": "Earth one side of the control supply, or watch its insulation.",
    "wire": "Check the wire at its terminals when the panel is inspected.",
}


def rules_broken(
    circuit: Circuit, engine: Engine, net: PowerNet, limit_s: float = FAULT_S
) -> tuple[list[str], list[str]]:
    """Rules that do not hold, and those for which there was no time; without stories.

    Parameters
    ----------
    circuit, engine : damaged or not
    net : of the power circuit, which a fault of the control leaves as it is
    limit_s : time for all of them [s]
    """
    broken, undecided = [], []
    decide: Decide | None = None
    for rule in applicable(engine):
        if rule not in UNDER_FAULT:
            continue
        try:
            decide = decide or Decide(engine, limit_s, net, told=False)
            if decide(rule).holds is False:
                broken.append(rule)
        except CutShort:
            undecided.append(rule)
    return broken, undecided


def failures(circuit: Circuit, told: Callable[[int, int], None] | None = None) -> list[Failure]:
    """Single-failure table: effect of each fault, the rules that it breaks, how it is found; the dangerous ones first.

    Parameters
    ----------
    circuit : as designed
    told : called with how many faults are done, of how many

    References
    ----------
    ISO 13849-2, annex D: faults to be looked at; effects by simulation of the damaged circuit, rules by proof of it.
    """
    net = PowerNet(circuit)
    as_built = set(rules_broken(circuit, Engine(circuit), net)[0]) | set(circuit.declared)
    whole = Programme(circuit, []).run()
    sound, lamps = whole.effects, dict(whole.lamps)
    found = []
    todo = single_faults(circuit)
    for n, fault in enumerate(todo):
        if told:
            told(n, len(todo))
        seen = Programme(circuit, [fault]).run()
        effects = [e for e in seen.effects if e not in sound]
        if not effects:
            effects = _other_lamps(circuit, seen, lamps)
        effects.sort(key=lambda e: e.hazard)
        dangerous = bool(effects) and effects[0].hazard is not Hazard.NONE
        words = "; ".join(e.words for e in effects[:3])
        damaged = damage(circuit, [fault])
        broken, undecided = rules_broken(damaged.circuit, damaged.engine(), net)
        breaks = tuple(r for r in broken if r not in as_built)
        hidden = not effects and not breaks and not undecided
        if not effects:
            words = "no effect until there is a second fault" if hidden else "no effect in an ordinary run"
        measure = (
            _measure(circuit, fault) if dangerous or set(breaks) - {"lamps_truthful", "every_coil_reachable"} else ""
        )
        noticed = _found(effects, breaks)
        found.append(
            Failure(
                fault,
                words[0].upper() + words[1:] + ".",
                dangerous,
                hidden,
                breaks,
                tuple(undecided),
                noticed,
                measure,
                _test(circuit, fault, noticed),
            )
        )
    return sorted(found, key=lambda f: (not f.dangerous, f.hidden))


def _found(effects: list[Effect], breaks: tuple[str, ...]) -> str:
    """How somebody notices it."""
    found = [e.noticed for e in effects]
    if "stop_drops_all" in breaks:
        found.append(NEXT_STOP)
    if not found:
        guards = set(breaks) - {"lamps_truthful", "every_coil_reachable"}
        found.append(BY_TRIAL if guards else BY_LAMP if breaks else BY_CONTINUITY)
    return min(found, key=NOTICED.index)


def _test(circuit: Circuit, fault: str, noticed: str) -> str:
    """A test once a year that finds what does not show itself."""
    if noticed not in (BY_TRIAL, BY_CONTINUITY):
        return ""
    verb, _, what = fault.partition(" ")
    if verb == "earth":
        return f"Insulation of wire {what} against earth, everything dead"
    if verb == "break":
        return f"Continuity of wire {what.partition('/')[0]} from end to end, everything dead"
    name, _, contact = what.partition(":")
    kind = circuit.devices[name].kind
    if not contact or (kind == "contactor" and contact.partition("-")[0] in ("1", "3", "5")):
        return f"Poles of {name}: open with {circuit.named('main_breaker')} locked off, each read across"
    how = {
        "button": "dead, with {} pressed", "emergency_stop": "dead, with {} pressed", "overload": "dead, with {} tripped by its test button",
        "monitor": "dead, as {} is then", "field": "dead, with {} operated", "selector": "dead, with {} turned",
        "timer": "under control voltage, once {} has run out", "star_delta_timer": "under control voltage, once {} has run out",
        "soft_starter": "under control voltage, once {} is at full voltage",
    }.get(kind, "dead, with {} moved by hand").format(name)  # fmt: skip
    return f"Contact {what} changes over: {how}"


def _measure(circuit: Circuit, fault: str) -> str:
    """What is usually done against it."""
    verb, _, what = fault.partition(" ")
    if verb != "weld":
        return MEASURES["earth" if verb == "earth" else "wire"]
    name, _, contact = what.partition(":")
    device = circuit.devices[name]
    if device.kind == "contactor" and contact.partition("-")[0] in ("1", "3", "5"):
        return MEASURES["contactor"]
    if device.kind in ("contactor", "relay") and contact:
        return MEASURES["interlock" if contact[-1] in "26" else "hold"]
    if device.kind == "button":
        return MEASURES["start" if name in circuit.starts else "stop"]
    return MEASURES.get(device.kind, "")
