"""The pen that circuits are drawn with: marks that can be found, named and lit."""

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
