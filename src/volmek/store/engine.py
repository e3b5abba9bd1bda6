"""The engine, of a SQLite file or a PostgreSQL server, and Alembic run from Python."""

import json
import sqlite3
import threading
from functools import lru_cache
from pathlib import Path
from typing import TYPE_CHECKING, Any

from sqlalchemy import URL, Connection, Engine, create_engine, event, inspect, make_url, text
from sqlalchemy.exc import ArgumentError, OperationalError
from sqlalchemy.pool import ConnectionPoolEntry

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


#: A database: the file of SQLite, or the address of a PostgreSQL server.
Database = Path | URL
POSTGRESQL = "postgresql+psycopg"
#: Key of the one lock that writers on a PostgreSQL server take, as SQLite's writers take the file's; and of that for the schema.
WRITERS, SCHEMA = 0x766F6C6D, 0x766F6C6E
#: How long a writer waits for the others.
WAIT_MS = 5000
#: Marks a connection whose turn to write it is.
WRITES = "volmek.writes"


def database_of(named: str) -> Database:
    """The database that a command line names: a file, or an address.

    Raises
    ------
    ValueError : an address that is not PostgreSQL's.

    Examples
    --------
    >>> database_of("job.db"), database_of("postgresql+psycopg:///volmek?host=/run/postgresql").database
    (PosixPath('job.db'), 'volmek')
    """
    if "://" not in named:
        return Path(named)
    try:
        url = make_url(named)
    except (ArgumentError, ValueError):
        raise ValueError(f"{named!r} is no address of a database: give a file, or {POSTGRESQL}://…") from None
    if url.drivername != POSTGRESQL:
        raise ValueError(f"{url.drivername!r} is not served here: give a file, or {POSTGRESQL}://…")
    return url


def database_name(database: Database) -> str:
    """A database as it is said to people, without a password."""
    return database.render_as_string(hide_password=True) if isinstance(database, URL) else str(database)


def make_engine(database: Database) -> Engine:
    """An engine on a database, with foreign keys and real transactions; one writer at a time on either kind."""
    return _postgresql(database) if isinstance(database, URL) else _sqlite(database)


def _sqlite(path: Path) -> Engine:
    engine = create_engine(f"sqlite:///{path}", json_deserializer=lenient_json)

    @event.listens_for(engine, "connect")
    def on_connect(connection: sqlite3.Connection, _record: object) -> None:
        # The driver must not open transactions of its own accord: see on_begin.
        connection.isolation_level = None
        cursor = connection.cursor()
        for pragma in ("journal_mode=WAL", "foreign_keys=ON", f"busy_timeout={WAIT_MS}", "synchronous=NORMAL"):
            cursor.execute(f"PRAGMA {pragma}")
        cursor.close()

    @event.listens_for(engine, "begin")
    def on_begin(connection: Connection) -> None:
        # With this, DDL is transactional too: a failing migration leaves nothing behind. A writer takes its lock at
        # once, so that what it reads cannot be changed before it writes.
        raw = connection.connection.driver_connection
        assert isinstance(raw, sqlite3.Connection)
        begin = connection.get_execution_options().get("begin", "BEGIN")
        if begin != "BEGIN":
            connection.info[WRITES] = turn.acquire(timeout=WAIT_MS / 1000)
        try:
            raw.execute(begin)
        except sqlite3.OperationalError as error:  # another process holds the lock: as from any other statement
            over(connection)
            raise OperationalError(begin, None, error) from error

    # Writers of one process wait in line: SQLite's own waiting looks again after ever longer pauses, and the unlucky one waits for long.
    # The lock of the file is what counts; this line only says who asks for it next.
    turn = threading.Lock()

    def over(connection: Connection) -> None:
        if connection.info.pop(WRITES, False):
            turn.release()

    event.listen(engine, "commit", over)
    event.listen(engine, "rollback", over)

    @event.listens_for(engine, "checkin")
    def on_checkin(_connection: object, record: ConnectionPoolEntry) -> None:
        if record.info.pop(WRITES, False):
            turn.release()

    return engine


def _postgresql(url: URL) -> Engine:
    engine = create_engine(url, json_deserializer=lenient_json, pool_pre_ping=True, pool_size=10, max_overflow=20)

    @event.listens_for(engine, "begin")
    def on_begin(connection: Connection) -> None:
        # A reader sees one moment. A writer waits for the one lock first, and then sees what the writer before it left:
        # a snapshot taken before the lock would be of an older moment.
        raw: Any = connection.connection.driver_connection
        if connection.get_execution_options().get("begin"):
            raw.execute(f"SET LOCAL lock_timeout = {WAIT_MS}")
            raw.execute("SELECT pg_advisory_xact_lock(%s)", (WRITERS,))
        elif not connection.get_execution_options().get("each_statement"):
            raw.execute("SET TRANSACTION ISOLATION LEVEL REPEATABLE READ")

    return engine


@lru_cache(maxsize=16)
def writer(engine: Engine) -> Engine:
    """The same engine, whose transactions may write from their first statement on."""
    return engine.execution_options(begin="BEGIN IMMEDIATE")


@lru_cache(maxsize=16)
def each_statement(engine: Engine) -> Engine:
    """The same engine, whose transactions see on a server what is there at each statement: for rows that two processes write without the lock."""
    return engine.execution_options(each_statement=True)


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
        if engine.dialect.name == "postgresql":  # of several processes that start together one does it
            connection.execute(text(f"SELECT pg_advisory_lock({SCHEMA})"))
            connection.rollback()  # the session keeps the lock
        try:
            _upgrade(engine)
        finally:
            if engine.dialect.name == "postgresql":
                connection.execute(text(f"SELECT pg_advisory_unlock({SCHEMA})"))


def schema_of(engine: Engine) -> str:
    """Number of the database's schema, empty for an empty one."""
    with engine.connect() as connection:
        marked = inspect(connection).has_table("alembic_version")
        found = connection.execute(text("SELECT version_num FROM alembic_version")).scalars().all() if marked else []
    return found[0] if found else ""


def _upgrade(engine: Engine) -> None:
    if schema_of(engine) == newest_revision():
        return
    from alembic import command

    command.upgrade(alembic_config(engine), "head")
