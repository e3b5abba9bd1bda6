"""Autotransformer with closed transition: the square of its tap of current and torque."""

from volmek.core.devices.part import ContactorPart, RelayPart
from volmek.core.document.errors import Problem
from volmek.core.document.model import StarterDocument
from volmek.core.methods.method import ONE_CHANGE, Layout, Method, three_phase_only
from volmek.core.physics.run_up import Stage

DEFAULT_TAP = 0.65
TAPS = (0.5, 0.65, 0.8)


def _tap(document: StarterDocument) -> float:
    return document.starter.autotransformer_tap or DEFAULT_TAP


def _refuses(document: StarterDocument) -> list[Problem]:
    problems = three_phase_only(document)
    tap = document.starter.autotransformer_tap
    if tap is not None and not any(abs(tap - t) < 1e-9 for t in TAPS):
        problems.append(
            Problem("starter.autotransformer_tap", f"{tap:g} is not a tap; an autotransformer has 0.5, 0.65 and 0.8")
        )
    return problems


def _layout(document: StarterDocument) -> Layout:
    k = _tap(document)
    run = ContactorPart("run_contactor", "K1", "Run contactor", start_share=0.0, stage_shares=(0.0, 1.0))
    supply = ContactorPart("transformer_contactor", "K2", "Transformer contactor", k * k, f"{k:g}²",
                           "the transformer draws the square of its tap from the line", branch=True, start_share=k * k,
                           stage_shares=(1.0, 0.0))  # fmt: skip
    star = ContactorPart("star_contactor", "K3", "Star-point contactor", k - k * k, f"({k:g} − {k:g}²)",
                         "the difference of motor and line current flows through the star point", branch=True, start_share=k - k * k,
                         stage_shares=(1 / k - 1, 0.0))  # fmt: skip
    # On the motor side: the motor draws k times its current, the line k² times.
    relay = RelayPart(
        start_share=k, stage_shares=(1 / k, 1.0), why="on the motor side the whole motor current flows through it"
    )
    return Layout(
        (run, supply, star),
        (relay,),
        interlock="K1 and K3",
        timed=ONE_CHANGE,
        stages=lambda plate: (
            Stage("on the transformer", k * k, k * k, 1 / k, cable_share=1 / k**2),
            Stage("direct on line"),
        ),
    )


def _share(document: StarterDocument, inrush_ratio: float) -> float:
    return _tap(document) ** 2


METHOD = Method(
    label="Autotransformer",
    cost="Square of the tap of current and torque, no break; transformer and three contactors.",
    leads=3,
    roles=("run_contactor", "transformer_contactor", "star_contactor"),
    refuses=_refuses,
    layout=_layout,
    line_current_share=_share,
    torque_share=_share,
)
