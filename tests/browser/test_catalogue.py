"""Catalogues of one's own, tested combinations, presets and several leads, by real clicks on the demo data."""

import re
from pathlib import Path

from playwright.sync_api import Page, expect

from volmek.core.catalogue.catalogue import reference_catalogue
from volmek.files.catalogue_files import write_csv, write_xlsx

R = reference_catalogue()


def make_catalogue(page: Page, name: str) -> None:
    page.goto("/catalogue")
    page.get_by_label("New catalogue").fill(name)
    page.get_by_role("button", name="Create").click()
    expect(page.get_by_role("heading", level=1)).to_have_text(name)


def store_room(folder: Path, *, spoilt: bool) -> Path:
    """A CSV with two contactors, one of them better for KG-104 than what it has."""
    rc = next(c for c in R.contactors if c.type == "RC-13")
    rows = [rc.model_copy(update={"type": "TM-11", "ac3_400_a": 11.0}), rc.model_copy(update={"type": "TM-14"})]
    text = write_csv("contactors", rows)
    path = folder / ("spoilt.csv" if spoilt else "store.csv")
    path.write_text(text.replace("TM-14,F1", "TM-14,").replace(",11,", ",11 A,", 1) if spoilt else text)
    return path


def test_a_file_with_problems_shows_each_at_its_row_and_column_and_is_not_taken(page: Page, tmp_path: Path) -> None:
    make_catalogue(page, "Store room")
    page.get_by_role("button", name="Import a catalogue").click()
    take = page.get_by_role("button", name="Import", exact=True)
    expect(take).to_be_disabled()
    page.get_by_label("File", exact=True).set_input_files(store_room(tmp_path, spoilt=True))
    expect(page.get_by_role("dialog")).to_contain_text("2 problems: nothing is imported until the file is corrected.")
    problems = page.get_by_role("region", name="Problems")
    expect(problems.get_by_role("row").nth(1)).to_have_text(
        re.compile(r"Contactors\s*AC-3 at 400 V, A\s*2\s*TM-11.*has a unit in it; write 11")
    )
    expect(problems.get_by_role("row").nth(2)).to_have_text(re.compile(r"Contactors\s*Frame\s*3\s*TM-14.*is required"))
    wrong = page.get_by_role("region", name="Rows of Contactors").locator(".wrong")
    expect(wrong).to_have_text([re.compile("11 A"), re.compile("■")])
    expect(take).to_be_disabled()
    page.get_by_label("File", exact=True).set_input_files(store_room(tmp_path, spoilt=False))
    expect(page.get_by_role("dialog")).to_contain_text("Every row can be read. Contactors: 2 new, 0 changed")
    take.click()
    expect(page.get_by_role("dialog")).to_have_count(0)
    expect(page.get_by_role("region", name="Devices").get_by_role("row")).to_have_count(4)


def test_a_board_chooses_it_and_a_device_taken_out_stays_with_its_design(page: Page, tmp_path: Path) -> None:
    make_catalogue(page, "Store room")
    page.get_by_role("button", name="Import a catalogue").click()
    page.get_by_label("File", exact=True).set_input_files(store_room(tmp_path, spoilt=False))
    page.get_by_role("button", name="Import", exact=True).click()
    expect(page.get_by_role("dialog")).to_have_count(0)
    page.goto("/boards/1")
    row = page.get_by_role("row").filter(has_text="KG-104")
    expect(row).to_contain_text("RC-13")
    page.get_by_role("button", name="Choose catalogues").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_role("checkbox", name=re.compile("Store room")).check()
    dialog.get_by_role("button", name="Use these").click()
    expect(page.locator(".from")).to_contain_text("Reference range R, Store room")
    expect(row).to_contain_text("RC-13")  # a finished design keeps its devices
    page.get_by_role("button", name="Choose catalogues").click()
    dialog.get_by_role("checkbox", name=re.compile("Select the devices of all starters again")).check()
    dialog.get_by_role("button", name="Use these").click()
    expect(row).to_contain_text("TM-11")
    page.goto("/catalogue/1/contactors")
    page.get_by_role("button", name="Delete TM-11").click()
    page.get_by_role("button", name="Delete it").click()
    expect(page.get_by_role("region", name="Devices")).not_to_contain_text("TM-11")
    page.goto("/boards/1")
    expect(row).to_contain_text("TM-11")
    page.get_by_role("link", name="KG-104").click()
    page.get_by_role("navigation", name="Stages").get_by_role("button", name="Devices").click()
    expect(page.get_by_role("table", name="Devices")).to_contain_text(
        "TM-11 is no longer in the catalogue of this board"
    )
    page.get_by_role("button", name="Use the catalogue as it is now", exact=True).click()
    expect(page.get_by_role("table", name="Devices")).not_to_contain_text("TM-11")
    expect(page.get_by_role("table", name="Devices")).to_contain_text("RC-13")


def test_a_whole_workbook_goes_in_and_an_export_comes_out(page: Page, tmp_path: Path) -> None:
    make_catalogue(page, "Copy of R")
    book = tmp_path / "all.xlsx"
    book.write_bytes(write_xlsx(R.tables))
    page.get_by_role("button", name="Import a catalogue").click()
    page.get_by_label("File", exact=True).set_input_files(book)
    page.get_by_role("button", name="Import", exact=True).click()
    expect(page.get_by_role("navigation", name="Tables of the catalogue")).to_contain_text(
        f"Breakers {len(R.tables['breakers'])}"
    )
    page.get_by_role("link", name=re.compile("Tested combinations")).click()
    page.get_by_label("Find").fill("star RC-42")
    expect(page.get_by_text("No device of this table has that in a cell.")).to_be_visible()
    page.get_by_label("Find").fill("RC-42")
    expect(page.get_by_role("region", name="Devices")).to_contain_text("RC-42")
    with page.expect_download() as download:
        page.get_by_role("link", name="Export this table, CSV").click()
    assert download.value.path().read_text(encoding="utf-8-sig") == write_csv("tested_combinations", R.combinations)
    page.get_by_role("button", name="Remove this catalogue").click()
    expect(page.locator("main")).to_contain_text("No board uses it.")
    page.get_by_role("button", name="Remove for good").click()
    expect(page.get_by_role("heading", level=1)).to_have_text("Reference range R")


def test_a_tested_set_is_one_click_away_and_one_undo_back(page: Page) -> None:
    page.goto("/starters/1/devices")
    panel = page.get_by_role("region", name="Coordination")
    expect(panel).to_contain_text("Tested, type 1")
    panel.get_by_label("Coordination type").click()
    page.get_by_role("option", name=re.compile("Type 2")).click()
    findings = page.get_by_role("region", name="Findings")
    expect(findings).to_contain_text("Coordination type 2 is asked for")
    panel.get_by_role("button", name=re.compile("^Use set TC-")).first.click()
    expect(panel).to_contain_text("Tested, type 2")
    expect(page.get_by_role("table", name="Devices")).to_contain_text("your choice: tested combination TC-")
    expect(findings).not_to_contain_text("Coordination type 2 is asked for")
    page.get_by_role("button", name="Undo").click()
    expect(findings).to_contain_text("Coordination type 2 is asked for")


def test_upstream_fuses_are_compared_as_soon_as_they_are_known(page: Page) -> None:
    page.goto("/starters/1/devices")
    panel = page.get_by_role("region", name="Coordination")
    panel.get_by_text("Upstream device", exact=True).first.click()
    panel.get_by_role("combobox", name="Upstream device").click()
    page.get_by_role("option", name="Fuses gG").click()
    panel.get_by_label("Upstream rated current").fill("160")
    expect(panel).to_contain_text(re.compile(r"fuse gG of 160 A upstream (do not touch|may trip)"))


def test_a_preset_is_kept_taken_over_and_begins_a_new_starter(page: Page) -> None:
    page.goto("/starters/7/plate")
    page.get_by_role("button", name="Presets").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_role("button", name="Save", exact=True).click()
    expect(dialog.get_by_role("status")).to_contain_text("Give it a name")
    dialog.get_by_label("Name of the preset").fill("Kiln fans")
    dialog.get_by_role("button", name="Save", exact=True).click()
    expect(dialog.get_by_role("status")).to_contain_text("“Kiln fans” is saved.")
    page.goto("/boards/1")
    page.get_by_label("New starter, tag").fill("KG-190")
    page.get_by_label("Beginning with").click()
    page.get_by_role("option", name="Kiln fans").click()
    page.get_by_role("button", name="Add").click()
    expect(page).to_have_url(re.compile("/starters/"))
    page.get_by_role("navigation", name="Stages").get_by_role("button", name="Devices").click()
    expect(page.get_by_role("region", name="Protection")).to_contain_text("Moulded-case breaker")
    page.goto("/starters/1/devices")
    expect(page.get_by_role("navigation", name="Line-up")).to_contain_text("RM-15")
    page.get_by_role("button", name="Presets").click()
    page.get_by_role("button", name="Apply Kiln fans").click()
    expect(page.get_by_role("navigation", name="Line-up")).to_contain_text("Star contactor")
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_role("navigation", name="Line-up")).not_to_contain_text("Star contactor")


def test_nine_leads_show_which_are_joined_at_each_voltage(page: Page) -> None:
    page.goto("/boards/2")
    page.get_by_label("New starter, tag").fill("PL-90")
    page.get_by_role("button", name="Add").click()
    plate = page.get_by_role("region", name="Motor plate")
    plate.get_by_label("Rated power", exact=True).fill("15")
    plate.get_by_label("Voltage").fill("230/460")
    plate.get_by_label("Plate current").fill("38/19")
    page.get_by_role("combobox", name="Winding", exact=True).click()
    page.get_by_role("option", name="Wye").click()
    expect(page.get_by_role("img", name=re.compile("9 leads, star, windings in series"))).to_be_visible()
    page.get_by_label("Line voltage").fill("230")
    expect(page.get_by_role("img", name=re.compile("9 leads, star, windings in parallel: L1 on T1 T7"))).to_be_visible()
    plate.get_by_label("Voltage").fill("230/300")
    expect(plate).to_contain_text("'230/300' is not understood")
