"""A moment of a simulation as plain data, so that the next operation goes on from it: bounded, versioned, bound to its circuit."""

import hashlib
from collections.abc import Mapping
from dataclasses import dataclass
from math import isfinite

from volmek.core.circuit.kernel.simulate import LINES, Simulator
from volmek.core.circuit.kernel.state import State
from volmek.core.document.errors import Problem, ProblemError

#: Moves with every change of what a snapshot holds or means; an older one begins again.
VERSION = 1
#: Latest moment of a simulation [s], and longest time for which a start winding or a heat is counted.
LATEST_S = 360_000.0
#: Times of frames are rounded to less than this [s].
ROUNDED_S = 1e-4
_LOSABLE = frozenset((*LINES, "N", "C"))


@dataclass(frozen=True, slots=True)
class Due:
    """A device that is about to move: its next position, and when [s]."""

    device: str
    position: int
    at_s: float


@dataclass(frozen=True, slots=True)
class Snapshot:
    """State of a simulation after an operation; nothing of how it came to be, so it does not grow.

    Attributes
    ----------
    version : of this form
    circuit : digest of the circuit with its faults, times and motor
    time_s : since the beginning
    positions : of each device, by designation
    due : devices that are about to move
    lost, swapped, voltage_pct : of the supply; swapped none or two
    pushed : contactors that are held in by hand
    speed, heat, amps, winding_s : of motor and relay, as in ``State``
    since_s : what is in or lit, and from when [s]
    parted_s : contactors whose poles parted lately, and when [s]
    """

    version: int
    circuit: str
    time_s: float
    positions: dict[str, int]
    due: list[Due]
    lost: list[str]
    swapped: list[str]
    voltage_pct: float
    pushed: list[str]
    speed: float
    heat: float
    amps: float
    winding_s: float
    since_s: dict[str, float]
    parted_s: dict[str, float]


def circuit_digest(sim: Simulator) -> str:
    """What a snapshot belongs to: devices with their times, contacts, wires, faults, motor.

    Parameters
    ----------
    sim : of the circuit, damaged or not

    Examples
    --------
    >>> from volmek.core.examples import example
    >>> len(circuit_digest(Simulator(example().circuit)))
    16
    """
    c, e, d = sim.circuit, sim.engine, sim.dynamics
    whole = (
        [(n, x.kind, x.form, x.positions, x.time_s, x.pause_s) for n, x in c.devices.items()],
        [(x.name, sorted(x.closed_in)) for x in c.contacts],
        [(w.number, w.a, w.b) for w in c.wires], [x.device for x in c.loads],
        sorted(e.welded | e.stuck_poles), sorted(e.node.items()), c.monitor_behind,
        (d.acceleration, d.coast_per_s, d.dial, d.low_ratio, d.rings, sim.monitor_set, sim.current_limit),
    )  # fmt: skip
    return hashlib.sha256(repr(whole).encode()).hexdigest()[:16]


def taken(sim: Simulator, s: State, since_s: Mapping[str, float], parted_s: Mapping[str, float]) -> Snapshot:
    """The state as a snapshot.

    Parameters
    ----------
    sim, s : the simulator and its state
    since_s, parted_s : as in ``Snapshot``

    Examples
    --------
    >>> from volmek.core.examples import example
    >>> sim = Simulator(example().circuit)
    >>> taken(sim, sim.begin(), {}, {}).positions["K1"]
    0
    """
    names = sim.engine.names
    return Snapshot(
        VERSION, circuit_digest(sim), s.time_s, dict(sim.engine.where(s.positions)),
        [Due(names[i], position, at) for i, position, at in s.due], sorted(s.lost), list(s.swapped or ()), s.voltage_pct, sorted(s.pushed),
        s.speed, s.heat, s.amps, s.winding_s, dict(since_s), dict(parted_s),
    )  # fmt: skip


def resumed(sim: Simulator, snapshot: Snapshot) -> State:
    """The state of a snapshot, which came from outside and is believed in nothing.

    Parameters
    ----------
    sim : of the same circuit
    snapshot : as ``taken`` made it

    Raises
    ------
    ProblemError : made by another version or of another circuit, or values that this circuit cannot have.

    Examples
    --------
    >>> from volmek.core.examples import example
    >>> sim = Simulator(example().circuit)
    >>> resumed(sim, taken(sim, sim.begin(), {}, {})) == sim.begin()
    True
    """

    def refused(field: str, why: str) -> ProblemError:
        return ProblemError([Problem(f"snapshot.{field}" if field else "snapshot", why)])

    if snapshot.version != VERSION or snapshot.circuit != circuit_digest(sim):
        raise refused("", "it belongs to another circuit or an earlier version: reset the simulation and begin again")
    e = sim.engine
    if set(snapshot.positions) != set(e.names):
        raise refused("positions", "one for each device of the circuit, and no other")
    for name, position in snapshot.positions.items():
        if position not in _states(sim, name):
            raise refused(f"positions.{name}", f"{position} is no state of {name}")
    if len({d.device for d in snapshot.due}) != len(snapshot.due):
        raise refused("due", "each device at most once")
    for d in snapshot.due:
        if d.device not in e.index or d.position not in _states(sim, d.device):
            raise refused("due", f"{d.device} has no state {d.position}")
        if not snapshot.time_s <= d.at_s <= 2 * LATEST_S:
            raise refused("due", f"{d.at_s:g} s is not from {snapshot.time_s:g} to {2 * LATEST_S:g} s")
    if not set(snapshot.lost) <= _LOSABLE:
        raise refused("lost", f"only {', '.join(sorted(_LOSABLE))} can be lost")
    if not set(snapshot.swapped) <= set(LINES) or len({*snapshot.swapped}) not in (0, 2) or len(snapshot.swapped) > 2:
        raise refused("swapped", "none or two of L1, L2, L3")
    if not set(snapshot.pushed) <= set(sim.circuit.of_kind("contactor", "relay")):
        raise refused("pushed", "only contactors and relays can be held in")
    for field, low, high in (
        ("time_s", 0, LATEST_S), ("voltage_pct", 0, 150), ("speed", -1, 1), ("heat", 0, 1000), ("amps", 0, 1000),
        ("winding_s", 0, LATEST_S),
    ):  # fmt: skip
        value = getattr(snapshot, field)
        if not isfinite(value) or not low <= value <= high:
            raise refused(field, f"{value:g} is not from {low:g} to {high:g}")
    for field in ("since_s", "parted_s"):
        for name, at in getattr(snapshot, field).items():
            if name not in e.index or not 0 <= at <= snapshot.time_s + ROUNDED_S:
                raise refused(
                    field, f"{name} at {at:g} s: a device of the circuit, and not after {snapshot.time_s:g} s"
                )
    exchanged = (snapshot.swapped[0], snapshot.swapped[1]) if snapshot.swapped else None
    return State(
        snapshot.time_s, tuple(snapshot.positions[n] for n in e.names),
        tuple((e.index[d.device], d.position, d.at_s) for d in snapshot.due),
        frozenset(snapshot.lost), exchanged, snapshot.voltage_pct, frozenset(snapshot.pushed),
        snapshot.speed, snapshot.heat, snapshot.amps, snapshot.winding_s,
    )  # fmt: skip


def _states(sim: Simulator, name: str) -> range:
    """States that a device can have."""
    device, behaviour = sim.circuit.devices[name], sim.engine.behaviours[sim.engine.index[name]]
    return range(len(device.positions) or (len(behaviour.states) if behaviour.states else 2))
