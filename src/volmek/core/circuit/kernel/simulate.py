"""The circuit in time: an unchanging state, operations on it, and the events that follow."""

from dataclasses import dataclass, field
from math import inf
from typing import TypedDict

from volmek.core.circuit.kernel.dynamics import STEP_S, Dynamics, usual
from volmek.core.circuit.kernel.engine import Engine, Positions
from volmek.core.circuit.kernel.feed import Feed
from volmek.core.circuit.kernel.operations import number_in, unknown_operation
from volmek.core.circuit.kernel.power import PowerNet, PowerState
from volmek.core.circuit.kernel.state import BURNS_S, BUTTON_S, LEFT_IN_S, SEEN_S, Event, MonitorSet, State
from volmek.core.circuit.model.behaviour import (
    GOING_IN,
    GOING_OUT,
    HALF,
    HELD,
    IN,
    OUT,
    PRESSED,
    RAMPING,
    RAMPING_DOWN,
    REST,
    BreakerState,
    EventKind,
    MonitorState,
    OverloadState,
)
from volmek.core.circuit.model.netlist import Circuit
from volmek.core.installation.designations import OVERLOAD

#: Coil voltage in per cent: pulls in from, holds down to.
PULLS_IN_PCT, HOLDS_PCT = 85.0, 60.0
#: A monitor without supply drops out after this, whatever its delay [s]; and its hysteresis [% of rated voltage].
UNSUPPLIED_S, HYSTERESIS_PCT = 0.05, 5.0
#: Speed above which a motor holds a lost phase up, and share of the phase-to-neutral voltage that it gives back.
FEEDS_BACK = 0.4
#: Speed at which the switch of a start winding opens, and at which it closes again.
SWITCHES_AT, SWITCHES_BACK_AT = 0.75, 0.35
#: Times that a contactor begins to pull in, while nobody does anything, before it is called chatter.
MANY = 40
LINES = ("L1", "L2", "L3")


#: Speed above which a single-phase motor goes on by its main winding alone.
GOES_ON_AT = 0.2


def one_phase(power: PowerState, speed: float, factor: float) -> tuple[float, float]:
    """Voltages ahead and against of a single-phase motor, by its start winding and the way in which it turns.

    Without start winding it has no torque at standstill and hums; turning, it goes on as it turns, whatever is asked.

    Parameters
    ----------
    power : of its circuit
    speed : share of synchronous speed
    factor : voltage over rated voltage

    Examples
    --------
    >>> idle = PowerState((), {}, "single", 1.0, 0.0, "none", frozenset())
    >>> one_phase(idle, 0.0, 1.0), one_phase(idle, 0.9, 1.0)
    ((1.0, 1.0), (1.0, 0.0))
    """
    main = power.positive * factor
    turning = abs(speed) > GOES_ON_AT
    if turning and (power.direction == "none" or power.through_capacitor):
        return (main, 0.0) if speed > 0 else (0.0, main)
    if power.direction == "none":
        return main, main
    return (main, 0.0) if power.direction == "forward" else (0.0, main)


class MotorNow(TypedDict):
    """The motor at a moment: connection, speed in per cent of synchronous speed, direction of rotation."""

    connection: str
    speed_pct: float
    direction: str


@dataclass
class Simulator:
    """A circuit, and how its motor and relay behave.

    Attributes
    ----------
    circuit, dynamics, monitor_set : what is simulated
    with_engine : of a circuit that is damaged; None for that of ``circuit``
    current_limit : of a soft starter, over rated current
    turns : its motor turns; else it stands, for who asks about contactors only
    """

    circuit: Circuit
    dynamics: Dynamics = field(default_factory=lambda: usual(2.0))
    with_engine: Engine | None = None
    monitor_set: MonitorSet = field(default_factory=MonitorSet)
    current_limit: float = 3.5
    turns: bool = True
    engine: Engine = field(init=False)

    def __post_init__(self) -> None:
        self.engine = self.with_engine or Engine(self.circuit)
        self.power = PowerNet(self.circuit)
        self.feed = Feed(self.circuit)
        self.overloads = [self.engine.index[x] for x in self.circuit.overloads]
        self.monitor = self.engine.index.get(self.circuit.monitor)
        self.main = self.engine.index.get(self.circuit.named("main_breaker"))
        self.winding_switch = self.engine.index.get(self.circuit.named("winding_switch"))

    def begin(self, events: list[Event] | None = None) -> State:
        """At rest, under voltage; wired so that it shorts before anything moves, its breaker has opened.

        Parameters
        ----------
        events : gathers what happened
        """
        return self._done([] if events is None else events, State(0.0, self.engine.at_rest()))

    # What is live

    def present(self, s: State) -> tuple[tuple[str, str], ...]:
        """Line at each supply terminal."""
        exchanged = dict(zip(s.swapped, s.swapped[::-1], strict=True)) if s.swapped else {}
        return tuple((t, exchanged.get(t, t)) for t in self.power.sources if exchanged.get(t, t) not in s.lost)

    def electrical(self, s: State) -> PowerState:
        """The power circuit as it is now."""
        return self.power.state(self.engine.closed_poles(s.positions), self.present(s))

    def there(self, s: State) -> frozenset[str]:
        """Conductors at the incomer that are not lost."""
        return frozenset(x for x in self.circuit.conductors if x not in s.lost)

    def supplied(self, s: State) -> bool:
        """The control rails have their voltage: every breaker on the way is closed, and its conductors are there or the motor gives one back."""
        at = self.engine.where(s.positions)
        there = self.there(s)
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
        live = self.engine.acting(self.engine.closed(s.positions), lambda x: s.positions[self.engine.index[x]])
        if s.voltage_pct < PULLS_IN_PCT:
            holding = s.voltage_pct >= HOLDS_PCT
            at = {x: s.positions[self.engine.index[x]] for x in live}
            live = frozenset(x for x in live if holding and at[x] not in (OUT, HELD, GOING_OUT))
        return live

    def lamps(self, s: State) -> dict[str, bool]:
        """Lamps, buzzers and heaters that are on."""
        lit = self.engine.shown_live(self.engine.closed(s.positions)) if self.supplied(s) else frozenset()
        if "LF5" in self.circuit.sources and not self.supplied(s):
            foreign = {x.device for x in self.engine.foreign}
            lit = frozenset(x for x in self.engine.shown_live(self.engine.closed(s.positions)) if x in foreign)
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
        self._start_switch(s, found)
        return found

    def _start_switch(self, s: State, found: dict[int, tuple[int, float]]) -> None:
        """The switch of a start winding that acts on the motor's speed, current or voltage."""
        i = self.winding_switch
        if i is None:
            return
        fast = abs(s.speed) > (SWITCHES_AT if s.positions[i] == 0 else SWITCHES_BACK_AT)
        wanted = int(fast)
        if (
            self.circuit.devices[self.engine.names[i]].form == "current_relay"
        ):  # at rest it is open; the starting current closes it
            wanted = 0 if self._fed(s) and abs(s.speed) < SWITCHES_AT else 1
        if wanted != s.positions[i]:
            found[i] = (wanted, SEEN_S / 10)

    def _delay(self, i: int, position: int, following: int) -> float:
        return self.engine.behaviours[i].delay_s(self.circuit.devices[self.engine.names[i]], position, following)

    def _watch(self, s: State, found: dict[int, tuple[int, float]]) -> None:
        """The phase monitor, by the voltages of the lines that it is connected to and by its settings."""
        if self.monitor is None:
            return
        delay = self._unhealthy(s)
        at = s.positions[self.monitor]
        if delay is None and at == MonitorState.DROPPED:
            found[self.monitor] = (
                MonitorState.HEALTHY,
                self.monitor_set.on_delay_s if not self.circuit.monitor_behind else SEEN_S,
            )
        elif delay is not None and at == MonitorState.HEALTHY:
            found[self.monitor] = (MonitorState.DROPPED, delay)

    def _unhealthy(self, s: State) -> float | None:
        """Delay after which the monitor drops out, None where it detects no fault."""
        m = self.monitor_set
        lines = self.circuit.supply.taken_lines
        lost = [x for x in lines if x in s.lost]
        behind_main = self.main is None or s.positions[self.main] == BreakerState.CLOSED
        if (self.circuit.monitor_behind and not self._fed(s)) or not behind_main or len(lost) == len(lines):
            return UNSUPPLIED_S
        delays = []
        if lost and self._sees_loss(s):
            delays.append(m.loss_delay_s)
        if m.sequence and s.swapped is not None:
            delays.append(m.loss_delay_s)
        if "N" in s.lost and m.neutral and self.circuit.watches_neutral:
            delays.append(m.loss_delay_s)
        assert self.monitor is not None
        inside = HYSTERESIS_PCT if s.positions[self.monitor] == MonitorState.DROPPED else 0.0
        if s.voltage_pct < m.undervoltage_pct + inside - 1e-9 or s.voltage_pct > m.overvoltage_pct - inside + 1e-9:
            delays.append(m.voltage_delay_s)
        return min(delays, default=None)

    def _sees_loss(self, s: State) -> bool:
        """A lost line is seen; behind a closed contactor the motor gives a voltage back that can hide it."""
        m = self.monitor_set
        turning = abs(s.speed) > FEEDS_BACK and self._fed(s)
        if not turning or m.asymmetry_pct is None or m.lost_leaves_pct is None:
            return True
        return m.asymmetry_pct < m.lost_leaves_pct

    def _prepared(self, s: State) -> tuple[State, bool]:
        """State with its due times brought up to date; a device that is unchanged keeps its time."""
        wanted = self._wanted(s)
        kept = {i: (following, at) for i, following, at in s.due}
        due = []
        for i, (following, delay) in wanted.items():
            old = kept.get(i)
            due.append((i, following, old[1] if old and old[0] == following else s.time_s + delay))
        buttons = [x for x in s.due if self.engine.kinds[x[0]] in ("button", "emergency_stop")]
        whole = tuple(due + buttons)
        return (s if whole == s.due else s._replace(due=whole)), bool(due)

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
                    log.append(Event(s.time_s, self.engine.names[i], "chatters"))
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
            if kind := self._happens(i, before, following):
                log.append(Event(s.time_s, self.engine.names[i], kind))
            if self.engine.kinds[i] in ("button", "emergency_stop") and following == HALF:
                due.append((i, PRESSED if before == REST else REST, s.time_s + BUTTON_S))
        s = s._replace(positions=tuple(positions), due=tuple(due))
        return self._shorts(s, log)

    def _happens(self, i: int, before: int, following: int) -> EventKind | None:
        if i == self.winding_switch:
            return "winding_switch_opens" if following else "winding_switch_closes"
        return self.engine.behaviours[i].event(before, following)

    def _shorts(self, s: State, log: list[Event]) -> State:
        """Short circuits: between lines they trip the main breaker, between live and return the control breaker."""
        shorts = self.power.shorts(self.engine.closed_poles(s.positions, arcing=True), self.present(s))
        positions = list(s.positions)
        if shorts and self.main is not None and positions[self.main] == BreakerState.CLOSED:
            a, b = shorts[0]
            burning = [f"{k} (welded)" if k in self.engine.welded | self.engine.held else k for k in self.circuit.power_contactors
                       if k in self.engine.held or positions[self.engine.index[k]] in (IN, GOING_OUT)]  # fmt: skip
            log.append(Event(s.time_s, self.engine.names[self.main], "short_circuit", (a, b, *burning)))
            positions[self.main] = self._tripped(self.main)
        control = self.engine.index.get(self.circuit.named("control_breaker"))
        shorted = self.engine.control_short(self.engine.closed(s.positions))
        if control is not None and positions[control] and shorted and self.supplied(s):
            wires = self.engine.short_way(self.engine.closed(s.positions))
            log.append(Event(s.time_s, self.engine.names[control], "control_short", tuple(wires)))
            positions[control] = 0
        return s if positions == list(s.positions) else s._replace(positions=tuple(positions))

    def _tripped(self, i: int) -> int:
        """The position of an overload relay or breaker that has tripped."""
        if self.engine.kinds[i] == "overload":
            return OverloadState.TRIPPED
        return (
            BreakerState.TRIPPED
            if self.circuit.devices[self.engine.names[i]].form == "motor_breaker"
            else BreakerState.OPEN
        )

    def _turn(self, s: State, until: float, log: list[Event]) -> State:
        """Speed and heat up to a time; ends early where the overload trips."""
        if not self.turns:
            return s._replace(time_s=max(until, s.time_s))
        power = self.electrical(s)
        factor = s.voltage_pct / 100
        limit = self.current_limit if self._ramping(s) else None
        positive, negative = power.positive * factor, power.negative * factor
        steps = self.circuit.rotor_steps
        rings = max(
            (k for k, name in enumerate(steps, 1) if s.positions[self.engine.index[name]] in (IN, GOING_OUT)), default=0
        )
        speed, heat, amps, now, winding = s.speed, s.heat, s.amps, s.time_s, s.winding_s
        if power.connection == "off" and speed == 0 and heat == 0:
            return s._replace(time_s=max(until, now), amps=0.0)  # nothing turns and nothing cools
        tripped = any(s.positions[i] != self.engine.behaviours[i].rest for i in self.overloads)
        single = self.circuit.single_phase
        while now < until - 1e-12:
            dt = min(STEP_S if until - now < 5 else 2 * STEP_S, until - now)
            if single:
                positive, negative = one_phase(power, speed, factor)
            following, amps = self.dynamics.step(speed, positive, negative, dt, power.connection, limit, rings)
            heat = self.dynamics.heated(heat, amps, dt)
            now += dt
            winding = self._winding(winding, power, speed, dt, now, log)
            steady = abs(following - speed) < 1e-6 and until - now > 1
            speed = following
            if heat >= 1 and not tripped and self.overloads:
                i = self.overloads[0]
                log.append(Event(now, self.engine.names[i], "trips"))
                positions = list(s.positions)
                positions[i] = self._tripped(i)
                return s._replace(
                    time_s=now, positions=tuple(positions), speed=speed, heat=heat, amps=amps, winding_s=winding
                )
            if steady and (winding == 0 or winding > BURNS_S):
                # Nothing but the relay's heat moves any more: on to where it trips, or to the end.
                trips = self.dynamics.trips_after_s(heat, amps) if self.overloads and not tripped else inf
                step = min(until - now, max(trips - STEP_S, 0.0))
                heat = self.dynamics.heated(heat, amps, step)
                now += step
        return s._replace(time_s=max(until, s.time_s), speed=speed, heat=heat, amps=amps, winding_s=winding)

    def _winding(
        self, seconds: float, power: PowerState, speed: float, dt: float, now: float, log: list[Event]
    ) -> float:
        """Time for which a start winding has stayed in; an event as it passes what the winding withstands."""
        if not self.circuit.start_switch or not power.start_winding:
            return 0.0
        after = seconds + dt
        if seconds < LEFT_IN_S <= after:
            log.append(Event(now, self.circuit.motor, "overheats"))
        if seconds < BURNS_S <= after:
            log.append(Event(now, self.circuit.motor, "damaged"))
        return after

    def _ramping(self, s: State) -> bool:
        soft = (i for i, kind in enumerate(self.engine.kinds) if kind == "soft_starter")
        return any(s.positions[i] in (RAMPING, RAMPING_DOWN) for i in soft)

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
            raise unknown_operation(operation)
        verb, rest = words[0], words[1:]
        if verb in ("wait", "pause") and len(rest) == 1:
            return self.advance(s, number_in(rest[0], operation, 0, 3600), log)
        if verb == "voltage" and len(rest) == 1:
            return self._done(log, s._replace(voltage_pct=number_in(rest[0].rstrip("%"), operation, 0, 150)))
        if verb in ("lose", "restore") and len(rest) == 1 and rest[0] in (*LINES, "N", "C"):
            lost = s.lost | {rest[0]} if verb == "lose" else s.lost - {rest[0]}
            return self._done(log, s._replace(lost=lost))
        if verb == "swap" and len(rest) == 2 and all(x in LINES for x in rest) and rest[0] != rest[1]:
            return self._done(log, s._replace(swapped=None if s.swapped else (rest[0], rest[1])))
        if (
            verb in ("trip", "reset")
            and rest == [OVERLOAD]
            and OVERLOAD not in self.engine.index
            and self.circuit.overloads
        ):
            rest = self.circuit.overloads[:1]  # operations call the overload protection so, whatever it is
        if not rest or rest[0] not in self.engine.index:
            raise unknown_operation(operation)
        return self._done(log, self._operate_device(s, verb, rest, operation))

    def _done(self, log: list[Event], s: State) -> State:
        """After an operation: a breaker that is closed onto a short trips at once."""
        return self._prepared(self._shorts(s, log))[0]

    def _operate_device(self, s: State, verb: str, rest: list[str], operation: str) -> State:
        name = rest[0]
        i = self.engine.index[name]
        kind, behaviour, device = self.engine.kinds[i], self.engine.behaviours[i], self.circuit.devices[name]
        if verb in ("push", "let") and kind in ("contactor", "relay"):
            return s._replace(pushed=s.pushed | {name} if verb == "push" else s.pushed - {name})
        if verb == "turn" and kind == "selector" and len(rest) == 2:
            if rest[1] in device.positions:
                return self._put(s, i, device.positions.index(rest[1]))
            raise unknown_operation(operation, f"{name} has the positions {', '.join(device.positions)}")
        if len(rest) != 1:
            raise unknown_operation(operation)
        if verb in ("trip", "reset") and device.trips:
            after = self._put(s, i, BreakerState.TRIPPED if verb == "trip" else BreakerState.CLOSED)
            return after._replace(heat=0.0) if verb == "reset" else after
        if verb in ("open", "close") and kind == "field":
            # A contact that opens on what it watches is closed at rest.
            acts = "open" if device.opens else "close"
            return self._put(s, i, 1 if verb == acts else 0)
        if verb not in behaviour.verbs:
            raise unknown_operation(operation)
        wanted = behaviour.verbs[verb]
        if kind in ("button", "emergency_stop"):
            if s.positions[i] == wanted:
                return s
            due = [x for x in s.due if x[0] != i]
            halfway = self._put(s, i, HALF)
            return halfway._replace(due=(*due, (i, wanted, s.time_s + BUTTON_S)))
        after = self._put(s, i, wanted)
        return after._replace(heat=0.0) if verb == "reset" else after

    @staticmethod
    def _put(s: State, i: int, position: int) -> State:
        return s._replace(positions=(*s.positions[:i], position, *s.positions[i + 1 :]))

    def motor(self, s: State) -> MotorNow:
        """Connection, speed and direction of rotation."""
        power = self.electrical(s)
        direction = power.direction
        if abs(s.speed) > 0.02:
            direction = "forward" if s.speed > 0 else "reverse"
        elif power.connection == "off":
            direction = "none"
        return {"connection": power.connection, "speed_pct": round(100 * abs(s.speed), 1), "direction": direction}
