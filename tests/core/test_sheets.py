"""Circuit diagrams on sheets of paper: whole, within the frame, and every reference leads to what it names."""

import re
from collections import Counter

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from circuits import VARIANTS, made
from core.test_circuit_soundness import documents
from volmek.core.catalogue.catalogue import reference_catalogue
from volmek.core.circuit.drawing.pen import Style
from volmek.core.circuit.drawing.references import Said
from volmek.core.circuit.drawing.sheets import circuit_sheets
from volmek.core.circuit.model.fitted import Fitted
from volmek.core.circuit.model.netlist import Circuit
from volmek.core.circuit.schemes import circuit_of
from volmek.core.circuit.simulated import simulated
from volmek.core.document.errors import ProblemError
from volmek.core.document.model import StarterDocument, parse
from volmek.core.examples import example_document
from volmek.core.results.sheets import PAPERS, Mark, Sheet, TitleBlock
from volmek.core.views.sheets import paper_of, starter_sheets, title_block

HEAD = TitleBlock("Kiln house", "Board 3", "KG-101", "Kiln fan", "IEC", "7", "2026-12-01")
SEEN = {
    **VARIANTS,
    "24 V DC from outside": made("single_phase_reversing", voltage_v=24, kind="dc", source="separate", lamps=["running", "tripped"]),
    "source not decided": made("star_delta", lamps=["running"]),
    "single-phase, relay in the motor breaker": circuit_of(
        parse({"tag": "A", "motor": {"phases": 1, "single_phase_kind": "capacitor_run"}, "supply": {"line_voltage_v": 230}, "starter": {"type": "single_phase_reversing"}}),
        Fitted("motor_breaker", relay=False),
    ),
}  # fmt: skip
SETS: tuple[tuple[Style, str], ...] = (
    ("columns", "a3"),
    ("columns", "a4"),
    ("ladder", "tabloid"),
    ("ladder", "letter"),
)


def sheets_of(circuit: Circuit, style: Style = "columns", paper: str = "a3") -> list[Sheet]:
    lines = {"overload": ("RX-100 100 A", "set 8.31 A", "class 10"), "transformer": ("RV-100 100 VA", "400/230 V")}
    main = circuit.named("main_breaker")
    said = {
        n: Said(
            d.label,
            "RX-100 100 A",
            "",
            lines["overload" if n == main else d.kind] if n == main or d.kind in lines else ("RX-100 100 A",),
            ("230 V AC",),
        )
        for n, d in circuit.devices.items()
    }
    return circuit_sheets(circuit, style, "iec", PAPERS[paper], HEAD, said, [("Tag", "KG-101")])


def words(sheet: Sheet, layer: str = "") -> list[Mark]:
    return [m for m in sheet.drawn() if m.shape.kind == "text" and (not layer or m.layer == layer)]


def parts(sheets: list[Sheet]) -> Counter[str]:
    return Counter(s.part for sheet in sheets for s in sheet.symbols)


def due(circuit: Circuit) -> set[str]:
    """What must be drawn: every load and wired control contact, every pole of a device in the power circuit."""
    wired = {
        f"contact:{x.name}"
        for x in circuit.contacts
        if x.side == "control" and all(circuit.number_of[t] for t in x.terminals)
    }
    poles = {f"contact:{x.name}" for x in circuit.contacts if x.side == "power" and x.device.startswith("K")}
    return wired | poles | {f"load:{x.device}" for x in circuit.loads}


@pytest.mark.parametrize(("style", "paper"), SETS)
@pytest.mark.parametrize("name", SEEN)
def test_nothing_is_lost_and_nothing_leaves_the_frame(name: str, style: Style, paper: str) -> None:
    circuit = SEEN[name]
    sheets = sheets_of(circuit, style, paper)
    drawn = parts(sheets)
    assert due(circuit) <= set(drawn)
    assert all(n == 1 for part, n in drawn.items() if part.startswith(("contact:", "load:K"))), drawn.most_common(3)
    left, top, right, low = PAPERS[paper].frame
    for sheet in sheets:
        for m in sheet.drawn():
            if m.layer == "FRAME":
                continue
            x, y = m.shape.points[:2]
            assert left <= x <= right and top <= y <= low, (sheet.title, m)
            if m.shape.kind == "text":
                wide = 0.5 * m.shape.size * len(m.shape.text)
                begin = {"start": x, "middle": x - wide / 2, "end": x - wide}[m.shape.anchor]
                assert left - 1 <= begin and begin + wide <= right + 1, (sheet.title, m.shape)
        assert f"{sheet.number} of {len(sheets)}" in {m.shape.text for m in words(sheet, "TITLE")}


@pytest.mark.parametrize(("style", "paper"), SETS)
@pytest.mark.parametrize("name", SEEN)
def test_words_stand_clear_of_each_other(name: str, style: Style, paper: str) -> None:
    for sheet in sheets_of(SEEN[name], style, paper):
        boxes = []
        for m in words(sheet):
            x, y = m.shape.points
            wide, high = 0.45 * m.shape.size * len(m.shape.text), 0.66 * m.shape.size
            begin = {"start": x, "middle": x - wide / 2, "end": x - wide}[m.shape.anchor]
            boxes.append((m.shape.text, begin, y - high, begin + wide, y))
        for k, (a, ax, ay, bx, by) in enumerate(boxes):
            for b, cx, cy, dx, dy in boxes[k + 1 :]:
                assert bx <= cx + 0.5 or dx <= ax + 0.5 or by <= cy + 0.5 or dy <= ay + 0.5, (sheet.title, a, b)


def lines_of(sheet: Sheet) -> dict[str, float]:
    """Numbered lines of a ladder with their heights."""
    left = PAPERS[sheet.paper.name].area[0]
    return {
        m.shape.text: m.shape.points[1] - 4
        for m in words(sheet, "REFERENCES")
        if m.shape.text.isdigit() and m.shape.points[0] < left + 20
    }


def names(sheets: list[Sheet], reference: str, part: str) -> bool:
    """A reference names the place of a part, looked for among the symbols."""
    for sheet in sheets:
        for s in sheet.symbols:
            if s.part != part:
                continue
            if reference.startswith("/"):
                number, zone = reference[1:].split(".")
                middle = [
                    (s.x, s.y + 29 * s.scale),
                    (s.x, s.y + 10 * s.scale),
                    (s.x + 30 * s.scale, s.y + 10 * s.scale),
                ]
                if int(number) == sheet.number and zone in {sheet.paper.zone(*at) for at in middle}:
                    return True
            else:
                lines = lines_of(sheet)
                if reference in lines and abs(lines[reference] - s.y) <= 45 * s.scale:
                    return True
    return False


@pytest.mark.parametrize(("style", "paper"), SETS)
@pytest.mark.parametrize("name", ["star_delta_closed", "reversing", "several stations", "single_phase_reversing"])
def test_references_lead_to_what_they_name(name: str, style: Style, paper: str) -> None:
    """Lists under the coils, contact by contact; and each contact that is listed has a coil that lists it."""
    circuit = VARIANTS[name]
    sheets = sheets_of(circuit, style, paper)
    seen = 0
    for sheet in sheets:
        for m in words(sheet, "REFERENCES"):
            pairs = re.fullmatch(r"((?:\w+-\w+ )+)(/\d+\.[A-H]\d|\d{3,4})", m.shape.text)
            if not pairs:
                continue
            terminals = pairs[1].split()
            owners = [
                d
                for d in circuit.devices
                if all(any(c.device == d and f"{c.a}-{c.b}" == t for c in circuit.contacts) for t in terminals)
            ]
            assert any(
                all(names(sheets, pairs[2], f"contact:{d}:{t.replace('-', '-')}") for t in terminals[:1])
                for d in owners
            ), m.shape.text
            seen += len(terminals)
    coils = [d.designation for d in circuit.devices.values() if any(x.device == d.designation for x in circuit.loads)]
    due_here = [c for c in circuit.contacts if c.device in coils and f"contact:{c.name}" in parts(sheets)]
    assert seen >= len(due_here) > 0


@pytest.mark.parametrize(("style", "paper"), SETS)
def test_a_wire_that_leaves_a_sheet_goes_on_where_it_says(style: Style, paper: str) -> None:
    """Twelve stops in a row and every lamp: cut across sheets and folded, and yet each number is one node."""
    circuit = made(
        "star_delta_closed",
        start_stations=4,
        stop_stations=12,
        lamps=["running", "stopped", "tripped"],
        emergency_stop=True,
    )
    sheets = [s for s in sheets_of(circuit, style, paper) if s.title.startswith("Control")]
    assert (len(sheets) > 1) == (paper in ("a4", "letter")) and due(circuit) - parts(
        sheets_of(circuit, style, paper)
    ).keys() == set()
    crossing = [
        (s, m) for s in sheets for m in words(s, "REFERENCES") if re.fullmatch(r"/\d+\.[A-H]\d|\d{3,4}", m.shape.text)
    ]
    numbers = {s.number for s in sheets}
    for sheet, m in crossing:
        to = int(m.shape.text[1:].split(".")[0]) if m.shape.text.startswith("/") else int(m.shape.text[:-2])
        assert to in numbers | {2}, m.shape.text
        if to in numbers and to != sheet.number:
            back = f"/{sheet.number}." if m.shape.text.startswith("/") else str(sheet.number)
            assert any(other.number == to and x.shape.text.startswith(back) for other, x in crossing), m.shape.text
    drawn = {m.shape.text for s in sheets for m in words(s, "WIRE_NUMBERS")}
    control = {w.number for w in circuit.wires if w.side == "control"}
    assert control <= drawn


def test_the_size_of_paper_is_that_of_the_practice_and_unknown_sizes_are_refused() -> None:
    assert paper_of(example_document(practice="nec")).name == "tabloid" and paper_of(example_document()).name == "a3"
    assert [PAPERS[n].zone(PAPERS[n].frame[0] + 1, PAPERS[n].frame[1] + 1) for n in ("a3", "letter")] == ["A1", "D6"]
    with pytest.raises(ProblemError, match="a2 is no sheet size"):
        paper_of(example_document(), "a2")


def test_sheets_say_rating_setting_practice_and_what_is_declared() -> None:
    document = example_document(starter={"type": "star_delta"}, service="Kiln fan")
    head = title_block(document, "Kiln house", "Board 3", 7, "2026-12-01", "A. Fitter")
    live = simulated(document, reference_catalogue())
    sheets = starter_sheets(document, live, head)
    title, power, control, listed = ({m.shape.text for m in words(s)} for s in sheets)
    assert {live.circuit.restart, "7", "A. Fitter", "IEC", "Board 3"} <= title
    assert {"RT-9 6–9 A", "set 8.31 A", "7.5 kW · 14.4 A", "brown: L1", "green-yellow: protective conductor"} <= power
    assert {"star 3 s", "220–240 V AC", "Star contactor"} <= control
    assert any("RT-9, 6–9 A" in x for x in listed)
    assert "RT-9" in sheets[3].description and "Kiln fan" in sheets[0].description


def test_symbols_of_the_north_american_practice() -> None:
    """Breaker, heater, timed, selector and float contact each have a block of that practice, and lists underline what opens."""
    document = example_document(
        practice="nec", starter={"type": "star_delta"}, protection={"device": "inverse_time_breaker"},
        control={"scheme": "hand_off_auto", "field_contact": "float_fill", "emergency_stop": True},
    )  # fmt: skip
    sheets = starter_sheets(document, simulated(document, reference_catalogue()), HEAD)
    blocks = {s.name for sheet in sheets for s in sheet.symbols}
    assert {
        "NA_BREAKER_POLE",
        "NA_OVERLOAD_POLE",
        "NA_CONTACTOR_POLE",
        "NA_SELECTOR_MAKE",
        "NA_FIELD_MAKE_FLOAT_FILL",
        "NA_EMERGENCY_STOP_BREAK",
    } <= blocks
    assert any(b.startswith("NA_STAR_DELTA_TIMER_M") for b in blocks)
    control = next(s for s in sheets if s.title == "Control circuit")
    assert "O X O" in {m.shape.text for m in control.drawn() if m.shape.kind == "text"}
    assert list(lines_of(control)) == [f"3{k + 1:02d}" for k in range(len(lines_of(control)))]
    underlined = [m for m in control.marks if m.layer == "REFERENCES" and m.shape.kind == "line"]
    breaks = [m for m in words(control, "REFERENCES") if m.shape.text.startswith("21-22 ")]
    assert underlined and len(underlined) == len(breaks)


@settings(max_examples=60)
@given(documents(), st.sampled_from(list(PAPERS)), st.sampled_from(["columns", "ladder"]))
def test_any_circuit_fits_its_sheets_or_says_why(document: StarterDocument, paper: str, style: Style) -> None:
    try:
        circuit = circuit_of(document)
    except ProblemError:
        return
    assert due(circuit) <= set(parts(sheets_of(circuit, style, paper)))
