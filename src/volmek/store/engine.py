"""The SQLite engine, and Alembic run from Python."""

import json
import sqlite3
from functools import lru_cache
from pathlib import Path
from typing import TYPE_CHECKING, Any

from sqlalchemy import Connection, Engine, create_engine, event, inspect, text
from sqlalchemy.orm import Session

if TYPE_CHECKING:
    from alembic.config import Config

MIGRATIONS = Path(__file__).parent / "migrations"


#: Name under which the text of a JSON cell comes back that cannot be read.
DAMAGED = "damaged"


def lenient_json(text: str) -> Any:
    """A JSON cell; one that cannot be read comes back as an object that says so, and what reads it refuses that object alone.

    Examples
    --------
    >>> lenient_json('{"a": 1}'), lenient_json('{"a": ')
    ({'a': 1}, {'damaged': '{"a": '})
    """
    try:
        return json.loads(text)
    except (ValueError, TypeError, RecursionError):
        return {DAMAGED: str(text)[:200]}


def make_engine(path: Path) -> Engine:
    """An engine on a database file: write-ahead log, foreign keys, real transactions."""
    engine = create_engine(f"sqlite:///{path}", json_deserializer=lenient_json)

    @event.listens_for(engine, "connect")
    def on_connect(connection: sqlite3.Connection, _record: object) -> None:
        # The driver must not open transactions of its own accord: see on_begin.
        connection.isolation_level = None
        cursor = connection.cursor()
        for pragma in ("journal_mode=WAL", "foreign_keys=ON", "busy_timeout=5000", "synchronous=NORMAL"):
            cursor.execute(f"PRAGMA {pragma}")
        cursor.close()

    @event.listens_for(engine, "begin")
    def on_begin(connection: Connection) -> None:
        # With this, DDL is transactional too: a failing migration leaves nothing behind. A writer takes its lock at
        # once, so that what it reads cannot be changed before it writes.
        raw = connection.connection.driver_connection
        assert isinstance(raw, sqlite3.Connection)
        raw.execute(connection.get_execution_options().get("begin", "BEGIN"))

    return engine


@lru_cache(maxsize=16)
def writer(engine: Engine) -> Engine:
    """The same engine, whose transactions may write from their first statement on."""
    return engine.execution_options(begin="BEGIN IMMEDIATE")


def may_write(session: Session) -> bool:
    """The session's transactions have the write lock from their first statement on."""
    return bool(session.get_bind().get_execution_options().get("begin"))


def alembic_config(engine: Engine) -> "Config":
    """Alembic's settings without a file, so that it works from any directory."""
    from alembic.config import Config

    config = Config()
    config.set_main_option("script_location", str(MIGRATIONS).replace("%", "%%"))
    config.set_main_option("path_separator", "os")
    config.attributes["engine"] = engine
    return config


def newest_revision() -> str:
    """Number of the last migration: files are named by it."""
    return max(file.name.partition("_")[0] for file in (MIGRATIONS / "versions").glob("[0-9]*.py"))


def upgrade(engine: Engine) -> None:
    """Bring the database to the newest schema; Alembic is only loaded where there is something to do."""
    with engine.connect() as connection:
        marked = inspect(connection).has_table("alembic_version")
        found = connection.execute(text("SELECT version_num FROM alembic_version")).scalars().all() if marked else []
    if found == [newest_revision()]:
        return
    from alembic import command

    command.upgrade(alembic_config(engine), "head")
