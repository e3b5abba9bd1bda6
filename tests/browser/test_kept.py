"""Nothing typed is lost: a change elsewhere is joined field by field, tabs without a server keep their entries beside each other."""

import re
from collections.abc import Iterator

import pytest
from playwright.sync_api import Browser, Page, expect

pytestmark = pytest.mark.usefixtures("fresh_demo")


@pytest.fixture
def other(browser: Browser, base_url: str) -> Iterator[Page]:
    """A second person at another machine."""
    context = browser.new_context(base_url=base_url, viewport={"width": 1280, "height": 800}, service_workers="block")
    yield context.new_page()
    context.close()


def state(page: Page, words: str) -> None:
    expect(page.locator(".bar .state")).to_contain_text(words)


def plate(page: Page) -> None:
    page.goto("/starters/7/plate")
    expect(page.get_by_label("Voltage", exact=True)).to_be_visible()
    page.evaluate("for (const d of document.querySelectorAll('details')) d.open = true")


def test_a_draft_from_before_a_change_elsewhere_is_joined_and_what_clashes_is_chosen(page: Page, other: Page) -> None:
    plate(page)
    plate(other)
    page.context.set_offline(True)
    page.get_by_label("Rated speed", exact=True).fill("1475")
    page.get_by_label("Efficiency η", exact=True).fill("93")
    state(page, "not saved")
    other.get_by_label("Rated speed", exact=True).fill("1482")
    other.get_by_label("Power factor cos φ", exact=True).fill("0.85")
    state(other, "saved")
    other.wait_for_timeout(300)
    page.context.set_offline(False)
    page.reload()
    clash = page.get_by_role("alert", name="Changed elsewhere")
    expect(clash).to_contain_text("Rated speed")
    expect(clash).to_contain_text("Joined without a clash: Efficiency η")
    expect(clash.get_by_role("row")).to_have_count(2)
    state(page, "not saved: changed elsewhere")
    clash.get_by_role("radio").nth(1).check()
    clash.get_by_role("button", name="Save these").click()
    expect(clash).to_have_count(0)
    state(page, "✓ saved")
    other.reload()
    other.evaluate("for (const d of document.querySelectorAll('details')) d.open = true")
    for label, value in (("Rated speed", "1475"), ("Efficiency η", "93"), ("Power factor cos φ", "0.85")):
        expect(other.get_by_label(label, exact=True)).to_have_value(value)


def test_two_people_in_different_fields_both_keep_what_they_typed(page: Page, other: Page) -> None:
    plate(page)
    plate(other)
    page.get_by_label("Rated speed", exact=True).fill("1475")
    state(page, "✓ saved")
    other.get_by_label("Power factor cos φ", exact=True).fill("0.85")
    state(other, "✓ saved")
    expect(other.get_by_label("Rated speed", exact=True)).to_have_value("1475")
    document = page.request.get("/api/starters/7").json()["document"]["motor"]
    assert (document["rated_speed_rpm"], document["power_factor"]) == (1475, 0.85)


def test_two_tabs_without_a_server_keep_both_entries(page: Page) -> None:
    page.add_init_script("localStorage.setItem('volmek.who', 'Ann')")
    page.goto("/starters/7/test")
    tab = page.context.new_page()
    tab.add_init_script("localStorage.setItem('volmek.who', 'Ann')")
    tab.goto("/starters/7/test")
    expect(tab.get_by_role("textbox", name="Load current L1", exact=True)).to_be_visible()
    page.context.set_offline(True)
    for at, item, value in ((page, "Load current L1", "61"), (tab, "Load current L2", "62")):
        at.get_by_role("textbox", name=item, exact=True).fill(value)
        at.get_by_role("textbox", name=item, exact=True).press("Enter")
    for at in (page, tab):
        expect(at.get_by_role("status", name="Record")).to_contain_text("2 saved on this device")
    tab.close()
    page.context.set_offline(False)
    page.reload()
    expect(page.get_by_role("status", name="Record")).to_contain_text("All entries saved")
    entries = page.request.get("/api/starters/7/record").json()["sheet"]["groups"]
    found = {r["item"]["id"]: [x["value"] for x in r["readings"]] for g in entries for r in g["items"]}
    assert (found["load.L1"][0], found["load.L2"][0]) == (61, 62)


def test_a_refused_entry_is_corrected_and_sent_again(page: Page) -> None:
    page.add_init_script("localStorage.setItem('volmek.who', 'Ann')")
    page.goto("/starters/7/test")
    field = page.get_by_role("textbox", name="Load current L1", exact=True)
    field.fill("-4")
    field.press("Enter")
    alert = page.get_by_role("alert").filter(has_text="not saved")
    expect(alert).to_contain_text("cannot be")
    alert.get_by_role("textbox", name=re.compile("Correct")).fill("60,5")
    alert.get_by_role("button", name="Send again").click()
    expect(page.get_by_text("60.5 A")).to_be_visible()
    expect(alert).to_have_count(0)
