"""Contactors of NEMA sizes (North American practice)."""

from volmek.core.catalogue.catalogue import reference_catalogue
from volmek.core.catalogue.device_types import NemaStarter
from volmek.core.context import Context
from volmek.core.devices.coil import coil_check, coil_figures, coil_name
from volmek.core.devices.device import Check, Device, Objection, Required, Selected, objections, override_marks, pick
from volmek.core.devices.part import ContactorPart
from volmek.core.devices.settings import Settings
from volmek.core.plate.plate import HORSEPOWER_W, Plate
from volmek.core.results.figures import Figure, as_read
from volmek.core.standards.tables import POWER_UNIT_TOLERANCE
from volmek.data.loader import standard

REMEDY = "Choose a method that leaves less current to each contactor, or add a larger one to your catalogue."


def size_field(c: Context) -> str:
    """Field of the document that mends a contactor that does not suffice.

    Parameters
    ----------
    c : inputs and log of the sizing

    Examples
    --------
    >>> from volmek.core.examples import example_plate
    >>> size_field(example_plate()[0])
    'motor.rated_power_kw'
    """
    m = c.document.motor
    names = (
        "rated_power_kw",
        "rated_power_hp",
        "rated_power_ps",
        "rated_current_delta_a",
        "rated_current_star_a",
        "rated_current_low_a",
        "rated_current_high_a",
    )
    return "motor." + next((n for n in names if getattr(m, n)), "rated_current_a")


def select_nema(c: Context, plate: Plate, part: ContactorPart, current: Figure, ultimate_trip: Figure) -> Device:
    """The smallest starter of a NEMA size: horsepower at the voltage, continuous current, service limit, plugging.

    Parameters
    ----------
    c : inputs and log of the sizing
    plate : what the plate and the supply come to
    part : the contactor in its circuit
    current : at full load, as it flows through it [A]
    ultimate_trip : greatest motor current that the overload protection lets pass [A]

    Examples
    --------
    >>> from volmek.core.examples import example_device
    >>> plate = {"rated_power_kw": None, "rated_power_hp": 10, "rated_voltage_v": 460, "rated_current_a": 14, "leads": 3,
    ...     "rated_voltage_delta_v": None, "rated_voltage_star_v": None, "rated_current_delta_a": None}
    >>> example_device("K1", practice="nec", motor=plate, supply={"line_voltage_v": 460, "frequency_hz": 60}).selected.size
    '1'

    References
    ----------
    NEMA ICS 2, Tables of continuous current and horsepower; NEC 430.6(A).
    """
    d, w = c.document, c.working
    role, designation = part.role, part.designation
    sizes = {r["size"]: r for r in standard("starter_size_nema")}
    volts = plate.line_voltage_v
    if plate.phases == 1:
        column = "single_phase_hp_115v" if volts <= 120 else "single_phase_hp_230v"
    else:
        column = (
            "three_phase_hp_200v"
            if volts <= 208
            else "three_phase_hp_230v"
            if volts <= 240
            else "three_phase_hp_460_575v"
        )
    power = plate.shaft_power
    hp = part.factor * power.number / HORSEPOWER_W if power else None
    plugging = d.load.duty == "ac4"
    order = list(sizes)
    source = "NEMA ICS 2, Tables of continuous current and horsepower"

    def horsepower(k: NemaStarter) -> Objection | None:
        allowed = sizes[k.size][column]
        if hp is None:
            return None
        if allowed is None or hp > allowed * (1 + POWER_UNIT_TOLERANCE):
            said = f"{allowed:g} hp" if allowed else "no horsepower"
            return Objection(
                "starter_size_hp",
                f"size {k.size} has {said} at {as_read(volts)} V; the motor has {as_read(hp)} hp",
                f"overrides.{role}",
            )
        return None

    def continuous(k: NemaStarter) -> Objection | None:
        row = sizes[k.size]
        if row["continuous_a"] < current.number * (1 - 1e-6):
            return Objection(
                "starter_size_current",
                f"size {k.size} carries {row['continuous_a']:g} A; {current.text} A is needed",
                f"overrides.{role}",
            )
        return None

    def service_limit(k: NemaStarter) -> Objection | None:
        limit = sizes[k.size]["service_limit_a"]
        if part.factor * ultimate_trip.number > limit * (1 + 1e-6):
            return Objection(
                "starter_service_limit",
                f"size {k.size} has a service limit of {limit:g} A; the overload relay trips "
                f"at up to {ultimate_trip.text} A",
                f"overrides.{role}",
            )
        return None

    base: list[Check[NemaStarter]] = [horsepower, continuous, service_limit, coil_check(c)]

    plain = [order.index(x.size) for x in c.catalogue.nema_starters if plugging and not objections(x, base)]

    def jogging(k: NemaStarter) -> Objection | None:
        if plugging and order.index(k.size) <= min(plain, default=len(order)):
            return Objection(
                "starter_size_jogging",
                f"size {k.size} is enough for plain starting; plugging or jogging more than "
                "five times a minute needs one size more",
                "load.duty",
                severity="attention",
            )
        return None

    checks = [*base, jogging]
    k, candidates, lacking = pick(
        c,
        role,
        designation,
        c.catalogue.nema_starters or reference_catalogue().nema_starters,
        checks,
        what="NEMA starter",
        field=size_field(c),
        remedy=lambda: REMEDY,
        absent=not c.catalogue.nema_starters,
    )
    if lacking:
        c = c.quiet()
    required = w.add(
        f"{role}.required_current_a",
        f"Current that {designation} must carry",
        "Ireq",
        current.number,
        "A",
        formula=current.symbol,
        inputs=(current,),
        rule="table current, or the plate's where it is higher",
        source="NEC 430.6(A); NEMA ICS 2",
    )
    row = sizes[k.size]
    rated = w.add(
        f"{role}.rated_current_a",
        f"Continuous rating of size {k.size}",
        "Ith",
        row["continuous_a"],
        "A",
        inputs=(required, ultimate_trip),
        rule="horsepower at the voltage, continuous current and service limit",
        source=source,
        candidates=candidates,
    )
    reason, marks = override_marks(d.override(role))
    selected = Selected(
        type=k.type,
        size=k.size,
        rated_current_a=row["continuous_a"],
        rated_power_hp=row[column],
        service_limit_a=row["service_limit_a"],
        frame=k.frame,
        coil=coil_name(c, k),
        inrush_va=k.inrush_va,
        sealed_va=k.sealed_va,
        auxiliary_no=k.auxiliary_no,
        auxiliary_nc=k.auxiliary_nc,
    )
    figures = [required, rated, *coil_figures(c, role, designation, k, plate.frequency_hz)]
    return Device(
        designation,
        role,
        "contactor",
        f"{part.label}, NEMA size {k.size}",
        Required(current_a=current.number, category="AC-4" if plugging else "AC-3", voltage_v=volts, rated_power_hp=hp),
        selected,
        Settings(),
        tuple(figures),
        rated,
        reason,
        marks,
        checks=checks,
        none_fits=lacking,
    )
