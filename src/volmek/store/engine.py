"""The SQLite engine, and Alembic run from Python."""

import sqlite3
from functools import lru_cache
from pathlib import Path

from alembic import command
from alembic.config import Config
from sqlalchemy import Connection, Engine, create_engine, event

MIGRATIONS = Path(__file__).parent / "migrations"


def make_engine(path: Path) -> Engine:
    """An engine on a database file: write-ahead log, foreign keys, real transactions."""
    engine = create_engine(f"sqlite:///{path}")

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


def alembic_config(engine: Engine) -> Config:
    """Alembic's settings without a file, so that it works from any directory."""
    config = Config()
    config.set_main_option("script_location", str(MIGRATIONS).replace("%", "%%"))
    config.set_main_option("path_separator", "os")
    config.attributes["engine"] = engine
    return config


def upgrade(engine: Engine) -> None:
    """Bring the database to the newest schema."""
    command.upgrade(alembic_config(engine), "head")
