"""How sure a design is: from the worker, on the command line, on the papers, and dropped when overtaken."""

import json
import threading
from typing import Any

from click.testing import CliRunner
from flask.testing import FlaskClient

from samples import iec
from volmek.cli import main
from volmek.core.catalogue.catalogue import reference_catalogue
from volmek.core.document.model import parse
from volmek.core.ranges.ranges import ranges
from volmek.web.worker import RangeWorker

LATE: dict[str, Any] = iec(tag="R-1", motor={"locked_rotor_current_ratio": None}, load={"start_time_s": None, "inertia_kgm2": 0.6})


def test_the_worker_says_what_the_core_says(client: FlaskClient) -> None:
    made = client.post("/api/boards/1/starters", json={"document": LATE}).get_json()
    answer = client.get(f"/api/starters/{made['id']}/ranges").get_json()["ranges"]
    alone = ranges(parse(LATE), reference_catalogue())
    assert [u["label"] for u in answer["find_out"]] == [u.label for u in alone.find_out]
    assert {f["key"]: f["text"] for f in answer["figures"]} == {f.key: f.text for f in alone.figures}
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


def test_the_command_line_adds_the_ranges() -> None:
    done = CliRunner().invoke(main, ["size", "--range", "-"], input=json.dumps(LATE))
    assert done.exit_code == 0
    data = json.loads(done.stdout)["ranges"]
    assert data["find_out"][0]["label"] and data["tried"] > 10
    assert "ranges" not in json.loads(CliRunner().invoke(main, ["size", "-"], input=json.dumps(LATE)).stdout)
