"""Missing plate values, and values that contradict each other or physics."""

from math import sqrt

from volmek.core.document.errors import Problem
from volmek.core.document.model import Load, Motor, Protection
from volmek.core.plate.plate import HORSEPOWER_W, METRIC_HORSEPOWER_W
from volmek.core.standards.tables import POWER_UNIT_TOLERANCE


def missing(m: Motor, line_voltage_v: float | None) -> list[Problem]:
    problems = []
    currents = (
        m.rated_current_a,
        m.rated_current_delta_a,
        m.rated_current_star_a,
        m.rated_current_low_a,
        m.rated_current_high_a,
    )
    powers = (m.rated_power_kw, m.rated_power_hp, m.rated_power_ps)
    if not any(powers) and not any(currents):
        problems.append(
            Problem("motor.rated_power_kw", "the rated power or the rated current is needed to begin with", True)
        )
    voltages = (
        m.rated_voltage_v,
        m.rated_voltage_delta_v,
        m.rated_voltage_star_v,
        m.rated_voltage_low_v,
        m.rated_voltage_high_v,
    )
    if not any(voltages):
        field = "motor.rated_voltage_v" if m.phases == 1 else "motor.rated_voltage_delta_v"
        problems.append(
            Problem(field, "the plate voltage is needed: delta, star or the one that is on the plate", True)
        )
    if line_voltage_v is None:
        problems.append(Problem("supply.line_voltage_v", "the line voltage of the supply is needed", True))
    return problems


def backwards(load: Load) -> list[Problem]:
    """A torque curve whose speeds do not rise."""
    speeds = [p[0] for p in load.torque_points or ()]
    at = next((i for i in range(1, len(speeds)) if speeds[i] <= speeds[i - 1]), None)
    if at is None:
        return []
    said = f"point {at + 1} lies at {speeds[at]:g} % of speed, not above the {speeds[at - 1]:g} % before it; the curve runs backwards"
    return [Problem("load.torque_points", said)]


def backward_curves(protection: Protection) -> list[Problem]:
    """Measured curves whose currents do not rise."""
    problems = []
    for i, curve in enumerate(protection.measured_curves):
        amps = [p[0] for p in curve.points]
        at = next((k for k in range(1, len(amps)) if amps[k] <= amps[k - 1]), None)
        if at is not None:
            said = f"point {at + 1} of {curve.name!r} lies at {amps[at]:g} A, not above the {amps[at - 1]:g} A before it; the curve runs backwards"
            problems.append(Problem(f"protection.measured_curves.{i}.points", said))
    return problems


def contradictions(m: Motor) -> list[Problem]:
    problems = []
    powers = {
        "rated_power_kw": (m.rated_power_kw, 1000.0),
        "rated_power_hp": (m.rated_power_hp, HORSEPOWER_W),
        "rated_power_ps": (m.rated_power_ps, METRIC_HORSEPOWER_W),
    }
    watts = {name: value * unit for name, (value, unit) in powers.items() if value is not None}
    first = next(iter(watts.items()), None)
    for name, power in watts.items():
        if first and abs(power - first[1]) > POWER_UNIT_TOLERANCE * max(power, first[1]):
            problems.append(
                Problem(
                    f"motor.{name}",
                    f"{power / 1000:.4g} kW differs by more than 1 % from {first[0]} ({first[1] / 1000:.4g} kW)",
                )
            )
    delta, star = m.rated_voltage_delta_v, m.rated_voltage_star_v
    if m.phases == 1:
        for name in ("rated_voltage_delta_v", "rated_voltage_star_v", "rated_current_delta_a", "rated_current_star_a"):
            if getattr(m, name) is not None:
                one = "rated_voltage_v" if "voltage" in name else "rated_current_a"
                problems.append(Problem(f"motor.{name}", f"a single-phase motor has no delta and star; use {one}"))
    if delta and star and abs(star / (sqrt(3) * delta) - 1) > ROOT3_TOLERANCE:
        problems.append(
            Problem(
                "motor.rated_voltage_star_v",
                f"{star:g} V is not √3 times the delta voltage {delta:g} V ({sqrt(3) * delta:.0f} V, ±3 %)",
            )
        )
    problems += _two_voltage_contradictions(m)
    if m.rated_voltage_v and (delta or star):
        problems.append(
            Problem("motor.rated_voltage_v", "give either one plate voltage, or the delta and star voltages, not both")
        )
    if m.rated_voltage_v and (m.rated_current_delta_a or m.rated_current_star_a):
        problems.append(
            Problem("motor.rated_current_a", "a plate with one voltage has one current; use rated_current_a")
        )
    if m.rated_current_a and delta and star:
        problems.append(
            Problem(
                "motor.rated_current_a",
                "the plate has two voltages; say which one this current belongs to (delta or star)",
            )
        )
    return problems


def _two_voltage_contradictions(m: Motor) -> list[Problem]:
    """A plate with a low and a high voltage: windings in parallel and in series."""
    low, high = m.rated_voltage_low_v, m.rated_voltage_high_v
    problems = []
    for at, volts in (("low", low), ("high", high)):
        if volts is None and getattr(m, f"rated_current_{at}_a"):
            problems.append(
                Problem(
                    f"motor.rated_voltage_{at}_v", f"the current at the {at} voltage is given; which voltage is it?"
                )
            )
    if low is None and high is None:
        return problems
    if low and high and abs(high / (2 * low) - 1) > DOUBLE_TOLERANCE:
        problems.append(
            Problem(
                "motor.rated_voltage_high_v",
                f"{high:g} V is not twice {low:g} V (±12 %): windings in series take twice the voltage that they take in parallel",
            )
        )
    if m.rated_voltage_v or m.rated_voltage_delta_v or m.rated_voltage_star_v:
        problems.append(
            Problem(
                "motor.rated_voltage_low_v",
                "a plate shows either a low and a high voltage, or delta and star, or one voltage; not several of them",
            )
        )
    if m.rated_current_a or m.rated_current_delta_a or m.rated_current_star_a:
        problems.append(
            Problem("motor.rated_current_a", "say at which voltage this current flows: the low or the high one")
        )
    if m.phases == 3 and m.leads is not None and m.leads < 9:
        problems.append(
            Problem("motor.leads", f"a motor for a low and a high voltage has nine or twelve leads, not {m.leads}")
        )
    return problems


#: A plate's two voltages belong together within this share of √3 (230/400 and 240/415 are rounded).
ROOT3_TOLERANCE = 0.03


#: A low and a high voltage belong together within this share of 2 (208-230/460 V is one plate).
DOUBLE_TOLERANCE = 0.12
