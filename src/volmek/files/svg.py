"""A drawing of the core as SVG text, for prints and files."""

from html import escape

from volmek.core.results.drawing import Drawing, Shape, arc_ends

WIDTHS = {"hair": 0.9, "normal": 1.5, "heavy": 2.6}
INKS = {"ink": "#1b1d1a", "quiet": "#8a8d84", "accent": "#1b1d1a", "stop": "#1b1d1a", "paper": "#ffffff"}


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


def _shape(s: Shape) -> str:
    ink = INKS[s.tone]
    if s.kind == "text":
        x, y = s.points
        return (
            f'<text x="{x:g}" y="{y:g}" font-size="{s.size:g}" text-anchor="{s.anchor}" '
            f'fill="{INKS["ink"] if s.tone == "paper" else ink}">{escape(s.text)}</text>'
        )
    fill = ("#d9d9d4" if s.tone == "quiet" else ink) if s.filled else "none"
    stroke = "none" if s.filled and s.tone in ("paper", "quiet") else ink
    style = f'fill="{fill}" stroke="{stroke}" stroke-width="{WIDTHS[s.weight]}"' + (
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
