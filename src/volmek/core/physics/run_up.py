"""Run-up of a motor with its load: speed, current and torque over time, through the stages of a starting method.

Torque depends on speed alone (the supply's dip included), so time is an integral over speed. The speed is taken as
``n = n_f − (n_f − n_0)·e^(−y)`` towards the speed n_f where motor and load meet: the integrand then stays finite, and
no start is endless.
"""

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from math import sqrt
from typing import Literal

from volmek.core.physics.motor_model import MotorModel, breakdown_slip, closed_form_torque, slip_ring_ratios
from volmek.core.physics.numeric import Array, ComplexArray, np

LoadShape = Literal["constant", "linear", "square", "constant_power"]
#: Torque curve of a start: the two forms together, or one of them alone.
TorqueForm = Literal["together", "double_cage", "closed"]
FORMS: tuple[TorqueForm, TorqueForm] = ("double_cage", "closed")
#: A breakaway torque has faded at this share of rated speed.
BREAKAWAY_SPEED = 0.10
#: Constant power is no more than so many times the torque at rated speed.
LEAST_POWER_SPEED = 0.25
#: Share of the final speed at which a start counts as over.
SETTLED = 0.98
#: Share of the closed form's accelerating torque that is taken at least where the double cage leaves less: the plate does not tell the saddle.
SURE = 0.5
#: Below this share of synchronous speed no motor runs, whatever its load.
LEAST_RUNNING = 0.7
_GRID, _NEARLY = 160, 6.2  # to 99.8 % of the way


@dataclass(frozen=True, slots=True)
class LoadModel:
    """Torque of the driven machine over rated motor torque.

    Attributes
    ----------
    torque : at rated speed [-]
    shape : how it depends on speed
    breakaway : at standstill, fading to nothing at a tenth of the speed [-]
    points : speed and torque, in shares of the rated ones, in the place of torque and shape
    """

    torque: float
    shape: LoadShape = "square"
    breakaway: float = 0.0
    points: tuple[tuple[float, float], ...] = ()

    def at(self, speed: Array) -> Array:
        """Torque at a speed in shares of rated speed."""
        x = np.maximum(speed, 0.0)
        if self.points:
            shape = np.interp(x, [p[0] for p in self.points], [p[1] for p in self.points])
        elif self.shape == "constant":
            shape = np.full_like(x, self.torque)
        elif self.shape == "linear":
            shape = self.torque * x
        elif self.shape == "square":
            shape = self.torque * x**2
        else:
            shape = self.torque / np.maximum(x, LEAST_POWER_SPEED)
        return np.asarray(np.maximum(shape, self.breakaway * np.maximum(1 - x / BREAKAWAY_SPEED, 0)))


@dataclass(frozen=True, slots=True)
class Stage:
    """One stage of a start: connection of the motor to the supply.

    Attributes
    ----------
    label : in a fitter's words
    line_share, torque_share : line current and torque over those of direct on line at the same voltage
    motor_share : current in the motor's leads over the line current
    series_ohm : resistor in each line
    current_limit_a : line current that electronics hold; None where nothing does
    rotor_ratio : resistance of a slip-ring motor's rotor circuit over the rotor's own; None for a cage motor
    cable_share : impedance of the motor cable as the line sees it over that of one conductor: twice it in star through six leads
    duration_s : how long it lasts; None to the end
    """

    label: str
    line_share: float = 1.0
    torque_share: float = 1.0
    motor_share: float = 1.0
    series_ohm: float = 0.0
    current_limit_a: float | None = None
    rotor_ratio: float | None = None
    cable_share: float = 1.0
    duration_s: float | None = None


@dataclass(frozen=True, slots=True)
class Drive:
    """Motor, load, inertia and supply of one start.

    Attributes
    ----------
    motor, load : what turns
    inertia_kgm2 : of everything, at the motor's shaft
    supply_voltage_v : between lines, without the motor
    cable_ohm : impedance of the motor cable, one conductor
    board_ohm : of the supply up to the board, each phase
    form : of the torque curve, where the plate leaves two
    """

    motor: MotorModel
    load: LoadModel
    inertia_kgm2: float
    supply_voltage_v: float
    cable_ohm: complex = 0j
    board_ohm: complex = 0j
    form: TorqueForm = "together"

    def source_ohm(self, stage: Stage) -> complex:
        """Impedance of each phase up to the motor, referred to the line, in a stage."""
        return self.board_ohm + self.cable_ohm * stage.cable_share

    def values(self, stage: Stage, speed: Array) -> tuple[Array, Array, Array, Array]:
        """Torque over Mn, line current [A], voltage at motor and at board (shares of rated) at shares of synchronous speed."""
        return self._values(stage, speed)[:4]

    def _values(self, stage: Stage, speed: Array) -> tuple[Array, Array, Array, Array, Array]:
        """The same, and the torque over that at rated voltage."""
        slip = np.maximum(1 - speed, 1e-6)
        if stage.rotor_ratio is None:
            z, produced = self.motor.impedance_ohm(slip) / stage.line_share, self.motor.torque(slip)
        else:
            z, produced = self._with_rings(stage.rotor_ratio, slip)
        whole = z + self.source_ohm(stage) + stage.series_ohm
        phase_v = self.supply_voltage_v / sqrt(3)
        line = phase_v / np.abs(whole)
        at_motor = np.abs(z / whole) * self.supply_voltage_v / self.motor.rated_voltage_v
        board = np.abs((whole - self.board_ohm) / whole) * self.supply_voltage_v / self.motor.rated_voltage_v
        strength = stage.torque_share * at_motor**2
        if stage.current_limit_a is not None:
            held = np.minimum(stage.current_limit_a / line, 1.0)
            strength, line = strength * held**2, line * held
            board = 1 - (1 - board) * held
            at_motor = at_motor * held
        torque = produced * strength
        return np.asarray(torque), np.asarray(line), np.asarray(at_motor), np.asarray(board), np.asarray(strength)

    def _with_rings(self, rotor_ratio: float, slip: Array) -> tuple[ComplexArray, Array]:
        """Impedance of each phase and torque of a slip-ring motor with resistors in its rotor."""
        m = self.motor
        torque, rotor = slip_ring_ratios(slip / rotor_ratio, m.rated_slip, m.breakdown)
        ratio = rotor * sqrt(1 - m.no_load_ratio**2) - 1j * m.no_load_ratio
        return np.asarray(m.rated_voltage_v / (sqrt(3) * m.rated_current_a * ratio)), torque

    def load_at(self, speed: Array) -> Array:
        """Load torque over Mn at shares of synchronous speed."""
        return self.load.at(speed / (1 - self.motor.rated_slip))

    def accelerating(self, stage: Stage, speed: Array) -> Array:
        """Torque left to accelerate, over Mn.

        The double cage counts; where it leaves, below the speed of the breakdown torque, less than half of what the closed form leaves,
        that half does. So it falls with every load and every volt that is missing: none makes a start look better by changing the form.
        """
        torque, _, _, _, strength = self._values(stage, speed)
        return self._left(torque, strength, stage, speed, self.form)

    def may_hang(self, stage: Stage) -> bool:
        """One of the two forms of the torque curve leaves nothing to accelerate on the way."""
        way = np.linspace(0.0, LEAST_RUNNING, 120)
        torque, _, _, _, strength = self._values(stage, way)
        return any(bool(np.any(self._left(torque, strength, stage, way, form) <= 0)) for form in FORMS)

    def at_once(self, stage: Stage, speed: Array) -> tuple[Array, Array, Array, Array, Array]:
        """Torque that accelerates and drives, load, line current, voltage at motor and at board, as ``values`` gives them."""
        torque, line, at_motor, board, strength = self._values(stage, speed)
        load = self.load_at(speed)
        return load + self._left(torque, strength, stage, speed, self.form), load, line, at_motor, board

    def _left(self, torque: Array, strength: Array, stage: Stage, speed: Array, form: TorqueForm) -> Array:
        load = self.load_at(speed)
        own = torque - load
        if form == "double_cage" or not self.two_forms(stage):
            return np.asarray(own)
        slip = np.maximum(1 - speed, 1e-6)
        m = self.motor
        other = strength * closed_form_torque(slip, m.rated_slip, m.breakdown, m.locked) - load
        if form == "closed":
            return np.asarray(other)
        return np.asarray(
            np.where(slip > breakdown_slip(m.rated_slip, m.breakdown), np.maximum(own, SURE * other), own)
        )

    def two_forms(self, stage: Stage) -> bool:
        """The plate leaves two forms of the torque curve."""
        return self.motor.cages is not None and stage.rotor_ratio is None

    def meets_at(self, stage: Stage, start: float, form: TorqueForm | None = None) -> float:
        """The speed at which torque and load meet first, from a speed on: shares of synchronous speed."""
        if form is not None:
            return replace(self, form=form).meets_at(stage, start)
        from scipy.optimize import brentq

        if start >= 1:
            return start
        speeds = np.linspace(start, 0.9999, 400)
        spare = self.accelerating(stage, speeds)
        if spare[0] <= 0:
            return start
        below = np.nonzero(spare <= 0)[0]
        if len(below) == 0:
            return 0.9999
        i = int(below[0])
        one = lambda n: float(self.accelerating(stage, np.array([n]))[0])  # noqa: E731
        return float(brentq(one, speeds[i - 1], speeds[i], xtol=1e-7))


@dataclass(slots=True)
class Curve:
    """Samples of one start over time."""

    time_s: list[float] = field(default_factory=list)
    speed: list[float] = field(default_factory=list)
    line_current_a: list[float] = field(default_factory=list)
    motor_current_a: list[float] = field(default_factory=list)
    torque: list[float] = field(default_factory=list)
    load: list[float] = field(default_factory=list)
    motor_voltage: list[float] = field(default_factory=list)
    board_voltage: list[float] = field(default_factory=list)
    stage: list[int] = field(default_factory=list)


@dataclass(frozen=True, slots=True)
class StageResult:
    """Result of one stage: its end, and the speed at which it would settle."""

    label: str
    begins_s: float
    ends_s: float
    settles_at: float
    settled_after_s: float
    speed_at_end: float
    spare_torque: float


@dataclass(frozen=True, slots=True)
class RunUp:
    """One start from rest.

    Attributes
    ----------
    curve : samples over time
    stages : how each went
    run_up_time_s : to 98 % of the final speed, at least to the end of the last change of stage; infinite when it hangs
    time_to_80_pct_s : to 80 % of synchronous speed, None when it never gets there
    final_speed : where it ends, share of synchronous speed
    stalls : it never reaches its running speed
    heat_i2t_a2s : ∫I²dt in the motor's leads until the run-up is over
    rotor_heat_j : slip energy in the rotor
    """

    curve: Curve
    stages: tuple[StageResult, ...]
    run_up_time_s: float
    time_to_80_pct_s: float | None
    final_speed: float
    stalls: bool
    heat_i2t_a2s: float
    rotor_heat_j: float


def run_up(drive: Drive, stages: Sequence[Stage], dwell_s: float = 0.0, from_speed: float = 0.0) -> RunUp:
    """Start through the stages; between two of them the motor is off the supply for the dwell.

    Parameters
    ----------
    drive : motor, load, inertia, supply
    stages : in order; all but the last need a duration
    dwell_s : pause between stages [s], 0 for closed transitions
    from_speed : share of synchronous speed at which it begins, 0 from rest

    Returns
    -------
    The start. A motor that hangs or never moves gives a result that says so; nothing runs for ever.

    Examples
    --------
    >>> from volmek.core.examples import example
    >>> drive = example(load={"start_time_s": None, "inertia_kgm2": 0.5}).built.start.drive
    >>> round(run_up(drive, [Stage("direct on line")]).run_up_time_s, 2)
    0.99

    References
    ----------
    J·dω/dt = M − M_L, as t = ∫ J·ωs/(Mn·(M − M_L)) dn; cumulative Simpson rule of SciPy.
    """
    from scipy.integrate import cumulative_simpson, simpson

    scale = drive.inertia_kgm2 * drive.motor.synchronous_rad_s / drive.motor.rated_torque_nm
    curve, results = Curve(), []
    now, speed, heat, rotor = 0.0, from_speed, 0.0, 0.0
    for i, stage in enumerate(stages):
        last = i == len(stages) - 1
        settles = drive.meets_at(stage, speed)
        begins = now
        if settles - speed < 1e-6:  # it does not move, or is there already
            duration = stage.duration_s if not last and stage.duration_s is not None else 1.0
            speeds, times = np.full(2, speed), np.array([0.0, duration])
            settled_after = 0.0
        else:
            way = np.linspace(0.0, _NEARLY, _GRID)
            speeds = settles - (settles - speed) * np.exp(-way)
            spare = np.maximum(drive.accelerating(stage, speeds), 1e-9)
            times = cumulative_simpson(scale * (settles - speeds) / spare, x=way, initial=0.0)
            settled_after = float(np.interp(max(SETTLED * settles, speed), speeds, times))
            if not last and stage.duration_s is not None:
                speeds, times = _cut(speeds, times, stage.duration_s, settles)
        torque, loads, line, at_motor, board = drive.at_once(stage, speeds)
        motor_a = line * stage.motor_share
        over = times <= (settled_after if last else times[-1]) + 1e-12
        if over.sum() >= 2:
            heat += float(simpson(motor_a[over] ** 2, x=times[over]))
        rotor += (
            float(simpson((1 - speeds) * torque, x=times)) * drive.motor.rated_torque_nm * drive.motor.synchronous_rad_s
        )
        _extend(curve, i, now + times, speeds, line, motor_a, torque, loads, at_motor, board)
        now += float(times[-1])
        speed = float(speeds[-1])
        end_spare = float(torque[-1] - loads[-1])
        results.append(StageResult(stage.label, begins, now, settles, begins + settled_after, speed, end_spare))
        if not last and dwell_s > 0:
            slower = coast(drive, speed, dwell_s)
            for at, n in ((now, speed), (now + dwell_s, slower)):
                off = np.zeros(1)
                load = drive.load_at(np.array([n]))
                still = np.full(1, drive.supply_voltage_v / drive.motor.rated_voltage_v)
                _extend(curve, i, np.array([at]), np.array([n]), off, off, off, load, off, still)
            now, speed = now + dwell_s, slower
    final = results[-1]
    running = (
        1
        - 3
        * drive.motor.rated_slip
        * max(drive.load.torque, 1.0)
        / min(drive.supply_voltage_v / drive.motor.rated_voltage_v, 1.0) ** 2
    )
    stalls = final.settles_at < min(max(running, LEAST_RUNNING), 0.9)
    over_at = max(final.settled_after_s, results[-2].ends_s + dwell_s if len(results) > 1 else 0.0)
    reaches = np.nonzero(np.array(curve.speed) >= 0.8)[0]
    return RunUp(
        curve,
        tuple(results),
        float("inf") if stalls else over_at,
        curve.time_s[int(reaches[0])] if len(reaches) else None,
        final.settles_at,
        stalls,
        heat,
        rotor,
    )


def coast(drive: Drive, speed: float, seconds: float) -> float:
    """Speed after a pause without supply, from a share of synchronous speed.

    Parameters
    ----------
    drive : motor, load and inertia
    speed : share of synchronous speed at the beginning [-]
    seconds : length of the pause [s], ≥ 0

    Examples
    --------
    >>> from volmek.core.examples import example
    >>> drive = example(load={"start_time_s": None, "inertia_kgm2": 0.5}).built.start.drive
    >>> round(coast(drive, 0.9, 0.05), 3)
    0.877

    References
    ----------
    J·dω/dt = −M_L, in twenty steps.
    """
    scale = drive.inertia_kgm2 * drive.motor.synchronous_rad_s / drive.motor.rated_torque_nm
    step = seconds / 20
    for _ in range(20):
        middle = speed - 0.5 * step * float(drive.load_at(np.array([speed]))[0]) / scale
        speed = max(speed - step * float(drive.load_at(np.array([max(middle, 0.0)]))[0]) / scale, 0.0)
    return speed


def _cut(speeds: Array, times: Array, duration_s: float, settles: float) -> tuple[Array, Array]:
    """A stage that ends after its time: cut short, or held at the speed where it settles."""
    if duration_s >= times[-1]:
        return np.append(speeds, settles), np.append(times, max(duration_s, float(times[-1]) + 1e-9))
    kept = times < duration_s
    end = float(np.interp(duration_s, times, speeds))
    return np.append(speeds[kept], end), np.append(times[kept], duration_s)


def _extend(curve: Curve, stage: int, *columns: Array) -> None:
    time, speed, line, motor, torque, load, at_motor, board = (c.tolist() for c in columns)
    curve.time_s += time
    curve.speed += speed
    curve.line_current_a += line
    curve.motor_current_a += motor
    curve.torque += torque
    curve.load += load
    curve.motor_voltage += at_motor
    curve.board_voltage += board
    curve.stage += [stage] * len(time)
