"""Look-ups in the standards' tables: between rows as each table allows, never beyond its ends."""

from bisect import bisect_left, bisect_right
from collections.abc import Sequence
from functools import cache
from math import log

from volmek.core.document.errors import PlateError
from volmek.data.loader import Row, standard

#: A power converted between kW and hp lands within this share of the row that is meant (7.5 kW is 10 hp).
POWER_UNIT_TOLERANCE = 0.01

#: System voltages that the columns of the NEC current tables stand for (NEC Table 430.250, heading).
NEC_VOLTAGE_COLUMNS = (
    (110, 120, "current_a_115v"),
    (200, 200, "current_a_200v"),
    (208, 208, "current_a_208v"),
    (220, 240, "current_a_230v"),
    (440, 480, "current_a_460v"),
    (550, 600, "current_a_575v"),
)


def interpolate(x: float, xs: Sequence[float], ys: Sequence[float]) -> float:
    """Straight line between the two neighbouring points.

    Parameters
    ----------
    x : abscissa, within ``xs[0]`` … ``xs[-1]``
    xs, ys : ascending abscissae and their ordinates

    Raises
    ------
    ValueError : x lies outside; the table is never extended.

    Examples
    --------
    >>> interpolate(42.5, [40, 45], [1.0, 0.95])
    0.975

    References
    ----------
    Linear interpolation.
    """
    if not xs[0] <= x <= xs[-1]:
        raise ValueError(f"{x:g} is outside {xs[0]:g} … {xs[-1]:g}")
    i = min(max(bisect_right(xs, x) - 1, 0), len(xs) - 2)
    return ys[i] + (ys[i + 1] - ys[i]) * (x - xs[i]) / (xs[i + 1] - xs[i])


def log_interpolate(x: float, xs: Sequence[float], ys: Sequence[float]) -> float:
    """Straight line on log-log paper between the two neighbouring points.

    Examples
    --------
    >>> round(log_interpolate(2, [1, 4], [10, 40]), 6)
    20.0

    References
    ----------
    Log-log interpolation; arguments and errors as :func:`interpolate`.
    """
    if not xs[0] <= x <= xs[-1]:
        raise ValueError(f"{x:g} is outside {xs[0]:g} … {xs[-1]:g}")
    i = min(max(bisect_right(xs, x) - 1, 0), len(xs) - 2)
    if x == xs[i]:
        return ys[i]
    share = log(x / xs[i]) / log(xs[i + 1] / xs[i])
    return float(ys[i] * (ys[i + 1] / ys[i]) ** share)


@cache
def _column(table: str, name: str) -> list[float]:
    return [row[name] for row in standard(table)]


def motor_current_iec_a(rated_power_kw: float, line_voltage_v: float) -> float:
    """Usual full-load current of a three-phase motor, IEC practice.

    Parameters
    ----------
    rated_power_kw : rated output [kW], 0.06 … 1000
    line_voltage_v : plate voltage of the connection used [V]; the columns 230, 400, 500 and 690 V hold at
        their own voltage, another one is taken from the column nearest by ratio with I ∝ 1/U

    Raises
    ------
    PlateError : the power lies outside the table; the table is never extended.

    Examples
    --------
    >>> motor_current_iec_a(7.5, 400)
    15.5
    >>> round(motor_current_iec_a(5.0, 415), 2)
    10.13

    References
    ----------
    IEC 60947-4-1, Annex G (usual motor currents), as in ``motor_current_three_phase_iec.csv``.
    """
    column_v = min((230.0, 400.0, 500.0, 690.0), key=lambda v: abs(log(line_voltage_v / v)))
    powers = _column("motor_current_three_phase_iec", "rated_power_kw")
    try:
        current = log_interpolate(
            rated_power_kw, powers, _column("motor_current_three_phase_iec", f"current_a_{column_v:.0f}v")
        )
    except ValueError:
        raise PlateError.at(
            "motor.rated_power_kw",
            f"{rated_power_kw:g} kW is outside the current table ({powers[0]:g} to {powers[-1]:g} kW); "
            "type the plate current",
        ) from None
    return current * column_v / line_voltage_v


def nec_column_voltage_v(voltage_v: float) -> float:
    """Motor voltage of the column that a system voltage falls into [V].

    Parameters
    ----------
    voltage_v : of the system

    Raises
    ------
    PlateError : no column.

    Examples
    --------
    >>> nec_column_voltage_v(480), nec_column_voltage_v(208)
    (460.0, 208.0)

    References
    ----------
    NEC (NFPA 70) Tables 430.248 and 430.250.
    """
    for low, high, column in NEC_VOLTAGE_COLUMNS:
        if low <= voltage_v <= high:
            return float(column.removeprefix("current_a_").removesuffix("v"))
    raise PlateError.at("supply.line_voltage_v", f"{voltage_v:g} V has no column in the NEC tables")


def motor_current_nec_a(rated_power_hp: float, voltage_v: float, phases: int = 3) -> float:
    """Full-load current of a motor, North American practice.

    Parameters
    ----------
    rated_power_hp : rated output [hp]; between two rows the next higher row counts, within 1 % of a row (a power
        converted from kW) that row
    voltage_v : motor or system voltage [V]; 110–120, 200, 208, 220–240, and for three phases 440–480 or 550–600
    phases : 1 or 3

    Raises
    ------
    PlateError : no row or no column for these values.

    Examples
    --------
    >>> motor_current_nec_a(10, 480), motor_current_nec_a(7.5 / 0.7457, 460), motor_current_nec_a(9, 230)
    (14.0, 14.0, 28.0)
    >>> motor_current_nec_a(1, 120, phases=1), motor_current_nec_a(1.5, 240, phases=1)
    (16.0, 10.0)

    References
    ----------
    NEC (NFPA 70) Tables 430.248 (one phase) and 430.250 (three phases).
    """
    table, number = (
        ("motor_current_single_phase_nec", "430.248") if phases == 1 else ("motor_current_three_phase_nec", "430.250")
    )
    all_rows = standard(table)
    column = next((c for low, high, c in NEC_VOLTAGE_COLUMNS if low <= voltage_v <= high and c in all_rows[0]), None)
    if column is None:
        spans = (
            "110–120, 200, 208 and 220–240 V" if phases == 1 else "110–120, 200, 208, 220–240, 440–480 and 550–600 V"
        )
        raise PlateError.at(
            "supply.line_voltage_v", f"{voltage_v:g} V has no column in NEC Table {number}; it has {spans}"
        )
    rows = [r for r in all_rows if r[column] is not None]
    first, last = rows[0]["rated_power_hp"], rows[-1]["rated_power_hp"]
    i = bisect_left([r["rated_power_hp"] for r in rows], rated_power_hp / (1 + POWER_UNIT_TOLERANCE))
    if i == len(rows) or rated_power_hp < first * (1 - POWER_UNIT_TOLERANCE):
        raise PlateError.at(
            "motor.rated_power_hp",
            f"{rated_power_hp:.4g} hp is outside NEC Table {number} at {voltage_v:g} V ({first:g} to {last:g} hp)",
        )
    return float(rows[i][column])


#: Typical cosφ of a single-phase motor by kind, and its efficiency at 0.12 and at 2.2 kW.
SINGLE_PHASE_POWER_FACTOR = {"capacitor_run": 0.92, "capacitor_start_run": 0.95}
USUAL_SINGLE_PHASE_POWER_FACTOR = 0.75
SINGLE_PHASE_EFFICIENCY_PCT = (60.0, 75.0)
SINGLE_PHASE_INRUSH_RATIO = 5.0


def typical_single_phase(rated_power_kw: float, kind: str | None) -> tuple[float, float]:
    """Typical power factor [-] and efficiency [%] of a single-phase motor.

    Examples
    --------
    >>> typical_single_phase(2.2, "capacitor_start_run"), typical_single_phase(0.12, None)
    ((0.95, 75.0), (0.75, 60.0))

    References
    ----------
    Usual catalogue values: cosφ 0.75 to 0.95 by kind, efficiency 60 to 75 % by power; there is no standard table.
    """
    held = log(min(max(rated_power_kw, 0.12), 2.2))
    efficiency = interpolate(held, (log(0.12), log(2.2)), SINGLE_PHASE_EFFICIENCY_PCT)
    return SINGLE_PHASE_POWER_FACTOR.get(kind or "", USUAL_SINGLE_PHASE_POWER_FACTOR), efficiency


def typical_motor_value(name: str, rated_power_kw: float) -> float:
    """A typical value of a four-pole motor, for a plate that does not tell.

    Parameters
    ----------
    name : a column of ``typical_motor_data_4pole.csv``
    rated_power_kw : rated output [kW]; beyond 0.12 … 315 kW the nearest row is taken

    Examples
    --------
    >>> typical_motor_value("locked_rotor_current_ratio", 7.5)
    7.2

    References
    ----------
    Typical catalogue values of four-pole cage motors, marked as such wherever they are used.
    """
    powers = _column("typical_motor_data_4pole", "rated_power_kw")
    return _held("typical_motor_data_4pole", name, powers, rated_power_kw)


def typical_efficiency_pct(rated_power_kw: float, poles: int) -> float:
    """Least efficiency of class IE3 at 50 Hz, as a typical value.

    Parameters
    ----------
    rated_power_kw : rated output [kW]; beyond 0.12 … 200 kW the nearest row is taken
    poles : 2, 4, 6 or 8; more take the column of eight

    Examples
    --------
    >>> typical_efficiency_pct(7.5, 4), typical_efficiency_pct(7.5, 8), typical_efficiency_pct(7.5, 12)
    (90.4, 87.3, 87.3)

    References
    ----------
    IEC 60034-30-1, Table for IE3 at 50 Hz.
    """
    powers = _column("motor_efficiency_ie3_50hz", "rated_power_kw")
    column = f"efficiency_pct_{min(max(poles, 2), 8)}pole"
    return _held("motor_efficiency_ie3_50hz", column, powers, rated_power_kw)


def _held(table: str, name: str, powers: list[float], power: float) -> float:
    held = min(max(power, powers[0]), powers[-1])
    return interpolate(log(held), [log(p) for p in powers], _column(table, name))


def code_letter_range(letter: str) -> tuple[float, float | None]:
    """Locked-rotor kVA per hp of a NEC code letter, lower and upper end.

    Examples
    --------
    >>> code_letter_range("G"), code_letter_range("V")
    ((5.6, 6.29), (22.4, None))

    References
    ----------
    NEC Table 430.7(B).
    """
    row = next(r for r in standard("locked_rotor_code_letter_nec") if r["code_letter"] == letter)
    return row["kva_per_hp_min"], row["kva_per_hp_max"]


def surroundings_factor(kind: str, value: float) -> float:
    """Share of the rated current that a motor may carry at an ambient temperature or altitude.

    Parameters
    ----------
    kind : ``ambient_c`` [°C, up to 60] or ``altitude_m`` [m, up to 4000]
    value : in that unit; up to 40 °C and 1000 m the factor is 1

    Raises
    ------
    ValueError : beyond the table.

    Examples
    --------
    >>> surroundings_factor("ambient_c", 50), surroundings_factor("altitude_m", 500)
    (0.9, 1.0)

    References
    ----------
    IEC 60034-1 (rating at other ambient and altitude), usual maker values; the maker's own win.
    """
    rows = [r for r in standard("motor_ambient_altitude_factor") if r["kind"] == kind]
    xs = [r["value"] for r in rows]
    return 1.0 if value <= xs[0] else interpolate(value, xs, [r["factor"] for r in rows])


def unbalance_derating(unbalance_pct: float) -> float:
    """Share of the rated output at a voltage unbalance.

    Parameters
    ----------
    unbalance_pct : greatest deviation from the mean in per cent of the mean, 0 … 5

    Raises
    ------
    ValueError : above 5 %; the motor is not to be run.

    Examples
    --------
    >>> unbalance_derating(1.5), unbalance_derating(3)
    (0.975, 0.88)

    References
    ----------
    NEMA MG 1, 14.36 and 20.24, derating curve.
    """
    return interpolate(
        unbalance_pct,
        _column("voltage_unbalance_derating_nema_mg1", "unbalance_pct"),
        _column("voltage_unbalance_derating_nema_mg1", "derating_factor"),
    )


_IEC_RATINGS = {
    "fuse_gg": "standard_ratings_fuse_iec",
    "fuse_am": "standard_ratings_fuse_iec",
    "miniature_breaker_b": "standard_ratings_miniature_breaker_iec",
    "miniature_breaker_c": "standard_ratings_miniature_breaker_iec",
    "miniature_breaker_d": "standard_ratings_miniature_breaker_iec",
    "moulded_case_breaker": "standard_ratings_moulded_case_breaker_iec",
}


@cache
def iec_standard_ratings_a(kind: str) -> tuple[float, ...] | None:
    """Standard rated currents of a kind of short-circuit device; None where there is no such series.

    Examples
    --------
    >>> iec_standard_ratings_a("fuse_gg")[:3], iec_standard_ratings_a("motor_breaker")
    ((2.0, 4.0, 6.0), None)

    References
    ----------
    IEC 60269-2, IEC 60898-1, IEC 60947-2 (R10 series of IEC 60059).
    """
    table = _IEC_RATINGS.get(kind)
    if table is None:
        return None
    wanted = kind.removeprefix("fuse_")
    return tuple(r["rating_a"] for r in standard(table) if wanted in r.get("kinds", wanted).split())


def nec_standard_ratings_a(fuse: bool) -> list[float]:
    """Standard ampere ratings of fuses, or of inverse-time breakers.

    Examples
    --------
    >>> nec_standard_ratings_a(fuse=False)[:3], 601.0 in nec_standard_ratings_a(fuse=True)
    ([15.0, 20.0, 25.0], True)

    References
    ----------
    NEC 240.6(A).
    """
    return [r["rating_a"] for r in standard("standard_device_ratings_nec240_6") if fuse or r["applies_to"] == "both"]


def row_of(table: str, key: str, value: str) -> Row:
    """The row of a standards table whose key column holds a value."""
    return next(r for r in standard(table) if r[key] == value)
