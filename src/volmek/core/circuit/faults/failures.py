"""The single-failure table: what each welded contact, broken wire and earth fault does, found by operating the damaged circuit."""

from dataclasses import dataclass, replace

from volmek.core.circuit.faults.injection import damage
from volmek.core.circuit.kernel.dynamics import usual
from volmek.core.circuit.kernel.report import wired
from volmek.core.circuit.kernel.simulate import Event, Simulator, State
from volmek.core.circuit.model.netlist import RETURN, Circuit
from volmek.core.circuit.proof.rules import lie_of
from volmek.core.document.errors import ProblemError

#: Time relays run so short here that a whole start takes moments.
SHORT_S, WHOLE_START_S = 0.3, 2.2
#: What the monitor may take to drop out [s].
MONITOR_S = 3.0
#: Effects from the worst down; those before the mark hurt people.
DANGEROUS = (
    "short circuit", "starts by itself", "runs at once in the wrong connection", "is not stopped by", "is not dropped by", "keeps running",
    "turns the wrong way",
)  # fmt: skip


@dataclass(frozen=True, slots=True)
class Failure:
    """One fault.

    Attributes
    ----------
    fault : as it is injected
    effect : what happens, one sentence
    dangerous : somebody can be hurt, or something burns
    hidden : nothing changes until a second fault comes
    """

    fault: str
    effect: str
    dangerous: bool
    hidden: bool


@dataclass(frozen=True, slots=True)
class Seen:
    """What an observer of the whole programme has seen, in order of weight; and the lamps lit at each of its moments."""

    effects: tuple[str, ...]
    lamps: tuple[tuple[str, frozenset[str]], ...] = ()


def quick(circuit: Circuit) -> Circuit:
    """The same circuit with time relays that run short."""
    devices = {
        n: replace(d, time_s=min(d.time_s, SHORT_S) or SHORT_S, pause_s=min(d.pause_s, 0.05)) if d.kind in ("timer", "star_delta_timer", "soft_starter") else d
        for n, d in circuit.devices.items()
    }  # fmt: skip
    return replace(circuit, devices=devices)


def single_faults(circuit: Circuit) -> list[str]:
    """Every single fault that is looked at."""
    found = [f"weld {k}" for k in circuit.power_contactors]
    found += [
        f"weld {c.name}"
        for c in circuit.contacts
        if c.circle == "control" and circuit.devices[c.device].kind != "breaker" and wired(circuit, c)
    ]
    counted: dict[str, int] = {}
    for w in circuit.wires:
        if w.circle == "control":
            counted[w.number] = counted.get(w.number, 0) + 1
            found.append(f"break {w.number}" + (f"/{counted[w.number]}" if counted[w.number] > 1 else ""))
    if circuit.earthed and RETURN in circuit.sources:
        back = circuit.node_of[circuit.sources[RETURN]]
        own = _heater_nodes(circuit)
        numbers = [
            w.number for w in circuit.wires if w.circle == "control" and circuit.node_of[w.a] not in {back, *own}
        ]
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
            if c.circle == "control" and ends & reached:
                reached |= ends
    return reached | {circuit.node_of[circuit.sources["NF5"]]}


class Programme:
    """A circuit put through everything that an operator does, written down as effects."""

    def __init__(self, circuit: Circuit, faults: list[str]) -> None:
        damaged = damage(quick(circuit), faults)
        self.circuit = damaged.circuit
        self.sim = Simulator(self.circuit, usual(0.4), damaged.engine())
        self.log: list[Event] = []
        self.start = next((s for s in circuit.starts if s not in ("S4", "S9")), None)
        self.resets = [s for s in ("S9", "S4") if s in circuit.starts]
        self.effects: list[str] = []
        self.lies: set[str] = set()
        self.lamps: list[tuple[str, frozenset[str]]] = []

    def run(self) -> Seen:
        """The whole programme: at rest, start, stop, trip, emergency stop, supply away and back."""
        s = self._wait(self.sim.begin(), 0.6)
        at_rest = self._running(s)
        self._look("at rest", s)
        if at_rest and "no_self_start" not in self.circuit.declared:
            self._note("starts by itself as soon as the supply is on")
        started = self._started(self.sim.begin())
        if not self._running(started):
            self._note("does not start")
        else:
            self._look("while it runs", started)
            self._way(started)
            self._drops(started)
            self._back(started)
        self._other(started)
        self._blown()
        if self.lies:
            self._note(sorted(self.lies)[0].rstrip("."))
        return Seen(tuple(dict.fromkeys(self.effects)), tuple(self.lamps))

    def _look(self, when: str, s: State) -> None:
        self.lamps.append((when, frozenset(x for x, lit in self.sim.lamps(s).items() if lit)))

    def _wait(self, s: State, seconds: float) -> State:
        s = self.sim.advance(s, seconds, self.log)
        if lie := lie_of(self.sim.engine, s.positions, supplied=self.sim.supplied(s)):
            self.lies.add(lie)
        return s

    def _do(self, s: State, operation: str, seconds: float = 0.5) -> State:
        try:
            return self._wait(self.sim.operate(s, operation, self.log), seconds)
        except ProblemError:
            return s

    def _running(self, s: State) -> bool:
        return self.sim.electrical(s).connection != "off"

    def _note(self, words: str) -> None:
        self.effects.append(words)

    def _ready(self, s: State) -> State:
        """Selectors to where they call the motor, field contacts closed, latches reset."""
        for name in self.circuit.of_kind("selector"):
            if name == "S7":
                s = self._do(s, "turn S7 on", 0.1)
                self._look("with the heater on", s)
            elif name in ("S5", "S6"):
                s = self._do(s, f"turn {name} {self.circuit.devices[name].positions[1]}", 0.4)
            elif name == "S4":
                s = self._do(s, "turn S4 run", 0.1)
        for name in self.circuit.of_kind("field"):
            if not self.circuit.devices[name].opens:
                s = self._do(s, f"close {name}", 0.1)
        for name in self.resets:
            if self.circuit.devices[name].label != "Jog":
                s = self._do(self._do(s, f"press {name}", 0.2), f"release {name}", 0.2)
        return s

    def _started(self, s: State, button: str | None = None) -> State:
        s = self._ready(s)
        button = button or self.start
        if button:
            s = self._do(s, f"press {button}", 0.5)
            self.early = self.sim.electrical(s)
            s = self._do(s, f"release {button}", 0.1)
        return self._wait(s, WHOLE_START_S)

    def _way(self, started: State) -> None:
        """The way in which it runs, against what it should be."""
        power = self.sim.electrical(started)
        if power.direction == "reverse" and self.start == "S2":
            self._note("turns the wrong way")
        sound = _sound(self.circuit)
        if power.connection != sound[1]:
            self._note(f"stays in {power.connection}" if power.connection != "none" else "does not run properly")
        if self.start and self.early.connection != sound[0] and self.early.connection != "off":
            self._note(f"runs at once in the wrong connection: {self.early.connection}")

    def _drops(self, started: State) -> None:
        c = self.circuit
        tries = [
            (f"press {x}", f"is not stopped by {x}")
            for x in c.stops
            if x in c.devices and c.devices[x].kind == "button"
        ]
        tries += [
            (f"turn {x} {c.devices[x].positions[0]}", f"is not stopped by {x}")
            for x in c.stops
            if c.devices[x].kind == "selector"
        ]
        tries += [(c.trial(x)[0], f"is not dropped by {x}") for x in c.overloads]
        tries += [(f"press {x}", f"is not dropped by {x}") for x in c.of_kind("emergency_stop")]
        tries += [(c.monitor_trial[0], "is not dropped by the phase monitor F2")] if "F2" in c.devices else []
        for operation, words in tries:
            s = self._do(started, operation, MONITOR_S if operation == c.monitor_trial[0] else 1.0)
            self._look(f"after '{operation}'", s)
            if self._running(s) and not ("stop_drops_all" in c.declared and operation.startswith("press S1")):
                self._note(words)

    def _back(self, started: State) -> None:
        """Let stop go again, and take the supply away and back: it must stay off."""
        if "no_self_start" in self.circuit.declared:
            return
        c = self.circuit
        for first, then in (
            ("press S1", "release S1"),
            ("open F3", "close F3"),
            *(c.trial(x) for x in c.overloads[:1]),
        ):
            if first.split()[1] not in self.circuit.devices:
                continue
            s = self._do(started, first, 1.0)
            if not self._running(s) and self._running(self._do(s, then, 1.5)):
                self._note(f"starts by itself after '{then}'")

    def _other(self, started: State) -> None:
        """The second direction or speed, where there is one."""
        if "S3" not in self.circuit.starts:
            return
        stop = next(iter(self.circuit.stops), None)
        s = self._do(self._do(started, f"press {stop}", 0.6), f"release {stop}", 0.8) if stop else started
        s = self._wait(self._do(self._do(s, "press S3", 0.5), "release S3", 0.1), 1.0)
        if not self._running(s):
            self._note("the second direction or speed does not start")

    def _blown(self) -> None:
        for event in self.log:
            if event.words.startswith("Short circuit:"):
                self._note("short circuit: " + event.words.partition(": ")[2].partition(";")[0])
            elif event.device == "F3":
                self._note("the control breaker F3 trips")
            elif event.words.startswith("The circuit chatters"):
                self._note("a coil chatters")


def _sound(circuit: Circuit) -> tuple[str, str]:
    """Connection soon after the start and in the end, of the circuit as it was designed."""
    found = set(circuit.power_contactors)
    if {"K2", "K3"} <= found and ("K2", "K3") in circuit.forbidden:
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


def _other_lamps(seen: Seen, sound: dict[str, frozenset[str]]) -> list[str]:
    """Lamps, buzzers and heaters that are dark where they should be lit, or lit where they should be dark."""
    for when, lit in seen.lamps:
        should = sound.get(when, lit)
        for name in sorted(should ^ lit):
            word = "cold" if name.startswith("E") else "silent" if name.startswith("H") else "dark"
            return [f"{name} is {word} {when}" if name in should else f"{name} is on {when}"]
    return []


def failures(circuit: Circuit) -> list[Failure]:
    """What each single fault does, the dangerous ones first.

    Parameters
    ----------
    circuit : as designed

    References
    ----------
    ISO 13849-2, annex D: faults to be looked at; here by simulation of the damaged circuit.
    """
    whole = Programme(circuit, []).run()
    sound, lamps = whole.effects, dict(whole.lamps)
    found = []
    for fault in single_faults(circuit):
        seen = Programme(circuit, [fault]).run()
        effects = [e for e in seen.effects if e not in sound]
        if not effects:
            effects = _other_lamps(seen, lamps)
        rank = {e: next((i for i, d in enumerate(DANGEROUS) if e.startswith(d) or d in e), 99) for e in effects}
        effects.sort(key=lambda e: rank[e])
        dangerous = bool(effects) and rank[effects[0]] < 99
        words = "; ".join(effects[:3])
        hidden = not effects
        found.append(
            Failure(fault, "Nothing changes until a second fault comes." if hidden else words[0].upper() + words[1:] + ".", dangerous, hidden)
        )  # fmt: skip
    return sorted(found, key=lambda f: (not f.dangerous, f.hidden))
