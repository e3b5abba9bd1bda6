"""Resistors in the stator: the current falls with the voltage, the torque with its square."""

from math import sqrt

from volmek.core.devices.part import IN_THE_LINE, LINE, ContactorPart
from volmek.core.document.model import StarterDocument
from volmek.core.methods.method import ONE_CHANGE, Layout, Method, three_phase_only
from volmek.core.physics.motor_model import START_POWER_FACTOR
from volmek.core.physics.run_up import Stage
from volmek.core.plate.plate import Plate

DEFAULT_RATIO = 0.7
BYPASS = ContactorPart(
    "bypass_contactor",
    "K2",
    "Bypass contactor",
    why="it bridges the resistors and then carries the line current",
    branch=True,
    start_share=0.0,
    stage_shares=(0.0, 1.0),
)


def _ratio(document: StarterDocument, inrush_ratio: float) -> float:
    return document.starter.stator_voltage_ratio or DEFAULT_RATIO


def _series_ohm(plate: Plate, ratio: float) -> float:
    """Resistor in each line that leaves the motor a share of the voltage at standstill, at a power factor of 0.35."""
    z = plate.motor_voltage_v / (sqrt(3) * plate.locked_rotor.number)
    r, x = z * START_POWER_FACTOR, z * sqrt(1 - START_POWER_FACTOR**2)
    return sqrt((z / ratio) ** 2 - x * x) - r


def _layout(document: StarterDocument) -> Layout:
    ratio = _ratio(document, 1.0)
    return Layout(
        (LINE, BYPASS),
        (IN_THE_LINE,),
        timed=ONE_CHANGE,
        stages=lambda plate: (
            Stage("over the resistors", series_ohm=_series_ohm(plate, ratio)),
            Stage("direct on line"),
        ),
    )


METHOD = Method(
    label="Resistors in the stator",
    cost="Current falls with the voltage, torque with its square; the resistors get hot.",
    leads=3,
    roles=("line_contactor", "bypass_contactor"),
    refuses=three_phase_only,
    layout=_layout,
    line_current_share=_ratio,
    torque_share=lambda document, inrush_ratio: _ratio(document, inrush_ratio) ** 2,
)
