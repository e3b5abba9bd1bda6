"""Reads plate and supply: what is missing, what contradicts, which connection, which currents."""

from math import sqrt

from volmek.core.context import Context
from volmek.core.document.errors import PlateError, Problem
from volmek.core.document.model import Load, Motor, Protection
from volmek.core.installation.connection import Connection, MotorConnection, accepts, motor_connection, plate_voltages
from volmek.core.installation.supply import WORDS as SUPPLY_WORDS
from volmek.core.installation.supply import SupplySystem, supply_problems, supply_system
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
from volmek.core.results.figures import Figure
from volmek.core.standards.tables import POWER_UNIT_TOLERANCE

#: A plate's two voltages belong together within this share of √3 (230/400 and 240/415 are rounded).
ROOT3_TOLERANCE = 0.03
#: A low and a high voltage belong together within this share of 2 (208-230/460 V is one plate).
DOUBLE_TOLERANCE = 0.12
#: And their currents, which a plate gives for one of the lower voltages.
CURRENT_TOLERANCE = 0.06


def read_plate(c: Context) -> Plate:
    """Work out connection and currents, and add what a fitter should know about them.

    Raises
    ------
    PlateError : something needed is missing, or the plate contradicts itself, the supply or physics.
    """
    d, w = c.document, c.working
    m, s = d.motor, d.supply
    problems = [
        *_missing(m, s.line_voltage_v),
        *supply_problems(d),
        *_contradictions(m),
        *_backwards(d.load),
        *_backward_curves(d.protection),
    ]
    if problems:
        raise PlateError(problems)
    assert s.line_voltage_v is not None
    frequency = s.frequency_hz or m.frequency_hz or (60.0 if c.nec else 50.0)
    if s.frequency_hz is None and m.frequency_hz is None:
        c.find("info", "frequency_assumed", f"No frequency is given; {frequency:g} Hz is taken.", "supply.frequency_hz")
    power = _power(c)
    supply = supply_system(d)
    applied = supply.motor_voltage_v or s.line_voltage_v
    if m.phases == 1 and "N" in supply.taken and s.neutral is False:
        raise PlateError.at("supply.neutral", f"a {applied:.0f} V motor on {s.line_voltage_v:g} V needs the neutral")
    _say_supply(c, supply)
    connection, volts, nameplate = _connection(c, applied, frequency)
    poles = _poles(c, m.frequency_hz or frequency)
    power_factor, calculated = calculate(c, power, volts, poles)
    table = table_current(c, power, volts, applied)
    design, source = choose_current(c, nameplate, calculated, table)
    compare_plate(c, nameplate, calculated, table, volts.number)
    sizing = sizing_current(c, design, nameplate, table)
    base = overload_current(c, design, source)
    permitted = permitted_current(c, base)
    locked = locked_rotor(c, design, power, volts)
    high = m.efficiency_class in ("IE3", "IE4", "IE5")
    typed = w.typed("assumptions.inrush_peak_factor", "First-peak factor", "ki", d.assumptions.inrush_peak_factor)
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
        f"Nothing says which conductors the supply has; {SUPPLY_WORDS[supply.conductors]} are taken, {' and '.join(supply.taken)} to the motor: {supply.reason}.",
        "supply.conductors",
    )


def _missing(m: Motor, line_voltage_v: float | None) -> list[Problem]:
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


def _backwards(load: Load) -> list[Problem]:
    """A torque curve whose speeds do not rise."""
    speeds = [p[0] for p in load.torque_points or ()]
    at = next((i for i in range(1, len(speeds)) if speeds[i] <= speeds[i - 1]), None)
    if at is None:
        return []
    said = f"point {at + 1} lies at {speeds[at]:g} % of speed, not above the {speeds[at - 1]:g} % before it; the curve runs backwards"
    return [Problem("load.torque_points", said)]


def _backward_curves(protection: Protection) -> list[Problem]:
    """Measured curves whose currents do not rise."""
    problems = []
    for i, curve in enumerate(protection.measured_curves):
        amps = [p[0] for p in curve.points]
        at = next((k for k in range(1, len(amps)) if amps[k] <= amps[k - 1]), None)
        if at is not None:
            said = f"point {at + 1} of {curve.name!r} lies at {amps[at]:g} A, not above the {amps[at - 1]:g} A before it; the curve runs backwards"
            problems.append(Problem(f"protection.measured_curves.{i}.points", said))
    return problems


def _contradictions(m: Motor) -> list[Problem]:
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


def _connection(c: Context, line_v: float, line_hz: float) -> tuple[Connection, Figure, Figure | None]:
    m, w = c.document.motor, c.working
    plate_hz = m.frequency_hz or line_hz
    offers = plate_voltages(c.document)
    accepted = [(k, v, z) for k, v in offers for fits, z in [accepts(v, plate_hz, line_v, line_hz, nec=c.nec)] if fits]
    if not accepted:
        plate = " / ".join(f"{v:g} V{' ' + k if k != 'plate' else ''}" for k, v in offers)
        more = ""
        if abs(line_hz / plate_hz - 1) > 0.05:
            more = f"; at {line_hz:g} Hz instead of {plate_hz:g} Hz it would want {offers[0][1] * line_hz / plate_hz:.0f} V"
        raise PlateError.at(
            "supply.line_voltage_v",
            f"{line_v:g} V {line_hz:g} Hz fits no plate voltage ({plate}, {plate_hz:g} Hz) within ±10 %{more}",
        )
    connection, voltage, zone = accepted[0]
    deviation = 100 * (line_v / voltage - 1)
    if zone == "zone_b":
        c.find(
            "attention",
            "supply_zone_b",
            f"The supply, {line_v:g} V {line_hz:g} Hz, lies {deviation:+.1f} % from the plate's {voltage:g} V "
            f"{plate_hz:g} Hz: it may run there, but warmer, and not for ever.",
            "supply.line_voltage_v",
        )
    elif zone:
        speed = 100 * (line_hz / plate_hz - 1)
        what = (
            "less torque, since the iron is magnetised less"
            if zone == "under_fluxed"
            else "about the same torque, since voltage and frequency moved together"
        )
        c.find(
            "attention",
            "supply_other_frequency",
            f"A {plate_hz:g} Hz motor on {line_hz:g} Hz: speed {speed:+.0f} %, {what}; cooling and current change "
            "with it, and so does the power that the driven machine takes.",
            "supply.frequency_hz",
        )
    field = {
        "plate": "rated_voltage_v",
        "delta": "rated_voltage_delta_v",
        "star": "rated_voltage_star_v",
        "parallel": "rated_voltage_low_v",
        "series": "rated_voltage_high_v",
    }[connection]
    volts = w.add("plate_voltage_v", "Plate voltage in use", "U", voltage, "V", field=f"motor.{field}", source="typed")
    words = {
        "delta": "delta (△)",
        "star": "star (Y)",
        "plate": "as the one plate voltage says",
        "parallel": "windings in parallel, for the low voltage",
        "series": "windings in series, for the high voltage",
        "unknown": "not known",
    }
    two = connection in ("parallel", "series")
    _ask(c, motor_connection(c.document))
    w.add(
        "connection",
        "Connection of the motor's ends",
        "",
        words[connection],
        inputs=(volts,),
        rule="parallel at the low voltage, series at the high one"
        if two
        else "delta when the plate's delta voltage is within ±10 % of the line voltage, star when its star voltage is",
        source="NEMA MG 1, part 2 (terminal markings)" if two else "IEC 60034-1; IEC 60034-8 (terminal markings)",
    )
    return connection, volts, _nameplate(c, connection)


def _ask(c: Context, connection: MotorConnection) -> None:
    """What has to be found out before the motor is connected."""
    if connection.kind in ("parallel", "series") and connection.asks:
        c.find("stop", "lead_connection_unknown", connection.asks, "motor.lead_connection")
    elif connection.asks:
        c.find("attention", "connection_unknown", connection.asks, "motor.leads")


def _nameplate(c: Context, connection: Connection) -> Figure | None:
    m, w = c.document.motor, c.working
    label, rule = "Rated current on the plate", "the current that belongs to the connection used"
    source = "IEC 60034-1"
    delta = w.typed("motor.rated_current_delta_a", "Plate current in delta", "I△", m.rated_current_delta_a, "A")
    star = w.typed("motor.rated_current_star_a", "Plate current in star", "IY", m.rated_current_star_a, "A")
    if delta and star:
        expected = sqrt(3) * star.number
        # A plate rounds each figure to about a twentieth of an ampere.
        if abs(delta.number - expected) > 0.05 * expected + 0.1:
            c.find(
                "attention",
                "currents_not_root3",
                f"The plate currents {delta.text} A (delta) and {star.text} A (star) are not in the ratio √3 "
                f"({expected:.3g} A would be): one of them is misread.",
                "motor.rated_current_delta_a" if connection == "delta" else "motor.rated_current_star_a",
            )
    if connection == "delta" and (delta or star):
        if delta:
            return w.add(
                "plate_current_a",
                label,
                "In",
                delta.number,
                "A",
                formula="I△",
                inputs=(delta,),
                rule=rule,
                source=source,
            )
        assert star
        return w.add(
            "plate_current_a",
            label,
            "In",
            sqrt(3) * star.number,
            "A",
            formula="√3·IY",
            inputs=(star,),
            rule=rule,
            source=source,
        )
    if connection == "star" and (delta or star):
        if star:
            return w.add(
                "plate_current_a", label, "In", star.number, "A", formula="IY", inputs=(star,), rule=rule, source=source
            )
        assert delta
        return w.add(
            "plate_current_a",
            label,
            "In",
            delta.number / sqrt(3),
            "A",
            formula="I△/√3",
            inputs=(delta,),
            rule=rule,
            source=source,
        )
    if connection in ("parallel", "series"):
        return _two_voltage_current(c, connection, label, rule)
    one = w.typed("motor.rated_current_a", label, "I", m.rated_current_a, "A")
    return one and w.add(
        "plate_current_a", label, "In", one.number, "A", formula="I", inputs=(one,), rule=rule, source=source
    )


def _two_voltage_current(c: Context, connection: Connection, label: str, rule: str) -> Figure | None:
    """Plate current of a motor with a low and a high voltage: in parallel twice that in series."""
    m, w = c.document.motor, c.working
    source = "NEMA MG 1; IEC 60034-1"
    low = w.typed("motor.rated_current_low_a", "Plate current at the low voltage", "IL", m.rated_current_low_a, "A")
    high = w.typed("motor.rated_current_high_a", "Plate current at the high voltage", "IH", m.rated_current_high_a, "A")
    if low and high and abs(low.number - 2 * high.number) > CURRENT_TOLERANCE * low.number + 0.1:
        c.find(
            "attention",
            "currents_not_double",
            f"The plate currents {low.text} A (low voltage) and {high.text} A (high voltage) are not in the ratio 2: one of them is misread.",
            f"motor.rated_current_{'low' if connection == 'parallel' else 'high'}_a",
        )
    if connection == "parallel":
        own, value, formula = (low, low.number, "IL") if low else (high, 2 * high.number if high else 0.0, "2·IH")
    else:
        own, value, formula = (high, high.number, "IH") if high else (low, low.number / 2 if low else 0.0, "IL/2")
    return own and w.add(
        "plate_current_a", label, "In", value, "A", formula=formula, inputs=(own,), rule=rule, source=source
    )


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
