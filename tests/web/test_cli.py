"""The command line, as a process of its own where that matters."""

import json
import signal
import socket
import sqlite3
import subprocess
import sys
import time
import urllib.request
from pathlib import Path
from typing import Any

import pytest
from click.testing import CliRunner

from samples import iec, nec
from volmek.cli import main
from volmek.cli.sizing import SHARED_FROM
from volmek.meters.client import read_meter
from volmek.meters.registers import MeterSettings, stand_in_map

VOLMEK = str(Path(sys.executable).parent / "volmek")


def volmek(*arguments: str) -> Any:
    return subprocess.run([VOLMEK, *arguments], capture_output=True, text=True, timeout=60)


def size(text: str, *options: str) -> Any:
    return CliRunner().invoke(main, ["size", "-", *options], input=text)


def test_size_prints_the_fixed_names() -> None:
    result = size(json.dumps(iec()))
    assert result.exit_code == 0
    design = json.loads(result.stdout)
    assert {
        "design_current_a",
        "design_current_source",
        "calculated_current_a",
        "table_current_a",
        "locked_rotor_current_a",
        "starting_line_current_a",
    } <= set(design["currents"])
    k1 = next(d for d in design["devices"] if d["role"] == "line_contactor")
    assert k1["designation"] == "K1"
    assert k1["required"] == {"current_a": 14.4, "category": "AC-3", "voltage_v": 400.0}
    assert {"severity", "code", "message", "field", "rule", "source"} <= set(design["findings"][0])
    assert "figures" not in design
    assert "plate_current_a" in json.loads(size(json.dumps(iec()), "--working").stdout)["figures"]


def test_a_wrong_choice_is_a_finding_and_no_refusal() -> None:
    done = size(json.dumps(iec(motor={"leads": 3}, starter={"type": "star_delta"})))
    assert done.exit_code == 0
    assert {"wrong_choice": "stop"}.items() <= {
        f["code"]: f["severity"] for f in json.loads(done.stdout)["findings"]
    }.items()


def test_a_list_gives_a_list_in_its_order() -> None:
    designs = json.loads(size(json.dumps([iec(tag="one"), nec(tag="two")])).stdout)
    assert [d["tag"] for d in designs] == ["one", "two"]


def test_a_long_list_is_shared_out_and_comes_back_in_its_order_and_with_its_problems() -> None:
    documents = [(nec if i % 3 else iec)(tag=f"S-{i}") for i in range(SHARED_FROM + 30)]
    designs = json.loads(size(json.dumps(documents)).stdout)
    assert [d["tag"] for d in designs] == [d["tag"] for d in documents]
    assert designs[-1] == json.loads(size(json.dumps(documents[-1])).stdout)
    documents[150] = iec(motor={"rated_speed_rpm": 3100})
    assert size(json.dumps(documents)).stderr.startswith("150.motor.rated_speed_rpm: 3100 rpm is faster")


@pytest.mark.parametrize(
    ("text", "line"),
    [
        ("{broken", "document: is not JSON: "),
        ('{"tag": "A", "motor": {"rated_power_kw": NaN}}', "document: NaN is not a number"),
        ("3", "document: 3 is not an object"),
        ("[" * 100_000, "document: is "),
        (json.dumps(iec(motor={"rated_power_kw": "x"})), "motor.rated_power_kw: 'x' is not a number"),
        (json.dumps(iec(supply={"line_voltage_v": None})), "supply.line_voltage_v: the line voltage"),
        (
            json.dumps([iec(), iec(motor={"rated_powr_kw": 3})]),
            "1.motor.rated_powr_kw: is not a field of the starter document; is rated_power_kw meant?",
        ),
        (json.dumps([iec(), iec(motor={"rated_speed_rpm": 3100})]), "1.motor.rated_speed_rpm: 3100 rpm is faster"),
        (json.dumps(iec(version=7)), "version: 7 is not a version"),
    ],
)
def test_bad_input_exits_with_two_and_a_line_per_problem(text: str, line: str) -> None:
    result = size(text)
    assert (result.exit_code, result.stdout) == (2, "")
    assert any(x.startswith(line) for x in result.stderr.splitlines()), result.stderr


def test_files_that_cannot_be_read_are_said_so(tmp_path: Path) -> None:
    result = CliRunner().invoke(main, ["size", str(tmp_path / "none.json")])
    assert (result.exit_code, "none.json" in result.stderr) == (2, True)
    (tmp_path / "bad.json").write_bytes(b"\xff\xfe\x00")
    assert "not UTF-8" in CliRunner().invoke(main, ["size", str(tmp_path / "bad.json")]).stderr


def test_a_killed_server_loses_nothing_that_was_answered(tmp_path: Path) -> None:
    database, port = tmp_path / "killed.db", 18473
    command = [sys.executable, "-m", "volmek.cli", "serve", "--demo", "--database", str(database), "--port", str(port)]
    server = subprocess.Popen(command, stdout=subprocess.PIPE, text=True)
    try:
        assert server.stdout
        assert f"http://127.0.0.1:{port}/" in server.stdout.readline()
        address = f"http://127.0.0.1:{port}/api/starters/1"
        deadline = time.monotonic() + 20
        while True:
            try:
                document = json.load(urllib.request.urlopen(address))["document"]
                break
            except OSError:
                assert time.monotonic() < deadline
        document["service"] = "typed just before the end"
        body = json.dumps({"version": 1, "document": document}).encode()
        request = urllib.request.Request(address, body, {"Content-Type": "application/json"}, method="PUT")
        assert json.load(urllib.request.urlopen(request))["version"] == 2
    finally:
        server.kill()
        server.wait()
    with sqlite3.connect(database) as connection:
        kept = json.loads(connection.execute("SELECT document FROM starter WHERE id = 1").fetchone()[0])
    assert kept["service"] == "typed just before the end"


def test_a_catalogue_of_ones_own_is_checked_and_chosen_from(tmp_path: Path) -> None:
    from volmek.core.catalogue.catalogue import reference_catalogue
    from volmek.files.catalogue_files import write_csv, write_xlsx

    R = reference_catalogue()
    book, bad = tmp_path / "own.xlsx", tmp_path / "bad.csv"
    renamed = {t: [d.model_copy(update={"type": f"X{d.type}"}) for d in rows] for t, rows in R.tables.items()}
    book.write_bytes(write_xlsx(renamed))
    bad.write_text(write_csv("fuses", R.tables["fuses"]).replace("RU-gG4,fuse_gg,4", "RU-gG4,fuse_gg,4 A"))
    result = CliRunner().invoke(main, ["catalogue", str(book)])
    assert (result.exit_code, "contactors: 22" in result.stdout) == (0, True)
    refused = CliRunner().invoke(main, ["catalogue", str(bad)])
    assert refused.exit_code == 2
    assert "fuses, row 11, rated_current_a: '4 A' has a unit in it" in refused.stderr
    design = json.loads(size(json.dumps(iec()), "--catalogue", str(book)).stdout)
    assert next(d for d in design["devices"] if d["role"] == "line_contactor")["selected"]["type"] == "XRC-17"
    both = json.loads(size(json.dumps(iec()), "--catalogue", "shipped", "--catalogue", str(book)).stdout)
    assert next(d for d in both["devices"] if d["role"] == "line_contactor")["selected"]["type"] == "RC-17"
    assert size(json.dumps(iec()), "--catalogue", str(tmp_path / "none.csv")).exit_code == 2


def test_the_build_plan_as_json(tmp_path: Path) -> None:
    file = tmp_path / "fan.json"
    file.write_text(json.dumps(iec(starter={"type": "star_delta"})))
    done = volmek("plan", str(file))
    assert done.returncode == 0, done.stderr
    plan = json.loads(done.stdout)
    titles = [s["title"] for s in plan["stages"]]
    assert titles[0] == "Supply" and titles[-1] == "Motor"
    laid = [k for s in plan["stages"] for k in s["wires"]]
    assert sorted(laid) == sorted(w["key"] for w in plan["wires"])
    power = json.loads(volmek("plan", "--first", "power", str(file)).stdout)
    assert power["stages"][1]["title"] == "Power circuit up to the strip"
    piped = CliRunner().invoke(main, ["plan", "-"], input=file.read_text())
    assert json.loads(piped.stdout) == json.loads(done.stdout), "standard input is read once"
    assert volmek("plan", str(tmp_path / "none.json")).returncode == 2


def test_the_meter_stands_in_until_it_is_ended(tmp_path: Path) -> None:
    file = tmp_path / "fan.json"
    file.write_text(json.dumps(iec(starter={"type": "direct_on_line"})))
    with socket.socket() as s:
        s.bind(("127.0.0.1", 0))
        port = s.getsockname()[1]
    command = [VOLMEK, "meter", str(file), "--port", str(port), "--do", "press S2; release S2", "--speed", "50"]
    process = subprocess.Popen(command, stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True)
    try:
        assert process.stdout is not None and f"127.0.0.1:{port}" in process.stdout.readline()
        settings = MeterSettings(port=port, registers=stand_in_map())
        first = read_meter(settings)
        assert first.problem == "" and first.values["current_l1"] > 0 and first.values["frequency"] == 50
        taken = volmek("meter", str(file), "--port", str(port))
        assert taken.returncode == 2 and "cannot use port" in taken.stderr
        assert volmek("meter", str(file), "--do", "press S99").returncode == 2
    finally:
        process.send_signal(signal.SIGINT)
        assert process.wait(60) == 0


def test_licences_of_everything_that_is_shipped() -> None:
    result = CliRunner().invoke(main, ["licences"])
    listed = {line.split()[0].lower(): line for line in result.stdout.splitlines()}
    assert result.exit_code == 0
    for name in ("flask", "sqlalchemy", "psycopg-binary", "argon2-cffi", "primevue", "vue-router", "workbox-routing"):
        assert name in listed, name
    font = listed["@fontsource-variable/atkinson-hyperlegible-next"]
    assert "OFL" in font and "volmek" not in listed
    assert all(len(line.split()) >= 4 for line in listed.values()), "each says which licence"
    texts = CliRunner().invoke(main, ["licences", "--text"]).stdout
    assert "Permission is hereby granted" in texts and "SIL OPEN FONT LICENSE" in texts.upper()
