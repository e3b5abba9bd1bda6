"""Boards: renamed, starters moved, copied with renumbering, taken in from JSON."""

import json
from typing import Any

import pytest
from flask.testing import FlaskClient

from samples import iec


def row(client: FlaskClient, board: int, tag: str) -> dict[str, Any]:
    starters = client.get(f"/api/boards/{board}").json["starters"]
    return next(s for s in starters if s["tag"] == tag)


def test_a_board_is_renamed_and_a_taken_name_refused(client: FlaskClient) -> None:
    assert client.put("/api/boards/1", json={"name": "KG-3", "title": "Kiln"}).json["name"] == "KG-3"
    refused = client.put("/api/boards/1", json={"name": "PL-1"})
    assert refused.status_code == 422 and "has a board 'PL-1' already" in refused.json["problems"][0]["message"]
    assert client.put("/api/boards/99", json={"name": "X"}).status_code == 404


def test_a_starter_moves_with_history_and_record(client: FlaskClient) -> None:
    number = row(client, 1, "KG-104")["id"]
    before = client.get(f"/api/starters/{number}/record").json["sheet"]["measured"]
    assert client.post(f"/api/starters/{number}/move", json={"board_id": 2}).json["board"] == "PL-1"
    assert client.get(f"/api/starters/{number}/record").json["sheet"]["measured"] == before > 0
    assert all(s["tag"] != "KG-104" for s in client.get("/api/boards/1").json["starters"])


def test_a_taken_tag_stops_a_move_and_numbers_a_copy_on(client: FlaskClient) -> None:
    number = row(client, 1, "KG-104")["id"]
    copy = client.post(f"/api/starters/{number}/copy", json={"board_id": 2}).json
    assert (copy["document"]["tag"], copy["board"]) == ("KG-104", "PL-1")
    moved = client.post(f"/api/starters/{number}/move", json={"board_id": 2})
    assert moved.status_code == 422 and "has a starter 'KG-104' already" in moved.json["problems"][0]["message"]
    again = client.post(f"/api/starters/{number}/copy", json={}).json["document"]
    assert again["tag"] == "KG-105" and again["service"] == "Malt elevator head drive"
    letters = client.post(f"/api/starters/{row(client, 1, 'KG-106A')['id']}/copy", json={}).json["document"]["tag"]
    assert letters == "KG-106C", "the pumps are A and B"


def test_starters_come_in_from_json_all_or_none(client: FlaskClient) -> None:
    one, two = iec(tag="IN-1"), iec(tag="KG-104")
    clash = client.post("/api/boards/1/import", json={"text": json.dumps([one, two])})
    assert clash.status_code == 422
    assert all(s["tag"] != "IN-1" for s in client.get("/api/boards/1").json["starters"])
    done = client.post("/api/boards/1/import", json={"text": json.dumps([one, two]), "renumber": True})
    assert done.status_code == 201 and {"IN-1", "KG-105"} <= {s["tag"] for s in done.json["starters"]}


@pytest.mark.parametrize(
    ("text", "words"),
    [("{", "is not JSON"), ('{"tag": "A", "motor": {"rated_power_kw": -1}}', "must be greater than 0"), ("[1]", "not an object")],
)  # fmt: skip
def test_a_file_that_is_none_says_what_is_wrong(client: FlaskClient, text: str, words: str) -> None:
    answer = client.post("/api/boards/1/import", json={"text": text})
    assert answer.status_code == 422 and words in answer.json["problems"][0]["message"]


def test_a_row_can_be_found_by_device_and_finding(client: FlaskClient) -> None:
    found = row(client, 1, "KG-106B")
    assert any("24 V coil" in str(f) for f in found["findings"]) and any("K1 " in str(t) for t in found["types"])


def test_what_a_change_means_comes_with_its_drawing(client: FlaskClient) -> None:
    number = row(client, 1, "KG-104")["id"]
    before = client.get(f"/api/starters/{number}").json
    after = {**before["document"], "control": {**before["document"]["control"], "phase_monitor": "three_wire"}}
    client.put(f"/api/starters/{number}", json={"version": before["version"], "document": after})
    change = client.post(f"/api/starters/{number}/circuit/change", json={"before": before["document"]}).json["change"]
    assert change["difference"]["parts_added"] == ["F2 Phase monitor"]
    new = {t for t, state in change["work"].items() if state == "next"}
    assert {"F2:L1", "F2:L2", "F2:L3"} <= new and "K1:A2" not in new
    assert any(m["part"].startswith("contact:F2") for m in change["circuit"]["control"]["marks"])
