"""A workshop in the browser: signing in, what a role may, a second person, a tablet by its code, and what others change."""

import re
import shutil
import threading
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest
from playwright.sync_api import Browser, BrowserContext, Page, expect
from sqlalchemy.orm import Session
from waitress.server import create_server

from volmek.store.engine import make_engine, upgrade, writer
from volmek.store.people import add_person
from volmek.web.access import Access
from volmek.web.app import DIST, create_app

PASSWORD = "a long enough one"
PEOPLE = {"A. Reader": "reads", "T. Brannoc": "works", "E. Sallow": "designs", "K. Ives": "administers"}


@pytest.fixture
def shop(demo_database: Path, tmp_path: Path) -> Iterator[str]:
    """Address of a workshop with one person of each role."""
    file = tmp_path / "shop.db"
    file.write_bytes(demo_database.read_bytes())
    engine = make_engine(file)
    upgrade(engine)
    with Session(writer(engine)) as session, session.begin():
        for name, role in PEOPLE.items():
            add_person(session, name, role, PASSWORD)  # type: ignore[arg-type]
    engine.dispose()
    app = create_app(file, how=Access(workshop=True))
    server = create_server(app, host="127.0.0.1", port=0, threads=8)
    thread = threading.Thread(target=server.run, daemon=True)
    thread.start()
    yield f"http://127.0.0.1:{server.effective_port}"
    server.close()
    app.extensions["lines"].close()
    app.extensions["queue"].close()
    thread.join(timeout=5)


@pytest.fixture
def machine(browser: Browser, shop: str) -> Iterator[Callable[..., Page]]:
    """A device of its own; of somebody who has signed in where a name is given."""
    made: list[BrowserContext] = []

    def new(name: str = "", **how: object) -> Page:
        context = browser.new_context(base_url=shop, **{"viewport": {"width": 1280, "height": 800}, "service_workers": "block", "reduced_motion": "reduce"} | how)  # type: ignore[arg-type]  # fmt: skip
        made.append(context)
        page = context.new_page()
        page.goto("/")
        if name:
            sign_in(page, name)
        return page

    yield new
    for context in made:
        context.close()


def sign_in(page: Page, name: str, password: str = PASSWORD) -> None:
    box = page.get_by_role("dialog", name="Sign in")
    box.get_by_label("Name").fill(name)
    box.get_by_label("Password").fill(password)
    box.get_by_role("button", name="Sign in").click()
    if password == PASSWORD:
        expect(box).to_have_count(0)


def test_nothing_is_seen_before_signing_in(machine: Callable[..., Page]) -> None:
    page = machine()
    expect(page.get_by_role("dialog", name="Sign in")).to_contain_text("Not encrypted")
    expect(page.get_by_label("Name")).to_be_focused()
    expect(page.get_by_text("Thornebeck Maltings")).to_have_count(0)
    sign_in(page, "K. Ives", "the wrong one")
    expect(page.get_by_role("alert")).to_contain_text("name or password are wrong")
    expect(page.get_by_label("Password")).to_be_focused()
    page.keyboard.type(PASSWORD)
    page.keyboard.press("Enter")
    expect(page.get_by_text("Thornebeck Maltings").first).to_be_visible()
    page.get_by_role("button", name="K. Ives").click()
    page.get_by_role("menuitem", name="Sign out", exact=True).click()
    expect(page.get_by_role("dialog", name="Sign in")).to_be_visible()


def test_who_reads_changes_nothing_and_is_told_so(machine: Callable[..., Page]) -> None:
    page = machine("A. Reader")
    expect(page.get_by_role("button", name="New board")).to_have_count(0)
    expect(page.get_by_role("link", name="Back up everything")).to_have_count(0)
    page.goto("/starters/7/plate")
    expect(page.locator(".bar .state")).to_contain_text("read only")
    expect(page.get_by_label("Rated power", exact=True)).not_to_be_editable()
    page.goto("/starters/7/test")
    expect(page.get_by_text("Read only: the record is kept by people who work at the panel")).to_be_visible()
    assert page.request.get("/api/people").status == 403


def test_who_wrote_it_and_a_second_person_who_signs(machine: Callable[..., Page]) -> None:
    page = machine("T. Brannoc")
    page.goto("/starters/7/test")
    expect(page.get_by_text("Recorded by T. Brannoc")).to_be_visible()
    page.get_by_role("tab", name="Open items, trips, changes").or_(
        page.get_by_role("button", name="Open items, trips, changes")
    ).first.click()
    signatures = page.get_by_role("region", name="Signatures")
    signatures.get_by_role("button", name="Sign as T. Brannoc").first.click()
    expect(signatures).to_contain_text(re.compile(r"T\. Brannoc, \d{4}-\d\d-\d\d\s+signed in"))
    signatures.get_by_role("button", name="Another person…").nth(1).click()
    box = page.get_by_role("dialog", name="Another person signs")
    box.get_by_label("Name").fill("E. Sallow")
    box.get_by_label("Password").fill("the wrong one")
    box.get_by_role("button", name="Sign").click()
    expect(box.get_by_role("alert")).to_contain_text("wrong")
    box.get_by_label("Password").fill(PASSWORD)
    box.get_by_role("button", name="Sign").click()
    expect(signatures).to_contain_text(re.compile(r"E\. Sallow, \d{4}-\d\d-\d\d\s+signed in"))
    signatures.get_by_role("button", name="Seal as built").click()
    expect(signatures).to_contain_text("sealed by T. Brannoc (signed in)")


def test_what_another_changes_comes_by_itself(machine: Callable[..., Page]) -> None:
    mine, theirs = machine("K. Ives"), machine("E. Sallow")
    mine.goto("/starters/7/plate")
    theirs.goto("/starters/7/plate")
    expect(mine.get_by_label("Rated power", exact=True)).to_have_value("37")
    theirs.get_by_label("Rated power", exact=True).fill("36")
    theirs.keyboard.press("Tab")
    expect(mine.get_by_label("Rated power", exact=True)).to_have_value("36")
    expect(mine.get_by_text(re.compile("E. Sallow changed rated power.*just now"))).to_be_visible()
    mine.get_by_role("link", name="KG-2").click()
    theirs.goto("/boards/1")
    mine.goto("/people")
    expect(mine.get_by_role("row", name=re.compile("E. Sallow changed the design KG-2 KG-101"))).to_be_visible()


def test_a_sign_in_that_has_ended_loses_nothing(machine: Callable[..., Page]) -> None:
    tablet, laptop = machine("E. Sallow"), machine("E. Sallow")
    tablet.goto("/starters/7/plate")
    expect(tablet.get_by_label("Rated power", exact=True)).to_have_value("37")
    laptop.get_by_role("button", name="E. Sallow").click()
    laptop.get_by_role("menuitem", name="Sign out all other devices").click()
    expect(laptop.get_by_text("All other devices are signed out")).to_be_visible()
    tablet.get_by_label("Rated power", exact=True).fill("35")
    box = tablet.get_by_role("dialog", name="Sign in")
    expect(box).to_contain_text("What you typed is kept on this page")
    sign_in(tablet, "E. Sallow")
    expect(tablet.locator(".bar .state")).to_contain_text("✓ saved")
    assert tablet.request.get("/api/starters/7").json()["document"]["motor"]["rated_power_kw"] == 35


def test_a_tablet_signs_in_by_its_code(machine: Callable[..., Page], shop: str) -> None:
    laptop, tablet = machine("T. Brannoc"), machine(viewport={"width": 820, "height": 1180}, has_touch=True)
    laptop.get_by_role("button", name="T. Brannoc").click()
    laptop.get_by_role("menuitem", name="Pair a tablet").click()
    box = laptop.get_by_role("dialog", name="Pair a tablet")
    expect(box.get_by_role("img")).to_be_visible()
    expect(box.get_by_role("timer")).to_contain_text(re.compile("expires in [45]:"))
    code = laptop.request.post("/api/pairing").json()["address"].partition("#")[2]
    tablet.goto(f"/pair#{code}")
    expect(tablet).not_to_have_url(re.compile("#"))  # the code does not stay in the address
    tablet.get_by_role("button", name="Sign in on this device").click()
    expect(tablet.get_by_role("button", name="T. Brannoc")).to_be_visible()
    tablet.goto(f"/pair#{code}")
    tablet.get_by_role("button", name="Sign in on this device").click()
    expect(tablet.get_by_role("alert")).to_contain_text("was used or has expired")


def test_people_are_added_given_roles_and_taken_off(machine: Callable[..., Page]) -> None:
    page = machine("K. Ives")
    page.get_by_role("button", name="K. Ives").click()
    page.get_by_role("menuitem", name="People and changes").click()
    people = page.get_by_role("region", name="People")
    people.get_by_label("Name").fill("N. Ober")
    people.get_by_label("Password, at least 10 characters").fill("short")
    people.get_by_role("button", name="Add").click()
    expect(people.get_by_role("alert")).to_contain_text("at least 10")
    people.get_by_label("Password, at least 10 characters").fill(PASSWORD)
    people.get_by_role("button", name="Add").click()
    row = people.get_by_role("row", name=re.compile("N. Ober"))
    expect(row).to_contain_text("works at the panel")
    machine("N. Ober")
    row.get_by_role("button", name="Take off").click()
    expect(row).to_have_count(0)
    people.get_by_role("row", name=re.compile("K. Ives")).get_by_role("button", name="Take off").click()
    expect(people.get_by_role("alert")).to_contain_text("last one who administers")
    meters = page.get_by_role("region", name="Meter addresses")
    meters.get_by_label(re.compile("Host, address")).fill("10.20.0.0/24")
    meters.get_by_role("button", name="Allow").click()
    expect(meters.get_by_role("listitem")).to_contain_text("10.20.0.0/24")
    page.reload()
    expect(page.get_by_role("region", name="Changes")).to_contain_text("took a person off the list")


def test_pages_open_without_the_server_and_keep_what_is_recorded(machine: Callable[..., Page]) -> None:
    page = machine("T. Brannoc", service_workers="allow")
    page.evaluate("navigator.serviceWorker.ready.then(() => true)")
    page.goto("/starters/7/test")
    expect(page.get_by_text("Recorded by T. Brannoc")).to_be_visible()
    page.wait_for_load_state("networkidle")
    page.context.set_offline(True)
    page.goto("/starters/7/test")
    expect(
        page.get_by_role("status").filter(has_text="The server does not answer. This is what it said on")
    ).to_be_visible()
    expect(page.get_by_text("Recorded by T. Brannoc")).to_be_visible()
    page.get_by_role("textbox", name=re.compile("Insulation of motor")).first.or_(
        page.locator("input[inputmode=decimal]").first
    ).first.fill("600")
    page.get_by_role("button", name="Save").first.click()
    expect(page.get_by_role("status", name="Record")).to_contain_text("saved on this device")
    page.reload()
    expect(page.get_by_role("status", name="Record")).to_contain_text("saved on this device")
    page.context.set_offline(False)
    expect(page.get_by_role("status", name="Record")).to_contain_text("All entries saved")
    record = page.request.get("/api/starters/7/record").json()
    assert any(
        r["who"] == "T. Brannoc" and r["value"] == 600
        for g in record["sheet"]["groups"]
        for i in g["items"]
        for r in i["readings"]
    )
    page.get_by_role("button", name="T. Brannoc").click()
    page.get_by_role("menuitem", name="Sign out", exact=True).click()
    expect(page.get_by_role("dialog", name="Sign in")).to_be_visible()
    asked = "caches.open('volmek.answers').then((c) => c.keys()).then((all) => all.map((r) => new URL(r.url).pathname))"
    kept = page.evaluate(asked)
    assert not [x for x in kept if "starters" in x or "boards" in x], "what was said to somebody is gone with them"


def test_a_newer_version_is_taken_without_losing_what_was_typed(browser: Browser, demo_database: Path, tmp_path: Path) -> None:  # fmt: skip
    pages, file = tmp_path / "dist", tmp_path / "alone.db"
    shutil.copytree(DIST, pages)
    file.write_bytes(demo_database.read_bytes())
    app = create_app(file, dist=pages)
    server = create_server(app, host="127.0.0.1", port=0, threads=8)
    threading.Thread(target=server.run, daemon=True).start()
    context = browser.new_context(base_url=f"http://127.0.0.1:{server.effective_port}", service_workers="allow")
    try:
        page = context.new_page()
        page.goto("/starters/7/plate")
        page.evaluate("navigator.serviceWorker.ready.then(() => true)")
        expect(page.get_by_label("Rated power", exact=True)).to_have_value("37")
        (pages / "worker.js.gz").unlink(missing_ok=True)
        (pages / "worker.js").write_text((pages / "worker.js").read_text() + "\n// newer\n")
        page.reload()
        newer = page.get_by_role("status").filter(has_text="A newer version of these pages is here")
        expect(newer).to_be_visible()
        context.set_offline(True)
        page.get_by_label("Rated power", exact=True).fill("36")
        expect(page.locator(".bar .state")).to_contain_text("not saved")
        with page.expect_navigation():
            newer.get_by_role("button", name="Take it now").click()
        expect(page.get_by_label("Rated power", exact=True)).to_have_value("36")
        context.set_offline(False)
        page.reload()
        expect(page.locator(".bar .state")).to_contain_text("✓ saved")
        assert page.request.get("/api/starters/7").json()["document"]["motor"]["rated_power_kw"] == 36
        expect(newer).to_have_count(0)
    finally:
        context.close()
        server.close()
        app.extensions["lines"].close()
