"""Nothing is lost by a number given out twice, a removal, a bad row, or a change past the application."""

from datetime import UTC, datetime
from pathlib import Path

import pytest
from flask.testing import FlaskClient
from hypothesis import given
from hypothesis import strategies as st
from sqlalchemy import Engine, text
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session

from databases import ON_FILES, ON_SERVERS, without_guards
from samples import engine_of, iec
from volmek.core.document.model import parse
from volmek.core.record.bodies import parse_body
from volmek.core.record.chain import Link, broken_words, follow, link_digest
from volmek.store.models import Emptied, Starter
from volmek.store.records import add_entry, chain_of, entries, read_journal, seal, seal_state, seals
from volmek.store.repository import bin_of, create_board, create_starter, empty, put_back, put_into_bin, read_starter

NOON = datetime(2026, 3, 2, 12, 0, tzinfo=UTC)


@pytest.fixture
def engine(engine_here: Engine) -> Engine:
    made = engine_here
    with Session(made) as session, session.begin():
        board = create_board(session, "job", "board", "", {})
        for tag in ("A-1", "A-2"):
            create_starter(session, board, parse({**iec(), "tag": tag}))
        for n in range(4):
            body = parse_body("reading", {"item": "load.L1", "value": float(n)})
            add_entry(session, 1, key=f"key-{n}", kind="reading", body=body, who="Ann", said=NOON, seen=0)
    return made


def test_a_number_is_never_given_out_again(engine: Engine) -> None:
    with Session(engine) as session, session.begin():
        put_into_bin(session, 2, "Ann")
        empty(session, 2, "Ann")
    with Session(engine) as session, session.begin():
        board = session.get_one(Starter, 1).board
        assert create_starter(session, board, parse({**iec(), "tag": "A-3"})).id == 3


def test_the_bin_keeps_the_record_and_gives_it_back(engine: Engine) -> None:
    with Session(engine) as session, session.begin():
        put_into_bin(session, 1, "Ann")
    with Session(engine) as session, session.begin():
        (binned,) = bin_of(session)
        assert (binned.tag, binned.removed_by, binned.entries, binned.board) == ("A-1", "Ann", 4, "board")
        with pytest.raises(LookupError, match=r"A-1 is in the bin, removed on .* by Ann"):
            read_starter(session, 1)
        assert [s.tag for s in session.get_one(Starter, 2).board.starters] == ["A-2"]
        create_starter(session, session.get_one(Starter, 2).board, parse({**iec(), "tag": "A-4"}))  # its place is free
    with Session(engine) as session, session.begin():
        put_back(session, 1)
        assert read_starter(session, 1).tag == "A-1" and len(entries(session, 1)) == 4 and bin_of(session) == []


def test_a_tag_that_was_taken_meanwhile_is_named(engine: Engine) -> None:
    with Session(engine) as session, session.begin():
        put_into_bin(session, 1, "")
        create_starter(session, session.get_one(Starter, 2).board, parse({**iec(), "tag": "A-1"}))
    with Session(engine) as session, pytest.raises(Exception, match="has a starter 'A-1' already"):
        put_back(session, 1)


def test_emptying_leaves_the_end_of_the_chain(engine: Engine) -> None:
    with Session(engine) as session:
        end = chain_of(session, 1).end
    with Session(engine) as session:
        session.add(Emptied(starter_id=1, tag="A-1", board="", who="", entries=0, digest=""))
        with pytest.raises(IntegrityError, match="only a starter in the bin"):
            session.flush()
    with Session(engine) as session, session.begin():
        put_into_bin(session, 1, "Ann")
        empty(session, 1, "Bob")
    with Session(engine) as session:
        left = session.get_one(Emptied, 1)
        assert (left.tag, left.who, left.entries, left.digest) == ("A-1", "Bob", 4, end) and entries(session, 1) == []
    with Session(engine) as session, pytest.raises(IntegrityError, match="only ever added to"):
        session.execute(text("DELETE FROM emptied"))


@pytest.mark.parametrize(
    "statement",
    [
        "INSERT OR REPLACE INTO journal SELECT id, starter_id, key, kind, '{}', who, said, received, seen, tag, digest, signed FROM journal WHERE id = 2",
        "INSERT OR REPLACE INTO journal SELECT NULL, starter_id, key, kind, '{}', who, said, received, seen, tag, digest, signed FROM journal WHERE id = 2",
        "REPLACE INTO seal SELECT * FROM seal",
        "UPDATE OR REPLACE journal SET id = 2 WHERE id = 3",
    ],
)
@ON_FILES
def test_nothing_is_put_in_the_place_of_an_entry(engine: Engine, statement: str) -> None:
    with Session(engine) as session, session.begin():
        seal(session, 1, "Ann", {"tag": "A-1"}, {})
    with Session(engine) as session, pytest.raises(IntegrityError, match="only ever added to"):
        session.execute(text(statement))


@pytest.mark.parametrize(
    ("statement", "broken"),
    [
        ('UPDATE journal SET body = \'{"item": "load.L1", "value": 7.0}\' WHERE id = 3', 3),
        ("UPDATE journal SET who = 'Bob' WHERE id = 1", 1),
        ("DELETE FROM journal WHERE id = 2", 3),
        ("UPDATE journal SET digest = '' WHERE id = 4", 4),
        (
            "INSERT INTO journal SELECT 99, 1, 'key-9', kind, body, who, said, received, seen, tag, digest, signed FROM journal WHERE id = 4",
            99,
        ),
    ],
)
def test_a_change_past_the_application_breaks_the_chain(engine: Engine, statement: str, broken: int) -> None:
    with Session(engine) as session, session.begin():
        assert chain_of(session, 1).broken is None and chain_of(session, 1).entries == 4
        without_guards(session, "journal")
        session.execute(text(statement))
        chain = chain_of(session, 1)
        assert chain.broken == broken and f"entry {broken}" in broken_words(chain, "A-1")


@ON_FILES
def test_an_unreadable_time_breaks_the_chain(engine: Engine) -> None:
    with Session(engine) as session, session.begin():
        without_guards(session, "journal")
        session.execute(text("UPDATE journal SET said = 'some day' WHERE id = 2"))
        assert chain_of(session, 1).broken == 2


@ON_SERVERS
@pytest.mark.parametrize(
    "statement",
    [
        "INSERT INTO journal SELECT * FROM journal WHERE id = 2 ON CONFLICT (id) DO UPDATE SET who = 'Bob'",
        "MERGE INTO journal USING (SELECT 2 AS id) x ON journal.id = x.id WHEN MATCHED THEN UPDATE SET who = 'Bob'",
        "TRUNCATE journal",
        "TRUNCATE starter CASCADE",
        "TRUNCATE audit",
    ],
)
def test_a_server_refuses_its_own_ways_round(engine: Engine, statement: str) -> None:
    with Session(engine) as session, pytest.raises(IntegrityError, match="only ever added to"):
        session.execute(text(statement))


LINKS = st.lists(
    st.builds(
        Link, id=st.integers(1, 99), tag=st.just("A"), key=st.text(max_size=8), kind=st.just("open"),
        body=st.dictionaries(st.text(max_size=5), st.one_of(st.floats(allow_nan=False), st.text(max_size=5), st.integers()), max_size=3),
        who=st.text(max_size=5), said=st.just(NOON), received=st.just(NOON), seen=st.integers(0, 9),
    ), min_size=1, max_size=6, unique_by=lambda x: (x.key, x.who, x.seen),
)  # fmt: skip


@given(LINKS, st.integers(0, 3), st.data())
def test_any_entry_taken_out_or_exchanged_shows(links: list[Link], old: int, data: st.DataObject) -> None:
    """Whatever the entries are, and however many of them begin the chain as one block."""
    digest, whole = "", []
    for n, link in enumerate(links):
        digest = link_digest(digest, link)
        shown = n >= min(old, len(links)) - 1
        whole.append(Link(link.id, link.tag, link.key, link.kind, link.body, link.who, link.said, link.received, link.seen, digest if shown else ""))  # fmt: skip
    chain = follow(whole)
    assert chain.broken is None and chain.end == digest and chain.entries == len(links)
    assert chain.block == (min(old, len(links)) if min(old, len(links)) > 1 else 0)
    k = data.draw(st.integers(0, len(links) - 1))
    without = whole[:k] + whole[k + 1 :]
    if k < len(links) - 1:
        assert follow(without).broken is not None
    else:
        assert (
            follow(without).end != digest
        )  # a missing last entry shows where the end is known: in a seal, in a backup


def test_a_seal_proves_only_what_its_key_can(engine: Engine, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    with Session(engine) as session, session.begin():
        made = seal(session, 1, "Ann", {"tag": "A-1"}, {"dial_a": 14.4})
        assert seal_state(session, made) == "intact"
        without_guards(session, "seal")
        session.execute(text("UPDATE seal SET who = 'Bob'"))
        session.expire_all()
        assert seal_state(session, seals(session, 1)[0]) == "broken", "who sealed is under the key too"
        session.execute(text("UPDATE seal SET who = 'Ann', mac = ''"))
        session.expire_all()
        assert seal_state(session, seals(session, 1)[0]) == "broken", "the key cannot be left out either"
    monkeypatch.setenv("VOLMEK_SECRET_FILE", str(tmp_path / "another" / "secret"))
    with Session(engine) as session, session.begin():
        session.execute(text("UPDATE seal SET mac = 'x'"))
        session.expire_all()
        assert seal_state(session, seals(session, 1)[0]) == "other_key"
    assert (tmp_path / "another" / "secret").stat().st_mode & 0o777 == 0o600


@ON_FILES
def test_a_damaged_row_takes_no_page_down(client: FlaskClient) -> None:
    """A cut document, a spoilt entry, an inspection dated 9999: each is told, everything else is there."""
    engine = engine_of(client)
    with engine.begin() as connection:
        connection.execute(text("UPDATE starter SET document = substr(document, 1, 40) WHERE id = 3"))
        row = text("INSERT INTO journal SELECT NULL, starter_id, :key, :kind, :body, who, said, received, seen, tag, '', signed FROM journal WHERE starter_id = 7 LIMIT 1")  # fmt: skip
        connection.execute(row, {"key": "spoilt-1", "kind": "wire", "body": '{"wire": '})
        far = '{"title": "Far", "every_months": 12, "first_due": "9999-01-01"}'
        connection.execute(row, {"key": "spoilt-2", "kind": "inspection", "body": far})
    boards = client.get("/api/boards")
    assert boards.status_code == 200
    rows = {s["id"]: s for b in boards.get_json()["boards"] for s in b["starters"]}
    assert len(rows) == 13 and "damaged" in rows[3]["problem"] and not rows[1]["problem"]
    record = client.get("/api/starters/7/record").get_json()
    assert len([d for d in record["damaged"] if "cannot be used" in d]) == 2
    for page in ("record", "build", "progress", "readings", "report.html", "sheet.html", "inspections.ics"):
        assert client.get(f"/api/starters/7/{page}").status_code == 200, page
    assert client.get("/api/boards/1/inspections.ics").status_code == 200
    with Session(engine) as session:
        assert len(read_journal(session, 7).damaged) == 2 and len(entries(session, 7)) > 50
    assert client.get("/api/starters/3").status_code == 200  # opens with the problem in words


def test_the_bin_over_the_api(client: FlaskClient) -> None:
    removed = client.delete("/api/starters/7?who=Ann").get_json()["starters"][0]
    assert (removed["tag"], removed["removed_by"]) == ("KG-101", "Ann") and removed["entries"] > 50
    for url in ("/api/starters/7", "/api/starters/7/record", "/api/starters/7/report.html"):
        assert "is in the bin" in client.get(url).get_json()["problems"][0]["message"], url
    written = client.post("/api/starters/7/journal", json={"entries": [{"key": "12345678", "kind": "open", "body": {"text": "x"}, "who": "Ann", "said": "2026-11-28T10:00:00Z"}]})  # fmt: skip
    assert written.status_code == 404
    assert client.post("/api/bin/7/put-back").get_json()["document"]["tag"] == "KG-101"
    assert client.get("/api/starters/7/record").status_code == 200
    client.delete("/api/starters/7")
    assert client.delete("/api/bin/7?tag=KG-102").get_json()["problems"][0]["field"] == "tag"
    left = client.delete("/api/bin/7?tag=KG-101&who=Bob").get_json()
    assert left["entries"] == removed["entries"] and len(left["digest"]) == 64
    assert client.get("/api/bin").get_json()["starters"] == [] and client.post("/api/bin/7/put-back").status_code == 404
