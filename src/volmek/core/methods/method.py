"""The one signature of a starting method, and the parts that a method is made of."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

from volmek.core.context import Context
from volmek.core.devices.device import Device
from volmek.core.devices.part import ContactorPart, RelayPart
from volmek.core.document.errors import Problem
from volmek.core.document.model import StarterDocument
from volmek.core.physics.run_up import Drive, Stage
from volmek.core.plate.plate import Plate
from volmek.core.results.figures import Figure
from volmek.core.start.start import Start


@dataclass(frozen=True, slots=True)
class Extra:
    """A device that only this method has.

    Attributes
    ----------
    place : ``line`` behind the contactors of the line, ``branch`` beside it
    select : picks it, given the short-circuit device and the start
    """

    place: Literal["line", "branch"]
    select: Callable[[Context, Plate, Device, Start], Device]


#: Of a method with one change from its first stage.
ONE_CHANGE = ("starter.first_stage_time_s",)


def no_figures(c: Context, plate: Plate, protection: str) -> tuple[Figure, ...]:
    """A method without values of its own."""
    return ()


def direct_stage(plate: Plate) -> tuple[Stage, ...]:
    """The whole voltage from the first moment."""
    return (Stage("direct on line"),)


@dataclass(frozen=True, slots=True)
class OtherStart:
    """A second way in which the same starter starts: the low speed of two.

    Attributes
    ----------
    field : of the document that tells its rated current; parts with this field stand this start
    drive : its motor and load, given those of the main start; words for what is missing
    """

    field: str
    drive: Callable[[Context, Plate, Drive], Drive | str]


@dataclass(frozen=True, slots=True)
class Layout:
    """Parts that a method puts into the panel for one document.

    Attributes
    ----------
    contactors, relays : in the order of the single-line, from the supply down
    extras : timer, soft starter and the like
    figures : values that only this method has (resistors, capacitors); ids of the figures it made
    interlock : contactors that short the supply when closed together, in words
    lead_share : share of the line current in each motor lead
    stages : how the motor hangs on the supply from standstill to running
    timed : fields of the document that set how long each stage but the last lasts
    dwell_s : pause between the stages, 0 for closed transitions
    other : a second start of its own, of a motor with two speeds
    """

    contactors: tuple[ContactorPart, ...]
    relays: tuple[RelayPart, ...]
    extras: tuple[Extra, ...] = ()
    figures: Callable[[Context, Plate, str], tuple[Figure, ...]] = no_figures
    interlock: str = ""
    lead_share: float = 1.0
    stages: Callable[[Plate], tuple[Stage, ...]] = direct_stage
    timed: tuple[str, ...] = ()
    dwell_s: float = 0.0
    other: OtherStart | None = None


@dataclass(frozen=True, slots=True)
class Method:
    """One starting method.

    Attributes
    ----------
    label : in a fitter's words
    cost : what it costs and cannot do, one sentence
    leads : motor leads it needs
    roles : of its contactors and extras
    refuses : what makes it impossible for this motor, as problems
    layout : its parts for a document
    line_current_share, torque_share : at standstill, of direct on line, for a document and an inrush ratio
    care : why it fits only with care whatever the figures, empty when it does not
    """

    label: str
    cost: str
    leads: int
    roles: tuple[str, ...]
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
