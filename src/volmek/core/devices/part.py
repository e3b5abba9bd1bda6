"""The parts that a starting method is made of: which contactor carries which share of the motor current, and why."""

from dataclasses import dataclass

from volmek.core.installation.designations import OVERLOAD


@dataclass(frozen=True, slots=True)
class ContactorPart:
    """One contactor of a method.

    Attributes
    ----------
    role, designation, label : its name in files, on the drawing, in words
    factor : share of the motor's line current that it carries
    formula : that factor as a fitter writes it
    why : one sentence
    branch : it hangs off the line to the motor instead of lying in it (star point, delta, reverse direction)
    start_share : share of the starting current of direct on line that it carries while the motor runs up
    stage_shares : share of the line current that it carries in each stage of a computed run-up
    current_field : field of the document that tells its whole current, where that is not the motor's line current
    category : utilisation category where the duty alone does not tell
    heavy_factor : share it is sized for where the run-up is too long for its short-time duty, or starts are frequent
    """

    role: str
    designation: str
    label: str
    factor: float = 1.0
    formula: str = "1"
    why: str = "it carries the whole line current"
    branch: bool = False
    start_share: float = 1.0
    stage_shares: tuple[float, ...] = (1.0,)
    heavy_factor: float | None = None
    current_field: str = ""
    category: str = ""


@dataclass(frozen=True, slots=True)
class RelayPart:
    """One overload relay of a method.

    Attributes
    ----------
    role, designation : its name in files and on the drawing
    factor : share of the motor's line current that flows through it at full load
    formula, why : that factor as a fitter writes it, and one sentence
    start_share : share of what would flow through it direct on line that flows during the start; None as in the line
    stage_shares, current_field : as for a contactor
    weakness : code of the finding that this place of the relay brings, empty when it has none
    without : what a motor breaker in front does not see where this relay is left out
    """

    role: str = "overload_relay"
    designation: str = OVERLOAD
    factor: float = 1.0
    formula: str = "1"
    why: str = "the whole line current flows through it"
    start_share: float | None = None
    stage_shares: tuple[float, ...] = (1.0,)
    weakness: str = ""
    current_field: str = ""
    without: str = ""


LINE = ContactorPart("line_contactor", "K1", "Line contactor")
IN_THE_LINE = RelayPart()
REVERSE = ContactorPart(
    "reverse_contactor",
    "K2",
    "Reverse contactor",
    why="it carries the line current in the other direction",
    branch=True,
)
