"""The record over the API: entries kept once, refusals in words, meter over a real socket, papers read again."""

import io
import re
import socket
import struct
import threading
from collections.abc import Iterator
from itertools import count
from typing import Any

import icalendar
import pytest
from flask.testing import FlaskClient
from pypdf import PdfReader

from volmek.meters.client import read_meter
from volmek.meters.registers import MeterSettings, Register, stand_in_map

NUMBERS = count(1)
PROVED, BUILT, BEGUN, PUMP = 1, 2, 7, 11


def entry(kind: str, who: str = "Ann", seen: int = 10**6, key: str = "", **body: Any) -> dict[str, Any]:
    return {
        "key": key or f"test-key-{next(NUMBERS)}",
        "kind": kind,
        "body": body,
        "who": who,
        "said": "2026-11-25T10:00:00Z",
        "seen": seen,
    }


def post(client: FlaskClient, *entries: dict[str, Any], starter: int = BEGUN) -> list[dict[str, Any]]:
    answer = client.post(f"/api/starters/{starter}/journal", json={"entries": list(entries)})
    assert answer.status_code == 200, answer.json
    results: list[dict[str, Any]] = answer.get_json()["results"]
    return results


def record(client: FlaskClient, starter: int = BEGUN) -> Any:
    return client.get(f"/api/starters/{starter}/record").get_json()["sheet"]


def readings(client: FlaskClient, item: str, starter: int = BEGUN) -> list[Any]:
    rows = [r for g in record(client, starter)["groups"] for r in g["items"] if r["item"]["id"] == item]
    return [r["value"] for r in rows[0]["readings"]]


def test_an_entry_sent_twice_is_kept_once(client: FlaskClient) -> None:
    e = entry("reading", item="load.L1", value=55.0)
    first, again = post(client, e), post(client, e, e)
    assert first[0]["id"] == again[0]["id"] == again[1]["id"] and readings(client, "load.L1") == [55]
    other = post(client, {**e, "body": {"item": "load.L1", "value": 56.0}})[0]
    assert other["id"] is None and "used for another entry" in other["problems"][0]["message"]


def test_what_is_refused_keeps_nothing_else_from_being_kept(client: FlaskClient) -> None:
    results = post(
        client, entry("reading", item="load.L1", value=55.0), entry("reading", item="load.L2", value=-3.0), entry("reading", item="load.L9", value=1.0),
        entry("nonsense"), entry("reading", item="load.L3", value=54.0), entry("step", stage="Coil of K2", step=0),
    )  # fmt: skip
    assert [r["id"] is not None for r in results] == [True, False, False, False, True, False]
    assert "cannot be: from 0" in results[1]["problems"][0]["message"]
    assert "not put under voltage yet" in results[5]["problems"][0]["message"]
    assert readings(client, "load.L1") == [55] and readings(client, "load.L3") == [54]


@pytest.mark.parametrize(
    ("body", "field"), [({"entries": []}, "entries"), ({"entries": "all"}, "entries"), ({"entries": [3]}, "entries")]
)
def test_a_request_that_cannot_be_read_names_the_field(client: FlaskClient, body: dict[str, Any], field: str) -> None:
    answer = client.post(f"/api/starters/{BEGUN}/journal", json=body)
    assert answer.status_code == 422 and any(field in p["field"] for p in answer.get_json()["problems"])
    assert client.post("/api/starters/999/journal", json={"entries": [entry("open", text="x")]}).status_code == 404


def test_each_entry_is_answered_for_itself(client: FlaskClient) -> None:
    """A malformed entry keeps no other from being saved, and says which field is wrong."""
    bad = [
        {"key": "short"},
        entry("open", text="x") | {"who": ""},
        entry("open", text="x") | {"said": "yesterday"},
        entry("open", text="x") | {"surplus": 1},
        entry("open", text="made for another starter") | {"tag": "KG-999"},
    ]
    good = entry("open", text="made for this one") | {"tag": "KG-101"}
    results = post(client, *bad, good)
    assert [r["id"] is not None for r in results] == [False] * 5 + [True]
    fields = [{p["field"] for p in r["problems"]} for r in results[:5]]
    assert all(f in found for f, found in zip(("key", "who", "said", "surplus", "tag"), fields, strict=True))
    assert [r["key"] for r in results] == [e["key"] for e in [*bad, good]]


def test_an_inspection_is_not_done_in_the_future_and_the_last_entry_counts(client: FlaskClient) -> None:
    made = entry("inspection", title="Terminals", every_months=12, first_due="2026-01-15")
    post(client, made)
    results = post(
        client,
        *(entry("inspected", inspection=made["key"], on=on, result="in order") for on in ("9999-12-31", "2062-03-01", "2026-11-20", "2026-10-20")),
    )  # fmt: skip
    assert [r["id"] is not None for r in results] == [False, False, True, True]
    assert "future" in results[1]["problems"][0]["message"] and results[0]["problems"][0]["field"] == "on"
    due = next(d for d in record(client)["inspections"] if d["key"] == made["key"])
    assert (due["last"], due["due"]) == ("2026-10-20", "2027-10-20"), (
        "entered again, the earlier date corrects the later one"
    )


def test_a_whole_stage_sent_at_once_is_kept_in_its_order(client: FlaskClient) -> None:
    """What a tablet kept while it was offline comes in one request: isolation, conductors, readings, then the steps."""
    stage = client.get(f"/api/starters/{BEGUN}/build").get_json()["sheet"]["stages"][4]
    title = stage["title"]
    steps = [entry("step", stage=title, step=n) for n in range(len(stage["steps"]))]
    before = [entry("isolated", stage=title, isolated=True, locked=True, proved_dead=True)]
    before += [entry("wire", wire=w) for w in stage["wires"]]
    before += [entry("check", stage=title, check=c["id"], reads=c["reads"]) for c in stage["checks"]]
    assert all(r["id"] is None for r in post(client, *steps)), "nothing under voltage before its readings"
    fresh = [entry("step", stage=title, step=n) for n in range(len(stage["steps"]))]
    results = post(client, *before, *fresh)
    assert all(r["id"] is not None for r in results) and [r["id"] for r in results] == sorted(r["id"] for r in results)
    assert client.get(f"/api/starters/{BEGUN}/build").get_json()["sheet"]["stages"][4]["done"]
    again = post(client, *before, *fresh)
    assert [r["id"] for r in again] == [r["id"] for r in results]


def test_nobody_and_a_time_without_zone_are_refused_by_name(client: FlaskClient) -> None:
    blank, zoneless = (
        entry("open", text="x") | {"who": "   "},
        entry("open", text="x") | {"said": "2026-11-25T10:00:00"},
    )
    fields = [r["problems"][0]["field"] for r in post(client, blank, zoneless)]
    assert fields == ["who", "said"]


def test_two_people_at_once_are_both_kept_and_said(client: FlaskClient) -> None:
    last = record(client)["last"]
    post(client, entry("reading", "Ann", last, item="load.L1", value=55.0))
    post(client, entry("reading", "Bob", last, item="load.L1", value=61.0))
    assert readings(client, "load.L1") == [61, 55] and "Ann wrote 55.0, Bob wrote 61.0" in record(client)["clashes"][0]


def test_causes_over_the_api(client: FlaskClient) -> None:
    url = f"/api/starters/{BEGUN}/build/causes"
    found = client.post(url, json={"stage": "Coil of K1", "step": 1, "seen": {"K1": "out"}}).get_json()["causes"]
    assert any("coil of K1" in c["what"] for c in found)
    check = client.get(f"/api/starters/{BEGUN}/build").get_json()["sheet"]["stages"][3]["checks"][1]
    found = client.post(url, json={"stage": "Coil of K1", "check": check["id"], "reads": "open"}).get_json()["causes"]
    assert any("missing or loose" in c["what"] for c in found)
    for bad in ({"stage": "none", "step": 0}, {"stage": "Coil of K1", "step": 99}, {"stage": "Coil of K1", "check": "?", "reads": "open"}, {"stage": "Coil of K1", "step": 1, "seen": {"K1": "blue"}}):  # fmt: skip
        assert client.post(url, json=bad).status_code == 422


def test_a_seal_freezes_and_says_what_changed_since(client: FlaskClient) -> None:
    made = client.post(f"/api/starters/{BUILT}/seals", json={"who": "Ann"})
    assert made.status_code == 201 and made.get_json()["seals"][0]["changed_since"] == []
    starter = client.get(f"/api/starters/{BUILT}").get_json()
    changed = {**starter["document"], "service": "Another pump"}
    assert (
        client.put(f"/api/starters/{BUILT}", json={"version": starter["version"], "document": changed}).status_code
        == 200
    )
    seal = client.get(f"/api/starters/{BUILT}/record").get_json()["seals"][0]
    assert seal["unbroken"] and seal["changed_since"] == ["service"]
    frozen = client.get(f"/api/starters/{BUILT}/seals/{seal['id']}.json").get_json()
    assert frozen["document"] == starter["document"] and frozen["design"]["figures"] and frozen["journal"]
    assert client.get(f"/api/starters/{BEGUN}/seals/{seal['id']}.json").status_code == 404
    plate_only = next(s for s in client.get("/api/boards/1").get_json()["starters"] if s["problem"])
    assert client.post(f"/api/starters/{plate_only['id']}/seals", json={"who": "Ann"}).status_code == 422


def test_open_points_are_on_the_board_the_starter_and_every_print(client: FlaskClient) -> None:
    rows = {s["tag"]: s["open_points"] for s in client.get("/api/boards/1").get_json()["starters"]}
    assert rows["KG-106A"] == 3 and rows["KG-104"] == 0
    points = client.get(f"/api/starters/{BUILT}/progress").get_json()["points"]
    assert len(points) == 3
    for paper in ("sheet", "report"):
        html = client.get(f"/api/starters/{BUILT}/{paper}.html").get_data(as_text=True)
        assert all(p in html for p in points)
    labels = client.get(f"/api/starters/{BUILT}/labels.html").get_data(as_text=True)
    assert max(int(n) for n in re.findall(r"(\d+) open items", labels)) > 3, "papers count what is left of the plan too"


# The meter


@pytest.fixture
def stand_in(client: FlaskClient) -> Iterator[int]:
    out = client.post(
        f"/api/starters/{BEGUN}/meter/stand-in", json={"operations": ["press S2", "release S2"], "advance_s": 30}
    )
    assert out.status_code == 200, out.get_json()
    yield out.get_json()["stand_in_port"]
    assert client.delete(f"/api/starters/{BEGUN}/meter/stand-in").get_json()["stand_in_port"] is None


def test_the_stand_in_is_read_over_a_real_socket(client: FlaskClient, stand_in: int) -> None:
    out = client.post(f"/api/starters/{BEGUN}/meter/read", json={}).get_json()["readout"]
    assert out["problem"] == "" and out["missing"] == []
    assert out["values"]["star_time"] == pytest.approx(13.5, abs=0.2) and 50 < out["values"]["current_l1"] < 66
    client.post(
        f"/api/starters/{BEGUN}/meter/stand-in", json={"operations": ["press S1", "release S1"], "advance_s": 3}
    )
    out = client.post(f"/api/starters/{BEGUN}/meter/read", json={"quantities": ["current_l1"]}).get_json()["readout"]
    assert out["values"] == {"current_l1": 0}
    bad = client.post(f"/api/starters/{BEGUN}/meter/stand-in", json={"operations": ["press S99"]})
    assert bad.status_code == 422


def test_a_fault_shows_at_the_meter(client: FlaskClient) -> None:
    url = f"/api/starters/{BEGUN}/meter/stand-in"
    client.post(url, json={"faults": ["dead K2"], "operations": ["press S2", "release S2"], "advance_s": 40})
    values = client.post(f"/api/starters/{BEGUN}/meter/read", json={}).get_json()["readout"]["values"]
    assert values["current_l1"] == 0 and values["dwell_ms"] == 0, "delta never closes"
    client.delete(url)


def test_a_wrong_map_and_a_meter_that_is_not_there_give_one_sentence(client: FlaskClient, stand_in: int) -> None:
    def read(*registers: Register, port: int = stand_in, **more: Any) -> Any:
        return read_meter(MeterSettings(port=port, registers=list(registers), **more))

    none = read(Register(quantity="current_l1", address=4000))
    assert none.values == {} and "no such register; check the register map" in none.problem
    shifted = read(Register(quantity="voltage_l1_l2", address=100), Register(quantity="frequency", address=101))
    assert set(shifted.values) == {"voltage_l1_l2"} and "cannot be frequency" in shifted.problem
    swapped = read(Register(quantity="frequency", address=114), word_order="little")
    assert swapped.values == {} and "check the register map" in swapped.problem
    with socket.socket() as s:
        s.bind(("127.0.0.1", 0))
        gone = read(Register(quantity="current_l1", address=108), port=s.getsockname()[1])
    assert "cannot be reached" in gone.problem and gone.missing == ("current_l1",)
    assert (
        "does not say where power_factor"
        in read_meter(MeterSettings(registers=[Register(quantity="frequency", address=1)]), ["power_factor"]).problem
    )


def test_a_meter_that_falls_silent_halfway_keeps_what_had_come() -> None:
    """A device that answers three times and then never again."""
    listener = socket.create_server(("127.0.0.1", 0))
    done = threading.Event()

    def answer() -> None:
        connection, _ = listener.accept()
        with connection:
            for _ in range(3):
                head = connection.recv(12)
                connection.sendall(head[:4] + struct.pack(">HBBB", 7, head[6], 3, 4) + struct.pack(">f", 230.0))
            connection.recv(12)
            done.wait(5)

    thread = threading.Thread(target=answer, daemon=True)
    thread.start()
    settings = MeterSettings(port=listener.getsockname()[1], timeout_s=0.3, registers=stand_in_map())
    out = read_meter(settings, ["voltage_l1_l2", "voltage_l2_l3", "voltage_l3_l1", "current_l1", "current_l2"])
    done.set()
    thread.join(5)
    listener.close()
    assert out.values == dict.fromkeys(("voltage_l1_l2", "voltage_l2_l3", "voltage_l3_l1"), 230.0)
    assert "fell silent at current_l1" in out.problem and "3 of 5 values had come and are kept" in out.problem
    assert out.missing == ("current_l1", "current_l2")


def test_meter_settings_are_kept_and_bad_ones_name_the_field(client: FlaskClient) -> None:
    url = f"/api/starters/{PROVED}/meter"
    settings = client.get(url).get_json()["settings"]
    settings |= {
        "host": "192.168.7.20",
        "registers": [{"quantity": "current_l1", "address": 3000, "type": "uint16", "scale": 0.01}],
    }
    assert client.put(url, json=settings).status_code == 200
    assert client.get(url).get_json()["settings"] == settings
    for bad, field in (({"port": 0}, "port"), ({"registers": []}, "registers"), ({"registers": [{"quantity": "heat", "address": 1}]}, "quantity"),
                       ({"registers": settings["registers"] * 2}, "registers")):  # fmt: skip
        answer = client.put(url, json=settings | bad)
        assert answer.status_code == 422 and field in str(answer.get_json())


# Papers


def pdf(client: FlaskClient, path: str) -> tuple[PdfReader, str]:
    answer = client.get(path)
    assert answer.status_code == 200 and answer.mimetype == "application/pdf"
    reader = PdfReader(io.BytesIO(answer.data))
    return reader, re.sub(r"\s+", " ", " ".join(p.extract_text() for p in reader.pages))


def test_the_report_has_everything_on_it(client: FlaskClient) -> None:
    reader, words = pdf(client, f"/api/starters/{PROVED}/report.pdf")
    for part in ("Motor plate", "Devices and settings", "Findings", "Power circuit", "Control circuit", "Wire list", "Build and test, stage by stage",
                 "Commissioning record", "Trips", "Boot of the elevator choked", "Deviations from the design", "Trends",
                 "Load current L2 creeps up", "Inspections", "Working", "Cautions", "Signatures", "T. Brannoc", "Sealed as built"):  # fmt: skip
        assert part in words, part
    assert len(reader.pages) >= 8 and f"page 1 of {len(reader.pages)}" in words
    html = client.get(f"/api/starters/{PROVED}/report.html").get_data(as_text=True)
    shades = [bytes.fromhex(c) for c in re.findall(r"#([0-9a-fA-F]{6})\b", html.partition("<body>")[2])]
    colours = [c.hex() for c in shades if max(c) - min(c) > 16]
    assert shades and colours == [], "everything must be legible in black and white"
    assert not re.search(r"\bsafe\b", words)


def test_labels_and_lists(client: FlaskClient) -> None:
    _, words = pdf(client, f"/api/starters/{BEGUN}/labels.pdf")
    assert "KG-101" in words and "overload setting 38.1 A" in words and "star time 13.5 s" in words
    wires = client.get(f"/api/starters/{BEGUN}/wires.csv").get_data(as_text=True).splitlines()
    assert wires[0].startswith("stage,stage_title,wire,from,to") and len(wires) == 69
    markers = client.get(f"/api/starters/{BEGUN}/markers.csv").get_data(as_text=True)
    assert "5,K1:14,K1:53,1 mm²" in markers and "5,K1:53,K1:14,1 mm²" in markers
    strip = client.get(f"/api/starters/{BEGUN}/strip.csv").get_data(as_text=True)
    assert "X1,U1,U1,F1:2,M1:U1,,16 mm²" in strip


def test_inspections_as_a_calendar(client: FlaskClient) -> None:
    for path in (f"/api/starters/{PROVED}/inspections.ics", "/api/boards/1/inspections.ics"):
        calendar = icalendar.Calendar.from_ical(client.get(path).data)
        event = calendar.walk("VEVENT")[0]
        assert event["SUMMARY"].startswith("KG-2 KG-104: ") and str(event["DTSTART"].dt) == "2027-05-19"
    assert client.get("/api/boards/99/inspections.ics").status_code == 404


ROUTES = [
    "build", "record", "progress", "readings", "meter", "report.html", "report.pdf", "labels.html", "labels.pdf", "wires.csv", "markers.csv", "strip.csv",
    "inspections.ics",
]  # fmt: skip


@pytest.mark.parametrize("route", ROUTES)
def test_every_route_says_when_there_is_no_such_starter(client: FlaskClient, route: str) -> None:
    answer = client.get(f"/api/starters/999/{route}")
    assert answer.status_code == 404 and "there is no starter 999" in answer.get_json()["problems"][0]["message"]


def test_a_starter_that_is_only_a_plate_has_a_plan_and_a_record_but_no_report(client: FlaskClient) -> None:
    plate = next(s["id"] for s in client.get("/api/boards/1").get_json()["starters"] if s["problem"])
    sheet = client.get(f"/api/starters/{plate}/build").get_json()["sheet"]
    assert sheet["stages"] and all(w["item"]["section"] in ("", "link", "bridge", "1 mm²") for w in sheet["wires"])
    ids = {r["item"]["id"] for g in record(client, plate)["groups"] for r in g["items"]}
    assert "insulation.motor" in ids and not any(i.startswith("setting") for i in ids)
    for paper in ("report.pdf", "labels.pdf", "report.html"):
        answer = client.get(f"/api/starters/{plate}/{paper}")
        assert answer.status_code == 422 and "plate voltage" in answer.get_json()["problems"][0]["message"]
    assert client.get(f"/api/starters/{plate}/wires.csv").status_code == 200
    post(client, entry("reading", item="insulation.motor", value=90.0), starter=plate)
    assert readings(client, "insulation.motor", plate) == [90]


def test_the_order_of_work_changes_the_plan_and_not_what_is_ticked(client: FlaskClient) -> None:
    control, power = (
        client.get(f"/api/starters/{BEGUN}/build?order={o}_first").get_json()["sheet"] for o in ("control", "power")
    )
    assert control["laid"] == power["laid"] == 27
    assert [s["title"] for s in power["stages"]][1] == "Power circuit up to the strip"
    assert {w["item"]["key"] for w in control["wires"]} == {w["item"]["key"] for w in power["wires"]}
    assert "Power circuit up to the strip comes before" in power["stages"][2]["missing"]
    assert client.get(f"/api/starters/{BEGUN}/build?order=sideways").status_code == 422
    rows = client.get(f"/api/starters/{BEGUN}/wires.csv?order=power_first").get_data(as_text=True).splitlines()
    assert any(r.startswith("2,Power circuit up to the strip") for r in rows)
