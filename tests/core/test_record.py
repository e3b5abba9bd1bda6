"""Commissioning items and their verdicts, the journal and what it comes to, history, meters without a socket."""

from datetime import UTC, date, datetime, timedelta
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from samples import design, iec, single_phase
from volmek.core.catalogue.catalogue import reference_catalogue
from volmek.core.circuit.build.plan import Stage, build_plan
from volmek.core.circuit.simulated import simulated
from volmek.core.document.errors import ProblemError
from volmek.core.document.model import parse
from volmek.core.record.bodies import parse_body
from volmek.core.record.history import Measured, chart, history, measured, taken_together, trend
from volmek.core.record.inspections import inspections
from volmek.core.record.items import Item, commissioning, judge, refusal, repeated
from volmek.core.record.journal import Entry, Folded, check_id, fold, stage_state, subject_of
from volmek.core.record.open_points import open_points
from volmek.core.record.refusals import refused
from volmek.core.views.record import build_view, record_view
from volmek.standin.meter import panel_meter

DOCUMENT = parse(
    iec(
        starter={"type": "star_delta"}, control={"voltage_v": 230, "lamps": ["running", "stopped"], "emergency_stop": True, "phase_monitor": "three_wire"},
        supply={"cable_length_m": 40, "cable_section_mm2": 6}, motor={"rotor_inertia_kgm2": 0.05}, load={"torque_pct": 60, "inertia_kgm2": 1.0},
    )
)  # fmt: skip
LIVE = simulated(DOCUMENT, reference_catalogue())
DESIGN = design(DOCUMENT, reference_catalogue())
ITEMS = commissioning(DOCUMENT, DESIGN, LIVE)
BY_ID = {i.id: i for i in ITEMS}
PLAN = build_plan(LIVE, DOCUMENT)
NOON = datetime(2026, 3, 2, 12, 0, tzinfo=UTC)


class Book:
    """Writes entries as the server would number them."""

    def __init__(self) -> None:
        self.entries: list[Entry] = []

    def add(self, kind: str, who: str = "Ann", said: datetime = NOON, seen: int | None = None, **body: Any) -> Entry:
        n = len(self.entries) + 1
        e = Entry(
            n,
            f"key-{n:04}",
            kind,
            parse_body(kind, body),
            who,
            said,
            NOON + timedelta(seconds=n),
            n - 1 if seen is None else seen,
        )
        self.entries.append(e)
        return e

    def folded(self) -> Folded:
        return fold(self.entries)


def test_every_subject_is_in_the_record() -> None:
    ids = {i.id.partition(".")[0] for i in ITEMS}
    assert ids >= {
        "insulation", "earth", "voltage", "frequency", "rotation", "no_load", "load", "start", "setting", "trip", "phase", "interlock", "lamps", "emergency", "restart",
    }  # fmt: skip
    assert {f"phase.L{n}" for n in (1, 2, 3)} <= set(BY_ID)
    assert {"interlock.K2.K3", "interlock.K3.K2"} <= set(BY_ID)
    # The line that feeds the control circuit says so, and what its test proves nothing about.
    feeds = LIVE.circuit.source.feeds[0]
    assert "Watch the monitor's own" in BY_ID[f"phase.{feeds}"].how
    assert "P1 lit" in BY_ID["lamps.running"].expected
    assert all(
        i.reason or i.group == "settings" or not i.good
        for i in ITEMS
        if i.kind == "choice" and not i.id.startswith("setting")
    )


def test_limits_come_from_the_design() -> None:
    assert BY_ID["load.L1"].attention_above == pytest.approx(DESIGN.currents.permitted_current_a)
    relay = next(d for d in DESIGN.devices if d.role == "overload_relay")
    left = BY_ID["setting.F1.dial_a.left"]
    assert judge(left, float(relay.settings.dial_a or 0)).severity == "fine"
    assert judge(left, 1.2 * float(relay.settings.dial_a or 0)).severity == "stop"
    # 0.0185 · 40 / 6 = 0.123 Ω, and 20 % and 0.1 Ω for joints
    assert BY_ID["earth.motor"].attention_above == pytest.approx(1.2 * 0.0185 * 40 / 6 + 0.1)
    assert judge(BY_ID["start.star_time"], 1.3 * (DESIGN.start.star_time_s or 0)).severity == "attention"
    assert (
        judge(BY_ID["voltage.L1-L2"], 358).severity == "stop"
        and judge(BY_ID["voltage.L1-L2"], 371).severity == "attention"
    )


def test_without_a_design_only_what_needs_none_is_listed() -> None:
    d = parse({"tag": "A"})
    ids = {i.id for i in commissioning(d, None, simulated(d, reference_catalogue()))}
    assert "insulation.motor" in ids and "restart" in ids and not any(x.startswith(("load", "setting")) for x in ids)
    pump = parse(single_phase())
    ids = {
        i.id for i in commissioning(pump, design(pump, reference_catalogue()), simulated(pump, reference_catalogue()))
    }
    assert {"voltage.L1-N", "load.L1"} <= ids and "load.L2" not in ids and "rotation.supply" not in ids


@pytest.mark.parametrize(
    ("item", "value", "words"),
    [
        ("insulation.motor", 0.0005, "is the unit right"),
        ("insulation.motor", -1.0, "cannot be"),
        ("voltage.L1-L2", 0.4, "400 V would be"),
        ("load.L1", 14000.0, "14 A would be"),
        ("load.L1", 1e9, "cannot be"),
        ("rotation.supply", "sideways", "is not one of clockwise, anticlockwise"),
    ],
)
def test_impossible_readings_and_mixed_units_are_refused_with_the_limit(
    item: str, value: float | str, words: str
) -> None:
    problem = refused(Folded(), PLAN, BY_ID, "reading", parse_body("reading", {"item": item, "value": value}))
    assert problem is not None and words in problem.message and BY_ID[item].title in problem.message


@given(st.floats(0.2, 200_000))
def test_a_usual_reading_is_never_refused_and_its_verdict_follows_the_limits(value: float) -> None:
    i = BY_ID["insulation.motor"]
    assert refusal(i, value) == ""
    assert judge(i, value).severity == ("stop" if value < 1 else "attention" if value < 5 else "fine")


def test_what_is_meant_is_kept() -> None:
    body = parse_body("reading", {"item": "insulation.motor", "value": 0.0005, "confirmed": True})
    assert refused(Folded(), PLAN, BY_ID, "reading", body) is None
    assert judge(BY_ID["insulation.motor"], 0.0005).severity == "stop"


@pytest.mark.parametrize(
    ("kind", "body", "field"),
    [
        ("readings", {}, "kind"),
        ("reading", {"item": "x", "value": True}, "value"),
        ("reading", {"item": "x", "value": float("nan")}, "value"),
        ("wire", {"wire": "a~b", "length_mm": -5}, "length_mm"),
        ("change", {"what": "K1", "designed": "a", "built": "b", "reason": ""}, "reason"),
        ("inspection", {"title": "x", "every_months": 0, "first_due": "2026-01-01"}, "every_months"),
        ("open", {"text": "x", "colour": "red"}, "colour"),
    ],
)
def test_bad_entries_name_the_field(kind: str, body: dict[str, Any], field: str) -> None:
    with pytest.raises(ProblemError) as error:
        parse_body(kind, body)
    assert any(field in p.field for p in error.value.problems)


def through(book: Book, *stages: Stage) -> None:
    """Take stages to their end, everything as it must be."""
    for s in stages:
        book.add("isolated", stage=s.title, isolated=True, locked=True, proved_dead=True)
        for key in s.wires:
            book.add("wire", wire=key)
        for c in s.checks:
            book.add("check", stage=s.title, check=check_id(c.a, c.b, c.held), reads=c.reads)
        for n in range(len(s.steps)):
            book.add("step", stage=s.title, step=n)


def test_no_step_under_voltage_while_an_earlier_stage_lacks_something() -> None:
    """A stage may be wired early, but nothing is put under voltage over a gap before it."""
    first, second, third = PLAN.stages[:3]
    step = parse_body("step", {"stage": third.title, "step": 0})

    def why(book: Book) -> str:
        problem = refused(book.folded(), PLAN, BY_ID, "step", step)
        return problem.message if problem else ""

    book = Book()
    through(book, first, third)
    assert f"{second.title} comes before: first isolate" in why(book)
    sheet = build_view(PLAN, book.folded(), BY_ID)
    assert sheet.stages[0].done and not sheet.stages[2].done and second.title in sheet.stages[2].missing
    through(book, second)
    assert why(book) == "" and build_view(PLAN, book.folded(), BY_ID).stages[2].done
    book.add("isolated", stage=first.title, isolated=True, locked=False, proved_dead=True)
    assert f"{first.title} comes before" in why(book)


def test_a_whole_starter_taken_to_its_end_has_nothing_open() -> None:
    book = Book()
    through(book, *PLAN.stages)
    sheet = build_view(PLAN, book.folded(), BY_ID)
    assert all(s.done and s.missing == "" for s in sheet.stages) and sheet.next == "" and sheet.laid == len(PLAN.wires)
    assert set(sheet.work.values()) == {"done"} and open_points(book.folded(), BY_ID, PLAN) == []
    power_first = build_plan(LIVE, DOCUMENT, "power_first")
    again = build_view(power_first, book.folded(), BY_ID)
    assert again.laid == len(power_first.wires), "a conductor that is laid is laid in either order"
    last = PLAN.stages[-1]
    book.add("step", stage=last.title, step=1, different={"M1": "hums"})
    broken = build_view(PLAN, book.folded(), BY_ID).stages[-1]
    assert not broken.done and broken.steps[1].seen is False and broken.steps[1].different == {"M1": "hums"}


def test_what_does_not_belong_to_the_plan_is_refused_by_name() -> None:
    stage = PLAN.stages[1]
    for kind, body, field in (
        ("wire", {"wire": "K9:1~K9:2"}, "wire"), ("isolated", {"stage": "Elsewhere", "isolated": True, "locked": True, "proved_dead": True}, "stage"),
        ("check", {"stage": stage.title, "check": "a b c", "reads": "open"}, "check"), ("step", {"stage": stage.title, "step": 400}, "step"),
        ("inspected", {"inspection": "none", "on": "2026-01-01", "result": "x"}, "inspection"), ("trip", {"trip": "none"}, "trip"),
    ):  # fmt: skip
        problem = refused(Folded(), PLAN, BY_ID, kind, parse_body(kind, body))
        assert problem is not None and problem.field == field, kind
        if kind in ("wire", "isolated", "check", "step"):
            without = refused(Folded(), None, BY_ID, kind, parse_body(kind, body))
            assert without is not None and "no build plan" in without.message
    taken_out = parse_body("wire", {"wire": "K9:1~K9:2", "done": False})
    assert refused(Folded(), PLAN, BY_ID, "wire", taken_out) is None, "what is no longer designed can be taken out"


def test_no_step_under_voltage_before_isolation_wires_and_continuity() -> None:
    stage, book = PLAN.stages[1], Book()
    step = parse_body("step", {"stage": stage.title, "step": 0})
    through(book, PLAN.stages[0])

    def why() -> str:
        problem = refused(book.folded(), PLAN, BY_ID, "step", step)
        return problem.message if problem else ""

    assert "first isolate" in why()
    book.add("isolated", stage=stage.title, isolated=True, locked=True, proved_dead=False)
    assert "first isolate" in why()
    book.add("isolated", stage=stage.title, isolated=True, locked=True, proved_dead=True)
    assert "conductors of this stage" in why()
    for key in stage.wires:
        book.add("wire", wire=key)
    assert "continuity readings" in why()
    for c in stage.checks:
        book.add("check", stage=stage.title, check=check_id(c.a, c.b, c.held), reads="open")
    assert "continuity readings" in why(), "a reading that differs does not count"
    for c in stage.checks:
        book.add("check", stage=stage.title, check=check_id(c.a, c.b, c.held), reads=c.reads)
    assert why() == ""
    for n in range(len(stage.steps)):
        book.add("step", stage=stage.title, step=n)
    assert stage_state(book.folded(), stage)["done"]
    book.add("wire", wire=stage.wires[0], done=False)
    assert "1 more of the" in why() and not stage_state(book.folded(), stage)["done"]
    assert refused(book.folded(), PLAN, BY_ID, "step", {**step, "different": {"K9": "in"}}) is not None


def test_a_trip_is_not_closed_without_its_cause() -> None:
    book = Book()
    assert refused(book.folded(), PLAN, BY_ID, "trip", parse_body("trip", {"what": "F1"})) is not None
    trip = book.add("trip", what="F1", happened="2026-03-01T09:00:00Z")
    close = parse_body("trip", {"trip": trip.key, "close": True})
    problem = refused(book.folded(), PLAN, BY_ID, "trip", close)
    assert problem is not None and "without its cause" in problem.message
    assert "no cause found yet" in open_points(book.folded(), BY_ID, None)[0].text
    book.add("trip", trip=trip.key, cause="bearing seized", repair="bearing changed")
    assert refused(book.folded(), PLAN, BY_ID, "trip", close) is None
    book.add("trip", **close)
    row = record_view(ITEMS, book.folded(), None).trips[0]
    assert row.closed and row.cause == "bearing seized" and row.what == "F1"
    assert open_points(book.folded(), BY_ID, None) == []


def test_two_people_without_knowing_of_each_other_are_both_kept_and_shown() -> None:
    book = Book()
    book.add("reading", item="load.L1", value=12.1)
    book.add("reading", "Bob", seen=0, item="load.L1", value=13.0)
    sheet = record_view(ITEMS, book.folded(), None)
    assert "Ann wrote 12.1, Bob wrote 13.0" in sheet.clashes[0]
    row = next(r for g in sheet.groups for r in g.items if r.item.id == "load.L1")
    assert [r.value for r in row.readings] == [13.0, 12.1]
    assert "neither knowing of the other" in sheet.points[0].text
    book.add("reading", "Ann", item="load.L1", value=12.6)  # knows both
    assert record_view(ITEMS, book.folded(), None).clashes == []
    book.add("reading", "Bob", seen=1, item="load.L1", value=12.6)
    assert record_view(ITEMS, book.folded(), None).clashes == [], "the same value is no conflict"


def test_a_clock_that_runs_backwards_is_said_and_changes_no_order() -> None:
    book = Book()
    book.add("reading", item="load.L1", value=12.1)
    book.add("reading", said=NOON - timedelta(hours=3), item="load.L1", value=12.4)
    sheet = record_view(ITEMS, book.folded(), None)
    assert "ran backwards" in sheet.clocks[0]
    row = next(r for g in sheet.groups for r in g.items if r.item.id == "load.L1")
    assert row.readings[0].value == 12.4
    late = Book()
    late.add("reading", said=NOON + timedelta(days=2), item="load.L1", value=12.1)
    assert len(record_view(ITEMS, late.folded(), None).clocks) == 1


def test_open_points_stay_until_they_are_settled() -> None:
    book = Book()
    point = book.add("open", text="label missing")
    book.add("reading", item="insulation.motor", value=0.6)
    book.add("wire", wire="K9:1~K9:2")
    texts = [p.text for p in open_points(book.folded(), BY_ID, PLAN)]
    assert any("label missing" in t for t in texts) and any("0.6 MΩ is below 1 MΩ" in t for t in texts)
    assert any("no longer in the design" in t for t in texts) and any("not connected yet" in t for t in texts)
    assert (
        refused(book.folded(), PLAN, BY_ID, "closed", parse_body("closed", {"point": "nothing", "how": "x"}))
        is not None
    )
    book.add("closed", point=point.key, how="printed and fitted")
    assert not any("label missing" in p.text for p in open_points(book.folded(), BY_ID, PLAN))


def test_the_drawing_knows_what_is_laid_next_and_open() -> None:
    book = Book()
    first, second = PLAN.wires[0], PLAN.wires[1]
    book.add("wire", wire=first.key, length_mm=420, torque_nm=2.5)
    sheet = build_view(PLAN, book.folded(), BY_ID)
    assert (sheet.laid, sheet.next) == (1, second.key)
    assert sheet.work[first.b] == "done" and sheet.work[second.b] == "next" and "open" in sheet.work.values()
    assert (sheet.wires[0].length_mm, sheet.wires[0].torque_nm) == (420, 2.5)
    book.add("wire", wire=first.key, done=False, torque_nm=2.4)
    taken_out = build_view(PLAN, book.folded(), BY_ID).wires[0]
    assert (taken_out.done, taken_out.length_mm, taken_out.torque_nm) == (False, 420, 2.4)


def test_inspections_fall_due_again() -> None:
    book = Book()
    yearly = book.add("inspection", title="retighten", every_months=12, first_due="2025-01-31")
    assert inspections(book.folded())[0].due == date(2025, 1, 31)
    book.add("inspected", inspection=yearly.key, on="2025-02-03", result="in order")
    due = inspections(book.folded())[0]
    assert (due.due, due.last, due.result) == (date(2026, 2, 3), date(2025, 2, 3), "in order")


@given(st.dates(date(2000, 1, 1), date(2090, 1, 1)), st.integers(1, 240))
def test_an_inspection_is_due_in_its_month_however_short_that_is(day: date, months: int) -> None:
    book = Book()
    added = book.add("inspection", title="retighten", every_months=months, first_due="2000-01-01")
    book.add("inspected", inspection=added.key, on=day.isoformat(), result="in order")
    due = inspections(book.folded())[0].due
    assert due.year * 12 + due.month == day.year * 12 + day.month + months and due.day <= day.day


def year_by_year(*values: float) -> list[Measured]:
    return [Measured(datetime(2020 + n, 5, 1, tzinfo=UTC), v) for n, v in enumerate(values)]


def test_a_creeping_current_is_told_from_scatter() -> None:
    item = Item("load.L2", "running", "Load current L2", "", "A", attention_above=66)
    up = trend(item, year_by_year(58, 59.1, 60, 61.2, 62))
    assert up.creeps and up.per_year == pytest.approx(1.0, abs=0.1) and "in 2028" in up.words
    for steady in ((58, 58.4, 57.8, 58.2, 58.1), (58, 64, 55, 63, 57)):
        assert not trend(item, year_by_year(*steady)).creeps
    assert trend(item, year_by_year(58, 62)).per_year is None
    assert "past its limit" in trend(item, year_by_year(62, 65, 68, 71)).words
    falling = trend(
        Item("insulation.motor", "dead", "Insulation", "", "MΩ", attention_below=5), year_by_year(60, 45, 31, 15)
    )
    assert falling.creeps and "goes down" in falling.words
    wild = trend(item, year_by_year(58, 59, 9, 61, 62))
    assert wild.per_year == pytest.approx(1.0, abs=0.3), "one wild reading does not bend it"


def test_history_puts_first_what_meets_its_limit_first_and_computes_unbalance() -> None:
    book = Book()
    for n, (a, b, c) in enumerate(((12, 12.1, 12), (12, 12.6, 12), (12, 13.1, 12), (12, 13.6, 12))):
        said = datetime(2021 + n, 6, 1, tzinfo=UTC)
        for line, value in (("L1", a), ("L2", b), ("L3", c)):
            book.add("reading", said=said, item=f"load.{line}", value=value)
    found = history(repeated(ITEMS), measured(book.folded().readings))
    assert {s.id for s in found[:2]} == {"load.L2", "unbalance.load"} and all(s.creeps for s in found[:2])
    assert not any(s.creeps for s in found[2:])
    assert all(s.chart.shapes and s.chart.description for s in found)


def test_ten_thousand_points_are_taken_together() -> None:
    many = [Measured(NOON + timedelta(hours=n), 10 + n / 10_000) for n in range(10_000)]
    few = taken_together(many)
    assert len(few) == 160 and few[0].value < few[-1].value and few[0].at >= many[0].at


def test_subjects_follow_each_other() -> None:
    assert subject_of("wire", {"wire": "a~b"}) == "a~b" and subject_of("open", {"text": "x"}) == ""


def test_the_panel_meter_shows_the_start_it_sees() -> None:
    m = panel_meter(DOCUMENT, LIVE)
    assert m.values()["current_l1"] == 0 and m.values()["voltage_l1_l2"] == pytest.approx(400)
    m.operate("press S2")
    m.advance(0.4)
    m.operate("release S2")
    assert m.values()["start_current"] == pytest.approx(DESIGN.currents.starting_line_current_a, rel=0.15)
    m.advance(40)
    seen = m.values()
    assert seen["star_time"] == pytest.approx(DESIGN.start.star_time_s, abs=0.2)
    assert 30 < seen["dwell_ms"] < 120
    assert 0.3 * DESIGN.currents.design_current_a < seen["current_l1"] < DESIGN.currents.design_current_a
    m.operate("lose L2")
    m.advance(1)
    assert m.values()["current_l2"] == 0 and m.values()["voltage_l1_l2"] < 380
    m.operate("open Q1")
    m.advance(2)
    assert m.values()["voltage_l1_l2"] == 0 and m.values()["frequency"] == 0


ENTRIES = st.lists(
    st.tuples(
        st.sampled_from(["load.L1", "load.L2", "voltage.L1-L2"]), st.floats(1, 600), st.sampled_from(["Ann", "Bob", "Cleo"]), st.integers(0, 5),
        st.integers(-600, 600),
    ),
    max_size=25,
)  # fmt: skip


@given(ENTRIES)
def test_whatever_is_written_by_whomever_in_whatever_order_nothing_is_lost(
    rows: list[tuple[str, float, str, int, int]],
) -> None:
    """Every reading stays, in the order of arrival; a conflict names two people; a clock changes no order."""
    book = Book()
    for item, value, who, behind, minutes in rows:
        seen = max(len(book.entries) - behind, 0)
        book.add("reading", who, NOON + timedelta(minutes=minutes), seen, item=item, value=value)
    f = book.folded()
    kept = [e for es in f.readings.values() for e in es]
    assert sorted(e.id for e in kept) == list(range(1, len(rows) + 1))
    for es in f.readings.values():
        assert [e.id for e in es] == sorted(e.id for e in es)
    for a, b in f.conflicts:
        assert (
            a.who != b.who and a.id > b.seen and a.body["item"] == b.body["item"] and a.body["value"] != b.body["value"]
        )
    assert f.last == len(rows)
    if all(behind == 0 for *_, behind, _ in rows):
        assert f.conflicts == [], "who has seen everything contradicts nobody"
    sheet = record_view(ITEMS, f, None)
    assert sum(len(r.readings) for g in sheet.groups for r in g.items) == len(rows)


@given(st.sampled_from([i for i in ITEMS if i.kind == "number"]), st.floats(-1e7, 1e7, allow_nan=False))
def test_a_number_is_refused_or_judged_by_its_limits_never_both_or_neither(item: Item, value: float) -> None:
    words, (low, high) = refusal(item, value, confirmed=True), item.possible
    assert bool(words) == (not low <= value <= high)
    if words:
        return
    verdict = judge(item, value)
    beyond_stop = (item.stop_below is not None and value < item.stop_below) or (
        item.stop_above is not None and value > item.stop_above
    )
    assert (verdict.severity == "stop") == beyond_stop and verdict.words


@pytest.mark.parametrize("item", [i for i in ITEMS if i.kind == "choice"], ids=lambda i: i.id)
def test_every_answer_has_a_verdict_and_the_good_ones_pass(item: Item) -> None:
    assert item.good and set(item.good) <= set(item.choices)
    for answer in item.choices:
        assert refusal(item, answer) == "" and (judge(item, answer).severity == "fine") == (answer in item.good)
    assert refusal(item, "maybe") != ""


@given(st.lists(st.floats(0.1, 1e4), min_size=1, max_size=40), st.floats(0.5, 2e4))
def test_a_chart_stays_on_its_sheet_and_shows_every_reading(values: list[float], limit: float) -> None:
    item = Item("load.L1", "running", "Load current L1", "", "A", attention_above=limit)
    points = year_by_year(*values) if len(values) < 60 else []
    drawn = chart(item, points, trend(item, points).per_year)
    dots = [s for s in drawn.shapes if s.kind == "circle"]
    assert len(dots) == len(points)
    for s in dots:
        assert 0 <= s.points[0] <= drawn.width and 0 <= s.points[1] <= drawn.height
    limits = [s for s in drawn.shapes if s.dashed]
    assert all(0 <= s.points[1] <= drawn.height for s in limits)


def test_a_starter_without_a_record_shows_an_empty_one() -> None:
    sheet, built = record_view(ITEMS, Folded(), PLAN), build_view(PLAN, Folded(), BY_ID)
    assert (sheet.measured, sheet.wanted, sheet.points, sheet.trips, sheet.unbalances) == (0, len(ITEMS), [], [], [])
    assert built.laid == 0 and built.next == PLAN.wires[0].key and not any(s.done for s in built.stages)
    assert built.stages[0].missing.startswith("first isolate")
    first = built.stages[0].title
    assert all(s.missing.startswith(f"{first} comes before: first isolate") for s in built.stages[1:])


def test_the_unbalance_needs_three_readings_taken_together() -> None:
    book = Book()
    for line, value in (("L1", 12.0), ("L2", 14.0)):
        book.add("reading", item=f"load.{line}", value=value)
    assert record_view(ITEMS, book.folded(), None).unbalances == []
    book.add("reading", said=NOON + timedelta(days=40), item="load.L3", value=12.0)
    assert record_view(ITEMS, book.folded(), None).unbalances == []
    book.add("reading", item="load.L3", value=12.0)
    row = record_view(ITEMS, book.folded(), None).unbalances[0]
    assert row.value == pytest.approx(100 * (14 - 38 / 3) / (38 / 3)) and row.severity == "attention"


def test_signatures_and_changes_are_listed_with_who_and_when() -> None:
    book = Book()
    book.add("signature", role="set", name="Ann")
    book.add("signature", role="set", name="Bob")
    book.add("change", what="K1", designed="RC-13", built="RC-18", reason="none in stock")
    sheet = record_view(ITEMS, book.folded(), None)
    assert [(s.role, s.name) for s in sheet.signatures] == [("set", "Bob")]
    assert (sheet.changes[0].built, sheet.changes[0].who) == ("RC-18", "Ann")
