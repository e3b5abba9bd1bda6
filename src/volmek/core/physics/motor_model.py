"""Torque and current of a cage motor over its speed, from what a plate and a data sheet tell."""

from dataclasses import dataclass
from functools import lru_cache
from math import acos, sqrt
from typing import Any, Literal

from volmek.core.document.errors import PlateError
from volmek.core.physics.motor_circuit import MotorCircuit, PlateValues, Value, fit
from volmek.core.physics.numeric import Array, ComplexArray, np
from volmek.data.loader import standard

#: A double-cage fit is taken when it closes within this share of each given torque.
FIT_TOLERANCE = 0.01
#: And when its saddle is not deeper than this share of the locked-rotor torque.
LEAST_SADDLE = 0.6
START_POWER_FACTOR = 0.35
LEAST_NO_LOAD = 0.2
Basis = Literal["data sheet", "name plate", "typical figures"]
#: Values that a data sheet tells and a name plate does not.
DATA_SHEET: frozenset[Value] = frozenset(("locked_rotor_current", "locked_rotor_torque", "breakdown_torque"))


def breakdown_slip(rated_slip: float, breakdown: float) -> float:
    """Slip at the breakdown torque.

    Parameters
    ----------
    rated_slip : [-]
    breakdown : Mb/Mn [-], > 1

    Examples
    --------
    >>> round(breakdown_slip(0.02, 2.5), 4)
    0.0958

    References
    ----------
    Kloss: sb = sn·(Mb+√(Mb²−1)).
    """
    return rated_slip * (breakdown + sqrt(breakdown**2 - 1))


def closed_form_torque(slip: Array, rated_slip: float, breakdown: float, locked: float) -> Array:
    """Torque over rated torque, exact at rated slip, at breakdown and at standstill.

    Parameters
    ----------
    slip : [-], > 0
    rated_slip : [-]
    breakdown, locked : Mb/Mn and Ml/Mn [-]; Mb > 1

    Examples
    --------
    >>> m = closed_form_torque(np.array([0.0133, 1.0]), 0.0133, 2.7, 2.3)
    >>> [round(float(x), 3) for x in m]
    [1.0, 2.3]

    References
    ----------
    Kloss, with its falling branch drawn to the locked-rotor torque: sb = sn·(Mb+√(Mb²−1)).
    """
    sb = breakdown_slip(rated_slip, breakdown)

    def kloss(s: Array | float) -> Any:
        return 2 * breakdown / (s / sb + sb / s)

    k = kloss(slip)
    at_rest = kloss(1.0)
    falling = locked + (breakdown - locked) * (k - at_rest) / (breakdown - at_rest)
    return np.asarray(np.where(slip <= sb, k, falling))


@lru_cache(maxsize=256)
def double_cage(rated_slip: float, breakdown: float, locked: float) -> tuple[float, float, float] | None:
    """Constants m1, s1, m2 of a double cage through rated point, breakdown and standstill; None when none fits.

    Parameters
    ----------
    rated_slip : slip at rated load [-], in (0, 0.2)
    breakdown, locked : breakdown and locked-rotor torque over rated torque [-], > 0

    Examples
    --------
    >>> fit = double_cage(0.02, 2.6, 1.8)
    >>> m = double_cage_torque(np.array([0.02, 1.0]), *fit)
    >>> [round(float(x), 2) for x in m]
    [1.0, 1.8]

    References
    ----------
    M(s) = 2·m1/(s/s1+s1/s) + 2·m2/(s+1/s): a running cage and a starting cage (s2 = 1).
    """
    from scipy.optimize import brentq

    s = np.geomspace(rated_slip / 2, 0.6, 400)

    def cages(s1: float) -> tuple[float, float]:
        a, b = 2 / (rated_slip / s1 + s1 / rated_slip), 2 / (rated_slip + 1 / rated_slip)
        c = 2 / (1 / s1 + s1)
        m1 = (1 - b * locked) / (a - b * c)
        return m1, locked - m1 * c

    def excess(s1: float) -> float:
        m1, m2 = cages(s1)
        return float(np.max(double_cage_torque(s, m1, s1, m2))) - breakdown

    low, high = 1.05 * rated_slip, 0.55
    if low >= high:
        return None
    low_excess, high_excess = excess(low), excess(high)
    if low_excess * high_excess > 0:
        return None
    s1 = float(brentq(excess, low, high, xtol=1e-6))
    m1, m2 = cages(s1)
    m = double_cage_torque(s, m1, s1, m2)
    peak = int(np.argmax(m))
    beyond = double_cage_torque(np.linspace(float(s[peak]), 1.0, 200), m1, s1, m2)
    closes = abs(float(m[peak]) - breakdown) <= FIT_TOLERANCE * breakdown
    if m2 < 0 or m1 < 0 or not closes or float(np.min(beyond)) < LEAST_SADDLE * locked:
        return None
    return m1, s1, m2


def double_cage_torque(slip: Array, m1: float, s1: float, m2: float) -> Array:
    """Torque of a double cage over rated torque.

    Parameters
    ----------
    slip : slips [-], > 0
    m1, s1, m2 : constants of ``double_cage``: peak torque and slip of the running cage, peak torque of the starting cage [-]

    Examples
    --------
    >>> float(double_cage_torque(np.array([1.0]), 0.0, 0.1, 2.0)[0])
    2.0

    References
    ----------
    As ``double_cage``.
    """
    return np.asarray(2 * m1 / (slip / s1 + s1 / slip) + 2 * m2 / (slip + 1 / slip))


@lru_cache(maxsize=256)
def current_parameter(rated_slip: float, inrush_ratio: float, no_load_ratio: float) -> float:
    """q of the current curve, so that it passes through rated current at rated slip.

    Parameters
    ----------
    rated_slip : slip at rated load [-], in (0, 0.2)
    inrush_ratio : locked-rotor over rated current [-], > 1.05
    no_load_ratio : no-load over rated current [-], in [0, 1)

    Raises
    ------
    PlateError : no curve can go through these values.

    Examples
    --------
    >>> q = current_parameter(0.0133, 7.2, 0.35)
    >>> round(float(current_ratio(np.array([0.0133]), 7.2, 0.35, q)[0]), 3)
    1.0

    References
    ----------
    I(s)² = i0² + (ra²−i0²)·(q²+1)/((q/s)²+1), solved for I(sn) = 1.
    """
    whole = inrush_ratio**2 - no_load_ratio**2
    wanted = 1 - no_load_ratio**2
    if inrush_ratio <= 1.05 or wanted <= 0:
        raise PlateError.at(
            "motor.locked_rotor_current_ratio",
            f"a starting current of {inrush_ratio:.2g} times, with {no_load_ratio:.2g} of rated current without load: no motor has both",
        )
    if rated_slip * sqrt(whole) >= sqrt(wanted):
        raise PlateError.at(
            "motor.rated_speed_rpm",
            f"a rated slip of {100 * rated_slip:.1f} % cannot be with a starting current of {inrush_ratio:g} times: the speed or Ia/In is misread",
        )
    # wanted·((q/sn)² + 1) = whole·(q² + 1), linear in q²
    q2 = (whole - wanted) / (wanted / rated_slip**2 - whole)
    return sqrt(q2)


def current_ratio(slip: Array, inrush_ratio: float, no_load_ratio: float, q: float) -> Array:
    """Current over rated current.

    Parameters
    ----------
    slip : slips [-], > 0
    inrush_ratio, no_load_ratio : locked-rotor and no-load current over rated current [-]
    q : of ``current_parameter`` [-]

    Examples
    --------
    >>> round(float(current_ratio(np.array([1.0]), 7.2, 0.35, 0.1)[0]), 3)
    7.2

    References
    ----------
    As ``current_parameter``.
    """
    rotor = (inrush_ratio**2 - no_load_ratio**2) * (q * q + 1) / ((q / slip) ** 2 + 1)
    return np.asarray(np.sqrt(no_load_ratio**2 + rotor))


def slip_ring_ratios(slip: Array, rated_slip: float, breakdown: float) -> tuple[Array, Array]:
    """Torque over rated torque, and rotor current over rated rotor current, of a slip-ring motor with its rings short-circuited.

    With so many times the rotor's own resistance in its circuit it has both at so many times the slip.

    Parameters
    ----------
    slip : [-], > 0
    rated_slip : [-]
    breakdown : Mb/Mn [-], > 1

    Examples
    --------
    >>> m, i = slip_ring_ratios(np.array([0.03]), 0.03, 2.5)
    >>> round(float(m[0]), 3), round(float(i[0]), 3)
    (1.0, 1.0)

    References
    ----------
    Kloss: M = 2·Mb/(s/sb + sb/s), sb = sn·(Mb+√(Mb²−1)); I2 grows as s/√(s²+sb²).
    """
    sb = breakdown_slip(rated_slip, breakdown)
    torque = 2 * breakdown / (slip / sb + sb / slip)
    rotor = slip / rated_slip * np.sqrt((rated_slip**2 + sb**2) / (slip**2 + sb**2))
    return np.asarray(torque), np.asarray(rotor)


@dataclass(frozen=True, slots=True)
class MotorModel:
    """A cage motor at its rated voltage.

    Attributes
    ----------
    rated_voltage_v, rated_current_a, power_factor : of the connection in use, between lines
    synchronous_rad_s, rated_slip : speeds
    rated_torque_nm : Mn
    inrush_ratio, locked, breakdown, pull_up : Ia/In and torques over Mn; the pull-up only where it is known
    no_load_ratio, q : of the current curve
    cages : constants of the double cage, None where the closed form stands
    plate : values that its equivalent circuit is fitted to; None for a motor that has none
    frequency_times : of the supply over that of the plate
    """

    rated_voltage_v: float
    rated_current_a: float
    power_factor: float
    synchronous_rad_s: float
    rated_slip: float
    rated_torque_nm: float
    inrush_ratio: float
    locked: float
    breakdown: float
    pull_up: float | None
    no_load_ratio: float
    q: float
    cages: tuple[float, float, float] | None
    plate: PlateValues | None = None
    frequency_times: float = 1.0

    @property
    def circuit(self) -> MotorCircuit | None:
        """Its equivalent circuit on this supply, for what two phases or a pause do to it; None where none closes."""
        found = fit(self.plate).circuit if self.plate else None
        return found.at_frequency(self.frequency_times) if found else None

    @property
    def basis(self) -> Basis:
        """Basis of lost phase and change-over: circuit from the data sheet, from the name plate alone, or typical figures."""
        if self.circuit is None or self.plate is None:
            return "typical figures"
        return "data sheet" if self.plate.given >= DATA_SHEET else "name plate"

    def span(self, quantity: str, value: float, load_share: float = 1.0) -> tuple[float, float]:
        """Least and most that a result of the circuit may truly be.

        Parameters
        ----------
        quantity : of the table ``spread_of_circuit``
        value : as computed
        load_share : torque over rated torque [-]

        Examples
        --------
        >>> from volmek.core.examples import example
        >>> motor = example(load={"start_time_s": None, "inertia_kgm2": 0.5}).built.start.drive.motor
        >>> motor.basis, motor.span("peak after the pause", 100.0)
        ('name plate', (85.0, 120.0))

        References
        ----------
        5th to 95th percentile over sampled motors, true over computed.
        """
        rows = (r for r in standard("spread_of_circuit") if r["quantity"] == quantity and r["basis"] == self.basis)
        row = next(r for r in rows if load_share <= r["load_max"] + 1e-9)
        return value * row["low"], value * row["high"]

    def torque(self, slip: Array) -> Array:
        """M/Mn at rated voltage."""
        s = np.maximum(slip, 1e-6)
        if self.pull_up is not None:
            return self._with_pull_up(s)
        if self.cages is not None:
            return double_cage_torque(s, *self.cages)
        return closed_form_torque(s, self.rated_slip, self.breakdown, self.locked)

    def _with_pull_up(self, slip: Array) -> Array:
        from scipy.interpolate import PchipInterpolator

        assert self.pull_up is not None
        sb = breakdown_slip(self.rated_slip, self.breakdown)
        middle = min(max(0.75, sb + 0.05), 0.95)
        least = min(self.pull_up, self.locked, self.breakdown)
        beyond = PchipInterpolator([sb, middle, 1.0], [self.breakdown, least, self.locked])
        running = closed_form_torque(np.minimum(slip, sb), self.rated_slip, self.breakdown, self.locked)
        return np.asarray(np.where(slip <= sb, running, beyond(np.clip(slip, sb, 1.0))))

    def current(self, slip: Array) -> Array:
        """I/In at rated voltage."""
        return current_ratio(np.maximum(slip, 1e-9), self.inrush_ratio, self.no_load_ratio, self.q)

    def impedance_ohm(self, slip: Array) -> ComplexArray:
        """Impedance of each phase, as a star, at a slip."""
        ratio = self.current(slip)
        share = np.clip((ratio - 1) / (self.inrush_ratio - 1), 0, 1)
        cos = self.power_factor + (START_POWER_FACTOR - self.power_factor) * share
        size = self.rated_voltage_v / (sqrt(3) * ratio * self.rated_current_a)
        return np.asarray(size * (cos + 1j * np.sqrt(1 - cos**2)))


def load_angle(power_factor: float, load_share: float, no_load_ratio: float) -> tuple[float, float]:
    """Current over rated current and phase angle at part load.

    Parameters
    ----------
    power_factor : at rated load [-]
    load_share : torque over rated torque [-]
    no_load_ratio : i0 [-]

    Examples
    --------
    >>> i, phi = load_angle(0.86, 1.0, 0.35)
    >>> round(i, 3), round(phi, 3)
    (1.0, 0.536)

    References
    ----------
    Circle diagram: I(x)² = i0² + x²·(1 − i0²), φ = acos(x·cosφ / I(x)).
    """
    current = sqrt(no_load_ratio**2 + load_share**2 * (1 - no_load_ratio**2))
    return current, acos(min(load_share * power_factor / current, 1.0))
