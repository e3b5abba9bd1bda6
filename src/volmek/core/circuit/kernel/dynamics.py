"""Speed and heat while a circuit is operated: by the run-up model where load and inertia are known, else by the starting time."""

from collections.abc import Sequence
from dataclasses import dataclass, field
from itertools import pairwise
from math import ceil, exp, inf, sqrt

from volmek.core.physics.motor_model import slip_ring_ratios
from volmek.core.physics.numeric import np
from volmek.core.physics.run_up import Drive
from volmek.core.physics.thermal import ThermalEdge

#: Longest step of the integration [s], and points of the torque curves.
STEP_S = 0.02
POINTS = 1000
#: Most that one step may take of the way to a steady speed: more and it swings about it for ever.
SETTLES = 0.7
#: Torques of part-winding starts over those of the whole winding, and their currents.
HALF_TORQUE, HALF_CURRENT = 0.45, 0.65
#: Inrush of a motor whose own is not known.
USUAL_INRUSH = 7.0


@dataclass(frozen=True, slots=True)
class Dynamics:
    """A motor with its load as tables over slip, from standstill ahead to full speed against the field.

    Attributes
    ----------
    torque, current : over rated ones, at equal steps of slip from 0 to 2
    load : over rated torque at equal steps of speed from 0 to 1
    acceleration : change of speed over synchronous speed in a second at rated torque [1/s]
    coast_per_s : how fast it slows down without a supply [1/s]
    edge, dial : of the overload relay, dial over rated current; None without one
    low_ratio : low over high synchronous speed, of a motor with two
    rings : resistance of a slip-ring motor's rotor circuit over the rotor's own, for each number of contactors that are in
    steepness : how fast its speed comes back to steady at most [1/s]
    """

    torque: Sequence[float]
    current: Sequence[float]
    load: Sequence[float]
    acceleration: float
    coast_per_s: float
    edge: ThermalEdge | None = None
    dial: float = 1.0
    low_ratio: float = 0.5
    rings: tuple[float, ...] = ()
    steepness: float = field(init=False)

    def __post_init__(self) -> None:
        per_slip = max(abs(b - a) for a, b in pairwise(self.torque)) * (len(self.torque) - 1) / 2
        per_speed = max(abs(b - a) for a, b in pairwise(self.load)) * (len(self.load) - 1)
        object.__setattr__(self, "steepness", self.acceleration * (per_slip + per_speed))

    def step(self, speed: float, positive: float, negative: float, seconds: float, connection: str, limit: float | None, rings_in: int = 0) -> tuple[float, float]:  # fmt: skip
        """Speed after a short time, and current over rated current; a light motor in as many parts as its speed needs to settle.

        Parameters
        ----------
        speed, positive, negative, seconds, connection, limit, rings_in : as for ``part``
        """
        ratio = self.low_ratio if connection == "low" else 1.0
        parts = max(ceil(seconds * self.steepness * max(positive, negative) ** 2 / ratio / SETTLES), 1)
        amps = 0.0
        for _ in range(parts):
            speed, amps = self.part(speed, positive, negative, seconds / parts, connection, limit, rings_in)
        return speed, amps

    def part(self, speed: float, positive: float, negative: float, seconds: float, connection: str, limit: float | None, rings_in: int = 0) -> tuple[float, float]:  # fmt: skip
        """Speed after a time in which it hardly changes, and current over rated current.

        Parameters
        ----------
        speed : share of synchronous speed, negative in reverse
        positive, negative : sequence voltages over the rated one
        limit : current that electronics hold, over rated current
        rings_in : contactors in the rotor that are in
        """
        ratio = self.low_ratio if connection == "low" else 1.0
        half = connection == "half"
        added = self.rings[min(rings_in, len(self.rings) - 1)] if self.rings else 1.0
        ahead, against = (1 - speed / ratio) / added, (1 + speed / ratio) / added
        torque = positive**2 * _at(self.torque, ahead) - negative**2 * _at(self.torque, against)
        amps = max(positive * _at(self.current, ahead), negative * _at(self.current, against))
        if half:
            torque, amps = torque * HALF_TORQUE, amps * HALF_CURRENT
        if limit is not None and amps > limit:
            torque *= (limit / amps) ** 2
            amps = limit
        if positive < 0.02 and negative < 0.02:
            amps = torque = 0.0
        brake = _at(self.load, abs(speed) * 2, top=2.0)
        moved = speed + seconds * self.acceleration * torque
        slowed = seconds * self.acceleration * brake + (seconds * self.coast_per_s if torque == 0 else 0.0)
        following = max(moved - slowed, 0.0) if moved > 0 else min(moved + slowed, 0.0)
        return max(min(following, 1.0), -1.0), amps

    def heated(self, heat: float, amps: float, seconds: float) -> float:
        """Heat of the relay after a time at a current over rated current; 1 trips."""
        if self.edge is None:
            return 0.0
        end = (amps / self.dial / self.edge.k) ** 2
        return end + (heat - end) * exp(-seconds / self.edge.time_constant_s)

    def trips_after_s(self, heat: float, amps: float) -> float:
        """Time until the relay trips while the current stays [s]; infinite where it never does.

        Parameters
        ----------
        heat : of the relay now, 1 trips
        amps : current over rated current
        """
        return self.edge.trip_time_s(amps / self.dial, heat) if self.edge else inf


def _at(table: Sequence[float], x: float, top: float = 2.0) -> float:
    """Value of a table over 0 to ``top`` by straight lines."""
    n = len(table) - 1
    at = min(max(x / top, 0.0), 1.0) * n
    i = min(int(at), n - 1)
    return table[i] + (table[i + 1] - table[i]) * (at - i)


def of_drive(
    drive: Drive, edge: ThermalEdge | None, dial: float, low_ratio: float, rings: tuple[float, ...] = ()
) -> Dynamics:
    """From the motor and load of the start stage; with rings a slip-ring motor, whatever its rotor circuit has in it.

    Parameters
    ----------
    drive : motor, load and inertia
    edge : mean edge of the overload relay; None without one
    dial : its dial over rated current [-]
    low_ratio : low over high speed [-]
    rings : resistance of the rotor circuit over the rotor's own, of each step; empty for a cage

    Examples
    --------
    >>> from volmek.core.examples import example
    >>> drive = example(load={"start_time_s": None, "inertia_kgm2": 0.5}).built.start.drive
    >>> round(of_drive(drive, None, 1.0, 0.5).acceleration, 1)
    0.6

    References
    ----------
    J·dω/dt = M − M_L.
    """
    slip = np.maximum(np.linspace(0, 2, POINTS), 1e-6)
    m = drive.motor
    speed = np.linspace(0, 1, POINTS)
    load = drive.load_at(speed)
    acceleration = m.rated_torque_nm / (drive.inertia_kgm2 * m.synchronous_rad_s)
    torque, current = m.torque(slip), m.current(slip)
    if rings:
        torque, rotor = slip_ring_ratios(slip, m.rated_slip, m.breakdown)
        current = np.sqrt(m.no_load_ratio**2 + (1 - m.no_load_ratio**2) * rotor**2)
    return Dynamics(
        torque.tolist(), current.tolist(), load.tolist(), acceleration, 0.0 if load.max() > 0.02 else 0.05, edge, dial, low_ratio, rings
    )  # fmt: skip


def usual(
    start_s: float,
    edge: ThermalEdge | None = None,
    dial: float = 1.0,
    low_ratio: float = 0.5,
    rings: tuple[float, ...] = (),
) -> Dynamics:
    """Of a motor of which only the starting time is known: even torque, the usual current.

    Parameters
    ----------
    edge, dial, low_ratio : as for ``of_drive``
    start_s : time direct on line [s]
    rings : as for ``of_drive``

    Examples
    --------
    >>> round(usual(2.0).acceleration, 2)
    0.31
    """
    slips, sn = [2 * i / (POINTS - 1) for i in range(POINTS)], 0.03
    torque = [min(2.0, s / sn) for s in slips]
    current = [min(sqrt(0.16 + 0.84 * (s / sn) ** 2), USUAL_INRUSH) for s in slips]
    load = [0.8 * (i / (POINTS - 1)) ** 2 for i in range(POINTS)]
    return Dynamics(torque, current, load, 0.62 / max(start_s, 0.1), 0.05, edge, dial, low_ratio, rings)
