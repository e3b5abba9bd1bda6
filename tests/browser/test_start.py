"""The start and the lost phase, by real drags and keys on the demo data."""

import re
from pathlib import Path

from playwright.sync_api import Page, Route, expect


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
    said = re.search(r"star ([\d.]+) s", timer.inner_text())
    assert said
    seconds = float(said[1])
    assert 3 < seconds < 10
    page.get_by_role("button", name="Undo").click()
    expect(timer).to_contain_text("star 13.5 s")


def test_the_star_time_is_set_by_keys(page: Page) -> None:
    page.goto("/starters/7/start")
    slider = page.get_by_role("slider", name="Star time")
    slider.focus()
    page.keyboard.press("ArrowRight")
    expect(page.get_by_role("navigation", name="Line-up")).to_contain_text("star 14 s")


def test_the_first_stage_of_an_autotransformer_is_typed_and_dragged_back(page: Page) -> None:
    page.goto("/starters/7/method")
    page.get_by_role("radio", name=re.compile("^Autotransformer")).check()
    page.get_by_role("button", name="OK", exact=True).click()
    page.get_by_role("navigation", name="Stages").get_by_role("button", name="Start").click()
    section = page.get_by_role("region", name="First stage")
    expect(section).to_contain_text("no reclosing peak")
    section.get_by_label("First stage", exact=True).last.fill("2")
    expect(section.get_by_role("status")).to_contain_text("After 2 s")
    expect(page.get_by_role("region", name="Findings")).to_contain_text("it would settle at")
    slider = section.get_by_role("slider", name="First stage")
    slider.focus()
    page.keyboard.press("ArrowRight")
    expect(section.get_by_label("First stage", exact=True).last).to_have_value("2.5")


def test_a_setting_of_the_monitor_is_typed_and_judged(page: Page) -> None:
    page.goto("/starters/7/phase-loss")
    panel = page.get_by_role("region", name="Settings of the monitor")
    panel.get_by_text("Three-wire", exact=True).click()
    page.get_by_role("button", name="OK", exact=True).click()
    panel.get_by_label("asymmetry", exact=True).fill("30")
    expect(panel).to_contain_text("it is not detected")
    expect(page.get_by_role("navigation", name="Line-up")).to_contain_text("asymmetry 30 %")
    expect(page.get_by_role("region", name="Findings")).to_contain_text("it is not detected")
    panel.get_by_label("asymmetry", exact=True).fill("400")
    expect(page.get_by_role("status").first).to_contain_text("not saved")


def test_a_machine_in_words_and_an_inertia_give_a_run_up(page: Page) -> None:
    page.goto("/starters/1/start")
    page.get_by_role("combobox", name="Load type").click()
    page.get_by_role("option", name="Conveyor, loaded").click()
    expect(page.get_by_label("Breakaway torque")).to_have_value("120")
    page.get_by_label("Starting time").fill("")
    expect(page.locator("main")).to_contain_text("No run-up can be drawn yet. It needs the load's inertia")
    page.get_by_label("Load inertia").fill("0.4")
    expect(page.get_by_role("region", name="The start in figures")).to_contain_text("Run-up")
    expect(page.get_by_role("img", name="Speed and current over time")).to_be_visible()
    page.get_by_text("As a table").first.click()
    expect(page.get_by_role("region", name="Torque of motor and load over speed, as a table")).to_contain_text("load")
    page.get_by_label("Breakaway torque").fill("290")
    expect(page.get_by_role("region", name="The start in figures")).to_contain_text("stalls")
    expect(page.get_by_role("region", name="Findings")).to_contain_text("does not move with this load")
    page.get_by_label("Load inertia").fill("0")
    expect(page.get_by_role("status").first).to_contain_text("not saved")


def test_the_load_slider_shows_what_a_lost_phase_does(page: Page) -> None:
    page.goto("/starters/7/phase-loss")
    panel = page.get_by_role("region", name="A lost phase at this load")
    expect(panel).to_contain_text("keeps running")
    slider = page.get_by_role("slider", name="Load, of rated torque")
    slider.focus()
    page.keyboard.press("End")
    expect(panel).to_contain_text("must trip from 1.15 times on")
    page.keyboard.press("Home")
    expect(panel).to_contain_text("holds")
    expect(page.locator("main")).to_contain_text("the undervoltage setting of 90 % does not detect the loss")
    expect(page.get_by_role("region", name="Settings of the monitor")).to_contain_text("phase sequence")


def test_three_voltages_are_judged(page: Page) -> None:
    page.goto("/starters/7/phase-loss")
    for name, value in (("L1-L2", "400"), ("L2-L3", "392"), ("L3-L1", "404")):
        page.get_by_label(f"Voltage {name}").fill(value)
    page.get_by_role("button", name="Check unbalance").click()
    meter = page.get_by_role("region", name="Unbalance of measured voltages")
    expect(meter).to_contain_text("1.67 %")
    page.get_by_label("Voltage L1-L2").fill("100")
    page.get_by_label("Voltage L2-L3").fill("100")
    page.get_by_role("button", name="Check unbalance").click()
    expect(meter.get_by_role("alert")).to_contain_text("cannot be three line voltages")


def test_the_curves_are_read_by_keys_and_a_device_is_changed_while_looking(page: Page) -> None:
    page.goto("/starters/7/curves")
    crossings = page.get_by_role("region", name="Coordination checks")
    expect(crossings).to_contain_text("Relay and short-circuit device cross over at")
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


def test_a_torque_curve_is_typed_as_points_and_one_that_runs_backwards_is_refused(page: Page) -> None:
    page.goto("/starters/7/start")
    figures = page.get_by_role("region", name="The start in figures")
    expect(figures).to_contain_text("13.6")
    points = page.get_by_label("Torque curve", exact=True)
    points.fill("0 10; 60 20; 100 60")
    points.press("Tab")
    expect(figures).not_to_contain_text("13.6")
    points.fill("0 10; 60 20; 40 60")
    points.press("Tab")
    expect(page.get_by_role("region", name="Load and inertia")).to_contain_text("the curve runs backwards")
    points.fill("0 10; sixty 20")
    points.press("Tab")
    expect(page.get_by_role("region", name="Load and inertia")).to_contain_text("'sixty' is not a number")
    points.fill("")
    points.press("Tab")
    expect(figures).to_contain_text("13.6")


def test_a_torque_curve_comes_from_a_file(page: Page, tmp_path: Path) -> None:
    file = tmp_path / "fan.csv"
    file.write_text("speed_pct;torque_pct\n0;10\n60;20\n100;60\n")
    page.goto("/starters/7/start")
    expect(page.get_by_role("region", name="The start in figures")).to_contain_text("13.6")
    page.get_by_label("Load curve from CSV").set_input_files(file)
    expect(page.get_by_label("Torque curve", exact=True)).to_have_value("0 10; 60 20; 100 60")
    expect(page.get_by_role("region", name="The start in figures")).not_to_contain_text("13.6")
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_role("region", name="The start in figures")).to_contain_text("13.6")


def test_nothing_can_be_typed_before_the_starter_is_there(page: Page, tmp_path: Path) -> None:
    """What was chosen while the page loaded was overwritten as the starter arrived, or went to the one before."""
    file = tmp_path / "fan.csv"
    file.write_text("speed_pct;torque_pct\n0;10\n100;60\n")
    held: list[Route] = []
    page.route(
        "**/api/starters/7", lambda route: held.append(route) if route.request.method == "GET" else route.continue_()
    )
    page.goto("/starters/7/start")
    expect(page.get_by_text("Opening the starter")).to_be_visible()
    expect(page.get_by_label("Load curve from CSV")).to_have_count(0)
    held[0].continue_()
    page.get_by_label("Load curve from CSV").set_input_files(file)
    expect(page.get_by_label("Torque curve", exact=True)).to_have_value("0 10; 100 60")


def test_a_measured_curve_comes_in_from_a_file_and_goes_again(page: Page, tmp_path: Path) -> None:
    good, bad = tmp_path / "relay in the shop.csv", tmp_path / "backwards.csv"
    good.write_text("current_a,time_s\n80,300\n200,20\n500,3\n")
    bad.write_text("current_a,time_s\n200,20\n80,300\n")
    page.goto("/starters/7/curves")
    readings = page.get_by_role("region", name="Coordination checks").get_by_role("status", name="Readings")
    page.get_by_label("Measured curve from CSV").set_input_files(good)
    expect(readings).to_contain_text("relay in the shop")
    page.get_by_label("Measured curve from CSV").set_input_files(bad)
    expect(page.get_by_role("alert")).to_contain_text("'backwards' lies at 80 A, not above the 200 A before it")
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_role("alert")).to_have_count(0)
    page.get_by_role("button", name="without measured curves").click()
    expect(readings).not_to_contain_text("relay in the shop")


def test_a_measured_run_up_takes_the_place_of_the_inertia(page: Page) -> None:
    page.goto("/starters/7/start")
    figures = page.get_by_role("region", name="The start in figures")
    page.get_by_label("Load inertia").fill("")
    expect(page.locator("main")).to_contain_text("It needs the load's inertia or a measured run-up time")
    page.get_by_label("Measured run-up time (direct on line)").fill("8")
    expect(figures).to_contain_text("proposed 9.5 s")
    page.get_by_role("navigation", name="Stages").get_by_role("button", name="Devices").click()
    expect(page.get_by_role("table", name="Devices")).to_contain_text("RZ-30")


def test_the_verdicts_of_the_methods_follow_the_run_up(page: Page) -> None:
    page.goto("/starters/7/start")
    page.get_by_label("Load torque at speed").fill("105")
    page.get_by_role("combobox", name="Torque over speed").click()
    page.get_by_role("option", name="Linear with speed").click()
    expect(page.get_by_role("region", name="Findings")).to_contain_text("80 % is needed before the change-over")
    page.get_by_role("navigation", name="Stages").get_by_role("button", name="Method").click()
    row = page.get_by_role("group", name="Starting method").locator("label").filter(has_text="Star-delta, timed")
    expect(row).to_contain_text("Not suitable")
    expect(row).to_contain_text("before the change-over")
