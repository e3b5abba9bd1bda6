"""Long requests say how far they are, and end when they are cancelled, with nothing kept."""

import json
import os
import signal
import threading
import time
from collections.abc import Callable
from typing import Any

from flask.testing import FlaskClient

from databases import ON_FILES
from volmek.files.printer import Printer
from volmek.web.work import HEADER

KEY = {HEADER: "a-key"}


def meanwhile(client: FlaskClient, ask: Callable[[FlaskClient], Any], look: Callable[[FlaskClient], bool]) -> Any:
    """An answer, and meanwhile looks from elsewhere until one has seen enough."""
    found: list[Any] = []
    asking = threading.Thread(target=lambda: found.append(ask(client.application.test_client())))
    asking.start()
    other = client.application.test_client()
    while asking.is_alive() and not look(other):
        time.sleep(0.01)
    asking.join(60)
    return found[0]


def test_a_report_says_what_it_does_and_is_cancelled_in_the_middle_of_its_layout(client: FlaskClient) -> None:
    seen: list[str] = []

    def look(other: FlaskClient) -> bool:
        answer = other.get("/api/requests/a-key")
        if answer.status_code != 200:
            return False
        seen.append(answer.get_json()["words"])
        return "laying out" in seen[-1] and other.delete("/api/requests/a-key").status_code == 204

    began = time.monotonic()
    answer = meanwhile(client, lambda c: c.get("/api/starters/1/report.pdf", headers=KEY), look)
    assert answer.status_code == 409 and answer.get_json()["problems"][0]["message"] == "cancelled; nothing was changed"
    assert {w.split(",")[0] for w in seen} & {
        "how sure the design is",
        "simulating every stage of the build",
    } and time.monotonic() > began
    assert client.get("/api/requests/a-key").status_code == 404 == client.delete("/api/requests/a-key").status_code
    again = client.get("/api/starters/1/labels.pdf", headers=KEY)  # the press works on, and the key is free
    assert again.data.startswith(b"%PDF")


def test_a_printer_whose_print_is_not_wanted_prints_the_next_one() -> None:
    printer = Printer()

    class NotWantedError(Exception):
        pass

    def stop() -> None:
        raise NotWantedError

    try:
        printer.pdf("<p>" + "long " * 200_000, stop)
    except NotWantedError:
        pass
    else:
        raise AssertionError("it was printed all the same")
    assert printer.pdf("<p>short</p>").startswith(b"%PDF")
    printer.close()


@ON_FILES
def test_a_print_that_fails_is_one_sentence_and_the_next_one_comes(client: FlaskClient) -> None:
    from volmek.files.printer import PRINTER

    def end(words: str) -> None:
        """End the printing process, idle or in the middle of a page."""
        other = client.application.test_client()
        for _ in range(600):
            if words in str(other.get("/api/requests/a-print").get_json()):
                break
            time.sleep(0.02)
        for pid in list(PRINTER._pool._processes) if PRINTER._pool else []:
            os.kill(pid, signal.SIGKILL)

    assert client.get("/api/starters/7/labels.pdf").status_code == 200  # the process is there
    ended = threading.Thread(target=end, args=("laying out the pages, 1 s",))
    ended.start()
    failed = client.get("/api/starters/7/report.pdf", headers={"X-Work": "a-print"})
    ended.join()
    words = failed.get_json()["problems"][0]["message"]
    assert failed.status_code == 503 and "could not be laid out" in words and "try again" in words, words
    assert client.get("/api/starters/7/labels.pdf").data[:4] == b"%PDF"
    end("")
    assert client.get("/api/starters/7/labels.pdf").data[:4] == b"%PDF", "one that was ended idle is begun anew"


def test_a_board_that_is_cancelled_says_which_starters_it_has_not_sized(client: FlaskClient, monkeypatch: Any) -> None:
    from volmek.web import lines

    real, tags = lines.row_of, []

    def from_elsewhere() -> None:
        other = client.application.test_client()
        far = other.get("/api/requests/a-key").get_json()
        assert far["words"].endswith(tags[-1]) and far["done"] == 2 and far["of"] > 5
        other.delete("/api/requests/a-key")

    def counted(starter: Any, *args: Any, **more: Any) -> Any:
        tags.append(starter.tag)
        if len(tags) == 3:
            somebody = threading.Thread(target=from_elsewhere)
            somebody.start()
            somebody.join()
        return real(starter, *args, **more)

    monkeypatch.setattr(lines, "row_of", counted)
    monkeypatch.setattr(lines.Lines, "want", lambda self, ids: later.extend(ids))
    later = list[int]()
    board = client.get("/api/boards/1", headers=KEY).get_json()
    rows = board["starters"]
    assert [r["sized"] and r["current"] != "" for r in rows[:3]] == [True] * 3 and len(tags) == 3
    assert not any(r["sized"] for r in rows[3:]) and board["unsized"] == len(rows) - 3
    assert later == [r["id"] for r in rows[3:]], "the background does the rest"


def test_an_import_that_is_cancelled_leaves_the_board_as_it_was(client: FlaskClient) -> None:
    one = client.get("/api/starters/1").get_json()["document"]
    text = json.dumps([{**one, "tag": f"X-{k}"} for k in range(60)])
    before = [s["tag"] for s in client.get("/api/boards/1").get_json()["starters"]]

    def look(other: FlaskClient) -> bool:
        far = other.get("/api/requests/a-key").get_json()
        return far.get("done", 0) > 2 and other.delete("/api/requests/a-key").status_code == 204

    answer = meanwhile(client, lambda c: c.post("/api/boards/1/import", json={"text": text}, headers=KEY), look)
    assert answer.status_code == 409
    assert [s["tag"] for s in client.get("/api/boards/1").get_json()["starters"]] == before


def test_a_key_is_one_request_at_a_time_and_not_too_long(client: FlaskClient) -> None:
    assert client.get("/api/boards", headers={HEADER: "x" * 65}).status_code == 400
    assert (
        client.get("/api/boards", headers=KEY).status_code == 200 == client.get("/api/boards", headers=KEY).status_code
    )
