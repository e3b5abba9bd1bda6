"""Contents of the start stage: curves of the run-up, the star time, the supply's dip, heat."""

from dataclasses import dataclass, replace
from math import cos, radians, sin

from volmek.core.catalogue.catalogue import Catalogue
from volmek.core.context import Context
from volmek.core.design import StartResult, start_result
from volmek.core.devices.device import Device
from volmek.core.devices.dial import protecting
from volmek.core.document.model import StarterDocument
from volmek.core.methods.build import Built
from volmek.core.physics.motor_model import load_angle
from volmek.core.physics.numeric import np
from volmek.core.physics.profile import heat_a2s, permitted_starts_per_hour, thermal_peak
from volmek.core.physics.reclosing import better_links
from volmek.core.physics.run_up import Drive, RunUp, Stage, run_up
from volmek.core.plate.plate import Plate
from volmek.core.results.drawing import Drawing, Shape, circle, line, text
from volmek.core.sizing import size
from volmek.core.start.changeover import ChangeOver, Rule, change_over, rules, star_time_curve
from volmek.core.start.findings import Change
from volmek.core.start.start import Start

SAMPLES = 160
#: Points of the curve over a soft starter's current limit.
LIMITS = 40
#: A dip deeper than this may drop out contactors that are closed already.
DEEP_DIP_PCT = 15.0
#: Shares of the time between two starts in which the motor runs, for the starts that an hour permits.
RUNNING_SHARES = (1.0, 0.6, 0.25)
DIRECT = Stage("direct on line")


@dataclass(frozen=True, slots=True)
class OverTime:
    """A start over time: lists of equal length; currents in line, torques of rated torque, speed of synchronous speed."""

    label: str
    time_s: list[float]
    speed_pct: list[float]
    current_a: list[float]
    torque_pct: list[float]
    load_pct: list[float]
    run_up_time_s: float | None
    stalls: bool
    final_speed_pct: float


@dataclass(frozen=True, slots=True)
class OverSpeed:
    """Torque and current over speed: of direct on line, of each stage of the method, of the load."""

    speed_pct: list[float]
    load_pct: list[float]
    stages: list[str]
    torque_pct: list[list[float]]
    current_a: list[list[float]]


@dataclass(frozen=True, slots=True)
class StarTime:
    """The curve on which the star time is chosen."""

    points: list[ChangeOver]
    rules: list[Rule]
    chosen: ChangeOver
    proposed_s: float | None
    links: str
    better_links: str | None
    star: bool
    field: str
    phasors: Drawing


@dataclass(frozen=True, slots=True)
class Dip:
    """Voltage dip at the first moment of the start, and the share of each part of the supply."""

    board_pct: float
    motor_pct: float
    source_pct: float
    cable_pct: float
    torque_left_pct: float
    limit_pct: float | None
    words: str


@dataclass(frozen=True, slots=True)
class PerHour:
    """Starts in an hour that pass for ever, while it runs so much of the time between them."""

    running_pct: float
    starts: float


@dataclass(frozen=True, slots=True)
class Heat:
    """Heat of one start, and how many may follow each other."""

    rotor_kj: float
    motor_i2t_ka2s: float
    cold_starts: int | None
    warm_starts: int | None
    per_hour: list[PerHour]
    words: str


@dataclass(frozen=True, slots=True)
class LowSpeed:
    """The low speed of two: from rest, and the high speed from there; words for what is missing."""

    missing: str
    start: OverTime | None
    then_high: OverTime | None


@dataclass(frozen=True, slots=True)
class LimitPoint:
    """Run-up under a current limit of a soft starter; the time is None where the motor stalls."""

    limit_ratio: float
    current_a: float
    run_up_time_s: float | None


@dataclass(frozen=True, slots=True)
class StartView:
    """The start of one starter.

    Attributes
    ----------
    missing : what a run-up needs, in words; the curves are then empty
    result : figures of the start
    method, direct : over time, None without a run-up
    speed, star, dip, heat : as far as they apply
    changes : from stage to stage
    low : the low speed of a motor with two
    limit, limits : current limit of a soft starter, and the run-up over it
    typical : what was taken as usual
    """

    missing: list[str]
    result: StartResult
    method: OverTime | None
    direct: OverTime | None
    speed: OverSpeed | None
    star: StarTime | None
    changes: list[Change]
    low: LowSpeed | None
    limit: LimitPoint | None
    limits: list[LimitPoint]
    dip: Dip | None
    heat: Heat | None
    typical: list[str]


def start_view(document: StarterDocument, catalogue: Catalogue) -> StartView:
    """Curves and figures of a start.

    Raises
    ------
    ProblemError : as ``design``.
    """
    sized = size(document, catalogue)
    c, built, plate = sized.context, sized.built, sized.plate
    start = built.start
    typical = [f"{f.label}: {f.text} {f.unit}".strip() for f in sized.design.figures.values()
               if f.typical and not f.inputs and f.id in ("load.torque_pct", "motor.rotor_inertia_kgm2")]  # fmt: skip
    if start.drive is None or start.result is None:
        return StartView(
            list(start.missing), start_result(start), None, None, None, None, [], None, None, [], None, None, typical
        )
    drive = start.drive
    direct_stage = _direct(start.stages)
    alone = run_up(drive, [direct_stage])
    direct = start.stages == (DIRECT,)
    return StartView(
        [],
        start_result(start),
        _over_time("this starter", start.result),
        None if direct else _over_time("direct on line", alone),
        _over_speed(drive, start.stages),
        _star(c, plate, start),
        list(start.changes),
        _low(start),
        _limit(start),
        _limits(start),
        dip_of(c, built),
        _heat(plate, start, built.devices),
        typical,
    )


def _direct(stages: tuple[Stage, ...]) -> Stage:
    """Direct on line, of a slip-ring motor with its rings short-circuited."""
    return DIRECT if stages[0].rotor_ratio is None else replace(DIRECT, rotor_ratio=1.0)


def _low(start: Start) -> LowSpeed | None:
    if start.drive is None or start.other_drive is None:
        return None
    if isinstance(start.other_drive, str) or start.other is None:
        return LowSpeed(str(start.other_drive), None, None)
    if start.other.stalls:
        return LowSpeed("", _over_time("low speed", start.other), None)
    ratio = start.other_drive.motor.synchronous_rad_s / start.drive.motor.synchronous_rad_s
    after = run_up(start.drive, start.stages, from_speed=start.other.final_speed * ratio)
    return LowSpeed("", _over_time("low speed", start.other), _over_time("high speed from the low", after))


def _limit(start: Start) -> LimitPoint | None:
    drive, r = start.drive, start.result
    limit_a = start.stages[0].current_limit_a
    if drive is None or r is None or limit_a is None:
        return None
    return LimitPoint(limit_a / drive.motor.rated_current_a, limit_a, None if r.stalls else r.run_up_time_s)


def _limits(start: Start) -> list[LimitPoint]:
    drive = start.drive
    if drive is None or start.stages[0].current_limit_a is None:
        return []
    rated = drive.motor.rated_current_a
    points = []
    for ratio in np.linspace(1.5, max(drive.motor.inrush_ratio, 2.0), LIMITS).tolist():
        r = run_up(drive, [replace(start.stages[0], current_limit_a=ratio * rated)])
        points.append(LimitPoint(round(ratio, 3), ratio * rated, None if r.stalls else r.run_up_time_s))
    return points


def _over_time(label: str, r: RunUp) -> OverTime:
    curve = r.curve
    step = max(len(curve.time_s) // SAMPLES, 1)
    # Every change of stage is kept: its jump is what one looks for.
    last = len(curve.time_s) - 1
    jumps = {
        j
        for i in range(1, last + 1)
        if curve.stage[i] != curve.stage[i - 1] or curve.line_current_a[i] == 0
        for j in (i - 1, i)
    }
    kept = [i for i in range(last + 1) if i % step == 0 or i in jumps or i == last]

    def share(values: list[float]) -> list[float]:
        return [round(100 * values[i], 2) for i in kept]

    return OverTime(
        label, [round(curve.time_s[i], 4) for i in kept], share(curve.speed), [round(curve.line_current_a[i], 2) for i in kept],
        share(curve.torque), share(curve.load), None if r.stalls else r.run_up_time_s, r.stalls, 100 * r.final_speed,
    )  # fmt: skip


def _over_speed(drive: Drive, stages: tuple[Stage, ...]) -> OverSpeed:
    speeds = np.unique(np.concatenate([np.linspace(0, 0.9, 46), np.linspace(0.9, 0.9995, 50)]))
    direct = _direct(stages)
    drawn = [
        *stages,
        *(() if any(replace(s, label=DIRECT.label, duration_s=None) == direct for s in stages) else (direct,)),
    ]
    torques, currents = [], []
    for stage in drawn:
        torque, amps, _, _ = drive.values(stage, speeds)
        torques.append([round(100 * x, 2) for x in torque.tolist()])
        currents.append([round(x, 2) for x in amps.tolist()])
    loads = [round(100 * x, 2) for x in drive.load_at(speeds).tolist()]
    return OverSpeed([round(100 * x, 3) for x in speeds.tolist()], loads, [s.label for s in drawn], torques, currents)


def _star(c: Context, plate: Plate, start: Start) -> StarTime | None:
    if len(start.stages) < 2 or start.drive is None or start.star_time_s is None:
        return None
    drive, stages, dwell, peak_factor = start.drive, start.stages, start.dwell_s, plate.peak_factor.number
    hertz = plate.frequency_hz
    kw = plate.power_kw or 4.0
    star = start.changes[0].field == "starter.star_time_s"
    chosen = change_over(drive, stages, start.star_time_s, dwell, hertz, peak_factor)
    links = c.document.starter.delta_links or "favourable"
    proposed = start.proposals[0]
    found = rules(drive, stages, kw, dwell, hertz, peak_factor)
    return StarTime(
        star_time_curve(drive, stages, dwell, hertz, peak_factor),
        found if star else [r for r in found if r.name == "proposed"],
        chosen,
        proposed.number if proposed else None,
        links,
        better_links(chosen.peaks),
        star,
        start.changes[0].field,
        _phasors(chosen),
    )


def _phasors(chosen: ChangeOver) -> Drawing:
    """The voltage left in the winding, and the supply that closes on it with each way of linking."""
    middle, scale = (110.0, 96.0), 74.0

    def tip(size: float, degrees: float) -> tuple[float, float]:
        return middle[0] + scale * size * sin(radians(degrees)), middle[1] - scale * size * cos(radians(degrees))

    left = chosen.peaks[0]
    residual = tip(left.residual, left.lag_deg)
    shapes: list[Shape] = [circle(*middle, scale, weight="hair", tone="quiet"), line(*middle, *residual, weight="heavy"),
                           text(residual[0] + 6, residual[1] + 10, "rotor", 10, "start")]  # fmt: skip
    for degrees, name in ((-30.0, "common"), (30.0, "favourable")):
        at = tip(1.0, degrees)
        shapes += [line(*middle, *at), line(*residual, *at, dashed=True, tone="accent"),
                   text(at[0] + (-4 if degrees < 0 else 4), at[1] - 5, name, 10, "end" if degrees < 0 else "start")]  # fmt: skip
    said = (
        f"After the pause the rotor's voltage lags {left.lag_deg:.0f} degrees; with common links {chosen.peaks[0].difference:.2f} of the line "
        f"voltage closes on the winding, with favourable links {chosen.peaks[1].difference:.2f}"
    )
    return Drawing(220, 190, said, shapes)


def dip_of(c: Context, built: Built) -> Dip | None:
    """The dip of the start with what it means, None while the supply is not known."""
    if built.dip is None:
        return None
    board_pct, motor_pct = built.dip.board_pct, built.dip.motor_pct
    limit = c.document.supply.maximum_dip_pct
    words = f"{board_pct:.1f} % at the board, {motor_pct:.1f} % at the motor"
    if limit is not None and board_pct > limit:
        words += f": more than the {limit:g} % allowed"
    elif board_pct > DEEP_DIP_PCT:
        words += ": contactors drop out between 75 and 20 % of their voltage, and a dip as deep as this may drop out running starters"
    else:
        words += "; contactors that are closed stay closed down to 75 %"
    return Dip(
        board_pct, motor_pct, board_pct, max(motor_pct - board_pct, 0.0), 100 * (1 - motor_pct / 100) ** 2, limit, words
    )


def _heat(plate: Plate, start: Start, devices: list[Device]) -> Heat | None:
    r = start.result
    if r is None:
        return None
    relay = protecting(devices)
    cold = warm = None
    per_hour: list[PerHour] = []
    words = "no trip class is known, so the starts that may follow each other are not either"
    if relay and relay.dial_line_a and start.profile.steps:
        edges = relay.trip_edges
        setting = relay.dial_line_a
        carries = plate.permitted.number
        steps = start.profile.through(1.0, (1.0,))
        one = thermal_peak(edges.fast, steps, setting)
        cold = int(1 / one) if one > 0 else None
        left = 1 - edges.fast.warm(min(carries / setting, 1.0))
        warm = int(left / one) if one > 0 else None
        drive = start.drive
        share = min(drive.load.torque, 1.0) if drive else 1.0
        amps = plate.design.number * (
            load_angle(drive.motor.power_factor, share, drive.motor.no_load_ratio)[0] if drive else 1.0
        )
        per_hour = [
            PerHour(100 * r, permitted_starts_per_hour(edges.fast, steps, setting, amps, r)) for r in RUNNING_SHARES
        ]
        words = f"by the fastest relay of class {relay.settings.trip_class}; the motor's maker may allow fewer"
    return Heat(r.rotor_heat_j / 1000, heat_a2s(start.profile.through(1.0, (1.0,))) / 1e6, cold, warm, per_hour, words)
