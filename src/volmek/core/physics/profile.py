"""Starting current as steps of constant current, and its effect on thermal trips."""

from collections.abc import Sequence
from dataclasses import dataclass
from math import exp, sqrt

from volmek.core.physics.run_up import RunUp
from volmek.core.physics.thermal import ThermalEdge

#: Samples that are taken together where devices follow the start.
MERGE = 4


@dataclass(frozen=True, slots=True)
class Profile:
    """Line current during a start: a rectangle of standstill current, or the steps of a computed run-up.

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

    Parameters
    ----------
    steps : seconds and current of each step [s, A]

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
        theta = end + (theta - end) * exp(-dt / edge.time_constant_s)
        peak = max(peak, theta)
    return peak


def longest_warm(edge: ThermalEdge, steps: Sequence[tuple[float, float]], setting_a: float) -> float:
    """Most heat that may be stored already so that the start still passes; negative when it trips even from cold.

    Parameters
    ----------
    edge : one edge of the trip
    steps : seconds and current of the start [s, A]
    setting_a : setting of the relay [A], > 0

    Examples
    --------
    >>> round(longest_warm(ThermalEdge(1.2, 355.0), [(5.0, 72.0)], 10.0), 2)
    0.5

    References
    ----------
    First-order model as ``thermal_peak``, solved backwards.
    """
    allowed, theta, left = 1.0, 0.0, 1.0
    for dt, amps in steps:
        end = (amps / setting_a / edge.k) ** 2
        fade = exp(-dt / edge.time_constant_s)
        theta, left = end + (theta - end) * fade, left * fade
        if left > 0:  # else all that was stored has faded
            allowed = min(allowed, (1 - theta) / left)
        elif theta >= 1:
            return -1.0
    return allowed


def permitted_starts_per_hour(
    edge: ThermalEdge, steps: Sequence[tuple[float, float]], setting_a: float, running_a: float, running_share: float
) -> float:
    """Most starts in an hour that a thermal trip lets pass for ever, each followed by running and a pause.

    Parameters
    ----------
    edge : one edge of the trip
    steps : seconds and current of one start
    setting_a : setting of the relay [A], > 0
    running_a : current after the start [A]
    running_share : share of the time after the start in which it runs, the rest it stands still [-], 0 … 1

    Returns
    -------
    0 where not even one in twelve hours passes.

    Examples
    --------
    >>> edge = ThermalEdge(1.05, 300.0)
    >>> [round(permitted_starts_per_hour(edge, [(2.0, 72.0)], 10.0, 8.0, share), 1) for share in (1.0, 0.6, 0.25)]
    [9.0, 20.2, 27.4]

    References
    ----------
    First-order model as ``thermal_peak`` over start, run and pause until every cycle is like the last; IEC 60034-1, 4.2.4 (duty S4).
    """
    start_s, tau = sum(dt for dt, _ in steps), edge.time_constant_s
    run = (running_a / setting_a / edge.k) ** 2

    def after(theta: float) -> float:
        for dt, amps in steps:
            end = (amps / setting_a / edge.k) ** 2
            theta = end + (theta - end) * exp(-dt / tau)
        return theta

    def passes(period_s: float) -> bool:
        rest = period_s - start_s
        runs, stands = exp(-rest * running_share / tau), exp(-rest * (1 - running_share) / tau)

        def cycle(theta: float) -> float:
            return (run + (after(theta) - run) * runs) * stands

        # One cycle is a line in the heat at its beginning: the heat that comes back to itself.
        shift = cycle(0.0)
        begins = shift / (1 - (cycle(1.0) - shift))
        return thermal_peak(edge, steps, setting_a, begins) < 1

    low, high = start_s, 12 * 3600.0
    if not passes(high):
        return 0.0
    for _ in range(60):
        middle = 0.5 * (low + high)
        low, high = (low, middle) if passes(middle) else (middle, high)
    return 3600 / high


def profile_of(result: RunUp, locked_a: float) -> Profile:
    """The run-up as steps for the devices: a few samples taken together, by the root of their mean square.

    Parameters
    ----------
    result : the run-up
    locked_a : line current with the rotor at rest [A]

    Examples
    --------
    >>> from volmek.core.examples import example
    >>> start = example(load={"start_time_s": None, "inertia_kgm2": 0.5}).built.start
    >>> len(profile_of(start.result, 100.0).steps) > 1
    True

    References
    ----------
    Equal heat: I = √(∫I²dt / t).
    """
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
