"""The quick answer over the API: no board, no state, and a starter from it."""

from pathlib import Path
from typing import Any

import pytest
from click.testing import CliRunner
from flask.testing import FlaskClient

from volmek.cli import main
from volmek.web.app import create_app


@pytest.fixture
def empty(tmp_path: Path) -> FlaskClient:
    """A client of an application that nobody has used."""
    return create_app(tmp_path / "empty.db").test_client()


def ask(client: FlaskClient, **body: Any) -> dict[str, Any]:
    return dict(client.post("/api/quick", json=body).json["quick"])


def test_a_line_is_answered_without_any_board(empty: FlaskClient) -> None:
    quick = ask(empty, line="7.5 kW 400 V 14.8 A")
    assert quick["answer"]["sentence"].startswith("Set the overload to 14.8 A, class 10; contactor RC-17")
    assert empty.get("/api/boards").json["boards"] == []
    american = ask(empty, line="7.5 kW 400 V 14.8 A", practice="nec")
    assert american["read"]["proposed"] == "iec" and american["answer"]["rows"][0]["answer"] == "14.2 A, class 10"


def test_what_to_find_out_next_names_what_changes(empty: FlaskClient) -> None:
    body = {"line": "37 kW 400/690 V star delta", "asker": 7}
    found = empty.post("/api/quick/find-out", json=body).json["find_out"]
    assert found and found[0]["changes"]
    assert empty.post("/api/quick/find-out", json={**body, "line": "37 kW"}).json["find_out"] is None
    empty.application.extensions["ranges"].close()


def test_opened_as_a_starter_it_makes_its_own_board_and_counts_tags(empty: FlaskClient) -> None:
    for tag in ("M-1", "M-2"):
        made = empty.post("/api/quick/starter", json={"line": "4 kW 400 V 8.1 A"})
        assert made.status_code == 201 and made.json["document"]["tag"] == tag
    assert [b["name"] for b in empty.get("/api/boards").json["boards"]] == ["QUICK"]
    revisions = empty.get(f"/api/starters/{made.json['id']}/history").json["revisions"]
    assert revisions[0]["change"] == "made from one line; Three-phase is assumed. Supply assumed to be 400 V."


def test_on_a_board_its_supply_counts_before_what_the_line_assumed(client: FlaskClient) -> None:
    number = client.get("/api/boards").json["boards"][0]["id"]
    made = client.post(
        "/api/quick/starter", json={"line": "4 kW 380 V 8.1 A", "board_id": number, "tag": "KG-199"}
    ).json
    assert made["document"]["supply"]["line_voltage_v"] == 400 and made["document"]["supply"]["transformer_kva"] == 250
    typed = client.post("/api/quick/starter", json={"line": "4 kW 400 V supply 415 V", "board_id": number}).json
    assert typed["document"]["supply"]["line_voltage_v"] == 415
    assert client.post("/api/quick/starter", json={"line": "4 kW", "board_id": 999}).status_code == 404


def test_a_line_too_long_or_an_unknown_practice_is_refused(empty: FlaskClient) -> None:
    assert empty.post("/api/quick", json={"line": "x" * 301}).status_code == 422
    assert empty.post("/api/quick", json={"line": "4 kW", "practice": "din"}).status_code == 422


def test_the_command_answers_and_says_what_it_did_not_understand() -> None:
    said = CliRunner().invoke(main, ["quick", "10", "hp", "460", "V", "turbo"])
    assert said.exit_code == 0 and said.output.startswith("Set the overload to 13.4 A, class 10; contactor RN-1")
    assert "not understood: turbo" in said.stderr
    nothing = CliRunner().invoke(main, ["quick", "10 hp"])
    assert nothing.exit_code == 2 and "the plate voltage is needed" in nothing.stderr
