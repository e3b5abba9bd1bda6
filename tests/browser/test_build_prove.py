"""Building and proving at the panel, in a real browser: on a laptop, on a tablet, with the server gone and back."""

import re
from typing import Any

import pytest
from playwright.sync_api import Page, Route, expect

BEGUN, BUILT, PROVED = 7, 2, 1


@pytest.fixture(autouse=True)
def signed_on(no_errors: None, page: Page) -> None:
    """Somebody who has said who writes."""
    page.add_init_script("localStorage.setItem('volmek.who', 'Ann')")


def arrived(page: Page) -> Any:
    return expect(page.get_by_role("status", name="Record"))


def build(page: Page, stage: str) -> None:
    page.goto(f"/starters/{BEGUN}/build")
    page.get_by_role("navigation", name="Stages of the build").get_by_role("button", name=stage).click()
    expect(page.get_by_role("heading", name=stage)).to_be_visible()


def values(page: Page, item: str, starter: int = BEGUN) -> list[Any]:
    sheet = page.request.get(f"/api/starters/{starter}/record").json()["sheet"]
    return [r["value"] for g in sheet["groups"] for x in g["items"] if x["item"]["id"] == item for r in x["readings"]]


def test_a_stage_is_built_read_and_tried(page: Page) -> None:
    build(page, "Seal-in of K1")
    expect(page.get_by_text("27 of 68 connected")).to_be_visible()
    first = page.get_by_role("button", name="Step 1: as expected")
    expect(first).to_be_disabled()
    expect(page.get_by_text("Not energised yet: first isolate")).to_be_visible()
    for tick in ("Isolated", "Locked off", "Proved dead"):
        page.get_by_role("button", name=tick, exact=True).click()
        expect(page.get_by_role("button", name=f"✓ {tick}")).to_be_visible()
    for wire in ("8 from K1:A1 to K1:54", "4 from K1:13 to S1:2"):
        page.get_by_role("button", name=f"Wire {wire} connected").click()
        expect(page.get_by_role("button", name=f"Wire {wire} connected")).to_have_attribute("aria-pressed", "true")
    page.get_by_label("Length of wire 8 from K1:A1 in mm").fill("340")
    page.get_by_label("Torque at wire 8 from K1:A1 in Nm").fill("1,2")
    page.get_by_label("Torque at wire 8 from K1:A1 in Nm").press("Enter")
    expect(page.get_by_text("29 of 68 connected")).to_be_visible()
    expect(page.get_by_text("Not energised yet: first take 4 more of the 4 continuity readings")).to_be_visible()
    reads = {
        "nothing touched": {"K1:13": "open", "K1:53": "coil"},
        "K1 pushed in by hand": {"K1:13": "closed", "K1:53": "closed"},
    }
    for held, ends in reads.items():
        for a, word in ends.items():
            group = page.get_by_role("group", name=re.compile(f"^{a} to .*{held}"))
            group.get_by_role("button", name=word, exact=True).click()
    expect(first).to_be_enabled()
    expect(page.get_by_text("29 of 68 connected")).to_be_visible()
    steps = page.get_by_role("button", name=re.compile(r"^Step \d+: as expected$"))
    for n in range(steps.count()):
        steps.nth(n).click()
        expect(steps.nth(n)).to_have_attribute("aria-pressed", "true")
    expect(page.get_by_text("Everything in this stage reads and works")).to_be_visible()
    page.get_by_role("button", name="Next: Coil of K2").click()
    expect(page.get_by_role("heading", name="6 Coil of K2")).to_be_visible()


def test_something_else_is_seen_and_its_causes_are_named(page: Page) -> None:
    build(page, "Coil of K1")
    page.get_by_role("button", name="Step 2: different").click()
    page.get_by_label("K1 was").select_option("out")
    page.get_by_role("button", name="Possible causes").click()
    causes = page.get_by_role("status", name="Likely causes")
    expect(causes).to_contain_text("The coil of K1 is open, or made for another voltage.")
    page.get_by_role("button", name=re.compile("Show the other")).click()
    expect(causes).to_contain_text("Wire 8 from K1:A1 is connected to")
    expect(page.get_by_text("seen instead: K1 out")).to_have_count(0)
    page.get_by_role("button", name="Save as different").click()
    expect(page.get_by_text("seen instead: K1 out")).to_be_visible()
    group = page.get_by_role("group", name=re.compile("^F3:2 to K1:A1, S2 held pressed, K3 pushed in by hand, reads"))
    group.get_by_role("button", name="open", exact=True).click()
    expect(causes.first).to_contain_text("missing or loose")


def test_the_drawing_shows_what_is_laid_next_and_open(page: Page) -> None:
    build(page, "Seal-in of K1")
    drawing = page.get_by_label(re.compile("^Control circuit with")).first
    for state in ("done", "next", "open"):
        expect(drawing.locator(f".w-{state}").first).to_be_attached()
    before = drawing.locator(".w-done").count()
    page.get_by_role("cell", name="K1:13", exact=True).first.click()
    expect(page.get_by_text("wire 4: K1:13 to S1:2")).to_be_visible()
    page.get_by_role("button", name="Power", exact=True).click()
    expect(page.get_by_label(re.compile("^Power circuit")).first.locator(".w-open").first).to_be_attached()
    page.get_by_role("button", name="Control", exact=True).click()
    page.get_by_role("button", name="Wire 8 from K1:A1 to K1:54 connected").click()
    expect(page.get_by_text("28 of 68 connected")).to_be_visible()
    assert drawing.locator(".w-done").count() > before


def test_the_wire_list_by_device_and_power_first(page: Page) -> None:
    build(page, "Supply")
    page.get_by_role("button", name="Wire list").click()
    page.get_by_role("button", name="By device").click()
    expect(page.get_by_role("heading", name="K2", exact=True)).to_be_visible()
    page.get_by_role("button", name="By place").click()
    expect(page.get_by_role("heading", name="field", exact=True)).to_be_visible()
    page.get_by_role("button", name="Stage by stage").click()
    page.get_by_label("Which circuit is wired first").select_option("power_first")
    expect(page.get_by_role("navigation", name="Stages of the build").get_by_role("button").nth(1)).to_contain_text(
        "Power circuit"
    )


def test_a_tablet_keeps_what_was_written_while_the_server_is_gone(page: Page) -> None:
    page.set_viewport_size({"width": 820, "height": 1180})
    page.goto(f"/starters/{BEGUN}/test")
    expect(page.get_by_role("textbox", name="Load current L1", exact=True)).to_be_visible()
    page.route("**/api/**", lambda route: route.abort())
    for line, value in (("L1", "54,8"), ("L2", "55.1")):
        page.get_by_role("textbox", name=f"Load current {line}", exact=True).fill(value)
        page.get_by_role("textbox", name=f"Load current {line}", exact=True).press("Enter")
    arrived(page).to_contain_text("2 saved on this device")
    expect(page.get_by_text("54.8 A on its way")).to_be_visible()
    page.unroute_all()
    assert values(page, "load.L1") == []
    page.reload()  # the tablet was put down and opened again
    arrived(page).to_contain_text("All entries saved")
    assert values(page, "load.L1") == [54.8] and values(page, "load.L2") == [55.1]


def test_an_answer_that_is_lost_on_the_way_doubles_nothing(page: Page) -> None:
    """The server has kept the entry, but its answer never comes: it is sent again under the same key."""
    page.goto(f"/starters/{BEGUN}/test")
    lost: list[str] = []

    def lose(route: Route) -> None:
        if not lost:
            lost.append(route.fetch().text())
            route.abort()
        else:
            route.continue_()

    page.route("**/journal", lose)
    page.get_by_role("textbox", name="Load current L3", exact=True).fill("56.2")
    page.get_by_role("textbox", name="Load current L3", exact=True).press("Enter")
    arrived(page).to_contain_text("All entries saved")
    assert lost and values(page, "load.L3") == [56.2]


def test_the_browser_itself_is_offline_and_back(page: Page) -> None:
    page.set_viewport_size({"width": 820, "height": 1180})
    build(page, "Coil of K2")
    page.context.set_offline(True)
    name = "Wire 9 from KT1:18 to K3:21 connected"
    page.get_by_role("button", name=name).click()
    expect(page.get_by_role("button", name=name)).to_have_text("…")
    arrived(page).to_contain_text("The server does not answer")
    page.context.set_offline(False)
    arrived(page).to_contain_text("All entries saved")
    expect(page.get_by_text("28 of 68 connected")).to_be_visible()


def test_readings_are_judged_refused_and_meant(page: Page) -> None:
    page.goto(f"/starters/{BEGUN}/test")
    dead = page.get_by_role("region", name="Dead, before any voltage")
    field = page.get_by_role("textbox", name="Insulation of motor and cable to earth")
    for typed, words in (
        ("-4", "cannot be: from 0"),
        ("lots", "must be a number in MΩ"),
        ("0,0005", "is the unit right"),
    ):
        field.fill(typed)
        field.press("Enter")
        expect(dead.get_by_role("alert")).to_contain_text(words)
    page.get_by_role("button", name="Confirm").click()
    expect(dead).to_contain_text("0.0005 MΩ is below 1 MΩ: damp, dirt or a damaged winding")
    field.fill("320")
    field.press("Enter")
    expect(dead).to_contain_text("320 MΩ")
    page.get_by_role("button", name="1 earlier").click()
    expect(dead).to_contain_text("0.0005 MΩ")
    page.get_by_role("group", name="Rotation of the supply").get_by_role("button", name="anticlockwise").click()
    expect(page.get_by_role("region", name="Supply")).to_contain_text("must be: clockwise")
    expect(page.get_by_role("button", name=re.compile("^▲ 2 open"))).to_be_visible()


def test_values_are_read_from_the_meter(page: Page) -> None:
    page.goto(f"/starters/{BEGUN}/test")
    page.get_by_role("button", name="Read the load currents from the meter").click()
    expect(page.get_by_text(re.compile("The meter at 127.0.0.1:502 cannot be reached"))).to_be_visible()
    page.get_by_role("button", name="Meter…").first.click()
    page.get_by_role("button", name="Start the simulated meter").click()
    page.get_by_role("button", name="Operate the starter").click()
    expect(page.get_by_text(re.compile("It answers at 127.0.0.1"))).to_be_visible()
    page.get_by_role("button", name="Close", exact=True).click()
    page.get_by_role("button", name="Read the load currents from the meter").click()
    expect(page.get_by_role("textbox", name="Load current L1", exact=True)).to_have_value(re.compile(r"^5\d\.\d+$"))
    page.get_by_role("button", name="Read the start from the meter").click()
    expect(page.get_by_role("textbox", name="Star time", exact=True)).to_have_value(re.compile(r"^13\.\d+$"))
    page.get_by_role("button", name=re.compile(r"^Save \d readings")).click()
    running = page.get_by_role("region", name="Running")
    expect(running.get_by_text(re.compile(", meter"))).to_have_count(7)
    expect(running).to_contain_text("Unbalance of the load currents")
    page.get_by_role("button", name="Meter…").first.click()
    page.get_by_label("Register of current_l1", exact=True).fill("4000")
    page.get_by_role("button", name="Save these settings").click()
    expect(page.get_by_role("dialog").get_by_text("✓ saved")).to_be_visible()
    page.get_by_role("button", name="Close", exact=True).click()
    page.get_by_role("button", name="Read the load currents from the meter").click()
    expect(
        page.get_by_text(re.compile("register 4000: it has no such register; check the register map"))
    ).to_be_visible()
    page.request.delete(f"/api/starters/{BEGUN}/meter/stand-in")


def test_a_trip_is_followed_to_its_end_and_points_are_settled(page: Page) -> None:
    page.goto(f"/starters/{BUILT}/test")
    expect(page.get_by_role("button", name="▲ 3 open")).to_be_visible()
    page.get_by_role("tab", name="Open items, trips, changes").click()
    trips = page.get_by_role("region", name="Trips")
    trips.get_by_role("button", name="Cause, repair, restart…").click()
    trips.get_by_role("button", name="Save and close the trip").click()
    expect(page.get_by_role("alert")).to_contain_text("a trip cannot be closed without its cause")
    page.get_by_role("button", name="Dismiss").click()
    trips.get_by_role("button", name="Cause, repair, restart…").click()
    trips.get_by_label("Cause").fill("Valve shut by mistake")
    trips.get_by_label("Repair").fill("Valve opened, handle locked")
    trips.get_by_role("button", name="Save and close the trip").click()
    expect(trips).to_contain_text("✓ closed")
    points = page.get_by_role("region", name="Open items")
    points.get_by_role("button", name="Close…").last.click()
    points.get_by_label("How it was closed").fill("printed and fitted")
    points.get_by_role("button", name="Close", exact=True).click()
    expect(page.get_by_role("button", name="▲ 1 open")).to_be_visible()
    changes = page.get_by_role("region", name="Changes")
    for label, text in (
        ("Device or wire", "K1"),
        ("As designed", "RC-13"),
        ("As built", "RC-18"),
        ("Reason", "RC-13 not in stock"),
    ):
        changes.get_by_label(label).fill(text)
    changes.get_by_role("button", name="Add deviation").click()
    expect(changes).to_contain_text("RC-13 not in stock")
    signatures = page.get_by_role("region", name="Signatures")
    signatures.get_by_role("button", name="Sign as Ann").first.click()
    expect(signatures).to_contain_text("Ann, 20")
    signatures.get_by_role("button", name="Seal as built").click()
    expect(signatures).to_contain_text("✓ made by this installation; document, figures and entries are unchanged since")
    page.goto("/boards/1")
    expect(page.get_by_role("row", name=re.compile("KG-106A"))).to_contain_text("▲ 1")


def test_what_creeps_is_said_first_and_the_papers_show_it(page: Page) -> None:
    page.goto(f"/starters/{PROVED}/test")
    page.get_by_role("tab", name="Trends").click()
    first = page.locator("figure").first
    expect(first).to_contain_text("Load current L2 creeps up: 9.5 A in 2023, 10.4 A in 2026")
    expect(first.get_by_role("img")).to_be_visible()
    page.keyboard.press("5")
    page.get_by_role("button", name="Report", exact=True).click()
    frame = page.frame_locator("iframe")
    expect(frame.get_by_text("Load current L2 creeps up").first).to_be_visible()
    page.get_by_role("button", name="Labels", exact=True).click()
    expect(frame.get_by_text("Malt elevator head drive").first).to_be_visible()
    with page.expect_download() as download:
        page.get_by_role("link", name="wire markers").click()
    assert download.value.suggested_filename == "KG-104-markers.csv"


def test_keys_alone_lay_a_wire(page: Page) -> None:
    build(page, "Seal-in of K1")
    button = page.get_by_role("button", name="Wire 8 from K1:A1 to K1:54 connected")
    button.focus()
    page.keyboard.press("Space")
    expect(button).to_have_attribute("aria-pressed", "true")
    page.keyboard.press("Tab")
    page.keyboard.type("250")
    page.keyboard.press("Tab")
    arrived(page).to_contain_text("All entries saved")
    row = page.request.get(f"/api/starters/{BEGUN}/build").json()["sheet"]["wires"]
    assert next(w for w in row if w["item"]["key"] == "K1:54~K1:A1")["length_mm"] == 250


def test_nothing_is_written_before_somebody_says_who(page: Page) -> None:
    page.add_init_script("localStorage.removeItem('volmek.who')")
    page.goto(f"/starters/{BEGUN}/build")
    expect(page.get_by_text("Enter your name before anything is saved")).to_be_visible()
    expect(page.get_by_role("button", name=re.compile("^Wire .* connected$")).first).to_be_disabled()
    page.get_by_label("Recorded by").fill("Bob")
    expect(page.get_by_role("button", name=re.compile("^Wire .* connected$")).first).to_be_enabled()


def test_two_tablets_on_one_starter(page: Page) -> None:
    """Both read the same current without knowing of each other: both stay, the conflict is said, a third reading ends it."""
    page.goto(f"/starters/{BEGUN}/test")
    expect(page.get_by_role("textbox", name="Load current L1", exact=True)).to_be_visible()
    other = {
        "key": "bobs-tablet-1",
        "kind": "reading",
        "who": "Bob",
        "said": "2026-11-25T10:00:00Z",
        "seen": 0,
        "body": {"item": "load.L1", "value": 61.0},
    }
    assert page.request.post(f"/api/starters/{BEGUN}/journal", data={"entries": [other]}).ok
    page.get_by_role("textbox", name="Load current L1", exact=True).fill("55")
    page.get_by_role("textbox", name="Load current L1", exact=True).press("Enter")
    clash = page.get_by_text(re.compile("Bob wrote 61.0, Ann wrote 55.0, neither knowing of the other"))
    expect(clash).to_be_visible()
    assert values(page, "load.L1") == [55, 61]
    page.get_by_role("textbox", name="Load current L1", exact=True).fill("56")
    page.get_by_role("textbox", name="Load current L1", exact=True).press("Enter")
    expect(clash).to_have_count(0)
    assert values(page, "load.L1") == [56, 55, 61]


def test_a_clock_that_is_wrong_is_said(page: Page) -> None:
    page.clock.install(time="2031-01-01T08:00:00Z")
    page.goto(f"/starters/{BEGUN}/test")
    page.get_by_role("textbox", name="Frequency").fill("50")
    page.get_by_role("textbox", name="Frequency").press("Enter")
    expect(
        page.get_by_text(re.compile("The clock of Ann's device is off or ran backwards: it says 2031-01-01"))
    ).to_be_visible()
    assert values(page, "frequency") == [50]


def test_an_inspection_is_planned_done_and_due_again(page: Page) -> None:
    page.goto(f"/starters/{BEGUN}/test")
    page.get_by_role("tab", name="Open items, trips, changes").click()
    region = page.get_by_role("region", name="Inspections")
    region.get_by_label("What").fill("Retighten terminals")
    region.get_by_label("Every, months").fill("6")
    region.get_by_label("First due").fill("2026-12-01")
    region.get_by_role("button", name="Add inspection").click()
    expect(region.get_by_role("listitem")).to_contain_text("2026-12-01 Retighten terminals")
    region.get_by_role("button", name="Done…").click()
    region.get_by_label("Done on").fill("2026-11-20")
    region.get_by_label("Result").fill("in order")
    region.get_by_role("button", name="Done", exact=True).click()
    expect(region.get_by_role("listitem")).to_contain_text("2027-05-20")
    with page.expect_download() as download:
        region.get_by_role("link", name="calendar file").click()
    assert b"Retighten terminals" in download.value.path().read_bytes()


def test_the_papers_carry_what_is_open_and_print_without_the_page_around(page: Page) -> None:
    page.goto(f"/starters/{BUILT}/documents")
    frame = page.frame_locator("iframe")
    expect(frame.get_by_text("Label for the terminal strip missing")).to_be_visible()
    page.get_by_role("button", name="Report", exact=True).click()
    expect(frame.get_by_text(re.compile(r"Still open: \d+"))).to_be_visible()
    expect(frame.get_by_text(re.compile("trials are not done yet"))).to_be_visible()
    with page.expect_download() as download:
        page.get_by_role("link", name="Save as PDF").click()
    assert download.value.path().read_bytes().startswith(b"%PDF")
    page.goto(f"/starters/{BUILT}/build")
    page.get_by_role("button", name="Wire list").click()
    page.emulate_media(media="print")
    expect(page.get_by_role("toolbar", name="Build")).to_be_hidden()
    expect(page.get_by_role("cell", name="K1:A1").first).to_be_visible()


def test_what_is_being_typed_stays_while_the_list_comes_anew(page: Page) -> None:
    """The answer to a tick arrives while a length is typed beside it."""
    build(page, "Seal-in of K1")
    held: list[Route] = []
    page.route("**/build?*", lambda route: route.continue_() if held else held.append(route))
    page.get_by_role("button", name="Wire 8 from K1:A1 to K1:54 connected").click()
    field = page.get_by_label("Length of wire 4 from K1:13 in mm")
    field.press_sequentially("61")
    while not held:
        page.wait_for_timeout(50)
    held[0].continue_()
    expect(page.get_by_text("28 of 68 connected")).to_be_visible()
    expect(field).to_have_value("61")
    field.press_sequentially("0")
    field.press("Enter")
    arrived(page).to_contain_text("All entries saved")
    rows = page.request.get(f"/api/starters/{BEGUN}/build").json()["sheet"]["wires"]
    assert next(w for w in rows if w["item"]["a"] == "K1:13" and w["item"]["b"] == "S1:2")["length_mm"] == 610
