"""The API: what it keeps, what it refuses and in which words."""

import json
from typing import Any

import pytest
from flask.testing import FlaskClient

from samples import iec
from volmek.web.app import Application


def starter(client: FlaskClient, number: int = 1) -> dict[str, Any]:
    return client.get(f"/api/starters/{number}").get_json()


def put(client: FlaskClient, document: dict[str, Any], version: int = 1, number: int = 1) -> Any:
    return client.put(f"/api/starters/{number}", json={"version": version, "document": document})


def test_the_demo_board_holds_a_fault_of_every_sort(client: FlaskClient) -> None:
    boards = client.get("/api/boards").get_json()["boards"]
    assert [b["name"] for b in boards] == ["KG-2", "PL-1"]
    rows = client.get("/api/boards/1").get_json()["starters"]
    assert len([r for r in rows if r["dial"]]) >= 4
    assert [r["tag"] for r in rows if r["practice"] == "nec"] == ["KG-120"]
    assert [r["tag"] for r in rows if r["stop"]] == ["KG-106B"]
    assert [r["tag"] for r in rows if r["problem"]] == ["KG-130"]


def test_a_change_is_saved_designed_and_numbered(client: FlaskClient) -> None:
    document = starter(client)["document"]
    document["motor"]["rated_current_delta_a"] = 11.0
    answer = put(client, document)
    assert answer.status_code == 200
    assert answer.get_json()["version"] == 2
    assert answer.get_json()["design"]["devices"][0]["settings"]["dial_a"] == 11.0
    assert starter(client)["document"]["motor"]["rated_current_delta_a"] == 11.0


def test_a_change_on_an_old_version_is_a_conflict_and_changes_nothing(client: FlaskClient) -> None:
    document = starter(client)["document"]
    assert put(client, {**document, "service": "one"}).status_code == 200
    answer = put(client, {**document, "service": "two"})
    assert answer.status_code == 409
    assert answer.get_json()["problems"][0]["field"] == "version"
    assert starter(client)["document"]["service"] == "one"


@pytest.mark.parametrize(
    ("parts", "field", "words"),
    [
        ({"motor": {"rated_power_kw": 0}}, "motor.rated_power_kw", "greater than 0"),
        ({"motor": {"rated_power_kw": -4}}, "motor.rated_power_kw", "greater than 0"),
        ({"motor": {"rated_power_kw": 1e9}}, "motor.rated_power_kw", "the most is 2000"),
        ({"motor": {"rated_power_kw": "five"}}, "motor.rated_power_kw", "'five' is not a number"),
        ({"motor": {"rated_power_kw": True}}, "motor.rated_power_kw", "not a number"),
        ({"motor": {"rated_power_kw": 37, "rated_current_delta_a": 3}}, "motor.rated_current_delta_a", "decimal point"),
        ({"motor": {"rated_voltage_star_v": 600}}, "motor.rated_voltage_star_v", "√3"),
        ({"motor": {"colour": "red"}}, "motor.colour", "not a field"),
        ({"version": 2}, "version", "2"),
        ({"tag": ""}, "tag", "at least 1"),
        ({"motor": {"power_factor": 1.2}}, "motor.power_factor", "the most is 1"),
        ({"overrides": [{"role": "line_contactor", "device_type": "RC-17"}]}, "overrides.0.reason", "required"),
    ],
)
@pytest.mark.parametrize("keeping", [True, False])
def test_bad_input_is_refused_at_its_field(
    client: FlaskClient, parts: dict[str, Any], field: str, words: str, keeping: bool
) -> None:
    before = starter(client)["document"]
    document = iec(**parts)
    answer = put(client, document) if keeping else client.post("/api/design", json={"document": document})
    assert answer.status_code == 422
    messages = {p["field"]: p["message"] for p in answer.get_json()["problems"]}
    assert words in messages[field]
    assert starter(client)["document"] == before, "nothing is kept of what was refused"


@pytest.mark.parametrize(
    ("parts", "field"),
    [
        ({"supply": {"line_voltage_v": 500}}, "supply.line_voltage_v"),
        ({"motor": {"leads": 3}, "starter": {"type": "star_delta"}}, "motor.leads"),
        ({"protection": {"device": "miniature_breaker_b"}, "motor": {"rated_power_kw": 90, "rated_current_delta_a": 160}}, "protection.device"),
    ],
)  # fmt: skip
def test_a_wrong_choice_is_kept_designed_and_stopped_at_its_field(
    client: FlaskClient, parts: dict[str, Any], field: str
) -> None:
    answer = put(client, iec(tag="KG-104", **parts))
    assert answer.status_code == 200
    design = client.get("/api/starters/1").get_json()["design"]
    assert field in {f["field"] for f in design["findings"] if f["severity"] == "stop"}
    assert design["currents"]["design_current_a"] == iec(**parts)["motor"]["rated_current_delta_a"]


def test_the_working_of_every_figure_can_be_asked_for(client: FlaskClient) -> None:
    read = starter(client)["design"]["figures"]
    full = client.get("/api/starters/1/figures").get_json()["figures"]
    assert set(read) < set(full)
    assert {"plate_current_a", "line_contactor.rated_current_a"} <= set(read)
    assert read["calculated_current_a"]["text"] == full["calculated_current_a"]["text"]
    assert full["calculated_current_a"]["formula"].startswith("P / (√3")
    assert client.get("/api/starters/6/figures").status_code == 422


def test_what_is_only_missing_is_kept_but_not_designed(client: FlaskClient) -> None:
    answer = put(client, {"tag": "KG-104", "motor": {"rated_power_kw": 3}})
    assert answer.status_code == 200
    assert answer.get_json()["design"] is None
    assert {p["field"] for p in answer.get_json()["problems"]} == {
        "motor.rated_voltage_delta_v",
        "supply.line_voltage_v",
    }
    assert client.post("/api/design", json={"document": {"tag": "x"}}).status_code == 422


@pytest.mark.parametrize("body", [b"{broken", b"", b'"text"', b"[1, 2]", b'{"version": 1}', b"\xff\xfe"])
def test_a_body_that_is_no_request_is_refused_in_words(client: FlaskClient, body: bytes) -> None:
    answer = client.put("/api/starters/1", data=body, content_type="application/json")
    assert answer.status_code == 422
    assert answer.get_json()["problems"][0]["message"]


def test_what_is_not_there_is_said_so(client: FlaskClient) -> None:
    for path in ("/api/starters/999", "/api/boards/999", "/api/nothing", "/api/starters/999/sheet.pdf"):
        answer = client.get(path)
        assert answer.status_code == 404, path
        assert answer.get_json()["problems"][0]["message"]


def test_history_collects_typing_and_goes_back(client: FlaskClient) -> None:
    document = starter(client)["document"]
    for version, amps in enumerate((1.1, 11.0, 11.2), start=1):
        document["motor"]["rated_current_delta_a"] = amps if amps > 2 else 10.9
        put(client, document, version)
    history = client.get("/api/starters/1/history").get_json()["revisions"]
    assert [r["change"] for r in history] == ["motor.rated_current_delta_a", "made"], "typing on is one revision"
    answer = client.post("/api/starters/1/restore", json={"version": 4, "revision_id": history[-1]["id"]})
    assert answer.get_json()["document"]["motor"]["rated_current_delta_a"] == 10.6
    assert client.get("/api/starters/1/history").get_json()["revisions"][0]["change"].startswith("back to the state of")
    other = client.get("/api/starters/2/history").get_json()["revisions"][0]["id"]
    assert client.post("/api/starters/1/restore", json={"version": 5, "revision_id": other}).status_code == 404


def test_reasons_of_overrides_stay_when_the_override_goes(client: FlaskClient) -> None:
    document = starter(client)["document"]
    own = [{"role": "line_contactor", "device_type": "RC-28", "reason": "spare in the store"}]
    put(client, {**document, "overrides": own})
    put(client, document, 2)
    notes = client.get("/api/starters/1/history").get_json()["overrides"]
    assert [(n["choice"], n["reason"]) for n in notes] == [
        ("removed", "spare in the store"),
        ("type RC-28", "spare in the store"),
    ]


def test_boards_and_starters_are_made_and_names_are_unique(client: FlaskClient) -> None:
    made = client.post(
        "/api/boards", json={"job": "Thornebeck Maltings", "name": "KG-3", "defaults": {"practice": "nec"}}
    )
    assert made.status_code == 201
    again = client.post("/api/boards", json={"job": "Thornebeck Maltings", "name": "KG-3"})
    assert (again.status_code, again.get_json()["problems"][0]["field"]) == (422, "name")
    assert client.post("/api/boards", json={"job": "a", "name": "b", "defaults": {"motor": 3}}).status_code == 422
    board = made.get_json()["id"]
    assert client.post(f"/api/boards/{board}/starters", json={"document": {"tag": "X"}}).status_code == 201
    twice = client.post(f"/api/boards/{board}/starters", json={"document": {"tag": "X"}})
    assert (twice.status_code, twice.get_json()["problems"][0]["field"]) == (422, "tag")
    document = starter(client)["document"]
    assert put(client, {**document, "tag": "KG-111"}).get_json()["problems"][0]["field"] == "tag"
    assert client.delete("/api/starters/4").status_code == 200
    assert client.get("/api/starters/4").status_code == 404


def test_a_copy_has_its_own_tag_and_history(client: FlaskClient) -> None:
    made = client.post("/api/starters/2/copy", json={"tag": "KG-106C", "service": "Steep-water pump C"})
    assert made.status_code == 201
    copy = made.get_json()
    original = starter(client, 2)
    assert copy["document"] == {**original["document"], "tag": "KG-106C", "service": "Steep-water pump C"}
    history = client.get(f"/api/starters/{copy['id']}/history").get_json()
    assert [r["change"] for r in history["revisions"]] == ["copied from KG-2 KG-106A"]
    assert history["overrides"][0]["reason"] == "same spare as pump B"
    again = client.post("/api/starters/2/copy", json={"tag": "KG-106C"})
    assert (again.status_code, again.get_json()["problems"][0]["field"]) == (422, "tag")
    assert client.post("/api/starters/99/copy", json={"tag": "x"}).status_code == 404
    assert client.post("/api/starters/6/copy", json={"tag": "half a plate"}).status_code == 201


def test_methods_are_compared_side_by_side(client: FlaskClient) -> None:
    answer = client.get(
        "/api/starters/1/compare?method=direct_on_line&method=star_delta&method=rotor_resistance"
    ).get_json()
    direct, star, slip_ring = answer["methods"]
    assert [d["designation"] for d in direct["devices"]] == ["Q1", "K1", "T1", "F6", "F3", "W1"]
    assert star["parts"] == 12
    assert len({d["rating"] for d in star["devices"] if d["designation"] in ("K1", "K3")}) == 2, (
        "what is kept counts for it alone"
    )
    assert star["offer"]["line_current_a"] * 3 == pytest.approx(direct["offer"]["line_current_a"])
    assert (slip_ring["devices"], slip_ring["offer"]["fit"]) == ([], "no")
    assert client.get("/api/starters/1/compare?method=jump_start").status_code == 422
    assert client.get("/api/starters/6/compare?method=star_delta").status_code == 422


def test_tables_and_schools_are_searched_by_any_name(client: FlaskClient) -> None:
    everything = client.get("/api/tables").json
    assert everything and len(everything["tables"]) == 29
    assert client.get("/api/tables?find=latch").json == client.get("/api/tables?find=seal-in").json
    refused = client.get("/api/tables?find=" + "x" * 101)
    assert refused.status_code == 422
    assert refused.json and refused.json["problems"][0]["field"] == "find"


def test_sheet_in_both_forms_and_the_document_as_a_file(client: FlaskClient) -> None:
    html = client.get("/api/starters/3/sheet.html").get_data(as_text=True)
    for words in (
        "KG-106B",
        "overload setting 10.8 A",
        "</svg> STOP",
        "burns out",
        "Isolate, lock off",
        "Signed for",
        "chosen by hand",
    ):
        assert (words in html) == (words != "chosen by hand"), words
    assert "same spare as pump B" in client.get("/api/starters/2/sheet.html").get_data(as_text=True)
    assert client.get("/api/starters/6/sheet.html").status_code == 422, "a mere plate has no settings yet"
    pdf = client.get("/api/starters/1/sheet.pdf")
    assert pdf.mimetype == "application/pdf"
    assert pdf.data.startswith(b"%PDF-")
    kept = client.get("/api/starters/1/document.json")
    assert json.loads(kept.data) == starter(client)["document"]


def test_the_page_is_served_with_its_own_paths_and_sends_nothing_outside(client: FlaskClient) -> None:
    for path in ("/", "/boards/1", "/starters/1/devices"):
        answer = client.get(path, headers={"Accept-Encoding": "gzip"})
        assert answer.status_code == 200
        assert b'<div id="app">' in answer.data
        assert "default-src 'self'" in answer.headers["Content-Security-Policy"]


def test_the_generated_document_describes_every_route(client: FlaskClient) -> None:
    assert isinstance(client.application, Application)
    document = client.application.api_doc
    assert len(document["paths"]) == 102
    assert "StarterDocument" in document["components"]["schemas"]


def test_the_start_and_the_curves_come_as_data_and_as_files(client: FlaskClient) -> None:
    start = client.get("/api/starters/7/start").get_json()["start"]
    assert start["result"]["start_time_source"] == "run-up" and len(start["star"]["points"]) == 40
    assert client.get("/api/starters/4/start").get_json()["start"]["method"] is None
    sheet = client.get("/api/starters/7/phase-failure").get_json()["sheet"]
    assert len(sheet["at_load"]) == 60 and sheet["settings"]
    assert client.get("/api/starters/7/time-current").get_json()["sheet"]["marks"]
    assert client.get("/api/starters/7/time-current.csv").data.startswith(b"curve,edge")
    assert client.get("/api/starters/7/time-current.svg").data.startswith(b"<svg")
    assert client.get("/api/starters/6/start").status_code == 422, "only a plate so far"
    assert client.get("/api/loads").get_json()["loads"][0]["machine"] == "fan_closed"
    judged = client.post("/api/unbalance", json={"voltages_v": [400, 392, 404]}).get_json()["result"]
    assert judged["verdict"] == "attention"
    for bad in ({"voltages_v": [400, 392]}, {"voltages_v": [400, 100, 100]}, {"voltages_v": [400, 0, 400]}):
        assert client.post("/api/unbalance", json=bad).status_code == 422
