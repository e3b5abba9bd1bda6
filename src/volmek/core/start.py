"""The start of one starter: its run-up where load and inertia are known, else the time that was typed or assumed."""

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from functools import lru_cache
from math import ceil, pi, sqrt

import numpy as np

from volmek.core.context import Context
from volmek.core.curves import ThermalEdge
from volmek.core.errors import PlateError
from volmek.core.figures import Figure, as_read
from volmek.core.findings import Severity
from volmek.core.motor_model import MotorModel, current_parameter, double_cage
from volmek.core.network import Network
from volmek.core.plate import Plate, no_load_current_ratio
from volmek.core.reclosing import decay_time_s, reclosing
from volmek.core.runup import Drive, LoadModel, RunUp, Stage, coast, run_up
from volmek.core.tables import typical_motor_value

#: Start that is taken when none is given.
ASSUMED_START_S = 2.0
#: Warm copper, and the reactance of a cable [Ω·mm²/m, Ω/m].
WARM_COPPER, CABLE_REACTANCE = 0.0225, 0.08e-3
LEAST_STAR_S, LEAST_STAGE_S, STAR_MARGIN = 3.0, 1.0, 1.15
#: Least plateau in star, of synchronous speed, and the voltage at which it is looked at once more.
LEAST_PLATEAU, LOW_VOLTAGE = 0.80, 0.90
#: Accelerating torque at low voltage below which a start in star is weak, and how much longer it may take.
LEAST_SPARE, MUCH_LONGER = 0.05, 1.5
HIGH_CHANGEOVER, HIGH_CHANGEOVER_OF_DIRECT = 4.0, 0.8
DEFAULT_DWELL_S = 0.05
TYPICAL_TORQUE_PCT = 80.0
#: Samples that are taken together where devices follow the start.
MERGE = 4


@dataclass(frozen=True, slots=True)
class Profile:
    """What flows in the line during a start: a rectangle of standstill current, or the steps of a computed run-up.

    Attributes
    ----------
    start_s : its length [s]
    locked_a : line current of direct on line at standstill [A]
    steps : seconds, line current [A] and stage of each step; empty for the rectangle
    """

    start_s: float
    locked_a: float
    steps: tuple[tuple[float, float, int], ...] = ()

    def through(
        self, start_share: float, stage_shares: Sequence[float], stretch: float = 1.0
    ) -> list[tuple[float, float]]:
        """Seconds and current through a device.

        Parameters
        ----------
        start_share : of the standstill current of direct on line, for the rectangle
        stage_shares : of the line current in each stage of a run-up
        stretch : the start lasts so many times as long
        """
        if not self.steps:
            return [(self.start_s * stretch, start_share * self.locked_a)]
        last = len(stage_shares) - 1
        return [(dt * stretch, amps * stage_shares[min(stage, last)]) for dt, amps, stage in self.steps]


def heat_a2s(steps: Sequence[tuple[float, float]]) -> float:
    """∫I²dt of steps of constant current.

    Examples
    --------
    >>> heat_a2s([(2, 10), (1, 20)])
    600

    References
    ----------
    Definition.
    """
    return sum(dt * amps * amps for dt, amps in steps)


def thermal_peak(
    edge: ThermalEdge, steps: Sequence[tuple[float, float]], setting_a: float, theta0: float = 0.0
) -> float:
    """Highest heat that a thermal trip reaches in a start, where 1 trips.

    Parameters
    ----------
    edge : one edge of the trip
    steps : seconds and current
    setting_a : its setting [A]
    theta0 : heat at the beginning

    Examples
    --------
    >>> round(thermal_peak(ThermalEdge(1.2, 355.0), [(10.0, 72.0)], 10.0), 2)
    1.0

    References
    ----------
    First-order model dθ/dt = ((I/Iset)²/k² − θ)/τ, solved exactly for each step.
    """
    theta, peak = theta0, theta0
    for dt, amps in steps:
        end = (amps / setting_a / edge.k) ** 2
        theta = end + (theta - end) * float(np.exp(-dt / edge.time_constant_s))
        peak = max(peak, theta)
    return peak


def longest_warm(edge: ThermalEdge, steps: Sequence[tuple[float, float]], setting_a: float) -> float:
    """Most heat that may be stored already so that the start still passes; negative when it trips even from cold."""
    allowed, theta, left = 1.0, 0.0, 1.0
    for dt, amps in steps:
        end = (amps / setting_a / edge.k) ** 2
        fade = float(np.exp(-dt / edge.time_constant_s))
        theta, left = end + (theta - end) * fade, left * fade
        if left > 0:  # else all that was stored has faded
            allowed = min(allowed, (1 - theta) / left)
        elif theta >= 1:
            return -1.0
    return allowed


@dataclass(frozen=True, slots=True)
class Start:
    """What is known of a start.

    Attributes
    ----------
    source : ``typed``, ``assumed``, ``run-up``
    profile : what the devices have to stand
    figure : the starting time in use
    drive, stages, dwell_s, result : the computed run-up, None and empty where nothing could be computed
    star_time_s : proposed or typed, of a method that changes over by time
    changeover_speed_pct, changeover_current_a : at the end of the first stage
    reclosing_peak : first peak when delta closes after the pause
    missing : what a run-up would need, in words
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
    reclosing_peak: Figure | None = None
    missing: tuple[str, ...] = field(default=())


@lru_cache(maxsize=128)
def _motor(voltage_v: float, current_a: float, cos: float, ws: float, slip: float, power_w: float, ra: float, ml: float,
           mb: float, pull_up: float | None) -> MotorModel:  # fmt: skip
    i0 = no_load_current_ratio(cos, mb)
    torque = power_w / (ws * (1 - slip))
    cages = None if pull_up is not None else double_cage(slip, mb, ml)
    return MotorModel(
        voltage_v, current_a, cos, ws, slip, torque, ra, ml, mb, pull_up, i0, current_parameter(slip, ra, i0), cages
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
    # On another frequency the motor turns with the supply; its slip stays about the same.
    ws = 2 * pi * plate.frequency_hz / pairs
    if m.rated_speed_rpm:
        slip = 1 - m.rated_speed_rpm * pairs / (60 * hertz)
    else:
        slip = typical_motor_value("rated_slip_pct", kw) / 100
    if not 0.0005 <= slip <= 0.2:
        return "a speed on the plate that an induction motor has"
    ra = plate.locked_rotor.number / plate.design.number
    cos = plate.power_factor.number if plate.power_factor else typical_motor_value("power_factor", kw)
    try:
        return _motor(
            plate.motor_voltage_v, plate.design.number, cos, ws, slip, 1000 * kw, ra, ml, mb, m.pull_up_torque_ratio
        )
    except PlateError as error:
        c.find("attention", "motor_curve_impossible", error.problems[0].message, error.problems[0].field)
        return "plate values that belong together"


def load_of(c: Context) -> LoadModel:
    """The load's torque; what is not typed is taken as usual, and said."""
    d = c.document.load
    w = c.working
    torque = w.add("load.torque_pct", "Load torque at speed", "ML", d.torque_pct if d.torque_pct is not None else TYPICAL_TORQUE_PCT, "%",
                   field="load.torque_pct", typical=d.torque_pct is None, rule="as typed" if d.torque_pct is not None else "usual reserve of a drive",
                   source="typed" if d.torque_pct is not None else "default")  # fmt: skip
    points = tuple((p[0] / 100, p[1] / 100) for p in d.torque_points or ())
    return LoadModel(torque.number / 100, d.shape or "constant", (d.breakaway_pct or 0.0) / 100, points)


def source_of(c: Context, plate: Plate, network: Network | None) -> tuple[complex, complex]:
    """Impedance up to the motor, and the part up to the board; a stiff source where none is known."""
    board = complex(network.resistance_ohm, network.reactance_ohm) if network else 0j
    s = c.document.supply
    if s.cable_length_m and s.cable_section_mm2:
        cable = complex(WARM_COPPER * s.cable_length_m / s.cable_section_mm2, CABLE_REACTANCE * s.cable_length_m)
        return board + cable, board
    return board, board


def read_start(
    c: Context, plate: Plate, network: Network | None, stages: tuple[Stage, ...], timed: str, dwell_s: float
) -> Start:
    """Work out the start and say what a fitter should know about it.

    Parameters
    ----------
    stages : of the method; those that end by time without a duration get one proposed
    timed : field of the document that sets that time, empty when there is none
    dwell_s : pause between the stages, 0 for closed transitions
    """
    load = c.document.load
    locked = plate.locked_rotor.number
    drive, missing = _drive(c, plate, network, stages)
    if drive is None or not stages:
        return _without_run_up(c, locked, missing)
    stages, proposed = _with_times(c, drive, stages, timed)
    result = run_up(drive, list(stages), dwell_s)
    result, drive = _judge_stall(c, drive, stages, dwell_s, result)
    star = stages[0].duration_s if len(stages) > 1 else None
    speed_pct = changeover = peak = None
    if len(stages) > 1:
        speed = result.stages[0].speed_at_end
        speed_pct = 100 * speed
        changeover = float(drive.values(stages[1], np.array([speed]))[1][0])
        if dwell_s > 0:
            peak = _reclosing_peak(c, plate, drive, speed, dwell_s)
        _judge_stages(c, plate, drive, stages, result, proposed, timed, changeover)
    if load.start_time_s is not None or result.stalls:
        plain = _without_run_up(c, locked, (), said=result.stalls)
        if not result.stalls and load.start_time_s and abs(load.start_time_s / result.run_up_time_s - 1) > 0.25:
            c.find("info", "start_time_differs", f"A starting time of {load.start_time_s:g} s is typed; load and inertia give "
                   f"{as_read(result.run_up_time_s)} s. The typed one counts.", "load.start_time_s")  # fmt: skip
    else:
        figure = c.working.add(
            "start_time_s", "Run-up time", "ts", result.run_up_time_s, "s",
            inputs=tuple(c.working.figures.get(i) for i in ("total_inertia_kgm2", "load.torque_pct")),
            rule="from the first contact to 98 % of the final speed", source="J·dω/dt = M − ML, with the supply's dip in the loop",
        )  # fmt: skip
        plain = Start("run-up", _profile(result, locked), figure)
    return replace(
        plain, drive=drive, stages=stages, dwell_s=dwell_s, result=result, star_time_s=star,
        changeover_speed_pct=speed_pct, changeover_current_a=changeover, reclosing_peak=peak,
    )  # fmt: skip


def _without_run_up(c: Context, locked: float, missing: tuple[str, ...], *, said: bool = False) -> Start:
    """The time that was typed, else the one assumed, at standstill current."""
    typed = c.document.load.start_time_s
    if typed is None and not said:
        lacks = f"; a run-up needs {', '.join(missing)}" if missing else ""
        c.find("info", "start_time_assumed", f"No starting time is given; {ASSUMED_START_S:g} s is taken{lacks}.", "load.start_time_s")  # fmt: skip
    seconds = ASSUMED_START_S if typed is None else typed
    figure = c.working.add(
        "start_time_s",
        "Starting time that must pass",
        "ts",
        seconds,
        "s",
        field="load.start_time_s",
        rule="as typed" if typed is not None else "assumed, at least 2 s",
        source="typed" if typed is not None else "default",
        typical=typed is None,
        note="The whole time is taken at the locked-rotor current, which is on the long side.",
    )
    return Start("assumed" if typed is None else "typed", Profile(seconds, locked), figure, missing=missing)


def _drive(
    c: Context, plate: Plate, network: Network | None, stages: tuple[Stage, ...]
) -> tuple[Drive | None, tuple[str, ...]]:
    """Motor, load, inertia and supply; or what is missing for them."""
    d, w = c.document, c.working
    load = d.load
    if load.inertia_kgm2 is None and load.measured_run_up_time_s is None:
        return None, ("the load's inertia or a measured run-up time",)
    motor = motor_of(c, plate)
    if isinstance(motor, str):
        return None, (motor,)
    source, board = source_of(c, plate, network)
    kw = plate.power_kw or 1.0
    own = d.motor.rotor_inertia_kgm2
    rotor = w.add("motor.rotor_inertia_kgm2", "Inertia of the rotor", "JR", own or typical_motor_value("rotor_inertia_kgm2", kw), "kg·m²",
                  field="motor.rotor_inertia_kgm2", typical=own is None, rule="as typed" if own else "typical of a four-pole motor",
                  source="typed" if own else "typical motor data")  # fmt: skip
    drive = Drive(motor, load_of(c), 1.0, plate.line_voltage_v, source, board)
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
            return None, ("a load that the motor can start: the measured time does not belong to this torque",)
        total = measured.number / first.settled_after_s
        figure = w.add("total_inertia_kgm2", "Inertia worked back from the measured run-up", "J", total, "kg·m²", inputs=(measured,),
                       rule="the time to 98 % of the speed at which the first stage settles grows with the inertia",
                       source="J·dω/dt = M − ML")  # fmt: skip
        if total < rotor.number:
            c.find("attention", "inertia_below_rotor", f"The measured {measured.text} s give {figure.text} kg·m², less than the rotor alone "
                   f"({rotor.text} kg·m²): load torque or time is misread.", "load.measured_run_up_time_s")  # fmt: skip
    return replace(drive, inertia_kgm2=total), ()


def _half_seconds(value: float) -> float:
    return ceil(value * 2 - 1e-9) / 2


def proposed_time_s(drive: Drive, stage: Stage, least_s: float) -> float | None:
    """Time for a first stage: 1.15 times to 98 % of the speed where it settles, rounded up to half a second.

    Returns
    -------
    None when the motor does not move in this stage.

    References
    ----------
    Practice: change over when the speed no longer rises.
    """
    alone = run_up(drive, [replace(stage, duration_s=None)]).stages[0]
    if alone.settles_at <= 1e-3:
        return None
    return max(least_s, _half_seconds(STAR_MARGIN * alone.settled_after_s))


def _with_times(
    c: Context, drive: Drive, stages: tuple[Stage, ...], timed: str
) -> tuple[tuple[Stage, ...], float | None]:
    """The stages with their times; and the time proposed for the first."""
    if len(stages) == 1:
        return stages, None
    star = timed == "starter.star_time_s"
    proposed = proposed_time_s(drive, stages[0], LEAST_STAR_S if star else LEAST_STAGE_S)
    typed = c.document.starter.star_time_s if timed else None
    time = typed if typed is not None else proposed if proposed is not None else LEAST_STAR_S
    if proposed is not None:
        c.working.add("proposed_stage_time_s", "Time proposed for the first stage", "t*", proposed, "s",
                      inputs=(c.working.figures.get("total_inertia_kgm2"), c.working.figures.get("load.torque_pct")),
                      rule="1.15 times to 98 % of the speed where it settles, up to the next half second", source="run-up; usual practice")  # fmt: skip
    return (replace(stages[0], duration_s=time), *stages[1:]), proposed


def _judge_stall(
    c: Context, drive: Drive, stages: tuple[Stage, ...], dwell_s: float, result: RunUp
) -> tuple[RunUp, Drive]:
    """A start that hangs stops only when both forms of the torque curve say so."""
    if not result.stalls:
        return result, drive
    at = 100 * result.final_speed
    what = "does not move" if at < 0.5 else f"hangs at {at:.0f} % of its speed"
    if drive.motor.cages is not None:
        other = replace(drive, motor=drive.motor.closed_form())
        second = run_up(other, list(stages), dwell_s)
        if not second.stalls:
            c.find("attention", "start_may_hang", f"By one form of the torque curve the motor {what} with this load, by another it starts: "
                   "ask the maker for the pull-up torque.", "motor.pull_up_torque_ratio")  # fmt: skip
            return second, other
    c.find(
        "stop",
        "start_stalls",
        f"The motor {what} with this load: its torque there is no more than the load's.",
        "load.torque_pct",
    )
    return result, drive


def _judge_stages(c: Context, plate: Plate, drive: Drive, stages: tuple[Stage, ...], result: RunUp, proposed: float | None, timed: str, changeover: float) -> None:  # fmt: skip
    first = result.stages[0]
    at = timed or "load.torque_pct"
    if first.settles_at < LEAST_PLATEAU:
        severity: Severity = "stop" if timed == "starter.star_time_s" else "attention"
        where = (
            "does not move at all"
            if first.settles_at < 0.005
            else f"hangs at {100 * first.settles_at:.0f} % of synchronous speed"
        )
        c.find(severity, "first_stage_hangs", f"{first.label[0].upper()}{first.label[1:]} the motor {where}; {100 * LEAST_PLATEAU:.0f} % is needed before the change-over: "
               "the load is too heavy for it.", "load.torque_pct")  # fmt: skip
    elif timed == "starter.star_time_s":
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
    direct = drive.values(Stage("direct"), np.array([0.0]))[1][0]
    high = changeover > HIGH_CHANGEOVER * plate.design.number or changeover > HIGH_CHANGEOVER_OF_DIRECT * direct
    if high:
        c.find("attention", "changeover_high", f"At the change-over, at {100 * first.speed_at_end:.0f} % of synchronous speed, the motor draws {as_read(changeover)} A, "
               f"{changeover / plate.design.number:.1f} times its rated current.", at)  # fmt: skip
    duration = stages[0].duration_s or 0.0
    if proposed is not None and duration < first.settled_after_s - first.begins_s - 1e-9:
        c.find("attention", "changeover_early", f"After {duration:g} s the motor has reached {100 * first.speed_at_end:.0f} % of synchronous speed; it would settle at "
               f"{100 * first.settles_at:.0f} % after {as_read(first.settled_after_s)} s.", at)  # fmt: skip


def _reclosing_peak(c: Context, plate: Plate, drive: Drive, speed: float, dwell_s: float) -> Figure:
    """What closes on the winding after the pause, and the speed that the pause costs."""
    after = coast(drive, speed, dwell_s)
    m, hertz = drive.motor, plate.frequency_hz
    links = c.document.starter.delta_links or "favourable"
    decay = decay_time_s(m.rated_slip, m.no_load_ratio, hertz)
    r = reclosing(
        links,
        1 - speed,
        1 - after,
        dwell_s,
        hertz,
        decay,
        m.inrush_ratio,
        plate.locked_rotor.number,
        plate.peak_factor.number,
    )
    w = c.working
    lost = w.add("dwell_speed_loss_pct", "Speed lost in the pause, of synchronous speed", "Δn", 100 * (speed - after), "%",
                 inputs=(w.figures.get("total_inertia_kgm2"),), rule="the load brakes while no contactor is closed", source="J·dω/dt = −ML")  # fmt: skip
    return w.add("reclosing_peak_a", f"First peak when delta closes, {links} links", "Iδ", r.peak_a, "A", inputs=(plate.locked_rotor, plate.peak_factor, lost),
                 formula=f"{r.difference:.3f}·Ia·ki", rule=f"the rotor's voltage, {100 * r.residual:.0f} % of U, lags {r.lag_deg:.0f} degrees by then",
                 source="residual voltage of the rotor; phasor difference", field="starter.delta_links")  # fmt: skip


def _profile(result: RunUp, locked_a: float) -> Profile:
    """The run-up as steps for the devices: a few samples taken together, by the root of their mean square."""
    curve = result.curve
    steps: list[tuple[float, float, int]] = []
    seconds = heat = 0.0
    count = 0
    for i in range(1, len(curve.time_s)):
        if curve.time_s[i - 1] >= result.run_up_time_s:
            break
        dt = curve.time_s[i] - curve.time_s[i - 1]
        # Between two stages the current jumps: the sample before belongs to the stage before.
        a, b = curve.line_current_a[i - 1], curve.line_current_a[i]
        seconds += dt
        heat += dt * (a * a + a * b + b * b) / 3
        count += 1
        jump = i + 1 < len(curve.stage) and curve.stage[i + 1] != curve.stage[i]
        if (count >= MERGE or jump) and seconds > 0:
            steps.append((seconds, sqrt(heat / seconds), curve.stage[i]))
            seconds = heat = 0.0
            count = 0
    if seconds > 0:
        steps.append((seconds, sqrt(heat / seconds), curve.stage[-1]))
    return Profile(result.run_up_time_s, locked_a, tuple(steps))
