"""A drawing of the core as SVG text, for prints and files."""

from dataclasses import replace
from html import escape

from volmek.core.results.drawing import Drawing, Shape, arc_ends
from volmek.core.results.sheets import Mark, Sheet

WIDTHS = {"hair": 0.9, "normal": 1.5, "heavy": 2.6}
INKS = {"ink": "#1b1d1a", "quiet": "#8a8d84", "accent": "#1b1d1a", "stop": "#1b1d1a", "paper": "#ffffff"}

#: Inks of conductors on paper; a light colour is drawn between dark edges.
CONDUCTORS = {
    "brown": "#7a4a1e", "black": "#1b1d1a", "grey": "#7d7d78", "blue": "#1f4f9c", "dark blue": "#17356b", "red": "#b3261e",
    "green": "#2c7a2e", "green-yellow": "#2c7a2e", "orange": "#c9650f", "yellow": "#e5c91a", "white": "#ffffff",
}  # fmt: skip
#: Colours that need edges, or a second colour in dashes on top.
EDGED, DASHED_WITH = ("white", "yellow"), {"green-yellow": "#e5c91a"}


def to_svg(drawing: Drawing, scale: float = 1.0) -> str:
    """The drawing as a stand-alone ``<svg>`` element, black on white.

    Examples
    --------
    >>> from volmek.core.results.drawing import line
    >>> to_svg(Drawing(10, 10, "a line", [line(0, 0, 10, 10)])).count("<polyline")
    1
    """
    head = (
        f'<svg xmlns="http://www.w3.org/2000/svg" role="img" width="{drawing.width * scale:g}" '
        f'height="{drawing.height * scale:g}" viewBox="0 0 {drawing.width:g} {drawing.height:g}">'
    )
    return head + f"<title>{escape(drawing.description)}</title>" + "".join(map(_shape, drawing.shapes)) + "</svg>"


def sheet_svg(sheet: Sheet, *, grey: bool = False) -> str:
    """A sheet of drawings as a stand-alone ``<svg>`` element of its true size.

    Parameters
    ----------
    sheet : of the core
    grey : conductors in the ink of everything else, for a paper that is copied in black and white; else in their colours

    Examples
    --------
    >>> from volmek.core.results.sheets import PAPERS
    >>> sheet_svg(Sheet(1, "Title sheet", "Title sheet", PAPERS["a4"]))[:83]
    '<svg xmlns="http://www.w3.org/2000/svg" role="img" width="297mm" height="210mm" vie'
    """
    p = sheet.paper
    head = (
        f'<svg xmlns="http://www.w3.org/2000/svg" role="img" width="{p.width_mm:g}mm" height="{p.height_mm:g}mm" '
        f'viewBox="0 0 {p.width:g} {p.height:g}" font-family="Sheet Text, Atkinson Hyperlegible Next, sans-serif">'
    )
    ground = f'<rect width="{p.width:g}" height="{p.height:g}" fill="#ffffff"/>'
    return (
        head
        + f"<title>{escape(sheet.description)}</title>{ground}"
        + "".join(_shape(m.shape) if grey else _mark(m) for m in sheet.drawn())
        + "</svg>"
    )


def _mark(m: Mark) -> str:
    if not m.conductor or m.shape.kind == "text":
        return _shape(m.shape)
    ink = CONDUCTORS[m.conductor]
    if m.conductor in EDGED:
        wide = WIDTHS[m.shape.weight]
        return _shape(m.shape, INKS["ink"], wide + 1.6) + _shape(m.shape, ink, wide)
    over = DASHED_WITH.get(m.conductor)
    return _shape(m.shape, ink) + (_shape(replace(m.shape, dashed=True), over) if over else "")


def _shape(s: Shape, conductor: str = "", width: float = 0.0) -> str:
    ink = conductor or INKS[s.tone]
    if s.kind == "text":
        x, y = s.points
        return (
            f'<text x="{x:g}" y="{y:g}" font-size="{s.size:g}" text-anchor="{s.anchor}" '
            f'fill="{INKS["ink"] if s.tone == "paper" else ink}">{escape(s.text)}</text>'
        )
    fill = ("#d9d9d4" if s.tone == "quiet" else ink) if s.filled else "none"
    stroke = "none" if s.filled and s.tone in ("paper", "quiet") else ink
    style = f'fill="{fill}" stroke="{stroke}" stroke-width="{width or WIDTHS[s.weight]:g}"' + (
        ' stroke-dasharray="4 3"' if s.dashed else ""
    )
    if s.kind == "line":
        pairs = " ".join(f"{x:g},{y:g}" for x, y in zip(s.points[::2], s.points[1::2], strict=True))
        return f'<polyline points="{pairs}" {style} stroke-linecap="round" stroke-linejoin="round"/>'
    if s.kind == "circle":
        x, y, r = s.points
        return f'<circle cx="{x:g}" cy="{y:g}" r="{r:g}" {style}/>'
    if s.kind == "rect":
        x, y, width, height = s.points
        return f'<rect x="{x:g}" y="{y:g}" width="{width:g}" height="{height:g}" {style}/>'
    x1, y1, x2, y2 = arc_ends(s)
    r, start, end = s.points[2:]
    large = int(end - start > 180)
    return f'<path d="M{x1:.2f} {y1:.2f}A{r:g} {r:g} 0 {large} 1 {x2:.2f} {y2:.2f}" {style}/>'
