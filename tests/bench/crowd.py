"""Measured with many: a board of 5,000 starters, 50 people at once, and saves while something long is worked on."""

import asyncio
import json
import multiprocessing
import socket
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from http.client import HTTPConnection
from pathlib import Path
from typing import Any

from playwright.sync_api import Page

from volmek.store.keeping import backup

Row = Callable[..., None]
PEOPLE, SECONDS = 50, 30.0
MANY = 5000


@contextmanager
def served(database: Path, *options: str) -> Iterator[int]:
    """The application as the command serves it, in a process of its own; its port."""
    with socket.create_server(("127.0.0.1", 0)) as probe:
        port = int(probe.getsockname()[1])
    command = [
        sys.executable,
        "-m",
        "volmek.cli",
        "serve",
        "--database",
        str(database),
        "--port",
        str(port),
        "--copies",
        "0",
        *options,
    ]
    process = subprocess.Popen(command, stdout=subprocess.DEVNULL)
    try:
        until = time.monotonic() + 60
        while True:
            try:
                ask(HTTPConnection("127.0.0.1", port), "GET", "/api/me")
                break
            except OSError:
                assert time.monotonic() < until
                time.sleep(0.1)
        yield port
    finally:
        process.terminate()
        process.wait()


def ask(connection: HTTPConnection, method: str, path: str, body: Any = None, **headers: str) -> tuple[int, bytes]:
    """One request over a connection that stays open."""
    connection.request(
        method, path, None if body is None else json.dumps(body), {"Content-Type": "application/json", **headers}
    )
    answer = connection.getresponse()
    return answer.status, answer.read()


def documents() -> list[dict[str, Any]]:
    """Five thousand plates, five of them different in kind."""
    plates = [(1.5, 3.4), (4, 8.1), (7.5, 14.8), (15, 28.5), (30, 55)]
    return [
        {
            "tag": f"T-{n}",
            "service": f"Drive {n} of line {n % 40}",
            "motor": {
                "rated_power_kw": plates[n % 5][0],
                "rated_voltage_delta_v": 400,
                "rated_current_delta_a": plates[n % 5][1],
            },
            "supply": {"line_voltage_v": 400, "prospective_current_ka": 10},
            "control": {"voltage_v": 230},
        }
        for n in range(MANY)
    ]


def fill_many(port: int) -> int:
    """A board of them; waits until every line is sized."""
    c = HTTPConnection("127.0.0.1", port, timeout=300)
    board = json.loads(ask(c, "POST", "/api/boards", {"job": "Works", "name": "All"})[1])["id"]
    all_of = documents()
    for start in range(0, MANY, 500):
        status, said = ask(c, "POST", f"/api/boards/{board}/import", {"text": json.dumps(all_of[start : start + 500])})
        assert status == 201, said
    while json.loads(ask(c, "GET", f"/api/lines?board_id={board}&limit=1")[1])["unsized"]:
        time.sleep(2)
    return int(board)


FRAMES = """async () => {
  const list = document.querySelector('.p-virtualscroller'); let frames = 0
  const began = performance.now()
  return await new Promise((done) => {
    const step = (now) => { frames++; list.scrollTop += 90; now - began > 3000 ? done(frames / ((now - began) / 1000)) : requestAnimationFrame(step) }
    requestAnimationFrame(step)
  })
}"""
TYPED = """async (text) => {
  const field = document.querySelector('[aria-label="Search starters"]'); field.focus(); const took = []
  for (const letter of text) {
    const began = performance.now()
    field.value += letter; field.dispatchEvent(new Event('input', { bubbles: true }))
    await new Promise((r) => requestAnimationFrame(() => requestAnimationFrame(r)))
    took.push(performance.now() - began)
    await new Promise((r) => setTimeout(r, 90))
  }
  return Math.max(...took)
}"""


def bench_many(row: Row, page: Page) -> None:
    """A board of five thousand in the browser, and saves while it is designed anew."""
    with tempfile.TemporaryDirectory() as folder, served(Path(folder) / "many.db", "--demo") as port:
        began = time.monotonic()
        board = fill_many(port)
        row("5,000 starters imported and sized", time.monotonic() - began, "s", 300)
        took = []
        for _ in range(5):
            begin = time.perf_counter()
            page.goto(f"http://127.0.0.1:{port}/boards/{board}")
            page.get_by_role("link", name="T-5", exact=True).wait_for()
            took.append(time.perf_counter() - begin)
        row("board of 5,000: first rows", statistics.median(took), "s", 1)
        seen = statistics.median(page.evaluate(FRAMES) for _ in range(5))
        row("  scrolling at 60 Hz (one frame in sixty may be missed)", seen, "Hz", 59, least=True)
        row("  typing in its search, slowest", page.evaluate(TYPED, "37 drive 4"), "ms", 100)
        bench_meanwhile(row, port, board)


def bench_meanwhile(row: Row, port: int, board: int) -> None:
    """Saves, while a board of five thousand is designed anew, a report is laid out and a meter stands still for ten minutes."""
    alone = saves(port, 200)
    long = HTTPConnection("127.0.0.1", port, timeout=600)
    queued = {"Prefer": "respond-async"}
    catalogues = {"catalogues": [0], "design_anew": True}
    for key, method, path, body in (
        ("anew", "PUT", f"/api/boards/{board}/catalogues", catalogues),
        ("meter", "POST", "/api/starters/7/meter/stand-in", {"advance_s": 600}),
        ("report", "GET", "/api/starters/7/report.pdf", None),
    ):
        assert ask(long, method, path, body, **{"X-Work": key}, **queued)[0] == 202
    took = saves(port, 200)
    left = ask(long, "GET", "/api/requests/anew/answer")[0]
    assert left == 202, "it was still being designed"
    ask(long, "DELETE", "/api/requests/anew")
    row("saves with nothing else running, p99", statistics.quantiles(alone, n=100)[98], "ms", 100)
    row("saves meanwhile (design anew, meter, report), p99", statistics.quantiles(took, n=100)[98], "ms", 100)


def saves(port: int, times: int) -> list[float]:
    """One person types: milliseconds of each save."""
    c, found = HTTPConnection("127.0.0.1", port, timeout=60), list[float]()
    starter = json.loads(ask(c, "GET", "/api/starters/8")[1])
    version, document = starter["version"], starter["document"]
    for n in range(times):
        document["service"] = f"typed {n}"
        begin = time.perf_counter()
        status, said = ask(c, "PUT", "/api/starters/8", {"version": version, "document": document})
        found.append(1000 * (time.perf_counter() - begin))
        assert status == 200, said
        version = json.loads(said)["version"]
        time.sleep(0.03)
    return found


async def one_of_many(port: int, person: int, until: float, took: list[float], bad: list[int]) -> None:
    """One person: reads starters in turn, and saves every fourth; with the reading before it one request in five is a save."""
    reader, writer = await asyncio.open_connection("127.0.0.1", port, limit=1 << 20)

    async def timed(method: str, path: str, body: Any = None) -> tuple[int, bytes]:
        data = b"" if body is None else json.dumps(body).encode()
        head = f"{method} {path} HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Type: application/json\r\nContent-Length: {len(data)}\r\n\r\n"
        begin = time.perf_counter()
        writer.write(head.encode() + data)
        answer = (await reader.readuntil(b"\r\n\r\n")).lower()
        said = await reader.readexactly(int(answer.split(b"content-length: ")[1].split(b"\r")[0]))
        took.append(time.perf_counter() - begin)
        return int(answer[9:12]), said

    n = person
    while time.monotonic() < until:
        n += 1
        path = f"/api/starters/{1 + n % 13}"
        status, said = await timed("GET", path)
        if status == 200 and n % 4 == 0:
            starter = json.loads(said)
            body = {"version": starter["version"], "document": {**starter["document"], "service": f"of {person}, {n}"}}
            status, said = await timed("PUT", path, body)
        if status not in (200, 409):  # 409: another was quicker; said so, and joined by the page
            bad.append(status)
    writer.close()


def crowd(port: int, told: Any) -> None:
    """In a process of its own: everybody, for a while."""

    async def everybody() -> tuple[list[float], list[int]]:
        took, bad, until = list[float](), list[int](), time.monotonic() + SECONDS
        await asyncio.gather(*(one_of_many(port, k, until, took, bad) for k in range(PEOPLE)))
        return took, bad

    told.put(asyncio.run(everybody()))


def bench_people(row: Row, demo: Path) -> None:
    """Fifty people over the demo's starters for half a minute, one process on SQLite, client included."""
    with tempfile.TemporaryDirectory() as folder:
        backup(demo, Path(folder) / "people.db")  # a plain copy would leave out what is in the write-ahead log
        _bench_people(row, Path(folder) / "people.db")


def _bench_people(row: Row, database: Path) -> None:
    with served(database) as port:
        c = HTTPConnection("127.0.0.1", port)
        for id in range(1, 14):  # the server has been used before
            ask(c, "GET", f"/api/starters/{id}")
        told: Any = multiprocessing.get_context("spawn").Queue()
        began = time.monotonic()
        process = multiprocessing.get_context("spawn").Process(target=crowd, args=(port, told))
        process.start()
        took, bad = told.get()
        process.join()
        seconds = time.monotonic() - began
    row("50 people, 80 % reading: requests a second", len(took) / SECONDS, "1/s", 120, least=True)
    row("  slowest of a hundred", 1000 * statistics.quantiles(took, n=100)[98], "ms", 700)
    row(f"  errors of {len(took)} in {seconds:.0f} s", float(len(bad)), "", 0)
