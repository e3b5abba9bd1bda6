"""The journal and the seals in the database: added once, never changed, and a broken seal shows."""

from datetime import UTC, datetime

import pytest
from alembic import command
from sqlalchemy import Engine, inspect, text
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session

from databases import without_guards
from samples import iec
from volmek.core.document.model import parse
from volmek.core.record.bodies import parse_body
from volmek.store.engine import alembic_config, upgrade
from volmek.store.records import add_entry, entries, entry_of_key, has_record, seal, seal_state, seals
from volmek.store.repository import create_board, create_starter

NOON = datetime(2026, 3, 2, 12, 0, tzinfo=UTC)


@pytest.fixture
def engine(engine_here: Engine) -> Engine:
    made = engine_here
    with Session(made) as session, session.begin():
        create_starter(session, create_board(session, "job", "board", "", {}), parse(iec()))
    return made


def add(session: Session, key: str, value: float) -> int:
    body = parse_body("reading", {"item": "load.L1", "value": value})
    return add_entry(session, 1, key=key, kind="reading", body=body, who="Ann", said=NOON, seen=0).id


def test_entries_come_back_as_they_were_added(engine: Engine) -> None:
    with Session(engine) as session, session.begin():
        assert not has_record(session, 1)
        ids = [add(session, f"k{n}", n) for n in range(3)]
    with Session(engine) as session:
        found = entries(session, 1)
        assert [e.id for e in found] == ids and [e.body["value"] for e in found] == [0, 1, 2]
        assert found[0].said == NOON and found[0].received >= NOON
        assert entries(session, 1, ("trip",)) == [] and has_record(session, 1)
        same = entry_of_key(session, 1, "k1")
        assert same is not None and same.id == ids[1]


@pytest.mark.parametrize(
    "statement",
    ["UPDATE journal SET who = 'Bob'", "DELETE FROM journal", "UPDATE seal SET who = 'Bob'", "DELETE FROM seal"],
)
def test_nothing_in_the_record_can_be_changed_or_taken_away(engine: Engine, statement: str) -> None:
    with Session(engine) as session, session.begin():
        add(session, "k", 1)
        seal(session, 1, "Ann", {"tag": "A-1"}, {"dial_a": 14.4})
    with Session(engine) as session, pytest.raises(IntegrityError, match="only ever added to"):
        session.execute(text(statement))
    with Session(engine) as session, pytest.raises(IntegrityError):  # a starter with a record cannot go
        session.execute(text("DELETE FROM starter"))


def test_a_key_is_kept_once(engine: Engine) -> None:
    with Session(engine) as session, session.begin():
        add(session, "k", 1)
    with Session(engine) as session, pytest.raises(IntegrityError):
        add(session, "k", 2)


def test_a_seal_that_was_tampered_with_shows(engine: Engine) -> None:
    with Session(engine) as session, session.begin():
        add(session, "k", 1)
        seal(session, 1, "Ann", {"tag": "A-1"}, {"dial_a": 14.4})
    with Session(engine) as session, session.begin():
        add(session, "later", 2)  # what comes after the seal does not break it
        made = seals(session, 1)[0]
        assert seal_state(session, made) == "intact" and made.design == {"dial_a": 14.4}
        without_guards(session, "journal")
        session.execute(text("""UPDATE journal SET body = '{"item": "load.L1", "value": 9}' WHERE key = 'k'"""))
        assert seal_state(session, made) == "broken"


def test_the_migration_goes_back_and_forth(engine: Engine) -> None:
    command.downgrade(alembic_config(engine), "0002")
    with engine.connect() as connection:
        assert connection.execute(text("SELECT count(*) FROM starter")).scalar_one() == 1
        assert not inspect(connection).has_table("journal")
    upgrade(engine)
    with Session(engine) as session, session.begin():
        add(session, "k", 1)
