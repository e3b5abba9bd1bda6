"""The current when delta closes after the pause: the rotor's voltage has fallen and turned back."""

import cmath
from collections.abc import Sequence
from dataclasses import dataclass, replace
from math import degrees, exp, pi, radians, sqrt
from typing import Literal

from volmek.core.physics.motor_model import MotorModel

Links = Literal["common", "favourable"]
#: Phase of the supply over a winding when it closes in delta, of what it was in star.
LINK_ANGLE_DEG: dict[Links, float] = {"common": 30.0, "favourable": -30.0}
#: Residual voltage at the beginning of the pause, of the star winding voltage, and the longest time constant.
RESIDUAL_SHARE, LONGEST_DECAY_S = 0.9, 3.0


@dataclass(frozen=True, slots=True)
class Reclosing:
    """Reclosing transient when the delta contactor closes after the pause.

    Attributes
    ----------
    links : how the winding ends are joined
    residual : voltage left in the winding, of the line voltage
    lag_deg : how far it has turned back by then
    difference : voltage that closes on the winding, of the line voltage
    peak_ratio : first current over rated current, r.m.s., before the first-half-cycle factor
    peak_a : with that factor
    span_a : least and most that the peak may truly be
    by_circuit : from the equivalent circuit, where the ratio is that of the peaks and no factor is applied
    """

    links: Links
    residual: float
    lag_deg: float
    difference: float
    peak_ratio: float
    peak_a: float
    span_a: tuple[float, ...]
    by_circuit: bool


def reclosing_of(motor: MotorModel, links: Links, slip_before: float, slip_after: float, dwell_s: float, frequency_hz: float,
                 peak_factor: float) -> Reclosing:  # fmt: skip
    """Voltage and current when delta closes, by the motor's equivalent circuit; by typical figures where its plate does not close.

    Parameters
    ----------
    motor : in its delta connection
    links, slip_before, slip_after, dwell_s, frequency_hz : as for ``reclosing``
    peak_factor : ki of the first half cycle, for the typical figures

    Examples
    --------
    >>> from volmek.core.examples import example
    >>> drive = example(load={"start_time_s": None, "inertia_kgm2": 0.5}).built.start.drive
    >>> reclosing_of(drive.motor, "favourable", 0.05, 0.06, 0.05, 50, 1.5).by_circuit
    True

    References
    ----------
    As ``MotorCircuit.reclosing_peak`` and ``reclosing``.
    """
    amps = motor.rated_current_a
    if (circuit := motor.circuit) is None:
        decay = decay_time_s(motor.rated_slip, motor.no_load_ratio, frequency_hz)
        ra = motor.inrush_ratio
        r = reclosing(links, slip_before, slip_after, dwell_s, frequency_hz, decay, ra, ra * amps, peak_factor)
        return replace(r, span_a=motor.span("peak after the pause", r.peak_a))
    peak, left = circuit.reclosing_peak(LINK_ANGLE_DEG[links], slip_before, slip_after, dwell_s, frequency_hz)
    closing = cmath.rect(1.0, radians(LINK_ANGLE_DEG[links]))
    lag, span = -degrees(cmath.phase(left)) % 360, motor.span("peak after the pause", peak * amps)
    return Reclosing(links, abs(left), lag, abs(closing - left), peak, peak * amps, span, by_circuit=True)


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
    peak_a = difference * locked_a * peak_factor
    lag_deg = lag * 180 / pi
    return Reclosing(
        links, residual, lag_deg, difference, difference * inrush_ratio, peak_a, (peak_a, peak_a), by_circuit=False
    )


#: Peaks that differ by no more than this share are alike.
ALIKE = 0.05


def better_links(peaks: Sequence[Reclosing]) -> Links | None:
    """The way of linking that draws less at a change-over; None where the two are alike.

    Parameters
    ----------
    peaks : the change-over with each way of linking

    Examples
    --------
    >>> peaks = [reclosing(links, 0.05, 0.05, 0.05, 50, 0.7, 7.2, 475, 1.5) for links in LINK_ANGLE_DEG]
    >>> better_links(peaks)
    'favourable'

    References
    ----------
    The smaller computed peak; within 5 % they are alike.
    """
    less, more = sorted(peaks, key=lambda r: r.peak_a)
    return None if more.peak_a <= (1 + ALIKE) * less.peak_a else less.links


def usual_links(slip: float, dwell_s: float, frequency_hz: float) -> Links:
    """The way of linking that draws less by the rule of thumb, while the field has turned back by less than half a turn.

    Parameters
    ----------
    slip : of the rotor when the supply comes back [-], in [0, 1]
    dwell_s : pause without supply [s], ≥ 0
    frequency_hz : of the supply [Hz]

    Examples
    --------
    >>> usual_links(0.05, 0.05, 50), usual_links(0.3, 0.05, 50)
    ('favourable', 'common')

    References
    ----------
    f·s·t below 0.5: favourable; between 0.5 and 1: common; then alternating.
    """
    return "favourable" if int(2 * frequency_hz * slip * dwell_s) % 2 == 0 else "common"
