"""Sheets of drawings as DXF R2010, in millimetres, for any drawing program."""

import io
from collections.abc import Callable, Iterable, Sequence
from typing import TYPE_CHECKING, Any

from volmek.core.results.drawing import Shape
from volmek.core.results.sheets import MM, Mark, Sheet, Symbol

if TYPE_CHECKING:
    from ezdxf.document import Drawing as Document

ANCHORS = {"start": "LEFT", "middle": "CENTER", "end": "RIGHT"}
#: Text styles: of drawings, and of title block and tables.
DRAWING_TEXT, TITLE_TEXT = "DRAWING", "TITLE"
#: Layers with their DXF colour numbers, and what they hold.
LAYERS = {
    "FRAME": (8, "Frame and zones"), "TITLE": (7, "Title block and legend"), "TABLE": (7, "Contents and lists"), "SYMBOLS": (7, "Symbols"),
    "TAGS": (7, "Designations"), "TERMINALS": (8, "Terminal markings"), "TEXT": (7, "Ratings, settings, functions"),
    "WIRE_NUMBERS": (5, "Wire numbers"), "REFERENCES": (5, "References across sheets"), "LINKS": (8, "Mechanical links"),
    "WIRES": (7, "Conductors without a colour"), "PROTECTIVE": (3, "Protective conductors"),
}  # fmt: skip
#: DXF colour numbers of conductors.
CONDUCTORS = {
    "brown": 34, "black": 7, "grey": 8, "blue": 5, "dark blue": 174, "red": 1, "green": 3, "green-yellow": 3, "orange": 30, "yellow": 2, "white": 9,
}  # fmt: skip
#: Height of capitals over the size of a text, and millimetres between two sheets.
CAPITALS, APART = 0.72, 20.0
WEIGHTS = {"hair": 18, "normal": 35, "heavy": 70}


def sheets_dxf(sheets: Sequence[Sheet]) -> str:
    """A set of sheets as one DXF file: side by side in the model, and each on a layout of its own.

    Parameters
    ----------
    sheets : of the core; their y axis grows downwards, that of DXF upwards

    References
    ----------
    DXF R2010 as written by ezdxf.
    """
    from ezdxf import units
    from ezdxf.document import Drawing as Document
    from ezdxf.tools.standards import setup_linetypes

    document = Document.new("R2010")
    document.units = units.MM
    setup_linetypes(document)
    document.styles.add(DRAWING_TEXT, font="simplex.shx")
    document.styles.add(TITLE_TEXT, font="simplex.shx")
    for name, (colour, what) in LAYERS.items():
        document.layers.add(name, color=colour).description = what
    blocks = _Blocks(document)
    left = 0.0
    for sheet in sheets:
        _sheet(document, blocks, sheet, left)
        left += sheet.paper.width_mm + APART
    document.layouts.delete("Layout1")
    out = io.StringIO()
    document.write(out)
    return out.getvalue()


def _sheet(document: "Document", blocks: "_Blocks", sheet: Sheet, left: float) -> None:
    space, p = document.modelspace(), sheet.paper

    def xy(x: float, y: float) -> tuple[float, float]:
        return left + MM * x, MM * (p.height - y)

    for m in sheet.marks:
        _add(
            space,
            m.shape,
            xy,
            MM,
            _layer(document, m),
            TITLE_TEXT if m.layer in ("FRAME", "TITLE", "TABLE") else DRAWING_TEXT,
        )
    for s in sheet.symbols:
        insert = space.add_blockref(
            blocks.name(s), xy(s.x, s.y), {"layer": "SYMBOLS", "xscale": s.scale, "yscale": s.scale}
        )
        for tag, words in (("TAG", s.tag), ("PART", s.part)):
            insert.add_attrib(
                tag, words, xy(s.x, s.y), {"layer": "TAGS", "height": 1.0, "style": DRAWING_TEXT}
            ).is_invisible = True
    layout = document.layouts.new(f"{sheet.number} {sheet.title}"[:60])
    layout.page_setup(size=(p.width_mm, p.height_mm), margins=(0, 0, 0, 0), units="mm")
    middle = (p.width_mm / 2, p.height_mm / 2)
    layout.add_viewport(middle, (p.width_mm, p.height_mm), (left + middle[0], middle[1]), p.height_mm)


class _Blocks:
    """Each symbol once as a block; two that are called alike and drawn otherwise get a number."""

    def __init__(self, document: "Document") -> None:
        self.document = document
        self.made: dict[tuple[str, tuple[Shape, ...]], str] = {}

    def name(self, symbol: Symbol) -> str:
        """Name of the block of a symbol, made where there is none."""
        key = (symbol.name, symbol.shapes)
        if key not in self.made:
            same = sum(name == symbol.name for name, _ in self.made)
            name = f"{symbol.name}_{same + 1}" if same else symbol.name
            block = self.document.blocks.new(name)
            for shape in symbol.shapes:
                _add(block, shape, lambda x, y: (MM * x, -MM * y), MM, "0", DRAWING_TEXT)
            for tag, at in (("TAG", 0.0), ("PART", -1.5)):
                block.add_attdef(tag, (0, at), dxfattribs={"height": 1.0, "style": DRAWING_TEXT, "flags": 1})
            self.made[key] = name
        return self.made[key]


def _layer(document: "Document", m: Mark) -> str:
    """Layer of a mark; conductors have one for each colour."""
    if not m.conductor or m.shape.kind == "text":
        return m.layer
    name = f"WIRES_{m.conductor.upper().replace(' ', '_').replace('-', '_')}"
    if not document.layers.has_entry(name):
        document.layers.add(name, color=CONDUCTORS[m.conductor]).description = f"Conductors, {m.conductor}"
    return name


def _add(
    space: Any, s: Shape, xy: Callable[[float, float], tuple[float, float]], scale: float, layer: str, style: str
) -> None:
    """One shape in model space or in a block."""
    from ezdxf.enums import TextEntityAlignment

    look: dict[str, Any] = {"layer": layer, "lineweight": WEIGHTS[s.weight]}
    if s.dashed:
        look["linetype"] = "DASHED"
    if s.kind == "line":
        space.add_lwpolyline([xy(*p) for p in _pairs(s.points)], dxfattribs=look)
    elif s.kind == "circle":
        x, y, r = s.points
        space.add_circle(xy(x, y), scale * r, dxfattribs=look)
        if s.filled:
            hatch = space.add_hatch(color=256, dxfattribs={"layer": layer})
            hatch.paths.add_edge_path().add_arc(xy(x, y), scale * r, 0, 360)
    elif s.kind == "rect":
        x, y, w, h = s.points
        corners = [(x, y), (x + w, y), (x + w, y + h), (x, y + h)]
        space.add_lwpolyline([xy(*p) for p in corners], close=True, dxfattribs=look)
    elif s.kind == "arc":
        x, y, r, start, end = s.points
        space.add_arc(xy(x, y), scale * r, -end, -start, dxfattribs=look)
    else:
        at = TextEntityAlignment[ANCHORS[s.anchor]]
        words = space.add_text(s.text, height=scale * s.size * CAPITALS, dxfattribs={"layer": layer, "style": style})
        words.set_placement(xy(*s.points), align=at)


def _pairs(points: Sequence[float]) -> Iterable[tuple[float, float]]:
    return zip(points[::2], points[1::2], strict=True)
