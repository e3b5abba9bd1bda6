"""The change from star to delta: current against star time, and the reclosing peak after the pause."""

import cmath
from dataclasses import dataclass, replace
from math import exp, pi, radians, sqrt
from typing import Literal

import numpy as np

from volmek.core.runup import Drive, Stage, coast, run_up
from volmek.core.start import proposed_time_s

Links = Literal["common", "favourable"]
#: Phase of the supply over a winding when it closes in delta, of what it was in star.
LINK_ANGLE_DEG: dict[Links, float] = {"common": 30.0, "favourable": -30.0}
#: Residual voltage at the beginning of the pause, of the star winding voltage, and the longest time constant.
RESIDUAL_SHARE, LONGEST_DECAY_S = 0.9, 3.0
POINTS = 40


@dataclass(frozen=True, slots=True)
class Reclosing:
    """What happens when the delta contactor closes after the pause.

    Attributes
    ----------
    links : how the winding ends are joined
    residual : voltage left in the winding, of the line voltage
    lag_deg : how far it has turned back by then
    difference : voltage that closes on the winding, of the line voltage
    peak_ratio : first current over rated current, r.m.s., before the first-half-cycle factor
    peak_a : with that factor
    """

    links: Links
    residual: float
    lag_deg: float
    difference: float
    peak_ratio: float
    peak_a: float


def decay_time_s(rated_slip: float, no_load_ratio: float, frequency_hz: float) -> float:
    """Time constant of the rotor's field after it is cut off.

    Parameters
    ----------
    rated_slip, no_load_ratio : sn and i0 [-], > 0
    frequency_hz : [Hz]

    Examples
    --------
    >>> round(decay_time_s(0.0133, 0.35, 50), 2)
    0.68

    References
    ----------
    τr = 1/(2πf·sn·i0), at most 3 s.
    """
    return min(1 / (2 * pi * frequency_hz * rated_slip * no_load_ratio), LONGEST_DECAY_S)


def reclosing(links: Links, slip_before: float, slip_after: float, dwell_s: float, frequency_hz: float, decay_s: float,
              inrush_ratio: float, locked_a: float, peak_factor: float) -> Reclosing:  # fmt: skip
    """Voltage and current when delta closes.

    Parameters
    ----------
    slip_before, slip_after : at the beginning and the end of the pause [-]
    dwell_s : the pause [s]
    frequency_hz, decay_s : of the supply, and of the rotor's field
    inrush_ratio, locked_a : Ia/In, and Ia [A]
    peak_factor : ki of the first half cycle

    Examples
    --------
    >>> r = reclosing("favourable", 0.05, 0.05, 0.05, 50, 0.7, 7.2, 475, 1.5)
    >>> round(r.lag_deg), round(r.difference, 2)
    (45, 0.55)

    References
    ----------
    E = 0.9·U/√3·e^(−t/τr), turning back by δ = 2πf·∫s dt; ΔU = U∠±30° − E∠−δ; peak |ΔU|/U·Ia·ki.
    """
    residual = RESIDUAL_SHARE / sqrt(3) * exp(-dwell_s / decay_s)
    lag = 2 * pi * frequency_hz * dwell_s * (slip_before + slip_after) / 2
    closing = cmath.rect(1.0, radians(LINK_ANGLE_DEG[links]))
    difference = abs(closing - cmath.rect(residual, -lag))
    return Reclosing(
        links, residual, lag * 180 / pi, difference, difference * inrush_ratio, difference * locked_a * peak_factor
    )


@dataclass(frozen=True, slots=True)
class ChangeOver:
    """One point of the curve: what a star time gives.

    Attributes
    ----------
    star_time_s, speed_pct : the time, and the share of synchronous speed reached
    current_a : r.m.s. line current in delta there
    total_time_s : until the motor runs, pause included; None when it does not get there
    peaks : reclosing with each way of linking
    """

    star_time_s: float
    speed_pct: float
    current_a: float
    total_time_s: float | None
    peaks: tuple[Reclosing, ...]


@dataclass(frozen=True, slots=True)
class Rule:
    """A star time as a rule gives it."""

    name: str
    words: str
    at: ChangeOver


def change_over(drive: Drive, stages: tuple[Stage, ...], star_time_s: float, dwell_s: float, frequency_hz: float, peak_factor: float) -> ChangeOver:  # fmt: skip
    """What one star time gives."""
    result = run_up(drive, [replace(stages[0], duration_s=star_time_s), *stages[1:]], dwell_s)
    speed = result.stages[0].speed_at_end
    after = coast(drive, speed, dwell_s) if dwell_s else speed
    current = float(drive.values(stages[1], np.array([speed]))[1][0])
    m = drive.motor
    decay = decay_time_s(m.rated_slip, m.no_load_ratio, frequency_hz)
    peaks = tuple(
        reclosing(links, 1 - speed, 1 - after, dwell_s, frequency_hz, decay, m.inrush_ratio, m.inrush_ratio * m.rated_current_a, peak_factor)
        for links in LINK_ANGLE_DEG
    )  # fmt: skip
    total = None if result.stalls else result.run_up_time_s
    return ChangeOver(star_time_s, 100 * speed, current, total, (peaks[0], peaks[1]))


def star_time_curve(drive: Drive, stages: tuple[Stage, ...], dwell_s: float, frequency_hz: float, peak_factor: float) -> list[ChangeOver]:  # fmt: skip
    """Change-over current and total time for forty star times, from a twentieth of a second past the plateau."""
    proposed = proposed_time_s(drive, stages[0], 3.0) or 10.0
    top = max(1.35 * proposed, 5.0)
    return [
        change_over(drive, stages, float(t), dwell_s, frequency_hz, peak_factor)
        for t in np.linspace(top / POINTS, top, POINTS)
    ]


def rules(drive: Drive, stages: tuple[Stage, ...], rated_power_kw: float, dwell_s: float, frequency_hz: float, peak_factor: float) -> list[Rule]:  # fmt: skip
    """The proposed time, the rule of thumb and the 80 % rule, each with what it gives."""
    from volmek.core.devices.timer import rule_of_thumb_star_s

    found: list[tuple[str, str, float]] = []
    proposed = proposed_time_s(drive, stages[0], 3.0)
    if proposed is not None:
        found.append(("proposed", "1.15 times to 98 % of the speed where it settles in star", proposed))
    found.append(("thumb", "rule of thumb, 4 + 2·√P", rule_of_thumb_star_s(rated_power_kw)))
    alone = run_up(drive, [replace(stages[0], duration_s=None)])
    if alone.time_to_80_pct_s is not None:
        found.append(("eighty", "when 80 % of the speed is reached", max(alone.time_to_80_pct_s, 0.01)))
    return [
        Rule(name, words, change_over(drive, stages, t, dwell_s, frequency_hz, peak_factor)) for name, words, t in found
    ]


def better_links(slip: float, dwell_s: float, frequency_hz: float) -> Links:
    """The way of linking that draws less, while the field has turned back by less than half a turn.

    Examples
    --------
    >>> better_links(0.05, 0.05, 50), better_links(0.3, 0.05, 50)
    ('favourable', 'common')

    References
    ----------
    f·s·t below 0.5: favourable; between 0.5 and 1: common; then alternating.
    """
    return "favourable" if int(2 * frequency_hz * slip * dwell_s) % 2 == 0 else "common"
