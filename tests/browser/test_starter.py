"""The real interface in a real browser, with real keys and clicks, on the demo data."""

import io
import json
import re
from pathlib import Path
from typing import Any

import pytest
from playwright.sync_api import Page, Route, expect
from pypdf import PdfReader
from sqlalchemy import text

from volmek.web.app import Application

AXE = Path(__file__).parents[2] / "frontend" / "node_modules" / "axe-core" / "axe.min.js"


def open_starter(page: Page, tag: str, stage: str = "plate") -> None:
    boards = page.request.get("/api/boards").json()["boards"]
    number = next(s["id"] for board in boards for s in board["starters"] if s["tag"] == tag)
    page.goto(f"/starters/{number}/{stage.lower()}")
    expect(page.get_by_role("navigation", name="Line-up")).to_contain_text("M1")


def lineup(page: Page) -> Any:
    return page.get_by_role("navigation", name="Line-up")


def test_the_board_lists_its_motors_with_dials_and_findings(page: Page) -> None:
    page.goto("/")
    page.get_by_role("link", name="KG-2").click()
    row = page.get_by_role("row", name=re.compile("KG-104"))
    expect(row).to_contain_text("RM-15")
    expect(row).to_contain_text("10.6A")
    expect(page.get_by_role("row", name=re.compile("KG-106B")).locator(".stop")).to_be_visible()
    expect(page.get_by_role("row", name=re.compile("KG-130"))).to_contain_text("plate voltage is needed")


def test_a_new_starter_grows_with_every_keystroke(page: Page) -> None:
    page.goto("/boards/1")
    page.get_by_label("New starter, tag").fill("KG-190")
    page.get_by_label("Description", exact=True).fill("Steep-water mixer")
    page.get_by_role("button", name="Add").click()
    expect(page.get_by_label("Line voltage")).to_have_value("400")  # the board's own supply
    expect(page.get_by_role("region", name="Findings")).to_contain_text("the plate voltage is needed")
    page.get_by_label("Rated power", exact=True).press_sequentially("7,5")
    page.get_by_label("Voltage", exact=True).press_sequentially("400/690")
    currents = page.get_by_role("region", name="Currents of the motor")
    expect(currents).to_contain_text("15.5 A")  # from the table, for the plate tells no more
    expect(currents).to_contain_text("● in use")
    expect(page.get_by_text("typical, not from the plate").first).to_be_visible()
    page.get_by_label("Plate current").press_sequentially("14,4 A Δ")
    page.keyboard.press("Tab")
    expect(lineup(page)).to_contain_text("set 14.4 A")
    expect(page.get_by_role("img", name="Delta: links U1 to W2")).to_be_visible()
    expect(page.get_by_role("status")).to_contain_text("saved")
    page.reload()
    expect(page.get_by_label("Rated power", exact=True)).to_have_value("7.5")
    expect(page.get_by_label("Plate current")).to_have_value("14.4 Δ")


def test_horsepower_is_what_the_plate_says_and_star_is_drawn(page: Page) -> None:
    open_starter(page, "KG-106A")
    expect(page.get_by_role("img", name="Star: link joins W2, U2 and V2")).to_be_visible()
    page.get_by_role("combobox", name="Unit of the rated power").click()
    page.get_by_role("option", name="PS").click()
    expect(page.get_by_label("Rated power", exact=True)).to_have_value("4")
    page.get_by_label("Rated power", exact=True).fill("5.5")
    page.get_by_role("region", name="Currents of the motor").get_by_role("button", name="Calculated").click()
    working = page.get_by_role("complementary", name="Working")
    working.get_by_role("button", name="Rated shaft power").click()
    expect(working).to_contain_text("5.5·735.5")


def test_a_misread_plate_is_found_and_the_finding_leads_to_the_field(page: Page) -> None:
    open_starter(page, "KG-106B")
    page.get_by_role("button", name=re.compile("The plate current 10.8 A differs by .34 %")).click()
    field = page.get_by_label("Plate current")
    expect(field).to_be_focused()
    field.fill("8.1 Y")
    expect(page.get_by_role("region", name="Findings")).not_to_contain_text("differs")
    page.get_by_role("button", name=re.compile("24 V coil")).click()
    expect(page.get_by_label("Coil voltage, if different")).to_be_focused()
    page.keyboard.press("Control+a")
    page.keyboard.press("Delete")
    expect(page.get_by_role("region", name="Findings")).not_to_contain_text("burns out")


@pytest.mark.parametrize(
    ("label", "typed", "words"),
    [
        ("Rated power", "0", "must be greater than 0"),
        ("Rated power", "five", "'five' is not a number"),
        ("Plate current", "1.06 Δ", "is a decimal point misplaced"),
        ("Voltage", "400/600", "is not understood"),
        ("Line voltage", "5250", "the most is 1000"),
        ("Power factor cos φ", "1.3", "the most is 1"),
    ],
)
def test_wrong_values_are_kept_as_typed_and_said_at_the_field(page: Page, label: str, typed: str, words: str) -> None:
    open_starter(page, "KG-104")
    field = page.get_by_label(label, exact=True)
    before = field.input_value()
    field.fill(typed)
    expect(page.locator("main")).to_contain_text(words)
    expect(field).to_have_attribute("aria-invalid", "true")
    expect(page.get_by_role("status")).to_contain_text("not saved")
    expect(field).to_have_value(typed)
    page.reload()
    expect(page.get_by_label(label, exact=True)).to_have_value(typed)  # kept in this browser, still not saved
    expect(page.get_by_role("status")).to_contain_text("not saved")
    page.get_by_role("button", name="discard changes").click()
    expect(page.get_by_label(label, exact=True)).to_have_value(before)


def test_the_working_walks_from_the_dial_to_what_was_typed(page: Page) -> None:
    open_starter(page, "KG-104", "Devices")
    page.get_by_role("button", name=re.compile(r"^Overload setting: 10.6 A")).click()
    working = page.get_by_role("complementary", name="Working")
    for words in (
        "setting = nameplate current",
        "IEC 60947-4-1",
        "10.2 A: trips at the latest at 115 %",
        "margin twice",
    ):
        expect(working).to_contain_text(words)
    for step in (
        "Current through the relay",
        "Derated full-load current",
        "Rated motor current in use",
        "Rated current on the plate",
        "Plate current in delta",
    ):
        working.get_by_role("button", name=re.compile(step)).click()
    expect(working).to_contain_text("typed")
    page.keyboard.press("Escape")
    expect(working).to_be_hidden()
    page.get_by_role("button", name=re.compile("Rating of RC-13")).click()
    expect(working).to_contain_text("RC-10 is rated 10 A in AC-3 at 400 V here; 10.6 A is needed")
    page.get_by_title("Show the full value").click()
    expect(working).to_contain_text("Ie = 13A")


def test_the_keyboard_alone_walks_stages_line_up_working_and_undo(page: Page) -> None:
    open_starter(page, "KG-104")
    page.keyboard.press("]")
    page.keyboard.press("]")
    expect(page.get_by_role("table", name="Devices")).to_be_visible()
    page.keyboard.press("l")
    page.keyboard.press("Home")
    expect(page.get_by_label("Line voltage")).to_be_visible()  # the supply opens the plate stage
    page.keyboard.press("ArrowDown")
    expect(page.get_by_role("table", name="Devices")).to_be_visible()
    expect(page.locator('.lineup [aria-current="true"]')).to_contain_text("Q1")
    expect(page.locator('.lineup [aria-current="true"]')).to_be_focused()
    page.keyboard.press("w")
    expect(page.get_by_role("complementary", name="Working")).to_contain_text("Overload setting")
    page.keyboard.press("ArrowDown")
    expect(page.get_by_role("complementary", name="Working")).to_contain_text("Current that K1 must carry")
    page.keyboard.press("Escape")
    page.keyboard.press("1")
    page.get_by_label("Plate current").focus()
    page.keyboard.press("Control+a")
    page.keyboard.type("11.4/6.1")
    expect(lineup(page)).to_contain_text("set 11.4 A")
    page.keyboard.press("Control+z")
    expect(lineup(page)).to_contain_text("set 10.6 A")
    page.keyboard.press("Tab")
    expect(page.get_by_label("Plate current")).to_have_value("10.6/6.1")
    page.keyboard.press("Control+y")
    expect(lineup(page)).to_contain_text("set 11.4 A")
    page.keyboard.press("Alt+5")
    expect(page.frame_locator("iframe").get_by_text("overload setting 11.4 A").first).to_be_visible()


def test_an_override_needs_a_reason_stays_marked_and_is_judged(page: Page) -> None:
    open_starter(page, "KG-104", "Devices")
    page.get_by_role("button", name="Change K1").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_text("Not suitable").click()
    dialog.get_by_text("RC-8", exact=True).click()
    expect(dialog.get_by_role("status", name="What this choice means")).to_contain_text("25 % below the 10.6 A")
    dialog.get_by_role("button", name="Use it").click()
    expect(dialog).to_contain_text("Say why")
    dialog.get_by_label("Reason").fill("the spare in the store")
    dialog.get_by_role("button", name="Use it").click()
    row = page.get_by_role("row", name=re.compile("^K1"))
    expect(row).to_contain_text("your choice: the spare in the store")
    expect(row).to_contain_text("RC-8 is rated 8 A in AC-3 at 400 V here; 10.6 A is needed")
    expect(row).to_contain_text("Stop")
    page.get_by_role("button", name="Undo").click()
    expect(row).to_contain_text("RC-13")
    page.get_by_role("button", name="Redo").click()
    expect(row).to_contain_text("RC-8")
    page.get_by_role("button", name="Change K1").click()
    page.get_by_role("button", name="Back to the computed one").click()
    expect(row).to_contain_text("RC-13")
    page.get_by_role("button", name="Change Q1").click()
    dialog.get_by_role("textbox", name="Overload setting").fill("13")
    dialog.get_by_label("Reason").fill("always a quarter more")
    dialog.get_by_role("button", name="Use it").click()
    expect(page.get_by_role("region", name="Findings")).to_contain_text("the relay includes its margin already")
    page.get_by_role("button", name="History").click()
    expect(page.get_by_role("dialog")).to_contain_text("set 13 A: always a quarter more")


def test_a_revision_can_be_gone_back_to(page: Page) -> None:
    open_starter(page, "KG-104")
    page.get_by_label("Description", exact=True).fill("Different")
    expect(page.get_by_role("status")).to_contain_text("✓ saved")
    page.get_by_role("button", name="History").click()
    page.get_by_role("button", name="Go back").first.click()
    expect(page.get_by_label("Description", exact=True)).to_have_value("Malt elevator head drive")


def test_another_kind_of_protection_and_the_north_american_schools(page: Page) -> None:
    open_starter(page, "KG-104", "Devices")
    page.get_by_role("combobox", name="Short-circuit device").click()
    page.get_by_role("option", name="Fuses gG and relay").click()
    expect(lineup(page)).to_contain_text("RU-gG32")
    expect(lineup(page)).to_contain_text("F1")
    page.goto("/boards/1")
    page.get_by_role("link", name="KG-120").click()
    expect(lineup(page)).to_contain_text("M1")
    page.keyboard.press("]")
    page.keyboard.press("]")
    expect(page.get_by_role("table", name="Devices")).to_contain_text("14 AWG")
    page.get_by_role("combobox", name="Relay marked in").click()
    page.get_by_role("option", name="Trip amperes").click()
    expect(lineup(page)).to_contain_text("set 12.2 A")  # 1.25 · 9.8


def test_the_settings_sheet_is_shown_and_saved_as_pdf(page: Page) -> None:
    open_starter(page, "KG-104", "Documents")
    sheet = page.frame_locator("iframe")
    expect(sheet.get_by_text("Signed for, date")).to_be_visible()
    with page.expect_download() as download:
        page.get_by_role("link", name="Save as PDF").click()
    text = "\n".join(p.extract_text() for p in PdfReader(io.BytesIO(Path(download.value.path()).read_bytes())).pages)
    assert "overload setting 10.6 A" in text
    assert "prove dead" in text
    with page.expect_download() as download:
        page.get_by_role("link", name=re.compile("JSON")).click()
    assert json.loads(Path(download.value.path()).read_text())["tag"] == "KG-104"


def test_circuit_diagrams_are_sheets_of_the_size_that_is_chosen(page: Page) -> None:
    open_starter(page, "KG-104", "Circuit")
    page.get_by_role("link", name="Sheets to print").click()
    sheets = page.frame_locator("iframe").locator("section")
    expect(sheets).to_have_count(4)
    expect(sheets.nth(2).get_by_role("img", name=re.compile("Control circuit: paths 1 to"))).to_be_visible()
    page.get_by_label("Drawn by").fill("A. Fitter")
    page.keyboard.press("Tab")
    page.get_by_label("Sheet size").select_option(label="A4")
    page.get_by_label("Symbols").select_option(label="North American symbols, ladder")
    expect(sheets.nth(2).get_by_text("301", exact=True).first).to_be_visible()
    expect(sheets.nth(2).get_by_text("A. Fitter")).to_be_visible()
    with page.expect_download() as download:
        page.get_by_role("link", name="Save as PDF").click()
    reader = PdfReader(io.BytesIO(Path(download.value.path()).read_bytes()))
    assert (
        next(o["/Title"] for o in reader.outline) == "1 Title sheet"
        and round(float(reader.pages[0].mediabox.width)) == 842
    )
    with page.expect_download() as download:
        page.get_by_role("link", name="DXF, all sheets").click()
    assert "NA_CONTACTOR_POLE" in Path(download.value.path()).read_text()


def test_what_is_typed_while_the_server_is_away_is_sent_when_it_is_back(page: Page) -> None:
    open_starter(page, "KG-104")

    def cut(route: Route) -> None:
        route.abort()

    page.route("**/api/**", cut)
    page.get_by_label("Plate current").fill("11/6.3")
    expect(page.get_by_role("status")).to_contain_text("the server does not answer")
    page.unroute("**/api/**", cut)
    page.get_by_role("button", name="try again").click()
    expect(page.get_by_role("status")).to_contain_text("✓ saved")
    expect(lineup(page)).to_contain_text("set 11 A")


def test_two_windows_do_not_overwrite_each_other(page: Page) -> None:
    open_starter(page, "KG-104")
    other = page.context.new_page()
    open_starter(other, "KG-104")
    page.get_by_label("Description", exact=True).fill("first window")
    expect(page.get_by_role("status")).to_contain_text("✓ saved")
    other.get_by_label("Description", exact=True).fill("second window")
    expect(other.get_by_role("status")).to_contain_text("changed elsewhere")
    other.get_by_role("button", name="discard changes").click()
    expect(other.get_by_label("Description", exact=True)).to_have_value("first window")


def findings_of_axe(page: Page) -> list[tuple[str, list[Any]]]:
    while page.evaluate(
        "document.querySelector('.stale') || document.getAnimations().some((a) => a.playState === 'running')"
    ):
        page.wait_for_timeout(50)
    page.evaluate(AXE.read_text())
    options = {"iframes": False, "resultTypes": ["violations"]}
    result = page.evaluate("o => axe.run({exclude: ['.drawing svg']}, o)", options)
    return [
        (v["id"], [n["target"] for n in v["nodes"]][:4])
        for v in result["violations"]
        if v["impact"] in ("moderate", "serious", "critical")
    ]


VIEWS = ["/", "/boards/1", "/starters/3/plate", "/starters/7/method", "/starters/3/devices", "/starters/7/start", "/starters/7/curves", "/starters/7/phase-loss",
         "/starters/7/circuit", "/starters/7/build", "/starters/2/test", "/starters/1/documents", "/tables", "/catalogue"]  # fmt: skip


@pytest.mark.parametrize("path", VIEWS)
def test_no_moderate_accessibility_finding_and_nothing_outside_the_page(page: Page, path: str) -> None:
    outside: list[str] = []
    page.on(
        "request",
        lambda r: outside.append(r.url) if "127.0.0.1" not in r.url and not r.url.startswith("data:") else None,
    )
    page.goto(path)
    page.wait_for_load_state("networkidle")
    if path.endswith("devices"):
        page.get_by_role("button", name=re.compile("^Overload setting")).first.click()
    assert findings_of_axe(page) == []
    for width in (1024, 820, 390):
        page.set_viewport_size({"width": width, "height": 800})
        assert page.evaluate("document.documentElement.scrollWidth <= innerWidth"), f"scrolls sideways at {width}"
    assert findings_of_axe(page) == [], "390"
    page.set_viewport_size({"width": 1280, "height": 800})
    page.evaluate("localStorage.setItem('volmek.theme', 'dark')")
    page.reload()
    page.wait_for_load_state("networkidle")
    expect(page.locator("html")).to_have_class(re.compile("dark"))
    assert findings_of_axe(page) == [], "dark"
    assert outside == []


@pytest.mark.parametrize(
    ("path", "button"),
    [
        ("/starters/1/plate", "History"), ("/starters/1/plate", "Presets"), ("/starters/1/plate", "Keys"), ("/starters/1/circuit", "What is wrong?"), ("/", "Glossary"),
        ("/boards/1", "Import starters"), ("/boards/1", "Choose catalogues"), ("/starters/1/devices", "Change K1"), ("/boards/1", "Rename"),
    ],
)  # fmt: skip
def test_an_open_dialog_has_no_finding_and_gives_the_focus_back(page: Page, path: str, button: str) -> None:
    page.goto(path)
    page.wait_for_load_state("networkidle")
    opener = page.get_by_role("button", name=button, exact=True).first
    opener.focus()
    page.keyboard.press("Enter")
    expect(page.locator("[role=dialog], [role=complementary]").last).to_be_visible()
    assert findings_of_axe(page) == []
    page.keyboard.press("Escape")
    expect(page.get_by_role("dialog")).to_have_count(0)
    assert page.evaluate("document.activeElement !== null && document.activeElement.tagName") in ("BUTTON", "BODY")


def test_a_gauge_is_typed_where_square_millimetres_are(page: Page) -> None:
    open_starter(page, "KG-120")
    field = page.locator("#field-supply-cable_section_mm2")
    field.fill("12 AWG")
    expect(page.get_by_role("status")).to_contain_text("✓ saved")
    page.reload()
    expect(field).to_have_value("3.309")
    field.fill("12 gauge")
    expect(page.locator("main")).to_contain_text("'12 gauge' is not a number")


def test_what_to_find_out_leads_to_its_field_and_goes_when_it_is_typed(page: Page) -> None:
    open_starter(page, "KG-120")
    ranges = page.get_by_role("region", name="What to find out next")
    expect(ranges).to_contain_text("designs computed")
    page.get_by_label("Ambient in panel", exact=True).fill("")
    ranges.get_by_role("button", name=re.compile("Temperature in the panel")).click()
    field = page.get_by_label("Ambient in panel", exact=True)
    expect(field).to_be_focused()
    field.fill("35")
    expect(ranges.get_by_role("button", name=re.compile("Temperature in the panel"))).to_have_count(0)
    open_starter(page, "KG-101", "Devices")
    row = page.get_by_role("table", name="Devices").get_by_role("row").filter(has_text="Overload relay")
    row.get_by_text("± not sure").click()
    expect(row).to_contain_text("class class 10, or class 10E")


@pytest.mark.parametrize(
    ("path", "shown"),
    [
        ("/starters/7/plate", "KG-101 · Plate · KG-2"), ("/starters/7/devices", "KG-101 · Devices · KG-2"), ("/starters/7/start", "KG-101 · Start · KG-2"),
        ("/starters/7/circuit", "KG-101 · Circuit · KG-2"), ("/starters/7/build", "KG-101 · Build · KG-2"), ("/starters/7/test", "KG-101 · Test · KG-2"),
        ("/boards/1", "KG-2"), ("/catalogue", "Catalogue"), ("/tables", "Tables"),
    ],
)  # fmt: skip
def test_any_page_is_printed_as_a_paper(newcomer: None, page: Page, path: str, shown: str) -> None:
    """White whatever the screen is, headed, no controls, nothing wider than the sheet, folded fields read."""
    page.emulate_media(color_scheme="dark")
    page.set_viewport_size({"width": 794, "height": 1000})
    page.goto(path)
    expect(page.get_by_role("main")).to_be_visible()
    page.wait_for_load_state("networkidle")
    page.emulate_media(media="print", color_scheme="dark")
    head = page.locator(".paper-head")
    expect(head).to_contain_text(shown)
    expect(head).to_contain_text("printed 20")
    expect(page.locator("body")).to_have_css("background-color", "rgb(255, 255, 255)")
    assert page.evaluate("document.documentElement.classList.contains('dark')") is False
    left = page.evaluate(
        "[...document.querySelectorAll('button:not(.opens, .name, .type, [aria-pressed]), nav, [role=toolbar], .p-tablist')]"
        ".filter((e) => e.checkVisibility()).map((e) => e.outerHTML.slice(0, 120))"
    )
    assert left == []
    assert page.evaluate("document.documentElement.scrollWidth <= innerWidth")
    if path.endswith("plate"):
        expect(page.get_by_label("Wear exponent")).to_be_visible()
        page.emulate_media(media="screen", color_scheme="dark")
        expect(page.get_by_label("Wear exponent")).to_be_hidden()
        expect(page.locator("html")).to_have_class(re.compile("dark"))


def test_a_report_shows_how_far_it_is_and_can_be_cancelled(page: Page) -> None:
    open_starter(page, "KG-104", "Documents")
    page.get_by_role("button", name="Report", exact=True).click()
    page.get_by_role("link", name="Save as PDF").click()
    far = page.get_by_role("status").filter(has_text="Report:")
    expect(far).to_contain_text("laying out the pages")
    expect(far.get_by_role("progressbar", name="Report")).to_be_visible()
    far.get_by_role("button", name="Cancel").click()
    expect(page.get_by_role("alert")).to_contain_text("Report: cancelled; nothing was changed")
    expect(far).to_be_hidden()
    with page.expect_download() as download:
        page.get_by_role("link", name="Save as PDF").click()
    assert download.value.suggested_filename == "KG-104-report.pdf"
    assert Path(download.value.path()).read_bytes().startswith(b"%PDF")
    expect(page.get_by_role("alert")).to_be_hidden()


def test_a_board_that_takes_long_shows_how_far_it_is_and_can_be_cancelled(
    page: Page, live: tuple[Application, str]
) -> None:
    """Two hundred starters whose kept lines are of earlier rules: each is sized anew."""
    one = page.request.get("/api/starters/1").json()["document"]
    many = [
        {**one, "tag": f"KG-{k}", "motor": {**one["motor"], "rated_speed_rpm": 1400 + k / 3}} for k in range(300, 500)
    ]
    answer = page.request.post("/api/boards/1/import", data={"text": json.dumps(many)})
    assert answer.status == 201
    with live[0].extensions["engine"].begin() as connection:
        connection.execute(text("UPDATE listed SET key = 'of earlier rules'"))
    live[0].extensions["lines"].forget()
    page.goto("/boards/1")
    far = page.get_by_role("status").filter(has_text="Board:")
    expect(far.get_by_role("progressbar", name="Board")).to_be_visible()
    expect(far).to_contain_text(re.compile(r"sizing KG-\d+\w? ?\d+ of \d+"))
    far.get_by_role("button", name="Cancel").click()
    expect(far).to_have_count(0)
    expect(page.get_by_role("link", name="KG-104")).to_be_visible()
