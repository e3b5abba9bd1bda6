"""Circuit diagrams as SVG, PDF and DXF: nothing is lost on the way, and other programs can read them."""

import io
import xml.etree.ElementTree as ET
from collections import Counter
from typing import Any

import pytest
from ezdxf.document import Drawing as Document
from pypdf import PdfReader

from circuits import VARIANTS, made
from core.test_sheets import sheets_of
from volmek.core.circuit.drawing.control import draw_control
from volmek.core.circuit.drawing.pen import Style
from volmek.core.circuit.drawing.power import draw_power
from volmek.core.results.drawing import arc, circle, line, rect, text
from volmek.core.results.sheets import MM, PAPERS, Mark, Sheet
from volmek.files.dxf import APART, CAPITALS, sheets_dxf
from volmek.files.printer import laid_out
from volmek.files.sheet import sheets_html
from volmek.files.svg import CONDUCTORS, sheet_svg

SVG = "{http://www.w3.org/2000/svg}"
SETS: tuple[tuple[str, Style, str], ...] = (
    ("star_delta", "columns", "a3"), ("single_phase_reversing", "columns", "a4"), ("from a transformer", "ladder", "tabloid"), ("autotransformer", "ladder", "letter"),
)  # fmt: skip


@pytest.mark.parametrize(("name", "style", "paper"), SETS)
def test_every_mark_leaves_as_svg_in_its_true_size(name: str, style: Style, paper: str) -> None:
    for sheet in sheets_of(VARIANTS[name], style, paper):
        kinds = Counter(m.shape.kind for m in sheet.drawn())
        root = ET.fromstring(sheet_svg(sheet))
        tags = Counter(e.tag.removeprefix(SVG) for e in root)
        twice = sum(m.conductor == "green-yellow" for m in sheet.drawn() if m.shape.kind == "line")
        assert (
            tags["polyline"] == kinds["line"] + twice
            and tags["text"] == kinds["text"]
            and tags["circle"] == kinds["circle"]
        )
        assert root.findtext(f"{SVG}title") == sheet.description
        assert (root.get("width"), root.get("height")) == (
            f"{PAPERS[paper].width_mm:g}mm",
            f"{PAPERS[paper].height_mm:g}mm",
        )
        drawn = {m.conductor for m in sheet.marks if m.conductor}
        assert {CONDUCTORS[c] for c in drawn} <= {e.get("stroke") for e in root}


@pytest.mark.parametrize(("name", "style", "paper"), SETS)
def test_dxf_holds_every_sheet_on_layers_with_symbols_as_blocks(name: str, style: Style, paper: str) -> None:
    sheets = sheets_of(VARIANTS[name], style, paper)
    document = Document.read(io.StringIO(sheets_dxf(sheets)))
    assert not document.audit().errors and document.dxfversion == "AC1024"
    space = document.modelspace()
    marks = [m for s in sheets for m in s.marks]
    kinds = Counter(m.shape.kind for m in marks)
    assert Counter(e.dxf.text for e in space.query("TEXT")) == Counter(
        m.shape.text for m in marks if m.shape.kind == "text"
    )
    assert (
        len(space.query("LWPOLYLINE")) == kinds["line"] + kinds["rect"]
        and len(space.query("CIRCLE")) == kinds["circle"]
    )
    inserts = space.query("INSERT")
    assert Counter(i.get_attrib_text("PART") for i in inserts) == Counter(x.part for s in sheets for x in s.symbols)
    for insert, symbol in zip(inserts, [x for s in sheets for x in s.symbols], strict=True):
        assert insert.get_attrib_text("TAG") == symbol.tag and insert.dxf.name.startswith(symbol.name)
        assert len([e for e in insert.block() if e.dxftype() not in ("ATTDEF", "HATCH")]) == len(symbol.shapes)
    colours = {m.conductor for m in marks if m.conductor}
    layers = {layer.dxf.name for layer in document.layers}
    assert {"FRAME", "TITLE", "SYMBOLS", "TAGS", "TERMINALS", "WIRE_NUMBERS", "REFERENCES", "TEXT", "TABLE"} <= layers
    assert {f"WIRES_{c.upper().replace('-', '_').replace(' ', '_')}" for c in colours} <= layers
    assert {e.dxf.style for e in space.query("TEXT")} == {"DRAWING", "TITLE"} <= {x.dxf.name for x in document.styles}
    assert document.layouts.names()[1:] == [f"{s.number} {s.title}" for s in sheets]


def test_dxf_stands_upright_in_millimetres_sheet_beside_sheet() -> None:
    paper = PAPERS["a4"]
    one, two = (Sheet(k, f"Sheet {k}", "", paper) for k in (1, 2))
    shapes = [
        line(0, 0, 100, 0),
        rect(10, 10, 20, 5),
        circle(50, 40, 8),
        arc(50, 40, 10, 0, 90),
        text(5, 75, "K1", 10, "end"),
    ]
    one.marks, two.marks = [Mark(s, "TAGS") for s in shapes], [Mark(line(0, paper.height, 8, paper.height), "LINKS")]
    document = Document.read(io.StringIO(sheets_dxf([one, two])))
    space = document.modelspace()
    top, box, second = space.query("LWPOLYLINE")
    assert [tuple(p[:2]) for p in top.get_points()] == [(0, 210), (100 * MM, 210)]
    assert box.closed and {p[1] for p in box.get_points()} == {210 - 10 * MM, 210 - 15 * MM}
    assert [tuple(p[:2]) for p in second.get_points()] == [(297 + APART, 0), (297 + APART + 2, 0)]
    round_ = space.query("CIRCLE").first
    assert (round_.dxf.center.x, round_.dxf.center.y, round_.dxf.radius) == (50 * MM, 210 - 40 * MM, 8 * MM)
    quarter = space.query("ARC").first
    # From right to below on the screen, whose y grows downwards, is from below to right in a drawing.
    assert (quarter.dxf.start_angle % 360, quarter.dxf.end_angle % 360) == (270, 0)
    word = space.query("TEXT").first
    assert word.dxf.text == "K1" and word.dxf.layer == "TAGS" and word.dxf.height == 10 * MM * CAPITALS


def test_pdf_is_tagged_and_each_sheet_has_its_bookmark() -> None:
    sheets = sheets_of(VARIANTS["reversing"], "ladder", "letter")
    reader = PdfReader(io.BytesIO(laid_out(sheets_html(sheets, "KG-101", paged=True))))
    assert [o["/Title"] for o in reader.outline] == [f"{s.number} {s.title}" for s in sheets]
    root: Any = reader.trailer["/Root"]
    assert root["/MarkInfo"]["/Marked"] and root["/Lang"] == "en"
    told: list[str] = []

    def look(node: Any) -> None:
        node = node.get_object()
        for child in node if isinstance(node, list) else [node.get("/K")] if hasattr(node, "get") else []:
            if child is not None:
                look(child)
        if hasattr(node, "get") and node.get("/S") == "/Figure":
            told.append(node["/Alt"])

    look(root["/StructTreeRoot"])
    assert told == [s.description for s in sheets]
    for sheet, page in zip(sheets, reader.pages, strict=True):
        size = [round(float(v) * 25.4 / 72, 1) for v in (page.mediabox.width, page.mediabox.height)]
        words = page.extract_text().replace(" ", "")
        assert size == [279.4, 215.9] and f"{sheet.number}of{len(sheets)}" in words


def test_wire_colours_follow_the_school_and_the_kind_of_current() -> None:
    circuit = VARIANTS["star_delta"]

    def colours(school: str, **control: Any) -> set[str]:
        c = made("star_delta", **{"voltage_v": 24, "source": "transformer", "earthed": True, **control})
        return {m.conductor for m in draw_control(c, "columns", school).marks if m.conductor}

    dc = {"kind": "dc", "source": "power_unit"}
    assert (
        colours("iec") == {"red"}
        and colours("iec", **dc) == {"dark blue"}
        and colours("north_american", **dc) == {"blue"}
    )
    outside = made("star_delta", voltage_v=24, kind="dc", source="separate")
    assert {m.conductor for m in draw_control(outside, "columns").marks if m.conductor} == {"orange"}
    lines = {m.conductor for m in draw_power(circuit, "columns", school="red_yellow_blue").marks if m.conductor}
    assert lines == {"red", "yellow", "blue", "green"}, (
        "three lines, the protective conductor, and red what the monitor measures on"
    )
    assert {m.conductor for m in draw_power(circuit, "columns").marks if m.conductor} == {
        "brown",
        "black",
        "grey",
        "green-yellow",
        "red",
    }
