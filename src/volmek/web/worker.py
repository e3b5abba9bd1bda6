"""Processes of their own for what takes long, so that no plain answer waits: how sure designs are, and designs of whole boards."""

import os
import pickle
import threading
import time
from collections.abc import Callable
from concurrent.futures import CancelledError, Future, ProcessPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from functools import lru_cache
from multiprocessing import get_context
from typing import Any

from flask import current_app
from werkzeug.exceptions import ServiceUnavailable

from volmek.core.catalogue.catalogue import Catalogue
from volmek.core.document.model import StarterDocument
from volmek.core.ranges.ranges import Overtaken, Ranges, ranges
from volmek.files.background import give_way
from volmek.web.designs import devices_text, shown

#: Places in which the newest question of a starter is kept; starters share them.
PLACES = 512
#: Designs that are asked for at once: how often progress is told, and how soon it is cancelled.
AT_ONCE = 25
_newest: Any = None


def _begin(newest: Any, parent: int) -> None:
    """In the worker, first of all: it ends with its server, however that ends."""
    global _newest
    _newest = newest
    give_way()

    def watch() -> None:
        while os.getppid() == parent:
            time.sleep(1)
        os._exit(0)

    threading.Thread(target=watch, daemon=True).start()


@lru_cache(maxsize=4)
def _catalogue(data: bytes) -> Catalogue:
    found: Catalogue = pickle.loads(data)
    return found


def _ask(document: StarterDocument, catalogue: bytes, place: int, ticket: int) -> Ranges | None:
    """In the worker: None when a newer question came."""
    try:
        return ranges(document, _catalogue(catalogue), lambda: _newest[place] != ticket)
    except Overtaken:
        return None


def _devices(documents: list[dict[str, Any]], catalogue: bytes) -> list[str]:
    """In the worker: the devices of each document, as they are kept."""
    chosen = _catalogue(catalogue)
    return [devices_text(shown(document, chosen), chosen) for document in documents]


def devices_elsewhere(documents: list[dict[str, Any]], catalogue: Catalogue, step: Callable[[int], None]) -> list[str]:
    """Devices of many documents in their order, as they are kept, designed in a process that lives so long.

    Parameters
    ----------
    step : told how many are done; what it raises ends it

    Raises
    ------
    ServiceUnavailable : somebody ended the process.
    """
    data, made = pickle.dumps(catalogue), list[str]()
    try:
        with ProcessPoolExecutor(1, get_context("spawn"), _begin, (None, os.getpid())) as pool:
            for k in range(0, len(documents), AT_ONCE):
                step(k)
                made += pool.submit(_devices, documents[k : k + AT_ONCE], data).result()
    except BrokenProcessPool:
        raise ServiceUnavailable("The process that designs has ended. Nothing was changed: try again.") from None
    return made


def ranges_meanwhile(starter_id: int, document: StarterDocument, catalogue: Catalogue) -> Callable[..., Ranges | None]:
    """Certainty of a design, computed while the rest of a paper is made; a page's question does not overtake it."""
    worker: RangeWorker = current_app.extensions["ranges"]
    found: list[Ranges | None] = []
    asking = threading.Thread(target=lambda: found.append(worker.ask(-starter_id, document, catalogue)))
    asking.start()

    def answer(look: Callable[[], None] = lambda: None) -> Ranges | None:
        while asking.is_alive():
            asking.join(0.1)
            look()
        return found[0] if found else None

    return answer


class RangeWorker:
    """Asks the worker, and drops what a newer question of the same starter has overtaken."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._context = get_context("spawn")
        self._newest = self._context.Array("q", PLACES, lock=False)
        self._tickets: dict[int, int] = {}
        self._count = 0
        self._waiting: dict[int, Future[Ranges | None]] = {}
        self._pool: ProcessPoolExecutor | None = None

    def ask(self, starter_id: int, document: StarterDocument, catalogue: Catalogue) -> Ranges | None:
        """Certainty of a design; None when a newer question of this starter came meanwhile.

        Raises
        ------
        ProblemError : the document cannot be designed.
        """
        data, place = pickle.dumps(catalogue), starter_id % PLACES
        with self._lock:
            self._count += 1
            ticket = self._count
            self._tickets[starter_id] = ticket
        tries = 0
        while self._tickets[starter_id] == ticket:
            try:
                found = self._submitted(starter_id, place, ticket, document, data).result()
            except CancelledError:
                return None
            except BrokenProcessPool:
                # Somebody ended the worker: once more with a new one, never for ever.
                with self._lock:
                    self._pool = None
                tries += 1
                if tries > 1:
                    raise
                continue
            if found is not None:
                return found if self._tickets[starter_id] == ticket else None
        return None

    def _submitted(
        self, starter_id: int, place: int, ticket: int, document: StarterDocument, data: bytes
    ) -> "Future[Ranges | None]":
        with self._lock:
            if self._tickets[starter_id] != ticket:  # a newer one was quicker to get here
                raise CancelledError
            if older := self._waiting.pop(starter_id, None):
                older.cancel()
            self._newest[place] = ticket
            if self._pool is None:
                self._pool = ProcessPoolExecutor(1, self._context, _begin, (self._newest, os.getpid()))
            made = self._pool.submit(_ask, document, data, place, ticket)
            self._waiting[starter_id] = made
            return made

    def close(self) -> None:
        """End the worker."""
        if self._pool:
            self._pool.shutdown(wait=False, cancel_futures=True)
