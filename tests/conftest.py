"""The application under test on a port of its own, and Debian's Chromium for it."""

import os
import shutil
import tempfile
import threading
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from flask.testing import FlaskClient
from hypothesis import settings
from playwright.sync_api import expect
from sqlalchemy import URL, Engine, text
from waitress.server import create_server

from databases import Server
from volmek.store.copying import copy
from volmek.store.engine import Database, make_engine, upgrade
from volmek.web import lines
from volmek.web.app import DIST, Application, create_app
from volmek.web.demo import fill

# Seals made by tests are keyed with a secret of their own.
os.environ.setdefault("VOLMEK_SECRET_FILE", str(Path(tempfile.mkdtemp(prefix="volmek-test-")) / "secret"))
# A slow machine fails nobody: what has to come may take a while. Set here, before any test module makes its settings.
expect.set_options(timeout=20_000)
lines.PATIENCE_S = 60.0
settings.register_profile("volmek", deadline=None, max_examples=120, derandomize=True)
settings.load_profile("volmek")


@pytest.fixture(scope="session")
def demo_database(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The demo boards in a file: filled once, copied for each test that wants them."""
    path = tmp_path_factory.mktemp("demo") / "demo.db"
    engine = make_engine(path)
    upgrade(engine)
    fill(engine)
    with engine.connect() as connection:
        connection.execute(text("PRAGMA wal_checkpoint(TRUNCATE)"))
    engine.dispose()
    return path


@pytest.fixture(scope="session")
def server() -> Iterator[Server]:
    """A PostgreSQL server; where none can be started the tests that ask for it fail."""
    made = Server().start()
    yield made
    made.stop()


@pytest.fixture(scope="session")
def demo_served(server: Server, demo_database: Path) -> URL:
    """The demo boards on that server."""
    there = server.new()
    copy(demo_database, there)
    return there


@pytest.fixture(params=["sqlite", "postgresql"])
def kind(request: pytest.FixtureRequest) -> str:
    """Each kind of database in turn."""
    return str(request.param)


@pytest.fixture
def database(kind: str, tmp_path: Path, request: pytest.FixtureRequest) -> Database:
    """An empty database of one's own."""
    if kind == "sqlite":
        return tmp_path / "empty.db"
    server: Server = request.getfixturevalue("server")
    return server.new()


@pytest.fixture
def engine_here(database: Database) -> Iterator[Engine]:
    """An engine on it, with the tables made."""
    made = make_engine(database)
    upgrade(made)
    yield made
    made.dispose()


@pytest.fixture
def demo(kind: str, demo_database: Path, tmp_path: Path, request: pytest.FixtureRequest) -> Database:
    """The demo boards in a database of one's own."""
    if kind == "sqlite":
        return Path(shutil.copy(demo_database, tmp_path / "test.db"))
    served: URL = request.getfixturevalue("demo_served")
    server: Server = request.getfixturevalue("server")
    return server.new(str(served.database))


@pytest.fixture
def client(demo: Database) -> Iterator[FlaskClient]:
    """A client of an application with the demo boards, on either kind of database."""
    app = create_app(demo)
    yield app.test_client()
    app.extensions["engine"].dispose()


@pytest.fixture(scope="session")
def browser_type_launch_args(browser_type_launch_args: dict[str, Any]) -> dict[str, Any]:
    return {
        **browser_type_launch_args,
        "executable_path": os.environ.get("CHROMIUM") or shutil.which("chromium-headless-shell") or "/usr/bin/chromium",
        "args": [
            "--no-sandbox",
            "--disable-gpu",
            "--disable-background-networking",
            "--disable-component-update",
            "--disable-sync",
            "--no-first-run",
        ],
    }


@pytest.fixture(scope="session")
def browser_context_args(browser_context_args: dict[str, Any]) -> dict[str, Any]:
    return {
        **browser_context_args,
        "viewport": {"width": 1280, "height": 800},
        "device_scale_factor": 1,
        "locale": "en-GB",
        "timezone_id": "Europe/London",
        "reduced_motion": "reduce",
        # Pages kept on the device have tests of their own; elsewhere what a test does to the network must reach the page itself.
        "service_workers": "block",
    }


@pytest.fixture(scope="session")
def live(tmp_path_factory: pytest.TempPathFactory) -> Iterator[tuple[Application, str]]:
    """The served application and its address."""
    assert (DIST / "index.html").is_file(), "the front end is not built: make build"
    app = create_app(tmp_path_factory.mktemp("live") / "live.db")
    server = create_server(app, host="127.0.0.1", port=0, threads=8)
    thread = threading.Thread(target=server.run, daemon=True)
    thread.start()
    yield app, f"http://127.0.0.1:{server.effective_port}"
    server.close()
    thread.join(timeout=5)


@pytest.fixture(scope="session")
def base_url(live: tuple[Application, str]) -> str:
    """Lets tests write page.goto("/")."""
    return live[1]


@pytest.fixture
def fresh_demo(live: tuple[Application, str], demo_database: Path, tmp_path: Path) -> None:
    """A database of its own, with fresh demo data, for each browser test."""
    live[0].extensions["engine"] = make_engine(Path(shutil.copy(demo_database, tmp_path / "fresh.db")))
