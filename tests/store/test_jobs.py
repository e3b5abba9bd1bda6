"""A job goes from one database to another as one file, with history, record, chain and seals; what was changed in the file shows."""

import json
from collections.abc import Iterator
from datetime import datetime
from pathlib import Path
from typing import Any

import pytest
from flask.testing import FlaskClient
from sqlalchemy.orm import Session

from databases import ON_FILES, ON_SERVERS
from samples import engine_of
from volmek.core.record.chain import Link, link_digest
from volmek.store.engine import Database
from volmek.store.models import Seal, Starter
from volmek.store.records import chain_of, seal_state
from volmek.web.app import create_app

NAME = "Thornebeck Maltings"


@pytest.fixture
def exported(client: FlaskClient) -> dict[str, Any]:
    client.post("/api/starters/7/seals", json={"who": "Ann"})
    answer = client.get("/api/jobs/file", query_string={"name": NAME})
    assert answer.status_code == 200 and "Thornebeck-Maltings.volmek.json" in answer.headers["Content-Disposition"]
    found: dict[str, Any] = json.loads(answer.data)
    return found


@pytest.fixture
def fresh(database: Database) -> Iterator[FlaskClient]:
    app = create_app(database)
    yield app.test_client()
    app.extensions["engine"].dispose()


def put(client: FlaskClient, file: dict[str, Any], name: str = "") -> Any:
    return client.post("/api/jobs/import", json={"text": json.dumps(file), "name": name})


def test_a_job_comes_over_whole(client: FlaskClient, exported: dict[str, Any], fresh: FlaskClient) -> None:
    answer = put(fresh, exported)
    assert answer.status_code == 201, answer.get_json()
    assert answer.get_json() | {"entries": 0} == {"name": NAME, "boards": 2, "starters": 13, "entries": 0}
    again = json.loads(fresh.get("/api/jobs/file", query_string={"name": NAME}).data)
    assert again | {"exported": ""} == exported | {"exported": ""}

    def shown(c: FlaskClient) -> list[Any]:
        return [[{k: v for k, v in s.items() if k != "id"} for s in b["starters"]] for b in c.get("/api/boards").get_json()["boards"]]  # fmt: skip

    assert shown(fresh) == shown(client)
    engine = engine_of(fresh)
    with Session(engine) as session:
        assert all(chain_of(session, s.id).broken is None for s in session.query(Starter))
        states = sorted(seal_state(session, s) for s in session.query(Seal))
    assert states == ["intact", "intact"]
    ids = {s["tag"]: s["id"] for b in fresh.get("/api/boards").get_json()["boards"] for s in b["starters"]}
    mine, theirs = fresh.get(f"/api/starters/{ids['KG-101']}/record"), client.get("/api/starters/7/record")
    assert mine.get_json()["sheet"]["clashes"] == theirs.get_json()["sheet"]["clashes"], "who knew of whom is kept"
    assert mine.get_json()["damaged"] == []
    assert fresh.get(f"/api/starters/{ids['KG-101']}/history").get_json()["revisions"]


def test_a_name_that_is_taken_asks_for_another(client: FlaskClient, exported: dict[str, Any]) -> None:
    refused = put(client, exported)
    assert refused.status_code == 422 and refused.get_json()["problems"][0]["field"] == "name"
    assert put(client, exported, "Thornebeck, copy").status_code == 201
    assert len(client.get("/api/boards").get_json()["boards"]) == 4


def test_a_record_changed_in_the_file_is_refused_and_nothing_is_put_in(
    exported: dict[str, Any], fresh: FlaskClient
) -> None:
    starter = next(s for b in exported["boards"] for s in b["starters"] if s["tag"] == "KG-101")
    starter["record"][3]["who"] = "Nobody"
    refused = put(fresh, exported)
    assert "was changed at entry 4" in refused.get_json()["problems"][0]["message"]
    assert fresh.get("/api/boards").get_json()["boards"] == []


def chained(record: list[dict[str, Any]]) -> None:
    """Give a changed record a chain that holds, as somebody could who knows how it is made."""
    digest = ""
    for n, e in enumerate(record):
        said, received = (datetime.fromisoformat(e[x]) for x in ("said", "received"))
        digest = link_digest(digest, Link(n, e["tag"], e["key"], e["kind"], e["body"], e["who"], said, received, e["seen"]))  # fmt: skip
        e["digest"] = digest


@pytest.mark.parametrize("what", ["seen", "key", "seal", "tag", "zone", "devices", "board", "type"])
def test_what_a_file_says_against_itself_is_named_and_nothing_is_put_in(
    exported: dict[str, Any], fresh: FlaskClient, what: str
) -> None:
    starter = next(s for b in exported["boards"] for s in b["starters"] if s["tag"] == "KG-101")
    record = starter["record"]
    match what:
        case "seen":
            record[3]["seen"] = 4
        case "key":
            record[3]["key"] = record[2]["key"]
        case "seal":
            starter["seals"][0]["entries"] = len(record) + 1
        case "tag":
            starter["tag"] = "KG-999"
        case "zone":
            starter["saved"] = "2026-11-28T10:00:00"
        case "devices":
            starter["devices"] = "{"
        case "board":
            exported["boards"][1]["name"] = exported["boards"][0]["name"]
        case "type":
            cells = {"type": "X"}
            exported["catalogues"] = [{"name": "Mine", "devices": {"contactors": [cells, cells]}}]
    chained(record)
    refused = put(fresh, exported)
    assert refused.status_code == 422, what
    words = " ".join(f"{p['field']} {p['message']}" for p in refused.get_json()["problems"])
    named = {"seen": "cannot have been known", "key": "key occurs twice", "seal": "more than the", "tag": "not the tag", "zone": "saved", "devices": "devices", "board": "board occurs twice", "type": "type occurs twice"}  # fmt: skip
    assert named[what] in words
    assert fresh.get("/api/boards").get_json()["boards"] == []


@pytest.mark.parametrize(
    ("change", "field"),
    [
        ({"volmek_job": 9}, "volmek_job"),
        ({"surplus": 1}, "surplus"),
        ({"boards": [{"name": "B"}]}, "boards.0"),
        ({"job": ""}, "job"),
    ],
)
def test_what_is_no_job_file_names_its_field(
    exported: dict[str, Any], fresh: FlaskClient, change: dict[str, Any], field: str
) -> None:
    refused = put(fresh, exported | change)
    assert refused.status_code == 422 and any(field in p["field"] for p in refused.get_json()["problems"])


@ON_SERVERS
def test_the_backup_of_a_server_is_left_to_it(client: FlaskClient) -> None:
    refused = client.get("/api/backup")
    assert refused.status_code == 422 and "pg_dump" in refused.get_json()["problems"][0]["message"]


@ON_FILES
def test_the_backup_of_the_page_is_a_database(client: FlaskClient, tmp_path: Path) -> None:
    answer = client.get("/api/backup")
    assert answer.status_code == 200 and answer.data[:15] == b"SQLite format 3"
    copy = tmp_path / "copy.db"
    copy.write_bytes(answer.data)
    assert len(create_app(copy).test_client().get("/api/boards").get_json()["boards"]) == 2
