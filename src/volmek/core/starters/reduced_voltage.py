"""Autotransformer, stator resistors, soft starter and part winding: less voltage, or half a winding, at the start."""

from volmek.core.devices.part import IN_THE_LINE, LINE, ContactorPart, RelayPart
from volmek.core.devices.soft_starter import DEFAULT_CURRENT_LIMIT
from volmek.core.document import StarterDocument
from volmek.core.errors import Problem
from volmek.core.starters.method import Layout, Method, always, three_phase_only

DEFAULT_TAP, DEFAULT_STATOR_RATIO = 0.65, 0.7
TAPS = (0.5, 0.65, 0.8)
PART_CURRENT, PART_TORQUE = 0.65, 0.45


def _tap(document: StarterDocument) -> float:
    return document.starter.autotransformer_tap or DEFAULT_TAP


def _tap_refuses(document: StarterDocument) -> list[Problem]:
    problems = three_phase_only(document)
    tap = document.starter.autotransformer_tap
    if tap is not None and not any(abs(tap - t) < 1e-9 for t in TAPS):
        problems.append(
            Problem("starter.autotransformer_tap", f"{tap:g} is not a tap; an autotransformer has 0.5, 0.65 and 0.8")
        )
    return problems


def _autotransformer(document: StarterDocument) -> Layout:
    k = _tap(document)
    run = ContactorPart("run_contactor", "K1", "Run contactor", start_share=0.0)
    supply = ContactorPart("transformer_contactor", "K2", "Transformer contactor", k * k, f"{k:g}²",
                           "the transformer draws the square of its tap from the line", branch=True, start_share=k * k)  # fmt: skip
    star = ContactorPart("star_contactor", "K3", "Star-point contactor", k - k * k, f"({k:g} − {k:g}²)",
                         "the difference of motor and line current flows through the star point", branch=True, start_share=k - k * k)  # fmt: skip
    # On the motor side: the motor draws k times its current, the line k² times.
    relay = RelayPart(start_share=k, why="on the motor side the whole motor current flows through it")
    return Layout((run, supply, star), (relay,), interlock="K1 and K3", pull_in=("K3", "K3 K2", "K2", "K2 K1"))


def _resistors(document: StarterDocument) -> Layout:
    bypass = ContactorPart(
        "bypass_contactor",
        "K2",
        "Bypass contactor",
        why="it bridges the resistors and then carries the line current",
        branch=True,
        start_share=0.0,
    )
    return Layout((LINE, bypass), (IN_THE_LINE,), pull_in=("K1", "K1 K2"))


def _soft(document: StarterDocument) -> Layout:
    bypass = ContactorPart(
        "bypass_contactor",
        "K2",
        "Bypass contactor",
        why="after the ramp it carries the line current",
        branch=True,
        start_share=0.0,
    )
    return Layout((LINE, bypass), (IN_THE_LINE,), pull_in=("K1", "K1 K2"), soft_starter=True)


def _limit_share(document: StarterDocument, inrush_ratio: float) -> float:
    return min((document.starter.current_limit_ratio or DEFAULT_CURRENT_LIMIT) / inrush_ratio, 1.0)


def _half(role: str, designation: str, label: str, *, branch: bool) -> ContactorPart:
    return ContactorPart(
        role,
        designation,
        label,
        0.5,
        "0.5",
        "each half of the winding carries half the current",
        branch,
        0.0 if branch else 1.0,
    )


def _parts(document: StarterDocument) -> Layout:
    halves = (
        _half("winding_contactor_1", "K1", "First winding contactor", branch=False),
        _half("winding_contactor_2", "K2", "Second winding contactor", branch=True),
    )
    relays = tuple(
        RelayPart(
            designation=d,
            factor=0.5,
            formula="0.5",
            why="one relay for each half of the winding",
            start_share=PART_CURRENT / 0.5,
        )
        for d in ("F1", "F4")
    )
    return Layout(halves, relays, lead_share=0.5, pull_in=("K1", "K1 K2"))


def _part_refuses(document: StarterDocument) -> list[Problem]:
    problems = three_phase_only(document)
    if document.motor.leads is not None and document.motor.leads not in (6, 9, 12):
        problems.append(
            Problem(
                "motor.leads",
                f"part winding needs both halves brought out; this motor has {document.motor.leads} leads",
            )
        )
    m, volts = document.motor, document.supply.line_voltage_v
    if m.rated_voltage_high_v and volts and abs(volts / m.rated_voltage_high_v - 1) <= 0.10 and m.leads != 12:
        problems.append(
            Problem(
                "supply.line_voltage_v",
                f"at {volts:g} V the two halves of this winding lie in series; part winding needs them in parallel, at the low voltage",
            )
        )
    return problems


def _ratio(document: StarterDocument, inrush_ratio: float) -> float:
    return document.starter.stator_voltage_ratio or DEFAULT_STATOR_RATIO


AUTOTRANSFORMER = Method(
    "Autotransformer", "Square of the tap of current and torque, no break; transformer and three contactors.", 3, _tap_refuses,
    _autotransformer, lambda d, ra: _tap(d) ** 2, lambda d, ra: _tap(d) ** 2,
)  # fmt: skip
STATOR_RESISTANCE = Method(
    "Resistors in the stator", "Current falls with the voltage, torque with its square; the resistors get hot.", 3, three_phase_only,
    _resistors, _ratio, lambda d, ra: _ratio(d, ra) ** 2,
)  # fmt: skip
SOFT_STARTER = Method(
    "Soft starter with bypass", "Current held at its limit, torque falls with its square; electronics.", 3, three_phase_only,
    _soft, _limit_share, lambda d, ra: _limit_share(d, ra) ** 2,
)  # fmt: skip
PART_WINDING = Method(
    "Part winding", "About two thirds of the current and less than half the torque; a motor made for it.", 6, _part_refuses,
    _parts, always(PART_CURRENT), always(PART_TORQUE), care="Only for a motor that its maker built for part-winding start.",
)  # fmt: skip
