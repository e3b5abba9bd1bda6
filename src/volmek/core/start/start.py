"""The start of one starter: its run-up where load and inertia are known, else the time that was typed or assumed."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from functools import lru_cache
from itertools import pairwise
from math import ceil, pi, sqrt

from volmek.core.context import Context
from volmek.core.document.errors import PlateError
from volmek.core.physics.motor_circuit import LEAST_KW, PlateValues, Value
from volmek.core.physics.motor_model import MotorModel, current_parameter, double_cage
from volmek.core.physics.numeric import np
from volmek.core.physics.profile import Profile, profile_of
from volmek.core.physics.reclosing import reclosing_of
from volmek.core.physics.run_up import Drive, LoadModel, RunUp, Stage, coast, run_up
from volmek.core.plate.network import Network
from volmek.core.plate.plate import Plate, no_load_current_ratio
from volmek.core.results.figures import Figure, as_read
from volmek.core.standards.tables import typical_efficiency_pct, typical_motor_value
from volmek.core.start.findings import Change, hangs, judge_stages, judge_stall

#: Start that is taken when none is given.
ASSUMED_START_S = 2.0
#: Warm copper, and the reactance of a cable [Ω·mm²/m, Ω/m].
LEAST_STAR_S, LEAST_STAGE_S, LEAST_STEP_S, STAR_MARGIN = 3.0, 1.0, 0.5, 1.15
ORDINALS = ("first", "second", "third")
PROPOSED = "1.15 times to 98 % of the speed where it settles"
PROPOSED_STEP = "until the next step draws no more than the start did, else as the speed settles"
TYPICAL_TORQUE_PCT = 80.0


@dataclass(frozen=True, slots=True)
class Start:
    """Start of a motor by its method.

    Attributes
    ----------
    source : ``typed``, ``assumed``, ``run-up``
    profile : what the devices have to stand
    figure : the starting time in use
    drive, stages, dwell_s, result : the computed run-up, None and empty where nothing could be computed
    star_time_s : proposed or typed, of a method that changes over by time
    changeover_speed_pct, changeover_current_a : at the end of the first stage
    changes : all changes from stage to stage
    reclosing_peak : peak inrush when delta closes after the pause
    other_drive, other : the second start of a motor with two speeds; words where something is missing for it
    other_profile : what its parts have to stand, as multiples of the main rated current
    missing : what a run-up would need, in words
    proposals : time proposed for each stage but the last, as figures; None where none could be
    speed_loss : what the pause of a change-over costs
    """

    source: str
    profile: Profile
    figure: Figure
    drive: Drive | None = None
    stages: tuple[Stage, ...] = ()
    dwell_s: float = 0.0
    result: RunUp | None = None
    star_time_s: float | None = None
    changeover_speed_pct: float | None = None
    changeover_current_a: float | None = None
    changes: tuple[Change, ...] = ()
    reclosing_peak: Figure | None = None
    other_drive: Drive | str | None = None
    other: RunUp | None = None
    other_profile: Profile | None = None
    missing: tuple[str, ...] = ()
    proposals: tuple[Figure | None, ...] = ()
    speed_loss: Figure | None = None


#: Figures of a drive: its inertia and its load torque.
Basis = tuple[Figure | None, Figure | None]


@lru_cache(maxsize=128)
def _motor(voltage_v: float, current_a: float, cos: float, ws: float, slip: float, power_w: float, ra: float, ml: float,
           mb: float, pull_up: float | None, plate: PlateValues | None, times: float) -> MotorModel:  # fmt: skip
    i0 = no_load_current_ratio(cos, mb)
    torque = power_w / (ws * (1 - slip))
    cages = None if pull_up is not None else double_cage(slip, mb, ml)
    return MotorModel(
        voltage_v,
        current_a,
        cos,
        ws,
        slip,
        torque,
        ra,
        ml,
        mb,
        pull_up,
        i0,
        current_parameter(slip, ra, i0),
        cages,
        plate,
        times,
    )


def motor_of(c: Context, plate: Plate) -> MotorModel | str:
    """The motor as a curve of torque and current; words for what is missing or contradicts.

    Raises
    ------
    PlateError : torque ratios that no motor has.
    """
    m = c.document.motor
    if plate.phases == 1:
        return "a single-phase motor has no run-up here"
    kw = plate.power_kw
    if kw is None:
        return "the rated power"
    ml = m.locked_rotor_torque_ratio or typical_motor_value("locked_rotor_torque_ratio", kw)
    mb = m.breakdown_torque_ratio or max(typical_motor_value("breakdown_torque_ratio", kw), 1.05 * ml)
    problems = []
    if mb <= ml:
        problems.append(
            (
                "motor.breakdown_torque_ratio",
                f"a breakdown torque of {mb:g} times is not above the starting torque of {ml:g} times",
            )
        )
    if m.pull_up_torque_ratio and m.pull_up_torque_ratio > ml + 1e-9:
        problems.append(
            (
                "motor.pull_up_torque_ratio",
                f"a pull-up torque of {m.pull_up_torque_ratio:g} times is above the starting torque of {ml:g} times",
            )
        )
    for at, message in problems:
        raise PlateError.at(at, message)
    hertz = m.frequency_hz or plate.frequency_hz
    pairs = (plate.poles or 4) / 2
    # On another frequency its rated point is that of the same volts per hertz: torque, current and slip in rev/min stay, voltage, speed and
    # power follow the frequency. Reactances grow with it, so that the starting torque falls as it rises; nothing is gained where it falls.
    times = plate.frequency_hz / hertz
    ws, volts = 2 * pi * plate.frequency_hz / pairs, plate.motor_voltage_v * times
    ml /= max(times, 1.0)
    pull_up = m.pull_up_torque_ratio / max(times, 1.0) if m.pull_up_torque_ratio else None
    if m.rated_speed_rpm:
        slip = 1 - m.rated_speed_rpm * pairs / (60 * hertz)
    else:
        slip = typical_motor_value("rated_slip_pct", kw) / 100
    if not 0.0005 <= slip <= 0.2:
        return "a speed on the plate that an induction motor has"
    values = _plate_values(c, plate, kw, slip, mb)
    slip /= times
    ra = plate.locked_rotor.number / plate.design.number
    cos = plate.power_factor.number if plate.power_factor else typical_motor_value("power_factor", kw)
    try:
        return _motor(
            volts,
            plate.design.number,
            cos,
            ws,
            slip,
            1000 * kw * times * (1 - slip) / (1 - slip * times),
            ra,
            ml,
            mb,
            pull_up,
            values,
            times,
        )
    except PlateError as error:
        c.find("attention", "motor_curve_impossible", error.problems[0].message, error.problems[0].field)
        return "plate values that belong together"


def _plate_values(c: Context, plate: Plate, kw: float, slip: float, breakdown: float) -> PlateValues | None:
    """Plate values that the equivalent circuit is fitted to; None for a motor too small, or with slip rings."""
    m = c.document.motor
    if kw < LEAST_KW or m.rotor_voltage_v or m.rotor_current_a:
        return None
    given: dict[Value, bool] = {
        "rated_current": plate.nameplate is not None,
        "power_factor": m.power_factor is not None,
        "rated_speed": m.rated_speed_rpm is not None,
        "locked_rotor_current": m.locked_rotor_current_ratio is not None,
        "locked_rotor_torque": m.locked_rotor_torque_ratio is not None,
        "breakdown_torque": m.breakdown_torque_ratio is not None,
    }
    cos = plate.power_factor.number if plate.power_factor else typical_motor_value("power_factor", kw)
    usual = typical_efficiency_pct(kw, plate.poles or 4) / 100
    efficiency = m.efficiency_pct / 100 if m.efficiency_pct else usual
    if m.efficiency_pct is None and plate.nameplate is not None and plate.motor_voltage_v:
        drawn = sqrt(3) * plate.motor_voltage_v * plate.design.number * cos
        losses = min(max(1 - 1000 * kw / drawn, 0.6 * (1 - usual)), 1.7 * (1 - usual))
        efficiency = 1 - (losses + 1 - usual) / 2
    rpm, locked = m.rated_speed_rpm, m.locked_rotor_torque_ratio or typical_motor_value("locked_rotor_torque_ratio", kw)
    synchronous = 120 * (m.frequency_hz or plate.frequency_hz) / (plate.poles or 4)
    step = (5 if rpm and rpm % 5 == 0 else 1) / synchronous
    ra = plate.locked_rotor.number / plate.design.number
    return PlateValues(
        cos, efficiency, slip, step, ra, locked, breakdown, frozenset(v for v, there in given.items() if there)
    )


def load_of(c: Context) -> tuple[Figure, LoadModel]:
    """The load's torque; a value not entered is the usual one, marked typical."""
    d = c.document.load
    w = c.working
    torque = w.add("load.torque_pct", "Load torque at speed", "ML", d.torque_pct if d.torque_pct is not None else TYPICAL_TORQUE_PCT, "%",
                   field="load.torque_pct", typical=d.torque_pct is None, rule="as typed" if d.torque_pct is not None else "usual reserve of a drive",
                   source="typed" if d.torque_pct is not None else "default")  # fmt: skip
    points = tuple((p[0] / 100, p[1] / 100) for p in d.torque_points or ())
    return torque, LoadModel(torque.number / 100, d.shape or "constant", (d.breakaway_pct or 0.0) / 100, points)


def source_of(c: Context, network: Network | None) -> tuple[complex, complex]:
    """Impedance of the motor cable, and up to the board; nothing of what is not known."""
    board = complex(network.resistance_ohm, network.reactance_ohm) if network else 0j
    length = c.document.supply.cable_length_m
    return (c.cable.impedance_ohm(length) if length and c.cable else 0j), board


def read_start(
    c: Context, plate: Plate, network: Network | None, stages: tuple[Stage, ...], timed: tuple[str, ...], dwell_s: float
) -> Start:
    """Work out the start and say what a fitter should know about it.

    Parameters
    ----------
    stages : of the method; those that end by time without a duration get one proposed
    timed : fields of the document that set these times
    dwell_s : pause between the stages, 0 for closed transitions
    """
    load = c.document.load
    locked = plate.locked_rotor.number
    drive, missing, basis = _drive(c, plate, network, stages)
    if drive is None or not stages:
        return _without_run_up(c, locked, missing)
    stages, proposals = _with_times(c, drive, stages, timed, basis)
    result = run_up(drive, list(stages), dwell_s)
    result = judge_stall(c, drive, stages, dwell_s, result)
    changes = _changes(drive, stages, result, timed, proposals)
    peak = lost = None
    if changes:
        if dwell_s > 0:
            peak, lost = _reclosing_peak(c, plate, drive, result.stages[0].speed_at_end, dwell_s, basis[0])
        judge_stages(c, plate, drive, stages, result, changes)
    if load.start_time_s is not None or result.stalls:
        plain = _without_run_up(c, locked, (), said=result.stalls)
        if not result.stalls and load.start_time_s and abs(load.start_time_s / result.run_up_time_s - 1) > 0.25:
            c.find("info", "start_time_differs", f"A starting time of {load.start_time_s:g} s is entered; load and inertia give "
                   f"{as_read(result.run_up_time_s)} s. The entered one is used.", "load.start_time_s")  # fmt: skip
    else:
        figure = c.working.add(
            "start_time_s", "Run-up time", "ts", result.run_up_time_s, "s",
            inputs=basis,
            rule="from the first contact to 98 % of the final speed", source="J·dω/dt = M − ML, with the supply's dip in the loop",
        )  # fmt: skip
        plain = Start("run-up", profile_of(result, locked), figure)
    return replace(
        plain, drive=drive, stages=stages, dwell_s=dwell_s, result=result, changes=changes, reclosing_peak=peak, proposals=proposals, speed_loss=lost,
        star_time_s=changes[0].time_s if changes else None, changeover_speed_pct=changes[0].speed_pct if changes else None,
        changeover_current_a=changes[0].after_a if changes else None,
    )  # fmt: skip


def with_other_start(
    c: Context, plate: Plate, start: Start, field: str, drive_of: Callable[[Context, Plate, Drive], Drive | str]
) -> Start:
    """The start with the second speed of its method, and the load on its parts.

    Parameters
    ----------
    field : of the document that tells the rated current of the second one
    drive_of : its motor and load
    """
    if start.drive is None:
        return start
    drive = drive_of(c, plate, start.drive)
    if isinstance(drive, str):
        return replace(start, other_drive=drive)
    result = run_up(drive, [Stage("at the low speed")])
    if result.stalls:
        c.find("stop", "start_stalls", f"At the low speed the motor {hangs(result)} with this load: its torque there is no more than the load's.",
               field)  # fmt: skip
    if result.stalls or start.source != "run-up":
        return replace(start, other_drive=drive, other=result)
    own = profile_of(result, plate.locked_rotor.number)
    scale = plate.design.number / drive.motor.rated_current_a
    profile = replace(own, steps=tuple((dt, scale * amps, stage) for dt, amps, stage in own.steps))
    return replace(start, other_drive=drive, other=result, other_profile=profile)


def _without_run_up(c: Context, locked: float, missing: tuple[str, ...], *, said: bool = False) -> Start:
    """The time that was typed, else the one assumed, at standstill current."""
    typed = c.document.load.start_time_s
    if typed is None and not said:
        lacks = f"; a run-up needs {', '.join(missing)}" if missing else ""
        c.find("info", "start_time_assumed", f"No starting time is given; {ASSUMED_START_S:g} s is assumed{lacks}.", "load.start_time_s")  # fmt: skip
    seconds = ASSUMED_START_S if typed is None else typed
    figure = c.working.add(
        "start_time_s",
        "Starting time to allow for",
        "ts",
        seconds,
        "s",
        field="load.start_time_s",
        rule="as typed" if typed is not None else "assumed, at least 2 s",
        source="typed" if typed is not None else "default",
        typical=typed is None,
        note="The whole time is taken at the locked-rotor current, which is on the safe side.",
    )
    return Start("assumed" if typed is None else "typed", Profile(seconds, locked), figure, missing=missing)


def _drive(
    c: Context, plate: Plate, network: Network | None, stages: tuple[Stage, ...]
) -> tuple[Drive | None, tuple[str, ...], Basis]:
    """Motor, load, inertia and supply; or what is missing for them."""
    d, w = c.document, c.working
    load = d.load
    if load.inertia_kgm2 is None and load.measured_run_up_time_s is None:
        return None, ("the load's inertia or a measured run-up time",), (None, None)
    motor = motor_of(c, plate)
    if isinstance(motor, str):
        return None, (motor,), (None, None)
    cable, board = source_of(c, network)
    kw = plate.power_kw or 1.0
    own = d.motor.rotor_inertia_kgm2
    rotor = w.add("motor.rotor_inertia_kgm2", "Inertia of the rotor", "JR", own or typical_motor_value("rotor_inertia_kgm2", kw), "kg·m²",
                  field="motor.rotor_inertia_kgm2", typical=own is None, rule="as typed" if own else "typical of a four-pole motor",
                  source="typed" if own else "typical motor data")  # fmt: skip
    torque, driven = load_of(c)
    drive = Drive(motor, driven, 1.0, plate.line_voltage_v, cable, board)
    if load.inertia_kgm2 is not None:
        speed = motor.synchronous_rad_s * (1 - motor.rated_slip) * 30 / pi
        ratio = load.speed_rpm / speed if load.speed_rpm else 1.0
        typed = w.typed("load.inertia_kgm2", "Inertia of the load, at its own shaft", "JL", load.inertia_kgm2, "kg·m²")
        total = rotor.number + load.inertia_kgm2 * ratio**2
        figure = w.add("total_inertia_kgm2", "Inertia at the motor's shaft", "J", total, "kg·m²", inputs=(rotor, typed),
                       formula="JR + JL" if ratio == 1 else f"JR + JL·{ratio:.3g}²", rule="the load's inertia by the square of the speeds",
                       source="kinetic energy")  # fmt: skip
    else:
        measured = w.typed(
            "load.measured_run_up_time_s", "Run-up time measured", "tm", load.measured_run_up_time_s, "s"
        )
        assert measured
        first = run_up(drive, [replace(stages[0], duration_s=None)]).stages[0]
        if first.settled_after_s <= 0:
            return (
                None,
                ("a load that the motor can start: the measured time does not belong to this torque",),
                (None, None),
            )
        total = measured.number / first.settled_after_s
        figure = w.add("total_inertia_kgm2", "Inertia worked back from the measured run-up", "J", total, "kg·m²", inputs=(measured,),
                       rule="the time to 98 % of the speed at which the first stage settles grows with the inertia",
                       source="J·dω/dt = M − ML")  # fmt: skip
        if total < rotor.number:
            c.find("attention", "inertia_below_rotor", f"The measured {measured.text} s give {figure.text} kg·m², less than the rotor alone "
                   f"({rotor.text} kg·m²): load torque or time is misread.", "load.measured_run_up_time_s")  # fmt: skip
    return replace(drive, inertia_kgm2=total), (), (figure, torque)


def _half_seconds(value: float) -> float:
    return ceil(value * 2 - 1e-9) / 2


def proposed_time_s(drive: Drive, stages: Sequence[Stage], least_s: float) -> float | None:
    """Time for the last of the stages given: 1.15 times to 98 % of the speed where it settles, rounded up to half a second.

    Over rotor resistors it is the time until the next step brings no more current than the start did.

    Parameters
    ----------
    stages : all but the last with their durations; a slip-ring start also the one that follows
    least_s : least time that is proposed [s]

    Returns
    -------
    None when the motor does not move in this stage.

    References
    ----------
    Practice: change over when the speed no longer rises; rotor steps by the current.
    """
    at = next((i for i, s in enumerate(stages) if s.duration_s is None), len(stages) - 1)
    result = run_up(drive, [*stages[:at], replace(stages[at], duration_s=None)])
    alone = result.stages[at]
    if alone.settles_at <= 1e-3:
        return None
    seconds = STAR_MARGIN * (alone.settled_after_s - alone.begins_s)
    if stages[at].rotor_ratio and at + 1 < len(stages):
        begin = float(drive.values(stages[0], np.zeros(1))[1][0])
        mine = [k for k, stage in enumerate(result.curve.stage) if stage == at]
        following = drive.values(stages[at + 1], np.array([result.curve.speed[k] for k in mine]))[1]
        ready = next((k for k, amps in zip(mine, following, strict=True) if amps <= begin), None)
        if ready is not None:
            seconds = result.curve.time_s[ready] - alone.begins_s
    return max(least_s, _half_seconds(seconds))


def _with_times(
    c: Context, drive: Drive, stages: tuple[Stage, ...], timed: tuple[str, ...], basis: Basis
) -> tuple[tuple[Stage, ...], tuple[Figure | None, ...]]:
    """The stages with their times, and the time proposed for each but the last; a typed one is an override."""
    done, proposals = list(stages), []
    star = timed == ("starter.star_time_s",)
    least = LEAST_STAR_S if star else LEAST_STEP_S if stages[0].rotor_ratio else LEAST_STAGE_S
    for i, at in enumerate(timed[: len(stages) - 1]):
        proposed = proposed_time_s(
            drive, [*done[: i + 1], *stages[i + 1 : i + 2]] if stages[i].rotor_ratio else done[: i + 1], least
        )
        typed: float | None = getattr(c.document.starter, at.partition(".")[2])
        time = typed if typed is not None else proposed if proposed is not None else LEAST_STAR_S
        figure = None
        if proposed is not None:
            figure = c.working.add(
                "proposed_stage_time_s" if i == 0 else f"proposed_stage_{i + 1}_time_s", f"Time proposed for the {ORDINALS[i]} stage", "t*", proposed, "s",
                inputs=basis,
                rule=f"{PROPOSED_STEP if stages[i].rotor_ratio else PROPOSED}, up to the next half second", source="run-up; usual practice")  # fmt: skip
        if not star:
            c.working.add(at, f"Time of the {ORDINALS[i]} stage", f"t{i + 1}", time, "s", field=at,
                          inputs=(figure,) if typed is None else (), rule="as typed" if typed is not None else "as the run-up proposes",
                          source="typed" if typed is not None else "run-up")  # fmt: skip
        done[i] = replace(stages[i], duration_s=time)
        proposals.append(figure)
    return tuple(done), tuple(proposals)


def _changes(drive: Drive, stages: tuple[Stage, ...], result: RunUp, timed: tuple[str, ...], proposals: tuple[Figure | None, ...]) -> tuple[Change, ...]:  # fmt: skip
    """Time, speed and currents of each change from one stage to the next."""
    made = []
    for i, (before, after) in enumerate(pairwise(stages)):
        at, p = result.stages[i], proposals[i]
        speed = np.array([at.speed_at_end])
        a, b = (float(drive.values(s, speed)[1][0]) for s in (before, after))
        made.append(
            Change(
                after.label,
                timed[i],
                before.duration_s or 0.0,
                p.number if p else None,
                at.ends_s,
                100 * at.speed_at_end,
                a,
                b,
            )
        )
    return tuple(made)


def _reclosing_peak(
    c: Context, plate: Plate, drive: Drive, speed: float, dwell_s: float, inertia: Figure | None
) -> tuple[Figure, Figure]:
    """Reclosing peak after the pause, and the speed lost in it."""
    after = coast(drive, speed, dwell_s)
    links = c.document.starter.delta_links or "favourable"
    r = reclosing_of(drive.motor, links, 1 - speed, 1 - after, dwell_s, plate.frequency_hz, plate.peak_factor.number)
    w = c.working
    lost = w.add("dwell_speed_loss_pct", "Speed lost in the pause, of synchronous speed", "Δn", 100 * (speed - after), "%",
                 inputs=(inertia,), rule="the load brakes while no contactor is closed", source="J·dω/dt = −ML")  # fmt: skip
    peak = w.add("reclosing_peak_a", f"Peak inrush when delta closes, {links} links", "Iδ", r.peak_a, "A", inputs=(plate.design, lost) if r.by_circuit else (plate.locked_rotor, plate.peak_factor, lost),
                 formula=f"{r.peak_ratio:.2f}·{plate.design.symbol}" if r.by_circuit else f"{r.difference:.3f}·Ia·ki", rule=f"the rotor's voltage, {100 * r.residual:.0f} % of U, lags {r.lag_deg:.0f} degrees by then",
                 source="equivalent circuit fitted to the plate, over √2" if r.by_circuit else "residual voltage of the rotor; phasor difference", field="starter.delta_links",
                 note=f"Truly {as_read(r.span_a[0])} to {as_read(r.span_a[1])} A for nine motors in ten.")  # fmt: skip
    return peak, lost
