"""What a list shows is kept, and made anew exactly where something that it follows from has changed."""

from collections.abc import Callable
from typing import Any

import pytest
from flask.testing import FlaskClient
from sqlalchemy import text

from databases import ON_FILES
from samples import engine_of
from volmek.web import boards


@pytest.fixture
def sized(monkeypatch: pytest.MonkeyPatch) -> list[str]:
    """Tags of the starters that are sized for a list, in their order."""
    tags: list[str] = []
    real: Callable[..., Any] = boards.row_of

    def counted(starter: Any, *args: Any, **kwargs: Any) -> Any:
        tags.append(starter.tag)
        return real(starter, *args, **kwargs)

    monkeypatch.setattr(boards, "row_of", counted)
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
    sized.clear()
    assert listed(client) == first and sized == ["KG-101"]
