"""The soft starter itself: rating, current limit and starting time, and the fuse that saves its thyristors."""

from volmek.core.catalogue.device_types import ShortCircuitDevice, SoftStarter
from volmek.core.context import Context
from volmek.core.devices.device import Check, Device, Objection, Required, Selected, override_marks, pick_spare
from volmek.core.devices.settings import Settings
from volmek.core.installation.designations import SOFT_STARTER
from volmek.core.plate.plate import Plate
from volmek.core.results.figures import as_read
from volmek.core.start.start import Start

ROLE, DESIGNATION = "soft_starter", SOFT_STARTER
DEFAULT_CURRENT_LIMIT = 3.5


def starting_heat(limit_ratio: float, start_s: float) -> float:
    """Heat of a start in the thyristors, in units of their rated current squared times seconds.

    Parameters
    ----------
    limit_ratio : starting current over rated current [-], > 0
    start_s : length of the start [s], > 0

    Examples
    --------
    >>> starting_heat(4, 10)
    160

    References
    ----------
    IEC 60947-4-2, AC-53a: X·Ie for Tx seconds; another start is compared by I²t.
    """
    return limit_ratio**2 * start_s


def select_soft_starter(c: Context, plate: Plate, front: Device, start: Start) -> Device:
    """Pick the soft starter and say what a short circuit does to it.

    Parameters
    ----------
    c : inputs and log of the sizing
    plate : what the plate and the supply come to
    front : the short-circuit device
    start : how long it ramps

    Examples
    --------
    >>> from volmek.core.examples import example_device
    >>> example_device("G1", starter={"type": "soft_starter"}).settings.current_limit_ratio
    3.5

    References
    ----------
    IEC 60947-4-2, AC-53a.
    """
    start_s = start.figure.number
    w = c.working
    limit_ratio = c.document.starter.current_limit_ratio or DEFAULT_CURRENT_LIMIT
    limit = w.add(f"{ROLE}.current_limit_ratio", "Current limit over rated current", "m", limit_ratio,
                  field="starter.current_limit_ratio", typical=c.document.starter.current_limit_ratio is None,
                  rule="as typed" if c.document.starter.current_limit_ratio else "usual for a pump or fan",
                  source="typed" if c.document.starter.current_limit_ratio else "default")  # fmt: skip
    at_limit = w.add(f"{ROLE}.limit_a", "Current limit to set", "m·In", limit_ratio * plate.design.number, "A", formula="m·In",
                     inputs=(limit, plate.design), rule="the current held during the ramp", source="IEC 60947-4-2")  # fmt: skip

    def carries(g: SoftStarter) -> Objection | None:
        if g.rated_current_a >= plate.design.number * (1 - 1e-6):
            return None
        return Objection(
            "soft_starter_small",
            f"{g.type} is rated {as_read(g.rated_current_a)} A in AC-53a; the motor draws {plate.design.text} A",
            f"overrides.{ROLE}",
        )

    def voltage(g: SoftStarter) -> Objection | None:
        if g.voltage_min_v * 0.9 <= plate.line_voltage_v <= g.voltage_max_v * 1.1:
            return None
        return Objection(
            "soft_starter_voltage",
            f"{g.type} is made for {g.voltage_min_v:g} to {g.voltage_max_v:g} V; the supply has {as_read(plate.line_voltage_v)} V",
            "supply.line_voltage_v",
        )

    def lasts(g: SoftStarter) -> Objection | None:
        ratio = at_limit.number / g.rated_current_a
        able = starting_heat(g.start_multiple, g.start_time_s)
        if ratio <= g.limit_max_ratio * (1 + 1e-6) and starting_heat(ratio, start_s) <= able * (1 + 1e-6):
            return None
        return Objection(
            "soft_starter_start",
            f"{g.type} stands {g.start_multiple:g} times its rating for {g.start_time_s:g} s; {as_read(ratio)} times for {start_s:g} s is asked",
            "load.start_time_s",
        )

    checks: list[Check[SoftStarter]] = [voltage, carries, lasts]
    g, candidates = pick_spare(
        c, ROLE, DESIGNATION, c.catalogue.soft_starters, checks, what="soft starter", field="starter.type"
    )
    rated = w.add(f"{ROLE}.rated_current_a", f"Rating of {g.type} in AC-53a" if g else "Rating needed in AC-53a", "Ie",
                  g.rated_current_a if g else plate.design.number, "A", inputs=(plate.design, at_limit),
                  rule="smallest that carries the motor and stands the ramp at its current limit",
                  source="IEC 60947-4-2, AC-53a", candidates=candidates)  # fmt: skip
    figures = [rated, at_limit]
    if g:
        thyristors = w.add(f"{ROLE}.thyristor_i2t_a2s", "Withstand energy of its thyristors", "I²tT", g.thyristor_i2t_a2s, "A²s",
                           rule="from the catalogue", source=c.catalogue.source_of(g.type))  # fmt: skip
        fuse = w.add(f"{ROLE}.semiconductor_fuse_i2t_a2s", f"Energy that the semiconductor fuse {g.semiconductor_fuse} lets through", "I²tF",
                     g.semiconductor_fuse_i2t_a2s, "A²s", inputs=(thyristors,), rule="below that of the thyristors",
                     source="IEC 60269-4; IEC 60947-4-2")  # fmt: skip
        figures += [fuse, thyristors]
        _say_unprotected(c, g, front)
    reason, marks = override_marks(c.document.override(ROLE))
    selected = Selected(
        type=g.type if g else None,
        rated_current_a=g.rated_current_a if g else None,
        semiconductor_fuse=g.semiconductor_fuse if g else None,
        semiconductor_fuse_a=g.semiconductor_fuse_a if g else None,
    )
    required = Required(current_a=plate.design.number, category="AC-53a", voltage_v=plate.line_voltage_v)
    settings = Settings(current_limit_ratio=limit_ratio, current_limit_a=at_limit.number)
    return Device(
        DESIGNATION,
        ROLE,
        "soft_starter",
        "Soft starter",
        required,
        selected,
        settings,
        tuple(figures),
        rated,
        reason,
        marks,
    )


def _say_unprotected(c: Context, g: SoftStarter, front: Device) -> None:
    """The ordinary device lets more through than the thyristors withstand: type 2 needs the semiconductor fuse."""
    if front.none_fits:
        return
    row = c.catalogue.by_type[front.type][1]
    assert isinstance(row, ShortCircuitDevice)
    energy = row.let_through_a2s
    if energy is not None and energy <= g.thyristor_i2t_a2s:
        return
    said = f"lets up to {as_read(energy)} A²s through" if energy else "may let more through"
    c.find(
        "info",
        "thyristors_unprotected",
        f"{row.type} {said}, the thyristors of {g.type} stand {as_read(g.thyristor_i2t_a2s)} A²s: a short circuit may destroy them. "
        f"Semiconductor fuses {g.semiconductor_fuse} ({g.semiconductor_fuse_a:g} A) ahead of it protect them.",
        "starter.type",
        device=DESIGNATION,
    )
