"""The one signature of a starting method."""

from collections.abc import Callable
from dataclasses import dataclass

from volmek.core.context import Context
from volmek.core.devices.device import Device
from volmek.core.document import StarterDocument
from volmek.core.errors import Problem
from volmek.core.plate import Plate


@dataclass(frozen=True, slots=True)
class Method:
    """One starting method.

    Attributes
    ----------
    label : in a fitter's words
    refuses : what makes the method impossible for this motor, as problems
    line_current_share, torque_share : at standstill, of direct on line
    devices : sizes every device of the starter, from the supply down
    """

    label: str
    refuses: Callable[[StarterDocument], list[Problem]]
    line_current_share: float
    torque_share: float
    devices: Callable[[Context, Plate], list[Device]]
