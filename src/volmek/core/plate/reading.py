"""Reads plate and supply: what is missing, what contradicts, which connection, which currents."""

from volmek.core.context import Context
from volmek.core.document.errors import PlateError
from volmek.core.installation.connection import frequencies_hz
from volmek.core.installation.control import control_source
from volmek.core.installation.supply import WORDS as SUPPLY_WORDS
from volmek.core.installation.supply import SupplySystem, supply_problems, supply_system
from volmek.core.plate.connection import read_connection
from volmek.core.plate.currents import (
    calculate,
    choose_current,
    compare_plate,
    locked_rotor,
    overload_current,
    sizing_current,
    table_current,
)
from volmek.core.plate.permitted import permitted_current
from volmek.core.plate.plate import HORSEPOWER_W, METRIC_HORSEPOWER_W, Plate
from volmek.core.plate.validate import backward_curves, backwards, contradictions, missing
from volmek.core.results.figures import Figure


def read_plate(c: Context) -> Plate:
    """Work out connection and currents, and add what a fitter should know about them.

    Raises
    ------
    PlateError : something needed is missing, or the plate contradicts itself, the supply or physics.
    """
    d, w = c.document, c.working
    m, s = d.motor, d.supply
    problems = [
        *missing(m, s.line_voltage_v),
        *supply_problems(d),
        *contradictions(m),
        *backwards(d.load),
        *backward_curves(d.protection),
    ]
    if problems:
        raise PlateError(problems)
    assert s.line_voltage_v is not None
    frequency = frequencies_hz(d)[0]
    if s.frequency_hz is None and m.frequency_hz is None:
        c.find(
            "info", "frequency_assumed", f"No frequency is given; {frequency:g} Hz is assumed.", "supply.frequency_hz"
        )
    power = _power(c)
    supply = supply_system(d)
    applied = supply.motor_voltage_v or s.line_voltage_v
    _say_supply(c, supply)
    connection, volts, nameplate = read_connection(c, applied, frequency)
    poles = _poles(c, m.frequency_hz or frequency)
    power_factor, calculated = calculate(c, power, volts, poles)
    table = table_current(c, power, volts, applied)
    design, source = choose_current(c, nameplate, calculated, table)
    compare_plate(c, nameplate, calculated, table, volts.number, poles)
    sizing = sizing_current(c, design, nameplate, table)
    base = overload_current(c, design, source)
    permitted = permitted_current(c, base)
    locked = locked_rotor(c, design, power, volts)
    high = m.efficiency_class in ("IE3", "IE4", "IE5")
    typed = w.typed("assumptions.inrush_peak_factor", "Peak inrush factor", "ki", d.assumptions.inrush_peak_factor)
    factor = w.add(
        "inrush_peak_factor",
        "Factor of the first half cycle on the locked-rotor current",
        "ki",
        typed.number if typed else 1.5 if high else 1.4,
        inputs=(typed,),
        field="assumptions.inrush_peak_factor",
        rule="1.4, for efficiency class IE3 and above 1.5" if not typed else "as typed",
        source="IEC 60909-0 (κ) at usual locked-rotor power factors; default",
        note="Worst cases reach 1.8. It can be changed under Assumptions.",
    )
    peak = w.add(
        "inrush_peak_a",
        "First current peak that must not trip the breaker (as an r.m.s. setting)",
        "Ipk",
        factor.number * locked.number,
        "A",
        formula="ki·Ia",
        inputs=(factor, locked),
        rule="an instantaneous trip must stay above it",
        source="IEC 60947-4-1, 8.2.4",
    )
    return Plate(
        applied,
        frequency,
        connection,
        volts.number,
        power.number / 1000 if power else None,
        poles,
        design,
        source,
        calculated,
        table,
        sizing,
        base,
        permitted,
        locked,
        factor,
        peak,
        power_factor,
        high,
        m.phases,
        supply,
        control_source(d, supply),
        volts,
        power,
        nameplate,
    )


def _say_supply(c: Context, supply: SupplySystem) -> None:
    """Conductors that are guessed, with the reason."""
    if supply.certain or c.document.motor.phases == 3:
        return
    c.find(
        "info",
        "supply_conductors_guessed",
        f"The supply conductors are not given; {SUPPLY_WORDS[supply.conductors]} are assumed, {' and '.join(supply.taken)} to the motor: {supply.reason}.",
        "supply.conductors",
    )


def _power(c: Context) -> Figure | None:
    m, w = c.document.motor, c.working
    for name, value, unit, watts in (
        ("rated_power_kw", m.rated_power_kw, "kW", 1000.0),
        ("rated_power_hp", m.rated_power_hp, "hp", HORSEPOWER_W),
        ("rated_power_ps", m.rated_power_ps, "PS", METRIC_HORSEPOWER_W),
    ):
        typed = w.typed(f"motor.{name}", "Rated power on the plate", f"P{unit}", value, unit)
        if typed:
            return w.add(
                "shaft_power_w",
                "Rated shaft power",
                "P",
                typed.number * watts,
                "W",
                formula=f"P{unit}·{watts:g}",
                inputs=(typed,),
                rule="shaft power, not power drawn",
                source="IEC 60034-1; 1 hp = 745.7 W, 1 metric horsepower = 735.5 W",
            )
    return None


def _poles(c: Context, plate_hz: float) -> int | None:
    speed = c.document.motor.rated_speed_rpm
    if speed is None:
        return None
    pairs = int(60 * plate_hz / speed + 1e-9)
    if pairs == 0:
        raise PlateError.at(
            "motor.rated_speed_rpm",
            f"{speed:g} rpm is faster than the {60 * plate_hz:g} rpm that {plate_hz:g} Hz can turn a motor",
        )
    synchronous = 60 * plate_hz / pairs
    slip_pct = 100 * (1 - speed / synchronous)
    if slip_pct < 0.05 or slip_pct > 20:
        what = "a synchronous speed" if slip_pct < 0.05 else f"{slip_pct:.0f} % below {synchronous:g} rpm"
        c.find(
            "attention",
            "speed_implausible",
            f"{speed:g} rpm is {what}; an induction motor runs a little below its synchronous speed.",
            "motor.rated_speed_rpm",
        )
    return 2 * pairs
