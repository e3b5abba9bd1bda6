"""Measures the bars of the project and prints one table. Nothing here is a test: a slow machine fails nobody."""

import itertools
import json
import os
import socket
import statistics
import subprocess
import sys
import tempfile
import threading
import time
from collections.abc import Callable
from datetime import UTC, datetime, timedelta
from functools import partial
from http.client import HTTPConnection
from pathlib import Path
from typing import Any

from flask import Flask, request
from playwright.sync_api import Page, sync_playwright
from sqlalchemy.orm import Session
from waitress.server import create_server

sys.path.insert(0, str(Path(__file__).parents[1]))

from circuits import EVERYTHING, LARGEST, drawn_sets
from samples import iec, nec, single_phase
from volmek.core.catalogue.catalogue import Catalogue, reference_catalogue
from volmek.core.catalogue.device_types import TABLES, Contactor, Device, TestedCombination
from volmek.core.circuit.build.causes import causes_of_check, causes_of_step
from volmek.core.circuit.build.plan import build_plan
from volmek.core.circuit.drawing.control import draw_control
from volmek.core.circuit.drawing.power import draw_power
from volmek.core.circuit.faults.failures import failures
from volmek.core.circuit.kernel.simulate import Simulator
from volmek.core.circuit.kernel.timeline import Operation, play
from volmek.core.circuit.proof.rules import prove
from volmek.core.circuit.schemes import circuit_of
from volmek.core.circuit.simulated import SimulatedStarter, simulated
from volmek.core.document.model import StarterDocument, parse
from volmek.core.methods import METHODS
from volmek.core.physics.run_up import run_up
from volmek.core.ranges.ranges import ranges
from volmek.core.sizing import size
from volmek.core.start.changeover import star_time_curve
from volmek.core.views.phase_loss import phase_loss_view
from volmek.core.views.time_current import time_current_view
from volmek.files.catalogue_files import read_catalogue, write_xlsx
from volmek.store.engine import make_engine
from volmek.store.records import add_entry
from volmek.web.app import create_app
from volmek.web.demo import fill

sys.path.insert(0, str(Path(__file__).parent))
from crowd import bench_many, bench_people

ROWS: list[tuple[str, str, str]] = []


# A process begins with the peak of the one it was forked from in ``ru_maxrss``; its own stands in /proc.
PEAK = """
from pathlib import Path
def peak_mb(pid="self"):
    return int(Path(f"/proc/{pid}/status").read_text().split("VmHWM:")[1].split()[0]) / 1024
"""
SIZE = f"""
import sys
from volmek.cli import main
{PEAK}
main(standalone_mode=False)
print(peak_mb(), file=sys.stderr)
"""


def row(what: str, measured: float, unit: str, bar: float, *, least: bool = False) -> None:
    """Add a line to the table; a bar that is missed is marked. The bar is the most, or the least that it must be."""
    held = measured >= bar if least else measured <= bar
    said = f"at least {bar:g} {unit}" if least else f"{bar:g} {unit}"
    ROWS.append((what, f"{measured:.1f} {unit}", said + ("" if held else "  MISSED")))


def median_ms(action: Callable[[int], object], times: int, warm: int = 20) -> float:
    """Median time of one call in milliseconds."""
    for i in range(warm):
        action(i)
    taken = []
    for i in range(times):
        start = time.perf_counter()
        action(i)
        taken.append(time.perf_counter() - start)
    return 1000 * statistics.median(taken)


def another(document: StarterDocument, i: int) -> StarterDocument:
    """The same document under another tag: the last sizings are kept, and this one is not among them."""
    return document.model_copy(update={"tag": f"B-{i}"})


def cold_cpu_s(document: dict[str, Any]) -> float:
    """Processor time of the command for one starter, from nothing; the best of three."""
    taken = []
    with tempfile.NamedTemporaryFile("w", suffix=".json") as file:
        json.dump(document, file)
        file.flush()
        for _ in range(3):
            command = [str(Path(sys.executable).parent / "volmek"), "size", file.name]
            process = subprocess.Popen(command, stdout=subprocess.DEVNULL)
            _, status, usage = os.wait4(process.pid, 0)
            assert status == 0
            taken.append(usage.ru_utime + usage.ru_stime)
    return min(taken)


def bench_cold(database: Path) -> None:
    """The command for one starter, and a server until it has answered for the first time."""
    row("volmek size of one starter, cold, processor", cold_cpu_s(iec()), "s", 0.5)
    with_run_up = iec(load={"start_time_s": None, "inertia_kgm2": 0.5, "torque_pct": 60})
    row("  with a run-up", cold_cpu_s(with_run_up), "s", 1.5)
    with socket.socket() as s:
        s.bind(("127.0.0.1", 0))
        port = s.getsockname()[1]
    begin = time.perf_counter()
    command = [str(Path(sys.executable).parent / "volmek"), "serve", "--database", str(database), "--port", str(port)]
    process = subprocess.Popen(command, stdout=subprocess.DEVNULL)
    try:
        while time.perf_counter() < begin + 30:
            try:
                connection = HTTPConnection("127.0.0.1", port)
                connection.request("GET", "/api/starters/1")
                assert connection.getresponse().status == 200
                break
            except ConnectionRefusedError:
                time.sleep(0.02)
        row("a server's first answer", time.perf_counter() - begin, "s", 2)
    finally:
        process.terminate()
        process.wait()


def bench_core() -> None:
    """One design, and a list of a thousand through the command line."""
    catalogue = reference_catalogue()
    documents = [parse(iec()), parse(iec(protection={"device": "fuse_gg"})), parse(nec())]
    one = median_ms(lambda i: size(another(documents[i % 3], i), catalogue), 600)
    row("size() of one starter, median", one, "ms", 3)
    many = [{**(iec() if i % 3 else nec()), "tag": f"S-{i}"} for i in range(1000)]
    with tempfile.NamedTemporaryFile("w", suffix=".json") as file:
        json.dump(many, file)
        file.flush()
        start = time.perf_counter()
        command = [sys.executable, "-c", SIZE, "size", file.name]
        out = subprocess.run(command, stdout=subprocess.DEVNULL, stderr=subprocess.PIPE, text=True, check=True)
        row("1,000 starters through volmek size", time.perf_counter() - start, "s", 3)
        row("  its memory", float(out.stderr), "MB", 300)


def bench_methods(port: int) -> None:
    """A thousand starters of every method, and the list of methods with its verdicts."""
    catalogue = reference_catalogue()
    methods = list(METHODS)
    special = {"low_speed_current_a": 9, "rotor_voltage_v": 260, "rotor_current_a": 18}
    documents = []
    for i in range(1000):
        method = methods[i % len(methods)]
        plain = single_phase() if method.startswith("single_phase") else iec(motor=special)
        documents.append(parse({**plain, "tag": f"M-{i}", "starter": {"type": method}}))
    start = time.perf_counter()
    for document in documents:
        size(document, catalogue)
    row("1,000 starters of all methods", time.perf_counter() - start, "s", 5)
    connection = HTTPConnection("127.0.0.1", port)

    def ask(_: int) -> None:
        connection.request("GET", "/api/starters/1/methods")
        answer = connection.getresponse()
        answer.read()
        assert answer.status == 200

    row("method list with all verdicts, round trip", median_ms(ask, 60), "ms", 150)


def many_devices() -> tuple[bytes, list[str]]:
    """A workbook of 5,000 devices: the shipped range many times over, each a little different; and its contactors."""
    reference = reference_catalogue()
    tables: dict[str, list[Device]] = {name: [] for name in TABLES}
    total = sum(map(len, reference.tables.values()))
    for i in range(5000 // total + 1):
        for name, devices in reference.tables.items():
            for d in devices:
                changed: dict[str, Any] = {"type": f"{d.type}/{i}"}
                if isinstance(d, TestedCombination):
                    changed |= {
                        "short_circuit_device": f"{d.short_circuit_device}/{i}",
                        "contactors": tuple(f"{k}/{i}" for k in d.contactors),
                        "overload_relay": f"{d.overload_relay}/{i}" if d.overload_relay else None,
                    }
                if isinstance(d, Contactor):
                    changed["ac3_400_a"] = round(d.ac3_400_a * (1 + i / 100), 2)
                tables[name].append(d.model_copy(update=changed))
    cut = {name: rows[: len(rows) * 5000 // (total * (5000 // total + 1)) + 1] for name, rows in tables.items()}
    return write_xlsx(cut), [d.type for d in cut["contactors"]]


def bench_catalogue(port: int) -> None:
    """A catalogue of 5,000 devices taken in from a workbook, and designs against it."""
    data, types = many_devices()
    connection = HTTPConnection("127.0.0.1", port)

    def ask(method: str, path: str, body: bytes, kind: str) -> Any:
        connection.request(method, path, body, {"Content-Type": kind})
        answer = connection.getresponse()
        read = json.loads(answer.read())
        assert answer.status in (200, 201), read
        return read

    own = ask("POST", "/api/catalogues", b'{"name": "Large"}', "application/json")["id"]
    parts = {"commit": b"true", 'file"; filename="large.xlsx': data}
    form = b"".join(
        b'--cut\r\nContent-Disposition: form-data; name="' + name.encode() + b'"\r\n\r\n' + part + b"\r\n"
        for name, part in parts.items()
    )
    start = time.perf_counter()
    out = ask("POST", f"/api/catalogues/{own}/import", form + b"--cut--\r\n", "multipart/form-data; boundary=cut")
    row(f"XLSX of {sum(t['added'] for t in out['tables']):,} devices imported", time.perf_counter() - start, "s", 5)
    catalogue = Catalogue.of("Large", read_catalogue(data, "large.xlsx").devices)
    documents = [
        parse(iec()),
        parse(iec(starter={"type": "star_delta"}, protection={"device": "fuse_gg"})),
        parse(nec()),
    ]
    row("size() against it, median", median_ms(lambda i: size(another(documents[i % 3], i), catalogue), 150), "ms", 10)
    chosen = parse(iec(overrides=[{"role": "line_contactor", "device_type": types[-1], "reason": "the largest"}]))
    row("  with a device of one's own choice", median_ms(lambda i: size(another(chosen, i), catalogue), 150), "ms", 10)


def with_power(document: dict[str, Any], kw: float) -> dict[str, Any]:
    """The same motor with another power and current on its plate."""
    return {**document, "motor": {**document["motor"], "rated_power_kw": kw, "rated_current_delta_a": 1.78 * kw}}


def ranged(document: StarterDocument, catalogue: Catalogue, i: int) -> object:
    """How sure a design is, of one that was never asked for."""
    return ranges(another(document, i), catalogue)


def bench_start() -> None:
    """A run-up, the star-time curve, the time-current sheet, and designs with a run-up."""
    catalogue = reference_catalogue()
    load = {"start_time_s": None, "inertia_kgm2": 9.5, "torque_pct": 85, "shape": "square", "breakaway_pct": 15}
    fan = iec(
        motor={"rated_power_kw": 37, "rated_current_delta_a": 66, "power_factor": 0.86, "efficiency_pct": 93.9, "rated_speed_rpm": 1480,
               "locked_rotor_torque_ratio": 2.3, "breakdown_torque_ratio": 2.7, "rotor_inertia_kgm2": 0.4},
        load=load, starter={"type": "star_delta"}, protection={"device": "moulded_case_breaker"},
    )  # fmt: skip
    sized = size(parse(fan), catalogue)
    start, plate = sized.built.start, sized.plate
    assert start.drive
    drive, stages = start.drive, start.stages
    row("one run-up, star and delta", median_ms(lambda i: run_up(drive, list(stages), 0.05), 60), "ms", 25)
    curve = median_ms(lambda i: star_time_curve(drive, stages, 0.05, 50, plate.peak_factor.number), 8, 2)
    row("the star-time curve, 40 points", curve, "ms", 400)
    row(
        "the time-current sheet",
        median_ms(lambda i: time_current_view(another(parse(fan), i), catalogue), 20, 3),
        "ms",
        100,
    )
    lost = median_ms(lambda i: phase_loss_view(another(parse(with_power(fan, 30 + i)), i), catalogue), 20, 3)
    row("the lost-phase sheet of a new plate", lost, "ms", 60)
    open_ended = {"motor": {"locked_rotor_current_ratio": None}, "protection": {"device": "fuse_gg"}}
    plain, direct = (
        parse(iec(**open_ended, load={"start_time_s": None, **more})) for more in ({}, {"inertia_kgm2": 0.6})
    )
    for what, asked, bar in (
        ("without run-up", plain, 150),
        ("direct with run-up", direct, 400),
        (
            "star-delta",
            parse(
                {**fan, "motor": {**fan["motor"], "locked_rotor_torque_ratio": None, "breakdown_torque_ratio": None}}
            ),
            1000,
        ),
    ):
        row(f"ranges, {what}", median_ms(partial(ranged, asked, catalogue), 5, 1), "ms", bar)
    methods = [m for m in METHODS if not m.startswith("single_phase") and m not in ("two_speed", "rotor_resistance")]
    documents = []
    for i in range(200):
        own = {**fan, "starter": {"type": methods[i % len(methods)]}, "load": {**load, "inertia_kgm2": 2 + i % 7}}
        documents.append(parse({**own, "tag": f"R-{i}", "protection": {"device": "motor_breaker" if own["starter"]["type"] == "manual" else "fuse_am"}}))  # fmt: skip
    begin = time.perf_counter()
    for document in documents:
        size(document, catalogue)
    row("200 starters designed with their run-up", time.perf_counter() - begin, "s", 8)


def bench_circuit() -> None:
    """One operation, a proof, the failure table and the geometry of the drawings, of the timed star-delta with all options."""
    options = {
        "lamps": ["running", "stopped", "tripped", "phase_healthy", "phase_fault"], "phase_monitor": "three_wire", "emergency_stop": True,
        "buzzer": True, "heater": True, "start_stations": 3, "stop_stations": 2, "controller_signal": True,
    }  # fmt: skip
    document = parse({"tag": "C", "starter": {"type": "star_delta"}, "control": options})
    circuit = circuit_of(document)
    sim = Simulator(circuit)
    running = sim.advance(sim.operate(sim.advance(sim.begin(), 1.0), "press S2"), 0.5)

    def operate(i: int) -> object:
        return sim.advance(sim.operate(running, ("release S2", "press S1", "trip F1", "lose L1")[i % 4]), 0.1)

    row("one operation settled", median_ms(operate, 400), "ms", 2)
    kept = play(sim, [Operation(1.0, "press S2"), Operation(1.4, "release S2")]).snapshot
    late = [play(sim, [Operation(36000.0 + k, "voltage 100")], snapshot=kept).snapshot for k in range(2)]

    def go_on(i: int) -> object:
        do = ("press S1", "lose L1", "trip F1")[i % 3]
        return play(sim, [Operation(36002.0, do)], snapshot=late[i % 2])

    row("one operation played after ten hours", median_ms(go_on, 60), "ms", 20)
    row(
        "proof of the timed star-delta with all options",
        median_ms(lambda i: prove(circuit_of(document)), 5, 1) / 1000,
        "s",
        1,
    )
    for name, it in LARGEST.items():
        row(f"proof of the largest {name}", median_ms(lambda i, it=it: prove(it), 1, 0) / 1000, "s", 5)
    took = [median_ms(lambda i, it=it: prove(it), 1, 0) / 1000 for _, it in drawn_sets(200, 15)]
    row("proof of 200 sets of options, median", statistics.median(took), "s", 1)
    row("  the slowest", max(took), "s", 5)
    row("its single-failure table", median_ms(lambda i: failures(circuit_of(document)), 3, 1) / 1000, "s", 5)
    for name, it in LARGEST.items():
        row(
            f"single-failure table of the largest {name}",
            median_ms(lambda i, it=it: failures(it), 1, 0) / 1000,
            "s",
            30,
        )
    largest = circuit_of(parse({"tag": "C", "starter": {"type": "star_delta_closed"}, "control": options}))
    row(
        "geometry of the largest control drawing",
        median_ms(lambda i: draw_control(largest, "columns"), 30, 3),
        "ms",
        30,
    )
    row("  of its power drawing", median_ms(lambda i: draw_power(largest, "columns"), 30, 3), "ms", 30)


def bench_build() -> None:
    """Plans and causes of the two longest circuits."""
    times, searched, catalogue = [], [], reference_catalogue()
    drive = {"motor": {"rotor_inertia_kgm2": 0.05}, "load": {"torque_pct": 60, "shape": "square", "inertia_kgm2": 1.0}}
    for method in ("rotor_resistance", "star_delta_closed"):
        document = parse(iec(starter={"type": method}, control=dict(EVERYTHING), **drive))
        it = simulated(document, catalogue)
        plan = build_plan(it, document)
        times.append(median_ms(partial(again, it, document), 5, 1))
        for stage in plan.stages:
            steps = [n for n, s in enumerate(stage.steps) if any("pulls in" in x for x in s.sees)]
            if not steps:
                continue
            expected = stage.steps[steps[-1]].state
            seen = {"M1": "hums"} if "M1" in expected else {next(k for k, v in expected.items() if v == "in"): "out"}
            begin = time.perf_counter()
            causes_of_step(plan, it.simulator, stage, steps[-1], seen)
            searched.append(time.perf_counter() - begin)
            begin = time.perf_counter()
            last = len(stage.checks) - 1
            causes_of_check(plan, it.simulator, stage, last, "open" if stage.checks[last].reads == "coil" else "coil")
            searched.append(time.perf_counter() - begin)
    row("build and test plan, longest circuit", max(times), "ms", 300)
    row("causes of something else seen, slowest", max(searched), "s", 1)


def again(it: SimulatedStarter, document: StarterDocument, _: int) -> object:
    """A plan made anew."""
    return build_plan(it, document)


REPORT = f"""
import io, multiprocessing, sys, time
{PEAK}
from volmek.web.app import create_app
client = create_app(Path(sys.argv[1])).test_client()
client.get("/api/starters/7/labels.pdf")
begin = time.perf_counter()
answer = client.get("/api/starters/7/report.pdf")
taken = time.perf_counter() - begin
server = peak_mb()
printing = max(peak_mb(p.pid) for p in multiprocessing.active_children())
from volmek.files.printer import PRINTER
PRINTER.close()
from pypdf import PdfReader
print(taken, len(PdfReader(io.BytesIO(answer.data)).pages), server, printing)
"""


def bench_record(database: Path, port: int) -> None:
    """A report in a process of its own; a history of ten thousand readings over the API."""
    out = subprocess.run([sys.executable, "-c", REPORT, str(database)], capture_output=True, text=True, check=True)
    taken, pages, server, printing = map(float, out.stdout.split())
    row(f"report of {pages:.0f} pages", taken, "s", 4)
    row("  memory of the printing process", printing, "MB", 200)
    row("  memory of the server meanwhile", server, "MB", 200)
    items = ("load.L1", "load.L2", "load.L3", "voltage.L1-L2", "insulation.motor")
    began = datetime(2016, 1, 1, tzinfo=UTC)
    with Session(make_engine(database)) as session, session.begin():
        for n in range(10_000):
            at = began + timedelta(hours=8 * n)
            body = {"item": items[n % 5], "value": 300.0 + n % 7, "source": "typed", "confirmed": False, "note": ""}
            add_entry(session, 9, key=f"bench-{n}", kind="reading", body=body, who="Ann", said=at, seen=n, received=at)
    connection = HTTPConnection("127.0.0.1", port)

    def ask(_: int) -> None:
        connection.request("GET", "/api/starters/9/readings")
        answer = connection.getresponse()
        answer.read()
        assert answer.status == 200

    row("history page of 10,000 readings", median_ms(ask, 10, 2), "ms", 200)


def serve(app: Any) -> int:
    """Serve an application as the command does; the port it got."""
    server = create_server(app, host="127.0.0.1", port=0, threads=4)
    threading.Thread(target=server.run, daemon=True).start()
    return int(server.effective_port)


def bench_api(port: int) -> None:
    """A changed field there and back, against a bare Flask JSON echo served the same way."""
    echo = Flask("echo")

    @echo.put("/echo")
    def back() -> Any:
        return request.get_json()

    designs: list[float] = []  # size() as it took inside these very requests
    bare = HTTPConnection("127.0.0.1", serve(echo))
    real = HTTPConnection("127.0.0.1", port)

    def ask(connection: HTTPConnection, method: str, path: str, body: Any = None) -> Any:
        connection.request(method, path, json.dumps(body) if body else None, {"Content-Type": "application/json"})
        answer = connection.getresponse()
        data = answer.read()
        assert answer.status == 200, data
        if timing := answer.headers.get("Server-Timing"):
            designs.append(float(timing.partition("dur=")[2]))
        return data

    document = json.loads(ask(real, "GET", "/api/starters/1"))["document"]
    version, figures = [1], itertools.count()

    def change(_: int) -> None:
        # A figure that was not there before: the last sizings are kept.
        document["motor"]["rated_current_delta_a"] = 10 + next(figures) % 900 / 100
        answer = ask(real, "PUT", "/api/starters/1", {"version": version[0], "document": document})
        version[0] = json.loads(answer[:200].split(b'"saved"')[0].rstrip(b",") + b"}")["version"]

    # In turns, so that both see the same machine.
    echoes, changes = [], []
    for _ in range(6):
        echoes.append(median_ms(lambda i: ask(bare, "PUT", "/echo", {"version": 1, "document": document}), 60, 5))
        changes.append(median_ms(change, 60, 5))
    echo_ms, change_ms = statistics.median(echoes), statistics.median(changes)
    design_ms = statistics.median(designs)
    what = f"API round trip of a changed field (echo {echo_ms:.2f}, design {design_ms:.2f} ms)"
    row(what, change_ms, "ms", round(3 * echo_ms + design_ms, 2))


def bench_browser(port: int) -> None:
    """Keystroke to changed figure, and the weight of the first load."""
    with sync_playwright() as p:
        browser = p.chromium.launch(
            executable_path=os.environ["CHROMIUM"],
            args=["--no-sandbox", "--disable-gpu", "--disable-background-networking", "--no-first-run"],
        )
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        session = page.context.new_cdp_session(page)
        session.send("Network.enable")
        weight = [0.0]
        session.on("Network.loadingFinished", lambda e: weight.__setitem__(0, weight[0] + e["encodedDataLength"]))
        page.goto(f"http://127.0.0.1:{port}/starters/2/plate")
        page.wait_for_load_state("networkidle")
        row("first load of the starter page, compressed", weight[0] / 1000, "kB", 450)
        page.get_by_label("Current in star").focus()
        page.keyboard.press("End")
        taken = page.evaluate(
            """async () => {
              const field = document.activeElement
              const figure = () => document.querySelector('.lineup').textContent
              const times = []
              for (let i = 0; i < 60; i++) {
                const before = figure()
                const changed = new Promise((done) => {
                  const look = new MutationObserver(() => { if (figure() !== before) { look.disconnect(); done() } })
                  look.observe(document.querySelector('.lineup'), { subtree: true, childList: true, characterData: true })
                })
                const start = performance.now()
                field.value = String(8 + i / 100)
                field.dispatchEvent(new Event('input', { bubbles: true }))
                await changed
                await new Promise((painted) => requestAnimationFrame(() => painted()))
                times.push(performance.now() - start)
              }
              return times
            }"""
        )
        row("keystroke to changed figure in Chromium, median", statistics.median(taken), "ms", 120)
        page.goto(f"http://127.0.0.1:{port}/starters/7/start")
        row("frame while the star time is dragged, mean", dragged_ms(page), "ms", 50)
        page.goto(f"http://127.0.0.1:{port}/starters/7/circuit")
        click, frame = pressed_ms(page)
        row("press of a button to the changed circuit in Chromium", click, "ms", 100)
        row("frame while the circuit runs at ×1, mean", frame, "ms", 33.3)
        bench_many(row, browser.new_page(viewport={"width": 1280, "height": 800}, service_workers="block"))
        browser.close()


def pressed_ms(page: Page) -> tuple[float, float]:
    """From a real press of start to the changed drawing, and from frame to frame while the motor runs up."""
    panel = page.get_by_role("region", name="Operate")
    start = panel.get_by_role("button", name="S2 Start")
    start.wait_for()
    page.wait_for_timeout(800)
    # K1 needs its own 60 ms after the press: the half-pressed button is the first thing that is drawn.
    page.evaluate(
        """() => {
          window.pressed = []
          window.frames = []
          const drawing = document.querySelector('.scroller svg')
          const button = [...document.querySelectorAll('.push')].find((b) => b.textContent.startsWith('S2'))
          let at = 0
          button.addEventListener('pointerdown', () => { at = performance.now() })
          new MutationObserver(() => { if (at) { requestAnimationFrame(() => { if (at) window.pressed.push(performance.now() - at); at = 0 }) } })
            .observe(drawing, { subtree: true, childList: true, attributes: true })
          const look = (now) => { window.frames.push(now); requestAnimationFrame(look) }
          requestAnimationFrame(look)
        }"""
    )
    stop = panel.get_by_role("button", name="S1 Stop")
    for button in (start, stop, start, stop, start):
        box = button.bounding_box()
        assert box
        page.mouse.move(box["x"] + box["width"] / 2, box["y"] + 20)
        page.mouse.down()
        page.wait_for_timeout(500)
        page.mouse.up()
        page.wait_for_timeout(400)
    page.evaluate("window.frames.length = 0")
    page.wait_for_timeout(2000)
    frames = page.evaluate("window.frames")
    pressed = page.evaluate("window.pressed")
    assert pressed, "the drawing changed after the press"
    return statistics.median(pressed), float((frames[-1] - frames[0]) / (len(frames) - 1))


def dragged_ms(page: Page) -> float:
    """Time from frame to frame while a real mouse drags the star time over its curve."""
    section = page.get_by_role("region", name="Star time")
    drawing = section.locator(".drawing")
    drawing.scroll_into_view_if_needed()
    section.locator("canvas, svg").first.wait_for()
    box = drawing.bounding_box()
    assert box
    section.get_by_role("status").evaluate(
        """(at) => {
          window.drawn = []
          const look = (now) => { window.drawn.push([now, at.textContent]); requestAnimationFrame(look) }
          requestAnimationFrame(look)
        }"""
    )
    y = box["y"] + 0.5 * box["height"]
    page.mouse.move(box["x"] + 0.66 * box["width"], y)
    page.mouse.down()
    page.mouse.move(box["x"] + 0.25 * box["width"], y, steps=120)
    drawn = page.evaluate("window.drawn")
    page.mouse.up()
    words = [w for _, w in drawn]
    moving = drawn[words.index(next(w for w in words if w != words[0])) :]
    assert len(set(words)) > 10, "the star time followed the mouse"
    return float((moving[-1][0] - moving[0][0]) / (len(moving) - 1))


def main() -> None:
    """Run every measurement and print the table."""
    with tempfile.TemporaryDirectory() as folder:
        app = create_app(Path(folder) / "bench.db")
        fill(app.extensions["engine"])
        port = serve(app)
        bench_api(port)
        bench_browser(port)
        bench_methods(port)
        bench_catalogue(port)
        bench_record(Path(folder) / "bench.db", port)
        bench_people(row, Path(folder) / "bench.db")
        bench_cold(Path(folder) / "bench.db")
    bench_core()
    bench_start()
    bench_circuit()
    bench_build()
    width = max(len(r[0]) for r in ROWS)
    print(f"{'measured':<{width}}  {'here':>12}  bar")
    for what, measured, bar in ROWS:
        print(f"{what:<{width}}  {measured:>12}  {bar}")


if __name__ == "__main__":
    main()
