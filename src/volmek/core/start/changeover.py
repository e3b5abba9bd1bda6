"""The change from star to delta: current against star time, and the reclosing peak after the pause."""

from dataclasses import dataclass, replace
from math import sqrt

from volmek.core.physics.numeric import np
from volmek.core.physics.reclosing import LINK_ANGLE_DEG, Reclosing, reclosing_of
from volmek.core.physics.run_up import Drive, Stage, coast, run_up
from volmek.core.start.start import PROPOSED, PROPOSED_STEP, proposed_time_s

POINTS = 40


def first_of(stages: tuple[Stage, ...]) -> tuple[Stage, ...]:
    """The first stage without its time; a slip-ring start's second with it."""
    first = replace(stages[0], duration_s=None)
    return (first, stages[1]) if first.rotor_ratio else (first,)


def rule_of_thumb_star_s(rated_power_kw: float) -> float:
    """Star time that fitters reckon with.

    Parameters
    ----------
    rated_power_kw : [kW], > 0

    Examples
    --------
    >>> round(rule_of_thumb_star_s(37), 1)
    16.2

    References
    ----------
    Usual rule of thumb: t ≈ 4 + 2·√P s.
    """
    return 4 + 2 * sqrt(rated_power_kw)


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
    """Change-over after one star time."""
    result = run_up(drive, [replace(stages[0], duration_s=star_time_s), *stages[1:]], dwell_s)
    speed = result.stages[0].speed_at_end
    after = coast(drive, speed, dwell_s) if dwell_s else speed
    current = float(drive.values(stages[1], np.array([speed]))[1][0])
    peaks = [
        reclosing_of(drive.motor, links, 1 - speed, 1 - after, dwell_s, frequency_hz, peak_factor)
        for links in LINK_ANGLE_DEG
    ]
    total = None if result.stalls else result.run_up_time_s
    return ChangeOver(star_time_s, 100 * speed, current, total, (peaks[0], peaks[1]))


def star_time_curve(drive: Drive, stages: tuple[Stage, ...], dwell_s: float, frequency_hz: float, peak_factor: float) -> list[ChangeOver]:  # fmt: skip
    """Change-over current and total time for forty star times, from a twentieth of a second past the plateau."""
    proposed = proposed_time_s(drive, first_of(stages), 3.0) or 10.0
    top = max(1.35 * proposed, 5.0)
    return [
        change_over(drive, stages, float(t), dwell_s, frequency_hz, peak_factor)
        for t in np.linspace(top / POINTS, top, POINTS)
    ]


def rules(drive: Drive, stages: tuple[Stage, ...], rated_power_kw: float, dwell_s: float, frequency_hz: float, peak_factor: float) -> list[Rule]:  # fmt: skip
    """The proposed time, the rule of thumb and the 80 % rule, each with what it gives."""

    found: list[tuple[str, str, float]] = []
    proposed = proposed_time_s(drive, first_of(stages), 3.0)
    words = PROPOSED_STEP if stages[0].rotor_ratio else PROPOSED
    if proposed is not None:
        found.append(("proposed", words, proposed))
    found.append(("thumb", "rule of thumb, 4 + 2·√P", rule_of_thumb_star_s(rated_power_kw)))
    alone = run_up(drive, [replace(stages[0], duration_s=None)])
    if alone.time_to_80_pct_s is not None:
        found.append(("eighty", "when 80 % of the speed is reached", max(alone.time_to_80_pct_s, 0.01)))
    return [
        Rule(name, words, change_over(drive, stages, t, dwell_s, frequency_hz, peak_factor)) for name, words, t in found
    ]
