"""The circuit in time: an unchanging state, operations on it, and the events that follow."""

import re
from collections.abc import Iterator
from dataclasses import dataclass, field, replace

from volmek.core.circuit.kernel.dynamics import STEP_S, Dynamics, usual
from volmek.core.circuit.kernel.engine import Engine, Positions
from volmek.core.circuit.kernel.feed import Feed
from volmek.core.circuit.kernel.power import PowerNet, PowerState
from volmek.core.circuit.model.netlist import (
    FULL,
    GOING_IN,
    GOING_OUT,
    HALF,
    HELD,
    IN,
    OFF,
    OUT,
    PAUSE,
    PRESSED,
    RAMPING,
    RAMPING_DOWN,
    REST,
    Circuit,
)
from volmek.core.document.errors import Problem, ProblemError

#: Times of contactors and relays [s]: break contacts part, poles meet, poles part, break contacts meet.
CONTACTOR_S = {GOING_IN: 0.012, IN: 0.008, GOING_OUT: 0.010, OUT: 0.012, HELD: 0.012}
RELAY_S = {GOING_IN: 0.006, IN: 0.005, GOING_OUT: 0.005, OUT: 0.006, HELD: 0.006}
BUTTON_S, TIMER_RESET_S, SEEN_S = 0.02, 0.03, 0.2
#: Coil voltage in per cent: pulls in from, holds down to.
PULLS_IN_PCT, HOLDS_PCT = 85.0, 60.0
UNDERVOLTAGE_PCT = 90.0
#: Speed above which a motor holds a lost phase up, and share of the phase-to-neutral voltage that it gives back.
FEEDS_BACK = 0.4
#: Speed at which a start capacitor is taken out.
SWITCHES_AT = 0.75
#: Times that a contactor begins to pull in, while nobody does anything, before it is called chatter.
MANY = 40
LINES = ("L1", "L2", "L3")
OPERATIONS = (
    "press X, release X, turn X POSITION, trip F1, reset F1, lose L1|L2|L3|N|C, restore L1|L2|L3|N|C, swap L1 L2, voltage PCT, open X, close X, "
    "push K1, let K1, wait SECONDS"
)


@dataclass(frozen=True, slots=True)
class State:
    """Everything that changes.

    Attributes
    ----------
    time_s : since the beginning
    positions : of every device, in the engine's order
    due : devices that are about to move, with position and time
    lost : lines that are away
    swapped : lines that are exchanged at the supply
    voltage_pct : of the supply
    pushed : contactors that are held in by hand
    speed : share of synchronous speed, negative in reverse
    heat : of the overload relay, 1 trips
    amps : motor current over rated current
    """

    time_s: float
    positions: Positions
    due: tuple[tuple[int, int, float], ...] = ()
    lost: frozenset[str] = frozenset()
    swapped: tuple[str, str] | None = None
    voltage_pct: float = 100.0
    pushed: frozenset[str] = frozenset()
    speed: float = 0.0
    heat: float = 0.0
    amps: float = 0.0


@dataclass(frozen=True, slots=True)
class Event:
    """Something that happened."""

    time_s: float
    device: str
    words: str


def chatter(name: str, time_s: float) -> Event:
    """The event of a contactor that pulls in again and again."""
    return Event(time_s, name, f"{name} chatters: its coil drops out through its own contact and pulls in again")


@dataclass
class Simulator:
    """A circuit, and how its motor and relay behave."""

    circuit: Circuit
    dynamics: Dynamics = field(default_factory=lambda: usual(2.0))
    with_engine: Engine | None = None
    loss_delay_s: float = SEEN_S
    on_delay_s: float = 1.0
    current_limit: float = 3.5
    engine: Engine = field(init=False)

    def __post_init__(self) -> None:
        self.engine = self.with_engine or Engine(self.circuit)
        self.power = PowerNet(self.circuit)
        self.feed = Feed(self.circuit)
        self.overloads = [self.engine.index[x] for x in self.circuit.of_kind("overload")]
        self.monitor = self.engine.index.get("F2")
        self.main = self.engine.index.get("Q1")

    def begin(self) -> State:
        """At rest, under voltage."""
        state, _ = self._prepared(State(0.0, self.engine.at_rest()))
        return state

    # What is live

    def present(self, s: State) -> tuple[tuple[str, str], ...]:
        """Which line stands at which supply terminal."""
        exchanged = dict(zip(s.swapped, s.swapped[::-1], strict=True)) if s.swapped else {}
        return tuple((t, exchanged.get(t, t)) for t in self.power.sources if exchanged.get(t, t) not in s.lost)

    def electrical(self, s: State) -> PowerState:
        """The power circuit as it is now."""
        return self.power.state(self.engine.closed_poles(s.positions), self.present(s))

    def supplied(self, s: State) -> bool:
        """The control rails have their voltage: every breaker on the way is closed, and its conductors are there or the motor gives one back."""
        at = self.engine.where(s.positions)
        there = frozenset(x for x in self.circuit.conductors if x not in s.lost)
        if self.feed.alive(at, there):
            return True
        away = [p for p in self.circuit.source.feeds if p in s.lost]
        if len(s.lost) != 1 or away == ["N"] or not away or self.circuit.single_phase:
            return False
        return abs(s.speed) > FEEDS_BACK and self._fed(s) and self.feed.alive(at, there | s.lost)

    def _fed(self, s: State) -> bool:
        return any(s.positions[self.engine.index[k]] in (IN, GOING_OUT) for k in self.circuit.feeders)

    def live(self, s: State) -> frozenset[str]:
        """Coils and inputs that are live enough to pull in or hold."""
        if not self.supplied(s):
            return frozenset()
        live = self.engine.live_loads(self.engine.closed(s.positions))
        if s.voltage_pct < PULLS_IN_PCT:
            holding = s.voltage_pct >= HOLDS_PCT
            at = {x: s.positions[self.engine.index[x]] for x in live}
            live = frozenset(x for x in live if holding and at[x] not in (OUT, HELD, GOING_OUT))
        return live

    def lamps(self, s: State) -> dict[str, bool]:
        """Lamps, buzzers and heaters that are on."""
        lit = self.engine.shown_live(self.engine.closed(s.positions)) if self.supplied(s) else frozenset()
        if "LF5" in self.circuit.sources and not self.supplied(s):
            lit = frozenset(x for x in self.engine.shown_live(self.engine.closed(s.positions)) if x in ("E1", "P8"))
        return {x.device: x.device in lit for x in self.engine.shown}

    # Moving by itself

    def _wanted(self, s: State) -> dict[int, tuple[int, float]]:
        """Devices that are about to move: position and delay."""
        live, e = self.live(s), self.engine
        found: dict[int, tuple[int, float]] = {}
        for load in e.loads:
            i, name = e.index[load.device], load.device
            following = e.follows(i, s.positions[i], name in live or name in s.pushed, s.positions)
            if following is not None:
                found[i] = (following, self._delay(i, s.positions[i], following))
        for name in s.pushed:
            i = e.index[name]
            following = e.follows(i, s.positions[i], True, s.positions)
            if following is not None:
                found[i] = (following, self._delay(i, s.positions[i], following))
        self._watch(s, found)
        speed = self.engine.index.get("B5")
        if speed is not None:  # opens near three quarters of the speed, and closes again as the motor slows down
            wanted = 1 if abs(s.speed) > SWITCHES_AT else 0
            if wanted != s.positions[speed]:
                found[speed] = (wanted, SEEN_S / 10)
        return found

    def _delay(self, i: int, position: int, following: int) -> float:
        device, kind = self.circuit.devices[self.engine.names[i]], self.engine.kinds[i]
        if kind == "contactor":
            return CONTACTOR_S[following]
        if kind == "relay":
            return RELAY_S[following]
        if kind in ("timer", "star_delta_timer") and following == 0:
            return TIMER_RESET_S
        if kind == "timer":
            return device.time_s if following == 2 else 0.0
        if kind == "star_delta_timer":
            return {2: device.time_s, 3: device.pause_s}.get(following, 0.0)
        if kind == "soft_starter":
            return {FULL: device.time_s, OFF: device.pause_s, RAMPING: 0.05, RAMPING_DOWN: 0.0}[following]
        del position
        return 0.0

    def _watch(self, s: State, found: dict[int, tuple[int, float]]) -> None:
        """The phase monitor, on the side where it is tapped."""
        if self.monitor is None:
            return
        sequence = s.swapped is None
        # Behind the contactor it sees what the contactor lets through.
        there = not self.circuit.monitor_behind or self._fed(s)
        lost = s.lost if self.circuit.watches_neutral else s.lost - {"N"}
        measured = self.circuit.monitor_behind or self.main is None or s.positions[self.main] == 1
        lost = lost & {*self.circuit.supply.taken, *(["N"] if self.circuit.watches_neutral else [])}
        healthy = there and measured and not lost and sequence and s.voltage_pct >= UNDERVOLTAGE_PCT
        at = s.positions[self.monitor]
        quick = not self.circuit.monitor_behind or bool(lost)
        if healthy and at == 0:
            found[self.monitor] = (1, self.on_delay_s if not self.circuit.monitor_behind else SEEN_S)
        elif not healthy and at == 1:
            found[self.monitor] = (0, self.loss_delay_s if quick else 0.05)

    def _prepared(self, s: State) -> tuple[State, bool]:
        """With what is due brought up to date; a device that goes on as before keeps its time."""
        wanted = self._wanted(s)
        kept = {i: (following, at) for i, following, at in s.due}
        due = []
        for i, (following, delay) in wanted.items():
            old = kept.get(i)
            due.append((i, following, old[1] if old and old[0] == following else s.time_s + delay))
        buttons = [x for x in s.due if self.engine.kinds[x[0]] in ("button", "emergency_stop")]
        whole = tuple(due + buttons)
        return (s if whole == s.due else replace(s, due=whole)), bool(due)

    def advance(self, s: State, seconds: float, events: list[Event] | None = None) -> State:
        """Let time pass.

        Parameters
        ----------
        seconds : how long [s], >= 0
        events : gathers what happened
        """
        log: list[Event] = [] if events is None else events
        end = s.time_s + seconds
        began: dict[int, int] = {}
        while True:
            s, _ = self._prepared(s)
            nearest = min((at for _, _, at in s.due), default=end + 1)
            stop = min(nearest, end)
            s = self._turn(s, stop, log)
            if s.time_s < stop - 1e-9:
                continue  # the overload tripped on the way
            if nearest > end + 1e-12:
                return s
            before = s.positions
            s = self._move(s, log)
            for i in self.begins(before, s.positions):
                began[i] = began.get(i, 0) + 1
                if began[i] >= MANY:
                    log.append(chatter(self.engine.names[i], s.time_s))
                    return self._turn(s, end, log)

    def begins(self, before: Positions, after: Positions) -> list[int]:
        """Contactors and relays that begin to pull in."""
        return [
            i for i, kind in enumerate(self.engine.kinds)
            if kind in ("contactor", "relay") and before[i] == OUT and after[i] == GOING_IN
        ]  # fmt: skip

    def _move(self, s: State, log: list[Event]) -> State:
        now = [x for x in s.due if x[2] <= s.time_s + 1e-12]
        positions = list(s.positions)
        due = [x for x in s.due if x[2] > s.time_s + 1e-12]
        for i, following, _ in now:
            before, positions[i] = positions[i], following
            if words := self._said(i, before, following):
                log.append(Event(s.time_s, self.engine.names[i], words))
            if self.engine.kinds[i] in ("button", "emergency_stop") and following == HALF:
                due.append((i, PRESSED if before == REST else REST, s.time_s + BUTTON_S))
        s = replace(s, positions=tuple(positions), due=tuple(due))
        return self._shorts(s, log)

    def _said(self, i: int, before: int, following: int) -> str:
        name, kind = self.engine.names[i], self.engine.kinds[i]
        if kind in ("contactor", "relay"):
            if following == IN:
                return f"{name} pulls in"
            return f"{name} drops out" if before == GOING_OUT and following in (OUT, HELD) else ""
        if kind == "timer":
            return {1: f"{name} runs", 2: f"{name} has run out", 0: f"{name} resets"}[following]
        if kind == "star_delta_timer":
            return {1: f"{name} star", PAUSE: f"{name} pause", 3: f"{name} delta", 0: f"{name} resets"}[following]
        if kind == "soft_starter":
            return {RAMPING: f"{name} ramps up", FULL: f"{name} is at the top of its ramp", RAMPING_DOWN: f"{name} ramps down",
                    OFF: f"{name} is off"}[following]  # fmt: skip
        if name == "B5":
            return "B5 opens: the start capacitor is out" if following else "B5 closes"
        if kind == "monitor":
            return f"{name} sees healthy phases" if following else f"{name} drops out: the phases are not healthy"
        return ""

    def _shorts(self, s: State, log: list[Event]) -> State:
        """What joins two lines trips the main breaker; what joins live and return trips the control breaker."""
        power = self.power.state(self.engine.closed_poles(s.positions, arcing=True), self.present(s))
        positions = list(s.positions)
        if power.shorts and self.main is not None and positions[self.main]:
            a, b = power.shorts[0]
            what = f"{a} and {b} are joined" if a != b else f"the winding of {a} is shorted"
            burning = [k for k in self.circuit.power_contactors if positions[self.engine.index[k]] in (IN, GOING_OUT)]
            log.append(
                Event(
                    s.time_s, "Q1", f"Short circuit: {what} through {' and '.join(burning) or 'the wiring'}; Q1 trips"
                )
            )
            positions[self.main] = 0
        control = self.engine.index.get("F3")
        if control is not None and positions[control] and self.engine.control_short(self.engine.closed(s.positions)):
            wires = ", ".join(self.engine.short_way(self.engine.closed(s.positions)))
            log.append(
                Event(s.time_s, "F3", f"Short circuit in the control circuit: F3 trips, before wire {wires} burns")
            )
            positions[control] = 0
        return replace(s, positions=tuple(positions))

    def _turn(self, s: State, until: float, log: list[Event]) -> State:
        """Speed and heat up to a time; ends early where the overload trips."""
        power = self.electrical(s)
        factor = s.voltage_pct / 100
        limit = self.current_limit if self._ramping(s) else None
        positive, negative = power.positive * factor, power.negative * factor
        steps = self.circuit.rotor_steps
        rings = max(
            (k for k, name in enumerate(steps, 1) if s.positions[self.engine.index[name]] in (IN, GOING_OUT)), default=0
        )
        speed, heat, amps, now = s.speed, s.heat, s.amps, s.time_s
        if power.connection == "off" and speed == 0 and heat == 0:
            return replace(s, time_s=max(until, now), amps=0.0)  # nothing turns and nothing cools
        tripped = any(s.positions[i] for i in self.overloads)
        while now < until - 1e-12:
            dt = min(STEP_S if until - now < 5 else 2 * STEP_S, until - now)
            following, amps = self.dynamics.step(speed, positive, negative, dt, power.connection, limit, rings)
            heat = self.dynamics.heated(heat, amps, dt)
            now += dt
            steady = abs(following - speed) < 1e-6 and until - now > 1
            speed = following
            if heat >= 1 and not tripped and self.overloads:
                i = self.overloads[0]
                log.append(Event(now, self.engine.names[i], f"{self.engine.names[i]} trips on overload"))
                positions = list(s.positions)
                positions[i] = 1
                return replace(s, time_s=now, positions=tuple(positions), speed=speed, heat=heat, amps=amps)
            if steady and (self.dynamics.edge is None or self.dynamics.heated(heat, amps, 1e6) < 1):
                heat = self.dynamics.heated(heat, amps, until - now)
                now = until
        return replace(s, time_s=max(until, s.time_s), speed=speed, heat=heat, amps=amps)

    def _ramping(self, s: State) -> bool:
        i = self.engine.index.get("G1")
        return i is not None and s.positions[i] in (RAMPING, RAMPING_DOWN)

    # Operating it

    def operate(self, s: State, operation: str, events: list[Event] | None = None) -> State:
        """One operation; what follows from it comes with time.

        Raises
        ------
        ProblemError : an operation that this circuit does not know.
        """
        log: list[Event] = [] if events is None else events
        words = operation.split()
        if not words:
            raise _unknown(operation)
        verb, rest = words[0], words[1:]
        if verb == "wait" and len(rest) == 1:
            return self.advance(s, _number(rest[0], operation, 0, 3600), log)
        if verb == "voltage" and len(rest) == 1:
            return self._done(replace(s, voltage_pct=_number(rest[0].rstrip("%"), operation, 0, 150)))
        if verb in ("lose", "restore") and len(rest) == 1 and rest[0] in (*LINES, "N", "C"):
            lost = s.lost | {rest[0]} if verb == "lose" else s.lost - {rest[0]}
            return self._done(replace(s, lost=lost))
        if verb == "swap" and len(rest) == 2 and all(x in LINES for x in rest) and rest[0] != rest[1]:
            return self._done(replace(s, swapped=None if s.swapped else (rest[0], rest[1])))
        if not rest or rest[0] not in self.engine.index:
            raise _unknown(operation)
        return self._done(self._operate_device(s, verb, rest, operation))

    def _done(self, s: State) -> State:
        return self._prepared(s)[0]

    def _operate_device(self, s: State, verb: str, rest: list[str], operation: str) -> State:
        name = rest[0]
        i = self.engine.index[name]
        kind = self.engine.kinds[i]
        if verb in ("press", "release") and kind in ("button", "emergency_stop") and len(rest) == 1:
            wanted = PRESSED if verb == "press" else REST
            if s.positions[i] == wanted:
                return s
            due = [x for x in s.due if x[0] != i]
            halfway = self._put(s, i, HALF)
            return replace(halfway, due=(*due, (i, wanted, s.time_s + BUTTON_S)))
        if verb == "turn" and kind == "selector" and len(rest) == 2:
            positions = self.circuit.devices[name].positions
            if rest[1] in positions:
                return self._put(s, i, positions.index(rest[1]))
            raise _unknown(operation, f"{name} has the positions {', '.join(positions)}")
        if verb in ("trip", "reset") and kind == "overload":
            after = self._put(s, i, 1 if verb == "trip" else 0)
            return replace(after, heat=0.0) if verb == "reset" else after
        if verb in ("open", "close") and kind in ("breaker", "field"):
            # A contact that opens on what it watches is closed at rest.
            acts = "open" if self.circuit.devices[name].opens else "close"
            return self._put(s, i, 1 if verb == acts else 0)
        if verb in ("push", "let") and kind in ("contactor", "relay"):
            return replace(s, pushed=s.pushed | {name} if verb == "push" else s.pushed - {name})
        raise _unknown(operation)

    @staticmethod
    def _put(s: State, i: int, position: int) -> State:
        return replace(s, positions=(*s.positions[:i], position, *s.positions[i + 1 :]))

    def motor(self, s: State) -> dict[str, object]:
        """Connection, speed and direction of rotation."""
        power = self.electrical(s)
        direction = power.direction
        if abs(s.speed) > 0.02:
            direction = "forward" if s.speed > 0 else "reverse"
            if self.circuit.single_phase and power.direction != "none":
                direction = power.direction
        elif power.connection == "off":
            direction = "none"
        return {"connection": power.connection, "speed_pct": round(100 * abs(s.speed), 1), "direction": direction}


def operations(text: str) -> Iterator[str]:
    """Operations of a script, set apart by semicolons.

    Examples
    --------
    >>> list(operations("press S2; wait 0.5;release S2"))
    ['press S2', 'wait 0.5', 'release S2']
    """
    for part in re.split(r"[;\n]", text):
        if part.strip():
            yield " ".join(part.split())


def _number(text: str, operation: str, low: float, high: float) -> float:
    try:
        value = float(text)
    except ValueError:
        raise _unknown(operation) from None
    if not low <= value <= high:
        raise _unknown(operation, f"{text} is not from {low:g} to {high:g}")
    return value


def _unknown(operation: str, why: str = "") -> ProblemError:
    return ProblemError(
        [Problem("do", f"'{operation}' cannot be done here{': ' + why if why else ''}; operations: {OPERATIONS}")]
    )
