"""Takes the pictures of docs/screenshots anew, from fresh demo data: make screenshots."""

import os
import sys
import tempfile
import threading
from collections.abc import Callable
from pathlib import Path

from playwright.sync_api import Page, sync_playwright
from waitress.server import create_server

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
    shot("boards")
    page.goto(f"{base}/boards/1")
    shot("board")
    page.goto(f"{base}/starters/3/plate")
    shot("plate-misread")
    page.goto(f"{base}/starters/1/starter")
    page.get_by_label("Most current at the start").fill("60")
    shot("methods")
    page.get_by_label("Most current at the start").fill("")
    page.goto(f"{base}/starters/1/devices")
    page.get_by_role("button", name="Dial:").first.click()
    shot("devices-working")
    page.goto(f"{base}/starters/7/start")
    page.get_by_role("img", name="Speed and current over time").wait_for()
    shot("start")
    page.get_by_role("slider", name="Star time").scroll_into_view_if_needed()
    page.locator("main").evaluate("e => e.scrollTo(0, 9999)")
    shot("star-time")
    page.goto(f"{base}/starters/7/curves")
    page.get_by_role("img", name="Time-current curves of this starter").wait_for()
    shot("curves")
    page.goto(f"{base}/starters/7/phase")
    page.get_by_role("img", name="Currents after a lost phase over load").wait_for()
    shot("lost-phase")
    page.goto(f"{base}/starters/1/sheet")
    shot("sheet")
    page.goto(f"{base}/tables")
    shot("tables")
    page.goto(f"{base}/catalogue")
    shot("catalogue")
    circuits(page, base, shot)
    page.evaluate("localStorage.setItem('volmek.theme', 'dark')")
    page.goto(f"{base}/starters/5/devices")
    shot("devices-north-american-dark")
    page.evaluate("localStorage.setItem('volmek.theme', 'light')")
    page.set_viewport_size({"width": 820, "height": 1100})
    page.goto(f"{base}/starters/2/devices")
    shot("tablet")


def circuits(page: Page, base: str, shot: Callable[[str], None]) -> None:
    """The circuit running in one house style and at rest in the other, the power drawing, a replayed proof, the failures."""
    panel = page.get_by_role("region", name="Operate")

    def press(name: str) -> None:
        button = panel.get_by_role("button", name=name)
        button.dispatch_event("pointerdown")
        page.wait_for_timeout(400)
        button.dispatch_event("pointerup")
        page.wait_for_timeout(900)

    page.goto(f"{base}/starters/7/circuit")
    press("S2 Start")
    shot("circuit")
    page.get_by_role("button", name="Power", exact=True).click()
    page.get_by_role("tab", name="Time chart").click()
    panel.get_by_role("button", name="×10").click()
    page.wait_for_timeout(2000)
    shot("circuit-power")
    page.goto(f"{base}/starters/9/circuit")
    page.get_by_role("button", name="Ladder").click()
    shot("circuit-ladder")
    page.goto(f"{base}/starters/7/circuit")
    page.get_by_role("tab", name="Single failures").click()
    page.get_by_text("weld K1", exact=True).wait_for()
    page.get_by_role("tab", name="Single failures").scroll_into_view_if_needed()
    page.locator("main").evaluate("e => e.scrollTo(0, 420)")
    shot("circuit-failures")
    page.get_by_role("tab", name="Break it").click()
    page.get_by_role("combobox", name="What to do").click()
    page.get_by_role("option", name="Add a wire").click()
    page.get_by_label("Terminal, contact or wire").fill("F1:95")
    page.get_by_label("Second terminal").fill("F1:96")
    page.get_by_role("button", name="Do it").click()
    page.get_by_role("tab", name="Proofs").click()
    page.get_by_role("button", name="Replay overload_drops_all").click()
    panel.get_by_role("button", name="×10").click()
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
            executable_path=os.environ.get("CHROMIUM", "/usr/bin/chromium"),
            args=["--no-sandbox", "--disable-gpu", "--disable-background-networking", "--no-first-run"],
        )
        page = browser.new_page(viewport={"width": 1280, "height": 800}, reduced_motion="reduce", locale="en-GB")
        take(page, f"http://127.0.0.1:{server.effective_port}")
        browser.close()


if __name__ == "__main__":
    sys.exit(main())
