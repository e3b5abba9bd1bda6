"""The currents of a motor: calculated, of the table, in use, permitted here, with the rotor at rest."""

from math import sqrt
from typing import Literal

from volmek.core.context import Context
from volmek.core.document.errors import PlateError
from volmek.core.installation.connection import frequencies_hz
from volmek.core.plate.plate import HORSEPOWER_W, full_load_current_a, locked_rotor_current_a
from volmek.core.results.figures import Candidate, Figure, as_read
from volmek.core.standards.tables import (
    SINGLE_PHASE_INRUSH_RATIO,
    code_letter_range,
    motor_current_iec_a,
    motor_current_nec_a,
    nec_column_voltage_v,
    typical_efficiency_pct,
    typical_motor_value,
    typical_single_phase,
)

#: A plate current this many times above or below the expected one is a slip of the pen, not a motor.
ABSURD_FACTOR = 5.0
#: From so many poles on the power factor of four-pole motors is no guide.
MANY_POLES = 8
#: Frequencies that differ by less are the same.
SAME_FREQUENCY = 0.05


DIFFERENCE_ATTENTION_PCT, DIFFERENCE_STOP_PCT = 15.0, 50.0


def calculate(
    c: Context, power: Figure | None, volts: Figure, poles: int | None
) -> tuple[Figure | None, Figure | None]:
    m, w = c.document.motor, c.working
    kw = power.number / 1000 if power else None
    cos = w.typed("motor.power_factor", "Power factor", "cosφ", m.power_factor)
    eta = w.typed("motor.efficiency_pct", "Efficiency", "η%", m.efficiency_pct, "%")
    single = m.phases == 1
    rule = "usual for a single-phase motor of this kind and power" if single else ""
    typical_cos, typical_eta = 0.0, 0.0
    if kw is not None:
        typical_cos, typical_eta = (
            typical_single_phase(kw, m.single_phase_kind)
            if single
            else (typical_motor_value("power_factor", kw), typical_efficiency_pct(kw, poles or 4))
        )
    if cos is None and kw is not None:
        cos = w.add(
            "motor.power_factor",
            "Power factor",
            "cosφ",
            typical_cos,
            typical=True,
            field="motor.power_factor",
            rule=rule or "typical of a four-pole motor of this power",
            source="typical values",
        )
    if eta is None and kw is not None:
        note = "An old or rewound motor is not IE3: its efficiency is lower and it draws more."
        eta = w.add(
            "motor.efficiency_pct",
            "Efficiency",
            "η%",
            typical_eta,
            "%",
            typical=True,
            field="motor.efficiency_pct",
            rule=rule
            or "least efficiency of class IE3 at 50 Hz"
            + ("" if frequencies_hz(c.document)[1] < 55 else "; a 60 Hz motor has another table, near it"),
            source="typical values" if single else "IEC 60034-1, IEC 60034-30-1",
            note="" if single or m.efficiency_class in ("IE3", "IE4", "IE5") else note,
        )
    if power is None or cos is None or eta is None:
        return cos, None
    current = full_load_current_a(power.number, volts.number, cos.number, eta.number / 100, m.phases)
    return cos, w.add(
        "calculated_current_a",
        "Rated current from power",
        "Icalc",
        current,
        "A",
        formula="P / (U·cosφ·η%/100)" if single else "P / (√3·U·cosφ·η%/100)",
        note="One phase: without the √3 of a three-phase motor." if single else "",
        inputs=(power, volts, cos, eta),
        rule="used when the plate gives no current but gives cosφ and η",
        source="IEC 60034-1",
    )


def table_current(c: Context, power: Figure | None, volts: Figure, line_v: float) -> Figure | None:
    if power is None:
        return None
    w, phases = c.working, c.document.motor.phases
    if phases == 1 and not c.nec:
        return None  # IEC has no table for single-phase motors
    try:
        if c.nec:
            hp = w.add(
                "rated_power_hp",
                "Rated power in horsepower",
                "Php",
                power.number / HORSEPOWER_W,
                "hp",
                formula="P/745.7",
                inputs=(power,),
                source="1 hp = 745.7 W",
            )
            try:
                value, used = motor_current_nec_a(hp.number, volts.number, phases), volts
            except PlateError:
                value, scale = motor_current_nec_a(hp.number, line_v, phases), 1.0
                line_hz, plate_hz = frequencies_hz(c.document)
                if abs(line_hz / plate_hz - 1) > SAME_FREQUENCY:
                    scale = (
                        nec_column_voltage_v(line_v) / volts.number
                    )  # the power of the plate belongs to the plate's own voltage
                value *= scale
                used = w.typed("supply.line_voltage_v", "Line voltage", "U", line_v, "V") or volts
            return w.add(
                "table_current_a",
                "Full-load current of the table",
                "Itab",
                value,
                "A",
                formula="table(Php, U)",
                inputs=(hp, used),
                rule="the row of the power, else the next higher row; the column of the system voltage",
                source="NEC Table 430.248" if phases == 1 else "NEC Table 430.250",
                school="North American practice",
            )
        return w.add(
            "table_current_a",
            "Usual current of the table",
            "Itab",
            motor_current_iec_a(power.number / 1000, volts.number),
            "A",
            formula="table(P, U)",
            inputs=(power, volts),
            rule="between two rows on log-log paper; other voltages by I ∝ 1/U from the nearest column",
            source="IEC 60947-4-1, Annex G",
        )
    except PlateError as error:
        c.find(
            "attention" if c.nec else "info",
            "no_table_current",
            f"No table current: {error.problems[0].message}.",
            error.problems[0].field,
        )
        return None


def choose_current(
    c: Context, nameplate: Figure | None, calculated: Figure | None, table: Figure | None
) -> tuple[Figure, Literal["nameplate", "calculated", "table"]]:
    m = c.document.motor
    given = m.power_factor is not None and m.efficiency_pct is not None
    # Where there is no table, a current from typical values is better than none, and marked.
    single = m.phases == 1 and table is None
    order: list[tuple[Literal["nameplate", "calculated", "table"], Figure | None, str]] = [
        ("nameplate", nameplate, "no current is on the plate"),
        ("calculated", calculated if given or single else None, "cosφ or η is not on the plate"),
        ("table", table, "there is no table for it" if single else "the power is outside the table, or unknown"),
    ]
    taken = next(((name, f) for name, f, _ in order if f), None)
    if taken is None:
        raise PlateError.at(
            "motor.rated_current_a",
            "the plate current is needed: it can be neither calculated nor looked up for this motor",
        )
    source, figure = taken
    candidates = tuple(
        Candidate(
            name,
            name == source,
            f is not None,
            "in use" if name == source else f"{f.text} A, an earlier one is known" if f else why,
        )
        for name, f, why in order
    )
    design = c.working.add(
        "design_current_a",
        "Rated motor current in use",
        "In",
        figure.number,
        "A",
        formula=figure.symbol,
        inputs=(figure,),
        rule="plate; else calculated from plate values; else table",
        source="IEC 60034-1; IEC 60947-4-1, Annex G",
        candidates=candidates,
    )
    return design, source


def compare_plate(
    c: Context,
    nameplate: Figure | None,
    calculated: Figure | None,
    table: Figure | None,
    voltage: float,
    poles: int | None,
) -> None:
    """The plate's current against what its other values and the table give; typical values are those of four poles."""
    if nameplate is None:
        return
    field = next(i for i in nameplate.inputs)
    for other, name in ((calculated, "calculated"), (table, "table")):
        if other is not None:
            percent = 100 * (nameplate.number - other.number) / other.number
            c.working.add(
                f"{name}_difference_pct",
                f"Difference of the plate from the {name} current",
                "d",
                percent,
                "%",
                text=f"{percent:+.0f}".replace("-", "−"),
                formula=f"100·(In − {other.symbol})/{other.symbol}",
                inputs=(nameplate, other),
                rule="more than 15 % from the calculated current is a warning, more than 50 % a stop",
                source="IEC 60034-1",
            )
    expected = calculated or table
    if expected is None:
        return
    ratio = nameplate.number / expected.number
    if not 1 / ABSURD_FACTOR <= ratio <= ABSURD_FACTOR:
        low, high = expected.number / ABSURD_FACTOR, expected.number * ABSURD_FACTOR
        raise PlateError.at(
            field,
            f"{nameplate.text} A cannot be the current of this motor; its power and {voltage:g} V give about "
            f"{expected.text} A (allowed {as_read(low)} to {as_read(high)} A): is a decimal point misplaced?",
        )
    if calculated is None:
        return
    difference = 100 * (nameplate.number - calculated.number) / calculated.number
    if abs(difference) <= DIFFERENCE_ATTENTION_PCT + 1e-9:
        return
    if calculated.typical and poles is not None and poles >= MANY_POLES and 0 < difference <= DIFFERENCE_STOP_PCT:
        c.find(
            "info",
            "plate_current_differs",
            f"The plate current {nameplate.text} A is {difference:.0f} % above what typical values of a four-pole motor give: with {poles} poles cosφ "
            "is lower and the current higher. Enter cosφ and η to have it checked.",
            "motor.power_factor",
        )
        return
    rests = " (typical values)" if calculated.typical else ""
    c.find(
        "stop" if abs(difference) > DIFFERENCE_STOP_PCT else "info" if calculated.typical else "attention",
        "plate_current_differs",
        f"The plate current {nameplate.text} A differs by {difference:+.0f} % from the {calculated.text} A that power, "
        f"voltage, cosφ and η give{rests}: one of the plate values is misread.",
        field,
    )


def sizing_current(c: Context, design: Figure, nameplate: Figure | None, table: Figure | None) -> Figure:
    """NEC 430.6(A)(1): the table current for conductors and short-circuit device; the plate where it counts."""
    if not c.nec:
        return design
    m, w = c.document.motor, c.working
    if table is None:
        c.find(
            "attention",
            "sized_by_design_current",
            f"Conductors and breaker are sized by {design.text} A, since the table has no current for this motor.",
            "motor.rated_power_hp",
        )
        return design
    slow = m.rated_speed_rpm is not None and m.rated_speed_rpm < 1200
    plate_counts = slow and nameplate is not None and nameplate.number > table.number
    figure = nameplate if plate_counts and nameplate else table
    return w.add(
        "sizing_current_a",
        "Current that conductors and short-circuit device follow",
        "IFLC",
        figure.number,
        "A",
        formula=figure.symbol,
        inputs=(figure,),
        source="NEC 430.6(A)(1)",
        school="North American practice",
        rule="plate current of a motor below 1200 rpm, where it is the higher"
        if plate_counts
        else "table current, not the plate",
    )


def overload_current(c: Context, design: Figure, source: str) -> Figure:
    if c.nec and source != "nameplate":
        c.find(
            "attention",
            "overload_without_plate",
            f"The overload relay is set from {design.text} A, which is not from the plate: 430.6(A)(2) asks for the "
            "plate current.",
            "motor.rated_current_a",
        )
    return design


def locked_rotor(c: Context, design: Figure, power: Figure | None, volts: Figure) -> Figure:
    m, w = c.document.motor, c.working
    label = "Current with the rotor at rest, direct on line"
    ratio = w.typed(
        "motor.locked_rotor_current_ratio", "Locked-rotor current ratio", "ra", m.locked_rotor_current_ratio
    )
    if ratio is None and m.code_letter and power:
        low, high = code_letter_range(m.code_letter)
        hp = power.number / HORSEPOWER_W
        letter = w.add(
            "motor.code_letter",
            f"Code letter {m.code_letter}: locked-rotor kVA per hp",
            "S",
            high if high is not None else low,
            "kVA/hp",
            field="motor.code_letter",
            source="NEC Table 430.7(B)",
            rule="upper end of the letter" if high is not None else "lower end of the letter: at least",
            note=f"The letter spans {low:g} to {high:g} kVA/hp." if high is not None else "At least.",
        )
        ends = [locked_rotor_current_a(hp, volts.number, k, m.phases) for k in (low, high or low)]
        if m.code_letter == "V":
            c.find(
                "attention",
                "code_letter_open",
                f"Code letter V means at least {as_read(ends[0])} A at the start; there is no upper end.",
                "motor.code_letter",
            )
        return w.add(
            "locked_rotor_current_a",
            label,
            "Ia",
            ends[1],
            "A",
            formula="S·P/745.7·1000 / U" if m.phases == 1 else "S·P/745.7·1000 / (√3·U)",
            inputs=(letter, power, volts),
            rule="kVA per hp of the code letter, upper end",
            source="NEC 430.7(B)",
            note=f"The letter's two ends give {as_read(ends[0])} to {as_read(ends[1])} A.",
        )
    if ratio is None:
        kw = power.number / 1000 if power else sqrt(3) * volts.number * design.number * 0.7 / 1000
        ratio = w.add(
            "motor.locked_rotor_current_ratio",
            "Locked-rotor current ratio",
            "ra",
            SINGLE_PHASE_INRUSH_RATIO if m.phases == 1 else typical_motor_value("locked_rotor_current_ratio", kw),
            typical=True,
            field="motor.locked_rotor_current_ratio",
            rule="typical of a four-pole motor of this power",
            source="typical values",
            note="Not on the plate; see the data sheet.",
        )
    return w.add(
        "locked_rotor_current_a",
        label,
        "Ia",
        ratio.number * design.number,
        "A",
        formula="ra·In",
        inputs=(ratio, design),
        rule="ratio on the plate times rated current",
        source="IEC 60034-12",
    )
