"""The live circuit, by real presses, keys, trips, lost phases, broken wires and replays."""

import re

from playwright.sync_api import Locator, Page, expect


def opened(page: Page, starter: int = 7) -> Locator:
    page.goto(f"/starters/{starter}/circuit")
    panel = page.get_by_role("region", name="Operate")
    expect(panel.get_by_role("button", name="S2 ")).to_be_visible()
    return panel


def hold(page: Page, button: Locator, seconds: float = 0.5) -> None:
    """A finger on a button, by the mouse."""
    box = button.bounding_box()
    assert box
    page.mouse.move(box["x"] + box["width"] / 2, box["y"] + 20)
    page.mouse.down()
    page.wait_for_timeout(1000 * seconds)
    page.mouse.up()


def log(page: Page) -> Locator:
    return page.get_by_role("list", name="Log")


def test_press_and_hold_starts_in_star_and_changes_over(page: Page) -> None:
    panel = opened(page)
    motor = panel.get_by_role("status", name="Motor")
    hold(page, panel.get_by_role("button", name="S2 Start"))
    expect(motor).to_contain_text("star, forward")
    expect(log(page)).to_contain_text("K1 pulls in")
    expect(panel.get_by_label("P1 running: lit")).to_be_visible()
    panel.get_by_role("button", name="×10").click()
    expect(motor).to_contain_text("delta, forward", timeout=10000)
    page.get_by_role("tab", name="Time chart").click()
    expect(page.get_by_text(re.compile(r"K3 drops out, \d+ ms later K2 pulls in"))).to_be_visible()
    expect(page.get_by_role("img", name=re.compile("Time chart of K1, K2, K3"))).to_be_visible()
    panel.get_by_role("button", name="Pause").click()
    hold(page, panel.get_by_role("button", name="S1 Stop"), 0.3)
    expect(panel.get_by_label("P2 stopped: lit")).to_be_visible()


def test_the_overload_trips_and_a_phase_is_lost(page: Page) -> None:
    panel = opened(page)
    hold(page, panel.get_by_role("button", name="S2 Start"))
    expect(panel.get_by_label("P1 running: lit")).to_be_visible()
    panel.get_by_role("button", name="trip F1").click()
    expect(panel.get_by_label("P3 tripped: lit")).to_be_visible()
    expect(panel.get_by_role("status", name="Motor")).to_contain_text("coasts")
    panel.get_by_role("button", name="reset F1").click()
    expect(panel.get_by_label("P3 tripped: dark")).to_be_visible()
    panel.get_by_role("button", name="Lose L1").click()
    expect(panel.get_by_label("P2 stopped: dark")).to_be_visible()  # the control circuit hangs on it
    panel.get_by_role("button", name="Restore L1").click()
    expect(panel.get_by_label("P2 stopped: lit")).to_be_visible()
    panel.get_by_role("button", name="S0 Emergency stop").click()
    expect(panel.get_by_role("button", name="S0 Emergency stop")).to_have_attribute("aria-pressed", "true")
    expect(panel.get_by_label("P2 stopped: dark")).to_be_visible()


def test_keys_alone_press_start_and_walk_event_by_event(page: Page) -> None:
    panel = opened(page, 1)
    panel.get_by_role("button", name="S2 Start").focus()
    page.keyboard.down("Space")
    page.wait_for_timeout(400)
    page.keyboard.up("Space")
    expect(log(page)).to_contain_text("K1 pulls in")
    panel.get_by_role("button", name="S1 Stop").focus()
    page.keyboard.press("Enter", delay=300)
    expect(log(page)).to_contain_text("K1 drops out")
    panel.get_by_role("button", name="Reset simulation").click()
    panel.get_by_role("button", name="Pause").click()
    expect(log(page)).not_to_contain_text("K1 pulls in")
    hold(page, panel.get_by_role("button", name="S2 Start"), 0.1)
    expect(log(page)).to_contain_text("press S2")
    panel.get_by_role("button", name="Next event").click()
    panel.get_by_role("button", name="Next event").click()
    panel.get_by_role("button", name="Next event").click()
    expect(log(page)).to_contain_text("K1 pulls in")


def test_a_contact_a_wire_and_a_terminal_are_found(page: Page) -> None:
    opened(page)
    picked = page.get_by_role("status", name="Picked")
    page.get_by_role("button", name="K1 coil").click()
    expect(picked).to_contain_text("K1: coil or load in path")
    expect(picked).to_contain_text("13-14 in path")
    page.get_by_label("Find a terminal or wire").fill("K2:21")
    page.keyboard.press("Enter")
    expect(picked).to_contain_text("K2: coil or load in path")
    page.get_by_label("Find a terminal or wire").fill("6")
    page.keyboard.press("Enter")
    expect(picked).to_contain_text("Wire 6: ")
    page.get_by_role("button", name="Power", exact=True).click()
    expect(page.get_by_label(re.compile("^Power circuit: Q1, K1"))).to_be_visible()
    page.get_by_role("button", name="Ladder").click()
    page.get_by_role("button", name="Control", exact=True).click()
    expect(page.locator("svg text", has_text="OL").first).to_be_visible()
    page.get_by_role("link", name="Sheets to print").click()
    sheets = page.frame_locator("iframe").locator("section")
    expect(sheets.filter(has_text="301").filter(has_text="OL").first).to_be_visible()


def test_a_broken_wire_shows_and_is_explained(page: Page) -> None:
    panel = opened(page, 1)
    page.get_by_role("tab", name="Insert fault").click()
    page.get_by_role("combobox", name="What to do").click()
    page.get_by_role("option", name="Remove a wire").click()
    page.get_by_label("Terminal, contact or wire").fill("S2:3")
    page.get_by_label("Second terminal").fill("K1:13")
    page.get_by_role("button", name="Insert", exact=True).click()
    expect(page.get_by_text("K1 has no seal-in path round the start button")).to_be_visible()
    expect(page.get_by_text("Let go: it drops out.")).to_be_visible()
    hold(page, panel.get_by_role("button", name="S2 Start"))
    page.get_by_role("tab", name="Log").click()
    expect(log(page)).to_contain_text("K1 drops out")
    page.get_by_role("tab", name="Insert fault").click()
    page.get_by_label("Terminal, contact or wire").fill("nonsense")
    page.get_by_label("Second terminal").fill("K1:13")
    page.get_by_role("button", name="Insert", exact=True).click()
    expect(page.get_by_role("alert").first).to_contain_text("cannot be here")
    page.get_by_role("button", name="Clear remove S2:3 K1:13").click()
    expect(page.get_by_text("The circuit is as designed.")).to_be_visible()


def test_proofs_hold_and_a_broken_one_is_replayed(page: Page) -> None:
    panel = opened(page)
    page.get_by_role("tab", name="Proofs").click()
    proofs = page.get_by_role("tabpanel", name="Proofs")
    expect(proofs.get_by_text("✓ holds")).to_have_count(11)
    page.get_by_role("tab", name="Insert fault").click()
    page.get_by_role("combobox", name="What to do").click()
    page.get_by_role("option", name="Add a wire").click()
    page.get_by_label("Terminal, contact or wire").fill("F1:95")
    page.get_by_label("Second terminal").fill("F1:96")
    page.get_by_role("button", name="Insert", exact=True).click()
    expect(page.get_by_text("The contact of F1 is not in the circuit of")).to_be_visible()
    page.get_by_role("tab", name="Proofs").click()
    expect(proofs.get_by_text("■ broken").first).to_be_visible()
    proofs.get_by_role("button", name="Replay overload_drops_all").click()
    panel.get_by_role("button", name="×10").click()
    expect(panel.get_by_role("button", name="reset F1")).to_be_visible()
    expect(panel.get_by_label("P1 running: lit")).to_be_visible()  # tripped, and it runs on


def test_a_single_failure_is_looked_up_and_put_in(page: Page) -> None:
    panel = opened(page)
    page.get_by_role("tab", name="Single failures").click()
    row = page.get_by_role("row", name=re.compile("^weld K1 ")).first
    expect(row).to_contain_text("Starts by itself", timeout=90000)
    page.get_by_role("button", name="Insert weld K1", exact=True).click()
    expect(page.get_by_role("list", name="Faults inserted")).to_contain_text("weld K1")
    expect(panel.get_by_role("status", name="Motor")).to_contain_text("star, forward")


def test_what_shows_itself_nowhere_becomes_a_yearly_test_of_the_record(page: Page) -> None:
    opened(page)
    page.get_by_role("tab", name="Single failures").click()
    row = page.get_by_role("row", name=re.compile(r"^weld F1:95-96 "))
    into = row.get_by_role("button", name="into the record")
    expect(into).to_be_disabled(timeout=90000)
    page.get_by_label("Recorded by").fill("K. Example")
    into.click()
    expect(row).to_contain_text("✓ in the record")
    page.goto(page.url.replace("/circuit", "/test"))
    page.get_by_role("tab", name="Open items, trips, changes").click()
    expect(
        page.get_by_text("Contact F1:95-96 changes over: dead, with F1 tripped by its test button").first
    ).to_be_visible()


def test_options_draw_the_circuit_anew(page: Page) -> None:
    panel = opened(page, 1)
    page.get_by_role("tab", name="Options").click()
    page.get_by_label("Running", exact=True).check()
    expect(panel.get_by_label("P1 running: dark")).to_be_visible()
    page.get_by_role("combobox", name="Started by").click()
    page.get_by_role("option", name="Hand / off / auto").click()
    expect(panel.get_by_role("group", name="Hand / off / auto")).to_be_visible()
    panel.get_by_role("button", name="hand", exact=True).click()
    expect(panel.get_by_label("P1 running: lit")).to_be_visible()
    page.get_by_role("tab", name="Truth table").click()
    expect(page.get_by_role("tabpanel", name="Truth table")).to_contain_text("Restarts by itself")
    page.get_by_role("tab", name="Options").click()
    page.get_by_role("combobox", name="Duty and stand-by").click()
    page.get_by_role("option", name="Fitted").click()
    expect(page.get_by_text("No circuit yet: a stand-by set has its own selectors")).to_be_visible()
    page.get_by_role("button", name="Undo").click()
    expect(panel.get_by_role("group", name="Hand / off / auto")).to_be_visible()


def test_a_change_is_told_as_wires_and_parts(page: Page) -> None:
    opened(page, 1)
    page.get_by_role("tab", name="Change").click()
    page.get_by_role("combobox", name="Change").click()
    page.get_by_role("option", name="To star-delta, timed").click()
    change = page.get_by_role("tabpanel", name="Change")
    expect(change).to_contain_text("+ K3 Contactor")
    expect(change.get_by_role("heading", name=re.compile(r"^Add \d+"))).to_be_visible()
    expect(change).to_contain_text("prove dead")


def test_a_line_is_changed_as_found_proved_and_taken_back(page: Page) -> None:
    opened(page)
    page.get_by_role("tab", name="As found").click()
    seal = page.get_by_label("Line bus > (S2:3-4 | K1:13-14) > r")
    seal.fill("bus > S2:3-4 > r")
    seal.press("Tab")
    changed = page.get_by_text("Changed by hand")
    expect(changed).to_be_visible()
    more = page.get_by_label("Another line")
    more.fill("bus > K9:13-14 > r")
    more.press("Tab")
    expect(page.get_by_text("There is no K9 in this circuit.").first).to_be_visible()
    page.get_by_role("button", name="Take away").click()
    more = page.get_by_label("Another line")
    expect(changed).to_be_visible()
    more.fill("bus > K1:33-34 > r")
    more.press("Tab")
    expect(page.get_by_text("2 of the generated lines")).to_be_visible()
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_text("1 of the generated lines")).to_be_visible()
    page.get_by_role("button", name="All as generated").click()
    expect(changed).to_have_count(0)


def test_an_own_rule_is_written_proved_replayed_and_removed(page: Page) -> None:
    opened(page)
    page.get_by_role("tab", name="Proofs").click()
    page.get_by_label("Usual patterns").select_option(label="one never without another")
    rule = page.get_by_label("Own rule")
    expect(rule).to_have_value("K2 never without K1")
    page.get_by_role("button", name="Add and prove").click()
    row = page.get_by_role("row", name=re.compile("K2 never without K1"))
    expect(row).to_contain_text("✓ holds")
    rule.fill("K1 never without K3")
    rule.press("Enter")
    broken = page.get_by_role("row", name=re.compile("K1 never without K3"))
    expect(broken).to_contain_text("■ broken")
    rule.fill("K9 never without K1")
    rule.press("Enter")
    expect(page.get_by_text("at letter 1: a device of this circuit, not K9")).to_be_visible()
    page.get_by_role("button", name="Remove K9 never without K1").click()
    expect(page.get_by_text("at letter 1")).to_have_count(0)
    broken.get_by_role("button", name="Replay own_rule_2").click()
    page.get_by_role("tab", name="Log").click()
    expect(log(page)).to_contain_text("press S2")
