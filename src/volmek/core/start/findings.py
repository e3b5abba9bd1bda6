"""Findings about a start: stall, speed of the first stage, time of each change."""

from dataclasses import dataclass, replace

from volmek.core.context import Context
from volmek.core.physics.numeric import np
from volmek.core.physics.run_up import FORMS, Drive, RunUp, Stage, run_up
from volmek.core.plate.plate import Plate
from volmek.core.results.figures import as_read
from volmek.core.results.findings import Severity

#: Least plateau in star, of synchronous speed, and the voltage at which it is looked at once more.
LEAST_PLATEAU, LOW_VOLTAGE = 0.80, 0.90
#: Accelerating torque at low voltage below which a start in star is weak, and how much longer it may take.
LEAST_SPARE, MUCH_LONGER = 0.05, 1.5
HIGH_CHANGEOVER, HIGH_CHANGEOVER_OF_DIRECT = 4.0, 0.8
#: Current of the next rotor step over that of the start, above which it comes early.
MUCH_MORE = 1.25


@dataclass(frozen=True, slots=True)
class Change:
    """One change from a stage of the start to the next.

    Attributes
    ----------
    to : the stage that begins
    field : of the document that sets the time
    time_s, proposed_s : length of the stage before it, and what was proposed [s]
    at_s, speed_pct : when it comes, from the first contact, and the share of synchronous speed reached
    before_a, after_a : r.m.s. line current just before and just after [A]
    """

    to: str
    field: str
    time_s: float
    proposed_s: float | None
    at_s: float
    speed_pct: float
    before_a: float
    after_a: float


def judge_stall(c: Context, drive: Drive, stages: tuple[Stage, ...], dwell_s: float, result: RunUp) -> RunUp:
    """A start that stalls is a stop only when both forms of the torque curve agree."""
    if not result.stalls and not (drive.two_forms(stages[-1]) and drive.may_hang(stages[-1])):
        return result
    forms = FORMS if drive.two_forms(stages[-1]) else (drive.form,)
    hanging = [r for form in forms if (r := run_up(replace(drive, form=form), list(stages), dwell_s)).stalls]
    if len(hanging) == len(forms):
        c.find("stop", "start_stalls", f"The motor {hangs(hanging[0])} with this load: its torque there is no more than the load's.",
               "load.torque_pct")  # fmt: skip
        return hanging[0]
    if hanging:
        c.find("attention", "start_may_hang", f"By one form of the torque curve the motor {hangs(hanging[0])} with this load, by another it starts: "
               "ask the maker for the pull-up torque.", "motor.pull_up_torque_ratio")  # fmt: skip
    return result


def hangs(result: RunUp) -> str:
    at = 100 * result.final_speed
    return "does not move" if at < 0.5 else f"stalls at {at:.0f} % of its speed"


def judge_stages(c: Context, plate: Plate, drive: Drive, stages: tuple[Stage, ...], result: RunUp, changes: tuple[Change, ...]) -> None:  # fmt: skip
    """Findings about the speed of the first stage and the time of each change."""
    if stages[0].rotor_ratio is None:
        _judge_first(c, drive, stages, result, star=changes[0].field == "starter.star_time_s")
    direct = drive.values(Stage("direct"), np.array([0.0]))[1][0]
    rotor_start = float(drive.values(stages[0], np.array([0.0]))[1][0]) if stages[0].rotor_ratio else None
    for change, stage in zip(changes, result.stages, strict=False):
        high = (
            change.after_a > HIGH_CHANGEOVER * plate.design.number
            or change.after_a > HIGH_CHANGEOVER_OF_DIRECT * direct
        )
        if high:
            c.find("attention", "changeover_high", f"At the change-over, at {change.speed_pct:.0f} % of synchronous speed, the motor draws {as_read(change.after_a)} A, "
                   f"{change.after_a / plate.design.number:.1f} times its rated current.", change.field)  # fmt: skip
        needed = stage.settled_after_s - stage.begins_s
        if rotor_start is not None:
            if change.after_a > MUCH_MORE * rotor_start and change.time_s < needed - 1e-9:
                c.find("attention", "changeover_early", f"After {change.time_s:g} s the motor has reached {change.speed_pct:.0f} % of synchronous speed; the next step draws "
                       f"{as_read(change.after_a)} A there, more than the {as_read(rotor_start)} A of the start.", change.field)  # fmt: skip
        elif change.proposed_s is not None and change.time_s < needed - 1e-9:
            c.find("attention", "changeover_early", f"After {change.time_s:g} s the motor has reached {change.speed_pct:.0f} % of synchronous speed; it would settle at "
                   f"{100 * stage.settles_at:.0f} % after {as_read(needed)} s.", change.field)  # fmt: skip


def _judge_first(c: Context, drive: Drive, stages: tuple[Stage, ...], result: RunUp, *, star: bool) -> None:
    first = result.stages[0]
    settles = sorted(
        {drive.meets_at(stages[0], 0.0, form) for form in (FORMS if drive.two_forms(stages[0]) else (drive.form,))}
    )
    if settles[0] < LEAST_PLATEAU:
        label, sure = f"{first.label[0].upper()}{first.label[1:]}", settles[-1] < LEAST_PLATEAU
        if sure:
            where = (
                "does not move at all" if settles[-1] < 0.005 else f"stalls at {_range(settles)} of synchronous speed"
            )
            why = "the load is too heavy for it"
        else:
            where = f"settles at {_range(settles)} of synchronous speed, by the form of the torque curve"
            why = "ask the maker for the pull-up torque"
        severity: Severity = "stop" if star and sure else "attention"
        c.find(severity, "first_stage_hangs", f"{label} the motor {where}; {100 * LEAST_PLATEAU:.0f} % is needed before the change-over: {why}.",
               "load.torque_pct" if sure else "motor.pull_up_torque_ratio")  # fmt: skip
    elif star:
        low = replace(drive, supply_voltage_v=LOW_VOLTAGE * drive.supply_voltage_v)
        slow = run_up(low, [replace(stages[0], duration_s=None)]).stages[0]
        spare = float(np.min(low.accelerating(stages[0], np.linspace(0, 0.98 * slow.settles_at, 120))))
        longer = slow.settled_after_s > MUCH_LONGER * max(first.settled_after_s, 1e-9)
        if slow.settles_at < LEAST_PLATEAU or spare < LEAST_SPARE or longer:
            why = (
                f"it settles at {100 * slow.settles_at:.0f} %" if slow.settles_at < LEAST_PLATEAU else
                f"only {100 * max(spare, 0):.0f} % of rated torque is left to accelerate" if spare < LEAST_SPARE else
                f"it takes {as_read(slow.settled_after_s)} s instead of {as_read(first.settled_after_s)} s"
            )  # fmt: skip
            c.find(
                "attention",
                "star_weak_at_low_voltage",
                f"At 10 % less voltage the start in star is weak: {why}.",
                "supply.line_voltage_v",
            )


def _range(shares: list[float]) -> str:
    low, high = (f"{100 * share:.0f}" for share in (shares[0], shares[-1]))
    return f"{low} %" if low == high else f"{low} to {high} %"
