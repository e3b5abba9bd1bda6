"""Recording of an operated circuit: frames, motor curves, events and a time chart; gone on with from a snapshot."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from itertools import pairwise

from volmek.core.circuit.kernel.simulate import Simulator
from volmek.core.circuit.kernel.snapshot import LATEST_S, Snapshot, resumed, taken
from volmek.core.circuit.kernel.state import Event, State
from volmek.core.circuit.kernel.telling import Told, told
from volmek.core.circuit.kernel.voltages import live_terminals
from volmek.core.circuit.model.behaviour import GOING_OUT, HELD, IN
from volmek.core.circuit.model.netlist import Circuit
from volmek.core.document.errors import Problem, ProblemError

#: Longest time that is looked ahead [s], sampling of the motor, and change of speed in one sample that counts as steady and as standing still.
AHEAD_S, SAMPLE_S, LONG_SAMPLE_S, EVEN, STEADY = 90.0, 0.1, 0.5, 1e-4, 2e-5
#: Once nobody has done anything for so long, samples grow with that time by this share of it [s].
ALONE_S, GROWS = 120.0, 0.05
#: A contactor that pulls in within so long after another parted follows it [s].
FOLLOWS_S = 5.0
MOST_FRAMES = 2000
#: Movements of one contactor within a time, without an operation, that are called chatter.
CHATTER, CHATTER_S = 12, 3.0


@dataclass(frozen=True, slots=True)
class Operation:
    """An operation at a time from the beginning [s]."""

    at_s: float
    do: str


@dataclass(frozen=True, slots=True)
class Frame:
    """State of contacts, loads and motor from a moment on.

    Attributes
    ----------
    time_s : the moment
    closed : contacts and poles that are closed
    live : terminals that stand under voltage
    on : coils, lamps and other loads that are live
    positions : of what an operator moves or sees moved
    connection, direction : of the motor
    """

    time_s: float
    closed: list[str]
    live: list[str]
    on: list[str]
    positions: dict[str, int]
    connection: str
    direction: str


@dataclass(frozen=True, slots=True)
class Track:
    """The motor over time: speed in per cent of synchronous speed, current in multiples of rated, heat of the relay in per cent."""

    time_s: list[float]
    speed_pct: list[float]
    current: list[float]
    heat_pct: list[float]


@dataclass(frozen=True, slots=True)
class Span:
    """Time for which something was in [s]; without an end it still is."""

    name: str
    begins_s: float
    ends_s: float | None


@dataclass(frozen=True, slots=True)
class Gap:
    """Measured between the parting of one contactor's poles and the meeting of another's [s]."""

    out: str
    into: str
    at_s: float
    seconds: float
    words: str


@dataclass(frozen=True, slots=True)
class Settled:
    """How many rows of a timeline lie up to its last operation; those after them are looked ahead, and the next operation may end them."""

    frames: int
    track: int
    events: int
    spans: int
    gaps: int


@dataclass(frozen=True, slots=True)
class Timeline:
    """What happened from the snapshot that it went on from, or the beginning, to where it was looked ahead to.

    Attributes
    ----------
    quiet_s : after this nothing happens by itself any more, None where something still does
    charted : what spans are of, in the order of the time chart
    settled : rows up to the last operation
    snapshot : after the last operation; what the next one goes on from
    """

    frames: list[Frame]
    track: Track
    events: list[Told]
    spans: list[Span]
    gaps: list[Gap]
    quiet_s: float | None
    charted: list[str]
    settled: Settled
    snapshot: Snapshot


def frame(sim: Simulator, s: State) -> Frame:
    """Frame of the present state.

    Parameters
    ----------
    sim, s : the simulator and its state

    Examples
    --------
    >>> from volmek.core.examples import example
    >>> sim = Simulator(example().circuit)
    >>> frame(sim, sim.begin()).connection
    'off'
    """
    e = sim.engine
    mask = e.closed(s.positions)
    breaker = [c.name for c in sim.circuit.contacts if c.side == "feed" and s.positions[e.index[c.device]]]
    closed = [c.name for bit, c in enumerate(e.contacts) if mask >> bit & 1 and c.side == "control"]
    lamps = [name for name, lit in sim.lamps(s).items() if lit]
    motor = sim.motor(s)
    return Frame(
        round(s.time_s, 4), [*breaker, *closed, *sorted(e.closed_poles(s.positions))], live_terminals(sim, s), [*sorted(sim.live(s)), *lamps],
        {n: p for n, p in e.where(s.positions).items() if p}, motor["connection"], motor["direction"],
    )  # fmt: skip


def play(
    sim: Simulator, operations: list[Operation], until_s: float | None = None, snapshot: Snapshot | None = None
) -> Timeline:
    """Operate a circuit and look ahead until it is quiet.

    Parameters
    ----------
    operations : in the order of their times
    until_s : end, where something still goes on by itself [s]
    snapshot : to go on from; None from the beginning

    Raises
    ------
    ProblemError : an operation that the circuit does not know, times that run backwards or too far, a snapshot of something else.

    Examples
    --------
    >>> from volmek.core.examples import example
    >>> sim = Simulator(example().circuit)
    >>> first = play(sim, [Operation(0.5, "press S2")])
    >>> [e.words for e in first.events][:2]
    ['press S2', 'K1 pulls in']
    >>> play(sim, [Operation(0.6, "release S2")], snapshot=first.snapshot).spans[0].begins_s
    0.54
    """
    recorder = _Recorder(sim, snapshot)
    s = resumed(sim, snapshot) if snapshot else sim.begin(recorder.events)
    recorder.keep(s)
    for k, operation in enumerate(operations):
        why = ""
        if operation.at_s < s.time_s - 1e-6:
            why = f"{operation.at_s:g} s is before {s.time_s:.3f} s: operations follow each other"
        elif not operation.at_s <= LATEST_S:
            why = f"a simulation ends at {LATEST_S:g} s: reset it"
        if why:
            raise ProblemError([Problem(f"operations[{k}].at_s", why)])
        s = recorder.until(s, operation.at_s)
        s = sim.operate(s, operation.do, recorder.events)
        recorder.operated(s, operation)
    recorder.settle(s)
    last = s.time_s
    recorder.until(s, min(until_s if until_s is not None else last + AHEAD_S, last + AHEAD_S), stop_when_quiet=True)
    return recorder.timeline()


class _Recorder:
    def __init__(self, sim: Simulator, snapshot: Snapshot | None) -> None:
        self.sim = sim
        self.events: list[Event] = []
        self.frames: list[Frame] = []
        self.track: list[tuple[float, float, float, float]] = []
        self.quiet: float | None = None
        self.seen: tuple[object, ...] | None = None
        self.pulled: dict[int, list[float]] = {}
        self.even = False
        self.touched_s = snapshot.time_s if snapshot else 0.0
        self.since_s = snapshot.since_s if snapshot else {}
        self.parted_s = snapshot.parted_s if snapshot else {}
        self.settled_at: tuple[int, int, int, State] | None = None

    def keep(self, s: State) -> None:
        """A sample of the motor, and a frame where anything moved or the motor turns another way."""
        self.track.append((round(s.time_s, 3), round(100 * abs(s.speed), 2), round(s.amps, 3), round(100 * s.heat, 1)))
        seen = (s.positions, s.lost, s.swapped, self.sim.supplied(s), self.sim.live(s), self.sim.motor(s)["direction"])
        if seen != self.seen and len(self.frames) < MOST_FRAMES:
            self.seen = seen
            self.frames.append(frame(self.sim, s))

    def operated(self, s: State, operation: Operation) -> None:
        """An operation, as an event of its own."""
        self.events.append(Event(s.time_s, "", "operation", (operation.do,)))
        self.pulled.clear()
        self.even, self.touched_s = False, s.time_s
        self.keep(s)

    def settle(self, s: State) -> None:
        """From here on it is looked ahead."""
        self.settled_at = len(self.frames), len(self.track), len(self.events), s

    def until(self, s: State, end: float, *, stop_when_quiet: bool = False) -> State:
        """Let time pass to an end, from event to event and sample to sample."""
        while s.time_s < end - 1e-9:
            nearest = min((at for _, _, at in s.due), default=end)
            stop = max(min(nearest, s.time_s + self._sample(s), end), s.time_s + 1e-6)
            before = s
            s = self.sim.advance(s, stop - s.time_s, self.events)
            self.keep(s)
            self.even = abs(s.speed - before.speed) < EVEN
            if self._chatters(before, s):
                if stop_when_quiet:
                    break
                late = end - s.time_s  # it goes on so until somebody does something
                return s._replace(time_s=end, due=tuple((i, p, at + late) for i, p, at in s.due))
            if not s.due and self._rests(before, s):
                if stop_when_quiet:
                    self.quiet = s.time_s
                    break
                s = self.sim.advance(s, end - s.time_s, self.events)
                self.keep(s)
        return s

    def _sample(self, s: State) -> float:
        """Time to the next sample [s]."""
        alone = s.time_s - self.touched_s
        return max(LONG_SAMPLE_S if self.even else SAMPLE_S, GROWS * (alone - ALONE_S))

    def _chatters(self, before: State, s: State) -> bool:
        """A contactor that begins to pull in again and again; said once, and looked ahead no further."""
        for i in self.sim.begins(before.positions, s.positions):
            times = self.pulled.setdefault(i, [])
            times.append(s.time_s)
            if len(times) >= CHATTER and s.time_s - times[-CHATTER] < CHATTER_S:
                self.events.append(Event(s.time_s, self.sim.engine.names[i], "chatters"))
                return True
        return False

    def _rests(self, before: State, s: State) -> bool:
        moved = abs(s.speed - before.speed) > STEADY * max((s.time_s - before.time_s) / SAMPLE_S, 1)
        dynamics = self.sim.dynamics
        warms = dynamics.edge is not None and s.amps > 0.01 and dynamics.heated(s.heat, s.amps, 1e6) >= 1
        return not moved and not warms

    def timeline(self) -> Timeline:
        """All of it."""
        assert self.settled_at is not None
        frames, track, events, s = self.settled_at
        circuit = self.sim.circuit
        settled, ahead = _thinned(self.track[:track]), _thinned(self.track[track:])
        until = _spans(circuit, self.frames[:frames], self.since_s)
        since_s = {x.name: x.begins_s for x in until if x.ends_s is None}
        ended = [x for x in until if x.ends_s is not None]
        spans = [*ended, *_spans(circuit, self.frames[frames - 1 :], since_s)]
        gaps, parted_s = _gaps(circuit, self.frames[:frames], self.parted_s)
        after, _ = _gaps(circuit, self.frames[frames - 1 :], parted_s)
        lately = {k: at for k, at in parted_s.items() if s.time_s - at < FOLLOWS_S}
        return Timeline(
            self.frames, Track(*([row[i] for row in (*settled, *ahead)] for i in range(4))),
            _told(self.events, [*gaps, *after]), spans, [*gaps, *after], self.quiet, _charted(circuit),
            Settled(frames, len(settled), events, len(ended), len(gaps)), taken(self.sim, s, since_s, lately),
        )  # fmt: skip


def _told(events: list[Event], gaps: list[Gap]) -> list[Told]:
    """Events in words; for a contactor that follows another with the time between them."""
    found = []
    for event in events:
        gap = next(
            (
                g
                for g in gaps
                if event.kind == "pulls_in" and event.device == g.into and abs(event.time_s - g.at_s) < 1e-3
            ),
            None,
        )
        said = told(event)
        if gap:
            said = replace(said, words=f"{said.words}, {1000 * gap.seconds:.0f} ms after {gap.out} dropped out")
        found.append(said)
    return found


def _thinned(rows: list[tuple[float, float, float, float]]) -> list[tuple[float, float, float, float]]:
    """Samples without those between two equal neighbours."""
    return [
        row
        for i, row in enumerate(rows)
        if i in (0, len(rows) - 1) or not (rows[i - 1][1:] == row[1:] == rows[i + 1][1:])
    ]


def _charted(circuit: Circuit) -> list[str]:
    """Contactors and relays, then timers, then lamps."""
    return [
        *circuit.of_kind("contactor", "relay"),
        *circuit.of_kind("timer", "star_delta_timer", "soft_starter"),
        *circuit.of_kind("lamp", "buzzer"),
    ]


def _spans(circuit: Circuit, frames: list[Frame], since_s: Mapping[str, float]) -> list[Span]:
    """Times for which each contactor, relay and lamp was in, with what was in before the first frame."""
    found: list[Span] = []
    lamps = set(circuit.of_kind("lamp", "buzzer"))
    for name in _charted(circuit):
        begins = since_s.get(name)
        for f in frames:
            at = f.positions.get(name, 0)
            is_in = (
                name in f.on
                if name in lamps
                else at in (IN, HELD)
                if circuit.devices[name].kind in ("contactor", "relay")
                else at > 0
            )
            if is_in and begins is None:
                begins = f.time_s
            elif not is_in and begins is not None:
                found.append(Span(name, begins, f.time_s))
                begins = None
        if begins is not None:
            found.append(Span(name, begins, None))
    return found


def _gaps(circuit: Circuit, frames: list[Frame], parted_s: Mapping[str, float]) -> tuple[list[Gap], dict[str, float]]:
    """Between the poles of contactors that follow each other and must not be in together, and those that have parted last.

    Parameters
    ----------
    frames : the first is what was before
    parted_s : contactors whose poles parted before
    """
    found: list[Gap] = []
    pairs = {*circuit.forbidden, *((b, a) for a, b in circuit.forbidden)}
    left = dict(parted_s)
    for earlier, f in pairwise(frames):
        for name in {x for pair in pairs for x in pair}:
            before, now = earlier.positions.get(name, 0), f.positions.get(name, 0)
            if before in (IN, GOING_OUT) and now not in (IN, GOING_OUT):
                left[name] = f.time_s
            if now == IN and before != IN:
                found += _between(name, f.time_s, left, pairs)
    return found, left


def _between(name: str, now: float, left: dict[str, float], pairs: Iterable[tuple[str, str]]) -> list[Gap]:
    found = []
    for a, b in pairs:
        if b == name and a in left and now - left[a] < FOLLOWS_S:
            ms = 1000 * (now - left[a])
            found.append(
                Gap(a, b, round(now, 4), round(now - left[a], 4), f"{a} drops out, {ms:.0f} ms later {b} pulls in")
            )
            left.pop(a)
    return found
