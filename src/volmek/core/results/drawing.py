"""Drawings as geometry: a handful of shapes that screens, prints and files paint each in their own way."""

from dataclasses import dataclass, field, replace
from math import cos, radians, sin
from typing import Literal

Weight = Literal["hair", "normal", "heavy"]
Tone = Literal["ink", "quiet", "accent", "stop", "paper"]


@dataclass(frozen=True, slots=True)
class Shape:
    """One shape; y grows downwards.

    Attributes
    ----------
    kind : ``line`` (x1 y1 x2 y2 …), ``circle`` (x y r), ``rect`` (x y width height), ``arc`` (x y r start end, degrees
        clockwise from the right) or ``text`` (x y)
    points : its numbers
    text, size, anchor : of a text
    weight, dashed, filled, tone : how it is painted
    """

    kind: Literal["line", "circle", "rect", "arc", "text"]
    points: tuple[float, ...]
    text: str = ""
    size: float = 11
    anchor: Literal["start", "middle", "end"] = "middle"
    weight: Weight = "normal"
    dashed: bool = False
    filled: bool = False
    tone: Tone = "ink"


@dataclass(frozen=True, slots=True)
class Drawing:
    """Shapes on a sheet of a given size, with a sentence for those who cannot see it."""

    width: float
    height: float
    description: str
    shapes: list[Shape] = field(default_factory=list)


def line(*points: float, weight: Weight = "normal", dashed: bool = False, tone: Tone = "ink") -> Shape:
    """A polyline."""
    return Shape("line", points, weight=weight, dashed=dashed, tone=tone)


def rect(
    x: float,
    y: float,
    width: float,
    height: float,
    *,
    filled: bool = False,
    tone: Tone = "ink",
    weight: Weight = "normal",
) -> Shape:
    """A rectangle."""
    return Shape("rect", (x, y, width, height), filled=filled, tone=tone, weight=weight)


def circle(
    x: float, y: float, r: float, *, filled: bool = False, tone: Tone = "ink", weight: Weight = "normal"
) -> Shape:
    """A circle."""
    return Shape("circle", (x, y, r), filled=filled, tone=tone, weight=weight)


def arc(x: float, y: float, r: float, start: float, end: float) -> Shape:
    """A circular arc, degrees clockwise from the right."""
    return Shape("arc", (x, y, r, start, end))


def text(
    x: float,
    y: float,
    words: str,
    size: float = 11,
    anchor: Literal["start", "middle", "end"] = "middle",
    tone: Tone = "ink",
) -> Shape:
    """Words on a base line."""
    return Shape("text", (x, y), text=words, size=size, anchor=anchor, tone=tone)


def arc_ends(shape: Shape) -> tuple[float, float, float, float]:
    """Start and end point of an arc.

    Examples
    --------
    >>> tuple(round(v, 6) for v in arc_ends(arc(0, 0, 1, 0, 90)))
    (1.0, 0.0, 0.0, 1.0)
    """
    x, y, r, start, end = shape.points
    a, b = radians(start), radians(end)
    return x + r * cos(a), y + r * sin(a), x + r * cos(b), y + r * sin(b)


def moved(shape: Shape, dx: float, dy: float, scale: float = 1.0) -> Shape:
    """A shape enlarged about the origin and then moved.

    Examples
    --------
    >>> moved(rect(1, 2, 3, 4), 10, 20, 2).points
    (12, 24, 6, 8)
    """
    p = shape.points
    if shape.kind == "line":
        points = tuple(scale * v + (dy if k % 2 else dx) for k, v in enumerate(p))
    elif shape.kind == "rect":
        points = (scale * p[0] + dx, scale * p[1] + dy, scale * p[2], scale * p[3])
    elif shape.kind == "text":
        points = (scale * p[0] + dx, scale * p[1] + dy)
    else:  # circle and arc: a radius, and angles that stay
        points = (scale * p[0] + dx, scale * p[1] + dy, scale * p[2], *p[3:])
    return replace(shape, points=points, size=shape.size * scale)
