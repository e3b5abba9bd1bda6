"""The trial of a stage under voltage: what to operate, and what must then be seen."""

from collections import Counter
from dataclasses import dataclass
from math import ceil

from volmek.core.circuit.build.stages import StagePlan
from volmek.core.circuit.kernel.report import CHATTERS, settled
from volmek.core.circuit.kernel.simulate import Simulator
from volmek.core.circuit.kernel.state import Event, State
from volmek.core.circuit.kernel.voltages import Reading, rail_terminals, readings
from volmek.core.circuit.model.behaviour import GOING_OUT, IN, BreakerState
from volmek.core.circuit.model.netlist import Circuit, Contact, Load, makes_at_rest


@dataclass(frozen=True, slots=True)
class Step:
    """One operation under voltage, and what must be seen.

    Attributes
    ----------
    do : operation in the language of the simulation; empty where nothing is touched
    words : what the fitter does
    sees : what must be seen, one sentence each
    because : why something stays away that the finished starter would do; empty otherwise
    state : each thing that can be looked at, with how it must be found
    """

    do: str
    words: str
    sees: tuple[str, ...]
    because: str
    state: dict[str, str]


def observed(sim: Simulator, s: State, events: list[Event] | None = None) -> dict[str, str]:
    """Observable devices and their state: contactors, time relays, lamps, breakers, motor.

    Parameters
    ----------
    events : since the last look, for what chatters
    """
    found: dict[str, str] = {}
    live, at = sim.live(s), sim.engine.where(s.positions)
    again_and_again = chattering(events or [])
    wired_loads = {x.device for x in sim.engine.loads if any(sim.circuit.number_of.get(t) for t in x.terminals)}
    for name in sim.circuit.of_kind("contactor", "relay"):
        if name in wired_loads:
            found[name] = "chatters" if name in again_and_again else "in" if at[name] in (IN, GOING_OUT) else "out"
    for name in sim.circuit.of_kind("timer", "star_delta_timer", "soft_starter"):
        if name in wired_loads:
            found[name] = "on" if name in live else "off"
    lamps = sim.lamps(s)
    for load in sim.engine.shown:
        if any(sim.circuit.number_of.get(t) for t in load.terminals):
            found[load.device] = "lit" if lamps[load.device] else "dark"
    for name in (sim.circuit.named("main_breaker"), sim.circuit.named("control_breaker")):
        if name in at:
            found[name] = {BreakerState.CLOSED: "closed", BreakerState.TRIPPED: "tripped"}.get(
                BreakerState(at[name]), "open"
            )
    if sim.circuit.windings and any(sim.circuit.number_of.get(t) for w in sim.circuit.windings for t in (w.a, w.b)):
        found[sim.circuit.motor] = _motor(sim, s)
    return found


def at_rest(sim: Simulator, s: State) -> dict[str, Reading]:
    """Voltage readings with everything closed and nothing operated: at the rails, the returns of the coils, the strip."""
    c = sim.circuit
    points = rail_terminals(c)
    points += [
        x.terminals[1]
        for x in sim.engine.loads
        if c.devices[x.device].kind == "contactor" and c.number_of.get(x.terminals[1])
    ]
    points += [t for w in c.wires if w.side == "power" for t in (w.a, w.b) if c.on_strip(t)]
    return readings(sim, s, [t for t in dict.fromkeys(points) if t in c.node_of])


def _motor(sim: Simulator, s: State) -> str:
    """State of the motor: stands, turns, hums, coasts."""
    power = sim.electrical(s)
    if power.connection == "off":
        return "coasts" if abs(s.speed) > 0.02 else "stands"
    if power.direction == "none" and power.negative > 0.05:
        return "hums"
    return f"{power.connection}, {power.direction}" if not sim.circuit.single_phase else f"on, {power.direction}"


def said(name: str, before: str, after: str) -> str:
    """A change of a device in a fitter's words.

    Examples
    --------
    >>> said("K1", "out", "in"), said("P1", "dark", "lit")
    ('K1 pulls in', 'P1 comes on')
    """
    return MOVES.get((before, after), WORDS.get(after, "{} is " + after)).format(name)


def motor_said(state: str) -> str:
    """State of the motor in a fitter's words.

    Examples
    --------
    >>> motor_said("hums"), motor_said("star, forward")
    ('the motor hums and does not start', 'the motor is in star and turns forward')
    """
    if state in ("stands", "coasts", "hums"):
        return f"the motor {state} {RESTS[state]}"
    connection, _, direction = state.partition(", ")
    where = (
        ""
        if connection in ("on", "single", "plate")
        else f"is in {connection} and "
        if connection in ("star", "delta")
        else f"is on {connection} and "
    )
    turns = {"none": "does not turn", "reverse": "turns backwards"}.get(direction, f"turns {direction}")
    return f"the motor {where}{turns}"


@dataclass
class Tester:
    """Runs the tests of a stage on the part wired so far, beside the finished starter."""

    sim: Simulator
    full: Simulator
    planned: list[StagePlan]

    def steps(self, s: StagePlan) -> list[Step]:
        """Trial under voltage at the end of a stage."""
        self.run = Run(self.sim, self.full)
        if s.kind in ("rest", "links", "ask"):
            return []
        self.run.step("")
        if s.kind == "supply":
            return self.run.done
        if s.load is not None:
            self._load(s)
        elif s.kind == "heater":
            switch = self.sim.circuit.named("heater_switch")
            self.run.step(f"turn {switch} on")
            self._start(self._first())
            self._stop()
            self.run.step(f"turn {switch} off")
        elif s.kind == "power":
            for load in self._feeders():
                self._start(load)
                self._stop()
        else:
            self._everything()
        return self.run.done

    def _paths(self) -> dict[str, tuple[Contact, ...]]:
        return {s.load.device: s.path for s in self.planned if s.load is not None}

    def _feeders(self) -> list[Load]:
        loads = {s.load.device: s.load for s in self.planned if s.load is not None}
        return [loads[k] for k in self.sim.circuit.feeders if k in loads] or list(loads.values())[:1]

    def _first(self) -> Load | None:
        return next(iter(self._feeders()), None)

    def _manual(self, device: str, seen: frozenset[str] = frozenset()) -> list[str]:
        """Operations by hand that bring a device's coil to voltage, those for the contacts of others first."""
        found: list[str] = []
        for c in self._paths().get(device, ()):
            kind = self.sim.circuit.devices[c.device].kind
            if kind in ("contactor", "relay", "timer", "star_delta_timer", "soft_starter"):
                if makes_at_rest(c) and c.device != device and c.device not in seen:
                    found += self._manual(c.device, seen | {device})
            elif makes_at_rest(c) and kind in ("button", "emergency_stop"):
                found.append(f"press {c.device}")
            elif kind == "selector" and 0 not in c.closed_in:
                found.append(f"turn {c.device} {self.sim.circuit.devices[c.device].positions[min(c.closed_in)]}")
            elif kind == "field" and 0 not in c.closed_in:
                found.append(f"{'open' if self.sim.circuit.devices[c.device].opens else 'close'} {c.device}")
        return list(dict.fromkeys(found))

    def _undo(self, operation: str) -> str:
        verb, name, *_ = operation.split()
        if verb == "turn":
            return f"turn {name} {self.sim.circuit.devices[name].positions[0]}"
        return f"{OTHER[verb]} {name}"

    def _start(self, load: Load | None, *, wait: bool = True) -> list[str]:
        """Bring a coil to voltage and let go; returns what stays operated."""
        if load is None:
            return []
        operations = self._manual(load.device)
        buttons = [o for o in operations if o.startswith("press")]
        for o in operations:
            self.run.step(o)
        if not buttons:
            self.run.waits()
        for o in reversed(buttons):
            self.run.step(self._undo(o))
        if wait and buttons:
            self.run.waits()
        return [o for o in operations if o not in buttons]

    def _any_in(self) -> bool:
        return any(self.run.now.get(k) in ("in", "chatters") for k in self.sim.circuit.of_kind("contactor", "relay"))

    def _stop(self, kept: list[str] | None = None) -> None:
        for stop in self.sim.circuit.stops[:1]:
            if self._any_in() and self.sim.circuit.devices[stop].kind == "button":
                self.run.step(f"press {stop}")
                self.run.step(f"release {stop}")
        for o in reversed(kept or []):
            self.run.step(self._undo(o))
        self.run.waits()

    def _load(self, s: StagePlan) -> None:
        """A coil by its own, or with its holds: started, let go, and stopped by everything that must stop it."""
        assert s.load is not None
        guards = [
            c.device
            for c in s.path
            if not makes_at_rest(c)
            and (
                self.sim.circuit.devices[c.device].kind in ("button", "emergency_stop")
                or c.device in self.sim.circuit.overloads
            )
        ]
        kept = self._start(s.load)
        if not self._any_in():
            self._stop(kept)
            return
        first = next((x for x in self.planned if x.kind == s.kind and x.load is not None), None)
        if first is not s and s.kind != "hold":
            self._stop(kept)
            return
        for name in dict.fromkeys(guards):
            if self.run.now.get(s.load.device) != "in":
                for o in [o for o in self._manual(s.load.device) if o.startswith("press")]:
                    self.run.step(o)
                    self.run.step(self._undo(o))
            if self.run.now.get(s.load.device) != "in":
                break
            for operation in self.sim.circuit.trial(name):
                self.run.step(operation)
        self._stop(kept)

    def _everything(self) -> None:
        """All states once: started each way, tripped, stopped in an emergency, a lost phase."""
        sim = self.sim
        for load in self._feeders():
            kept = self._start(load)
            self._stop(kept)
        for name in (*sim.circuit.overloads, *sim.circuit.of_kind("emergency_stop")):
            kept = self._start(self._first(), wait=False)
            for operation in sim.circuit.trial(name):
                self.run.step(operation)
            self._stop(kept)
        if sim.circuit.monitor:
            kept = self._start(self._first(), wait=False)
            for operation in sim.circuit.monitor_trial:
                self.run.step(operation)
                self.run.waits()
            self._stop(kept)


def at_rest_again(sim: Simulator, s: State, events: list[Event]) -> State:
    """Let everything come to rest that is on its way by itself, the phase monitor's delays too; time relays go on running."""
    until = s.time_s + LONGEST_WAIT_S
    s = settled(sim, s, events)
    while s.time_s < until and not chattering(events):
        due = [at for i, _, at in s.due if not timed(sim, i) and at <= until]
        if not due:
            return s
        s = settled(sim, sim.advance(s, max(min(due) - s.time_s, 1e-6), events), events)
    return s


def chattering(events: list[Event]) -> set[str]:
    """Contactors that pull in again and again while nobody does anything."""
    pulls = Counter(e.device for e in events if e.kind == "pulls_in")
    return {e.device for e in events if e.kind == "chatters"} | {name for name, n in pulls.items() if n >= CHATTERS}


def timed(sim: Simulator, i: int) -> bool:
    return sim.engine.kinds[i] in ("timer", "star_delta_timer", "soft_starter")


class Run:
    """Operations one after the other, each settled, with what is seen; the finished starter runs beside."""

    def __init__(self, sim: Simulator, full: Simulator | None = None, after: "Run | None" = None) -> None:
        """At rest, or where another run of the same devices has come to."""
        self.sim, self.full = sim, full
        self.state: State = after.state if after else at_rest_again(sim, sim.begin(), [])
        self.now: dict[str, str] = dict(after.now) if after else observed(sim, self.state)
        self.other = at_rest_again(full, full.begin(), []) if full else None
        self.done: list[Step] = []

    def step(self, do: str) -> None:
        """One operation."""
        events: list[Event] = []
        before = self.now
        if do:
            self.state = self.sim.operate(self.state, do, events)
            self.state = at_rest_again(self.sim, self.state, events)
        self.now = observed(self.sim, self.state, events)
        motor = self.sim.circuit.motor
        moved = [(k, v) for k, v in self.now.items() if do and before.get(k, v) != v]
        sees = tuple(motor_said(v) if k == motor else said(k, before[k], v) for k, v in moved)
        state = dict(self.now)
        if not do:  # at rest the tester goes round once
            measured = at_rest(self.sim, self.state)
            state |= {t: "live" if r.live else "dead" for t, r in measured.items()}
            words = dict.fromkeys(r.words for r in measured.values())
            sees = tuple(f"{', '.join(t for t, r in measured.items() if r.words == said)}: {said}" for said in words)
        because = ""
        if self.full is not None and self.other is not None and do:
            self.other = at_rest_again(self.full, self.full.operate(self.other, do), [])
            because = self._because()
        self.done.append(Step(do, in_words(self.sim.circuit, do), sees or ("nothing moves",), because, state))

    def _because(self) -> str:
        """Difference from the finished starter, and the wire that is still missing for it."""
        assert self.full is not None and self.other is not None
        finished = observed(self.full, self.other)
        differs = [k for k, v in self.now.items() if v in ("out", "off") and finished.get(k) in ("in", "on")]
        if not differs:
            return ""
        missing: list[str] = []
        e = self.full.engine
        for x in e.loads:
            if x.device in differs:
                for mask in e.paths[x]:
                    parts = [c for bit, c in enumerate(e.contacts) if mask >> bit & 1]
                    open_ends = [c for c in parts if not all(self.sim.circuit.number_of.get(t) for t in c.terminals)]
                    if open_ends and all(self._closed(c) for c in parts):
                        missing += [c.name for c in open_ends]
        if not missing:
            return ""
        return (
            f"because {' and '.join(dict.fromkeys(missing))} {'is' if len(set(missing)) == 1 else 'are'} not wired yet"
        )

    def _closed(self, c: Contact) -> bool:
        assert self.full is not None and self.other is not None
        return self.other.positions[self.full.engine.index[c.device]] in c.closed_in

    def waits(self) -> None:
        """Let the time relays that are running run out."""
        for _ in range(WAITS):
            running = [at for i, following, at in self.state.due if timed(self.sim, i) and following]
            if not running:
                return
            left = min(running) - self.state.time_s
            if left > LONGEST_WAIT_S:
                return
            self.step(f"wait {ceil(left + 0.5):g}")


def in_words(circuit: Circuit, do: str) -> str:
    """An operation as it is said to a fitter.

    Examples
    --------
    >>> from volmek.core.circuit.schemes import circuit_of
    >>> from volmek.core.document.model import parse
    >>> c = circuit_of(parse({"tag": "A"}))
    >>> in_words(c, "press S2"), in_words(c, "wait 6"), in_words(c, "")
    ('Press S2 (start) and hold it', 'Wait 6 s', 'Close the breakers and touch nothing')
    """
    if not do:
        return "Close the breakers and touch nothing"
    verb, name, *rest = do.split()
    label = circuit.devices[name].label if name in circuit.devices else ""
    called = f"{name} ({label[0].lower()}{label[1:]})" if label else name
    return {
        "press": f"Press {called} and hold it", "release": f"Let {name} go", "turn": f"Turn {called} to {' '.join(rest)}",
        "voltage": f"Set the supply to {name} % of its voltage, or lower the monitor's threshold", "trip": f"Trip {name} with its test button", "reset": f"Reset {name}", "wait": f"Wait {name} s", "lose": f"Take {name} away before the monitor",
        "restore": f"Bring {name} back", "open": f"Open {called}", "close": f"Close {called}",
    }[verb]  # fmt: skip


#: What a motor does that is not driven.
RESTS = {"stands": "still", "coasts": "to a stop", "hums": "and does not start"}
#: Longest that a step waits for a time relay, and how often in one test.
LONGEST_WAIT_S, WAITS = 120.0, 4


OTHER = {"press": "release", "turn": "turn", "open": "close", "close": "open"}


WORDS = {
    "in": "{} is in", "out": "{} is out", "on": "{} is energised", "off": "{} is de-energised", "lit": "{} is on", "dark": "{} is off",
    "closed": "{} stays closed", "tripped": "{} has tripped", "open": "{} is open", "chatters": "{} chatters",
}  # fmt: skip


MOVES = {
    ("out", "in"): "{} pulls in", ("in", "out"): "{} drops out", ("off", "on"): "{} is energised", ("on", "off"): "{} is de-energised",
    ("dark", "lit"): "{} comes on", ("lit", "dark"): "{} goes off", ("closed", "open"): "{} trips", ("closed", "tripped"): "{} trips", ("tripped", "closed"): "{} is closed again",
    ("open", "closed"): "{} is closed",
}  # fmt: skip
