"""Drawings of circuits as SVG and DXF: nothing is lost on the way, and other programs can read them."""

import io
import xml.etree.ElementTree as ET
from collections import Counter
from typing import Any

import pytest
from ezdxf.document import Drawing as Document

from circuits import VARIANTS, made
from volmek.core.circuit.drawing.control import draw_control
from volmek.core.circuit.drawing.pen import Style
from volmek.core.circuit.drawing.power import draw_power
from volmek.core.results.drawing import Drawing, arc, circle, line, rect, text
from volmek.core.views.circuit import at_rest, rest_closed
from volmek.files.dxf import MM, to_dxf
from volmek.files.svg import to_svg

SVG = "{http://www.w3.org/2000/svg}"
STYLES: tuple[Style, ...] = ("columns", "ladder")


def paper(name: str, style: Style, *, power: bool = False) -> Drawing:
    circuit = VARIANTS[name]
    drawn = draw_power(circuit, style) if power else draw_control(circuit, style)
    return at_rest(drawn, rest_closed(circuit))


@pytest.mark.parametrize("style", STYLES)
@pytest.mark.parametrize("power", [False, True])
@pytest.mark.parametrize(
    "name", ["direct_on_line", "star_delta", "autotransformer", "single_phase_reversing", "from a transformer"]
)
def test_every_shape_leaves_in_both_formats(name: str, style: Style, power: bool) -> None:
    drawing = paper(name, style, power=power)
    kinds = Counter(s.kind for s in drawing.shapes)
    root = ET.fromstring(to_svg(drawing))
    tags = Counter(e.tag.removeprefix(SVG) for e in root)
    assert tags["polyline"] == kinds["line"] and tags["text"] == kinds["text"] and tags["circle"] == kinds["circle"]
    assert root.findtext(f"{SVG}title") == drawing.description
    document = Document.read(io.StringIO(to_dxf(drawing)))
    assert not document.audit().errors and document.dxfversion == "AC1024"
    space = document.modelspace()
    assert (
        len(space.query("TEXT")) == kinds["text"]
        and len(space.query("CIRCLE")) == kinds["circle"]
        and len(space.query("ARC")) == kinds["arc"]
    )
    assert len(space.query("LWPOLYLINE")) == kinds["line"] + kinds["rect"]
    assert Counter(e.dxf.text for e in space.query("TEXT")) == Counter(
        s.text for s in drawing.shapes if s.kind == "text"
    )


def test_dxf_stands_upright_in_millimetres() -> None:
    drawing = Drawing(
        100,
        80,
        "one of each",
        [
            line(0, 0, 100, 0),
            rect(10, 10, 20, 5),
            circle(50, 40, 8),
            arc(50, 40, 10, 0, 90),
            text(5, 75, "K1", 10, "end"),
        ],
    )
    space = Document.read(io.StringIO(to_dxf(drawing))).modelspace()
    top, box = space.query("LWPOLYLINE")
    assert [tuple(p[:2]) for p in top.get_points()] == [(0, 80 * MM), (100 * MM, 80 * MM)]
    assert box.closed and {p[1] for p in box.get_points()} == {70 * MM, 65 * MM}
    round_ = space.query("CIRCLE").first
    assert (round_.dxf.center.x, round_.dxf.center.y, round_.dxf.radius) == (50 * MM, 40 * MM, 8 * MM)
    quarter = space.query("ARC").first
    # From right to below on the screen, whose y grows downwards, is from below to right in a drawing.
    assert (quarter.dxf.start_angle % 360, quarter.dxf.end_angle % 360) == (270, 0)
    word = space.query("TEXT").first
    assert word.dxf.text == "K1" and word.dxf.align_point.y == 5 * MM and word.dxf.layer == "WORDS"


def test_paper_shows_contacts_as_they_stand_without_a_voltage() -> None:
    circuit = VARIANTS["direct_on_line"]
    drawn = draw_control(circuit, "columns")
    closed = rest_closed(circuit)
    assert {"F1:95-96", "S1:1-2", "K1:21-22"} <= set(closed) and "K1:13-14" not in closed and "S2:3-4" not in closed
    both = [m for m in drawn.marks if m.when]
    assert {m.when for m in both if m.part == "contact:S1:1-2"} == {"open", "closed"}
    shown = at_rest(drawn, closed)
    assert len(shown.shapes) == len(drawn.marks) - len(both) // 2


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
