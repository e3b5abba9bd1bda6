"""Branch-circuit devices of North American practice: percentages of the table current (NEC 430.52)."""

from collections.abc import Sequence

from volmek.core.catalogue.device_types import ShortCircuitDevice
from volmek.core.context import Context
from volmek.core.devices.breaker import magnetic_high, magnetic_low, setting_a, thermal_check
from volmek.core.devices.device import Check, Objection
from volmek.core.devices.settings import Settings
from volmek.core.devices.short_circuit import MAGNETIC_LOW, ROLE, Duty, Kind, no_edge, own_setting
from volmek.core.document.model import method_of
from volmek.core.physics.thermal import moulded_case_edges
from volmek.core.results.figures import Figure, as_read
from volmek.core.standards.tables import nec_standard_ratings_a, row_of

SOURCE = "NEC 430.52(C)(1) and Table 430.52(C)(1)"
TOLERANCE = 1e-6


def branch_rating_a(
    full_load_current_a: float, normal_pct: float, ratings_a: Sequence[float], exception_pct: float | None = None
) -> float:
    """Greatest standard rating of a branch-circuit device.

    Parameters
    ----------
    full_load_current_a : table current [A], > 0
    normal_pct : percentage of the device's column [%]
    ratings_a : standard ratings, ascending [A]
    exception_pct : ceiling after a failed start [%], None without one

    Returns
    -------
    Rating [A]: the percentage's own or the next higher standard rating; after a failed start the next lower one
    under the ceiling, unless Exception 1 allows more already.

    Raises
    ------
    ValueError : the percentage lies beyond the greatest standard rating.

    Examples
    --------
    >>> ratings = nec_standard_ratings_a(fuse=False)
    >>> branch_rating_a(34, 250, ratings), branch_rating_a(14, 250, ratings), branch_rating_a(34, 250, ratings, 400)
    (90.0, 35.0, 125.0)

    References
    ----------
    NEC 430.52(C)(1), Exceptions 1 and 2; 240.6(A). Compared with a tolerance of one in a million.
    """
    value = full_load_current_a * normal_pct / 100
    higher = next((r for r in ratings_a if r >= value * (1 - TOLERANCE)), None)
    if higher is None:
        raise ValueError(f"{value:.4g} A is above the largest standard rating, {ratings_a[-1]:g} A")
    if exception_pct is None:
        return higher
    ceiling = full_load_current_a * exception_pct / 100
    return max(higher, max((r for r in ratings_a if r <= ceiling * (1 + TOLERANCE)), default=0.0))


def exception_pct(device: str, full_load_current_a: float, column: float) -> float:
    """Ceiling after a failed start: the table's, less for large breakers and fuses.

    Parameters
    ----------
    device : kind of the short-circuit device
    full_load_current_a : by the table [A], > 0
    column : ceiling of the table for this device [% of it]

    Examples
    --------
    >>> exception_pct("inverse_time_breaker", 34, 400), exception_pct("inverse_time_breaker", 124, 400)
    (400, 300)

    References
    ----------
    NEC 430.52(C)(1), Exception 2(a) to (d).
    """
    if device == "inverse_time_breaker" and full_load_current_a > 100:
        return 300
    if device == "non_time_delay_fuse" and full_load_current_a * column / 100 > 600:
        return 300
    return column


def _columns(c: Context, device: str) -> tuple[float, float]:
    """Percentage and ceiling for this motor: a slip-ring one starts over its resistors and has a column of its own."""
    m = c.document.motor
    row = row_of("motor_branch_device_limits_nec430_52", "device", device)
    if method_of(c.document) == "rotor_resistance" or m.rotor_voltage_v or m.rotor_current_a:
        return row["wound_rotor_pct"], row["exception_pct"]
    efficient = m.nec_design_letter == "B" and m.efficiency_class in ("IE3", "IE4", "IE5")
    prefix = "design_b_energy_efficient_" if efficient else ""
    return row[f"{prefix}normal_pct"], row[f"{prefix}exception_pct"]


def _limit(device: str, label: str, *, fuse: bool) -> Kind:
    def rating(c: Context, duty: Duty) -> tuple[float, Figure]:
        w, current = c.working, duty.rated
        normal, ceiling = _columns(c, device)
        recorded = c.document.protection.failed_start_recorded
        exception = exception_pct(device, current.number, ceiling) if recorded else None
        pct = w.add(
            f"{ROLE}.limit_pct",
            f"Limit of Table 430.52(C)(1), {label.lower()}",
            "p%",
            normal,
            "%",
            source=SOURCE,
            rule="column of the device",
            school="North American practice",
        )
        value = w.add(
            f"{ROLE}.limit_a",
            "Percentage of the table current",
            "Ip",
            current.number * normal / 100,
            "A",
            formula=f"p%/100·{current.symbol}",
            inputs=(pct, current),
            source=SOURCE,
        )
        try:
            wanted = branch_rating_a(current.number, normal, nec_standard_ratings_a(fuse=fuse), exception)
        except ValueError:
            wanted = value.number  # the catalogue then has nothing that fits, and says so
        rule = (
            f"a failed start is recorded: next lower standard rating under {exception:g} %"
            if exception
            else "that rating, or the next higher standard one (Exception 1)"
        )
        return wanted, w.add(
            f"{ROLE}.limit_rating_a",
            "Largest standard rating allowed",
            "Imax",
            wanted,
            "A",
            formula="standard(Ip)",
            inputs=(value,),
            rule=rule,
            source=f"{SOURCE}; 240.6(A)",
        )

    def after(c: Context, duty: Duty, d: ShortCircuitDevice, designation: str) -> None:
        if fuse:
            return
        objection = thermal_check(duty, moulded_case_edges()[0])(d)
        if objection:
            c.find(
                "attention",
                objection.code,
                f"{objection.message}; after a failed start more is allowed",
                objection.field,
                fix="Record the failed start, or start with less current.",
                device=designation,
            )

    return Kind(
        label=label,
        practice="nec",
        checks=lambda c, duty: [],
        settings=lambda c, duty, d: Settings(),
        picks_rating=rating,
        after=after,
        rule="percentage of the table current, next higher standard rating",
        source=SOURCE,
        lower_edge_a=no_edge if fuse else magnetic_low,
        upper_edge_a=no_edge if fuse else magnetic_high,
        slow_time_s=lambda d, amps: (
            float("inf") if fuse else moulded_case_edges()[1].trip_time_s(amps / d.rated_current_a)
        ),
    )


def _trip_ceiling_a(c: Context, duty: Duty) -> float:
    normal, ceiling = _columns(c, "instantaneous_trip_breaker")
    return duty.rated.number * (ceiling if c.document.protection.failed_start_recorded else normal) / 100


def _instantaneous_checks(c: Context, duty: Duty) -> Sequence[Check[ShortCircuitDevice]]:
    def carries(d: ShortCircuitDevice) -> Objection | None:
        if d.rated_current_a >= 1.15 * duty.rated.number * (1 - TOLERANCE):
            return None
        return Objection(
            "breaker_below_115",
            f"{d.type} is rated {d.rated_current_a:g} A; 115 % of {duty.rated.text} A is needed",
            f"overrides.{ROLE}",
        )

    def reaches(d: ShortCircuitDevice) -> Objection | None:
        wanted = min(duty.peak_a / MAGNETIC_LOW, _trip_ceiling_a(c, duty))
        low, high = d.instantaneous_min_a or 0.0, d.instantaneous_max_a or 0.0
        if low <= _trip_ceiling_a(c, duty) and high >= wanted * (1 - TOLERANCE):
            return None
        return Objection(
            "setting_outside_range",
            f"{d.type} is adjustable from {as_read(low)} to {as_read(high)} A; {as_read(wanted)} A is needed",
            f"overrides.{ROLE}",
        )

    return [carries, reaches]


def _instantaneous_settings(c: Context, duty: Duty, d: ShortCircuitDevice) -> Settings:
    if own_setting(c) is not None:
        return Settings(instantaneous_trip_a=own_setting(c))
    return Settings(instantaneous_trip_a=min(setting_a(c, duty, d), _trip_ceiling_a(c, duty)))


def _instantaneous_after(c: Context, duty: Duty, d: ShortCircuitDevice, designation: str) -> None:
    ceiling, own = _trip_ceiling_a(c, duty), own_setting(c)
    if own is not None and own > ceiling * (1 + TOLERANCE):
        c.find(
            "stop",
            "instantaneous_above_limit",
            f"The trip is set at {own:g} A; {as_read(ceiling)} A is the ceiling, with no next higher rating.",
            f"overrides.{ROLE}",
            device=designation,
        )
    c.find(
        "attention",
        "listed_combination",
        "An instantaneous-trip breaker may be used only as part of a listed combination motor controller.",
        "protection.device",
        device=designation,
    )


KINDS = {
    "inverse_time_breaker": _limit("inverse_time_breaker", "Inverse-time breaker", fuse=False),
    "time_delay_fuse": _limit("time_delay_fuse", "Time-delay fuse", fuse=True),
    "non_time_delay_fuse": _limit("non_time_delay_fuse", "Non-time-delay fuse", fuse=True),
    "instantaneous_trip_breaker": Kind(
        label="Instantaneous-trip breaker",
        practice="nec",
        checks=_instantaneous_checks,
        settings=_instantaneous_settings,
        rule="continuous rating ≥ 115 %; trip set to clear the start, within 800 % (1100 %) of the table current",
        source=SOURCE,
        lower_edge_a=magnetic_low,
        upper_edge_a=magnetic_high,
        slow_time_s=lambda d, amps: float("inf"),
        after=_instantaneous_after,
    ),
}
