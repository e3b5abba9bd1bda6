"""Alembic environment: gets its engine from volmek.store.engine, never from an address."""

from typing import Any

from alembic import context
from sqlalchemy import Engine, text

from volmek.store.models import Base


def run() -> None:
    """Run the migrations with foreign keys off, and check them before the commit."""
    engine: Engine | None = context.config.attributes.get("engine")
    if engine is None:
        raise RuntimeError("run migrations through volmek.store.engine.upgrade")
    with engine.connect() as connection:
        # A batch migration rebuilds tables, which must not fire ON DELETE CASCADE. The pragma is ignored inside a
        # transaction, so it goes to the driver before SQLAlchemy begins one.
        raw: Any = connection.connection.driver_connection
        sqlite = engine.dialect.name == "sqlite"
        if sqlite:
            raw.execute("PRAGMA foreign_keys=OFF")
        try:
            context.configure(
                connection=connection,
                target_metadata=Base.metadata,
                render_as_batch=sqlite,
                compare_type=True,
                transactional_ddl=True,
            )
            with context.begin_transaction():
                context.run_migrations()
                if sqlite and (broken := connection.execute(text("PRAGMA foreign_key_check")).all()):
                    raise RuntimeError(f"foreign keys broken by the migration: {broken}")
        finally:
            connection.rollback()
            if sqlite:
                raw.execute("PRAGMA foreign_keys=ON")


run()
