"""Boards, the look of a page and the smaller screens, by real clicks."""

import json
import re
from pathlib import Path
from typing import Any

import pytest
from playwright.sync_api import Page, Route, expect


def test_a_board_is_made_and_a_second_one_of_its_name_refused(page: Page) -> None:
    page.goto("/")
    page.get_by_role("button", name="New board").click()
    page.get_by_label("Job").fill("Thornebeck Maltings")
    page.get_by_label("Board", exact=True).fill("KG-2")
    page.get_by_role("button", name="Create").click()
    expect(page.get_by_role("alert")).to_contain_text("has a board 'KG-2' already")
    page.get_by_label("Board", exact=True).fill("KG-3")
    page.get_by_label("Title").fill("Barley intake")
    page.get_by_role("button", name="Create").click()
    expect(page.get_by_role("heading", level=1)).to_contain_text("KG-3 Barley intake")
    page.get_by_label("New starter, tag").fill("KG-301")
    page.get_by_role("button", name="Add").click()
    expect(page.get_by_role("region", name="Findings")).to_contain_text("line voltage of the supply is needed")


def test_a_tag_is_used_once_on_a_board(page: Page) -> None:
    page.goto("/boards/1")
    page.get_by_label("New starter, tag").fill("KG-104")
    page.get_by_role("button", name="Add").click()
    expect(page.get_by_role("alert")).to_contain_text("has a starter 'KG-104' already")
    page.get_by_label("New starter, tag").fill("")
    page.get_by_role("button", name="Add").click()
    expect(page.get_by_role("alert")).to_contain_text("at least 1 characters")


def test_a_long_list_uses_its_rows_again_and_hands_the_keyboard_back(page: Page) -> None:
    board = page.request.post("/api/boards", data={"job": "Thornebeck Maltings", "name": "KG-L"}).json()["id"]
    text = json.dumps([{"tag": f"L-{n}", "motor": {"rated_power_kw": n / 10}} for n in range(1, 181)])
    assert page.request.post(f"/api/boards/{board}/import", data={"text": text}).status == 201
    page.goto(f"/boards/{board}")
    page.get_by_role("link", name="L-4", exact=True).focus()
    page.locator(".long").evaluate("(list) => (list.scrollTop = 150 * 44)")
    expect(page.get_by_role("row", name=re.compile("L-155"))).to_contain_text("15.5 kW")
    expect(page.locator(".long")).to_be_focused()
    page.get_by_role("link", name="L-155", exact=True).click()
    expect(page.get_by_role("heading", level=1)).to_contain_text("L-155")
    page.goto(f"/boards/{board}")
    page.locator(".long").evaluate("(list) => (list.scrollTop = 3 * 44)")
    expect(page.get_by_role("row", name=re.compile("L-5 "))).to_contain_text("0.5 kW")


def test_a_removed_starter_comes_back_by_undo_or_from_the_bin_and_goes_for_good_only_by_its_tag(page: Page) -> None:
    page.goto("/boards/1")
    link = page.get_by_role("link", name="KG-101")

    def remove() -> None:
        page.get_by_role("button", name="Menu of KG-101").click()
        page.get_by_role("menuitem", name="Remove").click()
        expect(link).to_have_count(0)

    remove()
    page.get_by_role("button", name="Undo").click()
    expect(link).to_be_visible()
    remove()
    page.goto("/starters/7/plate")
    expect(page.get_by_text("KG-101 is in the bin")).to_be_visible()
    page.goto("/")
    page.get_by_role("button", name="Bin (1)").click()
    dialog = page.get_by_role("dialog")
    expect(dialog).to_contain_text("Kiln fan")
    dialog.get_by_role("button", name="Put back KG-101").click()
    expect(dialog).to_contain_text("The bin is empty")
    page.goto("/starters/7/test")
    expect(page.get_by_role("tab", name="Record")).to_be_visible()
    page.goto("/boards/1")
    remove()
    page.get_by_role("button", name="Bin (1)").click()
    dialog.get_by_role("button", name="Remove KG-101 for good").click()
    sure = dialog.get_by_role("button", name="Remove for good", exact=True)
    expect(sure).to_be_disabled()
    dialog.get_by_label("Type KG-101 to remove it for good").fill("KG-101")
    sure.click()
    expect(dialog).to_contain_text("The bin is empty")


def test_a_job_is_saved_as_a_file_and_comes_back_under_another_name(page: Page, tmp_path: Path) -> None:
    page.goto("/")
    with page.expect_download() as saving:
        page.get_by_role("link", name="Save Thornebeck Maltings as a file").click()
    file = tmp_path / saving.value.suggested_filename
    saving.value.save_as(file)
    page.get_by_role("button", name="Import a job").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("File").set_input_files(file)
    dialog.get_by_role("button", name="Import").click()
    expect(dialog.get_by_role("alert")).to_contain_text("there is a job 'Thornebeck Maltings' already")
    dialog.get_by_label("Another name").fill("Second site")
    dialog.get_by_role("button", name="Import").click()
    expect(page.get_by_role("status").filter(has_text="Second site")).to_contain_text("2 boards, 13 starters")
    expect(page.get_by_role("heading", name="Second site")).to_be_visible()
    with page.expect_download() as backing:
        page.get_by_role("link", name="Back up everything").click()
    assert backing.value.suggested_filename.endswith(".db")


def test_the_paper_turns_dark_and_stays_so(page: Page) -> None:
    page.goto("/")
    page.get_by_role("button", name="Dark mode").click()
    expect(page.locator("html")).to_have_class(re.compile("dark"))
    page.reload()
    expect(page.get_by_role("button", name="Light mode")).to_be_visible()


def test_a_page_that_is_not_there_says_so(page: Page) -> None:
    page.goto("/nowhere/at/all")
    expect(page.locator("main")).to_contain_text("There is no such page")
    page.goto("/starters/999/plate")
    expect(page.locator("body")).to_contain_text("there is no starter 999")
    page.goto("/boards/999")
    expect(page.locator("body")).to_contain_text("there is no board 999")


@pytest.mark.parametrize("width", [820, 390])
def test_a_tablet_and_a_telephone_show_and_change_a_starter(page: Page, width: int) -> None:
    page.set_viewport_size({"width": width, "height": 1000})
    page.goto("/starters/1/plate")
    page.get_by_label("Plate current").fill("11/6.4")
    lineup = page.get_by_role("navigation", name="Line-up")
    turn = lineup.get_by_role("button", name="Line-up with ratings and settings")
    if width == 390:  # one line there, until somebody wants it whole
        expect(lineup.get_by_text("class 10")).to_have_count(0)
        turn.click()
    expect(lineup).to_contain_text("set 11 A")
    turn.click()
    expect(lineup.get_by_text("class 10")).to_have_count(0)
    page.get_by_role("navigation", name="Stages").get_by_role("button", name="Devices").click()
    page.get_by_role("button", name=re.compile("^Overload setting: 11 A")).click()
    working = page.get_by_role("complementary", name="Working")
    expect(working).to_be_in_viewport()
    working.get_by_role("button", name="close").click()
    expect(working).to_be_hidden()


def test_north_american_plates_show_their_own_fields(page: Page) -> None:
    page.goto("/starters/1/plate")
    expect(page.get_by_role("combobox", name="Code letter")).to_have_count(0)
    page.goto("/starters/5/plate")
    page.get_by_role("combobox", name="Code letter").click()
    page.get_by_role("option", name="K", exact=True).click()
    # 8.99 kVA/hp at the upper end: 8.99 · 7.5 · 1000 / (√3 · 460) = 84.6 A.
    expect(page.get_by_role("region", name="Currents of the motor")).to_contain_text("84.6 A")
    page.keyboard.press("Alt+]")  # a list has the keys
    page.keyboard.press("]")
    page.get_by_label("A start has failed and is recorded").check()
    expect(page.get_by_role("navigation", name="Line-up")).to_contain_text("RI-40")  # 400 % of 11 A is 44 A


def test_hidden_fields_open_when_a_finding_leads_there(page: Page) -> None:
    page.goto("/starters/1/plate")
    page.get_by_label("Peak inrush factor ki").fill("3")
    expect(page.get_by_role("status")).to_contain_text("not saved")
    page.get_by_text("Assumptions of the method").click()
    page.get_by_role("button", name=re.compile("the most is 2.5")).click()
    expect(page.get_by_label("Peak inrush factor ki")).to_be_focused()


@pytest.mark.parametrize("path", ["/boards/1", "/starters/1/plate", "/starters/1/devices"])
def test_text_is_neither_cut_nor_overlapping_at_the_first_size(page: Page, path: Any) -> None:
    page.goto(path)
    page.wait_for_load_state("networkidle")
    cut = page.evaluate(
        """() => [...document.querySelectorAll('.lineup .line, .lineup .title, td, th, dt, dd, .stages button, label')]
          .filter((e) => e.scrollWidth > e.clientWidth + 1 && getComputedStyle(e).display !== 'inline' && e.clientWidth > 1)
          .map((e) => e.textContent.trim())"""
    )
    assert cut == []


def test_the_supply_limit_changes_the_verdicts_and_a_method_redraws_the_line_up(page: Page) -> None:
    page.goto("/starters/1/method")
    direct = page.locator("label", has=page.get_by_text("Direct on line", exact=True))
    star = page.locator("label", has=page.get_by_text("Star-delta, timed", exact=True))
    expect(direct).to_contain_text("✓ Suitable")
    page.get_by_label("Maximum starting current").fill("60")
    expect(direct).to_contain_text("The start draws 78.4 A from the line; the limit is 60 A.")
    expect(page.get_by_role("region", name="Findings")).to_contain_text("The start draws 78.4 A from the line")
    expect(star).to_contain_text("✓ Suitable")
    star.get_by_role("radio").check()
    changes = page.get_by_role("dialog", name="What changes")
    expect(changes).to_contain_text("+ K3 Contactor")
    changes.get_by_role("button", name="OK").click()
    lineup = page.get_by_role("navigation", name="Line-up")
    for words in ("Delta contactor", "Star contactor", "Star-delta timer", "set 6.12 A"):
        expect(lineup).to_contain_text(words)
    page.get_by_role("combobox", name="Overload relay in").click()
    page.get_by_role("option", name="In the supply line").click()
    expect(page.get_by_role("region", name="Findings")).to_contain_text("1.73 times the winding's rated current")
    page.get_by_role("button", name=re.compile("1.73 times")).click()
    expect(page.get_by_role("combobox", name="Overload relay in")).to_be_visible()
    page.get_by_label("Maximum starting current").fill("")
    expect(direct).to_contain_text("✓ Suitable")


def test_a_method_that_the_motor_cannot_have_is_not_offered_anew_but_opens_where_it_is_kept(page: Page) -> None:
    page.goto("/starters/2/method")
    star = page.locator("label", has=page.get_by_text("Star-delta, timed", exact=True))
    expect(star).to_contain_text("windings made for 230 V")
    expect(star.get_by_role("radio")).to_be_disabled()
    kept = page.request.get("/api/starters/2").json()
    document = {**kept["document"], "starter": {"type": "star_delta"}}
    page.request.put("/api/starters/2", data={"version": kept["version"], "document": document})
    page.reload()
    expect(star.get_by_role("radio")).to_be_checked()
    findings = page.get_by_role("region", name="Findings")
    expect(findings).to_contain_text("windings made for 230 V")
    direct = page.locator("label", has=page.get_by_text("Direct on line", exact=True))
    direct.get_by_role("radio").check()
    page.get_by_role("button", name="OK", exact=True).click()
    expect(findings).not_to_contain_text("windings made for 230 V")
    expect(star.get_by_role("radio")).to_be_disabled()


def test_a_method_that_needs_more_of_the_plate_asks_for_it(page: Page) -> None:
    page.goto("/starters/1/method")
    slip_ring = page.locator("label", has=page.get_by_text("Resistors in the rotor", exact=True))
    slip_ring.get_by_role("radio").check()
    page.get_by_role("button", name="OK", exact=True).click()
    findings = page.get_by_role("region", name="Findings")
    expect(findings).to_contain_text("needs the rotor voltage from the plate")
    findings.get_by_role("button", name=re.compile("rotor current")).click()
    expect(page.get_by_label("Rotor current", exact=True)).to_be_focused()
    page.get_by_label("Rotor current", exact=True).fill("18")
    page.get_by_label("Rotor voltage", exact=True).fill("260")
    expect(page.get_by_role("navigation", name="Line-up")).to_contain_text("Rotor contactor 3")
    page.keyboard.press("Alt+]")
    expect(page.get_by_role("table", name="Devices")).to_contain_text("Added resistance in each phase before K2 closes")


def test_a_single_phase_motor_has_its_own_plate_loop_and_capacitors(page: Page) -> None:
    page.goto("/boards/1")
    page.get_by_label("New starter, tag").fill("KG-150")
    page.get_by_label("Description", exact=True).fill("Borehole pump")
    page.get_by_role("button", name="Add").click()
    page.get_by_role("combobox", name="Phases").click()
    page.get_by_role("option", name="One").click()
    page.get_by_label("Rated power", exact=True).fill("1.1")
    page.get_by_label("Voltage", exact=True).fill("230")
    page.get_by_label("Plate current").fill("7.2")
    expect(page.get_by_role("navigation", name="Line-up")).to_contain_text("set 7.2 A")
    page.keyboard.press("Alt+]")
    expect(page.get_by_role("radio", name=re.compile("Single-phase, direct"))).to_be_checked()
    expect(page.locator("label", has=page.get_by_text("Star-delta, timed", exact=True))).to_contain_text("Not suitable")
    page.keyboard.press("1")
    page.get_by_role("combobox", name="Kind of motor").click()
    page.get_by_role("option", name="Start and run capacitor").click()
    expect(page.get_by_role("img", name="One current through all three poles")).to_be_visible()
    expect(page.locator("#field-motor-run_capacitor_uf")).to_have_attribute("placeholder", re.compile("5"))
    expect(page.get_by_role("region", name="Findings")).to_contain_text("discharge it and prove it dead")


def test_a_starter_is_copied_under_a_new_tag(page: Page) -> None:
    page.goto("/boards/1")
    page.get_by_role("button", name="Menu of KG-106A").click()
    page.get_by_role("menuitem", name="Copy on this board").click()
    expect(page.get_by_label("Tag", exact=True)).to_have_value("KG-106C")
    expect(page.get_by_role("navigation", name="Line-up")).to_contain_text("set 8.1 A")


def test_methods_stand_side_by_side_and_one_is_taken(page: Page) -> None:
    page.goto("/starters/1/method")
    for name in ("Direct on line", "Star-delta, timed", "Autotransformer"):
        page.get_by_role("checkbox", name=f"Compare {name}").check()
    expect(page.get_by_role("checkbox", name="Compare Part winding")).to_be_disabled()
    side = page.get_by_role("region", name="Side by side")
    expect(side.get_by_role("article")).to_have_count(3)
    expect(side).to_contain_text("26.1 A at the start")
    expect(side).to_contain_text("8 devices")
    side.get_by_role("button", name="Use star-delta, timed").click()
    page.get_by_role("button", name="OK", exact=True).click()
    expect(page.get_by_role("navigation", name="Line-up")).to_contain_text("Star contactor")
    expect(side.get_by_role("button", name="In use")).to_be_disabled()


def test_a_comparison_that_comes_late_does_not_replace_a_newer_one(page: Page) -> None:
    held: list[Route] = []

    def hold_two(route: Route) -> None:
        """The answer for two methods waits until the one for three was shown."""
        if route.request.url.count("method=") == 2:
            held.append(route)
        else:
            route.continue_()

    page.route("**/compare?*", hold_two)
    page.goto("/starters/1/method")
    for name in ("Star-delta, timed", "Autotransformer"):
        page.get_by_role("checkbox", name=f"Compare {name}").check()
    side = page.get_by_role("region", name="Side by side")
    expect(side.get_by_role("article")).to_have_count(3)
    with page.expect_response("**/compare?*"):
        held[0].continue_()
    page.get_by_role("checkbox", name="Compare Autotransformer").focus()
    expect(side.get_by_role("article")).to_have_count(3)


def test_tables_are_found_by_typing_and_kept_in_the_address(page: Page) -> None:
    page.goto("/")
    page.get_by_role("link", name="Practice", exact=True).click()
    listed = page.get_by_role("navigation", name="Tables and schools")
    listed.get_by_role("link", name="Trip classes of overload relays").click()
    expect(page.get_by_role("heading", level=1)).to_have_text("Trip classes of overload relays")
    page.get_by_label("Find").fill("awg")
    expect(page.get_by_role("status")).to_contain_text("Tables: 1")
    expect(page.get_by_role("row", name="14 AWG")).to_contain_text("2.08")
    page.get_by_label("Find").fill("wye")
    expect(page.get_by_role("region", name="Place of the overload relay in a star-delta starter")).to_be_visible()
    page.reload()
    expect(page.get_by_label("Find")).to_have_value("wye")
    page.get_by_label("Find").fill("no such thing")
    expect(page.get_by_text("Nothing holds all of these words")).to_be_visible()
