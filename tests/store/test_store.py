"""Tables, migrations and what the repository promises."""

from collections.abc import Iterator
from datetime import datetime

import pytest
from alembic.autogenerate import compare_metadata
from alembic.migration import MigrationContext
from sqlalchemy import Engine, text, update
from sqlalchemy.exc import IntegrityError, StatementError
from sqlalchemy.orm import Session

from databases import ON_FILES
from samples import iec
from volmek.core.document.model import parse
from volmek.store.models import Base, Board, Job, Revision, Starter
from volmek.store.repository import Kept, create_board, create_starter, differing_fields, read_starter, save_document
from volmek.web.demo import fill


@pytest.fixture
def session(engine_here: Engine) -> Iterator[Session]:
    with Session(engine_here) as made:
        yield made


def engine_of(session: Session) -> Engine:
    engine = session.get_bind()
    assert isinstance(engine, Engine)
    return engine


def test_migrations_give_the_schema_of_the_models(session: Session) -> None:
    with engine_of(session).connect() as connection:
        assert compare_metadata(MigrationContext.configure(connection), Base.metadata) == []


@ON_FILES
def test_the_database_is_in_write_ahead_mode_with_foreign_keys(session: Session) -> None:
    assert session.scalar(text("PRAGMA journal_mode")) == "wal"
    assert session.scalar(text("PRAGMA foreign_keys")) == 1
    session.add(Board(job_id=99, name="x", title="", defaults={}))
    with pytest.raises(IntegrityError):
        session.flush()


def test_deleting_a_job_takes_everything_below_it(session: Session) -> None:
    board = create_board(session, "job", "board", "", {})
    create_starter(session, board, parse(iec()))
    session.commit()
    session.delete(session.get(Job, 1))
    session.commit()
    assert [session.query(x).count() for x in (Board, Starter, Revision)] == [0, 0, 0]


def save(session: Session, starter_id: int, service: str, version: int) -> Kept:
    kept = read_starter(session, starter_id)
    return save_document(session.connection(), kept, parse(iec(service=service)), version, "{}")


def test_a_change_long_after_the_last_one_is_a_revision_of_its_own(session: Session) -> None:
    starter = create_starter(session, create_board(session, "job", "board", "", {}), parse(iec()))
    save(session, starter.id, "a", 1)
    session.flush()
    session.execute(update(Starter).values(saved=datetime.fromisoformat("2026-01-01T00:00:00+00:00")))
    save(session, starter.id, "b", 2)
    session.flush()
    assert [r.change for r in session.query(Revision).order_by(Revision.id)] == ["made", "service", "service"]
    assert save(session, starter.id, "b", 3).version == 3, "no change, no revision"


def test_times_need_a_zone(session: Session) -> None:
    session.add(Job(name="x", created=datetime.fromisoformat("2026-01-01T00:00:00")))
    with pytest.raises(StatementError, match="without zone"):
        session.flush()


def test_demo_data_is_put_into_an_empty_database_only(session: Session) -> None:
    engine = engine_of(session)
    fill(engine)
    count = session.query(Starter).count()
    fill(engine)
    assert session.query(Starter).count() == count > 6


def test_differing_fields_are_paths() -> None:
    old, new = {"a": {"b": 1, "c": 2}, "d": 1}, {"a": {"b": 1}, "d": 1, "e": {"f": [1]}}
    assert list(differing_fields(old, new)) == ["a.c", "e.f"]
