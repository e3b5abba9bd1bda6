"""What a list shows is kept, and made anew exactly where something that it follows from has changed."""

import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest
from flask.testing import FlaskClient
from sqlalchemy import text

from databases import ON_FILES
from samples import engine_of
from volmek.web import lines
from volmek.web.app import create_app


@pytest.fixture
def sized(monkeypatch: pytest.MonkeyPatch) -> list[str]:
    """Tags of the starters that are sized for a list, in their order."""
    tags: list[str] = []
    real: Callable[..., Any] = lines.row_of

    def counted(starter: Any, *args: Any, **kwargs: Any) -> Any:
        tags.append(starter.tag)
        return real(starter, *args, **kwargs)

    monkeypatch.setattr(lines, "row_of", counted)
    return tags


def listed(client: FlaskClient) -> list[dict[str, Any]]:
    found: list[dict[str, Any]] = client.get("/api/boards").get_json()["boards"]
    return found


def test_only_what_changed_is_sized_again(client: FlaskClient, sized: list[str]) -> None:
    first = listed(client)
    assert len(sized) == 13
    sized.clear()
    assert listed(client) == first and sized == []
    starter = client.get("/api/starters/7").get_json()
    document = {**starter["document"], "service": "Another fan"}
    client.put("/api/starters/7", json={"version": starter["version"], "document": document})
    assert next(s for b in listed(client) for s in b["starters"] if s["id"] == 7)["service"] == "Another fan"
    assert sized == ["KG-101"]
    sized.clear()
    client.post("/api/starters/2/journal", json={"entries": [{"key": "a-new-key", "kind": "open", "body": {"text": "x"}, "who": "Ann", "said": "2026-11-28T10:00:00Z"}]})  # fmt: skip
    rows = {s["id"]: s for b in listed(client) for s in b["starters"]}
    assert rows[2]["open_points"] == 4 and sized == ["KG-106A"]


def test_new_rules_and_another_catalogue_make_every_line_anew(
    client: FlaskClient, sized: list[str], monkeypatch: pytest.MonkeyPatch
) -> None:
    listed(client)
    sized.clear()
    monkeypatch.setattr("volmek.store.listed.rules_digest", lambda: "another version")
    listed(client)
    assert len(sized) == 13
    sized.clear()
    made = client.post("/api/catalogues", json={"name": "Store room"}).get_json()
    client.put("/api/boards/1/catalogues", json={"catalogues": [0, made["id"]], "design_anew": False})
    sized.clear()
    listed(client)
    assert sized == [], "the answer to the change has kept them"


@ON_FILES
def test_a_list_that_cannot_be_kept_is_shown_all_the_same(client: FlaskClient, sized: list[str]) -> None:
    engine = engine_of(client)
    with engine.begin() as connection:
        connection.execute(
            text("CREATE TRIGGER no_lines BEFORE INSERT ON listed BEGIN SELECT RAISE(ABORT, 'full'); END")
        )
    assert sum(len(b["starters"]) for b in listed(client)) == 13 and len(sized) == 13


@ON_FILES
def test_a_spoilt_line_is_made_anew(client: FlaskClient, sized: list[str]) -> None:
    first = listed(client)
    engine = engine_of(client)
    with engine.begin() as connection:
        connection.execute(text("UPDATE listed SET cells = substr(cells, 1, 20) WHERE starter_id = 7"))
        connection.execute(text("UPDATE listed SET cells = '[]' WHERE starter_id = 8"))
    sized.clear()
    assert listed(client) == first and sized == [], "this process knows them"
    later = create_app(Path(str(engine.url.database))).test_client()
    assert listed(later) == first and len(sized) == 2 and "KG-101" in sized


def test_a_list_is_searched_in_order_and_by_pages(client: FlaskClient) -> None:
    def asked(**query: Any) -> dict[str, Any]:
        found: dict[str, Any] = client.get("/api/lines", query_string=query).get_json()
        return found

    whole = asked()
    assert (whole["total"], whole["of"], whole["unsized"], len(whole["rows"])) == (13, 13, 0, 13)
    assert [x["row"]["tag"] for x in asked(offset=5, limit=4)["rows"]] == [x["row"]["tag"] for x in whole["rows"]][5:9]
    assert [x["row"]["tag"] for x in asked(find="pump steep")["rows"]] == ["KG-106A", "KG-106B"]
    assert {x["board"] for x in asked(board_id=2)["rows"]} == {"PL-1"}
    tags = [x["row"]["tag"] for x in asked(sort="tag")["rows"]]
    assert tags.index("KG-104") < tags.index("KG-120") < tags.index("PL-201")
    amps = [float(x["row"]["current"] or 0) for x in asked(sort="current")["rows"]]
    assert amps == sorted(amps, reverse=True)
    worst = asked(sort="worst")["rows"]
    assert worst[0]["row"]["stop"] == 1 and asked(filter="stop")["total"] == 1
    by_device = asked(find="RC-42")["rows"]
    assert by_device and all("RC-42" in x["because"] or "RC-42" in x["row"]["tag"] for x in by_device)
    assert asked(find="nowhere to be found")["total"] == 0
    assert client.get("/api/lines?board_id=99").status_code == 404
    assert client.get("/api/lines?limit=0").status_code == 422


def test_what_takes_too_long_follows_in_the_background(client: FlaskClient, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(lines, "PATIENCE_S", -1.0)
    first = client.get("/api/boards/1").get_json()
    assert first["unsized"] == first["total"] == 11 and not any(s["sized"] for s in first["starters"])
    assert first["starters"][0]["tag"] == "KG-104"
    for _ in range(400):
        now = client.get("/api/boards/1").get_json()
        if now["unsized"] == 0:
            break
        time.sleep(0.05)
    assert now["unsized"] == 0 and any(s["stop"] for s in now["starters"])
    assert client.get("/api/boards").get_json()["unsized"] == 2, "the other board was not asked for"
