"""Drawings as DXF R2010, in millimetres, for any drawing program."""

import io

from volmek.core.results.drawing import Drawing, Shape

#: Millimetres to a unit of the core's drawings.
MM = 0.25
ANCHORS = {"start": "LEFT", "middle": "CENTER", "end": "RIGHT"}


def to_dxf(drawing: Drawing) -> str:
    """The drawing as DXF text: lines and symbols on one layer, words on another.

    Parameters
    ----------
    drawing : of the core; its y axis grows downwards, that of DXF upwards

    References
    ----------
    DXF R2010 as written by ezdxf.
    """
    from ezdxf import units
    from ezdxf.document import Drawing as Document
    from ezdxf.enums import TextEntityAlignment
    from ezdxf.tools.standards import setup_linetypes

    document = Document.new("R2010")
    document.units = units.MM
    setup_linetypes(document)
    document.layers.add("LINES", color=7)
    document.layers.add("WORDS", color=7)
    space = document.modelspace()

    def xy(x: float, y: float) -> tuple[float, float]:
        return MM * x, MM * (drawing.height - y)

    for s in drawing.shapes:
        look = {"layer": "WORDS" if s.kind == "text" else "LINES"}
        if s.dashed:
            look["linetype"] = "DASHED"
        if s.kind == "line":
            space.add_lwpolyline([xy(*p) for p in _pairs(s)], dxfattribs=look)
        elif s.kind == "circle":
            x, y, r = s.points
            space.add_circle(xy(x, y), MM * r, dxfattribs=look)
        elif s.kind == "rect":
            x, y, w, h = s.points
            corners = [(x, y), (x + w, y), (x + w, y + h), (x, y + h)]
            space.add_lwpolyline([xy(*p) for p in corners], close=True, dxfattribs=look)
        elif s.kind == "arc":
            x, y, r, start, end = s.points
            space.add_arc(xy(x, y), MM * r, -end, -start, dxfattribs=look)
        else:
            at = TextEntityAlignment[ANCHORS[s.anchor]]
            space.add_text(s.text, height=MM * s.size * 0.72, dxfattribs=look).set_placement(xy(*s.points), align=at)
    out = io.StringIO()
    document.write(out)
    return out.getvalue()


def _pairs(s: Shape) -> list[tuple[float, float]]:
    return list(zip(s.points[::2], s.points[1::2], strict=True))
