"""Takes the pictures of docs/screenshots anew, from fresh demo data: make screenshots."""

import os
import sys
import tempfile
import threading
from pathlib import Path

from playwright.sync_api import FilePayload, Page, sync_playwright
from waitress.server import create_server

from volmek.core.catalogue import reference_catalogue
from volmek.files.catalogue_files import write_csv
from volmek.web.app import create_app
from volmek.web.demo import fill

HERE = Path(__file__).parent


def spoilt_file() -> FilePayload:
    """A catalogue with a unit, a formula, a span upside down and a type that occurs twice."""
    rows = [c.model_copy(update={"type": f"TM-{c.ac3_400_a:g}"}) for c in reference_catalogue().contactors[:6]]
    lines = write_csv("contactors", rows).splitlines()
    lines[2] = lines[2].replace(",8,", ",8 A,", 1)
    lines[4] = lines[4].replace(",62,", ",=31+31,", 1)
    lines[5] = lines[5].replace("ac220-240", "ac240-220")
    lines[6] = lines[6].replace("TM-22", "TM-6")
    return {"name": "store-room.csv", "mimeType": "text/csv", "buffer": "\n".join(lines).encode()}


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
    for name in ("Direct on line", "Star-delta, timed", "Soft starter with bypass"):
        page.get_by_role("checkbox", name=f"Compare {name}").check()
    page.get_by_role("region", name="Side by side").wait_for()
    page.get_by_role("region", name="Side by side").scroll_into_view_if_needed()
    shot("compare")
    page.get_by_label("Most current at the start").fill("")
    page.get_by_text("Star-delta, timed", exact=True).first.click()
    page.get_by_role("button", name="Devices").click()
    shot("star-delta")
    page.get_by_role("button", name="Starter", exact=False).first.click()
    page.get_by_text("Direct on line", exact=True).first.click()
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
    page.get_by_label("New catalogue").fill("Store room")
    page.get_by_role("button", name="Make it").click()
    page.get_by_role("button", name="Import…").click()
    page.get_by_label("File", exact=True).set_input_files(spoilt_file())
    page.get_by_text("4 problems").wait_for()
    shot("catalogue-import")
    page.goto(f"{base}/starters/1/devices")
    page.get_by_label("Asked for").click()
    page.get_by_role("option", name="Type 2").click()
    page.get_by_role("region", name="Coordination").scroll_into_view_if_needed()
    page.get_by_role("button", name="Take TC").first.wait_for()
    shot("coordination")
    page.goto(f"{base}/starters/11/devices")
    shot("single-phase-devices")
    page.evaluate("localStorage.setItem('volmek.theme', 'dark')")
    page.goto(f"{base}/starters/5/devices")
    shot("devices-north-american-dark")
    page.evaluate("localStorage.setItem('volmek.theme', 'light')")
    page.set_viewport_size({"width": 820, "height": 1100})
    page.goto(f"{base}/starters/2/devices")
    shot("tablet")


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
