"""The start and the lost phase, by real drags and keys on the demo data."""

import re
from typing import Any

import pytest
from playwright.sync_api import Page, expect


@pytest.fixture(autouse=True)
def no_errors(fresh_demo: None, page: Page) -> Any:
    """Every test has its own data, and also fails on an error in the page."""
    errors: list[str] = []
    page.on("pageerror", lambda e: errors.append(str(e)))
    yield
    assert errors == []


def test_the_star_time_is_dragged_on_the_curve_and_set_where_it_is_let_go(page: Page) -> None:
    page.goto("/starters/7/start")
    section = page.get_by_role("region", name="Star time")
    at = section.get_by_role("status")
    expect(at).to_contain_text("After 13.5 s")
    drawing = section.locator(".drawing")
    drawing.scroll_into_view_if_needed()
    box = drawing.bounding_box()
    assert box
    y = box["y"] + 0.5 * box["height"]
    page.mouse.move(box["x"] + 0.66 * box["width"], y)
    page.mouse.down()
    page.mouse.move(box["x"] + 0.45 * box["width"], y, steps=6)
    expect(at).not_to_contain_text("After 13.5 s")  # it follows while it is dragged
    page.mouse.move(box["x"] + 0.33 * box["width"], y, steps=6)
    page.mouse.up()
    timer = page.get_by_role("navigation", name="Line-up")
    expect(timer).not_to_contain_text("star 13.5 s")
    expect(page.get_by_role("region", name="Findings")).to_contain_text("of synchronous speed; it would settle at")
    seconds = float(re.search(r"star ([\d.]+) s", timer.inner_text())[1])  # type: ignore[index]
    assert 3 < seconds < 10
    page.get_by_role("button", name="Undo").click()
    expect(timer).to_contain_text("star 13.5 s")


def test_the_star_time_is_set_by_keys(page: Page) -> None:
    page.goto("/starters/7/start")
    slider = page.get_by_role("slider", name="Star time")
    slider.focus()
    page.keyboard.press("ArrowRight")
    expect(page.get_by_role("navigation", name="Line-up")).to_contain_text("star 14 s")


def test_a_machine_in_words_and_an_inertia_give_a_run_up(page: Page) -> None:
    page.goto("/starters/1/start")
    page.get_by_label("The load is like").click()
    page.get_by_role("option", name="Conveyor, loaded").click()
    expect(page.get_by_label("Torque to break away")).to_have_value("120")
    page.get_by_label("Starting time typed, instead").fill("")
    expect(page.locator("main")).to_contain_text("No run-up can be drawn yet. It needs the load's inertia")
    page.get_by_label("Inertia of the load").fill("0.4")
    expect(page.get_by_role("region", name="The start in figures")).to_contain_text("Run-up")
    expect(page.get_by_role("img", name="Speed and current over time")).to_be_visible()
    page.get_by_text("As a table").first.click()
    expect(page.get_by_role("region", name="Torque of motor and load over speed, as a table")).to_contain_text("load")
    page.get_by_label("Torque to break away").fill("290")
    expect(page.get_by_role("region", name="The start in figures")).to_contain_text("hangs")
    expect(page.get_by_role("region", name="Findings")).to_contain_text("does not move with this load")
    page.get_by_label("Inertia of the load").fill("0")
    expect(page.get_by_role("status").first).to_contain_text("not saved")


def test_the_load_slider_shows_what_a_lost_phase_does(page: Page) -> None:
    page.goto("/starters/7/phase")
    panel = page.get_by_role("region", name="A lost phase at this load")
    expect(panel).to_contain_text("turns on")
    slider = page.get_by_role("slider", name="Load, of rated torque")
    slider.focus()
    page.keyboard.press("End")
    expect(panel).to_contain_text("stops")
    page.keyboard.press("Home")
    expect(panel).to_contain_text("holds")
    expect(page.locator("main")).to_contain_text("an undervoltage setting of 85 % would not see the loss")
    expect(page.get_by_role("region", name="Settings of the monitor")).to_contain_text("phase sequence")


def test_three_voltages_are_judged(page: Page) -> None:
    page.goto("/starters/7/phase")
    for name, value in (("L1-L2", "400"), ("L2-L3", "392"), ("L3-L1", "404")):
        page.get_by_label(f"Voltage {name}").fill(value)
    page.get_by_role("button", name="Judge them").click()
    meter = page.get_by_role("region", name="Unbalance of measured voltages")
    expect(meter).to_contain_text("1.67 %")
    page.get_by_label("Voltage L1-L2").fill("100")
    page.get_by_label("Voltage L2-L3").fill("100")
    page.get_by_role("button", name="Judge them").click()
    expect(meter.get_by_role("alert")).to_contain_text("cannot be three line voltages")


def test_the_curves_are_read_by_keys_and_a_device_is_changed_while_looking(page: Page) -> None:
    page.goto("/starters/7/curves")
    crossings = page.get_by_role("region", name="Crossings that matter")
    expect(crossings).to_contain_text("Relay and device change over at")
    readings = crossings.get_by_role("status", name="Readings")
    before = readings.inner_text()
    slider = page.get_by_role("slider", name="Current to read at")
    slider.focus()
    for _ in range(5):
        page.keyboard.press("ArrowRight")
    expect(readings).not_to_have_text(before)
    page.get_by_role("button", name="Change K1").click()
    page.get_by_text("RC-82", exact=True).click()
    page.get_by_label("Reason").fill("the crossover")
    page.get_by_role("button", name="Use it").click()
    expect(crossings).to_contain_text("below the")
    with page.expect_download() as csv:
        page.get_by_role("link", name="CSV of the curves").click()
    assert csv.value.path().read_text().startswith("curve,edge,kind")
    with page.expect_download() as picture:
        page.get_by_role("button", name="PNG").click()
    assert picture.value.path().read_bytes()[:4] == b"\x89PNG"
