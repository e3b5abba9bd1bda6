"""Resistors in the stator: the current falls with the voltage, the torque with its square."""

from volmek.core.devices.part import IN_THE_LINE, LINE, ContactorPart
from volmek.core.document import StarterDocument
from volmek.core.starters.method import Layout, Method, three_phase_only

DEFAULT_RATIO = 0.7
BYPASS = ContactorPart(
    "bypass_contactor",
    "K2",
    "Bypass contactor",
    why="it bridges the resistors and then carries the line current",
    branch=True,
    start_share=0.0,
)


def _ratio(document: StarterDocument, inrush_ratio: float) -> float:
    return document.starter.stator_voltage_ratio or DEFAULT_RATIO


METHOD = Method(
    label="Resistors in the stator",
    cost="Current falls with the voltage, torque with its square; the resistors get hot.",
    leads=3,
    roles=("line_contactor", "bypass_contactor"),
    refuses=three_phase_only,
    layout=lambda document: Layout((LINE, BYPASS), (IN_THE_LINE,), pull_in=("K1", "K1 K2")),
    line_current_share=_ratio,
    torque_share=lambda document, inrush_ratio: _ratio(document, inrush_ratio) ** 2,
)
