"""How sure a design is: from the worker, on the command line, on the papers, and dropped when overtaken."""

import json
import subprocess
import sys
import threading
import time
from pathlib import Path
from typing import Any

from click.testing import CliRunner
from flask.testing import FlaskClient

from samples import iec
from volmek.cli import main
from volmek.core.catalogue.catalogue import reference_catalogue
from volmek.core.document.model import parse
from volmek.core.ranges.ranges import ranges
from volmek.web.worker import RangeWorker

LATE: dict[str, Any] = iec(
    tag="R-1", motor={"locked_rotor_current_ratio": None}, load={"start_time_s": None, "inertia_kgm2": 0.6}
)


def test_the_worker_says_what_the_core_says(client: FlaskClient) -> None:
    made = client.post("/api/boards/1/starters", json={"document": LATE}).get_json()
    answer = client.get(f"/api/starters/{made['id']}/ranges").get_json()["ranges"]
    alone = ranges(parse(LATE), reference_catalogue())
    assert [u["label"] for u in answer["find_out"]] == [u.label for u in alone.find_out]
    assert {f["key"]: (f["text"], f["span"]) for f in answer["figures"]} == {
        f.key: (f.text, f.span) for f in alone.figures
    }
    assert client.get("/api/starters/6/ranges").status_code == 422, "only a plate so far"
    page = client.get(f"/api/starters/{made['id']}/sheet.html").get_data(as_text=True)
    assert "What to find out next" in page and alone.find_out[0].how in page
    assert "What to find out next" in client.get(f"/api/starters/{made['id']}/report.html").get_data(as_text=True)
    client.application.extensions["ranges"].close()


def test_a_newer_question_of_the_same_starter_overtakes_the_older_one() -> None:
    worker, answers = RangeWorker(), {}
    document, catalogue = parse(LATE), reference_catalogue()
    worker.ask(1, document, catalogue)  # the worker is there

    def ask(name: int) -> None:
        answers[name] = worker.ask(7, document.model_copy(update={"tag": f"R-{name}"}), catalogue)

    asked = [threading.Thread(target=ask, args=(i,)) for i in range(4)]
    for thread in asked:
        thread.start()
    for thread in asked:
        thread.join()
    assert sum(a is not None for a in answers.values()) == 1
    assert worker.ask(8, document, catalogue) is not None
    worker.close()


def test_a_worker_that_ended_is_replaced_once() -> None:
    worker, document, catalogue = RangeWorker(), parse(LATE), reference_catalogue()
    first = worker.ask(1, document, catalogue)
    assert worker._pool
    for process in worker._pool._processes.values():
        process.kill()
        process.join()
    assert worker.ask(1, document, catalogue) == first
    worker.close()


ALONE = """
import os, sys
from volmek.core.catalogue.catalogue import reference_catalogue
from volmek.core.document.model import parse
from volmek.web.worker import RangeWorker
if __name__ == "__main__":
    worker = RangeWorker()
    worker.ask(1, parse({"tag": "A", "motor": {"rated_power_kw": 3, "rated_voltage_delta_v": 400}, "supply": {"line_voltage_v": 400}}), reference_catalogue())
    print(*worker._pool._processes, flush=True)
    os._exit(9)
"""


def test_the_worker_ends_with_a_server_that_was_killed(tmp_path: Path) -> None:
    script = tmp_path / "alone.py"
    script.write_text(ALONE)
    done = subprocess.run([sys.executable, str(script)], stdout=subprocess.PIPE, text=True, check=False)
    assert done.returncode == 9
    worker = Path("/proc") / done.stdout.strip()
    for _ in range(100):
        if not worker.exists() or "Z" in (worker / "stat").read_text().split()[2]:
            return
        time.sleep(0.1)
    raise AssertionError("the worker goes on without its server")


def test_the_command_line_adds_the_ranges() -> None:
    done = CliRunner().invoke(main, ["size", "--range", "-"], input=json.dumps(LATE))
    assert done.exit_code == 0
    data = json.loads(done.stdout)["ranges"]
    assert data["find_out"][0]["label"] and data["tried"] > 10
    assert "ranges" not in json.loads(CliRunner().invoke(main, ["size", "-"], input=json.dumps(LATE)).stdout)
