"""Backup, restore and check: copies are whole, what cannot be used is said in a sentence, and nothing is written over."""

import shutil
import sqlite3
import subprocess
import sys
from pathlib import Path

import pytest
from sqlalchemy import text

from volmek.store.engine import make_engine
from volmek.store.keeping import DatabaseError, InUse, Keeper, backup, check, copies_of, restore, usable

MODULE = [sys.executable, "-c", "from volmek.cli import main; main()"]


@pytest.fixture
def file(demo_database: Path, tmp_path: Path) -> Path:
    return Path(shutil.copy(demo_database, tmp_path / "works.db"))


def tags(file: Path) -> list[str]:
    with sqlite3.connect(file) as database:
        return [tag for (tag,) in database.execute("SELECT tag FROM starter ORDER BY id")]


def test_a_backup_holds_what_lies_in_the_log_and_is_one_file(file: Path, tmp_path: Path) -> None:
    engine = make_engine(file)
    with engine.begin() as connection:
        connection.execute(text("UPDATE starter SET tag = 'IN-THE-LOG' WHERE id = 1"))
    naked = Path(shutil.copy(file, tmp_path / "naked.db"))
    backup(file, tmp_path / "out" / "copy.db")
    assert "IN-THE-LOG" not in tags(naked) and "IN-THE-LOG" in tags(tmp_path / "out" / "copy.db")
    assert [p.name for p in (tmp_path / "out").iterdir()] == ["copy.db"]
    Keeper(engine, file, copies=0).checkpoint()
    assert "IN-THE-LOG" in tags(Path(shutil.copy(file, tmp_path / "written-back.db")))
    engine.dispose()


def test_restore_keeps_what_was_there(file: Path, tmp_path: Path) -> None:
    backup(file, tmp_path / "copy.db")
    with sqlite3.connect(file) as database:
        database.execute("UPDATE starter SET tag = 'LATER' WHERE id = 1")
    aside = restore(file, tmp_path / "copy.db")
    assert aside and "LATER" in tags(aside) and "LATER" not in tags(file)
    with InUse(file), pytest.raises(DatabaseError, match="in use"):
        restore(file, tmp_path / "copy.db")
    empty = tmp_path / "empty.db"
    empty.touch()
    with pytest.raises(DatabaseError, match="holds no database; nothing was changed"):
        restore(file, empty)


def test_a_damaged_database_is_replaced_and_kept_as_it_is(file: Path, tmp_path: Path) -> None:
    backup(file, tmp_path / "copy.db")
    file.write_bytes(file.read_bytes()[:100] + b"\xff" * 5000)
    spoilt = file.read_bytes()
    aside = restore(file, tmp_path / "copy.db")
    assert aside and aside.read_bytes() == spoilt and len(tags(file)) == 13


def test_every_file_that_cannot_be_used_is_one_sentence(file: Path, tmp_path: Path) -> None:
    def spoilt(name: str, data: bytes) -> Path:
        path = tmp_path / name
        path.write_bytes(data)
        return path

    with sqlite3.connect(tmp_path / "other.db") as other:
        other.execute("CREATE TABLE songs (id)")
    newer = Path(shutil.copy(file, tmp_path / "newer.db"))
    with sqlite3.connect(newer) as database:
        database.execute("UPDATE alembic_version SET version_num = '9999'")
    whole = file.read_bytes()
    for path, words in (
        (spoilt("text.db", b"this is a letter, and no database at all"), "is not a database; nothing was changed"),
        (tmp_path / "other.db", "of another application; nothing was changed"),
        (newer, "newer version"),
        (spoilt("cut.db", whole[:100] + b"\xff" * 4000), "damaged"),
    ):
        with pytest.raises(DatabaseError, match=words):
            usable(path)
    usable(tmp_path / "to-be-made.db")
    usable(file)


def test_a_check_finds_a_changed_record_and_a_damaged_page(file: Path) -> None:
    found = check(file)
    assert found.problems == [] and found.starters == 13 and found.entries > 200
    with sqlite3.connect(file) as database:
        database.execute("DROP TRIGGER journal_no_update")
        database.execute(
            "UPDATE journal SET who = 'Nobody' WHERE starter_id = 7 AND id = (SELECT max(id) FROM journal WHERE starter_id = 7)"
        )
        database.execute("UPDATE starter SET document = '{' WHERE id = 3")
    problems = check(file).problems
    assert len(problems) == 2 and "The record of KG-101 was changed" in problems[1] and "document of" in problems[0]


def test_daily_copies_are_counted_and_whole(file: Path) -> None:
    engine = make_engine(file)
    keeper = Keeper(engine, file, copies=3)
    made = [keeper.daily(f"2026-11-{day:02}") for day in range(20, 26)]
    assert all(made) and [p.name for p in sorted(copies_of(file).iterdir())] == [f"works-2026-11-{d}.db" for d in (23, 24, 25)]  # fmt: skip
    assert keeper.daily("2026-11-25") == made[-1] and len(tags(copies_of(file) / "works-2026-11-25.db")) == 13
    assert Keeper(engine, file, copies=0).daily("2026-11-26") is None
    engine.dispose()


def test_the_commands(file: Path, tmp_path: Path) -> None:
    def run(*words: str) -> subprocess.CompletedProcess[str]:
        return subprocess.run([*MODULE, *words], capture_output=True, text=True, check=False, cwd=tmp_path)

    copy = tmp_path / "c.db"
    assert run("backup", "--database", str(file), str(copy)).returncode == 0 and len(tags(copy)) == 13
    said = run("check", "--database", str(copy))
    assert said.returncode == 0 and "13 starters" in said.stdout and "nothing is wrong" in said.stdout
    assert "what was there is in" in run("restore", "--database", str(file), str(copy)).stdout
    for words in (("backup", "--database", "none.db", str(copy)), ("check", "--database", "none.db")):
        refused = run(*words)
        assert (
            refused.returncode == 2 and "there is no database" in refused.stderr and "Traceback" not in refused.stderr
        )
