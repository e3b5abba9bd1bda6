"""Takes the pictures of docs/screenshots anew, from fresh demo data: make screenshots."""

import os
import sys
import tempfile
import threading
from collections.abc import Callable
from pathlib import Path

from playwright.sync_api import Browser, Page, sync_playwright
from sqlalchemy.orm import Session
from waitress.server import create_server

from volmek.store.engine import writer
from volmek.store.meters import allow
from volmek.store.people import add_person
from volmek.web.access import Access
from volmek.web.app import create_app
from volmek.web.demo import fill

HERE = Path(__file__).parent


def take(page: Page, base: str) -> None:
    """Each main view once, at the size it is made for."""

    def shot(name: str) -> None:
        page.wait_for_load_state("networkidle")
        page.wait_for_timeout(250)
        page.screenshot(path=HERE / f"{name}.png")

    page.goto(f"{base}/")
    page.get_by_label("Motor plate in one line").fill("37 kW 400/690 V 66 A star delta 25 m")
    page.get_by_text("changes", exact=False).first.wait_for()
    shot("boards")
    page.goto(f"{base}/boards/1")
    shot("board")
    page.goto(f"{base}/starters/3/plate")
    shot("plate-misread")
    page.goto(f"{base}/starters/7/method")
    page.get_by_label("Compare Direct on line").check()
    page.get_by_role("article").nth(1).wait_for()
    shot("methods")
    page.get_by_label("Compare Direct on line").uncheck()
    page.goto(f"{base}/starters/1/devices")
    page.get_by_role("button", name="Overload setting:").first.click()
    shot("devices-working")
    page.goto(f"{base}/starters/7/start")
    page.get_by_role("img", name="Speed and current over time").wait_for()
    shot("start")
    page.goto(f"{base}/starters/7/curves")
    page.get_by_role("img", name="Time-current curves of this starter").wait_for()
    shot("curves")
    page.goto(f"{base}/starters/7/phase-loss")
    page.get_by_role("img", name="Currents after a lost phase over load").wait_for()
    shot("phase-loss")
    page.goto(f"{base}/catalogue")
    shot("catalogue")
    circuits(page, base, shot)
    panel(page, base, shot)


def panel(page: Page, base: str, shot: Callable[[str], None]) -> None:
    """Building, proving, the years and the papers; the tablet last."""
    page.evaluate("localStorage.setItem('volmek.who', 'E. Sallow')")
    page.goto(f"{base}/starters/7/build")
    page.get_by_role("heading", name="Seal-in of K1").wait_for()
    shot("build")
    page.goto(f"{base}/starters/1/test")
    page.get_by_role("region", name="Running").scroll_into_view_if_needed()
    page.get_by_text("Load current L1", exact=True).scroll_into_view_if_needed()
    shot("record")
    page.get_by_role("tab", name="Trends").click()
    page.get_by_role("img", name="Load current L2").first.wait_for()
    page.locator("main").evaluate("e => e.scrollTo(0, 0)")
    shot("history")
    page.goto(f"{base}/starters/2/documents")
    page.get_by_role("button", name="Report", exact=True).click()
    page.frame_locator("iframe").get_by_text("Still open").wait_for()
    shot("report")
    page.set_viewport_size({"width": 820, "height": 1100})
    page.goto(f"{base}/starters/7/build")
    page.get_by_role("button", name="4 Coil of K1").click()
    shot("build-tablet")
    page.set_viewport_size({"width": 390, "height": 844})
    page.goto(f"{base}/starters/7/test")
    page.get_by_text("◂ next").scroll_into_view_if_needed()
    page.evaluate("document.querySelector('.item.next').scrollIntoView({block: 'start'})")
    shot("test-phone")


def circuits(page: Page, base: str, shot: Callable[[str], None]) -> None:
    """The circuit running, its power drawing, a replayed proof."""
    desk = page.get_by_role("region", name="Operate")

    def press(name: str) -> None:
        button = desk.get_by_role("button", name=name)
        button.dispatch_event("pointerdown")
        page.wait_for_timeout(400)
        button.dispatch_event("pointerup")
        page.wait_for_timeout(900)

    page.goto(f"{base}/starters/7/circuit")
    press("S2 Start")
    shot("circuit")
    page.goto(f"{base}/starters/7/documents?paper=diagrams")
    page.frame_locator("iframe").locator("section").nth(2).scroll_into_view_if_needed()
    shot("diagrams")
    page.goto(f"{base}/starters/7/circuit")
    page.get_by_role("tab", name="Insert fault").click()
    page.get_by_role("combobox", name="What to do").click()
    page.get_by_role("option", name="Add a wire").click()
    page.get_by_label("Terminal, contact or wire").fill("F1:95")
    page.get_by_label("Second terminal").fill("F1:96")
    page.get_by_role("button", name="Insert", exact=True).click()
    page.get_by_role("tab", name="Proofs").click()
    page.get_by_role("button", name="Replay overload_drops_all").click()
    desk.get_by_role("button", name="×10").click()
    page.wait_for_timeout(2600)
    page.locator("main").evaluate("e => e.scrollTo(0, 330)")
    shot("circuit-proof")


def main() -> None:
    """Serve the demo on a free port and photograph it."""
    with tempfile.TemporaryDirectory() as folder, sync_playwright() as p:
        app = create_app(Path(folder) / "demo.db")
        fill(app.extensions["engine"])
        server = create_server(app, host="127.0.0.1", port=0, threads=4)
        threading.Thread(target=server.run, daemon=True).start()
        browser = p.chromium.launch(
            executable_path=os.environ["CHROMIUM"],
            args=["--no-sandbox", "--disable-gpu", "--disable-background-networking", "--no-first-run"],
        )
        page = browser.new_page(viewport={"width": 1280, "height": 800}, reduced_motion="reduce", locale="en-GB")
        take(page, f"http://127.0.0.1:{server.effective_port}")
        people(browser, Path(folder) / "shop.db")
        browser.close()


def people(browser: Browser, database: Path) -> None:
    """A workshop with a few people, and what one of them has just done."""
    app = create_app(database, how=Access(workshop=True, tls=False))
    fill(app.extensions["engine"])
    word = "for the picture only"
    with Session(writer(app.extensions["engine"])) as session, session.begin():
        for name, role in (("K. Ives", "administers"), ("E. Sallow", "designs"), ("T. Brannoc", "works")):
            add_person(session, name, role, word)  # type: ignore[arg-type]
        allow(session, "10.20.0.0/24", "K. Ives")
    server = create_server(app, host="127.0.0.1", port=0, threads=4)
    threading.Thread(target=server.run, daemon=True).start()
    page = browser.new_page(viewport={"width": 1280, "height": 800}, reduced_motion="reduce", locale="en-GB")
    base = f"http://127.0.0.1:{server.effective_port}"
    for name in ("E. Sallow", "K. Ives"):
        page.context.clear_cookies()
        page.goto(f"{base}/")
        page.get_by_label("Name").fill(name)
        page.get_by_label("Password").fill(word)
        page.get_by_role("button", name="Sign in").click()
        page.get_by_role("button", name=name).wait_for()
        starter = page.request.get(f"{base}/api/starters/1").json()
        document = {**starter["document"], "service": f"Elevator, looked at by {name}"}
        page.request.put(f"{base}/api/starters/1", data={"version": starter["version"], "document": document})
    page.goto(f"{base}/people")
    page.get_by_role("region", name="Changes").get_by_role("row").nth(2).wait_for()
    page.screenshot(path=HERE / "people.png")


if __name__ == "__main__":
    sys.exit(main())
