"""Time-current curves: thermal trips with their tolerance edges, fuse gates, miniature breakers.

Each edge is a first-order thermal model ``dθ/dt = ((I/Iset)²/k² − θ)/τ`` that trips at θ = 1. A *fast* edge is
the earliest a device may act, a *slow* edge the latest, the *mean* edge a typical device.
"""

from dataclasses import dataclass
from functools import cache
from math import exp, log, sqrt

from volmek.core.standards.tables import log_interpolate, row_of
from volmek.data.loader import Row, standard

#: Multiple of the dial at which the trip classes are defined (IEC 60947-4-1, Table 2, line D).
CLASS_MULTIPLE = 7.2
#: Conventional non-tripping and tripping multiples of an overload relay (IEC 60947-4-1, Table 2, lines A, B).
NO_TRIP_MULTIPLE, MUST_TRIP_MULTIPLE = 1.05, 1.20
MEAN_MULTIPLE = 1.12
#: Where the band of an overload relay comes from.
BAND_SOURCE = "IEC 60947-4-1, 8.2.1.5 and Table 2"
#: Multiple at which the typical thermal edges of miniature breakers are given (IEC 60898-1, Table 7, test c).
MINIATURE_MULTIPLE = 2.55
#: Share of a fuse's melting that a start may use up, for ageing.
FUSE_USE_LIMIT = 0.7


def time_constant_s(time_s: float, multiple: float, k: float) -> float:
    """Time constant of a first-order thermal trip that trips from cold after ``time_s`` at ``multiple``.

    Parameters
    ----------
    time_s : trip time from cold [s], > 0
    multiple : current in multiples of the setting [-], > k
    k : ultimate trip multiple of this edge [-]

    Returns
    -------
    Time constant [s].

    Examples
    --------
    >>> round(time_constant_s(10, 7.2, 1.20), 1)
    355.0

    References
    ----------
    t = τ·ln(x²/(x²−k²)), solved for τ.
    """
    return time_s / log(multiple**2 / (multiple**2 - k**2))


@dataclass(frozen=True, slots=True)
class ThermalEdge:
    """One edge of a thermal trip.

    Attributes
    ----------
    k : ultimate trip multiple of the setting [-]
    time_constant_s : τ [s]
    """

    k: float
    time_constant_s: float

    def trip_time_s(self, multiple: float, theta0: float = 0.0) -> float:
        """Time to trip at a steady current.

        Parameters
        ----------
        multiple : current in multiples of the setting [-], ≥ 0
        theta0 : heat already stored, 0 cold … below 1

        Returns
        -------
        Seconds until θ = 1, infinite up to the ultimate trip current.

        Examples
        --------
        >>> edge = ThermalEdge(1.20, 355.0)
        >>> round(edge.trip_time_s(7.2), 2), edge.trip_time_s(1.1)
        (10.0, inf)

        References
        ----------
        Closed form of the first-order model: t = τ·ln((x²/k²−θ0)/(x²/k²−1)).
        """
        drive = (multiple / self.k) ** 2
        if drive <= 1:
            return float("inf")
        return self.time_constant_s * log((drive - theta0) / (drive - 1)) if theta0 < 1 else 0.0

    def warm(self, multiple: float) -> float:
        """Heat stored after running for long at a current, at most 1."""
        return min((multiple / self.k) ** 2, 1.0)

    def standstill_s(self, multiple: float, running: float, seconds: float) -> float:
        """Standstill after which a start at a steady current no longer trips.

        Parameters
        ----------
        multiple : starting current in multiples of the setting [-]
        running : current before the stop in multiples of the setting [-]
        seconds : length of the start [s]

        Returns
        -------
        Seconds; 0 when the start passes at once, infinite when it trips even from cold.

        Examples
        --------
        >>> edge = ThermalEdge(1.12, 224.4)
        >>> edge.standstill_s(7.2, 1.0, 1.0), edge.standstill_s(7.2, 1.0, 20.0)
        (0.0, inf)

        References
        ----------
        Same model without current: θ falls with τ. An estimate; a real relay cools slower when enclosed.
        """
        drive = (multiple / self.k) ** 2
        if drive <= 1:
            return 0.0
        allowed = drive - (drive - 1) * exp(seconds / self.time_constant_s)
        start = self.warm(running)
        if allowed >= start:
            return 0.0
        return self.time_constant_s * log(start / allowed) if allowed > 0 else float("inf")


@dataclass(frozen=True, slots=True)
class TripClassEdges:
    """Fast, mean and slow edge of an overload relay of one trip class."""

    fast: ThermalEdge
    mean: ThermalEdge
    slow: ThermalEdge


@cache
def trip_class_edges(trip_class: str) -> TripClassEdges:
    """The edges between which an overload relay of a trip class acts.

    Parameters
    ----------
    trip_class : 5, 5E, 10A, 10, 10E, 20, 20E, 30, 30E or 40E

    Examples
    --------
    >>> edges = trip_class_edges("10")
    >>> round(edges.fast.trip_time_s(7.2), 2), round(edges.slow.trip_time_s(7.2), 2)
    (4.0, 10.0)
    >>> round(trip_class_edges("10A").slow.trip_time_s(1.5, (1 / 1.2) ** 2), 1)
    120.0

    References
    ----------
    IEC 60947-4-1, Tables 2 and 3: Tmin and Tmax at 7.2 × setting from cold, and the limit at 1.5 × warm.
    """
    row = row_of("overload_trip_class_iec", "trip_class", trip_class)
    shortest, longest = row["time_at_7_2_min_s"], row["time_at_7_2_max_s"]
    warm_drive = (1.5 / MUST_TRIP_MULTIPLE) ** 2
    warm_tau = row["time_at_1_5_warm_max_s"] / log((warm_drive - MUST_TRIP_MULTIPLE**-2) / (warm_drive - 1))
    cold_tau = time_constant_s(longest, CLASS_MULTIPLE, MUST_TRIP_MULTIPLE)
    return TripClassEdges(
        ThermalEdge(NO_TRIP_MULTIPLE, time_constant_s(shortest, CLASS_MULTIPLE, NO_TRIP_MULTIPLE)),
        ThermalEdge(MEAN_MULTIPLE, time_constant_s(sqrt(shortest * longest), CLASS_MULTIPLE, MEAN_MULTIPLE)),
        ThermalEdge(MUST_TRIP_MULTIPLE, min(cold_tau, warm_tau)),
    )


@cache
def miniature_edges(rated_current_a: float) -> tuple[ThermalEdge, ThermalEdge]:
    """Typical fast and slow thermal edge of a miniature breaker, inside the limits of its standard.

    Parameters
    ----------
    rated_current_a : of the breaker [A], > 0

    Examples
    --------
    >>> fast, slow = miniature_edges(16)
    >>> round(fast.trip_time_s(2.55), 1), round(slow.trip_time_s(2.55), 1)
    (8.0, 60.0)

    References
    ----------
    IEC 60898-1, Table 7 (1.13, 1.45 and 2.55 × In); the device's own curve wins.
    """
    slow_s = 60.0 if rated_current_a <= 32 else 120.0
    return (
        ThermalEdge(1.13, time_constant_s(8.0, MINIATURE_MULTIPLE, 1.13)),
        ThermalEdge(1.45, time_constant_s(slow_s, MINIATURE_MULTIPLE, 1.45)),
    )


def moulded_case_edges() -> tuple[ThermalEdge, ThermalEdge]:
    """Default fast and slow thermal edge of a moulded-case breaker: 10 s at 7.2 × setting, band 4 to 20 s.

    Examples
    --------
    >>> fast, slow = moulded_case_edges()
    >>> round(fast.trip_time_s(7.2), 1), round(slow.trip_time_s(7.2), 1)
    (4.0, 20.0)

    References
    ----------
    IEC 60947-2, Table 6 (1.05 and 1.30); times by default, the device's own curve wins.
    """
    return (
        ThermalEdge(1.05, time_constant_s(4.0, CLASS_MULTIPLE, 1.05)),
        ThermalEdge(1.30, time_constant_s(20.0, CLASS_MULTIPLE, 1.30)),
    )


@cache
def gg_gates() -> dict[float, Row]:
    """The gates of every gG rating, by rated current.

    Examples
    --------
    >>> gg_gates()[63.0]["current_max_5s_a"]
    320.0

    References
    ----------
    IEC 60269-2, gates of gG fuse-links.
    """
    return {r["rated_current_a"]: r for r in standard("fuse_gg_gates_iec60269")}


@cache
def _gg_fast_points(rated_a: float) -> tuple[tuple[float, ...], tuple[float, ...]]:
    g = gg_gates()[rated_a]
    currents = [g["non_fusing_multiple"] * rated_a, g["current_min_10s_a"], g["current_min_0_1s_a"]]
    times = [g["conventional_time_s"], 10.0, 0.1]
    currents.append(sqrt(gg_prearcing_i2t_a2s(rated_a) / 0.01))
    times.append(0.01)
    return tuple(currents), tuple(times)


@cache
def gg_prearcing_i2t_a2s(rated_a: float) -> float:
    """Least let-through of a gG fuse before it melts, at 10 ms.

    Parameters
    ----------
    rated_a : rated current of the fuse [A], one of the ratings of the gates table

    Returns
    -------
    I²t [A²s]; where the table gives none, the line through the 10 s and 0.1 s gates is drawn on to 10 ms.

    Examples
    --------
    >>> gg_prearcing_i2t_a2s(63)
    9000.0

    References
    ----------
    IEC 60269-1, Tables of gates and of pre-arcing I²t; IEC 60269-2.
    """
    g = gg_gates()[rated_a]
    if g["prearcing_i2t_min_10ms_a2s"] is not None:
        return float(g["prearcing_i2t_min_10ms_a2s"])
    slope = log(g["current_min_0_1s_a"] / g["current_min_10s_a"]) / log(100.0)
    return float((g["current_min_0_1s_a"] * 10.0**slope) ** 2 * 0.01)


def gg_fast_time_s(rated_a: float, current_a: float) -> float:
    """Earliest melting time of a gG fuse.

    Parameters
    ----------
    rated_a : rated current of the fuse [A]
    current_a : steady current [A], ≥ 0

    Returns
    -------
    Seconds; infinite below the conventional non-fusing current, constant I²t above the 10 ms point.

    Examples
    --------
    >>> gg_fast_time_s(63, 160), gg_fast_time_s(63, 50)
    (10.0, inf)

    References
    ----------
    IEC 60269-1, gates, joined on log-log paper.
    """
    currents, times = _gg_fast_points(rated_a)
    if current_a < currents[0]:
        return float("inf")
    if current_a >= currents[-1]:
        return gg_prearcing_i2t_a2s(rated_a) / current_a**2
    return log_interpolate(current_a, currents, times)


def gg_slow_time_s(rated_a: float, current_a: float) -> float:
    """Latest melting time of a gG fuse; infinite below its conventional fusing current.

    Parameters
    ----------
    rated_a : rated current of the fuse [A], one of the table
    current_a : through it [A], > 0

    Examples
    --------
    >>> gg_slow_time_s(63, 320), gg_slow_time_s(63, 90)
    (5.0, inf)

    References
    ----------
    IEC 60269-1, gates, joined on log-log paper; beyond 0.1 s constant I²t.
    """
    g = gg_gates()[rated_a]
    currents = (g["fusing_multiple"] * rated_a, g["current_max_5s_a"], g["current_max_0_1s_a"])
    if current_a < currents[0]:
        return float("inf")
    if current_a >= currents[-1]:
        return float(0.1 * (currents[-1] / current_a) ** 2)
    return log_interpolate(current_a, currents, (g["conventional_time_s"], 5.0, 0.1))


@cache
def _am_points(column: str) -> tuple[tuple[float, ...], tuple[float, ...]]:
    rows = [r for r in standard("fuse_am_gates_iec60269") if r[column] is not None]
    return tuple(r["multiple_of_rated"] for r in rows), tuple(r[column] for r in rows)


def fuse_corners_a(kind: str, rated_a: float) -> tuple[float, ...]:
    """Currents at which the edges of a gG or aM fuse bend: a drawing must not cut these corners.

    Parameters
    ----------
    kind : ``fuse_gg`` or ``fuse_am``; any other device has no corners
    rated_a : rated current of the fuse [A], for gG one of the table

    Examples
    --------
    >>> fuse_corners_a("fuse_am", 10)[:2]
    (40.0, 63.0)

    References
    ----------
    IEC 60269-1 and 60269-2, gates.
    """
    if kind == "fuse_gg":
        g = gg_gates()[rated_a]
        slow = (g["fusing_multiple"] * rated_a, g["current_max_5s_a"], g["current_max_0_1s_a"])
        return tuple(sorted({*_gg_fast_points(rated_a)[0], *slow}))
    if kind == "fuse_am":
        multiples = {*_am_points("must_melt_within_s")[0], *_am_points("must_not_melt_within_s")[0]}
        return tuple(sorted(m * rated_a for m in multiples))
    return ()


def am_time_s(rated_a: float, current_a: float, *, slow: bool = False) -> float:
    """Earliest (or latest) melting time of an aM fuse.

    Parameters
    ----------
    rated_a : rated current of the fuse [A]
    current_a : steady current [A], ≥ 0
    slow : the latest instead of the earliest

    Returns
    -------
    Seconds; infinite below the first gate: an aM fuse does not clear overloads. Constant I²t beyond the last.

    Examples
    --------
    >>> am_time_s(10, 80), am_time_s(10, 125, slow=True), am_time_s(10, 30)
    (0.5, 0.5, inf)

    References
    ----------
    IEC 60269-2, gates of aM fuse links, joined on log-log paper.
    """
    multiples, times = _am_points("must_melt_within_s" if slow else "must_not_melt_within_s")
    multiple = current_a / rated_a
    if multiple < multiples[0]:
        return float("inf")
    if multiple >= multiples[-1]:
        return float(times[-1] * (multiples[-1] / multiple) ** 2)
    return log_interpolate(multiple, multiples, times)
