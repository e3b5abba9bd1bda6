"""Projection for phase loss: currents at every load, relay, monitor settings; measured voltages judged."""

from dataclasses import dataclass

from volmek.core.catalogue.catalogue import Catalogue
from volmek.core.context import Context
from volmek.core.devices.dial import protecting, sees_a_lost_line
from volmek.core.document.errors import Problem, ProblemError
from volmek.core.document.model import StarterDocument
from volmek.core.phase_loss.monitor_settings import MonitorSetting, monitor_settings, thresholds
from volmek.core.phase_loss.open_phase import (
    AsymmetryChoice,
    Damage,
    OpenPhase,
    Tapping,
    damage_band,
    open_phase,
    open_phases,
    relay_on_two_phases,
)
from volmek.core.physics.motor_model import MotorModel
from volmek.core.plate.plate import negative_sequence_ratio, voltage_unbalance_pct
from volmek.core.results.figures import as_read
from volmek.core.sizing import size
from volmek.core.standards.tables import unbalance_derating
from volmek.core.start.start import motor_of
from volmek.core.views.start import dip_of


@dataclass(frozen=True, slots=True)
class PhaseLossView:
    """A lost phase at every load, and how a monitor is set for it.

    Attributes
    ----------
    missing : what the motor lacks for it, in words
    at_load : from idle to beyond full load
    usual_share : the load of this starter
    delta : the windings are in delta
    relay : what the overload relay does at each load, one sentence
    relay_time_s : time of a typical relay, None where it holds
    damage : the band of loads that burns
    sensitive : the relay senses a lost phase
    undervoltage_blind_pct : an undervoltage setting below this never sees the loss at the usual load
    asymmetry : a threshold for each definition
    settings : of the monitor, proposed or typed
    notes : which monitor for this supply, and what to know when it recovers
    tapping : where to tap it, and what each choice misses
    undervoltage : what the monitor's undervoltage setting sees of the loss at each load, one sentence
    """

    missing: str
    at_load: list[OpenPhase]
    usual_share: float
    delta: bool
    relay: list[str]
    relay_time_s: list[float | None]
    damage: Damage | None
    sensitive: bool
    undervoltage_blind_pct: float | None
    asymmetry: list[AsymmetryChoice]
    settings: list[MonitorSetting]
    notes: list[str]
    tapping: list[Tapping]
    undervoltage: list[str]


TAPPING = [
    Tapping("ahead of the contactor", "sees the supply at rest, so that nothing starts on two phases",
                   "does not detect a burnt contactor pole, or a fuse between it and the motor"),
    Tapping("three-wire", "compares the line voltages, needs no neutral",
                   "the motor itself holds the lost phase up: at a light load hardly more than asymmetry is left to see; not a lost neutral"),
    Tapping("four-wire", "also measures the open terminal against the neutral, and a lost neutral",
                   "needs the neutral brought to it; the star point of the motor must not be tied to it"),
    Tapping("on the load side of the contactor", "detects burnt poles and blown fuses on the way to the motor",
                   "detects nothing while the starter is off; its contact must be bridged at the start"),
]  # fmt: skip


def phase_loss_view(document: StarterDocument, catalogue: Catalogue) -> PhaseLossView:
    """Effect of a lost phase on this starter at every load.

    Raises
    ------
    ProblemError : as ``design``.
    """
    sized = size(document, catalogue)
    c, built, plate = sized.context, sized.built, sized.plate
    motor = motor_of(Context(document, catalogue), plate)
    if not isinstance(motor, MotorModel):
        return PhaseLossView(motor, [], 1.0, False, [], [], None, False, None, [], [], [], [], [])
    usual = (document.load.torque_pct or 100.0) / 100
    relay = protecting(built.devices)
    sensitive = relay is not None and sees_a_lost_line(relay)
    dial = (relay.dial_line_a or 0.0) / plate.design.number if relay else 1.0
    shares = [i / 50 for i in range(1, 61)]
    lost = open_phases(motor, shares)
    said: list[str] = []
    times: list[float | None] = []
    for o in lost:
        before = o.before_ratio
        if relay is None:
            said.append("no overload protection detects it")
            times.append(None)
            continue
        r = relay_on_two_phases(
            o.line_ratio * before / dial, str(relay.settings.trip_class), sensitive=sensitive, warm_share=before / dial
        )
        said.append(r.words)
        times.append(None if r.typical_s == float("inf") else r.typical_s)
    delta = plate.connection == "delta"
    at_usual = open_phase(motor, usual)
    blind = min(at_usual.line_voltages_pct)
    damage = damage_band(motor, delta=delta, dial_ratio=dial, sensitive=sensitive) if relay else None
    asymmetry = thresholds(motor, document)
    dip = dip_of(c, built)
    settings = monitor_settings(document, asymmetry, blind, dip.board_pct if dip else None, built.start.figure.number)
    return PhaseLossView(
        "",
        lost,
        usual,
        delta,
        said,
        times,
        damage,
        sensitive,
        blind,
        asymmetry,
        settings,
        _notes(document, motor),
        TAPPING,
        _undervoltage(lost, settings),
    )


def _undervoltage(lost: list[OpenPhase], settings: list[MonitorSetting]) -> list[str]:
    """Detection of the loss by an undervoltage setting, for each load: the motor keeps the open line's voltage up."""
    setting = next((s.value for s in settings if s.field == "monitor.undervoltage_pct"), None)
    lowest = [min(o.line_voltages_pct) for o in lost]
    reads = [f"At this load the lowest voltage still reads {as_read(v)} %" for v in lowest]
    if setting is None:
        return [f"{words}." for words in reads]
    everywhere = max(lowest) < setting
    seen = "detects the loss" if everywhere else "detects the loss here, but not at a lighter load"
    return [
        f"{words}: the undervoltage setting of {as_read(float(setting))} % "
        f"{'does not detect the loss' if v >= setting else seen}."
        for words, v in zip(reads, lowest, strict=True)
    ]


def _notes(document: StarterDocument, motor: MotorModel) -> list[str]:
    notes = [
        "Four-wire is proposed: the neutral is present, and its loss is detected too."
        if document.supply.neutral is True
        else "Three-wire is proposed: no neutral is known at this supply."
    ]
    if document.control.scheme == "two_wire":
        notes.append("With a maintained contact the motor restarts by itself when the monitor recovers.")
    notes.append(
        "Currents and voltages by the equivalent circuit fitted to the plate."
        if motor.circuit
        else "Currents and voltages by typical figures: no equivalent circuit closes with these values of the plate."
    )
    return notes


@dataclass(frozen=True, slots=True)
class Unbalance:
    """Three measured values against each other.

    Attributes
    ----------
    nema_pct, true_pct : the two definitions; the true one of lengths that form no triangle is None
    derating : share of rated output permitted, None above 5 %
    extra_rise_pct : of the temperature rise
    current_pct : of the three currents, None without them
    verdict : ``fine``, ``attention``, ``stop``
    words : one sentence
    """

    nema_pct: float
    true_pct: float | None
    derating: float | None
    extra_rise_pct: float
    current_pct: float | None
    verdict: str
    words: str


def unbalance(voltages_v: list[float], currents_a: list[float] | None = None) -> Unbalance:
    """Judge three measured line voltages, and three line currents if there are any.

    Raises
    ------
    ProblemError : three voltages that cannot be the sides of a triangle.

    Examples
    --------
    >>> u = unbalance([400, 392, 404])
    >>> round(u.nema_pct, 2), u.verdict
    (1.67, 'attention')

    References
    ----------
    NEMA MG 1, 12.45 and 14.36; IEC 60034-26; extra rise about 2·(unbalance)² per cent.
    """
    a, b, d = sorted(voltages_v)
    if a + b <= d:
        raise ProblemError(
            [
                Problem(
                    "voltages_v",
                    f"{a:g}, {b:g} and {d:g} V cannot be three line voltages: two together must be more than the third",
                )
            ]
        )
    nema = voltage_unbalance_pct((voltages_v[0], voltages_v[1], voltages_v[2]))
    true = 100 * negative_sequence_ratio((voltages_v[0], voltages_v[1], voltages_v[2]))
    current = voltage_unbalance_pct((currents_a[0], currents_a[1], currents_a[2])) if currents_a else None
    rise = 2 * nema**2
    if nema > 5:
        return Unbalance(
            nema,
            true,
            None,
            rise,
            current,
            "stop",
            f"{nema:.1f} % is more than 5 %: do not run the motor; look for a lost phase, a loose joint, a blown capacitor fuse.",
        )
    derating = unbalance_derating(nema)
    verdict = "fine" if nema <= 1 else "attention"
    words = f"{nema:.1f} %: " + (
        "the motor may carry its rated output."
        if nema <= 1
        else f"the motor may carry {100 * derating:.0f} % of its output, and gets about {rise:.0f} % warmer."
    )
    if current is not None and current > 10:
        verdict = "attention" if verdict == "fine" else verdict
        words += f" The currents differ by {current:.0f} %: {'more than the voltages explain; look at the motor and its joints' if current > 6 * nema + 5 else 'the voltages explain that'}."
    return Unbalance(nema, true, derating, rise, current, verdict, words)
