"""The pen that circuits are drawn with: marks that can be found, named and lit."""

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Literal

from volmek.core.circuit.model.colours import Colours
from volmek.core.circuit.model.netlist import Circuit
from volmek.core.results.drawing import Shape, line, text

Style = Literal["columns", "ladder"]


@dataclass(frozen=True, slots=True)
class Ink:
    """A shape and what it belongs to.

    Attributes
    ----------
    shape : what is painted
    part : ``wire:6``, ``contact:K1:13-14``, ``load:K1``, ``label:K1``; empty for what only explains
    when : ``open``, ``closed`` for the two forms of a contact, empty for what is always there
    conductor : colour of a wire in the school chosen
    at : terminal that a piece of wire hangs on, so that the parts of a broken wire are told apart
    """

    shape: Shape
    part: str = ""
    when: Literal["", "open", "closed"] = ""
    conductor: str = ""
    at: str = ""


@dataclass(frozen=True, slots=True)
class Place:
    """Place of a symbol: path number and its middle."""

    part: str
    path: int
    x: float
    y: float


@dataclass(frozen=True, slots=True)
class CircuitDrawing:
    """A drawing whose parts can be found, named and lit."""

    style: Style
    width: float
    height: float
    description: str
    marks: list[Ink]
    places: list[Place]
    names: dict[str, str]


@dataclass(frozen=True, slots=True)
class Group:
    """Marks that are one symbol.

    Attributes
    ----------
    name : of the symbol
    part : contact, pole or load that it shows
    tag : designation of the device
    x, y : point that it hangs on
    first, last : which marks, the last one not included
    """

    name: str
    part: str
    tag: str
    x: float
    y: float
    first: int
    last: int


@dataclass(frozen=True, slots=True)
class Spot:
    """Position of a contact, coil, lamp or the poles of a device, and of the room for words about them.

    Attributes
    ----------
    part : ``contact:K1:13-14``, ``load:K1``, ``device:K1`` for its poles, ``feed:0`` for a conductor that comes in
    tag : designation of the device
    x, y : middle of the symbol
    beside : first base line for words beside it
    anchor, pitch : of these words; they go up where the pitch is negative
    foot : first base line of the list under or behind a coil
    worded : words about the device stand here, and not at another of its spots
    """

    part: str
    tag: str
    x: float
    y: float
    beside: tuple[float, float]
    anchor: Literal["start", "middle", "end"]
    pitch: float = 10.0
    foot: tuple[float, float] = (0.0, 0.0)
    worded: bool = True


@dataclass(frozen=True, slots=True)
class Cut:
    """A wire that continues on another sheet.

    Attributes
    ----------
    wire : bar of the grid, the same on both sheets
    ahead : it goes on on the next sheet, else it comes from the one before
    x, y : where the sheet ends it
    at : base line and anchor of the reference
    """

    wire: str
    ahead: bool
    x: float
    y: float
    at: tuple[float, float]
    anchor: Literal["start", "middle", "end"]


class Pen:
    """Draws on one sheet of a circuit.

    Parameters
    ----------
    circuit : that is drawn
    style : symbol family
    colours : of its conductors
    """

    def __init__(self, circuit: Circuit, style: Style, colours: Colours) -> None:
        self.c, self.style, self.colours = circuit, style, colours
        self.marks: list[Ink] = []
        self.places: list[Place] = []
        self.groups: list[Group] = []
        self.spots: list[Spot] = []
        self.cuts: list[Cut] = []

    def symbol(self, name: str, part: str, tag: str, at: tuple[float, float], marks: Iterable[Ink]) -> None:
        """A symbol placed by its upper or left terminal.

        Parameters
        ----------
        name : of the symbol, without its family
        part : contact, pole or load that it shows
        tag : designation of the device
        at : the point
        """
        first = len(self.marks)
        self.marks += marks
        family = "IEC" if self.columns else "NA"
        self.groups.append(Group(f"{family}_{name}".upper(), part, tag, *at, first, len(self.marks)))

    @property
    def columns(self) -> bool:
        return self.style == "columns"

    def wire(self, points: tuple[float, ...], terminal: str) -> None:
        """A piece of conductor."""
        self.marks.append(
            Ink(
                line(*points),
                f"wire:{self.c.number_of.get(terminal, '')}",
                conductor=self.colours.at(terminal),
                at=terminal,
            )
        )

    def note(
        self,
        x: float,
        y: float,
        words: str,
        size: float = 9,
        anchor: Literal["start", "middle", "end"] = "middle",
        part: str = "",
    ) -> None:
        """Words that only explain."""
        self.marks.append(Ink(text(x, y, words, size, anchor), part))
