"""Circuits over the API and on the command line."""

import io
import json
from pathlib import Path
from typing import Any

import pytest
from click.testing import CliRunner
from ezdxf.document import Drawing
from flask.testing import FlaskClient

from samples import iec
from volmek.cli import main
from volmek.core.verify.checker import check

FAN = 7


def played(
    client: FlaskClient, *operations: tuple[float, str], faults: tuple[str, ...] = (), snapshot: Any = None
) -> Any:
    done = [{"at_s": t, "do": what} for t, what in operations]
    answer = client.post(
        f"/api/starters/{FAN}/circuit/play", json={"operations": done, "faults": list(faults), "snapshot": snapshot}
    )
    assert answer.status_code == 200, answer.get_json()
    return answer.get_json()


def run(command: str, document: dict[str, Any], *options: str) -> Any:
    return CliRunner().invoke(main, [command, "-", *options], input=json.dumps(document))


def circuit_document(**control: Any) -> dict[str, Any]:
    return iec(control={"voltage_v": 230, "source": "transformer", **control})


def test_every_demo_starter_has_its_circuit_in_both_styles(client: FlaskClient) -> None:
    for board in client.get("/api/boards").get_json()["boards"]:
        for starter in board["starters"]:
            for style in ("columns", "ladder"):
                sheet = client.get(f"/api/starters/{starter['id']}/circuit?style={style}").get_json()["sheet"]
                assert sheet["control"]["style"] == style and sheet["power"]["marks"]
                assert {"a", "b", "number", "side"} == set(sheet["wires"][0])
                assert sheet["restart"] and sheet["crowded"] == []
    nec = next(
        s["id"] for b in client.get("/api/boards").get_json()["boards"] for s in b["starters"] if s["tag"] == "PL-201"
    )
    assert client.get(f"/api/starters/{nec}/circuit").get_json()["sheet"]["control"]["style"] == "ladder"


def test_the_sheet_says_what_can_be_operated_and_what_lamps_mean(client: FlaskClient) -> None:
    sheet = client.get(f"/api/starters/{FAN}/circuit").get_json()["sheet"]
    operated = {o["designation"]: o for o in sheet["operated"]}
    assert operated["S2"]["verbs"] == ["press", "release"] and operated["S1"]["colour"] == "red"
    assert operated["F1"]["verbs"] == ["trip", "reset"] and {"Q1", "F3", "S0"} <= set(operated)
    lamps = {lamp["designation"]: lamp for lamp in sheet["lamps"]}
    assert lamps["P1"]["colour"] == "green" and lamps["P1"]["lit"]["running"] and not lamps["P1"]["lit"]["idle"]
    contacts = {a["designation"]: a for a in sheet["auxiliary"]}
    assert contacts["K1"]["no"] == 4 and "make" in contacts["K1"]["block"]
    assert sheet["control_phases"] == ["L1", "L2"] and "usually stays in" in sheet["phase_test"]


def test_the_kiln_fan_is_started_and_stopped_in_time(client: FlaskClient) -> None:
    timeline = played(client, (0.5, "press S2"), (1.0, "release S2"), (30.0, "press S1"), (30.5, "release S1"))[
        "timeline"
    ]
    words = [e["words"] for e in timeline["events"]]
    assert words[:4] == ["press S2", "KT1 star", "K3 pulls in", "K1 pulls in"]
    change = next(g for g in timeline["gaps"])
    assert (change["out"], change["into"]) == ("K3", "K2") and 0.01 < change["seconds"] < 0.2
    star = next(s for s in timeline["spans"] if s["name"] == "K3")
    assert star["ends_s"] - star["begins_s"] == pytest.approx(13.5, abs=0.1)  # the time of the design
    track = timeline["track"]
    assert len({len(track[k]) for k in ("time_s", "speed_pct", "current", "heat_pct")}) == 1
    assert max(track["speed_pct"]) == pytest.approx(98.7, abs=0.5) and timeline["quiet_s"]
    frame = next(f for f in timeline["frames"] if f["connection"] == "delta")
    assert "K2" in frame["on"] and "K2:1-2" in frame["closed"] and "M1:U1" in frame["live"]
    assert timeline["frames"][-1]["connection"] == "off"


def test_an_operation_goes_on_from_the_snapshot_of_the_last_answer(client: FlaskClient) -> None:
    steps = ((0.5, "press S2"), (1.0, "release S2"), (30.0, "press S1"), (30.5, "release S1"), (72000.0, "press S2"))
    whole = played(client, *steps)["timeline"]
    answer, words = played(client), []
    for step in steps:
        before = answer["timeline"]
        words += [e["words"] for e in before["events"][: before["settled"]["events"]]]
        answer = played(client, step, snapshot=before["snapshot"])
    last = answer["timeline"]
    assert words + [e["words"] for e in last["events"]] == [e["words"] for e in whole["events"]]
    assert last["snapshot"] == whole["snapshot"] and len(last["frames"]) < 20
    asked = {"operations": [], "faults": ["dead K1"], "snapshot": last["snapshot"]}
    refused = client.post(f"/api/starters/{FAN}/circuit/play", json=asked)
    assert refused.status_code == 422 and "begin again" in refused.get_json()["problems"][0]["message"]


def test_faults_are_played_and_recognised(client: FlaskClient) -> None:
    answer = played(client, (0.5, "press S2"), (1.0, "release S2"), faults=("remove S2:3 K1:13",))
    assert any("no seal-in path round the start button" in m["what"] for m in answer["mistakes"])
    assert "K1 drops out" in [e["words"] for e in answer["timeline"]["events"]]
    assert played(client)["mistakes"] == []


@pytest.mark.parametrize(
    ("body", "field"),
    [
        ({"operations": [{"at_s": 1, "do": "dance"}]}, "do"),
        ({"operations": [{"at_s": 2, "do": "press S2"}, {"at_s": 1, "do": "release S2"}]}, "operations[1].at_s"),
        ({"faults": ["bend K1"]}, "fault"),
        ({"operations": [{"at_s": -1, "do": "press S2"}]}, "operations.0.at_s"),
        ({"operation": []}, "operation"),
    ],
)
def test_what_cannot_be_played_is_refused_at_its_field(client: FlaskClient, body: dict[str, Any], field: str) -> None:
    answer = client.post(f"/api/starters/{FAN}/circuit/play", json=body)
    assert answer.status_code == 422
    assert field in [p["field"] for p in answer.get_json()["problems"]]


def test_proofs_failures_and_differences(client: FlaskClient) -> None:
    proofs = client.get(f"/api/starters/{FAN}/circuit/proofs").get_json()
    assert len(proofs["proofs"]) == 11 and all(p["holds"] for p in proofs["proofs"]) and proofs["stories"] == {}
    bridged = client.get(f"/api/starters/{FAN}/circuit/proofs?fault=add F1:95 F1:96").get_json()
    broken = {p["rule"]: p for p in bridged["proofs"] if not p["holds"]}
    assert "overload_drops_all" in broken and bridged["stories"]["overload_drops_all"][-1]["do"] == "trip F1"
    table = client.get(f"/api/starters/{FAN}/circuit/failures").get_json()["failures"]
    assert {"stop_drops_all", "no_self_start"} & {r for f in table for r in f["breaks"]} and table[-1]["found"]
    assert len(client.application.extensions["tables"]._kept) == 1
    assert client.get(f"/api/starters/{FAN}/circuit/failures").get_json()["failures"] == table
    assert table[0]["dangerous"] and table[-1]["hidden"] and {"weld K1", "break 1"} <= {f["fault"] for f in table}
    change = client.get("/api/starters/1/circuit/difference?type=star_delta").get_json()["difference"]
    assert "K3 Contactor" in change["parts_added"] and change["added"] and change["kept"]
    assert client.get("/api/starters/1/circuit/difference?type=jump").status_code == 422
    lamps = client.get("/api/starters/1/circuit/difference?lamps=running&lamps=tripped").get_json()["difference"]
    assert {"P1 Lamp", "P3 Lamp"} <= set(lamps["parts_added"])


def test_diagrams_leave_as_sheets_pictures_pdf_and_dxf(client: FlaskClient) -> None:
    base = f"/api/starters/{FAN}/diagrams"
    whole = client.get(f"{base}?paper=a4&drawn_by=A. Fitter").get_json()
    assert (
        whole["paper"] == "a4"
        and whole["style"] == "columns"
        and {p["name"] for p in whole["papers"]} == {"a3", "a4", "tabloid", "letter"}
    )
    titles = [s["title"] for s in whole["sheets"]]
    assert titles[:2] == ["Title sheet", "Power circuit"] and titles[-1] == "Device list"
    for k, title in enumerate(titles):
        svg = client.get(f"{base}/{k + 1}.svg?paper=a4&drawn_by=A. Fitter")
        assert (
            svg.mimetype == "image/svg+xml"
            and 'width="297mm"' in svg.text
            and title in svg.text
            and ">A. Fitter<" in svg.text
        )
    assert client.get(f"{base}/99.svg").status_code == 404 and client.get(f"{base}?paper=a2").status_code == 422
    page = client.get(f"{base}.html?style=ladder")
    assert page.mimetype == "text/html" and page.text.count("<section") == len(
        client.get(f"{base}?style=ladder").get_json()["sheets"]
    )
    drawing = Drawing.read(io.StringIO(client.get(f"{base}.dxf?style=ladder").text))
    assert not drawing.audit().errors and {"K1", "K2"} <= {e.dxf.text for e in drawing.modelspace().query("TEXT")}
    pdf = client.get(f"{base}.pdf")
    assert pdf.mimetype == "application/pdf" and pdf.data[:5] == b"%PDF-"
    assert client.get("/api/starters/99/diagrams.dxf").status_code == 404


def test_contradictory_options_are_said_at_their_field(client: FlaskClient) -> None:
    out = client.get("/api/starters/1").get_json()
    document = {**out["document"], "control": {**out["document"]["control"], "scheme": "two_wire", "standby": True}}
    put = client.put("/api/starters/1", json={"document": document, "version": out["version"]})
    assert put.status_code == 200
    answer = client.get("/api/starters/1/circuit")
    assert (answer.status_code, answer.get_json()["problems"][0]["field"]) == (422, "control.standby")


def test_the_circuit_command_prints_the_fixed_names() -> None:
    result = run("circuit", circuit_document(lamps=["running", "stopped"]))
    assert result.exit_code == 0, result.stderr
    data = json.loads(result.stdout)
    assert {"nodes", "devices", "auxiliary_contacts", "lamp_table"} <= set(data)
    assert {"wire", "terminals"} == set(data["nodes"][0])
    assert data["auxiliary_contacts"]["K1"] == {"no": 2, "nc": 1}
    assert data["lamp_table"]["idle"] == {"P1": False, "P2": True}
    assert all(len(n["terminals"]) > 1 for n in data["nodes"])


def test_simulate_prints_one_entry_for_each_operation() -> None:
    result = run(
        "simulate", circuit_document(lamps=["running"]), "--do", "press S2; wait 0.5; release S2; wait 10; trip F1"
    )
    entries = json.loads(result.stdout)
    assert [e["do"] for e in entries] == ["press S2", "wait 0.5", "release S2", "wait 10", "trip F1"]
    assert {"do", "time_s", "coils", "lamps", "motor", "events"} <= set(entries[0])
    assert entries[0]["time_s"] == 0 and entries[3]["time_s"] == pytest.approx(10.5, abs=0.2)
    assert entries[3]["coils"]["K1"] and entries[3]["lamps"]["P1"] and entries[3]["motor"]["direction"] == "forward"
    assert not entries[4]["coils"]["K1"]
    welded = run("simulate", circuit_document(), "--do", "press S2; release S2; press S1; wait 1", "--fault", "weld K1")
    assert json.loads(welded.stdout)[3]["motor"]["connection"] != "off"


@pytest.mark.parametrize(
    ("options", "line"),
    [
        (("--do", "jump S2"), "do: 'jump S2' cannot be done here"),
        (("--do", "press S2", "--fault", "weld K7"), "fault: 'weld K7' cannot be here"),
    ],
)
def test_bad_operations_exit_with_two_and_one_line(options: tuple[str, ...], line: str) -> None:
    result = run("simulate", circuit_document(), *options)
    assert result.exit_code == 2 and result.stdout == "" and result.stderr.startswith(line)


def test_prove_exits_with_one_when_a_rule_is_broken() -> None:
    sound = run("prove", circuit_document())
    assert sound.exit_code == 0 and all(p["holds"] for p in json.loads(sound.stdout))
    assert not any("shortest" in p for p in json.loads(sound.stdout))
    bridged = run("prove", circuit_document(), "--fault", "add S1:1 S1:2")
    broken = [p for p in json.loads(bridged.stdout) if not p["holds"]]
    assert bridged.exit_code == 1 and broken[0]["rule"] == "stop_drops_all" and broken[0]["shortest"]
    behind = run("prove", circuit_document(overload_contact="return_side", earthed=True))
    assert behind.exit_code == 1 and [p["rule"] for p in json.loads(behind.stdout) if not p["holds"]] == [
        "earth_fault_tolerant"
    ]
    two_wire = json.loads(run("prove", circuit_document(scheme="two_wire")).stdout)
    declared = next(p for p in two_wire if p["rule"] == "no_self_start")
    assert (
        declared["declared"] and declared["holds"] is False and declared["shortest"] and "maintained" in declared["why"]
    )


def test_failures_and_what_is_no_document(tmp_path: Path) -> None:
    table = json.loads(run("failures", circuit_document()).stdout)
    assert {"fault", "effect", "dangerous", "hidden", "breaks", "undecided", "found", "measure", "test"} == set(
        table[0]
    )
    assert next(f for f in table if f["fault"] == "weld K1")["dangerous"]
    assert run("circuit", circuit_document(scheme="two_wire", standby=True)).exit_code == 2
    missing = CliRunner().invoke(main, ["prove", str(tmp_path / "none.json")])
    assert missing.exit_code == 2 and "none.json" in missing.stderr
    two = CliRunner().invoke(main, ["circuit", "-"], input=json.dumps([iec(), iec(tag="B")]))
    assert two.exit_code == 2 and "holds 2 documents" in two.stderr
    binary = tmp_path / "binary.json"
    binary.write_bytes(b"\xff\xfe\x00")
    assert "not UTF-8" in CliRunner().invoke(main, ["failures", str(binary)]).stderr


def test_the_certificate_is_a_file_that_the_checker_confirms(client: FlaskClient) -> None:
    answer = client.get(f"/api/starters/{FAN}/circuit/certificate.json")
    assert "KG-101-proof.json" in answer.headers["Content-Disposition"]
    found = check(json.loads(answer.data))
    assert {"stop_drops_all", "no_power_short", "no_self_start"} <= set(found.confirmed)


def test_the_rules_come_one_by_one_and_say_the_same(client: FlaskClient) -> None:
    url = f"/api/starters/{FAN}/circuit/proofs?fault=add F1:95 F1:96"
    whole = client.get(url).get_json()
    streamed = client.get(url, headers={"Accept": "application/x-ndjson"})
    first, *lines = [json.loads(line) for line in streamed.data.splitlines()]
    assert [p["rule"] for p in first["proofs"]] == [p["rule"] for line in lines for p in line["proofs"]]
    assert all(p["holds"] is None for p in first["proofs"]) and all(len(line["proofs"]) == 1 for line in lines)
    assert [p for line in lines for p in line["proofs"]] == whole["proofs"]
    assert {rule: story for line in lines for rule, story in line["stories"].items()} == whole["stories"]
    assert client.get("/api/starters/999/circuit/proofs", headers={"Accept": "application/x-ndjson"}).status_code == 404
