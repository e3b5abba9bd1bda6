"""A lost phase: currents in line and winding, what the relay does, what a monitor reads, and how to set it."""

import cmath
from collections.abc import Sequence
from dataclasses import dataclass
from math import inf, pi, radians, sqrt
from typing import Literal

from volmek.core.physics.motor_model import MotorModel, load_angle
from volmek.core.physics.numeric import np
from volmek.core.physics.thermal import TripClassEdges, trip_class_edges
from volmek.core.plate.plate import negative_sequence_ratio, voltage_unbalance_pct

#: Phase angle of a motor's impedance to negative sequence: about that of a rotor at rest.
NEGATIVE_ANGLE_DEG = 75.0
#: Share of the breakdown torque above which a motor on two phases stops.
STALL_SHARE = 0.42
#: Two poles heated: without and with sensitivity to a lost phase (IEC 60947-4-1, Table 4).
PLAIN_TWO_POLES, SENSITIVE_HOLDS, SENSITIVE_TRIPS = 1.32, 1.0, 1.15
#: Unbalance that a supply is taken to have anyway.
NORMAL_UNBALANCE_PCT = 2.0
ALPHA = cmath.rect(1, 2 * pi / 3)
Measure = Literal["nema", "sequence", "spread"]


@dataclass(frozen=True, slots=True)
class OpenPhase:
    """A motor that runs on with terminal A open.

    Attributes
    ----------
    load_share : torque over rated torque
    before_ratio : line current before over rated current
    line_ratio : current of the two live lines over the line current before
    star_winding_ratio, delta_winding_ratio : worst winding over its current before
    line_current_a : in amperes
    stalls : it stops; the current is then that of a rotor at rest on two phases
    line_voltages_pct : AB, BC, CA, of the line voltage
    open_terminal_pct : open terminal against neutral, of the phase voltage
    nema_pct, sequence_pct, spread_pct : asymmetry of those voltages by each definition
    line_span, lowest_span_pct, open_terminal_span_pct, sequence_span_pct : least and most that these may truly be
    """

    load_share: float
    before_ratio: float
    line_ratio: float
    star_winding_ratio: float
    delta_winding_ratio: float
    line_current_a: float
    stalls: bool
    line_voltages_pct: tuple[float, ...]
    open_terminal_pct: float
    nema_pct: float
    sequence_pct: float
    spread_pct: float
    line_span: tuple[float, ...]
    lowest_span_pct: tuple[float, ...]
    open_terminal_span_pct: tuple[float, ...]
    sequence_span_pct: tuple[float, ...]


def open_phase(motor: MotorModel, load_share: float) -> OpenPhase:
    """Currents and terminal voltages with one line open while the motor keeps running.

    Parameters
    ----------
    motor : the motor
    load_share : torque over rated torque [-], 0 … 1.5

    References
    ----------
    As ``open_phases``.
    """
    return open_phases(motor, [load_share])[0]


def open_phases(motor: MotorModel, load_shares: Sequence[float]) -> list[OpenPhase]:
    """The same for several loads.

    Parameters
    ----------
    motor : the motor
    load_shares : torque over rated torque [-], 0 … 1.5

    References
    ----------
    Symmetrical components, terminal A open: V1 = Z1/(Z1+Z2), V2 = −Z2/(Z1+Z2); I1 = −I2, line current |√3·I1|. Z1 and Z2 by the
    equivalent circuit at s and 2 − s; where the plate's values do not close, by Z1 = 1/I(x)∠φ(x) at the x for which V1²·x carries the
    load, and Z2 = (1/ra)∠75°.
    """
    if (circuit := motor.circuit) is None:
        return [_typical(motor, share) for share in load_shares]
    loads = np.asarray(load_shares, dtype=float)
    slips = circuit.slips_at(loads, open_line=True)
    stalls = np.isnan(slips)
    z1, z2, _, _ = circuit.lost_phase(np.where(stalls, 1.0, slips))
    whole = circuit.slips_at(loads, open_line=False)
    before = np.abs(circuit.at(np.where(np.isnan(whole), 1.0, whole))[0])
    return [
        _from_sequences(motor, float(x), complex(a), complex(b), float(i), stalls=bool(s))
        for x, a, b, i, s in zip(loads, z1, z2, before, stalls, strict=True)
    ]


def _typical(motor: MotorModel, load_share: float) -> OpenPhase:
    current, _ = load_angle(motor.power_factor, load_share, motor.no_load_ratio)
    z2 = cmath.rect(1 / motor.inrush_ratio, radians(NEGATIVE_ANGLE_DEG))
    running = None if load_share > STALL_SHARE * motor.breakdown else positive_ohm(motor, load_share, z2)
    # At rest the rotor looks the same to both sequences.
    return _from_sequences(motor, load_share, z2 if running is None else running, z2, current, stalls=running is None)


def _from_sequences(
    motor: MotorModel, load_share: float, z1: complex, z2: complex, before: float, *, stalls: bool
) -> OpenPhase:
    # The line voltage that is left drives Z1 and Z2 in series; the supply's phase voltage is 1.
    i1 = 1 / (z1 + z2)
    v1, v2 = z1 * i1, -z2 * i1
    phases = _phases(v1, v2)
    lines = tuple(abs(a - b) for a, b in zip(phases, (phases[1], phases[2], phases[0]), strict=True))
    percent = (100 * lines[0] / sqrt(3), 100 * lines[1] / sqrt(3), 100 * lines[2] / sqrt(3))
    # The star point of the motor is not the neutral: B and C hold their supply voltages.
    a_to_neutral = abs(3 * (v1 + v2) - 1) / 2
    line = max(abs(x) for x in _phases(i1, -i1))
    # A delta winding carries the difference of two sequence currents turned by 30 degrees each way.
    w1, w2 = i1 / sqrt(3) * cmath.rect(1, pi / 6), -i1 / sqrt(3) * cmath.rect(1, -pi / 6)
    delta = max(abs(x) for x in _phases(w1, w2)) * sqrt(3)
    return OpenPhase(
        load_share,
        before,
        line / before,
        line / before,
        delta / before,
        line * motor.rated_current_a,
        stalls,
        percent,
        100 * a_to_neutral,
        voltage_unbalance_pct(percent),
        100 * negative_sequence_ratio(percent),
        100 * (max(percent) - min(percent)) / max(percent),
        motor.span("line current", line / before, load_share),
        motor.span("lowest line voltage", min(percent), load_share),
        motor.span("open terminal", 100 * a_to_neutral, load_share),
        motor.span("asymmetry", 100 * negative_sequence_ratio(percent), load_share),
    )


def positive_ohm(motor: MotorModel, load_share: float, z2: complex) -> complex | None:
    """Impedance to positive sequence at the larger slip that carries the load on the voltage that is left of it.

    None where it would draw what a motor at rest draws: with a small starting current the negative sequence takes too
    much of the voltage.

    Parameters
    ----------
    load_share : torque over rated torque [-]
    z2 : impedance to negative sequence, of rated voltage over rated current

    References
    ----------
    Z1 = 1/I(x)∠φ(x) at the least x, not below the load, for which |Z1/(Z1 + Z2)|²·x is the load.
    """

    def at(share: float) -> complex:
        current, angle = load_angle(motor.power_factor, share, motor.no_load_ratio)
        return cmath.rect(1 / current, angle)

    def carried(share: float) -> float:
        z1 = at(share)
        return float(abs(z1 / (z1 + z2)) ** 2 * share)

    low, high = load_share, load_share
    while carried(high) < load_share:
        low, high = high, high + 0.02 + 0.02 * load_share
        if abs(at(high) + z2) <= 2 * abs(z2):
            return None
    if low == high:
        return at(high)
    from scipy.optimize import brentq

    return at(float(brentq(lambda share: carried(share) - load_share, low, high, xtol=1e-9)))


def _phases(positive: complex, negative: complex) -> tuple[complex, complex, complex]:
    return positive + negative, ALPHA**2 * positive + ALPHA * negative, ALPHA * positive + ALPHA**2 * negative


@dataclass(frozen=True, slots=True)
class RelayOnTwoPhases:
    """Response of an overload relay to a lost phase.

    Attributes
    ----------
    multiple : current in the live poles over its dial
    must_trip : it is bound to
    typical_s : time of a typical relay from warm; infinite when it holds
    words : one sentence
    """

    multiple: float
    must_trip: bool
    typical_s: float
    words: str


def relay_on_two_phases(multiple: float, trip_class: str, *, sensitive: bool, warm_share: float) -> RelayOnTwoPhases:
    """Tripping of a relay with current in two poles.

    Parameters
    ----------
    multiple : current over the dial [-]
    trip_class : its class
    sensitive : it senses a lost phase
    warm_share : current before over the dial [-]

    Examples
    --------
    >>> relay_on_two_phases(1.2, "10", sensitive=False, warm_share=0.7).must_trip
    False
    >>> relay_on_two_phases(1.2, "10", sensitive=True, warm_share=0.7).must_trip
    True

    References
    ----------
    IEC 60947-4-1, Table 4: plain relays trip on two poles from 1.32 times, sensitive ones from 1.15 times the dial.
    """
    threshold = SENSITIVE_TRIPS if sensitive else PLAIN_TWO_POLES
    must = multiple >= threshold - 1e-9
    edges: TripClassEdges = trip_class_edges(trip_class)
    # A sensitive relay acts as if its dial were lower; a plain one with two of three poles as if it were higher.
    scale = edges.mean.k / ((SENSITIVE_HOLDS + SENSITIVE_TRIPS) / 2 if sensitive else PLAIN_TWO_POLES - 0.08)
    time = edges.mean.trip_time_s(multiple * scale, edges.mean.warm(min(warm_share, 1.0)))
    if must:
        words = f"carries {multiple:.2f} times its setting and must trip from {threshold:g} times on"
    elif time < inf:
        words = f"carries {multiple:.2f} times its setting; it is bound to trip only from {threshold:g} times on, a typical one does"
    else:
        words = f"carries {multiple:.2f} times its setting and does not trip: it need not below {threshold:g} times"
    return RelayOnTwoPhases(multiple, must, time, words)


@dataclass(frozen=True, slots=True)
class Damage:
    """Loads between the first damage and the surely tripping relay.

    Attributes
    ----------
    from_share : load from which the worst winding carries more than its rated current
    trips_from_share : load from which the relay must trip, None when it never must
    """

    from_share: float
    trips_from_share: float | None


def damage_band(motor: MotorModel, *, delta: bool, dial_ratio: float, sensitive: bool) -> Damage:
    """The band of loads in which a lost phase burns the motor and the relay need not trip.

    Parameters
    ----------
    delta : the windings are in delta
    dial_ratio : dial, in line amperes, over rated current [-]
    sensitive : the relay senses a lost phase

    References
    ----------
    IEC 60947-4-1, Table 4, against the currents of ``open_phase``.
    """
    threshold = SENSITIVE_TRIPS if sensitive else PLAIN_TWO_POLES
    first = trips = None
    for o in open_phases(motor, [i / 100 for i in range(151)]):
        winding = (o.delta_winding_ratio if delta else o.star_winding_ratio) * o.before_ratio
        if first is None and winding > 1:
            first = o.load_share
        if trips is None and o.line_ratio * o.before_ratio / dial_ratio >= threshold:
            trips = o.load_share
    return Damage(first if first is not None else 1.5, trips)


def burns_unseen(motor: MotorModel, load_share: float, *, delta: bool, dial_ratio: float, sensitive: bool) -> bool:
    """A lost phase overloads a winding at a load at which the relay need not trip.

    Parameters
    ----------
    load_share : torque over rated torque [-]
    delta, dial_ratio, sensitive : as for ``damage_band``

    References
    ----------
    IEC 60947-4-1, Table 4, against the currents of ``open_phase``.
    """
    o = open_phase(motor, load_share)
    winding = (o.delta_winding_ratio if delta else o.star_winding_ratio) * o.before_ratio
    return winding > 1 and o.line_ratio * o.before_ratio / dial_ratio < (
        SENSITIVE_TRIPS if sensitive else PLAIN_TWO_POLES
    )


@dataclass(frozen=True, slots=True)
class Tapping:
    """A place to connect a phase monitor: what it detects and what it misses."""

    name: str
    sees: str
    misses: str


@dataclass(frozen=True, slots=True)
class AsymmetryChoice:
    """Asymmetry setting by one definition: between the supply's own and the least that a lost phase leaves."""

    measure: Measure
    least_pct: float
    proposed_pct: float | None


def asymmetry_choices(
    motor: MotorModel, lightest_share: float, normal_pct: float = NORMAL_UNBALANCE_PCT
) -> list[AsymmetryChoice]:
    """A threshold for each definition of asymmetry; none where no value separates the two.

    Parameters
    ----------
    lightest_share : the lightest load at which the loss must be seen [-]
    normal_pct : what the healthy supply shows [%]

    References
    ----------
    The middle between the supply's own and that of a lost phase at the lightest load, within 5 to 10 %, where it separates them.
    """
    o = open_phase(motor, lightest_share)
    # A supply of so much NEMA unbalance shows about as much as a sequence ratio; its spread is 1.5 to 2 times that.
    read: list[tuple[Measure, float, float]] = [
        ("nema", o.nema_pct, normal_pct),
        ("sequence", o.sequence_pct, normal_pct),
        ("spread", o.spread_pct, 1.6 * normal_pct),
    ]
    found = []
    for measure, least, normal in read:
        middle = (least + normal) / 2
        separates = least > normal * 1.2
        proposed = min(max(middle, 5.0), 10.0) if separates else None
        if proposed is not None and not normal < proposed < least:
            proposed = middle
        found.append(AsymmetryChoice(measure, least, proposed))
    return found
