"""Databases that earlier versions have written open, one of every schema that there was: documents, history, journals and seals are whole."""

import json
import shutil
import sqlite3
from pathlib import Path

import pytest
from alembic.script import ScriptDirectory
from sqlalchemy import Engine, select
from sqlalchemy.orm import Session

import volmek
from volmek.core.document.model import parse
from volmek.core.installation.control import control_source
from volmek.store.engine import alembic_config, make_engine, newest_revision, upgrade
from volmek.store.keeping import check
from volmek.store.models import Seal, Starter
from volmek.store.records import chain_of, entries, seal_state
from volmek.web.app import create_app

DATA = Path(__file__).parent / "data"
SCHEMAS = sorted(file.stem for file in DATA.glob("schema_*.db"))


@pytest.fixture
def before(tmp_path: Path) -> Path:
    """The first with a journal, and with years of entries in it."""
    return Path(shutil.copy(DATA / "schema_0003.db", tmp_path / "before.db"))


def test_there_is_a_file_of_every_schema_but_the_newest() -> None:
    migrations = Path(volmek.__file__).parent / "store" / "migrations" / "versions"
    numbers = sorted(file.name.partition("_")[0] for file in migrations.glob("0*.py"))
    assert [f"schema_{n}" for n in numbers if n != newest_revision()] == SCHEMAS


@pytest.mark.parametrize("schema", SCHEMAS)
def test_every_schema_opens_and_nothing_of_it_is_lost(schema: str, tmp_path: Path) -> None:
    file = Path(shutil.copy(DATA / f"{schema}.db", tmp_path / "old.db"))
    with sqlite3.connect(file) as database:
        tables = {name for (name,) in database.execute("SELECT name FROM sqlite_master WHERE type = 'table'")}
        kept = sorted({"job", "board", "starter", "revision", "override_note", "journal", "seal", "preset"} & tables)
        was = {t: database.execute(f"SELECT * FROM {t} ORDER BY id").fetchall() for t in kept}
        columns = {t: [c[1] for c in database.execute(f"PRAGMA table_info({t})")] for t in kept}
    found = check(file)
    assert found.problems == [] and found.starters == 13 == len(was["starter"])
    client = create_app(file).test_client()
    with sqlite3.connect(file) as database:
        for table, names in columns.items():
            # Digests are added to a journal that had none; everything that was there before is there as it was.
            assert database.execute(f"SELECT {', '.join(names)} FROM {table} ORDER BY id").fetchall() == was[table], (
                table
            )
    rows = [s for b in client.get("/api/boards").get_json()["boards"] for s in b["starters"]]
    assert len(rows) == 13 and all(r["sized"] for r in rows)
    for row in rows:
        opened = client.get(f"/api/starters/{row['id']}").get_json()
        saved = client.put(f"/api/starters/{row['id']}", json={"version": opened["version"], "document": {**opened["document"], "service": "Opened anew"}})  # fmt: skip
        assert saved.status_code == 200, (row["tag"], saved.get_json())
    assert check(file).problems == []


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
