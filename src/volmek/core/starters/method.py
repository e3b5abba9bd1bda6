"""The one signature of a starting method, and the parts that a method is made of."""

from collections.abc import Callable
from dataclasses import dataclass

from volmek.core.devices.part import ContactorPart, RelayPart
from volmek.core.document import StarterDocument
from volmek.core.errors import Problem


@dataclass(frozen=True, slots=True)
class Layout:
    """What a method puts into the panel for one document.

    Attributes
    ----------
    contactors, relays : in the order of the single-line, from the supply down
    timer : the method changes over by itself after a time
    interlock : contactors that short the supply when closed together, in words
    single_phase : capacitors and the loop through the relay belong to it
    rotor_resistors : resistors in the rotor circuit belong to it
    lead_share : share of the line current in each motor lead
    soft_starter : an electronic starter lies in the line behind the line contactor
    pull_in : contactors that are on after each step of a start, as ``K3 K1``; without it each pulls in alone
    """

    contactors: tuple[ContactorPart, ...]
    relays: tuple[RelayPart, ...]
    timer: bool = False
    interlock: str = ""
    lead_share: float = 1.0
    rotor_resistors: bool = False
    single_phase: bool = False
    pull_in: tuple[str, ...] = ()
    soft_starter: bool = False


@dataclass(frozen=True, slots=True)
class Method:
    """One starting method.

    Attributes
    ----------
    label : in a fitter's words
    cost : what it costs and cannot do, one sentence
    leads : motor leads it needs
    refuses : what makes it impossible for this motor, as problems
    layout : its parts for a document
    line_current_share, torque_share : at standstill, of direct on line, for a document and an inrush ratio
    care : why it fits only with care whatever the figures, empty when it does not
    """

    label: str
    cost: str
    leads: int
    refuses: Callable[[StarterDocument], list[Problem]]
    layout: Callable[[StarterDocument], Layout]
    line_current_share: Callable[[StarterDocument, float], float]
    torque_share: Callable[[StarterDocument, float], float]
    care: str = ""


def three_phase_only(document: StarterDocument) -> list[Problem]:
    """A single-phase motor has methods of its own."""
    if document.motor.phases == 1:
        return [Problem("motor.phases", "a single-phase motor needs a method for one phase")]
    return []


def always(share: float) -> Callable[[StarterDocument, float], float]:
    """A share that depends on nothing."""
    return lambda document, inrush_ratio: share
