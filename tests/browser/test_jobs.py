"""Nine jobs as somebody does them who has never seen the page: by clicks, counted, and by keys alone."""

import json
import re
from pathlib import Path
from typing import Any

import pytest
from playwright.sync_api import Locator, Page, expect

pytestmark = pytest.mark.usefixtures("newcomer")

#: Counted in the page: a press of the pointer, or Enter on a control. Typing and Tab are free.
COUNTING = """
window.presses = Number(sessionStorage.getItem('presses') ?? 0)
const more = () => sessionStorage.setItem('presses', String(++window.presses))
addEventListener('pointerdown', more, true)
addEventListener('keydown', (e) => {
  if (e.key === 'Enter' && e.target.matches('button, a, input, select, [role=option], [role=menuitem], [role=button]')) more()
}, true)
"""


class Hand:
    """Does a job by the pointer or by keys, and knows how often it pressed."""

    def __init__(self, page: Page, by: str) -> None:
        self.page, self.by = page, by
        page.add_init_script(COUNTING)

    def go(self, path: str) -> None:
        """Where the job begins."""
        self.page.goto(path)
        self.page.wait_for_load_state("networkidle")
        self.page.evaluate("() => { sessionStorage.setItem('presses', '0'); window.presses = 0 }")

    def press(self, control: Locator) -> None:
        """A click; by keys: walk there with Tab or with the keys of its group, and Enter or Space."""
        expect(control).to_be_visible()
        if self.by == "clicks":
            control.click()
        else:
            ticked = control.evaluate("e => e.matches('input[type=radio], input[type=checkbox]')")
            control.press("Space" if ticked else "Enter")

    def presses(self) -> int:
        """So far."""
        return int(self.page.evaluate("() => Number(sessionStorage.getItem('presses') ?? 0)"))


@pytest.fixture(params=["clicks", "keys"])
def hand(request: pytest.FixtureRequest, page: Page) -> Hand:
    return Hand(page, request.param)


def stage(page: Page, name: str) -> Locator:
    return page.get_by_role("navigation", name="Stages").get_by_role("button", name=name)


def group(page: Page, name: str) -> Locator:
    return page.get_by_role("navigation", name="Groups").get_by_role("button", name=name)


def starter(page: Page, tag: str) -> Locator:
    return page.get_by_role("link", name=tag, exact=True)


def test_a_quick_answer_takes_no_press(hand: Hand, page: Page) -> None:
    hand.go("/")
    page.keyboard.type("7.5 kW 400 V 14.8 A")  # the field has the keys already
    answer = page.get_by_role("region", name="Answer", exact=True)
    expect(answer).to_contain_text("14.8 A, class 10")
    expect(answer).to_contain_text("RC-17")
    expect(answer).to_contain_text("Plate current 14.8 A.")
    expect(answer).to_contain_text("Starting time")  # what to find out next
    assert hand.presses() == 0


def test_the_star_time_of_a_fan_is_one_press_away(hand: Hand, page: Page) -> None:
    hand.go("/starters/7/plate")
    hand.press(stage(page, "Start"))
    expect(page.get_by_role("region", name="The start in figures")).to_contain_text("13.5")
    assert hand.presses() <= 3


def test_a_monitor_is_added_and_what_changes_read(hand: Hand, page: Page) -> None:
    hand.go("/")
    hand.press(starter(page, "KG-104"))
    hand.press(stage(page, "Phase loss"))
    if hand.by == "clicks":
        page.get_by_text("Three-wire", exact=True).click()
    else:
        page.get_by_role("radio", name="None").focus()
        page.keyboard.press("ArrowRight")
    changes = page.get_by_role("dialog", name="What changes")
    expect(changes).to_contain_text("+ F2 Phase monitor")
    expect(changes.get_by_role("heading", name=re.compile(r"^Add \d+ wires"))).to_be_visible()
    expect(changes.locator(".w-next").first).to_be_attached()
    assert hand.presses() <= 3


def test_the_sheet_is_printed(hand: Hand, page: Page) -> None:
    hand.go("/starters/1/plate")
    hand.press(group(page, "Documents"))
    expect(page.frame_locator("iframe").get_by_text("Settings sheet").first).to_be_visible()
    page.evaluate("() => { window.frames[0].print = () => { window.printed = true } }")
    hand.press(page.get_by_role("button", name="Print"))
    assert page.evaluate("window.printed")
    assert hand.presses() <= 2


def test_why_it_drops_out_on_release_is_found_and_nothing_written(hand: Hand, page: Page) -> None:
    hand.go("/")
    hand.press(starter(page, "KG-104"))
    hand.press(group(page, "Circuit"))
    hand.press(page.get_by_role("button", name="What is wrong?"))
    hand.press(page.get_by_role("button", name="Drops out when S2 is released"))
    causes = page.get_by_role("status", name="Likely causes")
    expect(causes).to_contain_text("K1:13")
    assert hand.presses() <= 4
    assert page.request.get("/api/starters/1/progress").json()["points"] == []


def test_three_readings_and_a_trip(hand: Hand, page: Page) -> None:
    hand.go("/")
    hand.press(starter(page, "KG-101"))
    hand.press(group(page, "Test"))
    page.get_by_label("Recorded by").focus()
    page.keyboard.type("Ann")
    for line, amps in (("L1", "54.8"), ("L2", "55,1"), ("L3", "55.3")):
        page.get_by_role("textbox", name=f"Load current {line}", exact=True).focus()
        page.keyboard.type(amps)
    hand.press(page.get_by_role("button", name="Save 3 readings"))
    expect(page.get_by_role("region", name="Running")).to_contain_text("55.1 A")
    hand.press(page.get_by_role("tab", name="Open items, trips, changes"))
    trips = page.get_by_role("region", name="Trips")
    for label, words in (("What tripped", "F1"), ("Reading", "61 A in L2")):
        trips.get_by_label(label).focus()
        page.keyboard.type(words)
    trips.get_by_label("When").fill("2026-11-30T10:20")
    hand.press(trips.get_by_role("button", name="Log a trip"))
    expect(trips).to_contain_text("61 A in L2")
    assert hand.presses() <= 6


def test_a_catalogue_is_imported(hand: Hand, page: Page, tmp_path: Path) -> None:
    plain = tmp_path / "store.csv"
    plain.write_text("Type;Coil;AC-3 at 400 V, A\nKM-12;230 V AC;12\nKM-25;230 V AC;25\n")
    hand.go("/")
    hand.press(page.get_by_role("link", name="Catalogue"))
    hand.press(page.get_by_role("button", name="Import a catalogue"))
    page.get_by_label("File", exact=True).set_input_files(plain)
    dialog = page.get_by_role("dialog")
    expect(dialog).to_contain_text("Contactors: 2 new")
    hand.press(dialog.get_by_role("button", name="Import", exact=True))
    expect(page.get_by_role("region", name="Devices")).to_contain_text("KM-25")
    assert hand.presses() <= 5


def test_a_starter_is_copied_to_another_board(hand: Hand, page: Page) -> None:
    hand.go("/")
    hand.press(page.get_by_role("button", name="Menu of KG-104"))
    copy = page.get_by_role("menuitem", name="Copy to PL-1")
    expect(copy).to_be_visible()
    if hand.by == "clicks":
        copy.click()
    else:
        for _ in range(4):
            page.keyboard.press("ArrowDown")
        page.keyboard.press("Enter")
    expect(page.get_by_role("link", name="PL-1")).to_be_visible()
    expect(page.get_by_role("navigation", name="Line-up")).to_contain_text("set 10.6 A")
    assert hand.presses() <= 3


def test_two_methods_are_compared(hand: Hand, page: Page) -> None:
    hand.go("/")
    hand.press(starter(page, "KG-101"))
    hand.press(stage(page, "Method"))
    hand.press(page.get_by_label("Compare Direct on line"))
    side = page.get_by_role("region", name="Side by side")
    expect(side.get_by_role("article")).to_have_count(2)
    expect(side).to_contain_text("RC-68")
    assert hand.presses() <= 3


def test_a_new_starter_begins_in_its_first_field_and_nothing_is_red(page: Page) -> None:
    page.goto("/boards/1")
    page.get_by_label("New starter, tag").fill("KG-190")
    page.get_by_role("button", name="Add").click()
    expect(page.get_by_label("Rated power", exact=True)).to_be_focused()
    expect(page.locator("main [aria-invalid=true]")).to_have_count(0)
    expect(page.locator("main [role=alert]")).to_have_count(0)
    expect(page.get_by_text("0 of 10")).to_be_visible()
    page.keyboard.type("10 hp")
    page.keyboard.press("Tab")
    expect(page.get_by_role("combobox", name="Unit of the rated power")).to_have_text("hp")
    page.get_by_label("Voltage", exact=True).fill("400/690 V")
    page.get_by_label("Plate current").fill("14.8/8.5 A")
    expect(page.get_by_role("navigation", name="Line-up")).to_contain_text("set 14.8 A")


def test_horsepower_proposes_north_american_words_and_one_key_switches(page: Page) -> None:
    page.goto("/")
    expect(page.get_by_label("Motor plate in one line")).to_be_focused()
    page.keyboard.type("10 hp 460 V turbo")
    expect(page.get_by_role("status").first).to_contain_text("turbo not understood")
    expect(page.locator(".practice .on")).to_have_text("North American")
    expect(page.get_by_role("region", name="Answer", exact=True)).to_contain_text("12 AWG")
    page.keyboard.press("F2")
    expect(page.locator(".practice .on")).to_have_text("IEC")
    expect(page.get_by_role("region", name="Answer", exact=True)).to_contain_text("mm²")


def test_groups_and_stages_by_keys_and_the_list_of_them(page: Page) -> None:
    page.goto("/starters/7/plate")
    expect(page.get_by_role("navigation", name="Line-up")).to_contain_text("M1")
    for key, address in (("2", "circuit"), ("3", "build"), ("4", "test"), ("5", "documents"), ("1", "plate"), ("]", "method"), ("]", "devices"), ("[", "method")):  # fmt: skip
        page.keyboard.press(key)
        expect(page).to_have_url(re.compile(f"/{address}$"))
    page.keyboard.press("?")
    expect(page.get_by_role("dialog", name="Keys")).to_contain_text("step back and forth inside a group")
    page.keyboard.press("Escape")
    page.goto("/starters/7/prove")  # a bookmark of before
    expect(page).to_have_url(re.compile("/test$"))


def test_a_starter_is_found_by_its_finding_and_comes_in_from_a_file(page: Page, tmp_path: Path) -> None:
    page.goto("/")
    page.get_by_label("Search starters").fill("coil burn")
    expect(page.get_by_role("row")).to_have_count(2)
    expect(page.get_by_role("row").nth(1)).to_contain_text("KG-106B")
    page.get_by_role("button", name="Menu of KG-106B").click()
    with page.expect_download() as saved:
        page.get_by_role("menuitem", name="Save as JSON file").click()
    document: dict[str, Any] = json.loads(Path(saved.value.path()).read_text())
    file = tmp_path / "pump.json"
    file.write_text(json.dumps({**document, "tag": "PL-300"}))
    page.goto("/boards/2")
    page.get_by_role("button", name="Import starters").click()
    page.get_by_role("dialog").locator("input[type=file]").set_input_files(file)
    page.get_by_role("dialog").get_by_role("button", name="Import").click()
    expect(page.get_by_role("link", name="PL-300")).to_be_visible()


def test_every_part_of_a_circuit_is_reached_by_keys_and_has_a_name(page: Page) -> None:
    page.goto("/starters/1/circuit")
    seal_in = page.get_by_role("button", name="K1 13-14, seal-in, open")
    expect(seal_in).to_be_attached()
    start = page.locator(".reach[tabindex='0']")
    start.focus()
    seen = set()
    for key in ("ArrowDown", "ArrowRight", "ArrowDown", "ArrowLeft", "ArrowDown", "ArrowRight", "ArrowUp"):
        page.keyboard.press(key)
        seen.add(page.evaluate("document.activeElement.getAttribute('aria-label')"))
    assert len(seen) >= 4 and all(seen)
    page.keyboard.press("Enter")
    expect(page.get_by_role("status", name="Picked")).not_to_contain_text("Click a contact")


@pytest.mark.parametrize("width", [1280, 1024, 820])
@pytest.mark.parametrize("path", ["/starters/7/circuit", "/starters/7/build", "/starters/7/plate", "/starters/7/method", "/starters/3/devices"])  # fmt: skip
def test_no_text_of_a_drawing_is_too_small(page: Page, path: str, width: int) -> None:
    page.set_viewport_size({"width": width, "height": 800})
    page.goto(path)
    page.wait_for_load_state("networkidle")
    small = page.evaluate(
        """() => [...document.querySelectorAll('svg text')].filter((t) => t.getClientRects().length)
          .map((t) => [t.textContent.trim(), parseFloat(t.getAttribute('font-size') ?? getComputedStyle(t).fontSize) * t.getScreenCTM().a])
          .filter(([words, size]) => words && size < 10.99)"""
    )
    assert small == []
    assert page.evaluate("document.documentElement.scrollWidth <= innerWidth")


@pytest.mark.parametrize("path", ["/", "/boards/1", "/starters/7/plate", "/starters/7/circuit", "/starters/7/build", "/starters/7/test", "/starters/7/documents"])  # fmt: skip
def test_a_telephone_shows_it_without_scrolling_sideways(page: Page, path: str) -> None:
    page.set_viewport_size({"width": 390, "height": 844})
    page.goto(path)
    page.wait_for_load_state("networkidle")
    wide = page.evaluate(
        """() => [...document.querySelectorAll('body *')].filter((e) => {
            const box = e.getBoundingClientRect()
            if (!box.width || box.right <= innerWidth + 1) return false
            for (let p = e.parentElement; p; p = p.parentElement)
              if (['auto', 'scroll', 'hidden', 'clip'].includes(getComputedStyle(p).overflowX)) return false
            return true
          }).map((e) => `${e.tagName}.${e.className}`).slice(0, 5)"""
    )
    assert page.evaluate("document.documentElement.scrollWidth <= innerWidth + 1"), wide
