"""Enlarged twice, with a large font, or on a telephone: everything can be reached, nothing lies under something else."""

from collections.abc import Iterator
from typing import Any

import pytest
from playwright.sync_api import BrowserType, Page, expect

VIEWS = ["/", "/boards/1", "/catalogue", "/tables"] + [
    f"/starters/7/{x}" for x in ("plate", "method", "devices", "start", "curves", "phase-loss", "circuit", "build", "test", "documents")
]  # fmt: skip
#: Controls of the page that are seen, but whose middle lies outside the window or under something else when they are brought up.
COVERED = """() => {
  const bad = []
  const all = [...document.querySelectorAll('main button, main a[href], main input, main select, main summary, nav button, nav a')]
  for (const e of all.filter((x) => x.checkVisibility({ visibilityProperty: true }) && !x.disabled).slice(0, 90)) {
    if (e.closest('svg, .p-hidden-accessible, .visually-hidden, .p-tablist') || e.type === 'file') continue
    e.scrollIntoView({ block: 'center', inline: 'nearest' })
    const b = e.getBoundingClientRect()
    if (b.width < 3 || b.height < 3) continue
    const [x, y] = [b.left + b.width / 2, b.top + b.height / 2]
    const on = document.elementFromPoint(x, y)
    if (!on || !(e === on || e.contains(on) || on.contains(e) || e.closest('label, .p-select, .p-inputwrapper')?.contains(on)))
      bad.push(`${e.tagName} ${e.getAttribute('aria-label') || e.textContent.trim().slice(0, 30) || e.className} at ${Math.round(x)},${Math.round(y)} under ${on?.tagName} ${on?.className}`)
  }
  return bad
}"""


@pytest.fixture(scope="module")
def large_font(browser_type: BrowserType, browser_type_launch_args: dict[str, Any]) -> Iterator[Any]:
    """A browser whose font was set to 20 px."""
    args = [*browser_type_launch_args["args"], "--blink-settings=defaultFontSize=20"]
    browser = browser_type.launch(**{**browser_type_launch_args, "args": args})
    yield browser
    browser.close()


def opened(page: Page, path: str) -> None:
    page.goto(path)
    expect(page.get_by_role("main")).to_be_visible()
    page.wait_for_load_state("networkidle")
    assert page.evaluate("document.documentElement.scrollWidth <= innerWidth")
    assert page.evaluate(COVERED) == []


@pytest.mark.parametrize("path", VIEWS)
def test_twice_as_large_everything_is_reached(newcomer: None, page: Page, path: str) -> None:
    """A window of 1280 by 800 at 200 %."""
    page.set_viewport_size({"width": 640, "height": 400})
    opened(page, path)


@pytest.mark.parametrize("path", VIEWS)
def test_with_a_large_font_everything_is_reached(large_font: Any, base_url: str, path: str) -> None:
    page = large_font.new_page(base_url=base_url, viewport={"width": 1280, "height": 800})
    opened(page, path)
    assert page.evaluate("getComputedStyle(document.documentElement).fontSize") == "17.5px"
    page.close()


@pytest.mark.parametrize("path", VIEWS)
def test_on_a_telephone_everything_is_reached(newcomer: None, page: Page, path: str) -> None:
    page.set_viewport_size({"width": 390, "height": 844})
    opened(page, path)


def test_a_stage_is_built_with_one_thumb(newcomer: None, page: Page) -> None:
    """Cards, targets of 48 px, the stage before and the next one at the foot."""
    page.set_viewport_size({"width": 390, "height": 844})
    page.add_init_script("localStorage.setItem('volmek.who', 'A. Fitter')")
    page.goto("/starters/7/build")
    stage = page.get_by_role("combobox", name="Stage of the build")
    expect(stage).to_have_value("4")
    for name in ("Isolated", "Locked off", "Proved dead"):
        page.get_by_role("button", name=name).click()
    tick = page.get_by_role("button", name="Wire 8 from K1:A1 to K1:54 connected")
    for control in (
        tick,
        page.get_by_role("button", name="Next", exact=True),
        page.get_by_label("Length of wire 8 from K1:A1 in mm"),
    ):
        box = control.bounding_box()
        assert box and box["height"] >= 47.5 and box["x"] >= 0 and box["x"] + box["width"] <= 390, box
    tick.click()
    expect(page.get_by_text("28 of 68 connected")).to_be_visible()
    page.get_by_role("button", name="Next", exact=True).click()
    expect(page.get_by_role("heading", name="6 Coil of K2")).to_be_visible()
    expect(page.get_by_role("navigation", name="Stages of the build")).to_be_hidden()


def test_the_line_up_is_one_line_on_a_telephone(newcomer: None, page: Page) -> None:
    page.set_viewport_size({"width": 390, "height": 844})
    page.goto("/starters/7/devices")
    line = page.get_by_role("navigation", name="Line-up")
    expect(line).to_be_visible()
    box = line.bounding_box()
    assert box and box["height"] < 110
