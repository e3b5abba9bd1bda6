"""Copies of the database: made while it is in use, put back, and looked through for damage."""

import os
import shutil
import sqlite3
import tempfile
import threading
import time
from collections.abc import Callable
from contextlib import closing
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path

from sqlalchemy import URL, Engine, func, inspect, select
from sqlalchemy.exc import DatabaseError as DriverError
from sqlalchemy.orm import Session

from volmek.core.record.chain import broken_words
from volmek.store.engine import Database, database_name, make_engine, newest_revision, schema_of, upgrade
from volmek.store.models import Job, JournalEntry, Seal, Starter
from volmek.store.records import PROVES, chain_of, read_journal, seal_state

#: Daily copies that are kept beside the database, where nothing else is said.
COPIES = 7
CHECKPOINT_S = 30.0
HEADER = b"SQLite format 3\x00"


class DatabaseError(Exception):
    """A database file that cannot be used: one sentence with what was kept and what to do."""


@dataclass(frozen=True, slots=True)
class Found:
    """What a check found.

    Attributes
    ----------
    starters, entries, seals : counted
    problems : a sentence for each thing that is wrong
    notes : what is no fault, and worth knowing
    """

    starters: int
    entries: int
    seals: int
    problems: list[str]
    notes: list[str]


def revision_of(file: Path) -> str:
    """Number of the schema of a database file, empty for an empty one.

    Raises
    ------
    DatabaseError : it is no database of this application, or damaged, or cannot be read.
    """
    if not file.is_file() or file.stat().st_size == 0:
        return ""
    try:
        with file.open("rb") as head:
            if head.read(16) != HEADER:
                raise DatabaseError(
                    f"{file} is not a database; nothing was changed. Give the file that `volmek serve` was started with."
                )
        with closing(_opened(file)) as connection:
            tables = {name for (name,) in connection.execute("SELECT name FROM sqlite_master WHERE type = 'table'")}
            if not tables:
                return ""
            if not {"alembic_version", "starter", "board"} <= tables:
                raise DatabaseError(f"{file} is a database of another application; nothing was changed.")
            (number,) = connection.execute("SELECT version_num FROM alembic_version").fetchone() or ("",)
            return str(number)
    except PermissionError:
        raise DatabaseError(f"{file} may not be read: check its owner and permissions.") from None
    except sqlite3.DatabaseError as error:
        raise DatabaseError(
            f"{file} is damaged ({error}): restore the last copy with `volmek restore`, from {copies_of(file)}."
        ) from None


def _opened(file: Path) -> sqlite3.Connection:
    return sqlite3.connect(f"file:{file}?mode=ro", uri=True)


def usable(database: Database) -> None:
    """Refuse a database that this version cannot work on, before anything is written.

    Raises
    ------
    DatabaseError : foreign, damaged, newer, read-only, or not to be reached; each in one sentence.
    """
    number = revision_of(database) if isinstance(database, Path) else _served_revision(database)
    if number > newest_revision():
        raise DatabaseError(f"{database_name(database)} was written by a newer version (schema {number}, this one reads up to {newest_revision()}); nothing was changed. Use that version.")  # fmt: skip
    if not isinstance(database, Path):
        return
    file = database
    place = file if file.exists() else file.parent
    if not os.access(place, os.W_OK) or not os.access(file.parent, os.W_OK):
        raise DatabaseError(f"{file} is read-only here: saving needs write permission for the file and its folder.")


def _served_revision(url: URL) -> str:
    engine = make_engine(url)
    try:
        tables = set(inspect(engine).get_table_names())
        if tables and not {"alembic_version", "starter", "board"} <= tables:
            raise DatabaseError(f"{database_name(url)} is a database of another application; nothing was changed.")
        return schema_of(engine)
    except DriverError as error:
        raise DatabaseError(f"{database_name(url)} cannot be reached: {str(error.orig).splitlines()[0]}") from None
    finally:
        engine.dispose()


def backup(file: Path, to: Path) -> None:
    """Copy a database while it is in use, whole and as of one moment, through SQLite's own online backup.

    Parameters
    ----------
    file : the database
    to : where the copy goes; a file that is there is replaced only when the copy is complete

    Raises
    ------
    DatabaseError : there is no database, or the copy cannot be written.
    """
    if revision_of(file) == "":
        raise DatabaseError(f"there is no database {file}")
    part = to.with_name(to.name + ".part")
    try:
        to.parent.mkdir(parents=True, exist_ok=True)
        part.unlink(missing_ok=True)
        source, target = sqlite3.connect(file), sqlite3.connect(part)
        try:
            source.backup(target)
            target.execute("PRAGMA journal_mode=DELETE")  # one file, without a log beside it
            if (said := target.execute("PRAGMA quick_check").fetchone()[0]) != "ok":
                raise DatabaseError(f"the copy of {file} is damaged ({said}); nothing was replaced")
        finally:
            source.close()
            target.close()
        part.replace(to)
    except (OSError, sqlite3.Error) as error:
        raise DatabaseError(f"the copy {to} could not be written ({error}); {file} is as it was.") from None
    finally:
        part.unlink(missing_ok=True)


def restore(file: Path, copy: Path) -> Path | None:
    """Put a copy in the place of a database; what was there is kept beside it.

    Returns
    -------
    Where the database that was there lies now, None where there was none.

    Raises
    ------
    DatabaseError : the copy is not one, or the database is in use.
    """
    if revision_of(copy) == "":
        raise DatabaseError(f"{copy} holds no database; nothing was changed.")
    usable(copy)
    with InUse(file):
        aside = None
        if file.exists() and file.stat().st_size:
            stamp = datetime.now(UTC).strftime("%Y%m%d-%H%M%S")
            aside = file.with_name(f"{file.stem}-before-restore-{stamp}{file.suffix}")
            try:
                backup(file, aside)
            except DatabaseError:  # damaged, which is why a copy is put back: kept as it is, with its log
                for log in ("", "-wal"):
                    if (there := file.with_name(file.name + log)).exists():
                        shutil.copyfile(there, aside.with_name(aside.name + log))
        part = file.with_name(file.name + ".part")
        shutil.copyfile(copy, part)
        for log in ("-wal", "-shm"):
            file.with_name(file.name + log).unlink(missing_ok=True)
        part.replace(file)
    return aside


def check(database: Database) -> Found:
    """Look a database through: foreign keys, every row, the chain of every record, every seal; of a file SQLite's own check too.

    Raises
    ------
    DatabaseError : it cannot be opened at all.
    """
    if isinstance(database, Path):
        return _checked_file(database)
    usable(database)
    engine = make_engine(database)
    try:
        if (schema := schema_of(engine)) != newest_revision():
            raise DatabaseError(f"{database_name(database)} has the schema {schema or 'of nothing'}, this version reads {newest_revision()}: serve it with this version first.")  # fmt: skip
        with Session(engine) as session:
            return _looked_through(session, [])
    finally:
        engine.dispose()


def _checked_file(file: Path) -> Found:
    revision_of(file)
    problems: list[str] = []
    with closing(_opened(file)) as connection:
        for (said,) in connection.execute("PRAGMA integrity_check").fetchall():
            if said != "ok":
                problems.append(f"the file is damaged: {said}")
        for table, row, parent, _ in connection.execute("PRAGMA foreign_key_check").fetchall():
            problems.append(f"row {row} of {table} belongs to a {parent} that is not there")
    with tempfile.TemporaryDirectory() as folder:  # a copy, for an older schema is read in the present one
        copy = Path(folder) / "copy.db"
        with closing(_opened(file)) as source, closing(sqlite3.connect(copy)) as target:
            source.backup(target)
        usable(copy)
        engine = make_engine(copy)
        try:
            upgrade(engine)
            with Session(engine) as session:
                return _looked_through(session, problems)
        finally:
            engine.dispose()


def _looked_through(session: Session, problems: list[str]) -> Found:
    notes: list[str] = []
    starters = session.scalars(select(Starter).order_by(Starter.id)).all()
    for starter in starters:
        if "damaged" in starter.document:
            problems.append(f"the document of {starter.tag} is damaged: go back to an earlier state under History")
        problems += [f"{starter.tag}: {said}" for said in read_journal(session, starter.id).damaged]
        chain = chain_of(session, starter.id)
        if words := broken_words(chain, starter.tag):
            problems.append(words)
        elif chain.block:
            notes.append(f"{starter.tag}: the first {chain.block} of {chain.entries} entries are from before records had a chain, proven as one block")  # fmt: skip
        for made in session.scalars(select(Seal).where(Seal.starter_id == starter.id)):
            state = seal_state(session, made)
            said = f"{starter.tag}, sealed {made.sealed:%Y-%m-%d %H:%M} by {made.who}: {PROVES[state]}"
            (problems if state == "broken" else notes).append(said)
    counted = [session.scalar(select(func.count()).select_from(t)) or 0 for t in (JournalEntry, Seal)]
    notes.append(f"{session.scalar(select(func.count()).select_from(Job)) or 0} jobs")
    return Found(len(starters), counted[0], counted[1], problems, notes)


def copies_of(file: Path) -> Path:
    """Folder of the daily copies of a database, beside it."""
    return file.with_name(f"{file.stem}-copies")


class InUse:
    """Holds a database for one server or one restore; a second one is refused."""

    def __init__(self, file: Path) -> None:
        self.file, self.lock = file, file.with_name(file.name + ".lock")
        self._handle: int | None = None

    def __enter__(self) -> "InUse":
        import fcntl

        self._handle = os.open(self.lock, os.O_RDWR | os.O_CREAT, 0o644)
        try:
            fcntl.flock(self._handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError:
            os.close(self._handle)
            self._handle = None
            raise DatabaseError(f"{self.file} is in use by a running `volmek serve`: end that first.") from None
        return self

    def __exit__(self, *_: object) -> None:
        if self._handle is not None:
            os.close(self._handle)
            self._handle = None
            self.lock.unlink(missing_ok=True)


class Keeper:
    """Keeps a running server's database safe: the log is written back at the start and when nothing is written, a copy is made daily.

    Parameters
    ----------
    engine, file : the database
    copies : daily copies that are kept; 0 makes none
    say : told of what could not be done
    """

    def __init__(self, engine: Engine, file: Path, copies: int = COPIES, say: Callable[[str], None] = print) -> None:
        self.engine, self.file, self.copies, self.say = engine, file, copies, say
        self._over = threading.Event()
        self._thread = threading.Thread(target=self._run, name="keeper", daemon=True)
        self._log_size = -1

    def start(self) -> "Keeper":
        """Begin with a checkpoint and the copy of today."""
        self.checkpoint()
        self._thread.start()
        return self

    def stop(self) -> None:
        """End with a checkpoint: the file alone holds everything then."""
        self._over.set()
        if self._thread.is_alive():
            self._thread.join(5)
        self.checkpoint()

    def checkpoint(self) -> None:
        """Write the log back into the file."""
        try:
            with self.engine.connect() as connection:
                raw = connection.connection.driver_connection
                assert isinstance(raw, sqlite3.Connection)
                raw.execute("PRAGMA wal_checkpoint(TRUNCATE)")
        except Exception as error:  # a full disk: said, and tried again
            self.say(f"the log of {self.file} could not be written back: {error}")

    def _run(self) -> None:
        while not self._over.is_set():
            self.daily(time.strftime("%Y-%m-%d"))
            self._over.wait(CHECKPOINT_S)
            log = self.file.with_name(self.file.name + "-wal")
            size = log.stat().st_size if log.exists() else 0
            if size and size == self._log_size:  # nothing was written since the last look
                self.checkpoint()
            self._log_size = size

    def daily(self, day: str) -> Path | None:
        """The copy of a day, when it is not there yet; older ones beyond the number kept are removed."""
        if self.copies < 1:
            return None
        folder = copies_of(self.file)
        today = folder / f"{self.file.stem}-{day}.db"
        if today.exists():
            return today
        try:
            backup(self.file, today)
        except DatabaseError as error:
            self.say(str(error))
            return None
        for old in sorted(folder.glob(f"{self.file.stem}-????-??-??.db"))[: -self.copies]:
            old.unlink()
        return today
