"""A database that the version before has written opens: every starter is designed as its document says, every journal is whole."""

import json
import shutil
import sqlite3
from pathlib import Path

import pytest
from alembic.script import ScriptDirectory
from sqlalchemy import Engine, select
from sqlalchemy.orm import Session

from volmek.core.document.model import parse
from volmek.core.installation.control import control_source
from volmek.store.engine import alembic_config, make_engine, newest_revision, upgrade
from volmek.store.models import Seal, Starter
from volmek.store.records import chain_of, entries, seal_state
from volmek.web.app import create_app

KEPT = Path(__file__).parent / "data" / "version_before.db"


@pytest.fixture
def before(tmp_path: Path) -> Path:
    return Path(shutil.copy(KEPT, tmp_path / "before.db"))


def journal_of(path: Path) -> list[tuple[object, ...]]:
    """The rows as SQLite holds them."""
    with sqlite3.connect(path) as database:
        return database.execute(
            "SELECT id, starter_id, key, kind, body, who, said, received, seen FROM journal ORDER BY id"
        ).fetchall()


def test_journals_are_intact_and_every_document_is_read(before: Path) -> None:
    was = journal_of(before)
    engine: Engine = make_engine(before)
    upgrade(engine)
    with Session(engine) as session:
        starters = session.scalars(select(Starter)).all()
        assert len(starters) == 13 and sum(len(entries(session, s.id)) for s in starters) == len(was) > 200
        documents = [
            parse(json.loads(s.document)) if isinstance(s.document, str) else parse(s.document) for s in starters
        ]
        chains = [chain_of(session, s.id) for s in starters]
        assert all(c.broken is None and c.block in (0, c.entries) for c in chains) and sum(c.entries for c in chains) == len(was)  # fmt: skip
        assert [seal_state(session, x) for x in session.scalars(select(Seal))] == ["unkeyed"]
    engine.dispose()
    assert journal_of(before) == was
    # What the old documents say of their control supply keeps its meaning.
    assert {control_source(d).kind for d in documents} == {"transformer"}


def test_pages_and_papers_of_an_old_starter_open(before: Path) -> None:
    client = create_app(before).test_client()
    for board in client.get("/api/boards").get_json()["boards"]:
        for starter in board["starters"]:
            assert client.get(f"/api/starters/{starter['id']}").status_code == 200
    assert client.get("/api/starters/1/record").status_code == 200
    assert client.get("/api/starters/1/report.html").status_code == 200


def test_the_newest_revision_is_the_head_of_the_migrations(tmp_path: Path) -> None:
    script = ScriptDirectory.from_config(alembic_config(make_engine(tmp_path / "any.db")))
    assert script.get_current_head() == newest_revision(), "else a server would start on an old schema"
