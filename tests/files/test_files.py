"""Sheets and drawings as files."""

import io
from datetime import UTC, datetime
from xml.etree import ElementTree

from pypdf import PdfReader

from samples import iec, nec, run
from volmek.core.catalogue.catalogue import reference_catalogue
from volmek.core.devices.circuit_parts import CONTROL_ONLY
from volmek.core.devices.said import needs_of
from volmek.core.document.model import parse
from volmek.core.symbols import symbols
from volmek.files.catalogue_files import read_catalogue, write_csv
from volmek.files.sheet import Place, sheet_html, sheet_pdf
from volmek.files.svg import to_svg

PLACE = Place("Thornebeck Maltings", "KG-2", 4, datetime(2026, 3, 2, 9, 30, tzinfo=UTC))


def test_the_pdf_says_what_is_set_and_where_to_sign() -> None:
    own = [{"role": "line_contactor", "device_type": "RC-28", "reason": "spare <in> the store"}]
    for data in (iec(service="Fan & <filter>", overrides=own), nec(tag="Ω-1 ≤ 5")):
        html = sheet_html(parse(data), run(data), PLACE, paged=True)
        reader = PdfReader(io.BytesIO(sheet_pdf(html)))
        text = "\n".join(page.extract_text() for page in reader.pages).replace("\u202f", " ")
        for words in (
            data["tag"],
            "KG-2",
            "Revision 4",
            "2026-03-02 09:30 UTC",
            "Signed for",
            "Devices and settings",
            "prove dead",
        ):
            assert words in text, words
        fonts = {
            str(f.get_object()["/BaseFont"]) for page in reader.pages for f in page["/Resources"]["/Font"].values()
        }
        assert any("Sheet-Text" in f for f in fonts), fonts
        assert "http" not in html.replace("http://www.w3.org/2000/svg", ""), "nothing is fetched"
    odd = iec(service="Fan & <filter>")
    assert "Fan &amp; &lt;filter&gt;" in sheet_html(parse(odd), run(odd), PLACE)


def test_every_drawing_is_well_formed_and_stays_on_its_sheet() -> None:
    bands = [run(x).overload_band for x in (iec(), nec(), iec(protection={"device": "fuse_gg"}))]
    for drawing in (*bands, *symbols().values()):
        assert ElementTree.fromstring(to_svg(drawing)).tag.endswith("svg")
        assert drawing.description
        for shape in drawing.shapes:
            xs = shape.points[0::2] if shape.kind in ("line", "text") else shape.points[:1]
            assert all(0 <= x <= drawing.width for x in xs), (drawing.description, shape)


def test_the_single_line_runs_unbroken_from_supply_to_motor() -> None:
    for design in (run(iec()), run(nec()), run(iec(protection={"device": "fuse_am"}))):
        keys = [i.key for i in design.line_up]
        assert (keys[0], keys[-1]) == ("supply", "motor")
        assert keys[1:-1] == [d.designation for d in design.devices if d.role not in CONTROL_ONLY]
        for upper, lower in zip(design.line_up, design.line_up[1:], strict=False):
            ends = [s.points for s in symbols()[upper.symbol].shapes if s.kind == "line" and len(s.points) == 4]
            starts = [s.points for s in symbols()[lower.symbol].shapes if s.kind == "line" and len(s.points) == 4]
            assert any(p[2] == 34 and p[3] >= symbols()[upper.symbol].height for p in ends), upper.key
            assert any(p[:2] == (34, 0) for p in starts), lower.key


def test_needs_are_said_in_one_line() -> None:
    assert needs_of(run(iec()).devices[0]) == "14.4 A, holds 156 A peak, breaks 10 kA"


def test_no_cell_of_an_export_is_run_by_a_spreadsheet() -> None:
    """A type that begins like a formula leaves as text and comes back as it was; numbers stay numbers."""
    relay = next(iter(reference_catalogue().tables["overload_relays"]))
    odd = relay.model_copy(update={"type": "-K1=cmd"})
    text = write_csv("overload_relays", [odd])
    assert "'-K1=cmd" in text and "\n-K1" not in text
    assert read_catalogue(text.encode(), "x.csv", "overload_relays").devices["overload_relays"][0].type == "-K1=cmd"
