"""Lists and papers of a starter, from the plan and the record themselves."""

import csv
import io
import re
import socket
from datetime import UTC, date, datetime
from typing import Any

import icalendar
import pytest

from samples import design, iec, nec, single_phase
from volmek.core.catalogue.catalogue import reference_catalogue
from volmek.core.circuit.build.plan import Plan, build_plan
from volmek.core.circuit.simulated import simulated
from volmek.core.document.model import parse
from volmek.core.record.inspections import Due
from volmek.core.record.items import commissioning
from volmek.core.record.journal import Folded
from volmek.core.views.record import build_view, record_view
from volmek.files.calendar import calendar
from volmek.files.lists import markers_csv, strip_csv, wires_csv
from volmek.files.printer import PRINTER, Printer
from volmek.files.report import Papers, drawings, labels_html, report_html
from volmek.files.sheet import Place

STARTERS: dict[str, dict[str, Any]] = {
    "fan": iec(starter={"type": "star_delta"}, control={"emergency_stop": True, "heater": True, "start_stations": 2}),
    "gate": iec(starter={"type": "reversing"}, control={"end_of_travel": True}),
    "north": nec(starter={"type": "direct_on_line"}),
    "pump": single_phase(),
    "by hand": iec(starter={"type": "manual"}),
}


def papers(name: str) -> Papers:
    document = parse(STARTERS[name])
    it, sized = simulated(document, reference_catalogue()), design(document, reference_catalogue())
    plan, items = build_plan(it, document), commissioning(document, sized, it)
    build = build_view(plan, Folded(), {i.id: i for i in items})
    place = Place("Job", "Board", 3, datetime(2026, 3, 2, tzinfo=UTC))
    return Papers(document, sized, it, plan, build, record_view(items, Folded(), plan), [], place, [])


def rows(text: str) -> list[dict[str, str]]:
    return list(csv.DictReader(io.StringIO(text)))


@pytest.mark.parametrize("name", STARTERS)
def test_the_lists_agree_with_the_plan_and_with_each_other(name: str) -> None:
    plan: Plan = papers(name).plan
    wires, markers, strip = rows(wires_csv(plan)), rows(markers_csv(plan)), rows(strip_csv(plan))
    assert [(w["wire"], w["from"], w["to"]) for w in wires] == [(i.number, i.a, i.b) for i in plan.wires]
    assert all(w["stage_title"] and w["colour"] for w in wires)
    ends = [t for i in plan.wires if i.kind != "bridge" for t in (i.a, i.b) if not t.startswith("supply:")]
    assert sorted(m["at"] for m in markers) == sorted(ends)
    at_strip = {t for i in plan.wires for t in (i.a, i.b) if t.partition(":")[0] in ("X1", "X2", "PE")}
    assert {f"{r['strip']}:{r['terminal']}" for r in strip} == at_strip
    for r in strip:
        assert len(r["from_panel"].split()) <= 2 and len(r["to_outside"].split()) <= 2
        assert r["from_panel"] or r["to_outside"] or r["bridged_to"]


@pytest.mark.parametrize("name", STARTERS)
def test_every_paper_of_every_kind_of_starter_is_written(name: str) -> None:
    p = papers(name)
    restart = p.live.circuit.restart
    report = report_html(p)
    labels = labels_html(p.document, p.design, p.place, restart=restart, open_points=0, paged=True)
    for d in p.design.devices:
        assert f">{d.designation}</b>" in report
        assert d.kind == "motor_conductor" or f"<b>{d.designation}</b>" in labels
    assert all(s.title in report for s in p.build.stages)
    assert f"0 of {len(p.plan.wires)} conductors connected" in report
    assert "defer" in report or "local code" in report
    titles = [sheet.title for sheet, _ in drawings(p, paged=True)]
    between = [] if name == "by hand" else ["Control circuit"]
    assert titles == ["Title sheet", "Power circuit", *between, "Device list"]
    assert report.count('<section class="diagram">') == len(titles) and p.place.board in report


def test_what_a_fitter_types_is_escaped_on_paper() -> None:
    STARTERS["sly"] = iec(service="<script>alert(1)</script> & Sons")
    html = report_html(papers("sly"))
    assert "<script>alert" not in html and "&lt;script&gt;" in html
    del STARTERS["sly"]


def test_a_calendar_of_several_starters_is_read_again() -> None:
    due = Due("key-1", "Retighten, measure; note", 12, date(2027, 2, 28), date(2026, 2, 28), "in order, ø 3")
    never = Due("key-2", "Thermal picture", 6, date(2026, 9, 1), None, "")
    data = calendar([("KG-2 KG-101", due), ("KG-2 KG-104", never)])
    events = icalendar.Calendar.from_ical(data).walk("VEVENT")
    assert [str(e["SUMMARY"]) for e in events] == [
        "KG-2 KG-101: Retighten, measure; note",
        "KG-2 KG-104: Thermal picture",
    ]
    assert events[0]["DTSTART"].dt == date(2027, 2, 28) and events[0]["DTEND"].dt == date(2027, 3, 1)
    assert "Last on 2026-02-28: in order, ø 3" in str(events[0]["DESCRIPTION"]) and "Not done yet" in str(
        events[1]["DESCRIPTION"]
    )
    assert len({str(e["UID"]) for e in events}) == 2 and events[0].walk("VALARM")
    assert icalendar.Calendar.from_ical(calendar([])).walk("VEVENT") == []


def test_the_printing_process_prints_again_after_it_was_ended_and_says_what_is_wrong() -> None:
    printer = Printer()
    try:
        assert printer.pdf("<p>one</p>").startswith(b"%PDF")
        first = set(printer._pool._processes)
        assert printer.pdf("<p>two</p>").startswith(b"%PDF") and set(printer._pool._processes) == first
        for process in printer._pool._processes.values():
            process.kill()
        with pytest.raises(OSError, match="print again"):
            printer.pdf("<p>nobody</p>")
        assert printer.pdf("<p>three</p>").startswith(b"%PDF") and set(printer._pool._processes) != first
        with pytest.raises(OSError, match="Error: "):
            printer.pdf(5)  # no paper at all
        assert printer.pdf("<p>four</p>").startswith(b"%PDF"), "a paper that fails ends nothing"
    finally:
        printer.close()


def test_nothing_outside_is_fetched_while_printing() -> None:
    with socket.create_server(("127.0.0.1", 0)) as listener:
        listener.settimeout(0.2)
        address = f"http://127.0.0.1:{listener.getsockname()[1]}/picture.png"
        assert PRINTER.pdf(f'<p>here</p><img src="{address}"><link rel="stylesheet" href="{address}">').startswith(
            b"%PDF"
        )
        with pytest.raises(TimeoutError):
            listener.accept()


def test_papers_of_the_north_american_practice_speak_its_words() -> None:
    """Stages, checks and readings are written in IEC words; what a user has typed stays as it was typed."""
    STARTERS["wye"] = nec(service="Star sifter, earthed bin", starter={"type": "star_delta"})
    try:
        p = papers("wye")
    finally:
        del STARTERS["wye"]
    words = re.sub(r"<style>.*?</style>|<[^>]+>", " ", report_html(p, paged=True), flags=re.S).replace(
        "Star sifter, earthed bin", ""
    )
    assert "Star sifter, earthed bin" in report_html(p) and "Wye" in words
    assert (
        re.findall(r"\b[^ ]*(?:star-delta|[Ee]arthed|[Ss]tar contactor|[Pp]rotective conductor|colour)\b.{0,30}", words)
        == []
    )
