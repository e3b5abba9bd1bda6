"""Catalogues, their files, and presets through the API."""

import io
import multiprocessing
from typing import Any

import pytest
from flask.testing import FlaskClient
from werkzeug.exceptions import ServiceUnavailable

from volmek.core.catalogue.catalogue import reference_catalogue
from volmek.files.catalogue_files import read_catalogue, template_csv, write_csv, write_xlsx
from volmek.web.catalogues import FEW
from volmek.web.worker import AT_ONCE, devices_elsewhere

R = reference_catalogue()
HEAD = ",".join(R.contactors[0].cells()) + "\n"


def row(type: str, **changes: str) -> str:
    cells = {**next(c for c in R.contactors if c.type == "RC-17").cells(), "ac3_400_a": "16", **changes, "type": type}
    return ",".join(f'"{v}"' for v in cells.values()) + "\n"


def send(client: FlaskClient, id: int, text: str | bytes, name: str = "own.csv", **form: str) -> Any:
    data = text.encode() if isinstance(text, str) else text
    return client.post(f"/api/catalogues/{id}/import", data={"file": (io.BytesIO(data), name), **form})


@pytest.fixture
def own(client: FlaskClient) -> int:
    """An empty catalogue of one's own."""
    answer = client.post("/api/catalogues", json={"name": "Store"})
    assert answer.status_code == 201
    return int(answer.get_json()["id"])


def first_contactor(client: FlaskClient, starter: int = 1) -> str:
    design = client.get(f"/api/starters/{starter}").get_json()["design"]
    return str(next(d for d in design["devices"] if d["role"] == "line_contactor")["selected"]["type"])


def test_a_file_is_previewed_then_taken_whole(client: FlaskClient, own: int) -> None:
    text = HEAD.replace("RC-17", "") + row("OWN-16") + row("OWN-17", ac3_400_a="17")
    seen = send(client, own, text).get_json()
    assert (seen["committed"], seen["problems"]) == (False, [])
    table = seen["tables"][0]
    assert (table["table"], table["read"], table["added"], table["changed"]) == ("contactors", 2, 2, 0)
    assert client.get(f"/api/catalogues/{own}/devices?table=contactors").get_json()["total"] == 0, (
        "a preview stores nothing"
    )
    assert send(client, own, text, commit="true").get_json()["committed"]
    again = send(client, own, HEAD + row("OWN-16", ac3_400_a="15") + row("OWN-18"), remove_others="true").get_json()
    assert again["tables"][0] | {"rows": []} == {"table": "contactors", "columns": HEAD.strip().split(","), "rows": [], "read": 2, "added": 1, "changed": 1, "same": 0, "removed": ["OWN-17"]}  # fmt: skip


def test_nothing_of_a_file_with_a_problem_is_taken(client: FlaskClient, own: int) -> None:
    text = HEAD + row("OWN-16") + row("OWN-17", ac3_400_a="17 A") + row("OWN-18", inrush_va="=1+1")
    answer = send(client, own, text, commit="true")
    assert answer.status_code == 422
    said = {(p["row"], p["column"]): p["message"] for p in answer.get_json()["problems"]}
    assert set(said) == {(3, "ac3_400_a"), (4, "inrush_va")}
    marked = {r["row"]: r["wrong"] for r in answer.get_json()["tables"][0]["rows"]}
    assert marked == {2: [], 3: ["ac3_400_a"], 4: ["inrush_va"]}
    assert client.get(f"/api/catalogues/{own}/devices?table=contactors").get_json()["total"] == 0


def test_a_workbook_goes_in_and_comes_out_the_same(client: FlaskClient, own: int) -> None:
    assert send(client, own, write_xlsx(R.tables), "all.xlsx", commit="true").get_json()["committed"]
    exported = client.get(f"/api/catalogues/{own}/export.xlsx")
    assert {t: set(d) for t, d in read_catalogue(exported.data, "x.xlsx").devices.items()} == {
        t: set(d) for t, d in R.tables.items()
    }
    csv = client.get(f"/api/catalogues/{own}/export.csv?table=fuses").data.decode("utf-8-sig")
    assert csv.splitlines()[0] == write_csv("fuses", ()).strip()
    assert len(csv.splitlines()) == 1 + len(R.tables["fuses"])
    assert client.get("/api/catalogues/template.csv?table=fuses").data.decode("utf-8-sig") == template_csv("fuses")
    assert client.get("/api/catalogues/template.xlsx").status_code == 200


@pytest.mark.parametrize(
    ("call", "status", "words"),
    [
        (lambda c, i: send(c, i, "x", "x.txt"), 200, "neither a .csv nor an .xlsx"),
        (lambda c, i: send(c, i, b"x" * 50_000_000), 413, "too large|exceeds"),
        (lambda c, i: send(c, 99, HEAD), 404, "no catalogue 99"),
        (lambda c, i: send(c, 0, HEAD), 404, "no catalogue"),
        (lambda c, i: c.delete("/api/catalogues/0"), 404, "no catalogue"),
        (lambda c, i: c.post("/api/catalogues", json={"name": "store"}), 422, "already"),
        (lambda c, i: c.post("/api/catalogues", json={"name": "Reference range R"}), 422, "already"),
        (lambda c, i: c.post("/api/catalogues", json={"name": " "}), 422, "name"),
        (lambda c, i: c.put("/api/boards/1/catalogues", json={"catalogues": []}), 422, "at least one"),
        (lambda c, i: c.put("/api/boards/1/catalogues", json={"catalogues": [i, i]}), 422, "twice"),
        (lambda c, i: c.put("/api/boards/1/catalogues", json={"catalogues": [77]}), 422, "no catalogue 77"),
        (lambda c, i: c.get(f"/api/catalogues/{i}/devices?table=shoes"), 422, "table"),
        (lambda c, i: c.delete(f"/api/catalogues/{i}/devices?type=NO-1"), 404, "no NO-1"),
    ],
)
def test_what_cannot_be_done_is_refused_in_words(
    client: FlaskClient, own: int, call: Any, status: int, words: str
) -> None:
    answer = call(client, own)
    assert answer.status_code == status
    assert any(w in answer.get_data(as_text=True) for w in words.split("|")), answer.get_data(as_text=True)


def test_a_board_chooses_its_catalogues_and_its_designs_keep_their_devices(client: FlaskClient, own: int) -> None:
    """Pump A has an override, so starter 1 (5.5 kW, RC-13 or so) is looked at."""
    before = first_contactor(client)
    rating = next(c for c in R.contactors if c.type == before).ac3_400_a
    smaller = f"{rating - 1:g}"
    send(client, own, HEAD + row("OWN-1", ac3_400_a=smaller, ac3e_400_a=smaller), commit="true")
    board = client.put("/api/boards/1/catalogues", json={"catalogues": [own, 0]}).get_json()
    assert board["catalogues"] == [own, 0]
    assert first_contactor(client) == before, "a finished design does not change under its maker's hands"
    assert client.post("/api/starters/1/catalogue-now").get_json()["version"] == 2
    assert first_contactor(client) == "OWN-1"
    listed = {c["name"]: c for c in client.get("/api/catalogues").get_json()["catalogues"]}
    assert listed["Store"]["boards"] == ["KG-2"]
    assert client.delete(f"/api/catalogues/{own}").status_code == 204
    assert client.get("/api/boards/1").get_json()["catalogues"] == [0]
    starter = client.get("/api/starters/1").get_json()
    assert first_contactor(client) == "OWN-1", "the device is kept with the design"
    assert "device_kept" in {f["code"] for f in starter["design"]["findings"]}
    document = {**starter["document"], "service": "Renamed"}
    saved = client.put("/api/starters/1", json={"version": starter["version"], "document": document}).get_json()
    assert "device_kept" in {f["code"] for f in saved["design"]["findings"]}, "nor is it lost by typing elsewhere"
    client.put("/api/boards/1/catalogues", json={"catalogues": [0], "design_anew": True})
    assert first_contactor(client) == before


def test_a_large_board_designed_anew_in_another_process_is_as_designed_here(client: FlaskClient, own: int) -> None:
    board = client.post("/api/boards", json={"job": "J", "name": "Many"}).get_json()["id"]
    document = client.get("/api/starters/1").get_json()["document"]
    made = [client.post(f"/api/boards/{board}/starters", json={"document": {**document, "tag": f"M-{k}"}}).get_json() for k in range(FEW + 6)]  # fmt: skip
    rating = next(c for c in R.contactors if c.type == first_contactor(client)).ac3_400_a
    send(client, own, HEAD + row("OWN-1", ac3_400_a=f"{rating - 1:g}", ac3e_400_a=f"{rating - 1:g}"), commit="true")
    chosen = {"catalogues": [own, 0], "design_anew": True}
    assert client.put(f"/api/boards/{board}/catalogues", json=chosen).status_code == 200
    assert {first_contactor(client, s["id"]) for s in made} == {"OWN-1"}
    one = client.post("/api/boards", json={"job": "J", "name": "One"}).get_json()["id"]
    alone = client.post(f"/api/boards/{one}/starters", json={"document": {**document, "tag": "M-0"}}).get_json()["id"]
    client.put(f"/api/boards/{one}/catalogues", json=chosen)
    devices = [client.get(f"/api/starters/{k}").get_json()["design"]["devices"] for k in (made[0]["id"], alone)]
    assert devices[0] == devices[1]


def test_a_design_process_that_is_ended_is_said_and_nothing_is_changed(client: FlaskClient) -> None:
    document = client.get("/api/starters/1").get_json()["document"]
    others = set(multiprocessing.active_children())

    def step(k: int) -> None:
        for process in set(multiprocessing.active_children()) - others if k else ():
            process.kill()
            process.join()

    with pytest.raises(ServiceUnavailable, match="Nothing was changed"):
        devices_elsewhere([document] * (2 * AT_ONCE), R, step)


def test_one_device_is_taken_out_and_a_later_import_is_seen_at_once(client: FlaskClient, own: int) -> None:
    send(client, own, HEAD + row("OWN-1") + row("OWN-2"), commit="true")
    assert client.delete(f"/api/catalogues/{own}/devices?type=OWN-1").status_code == 204
    found = client.get(f"/api/catalogues/{own}/devices?table=contactors&find=own").get_json()
    assert [r[0] for r in found["rows"]] == ["OWN-2"]
    assert client.get(f"/api/catalogues/{own}/devices?table=contactors&find=nothing+such").get_json()["total"] == 0


def test_a_combination_of_unknown_devices_is_remarked_on(client: FlaskClient, own: int) -> None:
    text = "type,short_circuit_device,contactors,coordination_type,voltage_v,iq_ka\nT-1,RM-10,RC-13 + NO-1,2,415,50\n"
    assert "names RM-10, NO-1" in send(client, own, text).get_json()["remarks"][0]


def test_presets_are_kept_by_name_and_hold_no_motor(client: FlaskClient) -> None:
    parts = {"starter": {"type": "star_delta"}, "protection": {"device": "fuse_gg"}}
    first = client.put("/api/presets", json={"name": "Fans", "parts": parts}).get_json()
    assert (
        client.put("/api/presets", json={"name": "fans", "parts": {"practice": "iec"}}).get_json()["id"] == first["id"]
    )
    assert [p["parts"] for p in client.get("/api/presets").get_json()["presets"]] == [{"practice": "iec"}]
    for bad in ({"motor": {"rated_power_kw": 3}}, {"starter": {"type": "jump"}}, {}):
        assert client.put("/api/presets", json={"name": "Bad", "parts": bad}).status_code == 422
    assert client.delete(f"/api/presets/{first['id']}").status_code == 204
    assert client.get("/api/presets").get_json()["presets"] == []
