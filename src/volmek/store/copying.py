"""A whole database in another one: a SQLite file or a PostgreSQL server, either way, compared row by row afterwards."""

import hashlib
import json
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path
from typing import Any

from sqlalchemy import Connection, Engine, Table, func, insert, select, text
from sqlalchemy.exc import DatabaseError as DriverError

from volmek.store.engine import (
    DAMAGED,
    Database,
    database_name,
    make_engine,
    newest_revision,
    schema_of,
    upgrade,
    writer,
)
from volmek.store.guards import unguarded
from volmek.store.keeping import DatabaseError, backup, revision_of
from volmek.store.models import Base, Listed, Pairing, SignInFailure, WorkState

#: What is made anew, or ends soon by itself.
PASSING = (Listed, Pairing, SignInFailure, WorkState)
AT_ONCE = 500


@dataclass(frozen=True, slots=True)
class Copied:
    """One table of a copy.

    Attributes
    ----------
    rows : how many there are, on either side
    digest : SHA-256 of them, on either side
    """

    table: str
    rows: int
    digest: str


def tables() -> list[Table]:
    """Tables that a copy takes, those first that others refer to."""
    left = {x.__table__ for x in PASSING}
    return [t for t in Base.metadata.sorted_tables if t not in left]


def copy(source: Database, target: Database) -> list[Copied]:
    """Copy a database into an empty one, all of it or nothing; numbers stay, also the last that was given out.

    Parameters
    ----------
    source : may be in use; it is read as of one moment
    target : a file that is not there, or a database on a server without tables or rows

    Returns
    -------
    Every table with what was counted and digested on both sides.

    Raises
    ------
    DatabaseError : one of them cannot be used, the target is not empty, a row is damaged, or the sides differ.
    """
    made: list[Engine] = []
    try:
        with _as_of_now(source) as there:
            made.append(there)
            here = make_engine(target)
            made.append(here)
            _empty(here, target)
            with there.connect() as reading, writer(here).begin() as writing:
                with unguarded(writing):
                    for table in tables():
                        _rows(reading, writing, table)
                    _counters(reading, writing)
                found = [_compared(reading, writing, table) for table in tables()]
            return found
    except DriverError as error:
        raise DatabaseError(f"the copy could not be made ({error.orig}); nothing was kept of it") from None
    finally:
        for engine in made:
            engine.dispose()


@contextmanager
def _as_of_now(source: Database) -> Iterator[Engine]:
    """An engine on the source in the present schema; a file is copied first, for an older one is read in the present one."""
    with tempfile.TemporaryDirectory() as folder:
        if isinstance(source, Path):
            if revision_of(source) == "":
                raise DatabaseError(f"there is no database {source}")
            moment = Path(folder) / "now.db"
            backup(source, moment)
            engine = make_engine(moment)
            upgrade(engine)
        else:
            engine = make_engine(source)
            if (schema := schema_of(engine)) != newest_revision():
                raise DatabaseError(f"{database_name(source)} has the schema {schema or 'of nothing'}, this version reads {newest_revision()}: serve it with this version first.")  # fmt: skip
        yield engine


def _empty(engine: Engine, target: Database) -> None:
    if isinstance(target, Path) and target.exists() and target.stat().st_size:
        raise DatabaseError(f"{target} is there already; nothing was changed. Name a file that is not there.")
    upgrade(engine)
    with engine.connect() as connection:
        held = [t.name for t in tables() if connection.execute(select(func.count()).select_from(t)).scalar_one()]
    if held:
        raise DatabaseError(f"{database_name(target)} is not empty ({', '.join(held)}); nothing was changed. Name an empty database.")  # fmt: skip


def _rows(reading: Connection, writing: Connection, table: Table) -> None:
    for part in reading.execute(select(table).order_by(*table.primary_key.columns)).mappings().partitions(AT_ONCE):
        rows = [dict(row) for row in part]
        for row in rows:
            if any(isinstance(cell, dict) and DAMAGED in cell for cell in row.values()):
                raise DatabaseError(f"a row of {table.name} is damaged ({_key(table, row)}): `volmek check` says what to do; nothing was copied")  # fmt: skip
        writing.execute(insert(table), rows)


def _key(table: Table, row: dict[str, Any]) -> str:
    return ", ".join(f"{c.name} {row[c.name]}" for c in table.primary_key.columns)


def _counters(reading: Connection, writing: Connection) -> None:
    """The last number given out of each table, so that one of a removed row is not given out again."""
    for table in tables():
        if not table.dialect_kwargs.get("sqlite_autoincrement"):
            continue
        last = _last(reading, table.name)
        if not last:
            continue
        if writing.dialect.name == "postgresql":
            sequence = f"pg_get_serial_sequence('{table.name}', 'id')"
            writing.execute(text(f"SELECT setval({sequence}, :last)"), {"last": last})
        else:
            writing.execute(text("DELETE FROM sqlite_sequence WHERE name = :name"), {"name": table.name})
            writing.execute(text("INSERT INTO sqlite_sequence (name, seq) VALUES (:name, :last)"), {"name": table.name, "last": last})  # fmt: skip


def _last(connection: Connection, table: str) -> int:
    if connection.dialect.name == "postgresql":
        sequence = connection.execute(text(f"SELECT pg_get_serial_sequence('{table}', 'id')")).scalar_one()
        last, given = connection.execute(text(f"SELECT last_value, is_called FROM {sequence}")).one()
        return int(last) if given else 0
    found = connection.execute(text("SELECT seq FROM sqlite_sequence WHERE name = :name"), {"name": table})
    return int(found.scalar_one_or_none() or 0)


def _compared(reading: Connection, writing: Connection, table: Table) -> Copied:
    there, here = digest_of(reading, table), digest_of(writing, table)
    if there != here:
        raise DatabaseError(f"{table.name} differs after it was copied ({there.rows} rows, {here.rows} rows): nothing was kept of the copy")  # fmt: skip
    return here


def digest_of(connection: Connection, table: Table) -> Copied:
    """Count and digest of a table, alike on both kinds of database where the rows are."""
    digest, count = hashlib.sha256(), 0
    for row in connection.execute(select(table).order_by(*table.primary_key.columns)):
        digest.update(json.dumps(list(row), default=_said, ensure_ascii=False).encode() + b"\n")
        count += 1
    return Copied(table.name, count, digest.hexdigest())


def _said(value: object) -> str:
    assert isinstance(value, datetime)
    return value.isoformat()
