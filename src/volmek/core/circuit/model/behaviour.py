"""Behaviour of each kind of device: its states, its times, what it answers to, and its words.

Engine, simulation, proof, continuity tests and drawing ask these objects; none of them tells kinds of device apart by itself.
"""

from collections.abc import Mapping
from dataclasses import dataclass, field
from enum import IntEnum
from typing import Literal, Protocol


class ContactorState(IntEnum):
    """A contactor or relay; HELD is out with one pole welded.

    Mirror contacts stay open then (IEC 60947-4-1, annex F); how a make contact stands nobody can tell: the simulation takes it as open, the proof tries both.
    """

    OUT, GOING_IN, IN, GOING_OUT, HELD = range(5)


class ButtonState(IntEnum):
    """A push-button or emergency stop; half-way both contacts are open."""

    REST, HALF, PRESSED = range(3)


class TimerState(IntEnum):
    """An on-delay relay."""

    IDLE, TIMING, DONE = range(3)


class StarDeltaState(IntEnum):
    """A star-delta relay, with a pause between star and delta."""

    IDLE, STAR, PAUSE, DELTA = range(4)


class SoftStarterState(IntEnum):
    """A soft starter with its ramps."""

    OFF, RAMPING, FULL, RAMPING_DOWN = range(4)


class BreakerState(IntEnum):
    """A breaker, fuse or motor breaker; tripped differs from off, since its signalling contacts do."""

    OPEN, CLOSED, TRIPPED = range(3)


class OverloadState(IntEnum):
    """An overload relay."""

    READY, TRIPPED = range(2)


class MonitorState(IntEnum):
    """A phase monitor: energised while the phases are healthy."""

    DROPPED, HEALTHY = range(2)


class FieldState(IntEnum):
    """A field contact: at rest, or on what it watches."""

    REST, ACTS = range(2)


OUT, GOING_IN, IN, GOING_OUT, HELD = ContactorState
REST, HALF, PRESSED = ButtonState
IDLE, TIMING, DONE = TimerState
STAR, PAUSE, DELTA = StarDeltaState.STAR, StarDeltaState.PAUSE, StarDeltaState.DELTA
OFF, RAMPING, FULL, RAMPING_DOWN = SoftStarterState

DeviceKind = Literal[
    "contactor", "relay", "timer", "star_delta_timer", "button", "emergency_stop", "selector", "overload", "monitor", "breaker",
    "field", "lamp", "buzzer", "heater", "soft_starter", "motor", "resistor", "transformer", "capacitor", "strip",
]  # fmt: skip
EventKind = Literal[
    "pulls_in",
    "drops_out",
    "trips",
    "runs",
    "runs_out",
    "resets",
    "star",
    "pause",
    "delta",
    "ramps_up",
    "full_voltage",
    "ramps_down",
    "off",
    "healthy",
    "unhealthy",
    "winding_switch_opens",
    "winding_switch_closes",
    "short_circuit",
    "control_short",
    "chatters",
    "operation",
    "overheats",
    "damaged",
]


class Settings(Protocol):
    """Data of a device that its behaviour needs."""

    @property
    def designation(self) -> str: ...
    @property
    def positions(self) -> tuple[str, ...]: ...
    @property
    def closed_in(self) -> Mapping[str, tuple[int, ...]]: ...
    @property
    def time_s(self) -> float: ...
    @property
    def pause_s(self) -> float: ...
    @property
    def opens(self) -> bool: ...
    @property
    def form(self) -> str: ...


@dataclass(frozen=True, slots=True)
class Behaviour:
    """A kind of device that nothing moves.

    Attributes
    ----------
    states : its states
    rest : the state it begins in, under voltage and untouched
    verbs : operations from outside, with the state that each leads to
    coil : it is moved by a load of its own
    dead_verb : how a hand moves its contacts with everything dead; empty where none can
    undo : operation that takes each back
    """

    states: type[IntEnum] | None = None
    rest: int = 0
    verbs: Mapping[str, int] = field(default_factory=dict)
    coil: bool = False
    dead_verb: str = ""
    undo: Mapping[str, str] = field(default_factory=dict)

    def contact(self, device: Settings, a: str, b: str) -> frozenset[int]:
        """States in which a contact is closed, by its terminals."""
        raise ValueError(f"{device.designation} has no contact {a}-{b}")

    def follows(
        self, at: int, *, live: bool, held: bool = False, locked: bool = False, coarse: bool = False
    ) -> int | None:
        """Next state, None while it does not change.

        Parameters
        ----------
        at : its state
        live : its coil has voltage
        held : a welded pole keeps its armature from falling back
        locked : a lever of another contactor holds it out
        coarse : in or out, without the moments between
        """
        return None

    def delay_s(self, device: Settings, at: int, following: int) -> float:
        """Time until the state that follows [s]."""
        return 0.0

    def event(self, before: int, after: int) -> EventKind | None:
        """Event of a change of state; None where the log has none."""
        return None

    def values(self, device: Settings, contacts: int) -> tuple[int, ...]:
        """States that an input takes in the proof, in the order in which they follow each other."""
        return (0, 1)

    def operation(self, device: Settings, before: int, after: int) -> str:
        """Operation that takes an input from one state to another; empty on the way through a state."""
        return ""


def _last(a: str, b: str) -> str:
    return a[-1] + b[-1]


@dataclass(frozen=True, slots=True)
class _Contactor(Behaviour):
    times_s: Mapping[int, float] = field(default_factory=dict)

    def contact(self, device: Settings, a: str, b: str) -> frozenset[int]:
        if len(a) == 1:
            return frozenset({IN})
        return {
            "34": frozenset({IN}),
            "14": frozenset({IN}),
            "12": frozenset({OUT}),
            "56": frozenset({OUT, GOING_IN, GOING_OUT}),
        }[_last(a, b)]

    def follows(
        self, at: int, *, live: bool, held: bool = False, locked: bool = False, coarse: bool = False
    ) -> int | None:
        rest = HELD if held else OUT
        if not live:
            return {GOING_IN: rest, IN: rest if coarse else GOING_OUT, GOING_OUT: rest}.get(ContactorState(at))
        if at in (OUT, HELD) and locked:
            return None
        first = IN if coarse else GOING_IN
        return {OUT: first, HELD: first, GOING_IN: IN, GOING_OUT: IN}.get(ContactorState(at))

    def delay_s(self, device: Settings, at: int, following: int) -> float:
        return self.times_s[following]

    def event(self, before: int, after: int) -> EventKind | None:
        if after == IN:
            return "pulls_in"
        return "drops_out" if before == GOING_OUT and after in (OUT, HELD) else None


TIMER_RESET_S = 0.03


@dataclass(frozen=True, slots=True)
class _Timer(Behaviour):
    def contact(self, device: Settings, a: str, b: str) -> frozenset[int]:
        return frozenset({DONE}) if b[-1] == "8" else frozenset({IDLE, TIMING})

    def follows(
        self, at: int, *, live: bool, held: bool = False, locked: bool = False, coarse: bool = False
    ) -> int | None:
        if not live:
            return IDLE if at else None
        return {IDLE: TIMING, TIMING: DONE}.get(TimerState(at))

    def delay_s(self, device: Settings, at: int, following: int) -> float:
        return {IDLE: TIMER_RESET_S, TIMING: 0.0, DONE: device.time_s}[TimerState(following)]

    def event(self, before: int, after: int) -> EventKind | None:
        kinds: dict[int, EventKind] = {TIMING: "runs", DONE: "runs_out", IDLE: "resets"}
        return kinds[after]


@dataclass(frozen=True, slots=True)
class _StarDelta(Behaviour):
    def contact(self, device: Settings, a: str, b: str) -> frozenset[int]:
        return frozenset({STAR}) if b == "28" else frozenset({DELTA})

    def follows(
        self, at: int, *, live: bool, held: bool = False, locked: bool = False, coarse: bool = False
    ) -> int | None:
        if not live:
            return 0 if at else None
        return {0: int(STAR), 1: int(PAUSE), 2: int(DELTA)}.get(at)

    def delay_s(self, device: Settings, at: int, following: int) -> float:
        return {0: TIMER_RESET_S, int(PAUSE): device.time_s, int(DELTA): device.pause_s}.get(following, 0.0)

    def event(self, before: int, after: int) -> EventKind | None:
        kinds: dict[int, EventKind] = {STAR: "star", PAUSE: "pause", DELTA: "delta"}
        return kinds.get(after, "resets")


@dataclass(frozen=True, slots=True)
class _SoftStarter(Behaviour):
    def contact(self, device: Settings, a: str, b: str) -> frozenset[int]:
        turning = frozenset({RAMPING, FULL, RAMPING_DOWN})
        every = frozenset(int(s) for s in SoftStarterState)
        return {"95": every, "23": frozenset({int(FULL)}), "13": frozenset(int(s) for s in turning)}.get(
            a, frozenset(int(s) for s in turning)
        )

    def follows(
        self, at: int, *, live: bool, held: bool = False, locked: bool = False, coarse: bool = False
    ) -> int | None:
        if live:
            return {OFF: RAMPING, RAMPING: FULL, RAMPING_DOWN: RAMPING}.get(SoftStarterState(at))
        return {RAMPING: RAMPING_DOWN, FULL: RAMPING_DOWN, RAMPING_DOWN: OFF}.get(SoftStarterState(at))

    def delay_s(self, device: Settings, at: int, following: int) -> float:
        return {FULL: device.time_s, OFF: device.pause_s, RAMPING: 0.05, RAMPING_DOWN: 0.0}[SoftStarterState(following)]

    def event(self, before: int, after: int) -> EventKind | None:
        kinds: dict[int, EventKind] = {
            RAMPING: "ramps_up",
            FULL: "full_voltage",
            RAMPING_DOWN: "ramps_down",
            OFF: "off",
        }
        return kinds[after]


@dataclass(frozen=True, slots=True)
class _Button(Behaviour):
    def contact(self, device: Settings, a: str, b: str) -> frozenset[int]:
        return frozenset({PRESSED}) if _last(a, b) == "34" else frozenset({REST})

    def values(self, device: Settings, contacts: int) -> tuple[int, ...]:
        return (REST, HALF, PRESSED) if contacts > 1 else (REST, PRESSED)

    def operation(self, device: Settings, before: int, after: int) -> str:
        return (
            f"press {device.designation}"
            if before == REST
            else f"release {device.designation}"
            if before == PRESSED
            else ""
        )


@dataclass(frozen=True, slots=True)
class _Selector(Behaviour):
    def contact(self, device: Settings, a: str, b: str) -> frozenset[int]:
        return frozenset(device.closed_in[f"{a}-{b}"])

    def values(self, device: Settings, contacts: int) -> tuple[int, ...]:
        return tuple(range(len(device.positions)))

    def operation(self, device: Settings, before: int, after: int) -> str:
        return f"turn {device.designation} {device.positions[after]}"


@dataclass(frozen=True, slots=True)
class _Overload(Behaviour):
    def contact(self, device: Settings, a: str, b: str) -> frozenset[int]:
        return frozenset({1}) if a == "97" else frozenset({0, 1}) if len(a) == 1 else frozenset({0})

    def operation(self, device: Settings, before: int, after: int) -> str:
        return f"trip {device.designation}" if after else f"reset {device.designation}"


@dataclass(frozen=True, slots=True)
class _Breaker(Behaviour):
    def contact(self, device: Settings, a: str, b: str) -> frozenset[int]:
        return frozenset({int(BreakerState.TRIPPED)}) if a == "97" else frozenset({int(BreakerState.CLOSED)})

    def values(self, device: Settings, contacts: int) -> tuple[int, ...]:
        return (1, 2) if device.form == "motor_breaker" else (0, 1)

    def operation(self, device: Settings, before: int, after: int) -> str:
        if device.form == "motor_breaker":
            return f"trip {device.designation}" if after != BreakerState.CLOSED else f"reset {device.designation}"
        return f"close {device.designation}" if after else f"open {device.designation}"


@dataclass(frozen=True, slots=True)
class _Monitor(Behaviour):
    def contact(self, device: Settings, a: str, b: str) -> frozenset[int]:
        return frozenset({1}) if _last(a, b) == "14" else frozenset({0})

    def event(self, before: int, after: int) -> EventKind | None:
        return "healthy" if after else "unhealthy"


@dataclass(frozen=True, slots=True)
class _Field(Behaviour):
    def contact(self, device: Settings, a: str, b: str) -> frozenset[int]:
        return frozenset({1}) if _last(a, b) in ("14", "34") else frozenset({0})

    def operation(self, device: Settings, before: int, after: int) -> str:
        acts, rests = ("open", "close") if device.opens else ("close", "open")
        return f"{acts if after else rests} {device.designation}"


#: Times of contactors and relays [s]: break contacts part, poles meet, poles part, break contacts meet.
CONTACTOR_S: dict[int, float] = {GOING_IN: 0.012, IN: 0.008, GOING_OUT: 0.010, OUT: 0.012, HELD: 0.012}
RELAY_S: dict[int, float] = {GOING_IN: 0.006, IN: 0.005, GOING_OUT: 0.005, OUT: 0.006, HELD: 0.006}
_PRESS = {"press": int(PRESSED), "release": int(REST)}
_OPPOSITE = {"press": "release", "trip": "reset", "open": "close", "close": "open"}
BEHAVIOURS: dict[DeviceKind, Behaviour] = {
    "contactor": _Contactor(ContactorState, coil=True, dead_verb="push", times_s=CONTACTOR_S),
    "relay": _Contactor(ContactorState, coil=True, dead_verb="push", times_s=RELAY_S),
    "timer": _Timer(TimerState, coil=True),
    "star_delta_timer": _StarDelta(StarDeltaState, coil=True),
    "soft_starter": _SoftStarter(SoftStarterState, coil=True),
    "button": _Button(ButtonState, verbs=_PRESS, dead_verb="press", undo=_OPPOSITE),
    "emergency_stop": _Button(ButtonState, verbs=_PRESS, dead_verb="press", undo=_OPPOSITE),
    "selector": _Selector(dead_verb="turn"),
    "overload": _Overload(OverloadState, verbs={"trip": 1, "reset": 0}, dead_verb="trip", undo=_OPPOSITE),
    "breaker": _Breaker(BreakerState, int(BreakerState.CLOSED), {"open": 0, "close": 1}, dead_verb="close", undo=_OPPOSITE),
    "monitor": _Monitor(MonitorState, int(MonitorState.HEALTHY)),
    "field": _Field(FieldState, dead_verb="act", undo=_OPPOSITE),
    "lamp": Behaviour(), "buzzer": Behaviour(), "heater": Behaviour(), "motor": Behaviour(), "resistor": Behaviour(), "transformer": Behaviour(),
    "capacitor": Behaviour(), "strip": Behaviour(),
}  # fmt: skip
#: Kinds that a load of their own moves.
MOVING: tuple[DeviceKind, ...] = tuple(k for k, b in BEHAVIOURS.items() if b.coil)
