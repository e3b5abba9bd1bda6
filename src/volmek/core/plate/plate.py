"""From the motor plate and the supply to the currents of the motor."""

from dataclasses import dataclass
from math import acos, exp, sin, sqrt
from typing import Literal

from volmek.core.document.errors import PlateError
from volmek.core.installation.connection import Connection
from volmek.core.installation.control import ControlSource
from volmek.core.installation.supply import SupplySystem
from volmek.core.results.figures import Figure

HORSEPOWER_W = 745.7


METRIC_HORSEPOWER_W = 735.5


def full_load_current_a(
    shaft_power_w: float, line_voltage_v: float, power_factor: float, efficiency: float, phases: int
) -> float:
    """Current that a motor draws at rated load.

    Parameters
    ----------
    shaft_power_w : rated mechanical output [W], > 0
    line_voltage_v : line-to-line voltage, line-to-neutral for one phase [V], > 0
    power_factor, efficiency : at rated load [-], in (0, 1]
    phases : 1 or 3

    Returns
    -------
    Line current, r.m.s. [A].

    Raises
    ------
    PlateError : a value is outside its range; the message names it.

    Examples
    --------
    >>> round(full_load_current_a(7500, 400, 0.83, 0.904, phases=3), 1)
    14.4
    >>> round(full_load_current_a(1100, 230, 0.9, 0.7, phases=1), 2)
    7.59

    References
    ----------
    IEC 60034-1; I = P / (√3·U·cosφ·η), without √3 for one phase.
    """
    for name, value, low, high in (
        ("shaft_power_w", shaft_power_w, 0.0, float("inf")),
        ("line_voltage_v", line_voltage_v, 0.0, float("inf")),
        ("power_factor", power_factor, 0.0, 1.0),
        ("efficiency", efficiency, 0.0, 1.0),
    ):
        if not low < value <= high or value == float("inf"):
            limit = "greater than 0" if high > 1 else "greater than 0 and at most 1"
            raise PlateError.at(name, f"{value:g} is not allowed; it must be {limit}")
    if phases not in (1, 3):
        raise PlateError.at("phases", f"{phases} is not allowed; a motor has 1 or 3 phases")
    return shaft_power_w / ((sqrt(3) if phases == 3 else 1.0) * line_voltage_v * power_factor * efficiency)


def locked_rotor_current_a(rated_power_hp: float, line_voltage_v: float, kva_per_hp: float, phases: int) -> float:
    """Locked-rotor current from the kVA per hp of a code letter.

    Parameters
    ----------
    rated_power_hp : rated output [hp], > 0
    line_voltage_v : plate voltage [V], > 0
    kva_per_hp : of the code letter [kVA/hp]
    phases : 1 or 3

    Returns
    -------
    Line current with the rotor locked [A].

    Examples
    --------
    >>> round(locked_rotor_current_a(10, 460, 6.29, 3), 1)
    78.9

    References
    ----------
    NEC 430.7(B): Ia = kVA/hp · hp · 1000 / (√3·U).
    """
    return kva_per_hp * rated_power_hp * 1000 / ((sqrt(3) if phases == 3 else 1.0) * line_voltage_v)


def voltage_unbalance_pct(voltages_v: tuple[float, float, float]) -> float:
    """Greatest deviation of three line voltages from their mean, in per cent of the mean.

    Examples
    --------
    >>> round(voltage_unbalance_pct((400, 396, 404)), 2)
    1.0

    References
    ----------
    NEMA MG 1, 14.36.2.
    """
    mean = sum(voltages_v) / 3
    return 100 * max(abs(v - mean) for v in voltages_v) / mean


def negative_sequence_ratio(voltages_v: tuple[float, float, float]) -> float:
    """True unbalance: negative over positive sequence voltage, from three line-to-line readings.

    Examples
    --------
    >>> round(100 * negative_sequence_ratio((400, 396, 404)), 2)
    1.15
    >>> negative_sequence_ratio((5e-324, 5e-324, 5e-324))
    0.0

    References
    ----------
    IEC 61000-4-30, 5.7.1: β = ΣU⁴/(ΣU²)², U2/U1 = √((1−√(3−6β))/(1+√(3−6β))).
    """
    shares = [v / max(voltages_v) for v in voltages_v]  # powers of very small readings would vanish
    beta = sum(v**4 for v in shares) / sum(v**2 for v in shares) ** 2
    root = sqrt(max(3 - 6 * beta, 0.0))
    return sqrt(max(1 - root, 0.0) / (1 + root))


def load_current_ratio(load_share: float, no_load_ratio: float) -> float:
    """Current at part load over rated current.

    Parameters
    ----------
    load_share : torque over rated torque [-], >= 0
    no_load_ratio : i0, no-load current over rated current [-], 0 … 1

    Examples
    --------
    >>> round(load_current_ratio(0.5, 0.4), 3), load_current_ratio(1, 0.4)
    (0.608, 1.0)

    References
    ----------
    Circle diagram of the induction motor: I(x)² = i0² + x²·(1 − i0²).
    """
    return sqrt(no_load_ratio**2 + load_share**2 * (1 - no_load_ratio**2))


def no_load_current_ratio(power_factor: float, breakdown_torque_ratio: float) -> float:
    """No-load current as a share of rated current, at least 0.2.

    Parameters
    ----------
    power_factor : at rated load [-], in (0, 1]
    breakdown_torque_ratio : Mb/Mn [-], > 1

    Examples
    --------
    >>> round(no_load_current_ratio(0.85, 2.7), 3)
    0.364

    References
    ----------
    Circle diagram of the induction motor: i0 = sinφ − cosφ·(Mb − √(Mb²−1)).
    """
    phi = acos(power_factor)
    lean = breakdown_torque_ratio - sqrt(breakdown_torque_ratio**2 - 1)
    return max(sin(phi) - power_factor * lean, 0.2)


def inrush_peak_factor(r_over_x: float) -> float:
    """First half-cycle factor κ of an inductive circuit switched at the worst instant.

    Parameters
    ----------
    r_over_x : resistance over reactance of the circuit [-], ≥ 0

    Examples
    --------
    >>> round(inrush_peak_factor(0.35 / sqrt(1 - 0.35**2)), 2), round(inrush_peak_factor(0.20 / sqrt(1 - 0.2**2)), 2)
    (1.34, 1.55)

    References
    ----------
    IEC 60909-0: κ = 1.02 + 0.98·e^(−3·R/X).
    """
    return 1.02 + 0.98 * exp(-3 * r_over_x)


@dataclass(frozen=True, slots=True)
class Plate:
    """Results of plate and supply.

    Attributes
    ----------
    line_voltage_v, frequency_hz : of the supply, across the motor
    connection : of the motor's ends; ``plate`` when the plate has one voltage and does not tell
    motor_voltage_v : plate voltage of the connection used
    power_kw, poles : rated output; poles from the speed, None without it
    design : current in use; ``sizing`` the one that conductors, contactor and breaker follow
    overload_base : the one that the overload relay follows, ``permitted`` that less what the surroundings cost
    locked_rotor, peak_factor, peak : current and peak inrush with the rotor at rest
    power_factor : plate or typical
    supply : its conductors and earthing
    control : source of the control supply
    plate_voltage, shaft_power, nameplate : as figures; no power or current where the plate does not tell
    """

    line_voltage_v: float
    frequency_hz: float
    connection: Connection
    motor_voltage_v: float
    power_kw: float | None
    poles: int | None
    design: Figure
    design_source: Literal["nameplate", "calculated", "table"]
    calculated: Figure | None
    table: Figure | None
    sizing: Figure
    overload_base: Figure
    permitted: Figure
    locked_rotor: Figure
    peak_factor: Figure
    peak: Figure
    power_factor: Figure | None
    high_efficiency: bool
    phases: int
    supply: SupplySystem
    control: ControlSource
    plate_voltage: Figure
    shaft_power: Figure | None
    nameplate: Figure | None
