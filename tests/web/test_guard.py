"""Foreign pages and addresses are refused; a store that cannot be written says what was kept and what to do."""

import shutil
import subprocess
import sys
import threading
from collections.abc import Iterator
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from pathlib import Path
from typing import Any

import pytest
from flask.testing import FlaskClient
from playwright.sync_api import Page

from volmek.web.app import create_app


@pytest.mark.parametrize(
    ("headers", "allowed"),
    [
        ({}, True),
        ({"Host": "localhost:8080"}, True),
        ({"Host": "[::1]:8080"}, True),
        ({"Host": "rebound.example.org"}, False),
        ({"Host": "127.0.0.1.example.org:8080"}, False),
        ({"Origin": "http://localhost"}, True),
        ({"Origin": "http://localhost:9999"}, False),
        ({"Origin": "null"}, False),
        ({"Sec-Fetch-Site": "same-origin"}, True),
        ({"Sec-Fetch-Site": "none"}, True),
        ({"Sec-Fetch-Site": "cross-site"}, False),
        ({"Sec-Fetch-Site": "same-site"}, False),
        ({"Sec-Fetch-Site": "cross-site", "Sec-Fetch-Mode": "navigate", "Sec-Fetch-Dest": "document"}, False),
    ],
)
def test_only_its_own_pages_may_ask(client: FlaskClient, headers: dict[str, str], allowed: bool) -> None:
    read = client.get("/api/boards/1", headers=headers)
    written = client.post("/api/boards", json={"job": "J", "name": "B"}, headers=headers)
    assert (read.status_code, written.status_code) == ((200, 201) if allowed else (403, 403))
    if not allowed:
        assert "address" in read.get_json()["problems"][0]["message"]


def test_a_link_from_elsewhere_opens_the_page_but_no_data(client: FlaskClient) -> None:
    link = {"Sec-Fetch-Site": "cross-site", "Sec-Fetch-Mode": "navigate", "Sec-Fetch-Dest": "document"}
    assert client.get("/boards/1", headers=link).status_code == 200
    assert client.get("/", headers={**link, "Sec-Fetch-Dest": "iframe"}).status_code == 403


def test_no_page_runs_what_is_not_its_own(client: FlaskClient) -> None:
    headers = client.get("/").headers
    policy = headers["Content-Security-Policy"]
    for rule in (
        "script-src 'self';",
        "base-uri 'none'",
        "form-action 'self'",
        "frame-ancestors 'self'",
        "object-src 'none'",
    ):
        assert rule in policy
    assert headers["Referrer-Policy"] == "same-origin" and headers["X-Content-Type-Options"] == "nosniff"


class Elsewhere(BaseHTTPRequestHandler):
    """A page of another address that reads, writes and posts a form."""

    target = ""

    def do_GET(self) -> None:
        page = f"""<!doctype html><form id="f" method="post" enctype="text/plain" action="{self.target}/api/boards" target="into">
        <input name='{{"job":"stolen","name":"B","title":"' value='"}}'></form><iframe name="into"></iframe>
        <script>
        const tries = [];
        const ask = (path, how) => fetch("{self.target}" + path, how).then(r => r.text(), e => "refused").then(t => tries.push(t.slice(0, 40)));
        Promise.all([ask("/api/boards"), ask("/api/boards", {{method: "POST", body: '{{"job":"stolen","name":"B"}}'}}),
          ask("/api/starters/7", {{method: "DELETE"}}), ask("/api/boards", {{mode: "no-cors"}})]).then(() => {{
            document.getElementById("f").submit(); document.title = "done " + JSON.stringify(tries) }});
        </script>"""
        self.send_response(200)
        self.send_header("Content-Type", "text/html")
        self.end_headers()
        self.wfile.write(page.encode())

    def log_message(self, *_: Any) -> None:
        """Nothing."""


@pytest.fixture
def elsewhere(base_url: str) -> Iterator[str]:
    Elsewhere.target = base_url
    made = ThreadingHTTPServer(("127.0.0.1", 0), Elsewhere)
    threading.Thread(target=made.serve_forever, daemon=True).start()
    yield f"http://localhost:{made.server_address[1]}"
    made.shutdown()


@pytest.mark.usefixtures("fresh_demo")
def test_a_page_of_another_server_gets_and_changes_nothing(page: Page, elsewhere: str, base_url: str) -> None:
    page.goto(elsewhere)
    page.wait_for_function("document.title.startsWith('done')")
    page.wait_for_timeout(500)
    assert "Thornebeck" not in page.title() and "jobs" not in page.title()
    page.goto(f"{base_url}/")
    page.get_by_text("Thornebeck Maltings").first.wait_for()
    assert page.get_by_text("stolen").count() == 0
    assert page.request.get(f"{base_url}/api/starters/7").ok


def test_a_database_deleted_under_the_server_is_not_saved_into(demo_database: Path, tmp_path: Path) -> None:
    file = Path(shutil.copy(demo_database, tmp_path / "gone.db"))
    client = create_app(file).test_client()
    assert client.post("/api/boards", json={"job": "J", "name": "B"}).status_code == 201
    file.rename(tmp_path / "moved.db")
    refused = client.post("/api/boards", json={"job": "J", "name": "C"})
    assert refused.status_code == 503 and "deleted or exchanged" in refused.get_json()["problems"][0]["message"]
    (tmp_path / "moved.db").rename(file)
    assert client.post("/api/boards", json={"job": "J", "name": "C"}).status_code == 201


FULL = """
import resource, sys, signal
from pathlib import Path
signal.signal(signal.SIGXFSZ, signal.SIG_IGN)
from volmek.web.app import create_app
file = Path(sys.argv[1])
client = create_app(file).test_client()
size = file.stat().st_size
_, hard = resource.getrlimit(resource.RLIMIT_FSIZE)
resource.setrlimit(resource.RLIMIT_FSIZE, (size, hard))
said, saved = "", 0
for n in range(400):
    answer = client.post("/api/boards", json={"job": "J", "name": f"B{n}", "title": "x" * 100})
    if answer.status_code != 201:
        said = f"{answer.status_code} {answer.get_json()['problems'][0]['message']}"
        break
    saved += 1
resource.setrlimit(resource.RLIMIT_FSIZE, (hard, hard))
again = client.post("/api/boards", json={"job": "J", "name": "after"}).status_code
kept = sum(b["job"] == "J" for b in client.get("/api/boards").get_json()["boards"])
print(said, saved, again, kept, sep="|")
"""


def test_a_full_disk_loses_nothing_that_was_answered(demo_database: Path, tmp_path: Path) -> None:
    file = Path(shutil.copy(demo_database, tmp_path / "full.db"))
    ran = subprocess.run([sys.executable, "-c", FULL, str(file)], capture_output=True, text=True, check=True)
    said, saved, again, kept = ran.stdout.strip().rsplit("|", 3)
    assert said.startswith("503 The disk is full: nothing of this was saved"), ran.stdout + ran.stderr
    assert int(again) == 201 and int(kept) == int(saved) + 1
