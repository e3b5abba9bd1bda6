"""Killed while it writes: whatever was answered is there, whatever was not is either there whole or not at all. ``make soak`` for long."""

import json
import os
import random
import signal
import sqlite3
import time
from pathlib import Path

from sqlalchemy.orm import Session

from samples import iec
from soak import SOAK
from volmek.core.document.model import parse
from volmek.core.record.bodies import parse_body
from volmek.store.engine import make_engine, upgrade, writer
from volmek.store.keeping import check
from volmek.store.models import now
from volmek.store.records import add_entry
from volmek.store.repository import create_board, create_starter, read_starter, save_document

ROUNDS = 1000 if SOAK else 25
#: A whole look through the database, chains and all, after so many rounds.
LOOK_EVERY = 100 if SOAK else 5


def write(file: Path, answers: int, first: int) -> None:
    """In a process of its own: saves and entries in turn, each told the moment that it is answered."""
    engine = make_engine(file)
    for n in range(first, first + 100_000):
        with Session(writer(engine)) as session, session.begin():
            if n % 2:
                body = parse_body("reading", {"item": "load.L1", "value": float(n)})
                add_entry(session, 1, key=f"key-{n:08}", kind="reading", body=body, who="Ann", said=now(), seen=0)
            else:
                kept = read_starter(session, 1)
                save_document(session.connection(), kept, parse(iec(service=f"saved {n}")), kept.version, "{}")
        os.write(answers, f"{n}\n".encode())


def killed(file: Path, first: int, after_s: float) -> list[int]:
    """Numbers that were answered before the process was killed."""
    reading, writing = os.pipe()
    child = os.fork()
    if child == 0:
        try:
            write(file, writing, first)
        finally:
            os._exit(1)
    os.close(writing)
    time.sleep(after_s)
    os.kill(child, signal.SIGKILL)
    os.waitpid(child, 0)
    with os.fdopen(reading, "rb") as pipe:
        return [int(x) for x in pipe.read().split()]


def test_nothing_that_was_answered_is_lost(tmp_path: Path) -> None:
    file = tmp_path / "killed.db"
    engine = make_engine(file)
    upgrade(engine)
    with Session(engine) as session, session.begin():
        create_starter(session, create_board(session, "job", "board", "", {}), parse(iec()))
    engine.dispose()
    chance, answered, first = random.Random(7), list[int](), 1
    for turn in range(ROUNDS):
        answered += (got := killed(file, first, chance.uniform(0.002, 0.12)))
        first = max([first, *got]) + 2 + first % 2  # the one on its way may be there too
        if turn % LOOK_EVERY == LOOK_EVERY - 1:
            assert check(file).problems == [], turn
    with sqlite3.connect(file) as database:
        keys = {key for (key,) in database.execute("SELECT key FROM journal")}
        states = {json.loads(d).get("service", "") for (d,) in database.execute("SELECT document FROM revision")}
        states.add(json.loads(database.execute("SELECT document FROM starter").fetchone()[0]).get("service", ""))
    lost = [n for n in answered if n % 2 and f"key-{n:08}" not in keys]
    assert lost == [] and len(answered) > ROUNDS
    # Of states that follow each other within a minute the last is kept: the last that was answered is among them.
    last = max(n for n in answered if n % 2 == 0)
    assert any(int(s.split()[1]) >= last for s in states if s.startswith("saved "))
    print(f"{ROUNDS} kills, {len(answered)} answered, {len(keys)} entries, none lost")
