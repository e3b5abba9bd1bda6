"""Contactors: AC-3 and AC-4 rating, making and breaking, short-time duty, surroundings, coil, life; NEMA sizes."""

from collections.abc import Sequence

from volmek.core.catalogue.catalogue import reference_catalogue
from volmek.core.catalogue.device_types import Contactor, voltage_column
from volmek.core.context import Context
from volmek.core.devices.coil import coil_check, coil_figures, coil_name
from volmek.core.devices.device import Check, Device, Objection, Required, Selected, objections, override_marks, pick
from volmek.core.devices.nema import REMEDY, select_nema, size_field
from volmek.core.devices.part import ContactorPart
from volmek.core.devices.settings import Settings
from volmek.core.physics.profile import heat_a2s
from volmek.core.plate.plate import Plate
from volmek.core.results.figures import Figure, as_read
from volmek.core.standards.tables import interpolate

#: ∫I²dt that a contactor withstands, in units of Ie²·s: (8·Ie)²·10 s, and (6·Ie)²·10 s above 630 A.
SHORT_TIME_DUTY_S, SHORT_TIME_DUTY_LARGE_S = 640.0, 360.0


TOP_VOLTAGE_V = 690.0
#: Electrical life below which a contactor gets a finding [years].
LEAST_LIFE_YEARS = 2.0
#: Objections that ask for a larger contactor because of the start, with the field that each rests on.
BY_THE_START = {
    "contactor_make_capacity": "motor.locked_rotor_current_ratio",
    "contactor_break_capacity": "motor.locked_rotor_current_ratio",
    "contactor_short_time": "load.start_time_s",
}
ALTITUDES_M = (2000.0, 3000.0, 4000.0)


CURRENT_AT_ALTITUDE, VOLTAGE_AT_ALTITUDE = (1.0, 0.93, 0.88), (1.0, 0.88, 0.78)


def electrical_life_operations(
    reference_operations: float, rated_current_a: float, breaking_current_a: float, exponent: float = 2.0
) -> float:
    """Operations until the contacts are worn.

    Parameters
    ----------
    reference_operations : life at the rated current of the category [-], > 0
    rated_current_a : Ie of that category [A], > 0
    breaking_current_a : current at each opening [A], > 0: In in AC-3, Ia in AC-4
    exponent : wear law [-], 2 by default

    Examples
    --------
    >>> electrical_life_operations(1_000_000, 20, 10)
    4000000.0

    References
    ----------
    Usual wear law of makers' life diagrams: N = N_ref·(Ie/Ibreak)^x.
    """
    return float(reference_operations * (rated_current_a / breaking_current_a) ** exponent)


def mixed_life_operations(ac3_operations: float, ac4_operations: float, ac4_share: float) -> float:
    """Life under a mix of ordinary stops and inching or plugging.

    Parameters
    ----------
    ac3_operations, ac4_operations : life in each duty alone [-]
    ac4_share : share of the operations that are AC-4 [-], 0 … 1

    Examples
    --------
    >>> round(mixed_life_operations(2_000_000, 100_000, 0.05))
    1025641

    References
    ----------
    Wear adds up: 1/N = (1−c)/N3 + c/N4.
    """
    return 1 / ((1 - ac4_share) / ac3_operations + ac4_share / ac4_operations)


def select_contactor(
    c: Context,
    plate: Plate,
    part: ContactorPart,
    current: Figure,
    locked: Figure,
    steps: Sequence[tuple[float, float]],
    ultimate_trip: Figure,
) -> Device:
    """The contactor of one part: NEMA size in North American practice, else by utilisation category.

    Parameters
    ----------
    current, locked : at full load, and the most it makes and breaks, as they flow through this contactor
    steps : seconds and current through it while the motor runs up
    ultimate_trip : greatest motor current that the overload protection lets pass

    Examples
    --------
    >>> from volmek.core.examples import example_device
    >>> example_device("K1").selected.category
    'AC-3'

    References
    ----------
    IEC 60947-4-1, Table 7; NEMA ICS 2.
    """
    if c.nec:
        return select_nema(c, plate, part, current, ultimate_trip)
    return _iec(c, plate, part, current, locked, steps)


def _altitude(c: Context) -> tuple[float, float]:
    altitude = c.document.surroundings.altitude_m or 0.0
    if altitude <= ALTITUDES_M[0]:
        return 1.0, 1.0
    held = min(altitude, ALTITUDES_M[-1])
    return interpolate(held, ALTITUDES_M, CURRENT_AT_ALTITUDE), interpolate(held, ALTITUDES_M, VOLTAGE_AT_ALTITUDE)


def _iec(
    c: Context, plate: Plate, part: ContactorPart, current: Figure, locked: Figure, steps: Sequence[tuple[float, float]]
) -> Device:
    d, w = c.document, c.working
    role, designation, volts = part.role, part.designation, plate.line_voltage_v
    duty = d.load.duty
    prefix, category = ("ac4", "AC-4") if duty == "ac4" else ("ac3", part.category or "AC-3")
    at_current, at_voltage = _altitude(c)
    needed_a, locked_a = current.number, locked.number
    ambient = d.surroundings.ambient_c if d.surroundings.ambient_c is not None else 40.0

    used, hottest = heat_a2s(steps), max(amps for _, amps in steps)
    column = voltage_column(volts)
    columns = {of: f"{of}_{column}_a" for of in ("ac3", "ac3e", "ac4")} if column else {}

    def thermal_share(k: Contactor) -> float:
        return 1 - max(ambient - k.ambient_limit_c, 0) * k.derating_pct_per_k / 100

    def rating(k: Contactor, of: str) -> float:
        return (getattr(k, columns[of]) if columns else 0.0) * at_current * thermal_share(k)

    def voltage(k: Contactor) -> Objection | None:
        if not columns or volts > TOP_VOLTAGE_V * at_voltage:
            return Objection(
                "contactor_voltage",
                f"rated up to {TOP_VOLTAGE_V * at_voltage:.0f} V here, the supply has {as_read(volts)} V",
                "supply.line_voltage_v",
            )
        return None

    def carries(k: Contactor) -> Objection | None:
        ie = rating(k, prefix)
        if ie < needed_a * (1 - 1e-6):
            return Objection(
                "contactor_too_small",
                f"{k.type} is rated {as_read(ie)} A in {category} at {as_read(volts)} V here; {current.text} A is needed",
                f"overrides.{role}",
            )
        return None

    def makes(k: Contactor) -> Objection | None:
        make = max(10 * rating(k, "ac3"), 12 * rating(k, "ac3e"))
        breaks = max(8 * rating(k, "ac3"), 8.5 * rating(k, "ac3e"))
        for what, able in (("make", make), ("break", breaks)):
            if able < locked_a * (1 - 1e-6):
                return Objection(
                    f"contactor_{what}_capacity",
                    f"{k.type} can {what} {as_read(able)} A; the motor draws {locked.text} A at the start",
                    f"overrides.{role}",
                )
        return None

    def lasts(k: Contactor) -> Objection | None:
        ie = rating(k, "ac3")
        duty_s = SHORT_TIME_DUTY_S if ie <= 630 else SHORT_TIME_DUTY_LARGE_S
        able = k.short_time_10s_a**2 * 10 if k.short_time_10s_a else duty_s * ie**2
        if used > able * (1 + 1e-6):
            return Objection(
                "contactor_short_time",
                f"{k.type} withstands {as_read(able / hottest**2)} s at {as_read(hottest)} A; the start is equivalent to {as_read(used / hottest**2)} s of that",
                "load.start_time_s",
            )
        return None

    def warm(k: Contactor) -> Objection | None:
        if ambient > k.ambient_max_c:
            return Objection(
                "contactor_too_warm",
                f"{k.type} is allowed up to {k.ambient_max_c:g} °C; here it is {ambient:g} °C",
                "surroundings.ambient_c",
            )
        return None

    checks: list[Check[Contactor]] = [voltage, warm, carries, makes, lasts, coil_check(c)]
    devices, first = c.catalogue.contactors or reference_catalogue().contactors, 0
    if columns:
        devices, first = c.catalogue.from_rating(devices, columns[prefix], needed_a / at_current)
    k, candidates, lacking = pick(
        c,
        role,
        designation,
        devices,
        checks,
        what="contactor",
        field=size_field(c),
        first=first,
        remedy=lambda: REMEDY,
        absent=not c.catalogue.contactors,
    )
    if lacking:
        c = c.quiet()
    ie = rating(k, prefix)
    if designation and not c.document.override(role):
        _say_why_larger(c, designation, k, checks, current)
    if ambient > k.ambient_limit_c:
        c.find(
            "attention",
            "contactor_ambient",
            f"{k.type} at {ambient:g} °C carries {100 * thermal_share(k):.0f} % of its rating (rated for {k.ambient_limit_c:g} °C).",
            "surroundings.ambient_c",
            device=designation,
        )
    starts = d.load.starts_per_hour
    if starts and starts > k.max_operations_per_h:
        c.find(
            "attention",
            "operations_per_hour",
            f"{starts:g} starts an hour are more than the {k.max_operations_per_h:g} that {k.type} is made for.",
            "load.starts_per_hour",
            device=designation,
        )
    share = 1.0 if at_current == 1 and thermal_share(k) == 1 else at_current * thermal_share(k)
    required = w.add(
        f"{role}.required_current_a",
        f"Current that {designation} must carry",
        "Ireq",
        current.number,
        "A",
        formula=current.symbol,
        inputs=(current,),
        rule=part.why,
        source="IEC 60947-4-1, 5.4",
    )
    rated = w.add(
        f"{role}.rated_current_a",
        f"Rating of {k.type} in {category} at {as_read(volts)} V",
        "Ie",
        ie,
        "A",
        rule="catalogue value of the voltage column that covers the working voltage"
        + (f", times {share:.3g} for altitude and ambient" if share != 1 else ""),
        source=c.catalogue.source_of(k.type),
        inputs=(required,),
        candidates=candidates,
    )
    figures = [
        required,
        rated,
        *([] if lacking else _life(c, role, designation, k, current, locked, rating)),
        *coil_figures(c, role, designation, k, plate.frequency_hz),
    ]
    reason, marks = override_marks(d.override(role))
    selected = Selected(
        type=k.type,
        rated_current_a=ie,
        frame=k.frame,
        category=category,
        ac1_a=k.ac1_a,
        coil=coil_name(c, k),
        inrush_va=k.inrush_va,
        sealed_va=k.sealed_va,
        auxiliary_no=k.auxiliary_no,
        auxiliary_nc=k.auxiliary_nc,
        max_fuse_gg_a=k.max_fuse_gg_a,
    )
    return Device(
        designation,
        role,
        "contactor",
        part.label,
        Required(current_a=current.number, category=category, voltage_v=volts),
        selected,
        Settings(),
        tuple(figures),
        rated,
        reason,
        marks,
        checks=checks,
        none_fits=lacking,
    )


def _say_why_larger(
    c: Context, designation: str, k: Contactor, checks: list[Check[Contactor]], current: Figure
) -> None:
    """A larger contactor than the rated current asks for is taken: say which duty asked for it."""
    volts = c.document.supply.line_voltage_v or 0.0
    prefix = "ac4" if c.document.load.duty == "ac4" else "ac3"
    smaller = [
        x
        for x in c.catalogue.contactors
        if x.ac3_400_a < k.ac3_400_a and (x.by_voltage(prefix, volts) or 0) >= current.number and x.type != k.type
    ]
    if not smaller:
        return
    against = next(iter(objections(smaller[-1], checks)), None)
    if against and against.code in BY_THE_START:
        c.find(
            "attention", "contactor_larger_for_start", f"{k.type} instead of {smaller[0].type}: {against.message}.", BY_THE_START[against.code],
            device=designation,
        )  # fmt: skip


def _life(
    c: Context, role: str, designation: str, k: Contactor, current: Figure, locked: Figure, rating: object
) -> list[Figure]:
    d, w = c.document, c.working
    assert callable(rating)
    x = d.assumptions.life_exponent
    n3 = electrical_life_operations(k.life_ac3_operations, rating(k, "ac3"), current.number, x)
    share = d.load.ac4_share
    value, rule = n3, "N = N_ref·(Ie/In)²" if x == 2 else f"N = N_ref·(Ie/In)^{x:g}"
    if share > 0:
        reference, ie4 = k.life_ac4_operations, rating(k, "ac4")
        n4 = (
            electrical_life_operations(reference, 6 * ie4, locked.number, x)
            if reference
            else electrical_life_operations(k.life_ac3_operations, rating(k, "ac3"), locked.number, x)
        )
        value = mixed_life_operations(n3, n4, share)
        rule = f"1/N = (1−c)/N3 + c/N4 with c = {share:.0%} of AC-4 stops"
    life = w.add(
        f"{role}.life_operations",
        "Electrical life of the contacts, operations",
        "N",
        value,
        "",
        inputs=(current, locked) if share else (current,),
        rule=rule,
        source=f"{c.catalogue.source_of(k.type)}; makers' life diagrams",
        text=f"{value / 1e6:.2g} million" if value >= 1e6 else as_read(value),
    )
    figures = [life]
    if d.load.starts_per_hour and d.load.hours_per_year:
        starts = w.typed("load.starts_per_hour", "Starts per hour", "z", d.load.starts_per_hour, "1/h")
        hours = w.typed("load.hours_per_year", "Hours per year", "h", d.load.hours_per_year, "h/a")
        assert starts and hours
        years = w.add(f"{role}.life_years", "Electrical life in years", "a", value / (starts.number * hours.number), "years", formula="N / (z·h)",
                      inputs=(life, starts, hours), rule="at the stated use", source="arithmetic")  # fmt: skip
        figures.append(years)
        if years.number < LEAST_LIFE_YEARS:
            c.find("attention", "contactor_life_short", f"At {starts.text} starts an hour and {hours.text} hours a year the contacts of {designation} last about "
                   f"{as_read(12 * years.number)} months: take a larger one, or plan its replacement.", "load.starts_per_hour", device=designation)  # fmt: skip
    return figures
