"""Results as pages show them, kept under all that they follow from: who reads what was just saved, or read, computes nothing again."""

import json
import threading
from collections import OrderedDict
from collections.abc import Callable
from typing import Generic, TypeVar

from flask import current_app
from sqlalchemy import Connection
from sqlalchemy.orm import Session

from volmek.core.catalogue.catalogue import Catalogue
from volmek.core.circuit.faults.failures import Failure
from volmek.store.catalogues import catalogue_for, with_kept
from volmek.store.repository import Kept
from volmek.web.designs import Computed, DesignBrief, brief, shown
from volmek.web.schemas import ProblemOut

#: A design for a page, or None, and the problems against it.
Shown = tuple[DesignBrief | None, list[ProblemOut]]
T = TypeVar("T")
#: So many starters' results stay in memory, and so many failure tables.
RESULTS_KEPT, TABLES_KEPT = 512, 64


def briefed(computed: Computed) -> Shown:
    """What was computed, as pages show it."""
    return brief(computed[0]) if computed[0] else None, computed[1]


class Results(Generic[T]):
    """The last results of one process, under document, devices and catalogue."""

    def __init__(self, most: int = RESULTS_KEPT) -> None:
        self.most = most
        self._lock = threading.Lock()
        self._kept: OrderedDict[tuple[str, str, int], tuple[Catalogue, T]] = OrderedDict()

    def find(self, kept: Kept, offered: Catalogue) -> T | None:
        """The result of a starter as it is kept, None where it is not here."""
        with self._lock:
            found = self._kept.get(_key(kept, offered))
            if found is None or found[0] is not offered:
                return None
            self._kept.move_to_end(_key(kept, offered))
            return found[1]

    def keep(self, kept: Kept, offered: Catalogue, result: T) -> T:
        """Keep the result of a starter; the catalogue is kept with it, so that no other one can have its number."""
        with self._lock:
            self._kept[_key(kept, offered)] = (offered, result)
            while len(self._kept) > self.most:
                self._kept.popitem(last=False)
        return result


def _key(kept: Kept, offered: Catalogue) -> tuple[str, str, int]:
    return json.dumps(kept.document), kept.devices, id(offered)


def _results() -> Results[Shown]:
    found: Results[Shown] = current_app.extensions["results"]
    return found


def _offered(connection: Connection | Session, kept: Kept) -> Catalogue:
    return catalogue_for(connection, current_app.extensions["engine"], kept.catalogues)


def result_of(connection: Connection | Session, kept: Kept) -> Shown:
    """The result of a starter as it is kept, or what is wrong or missing."""
    offered = _offered(connection, kept)
    found = _results().find(kept, offered)
    if found is not None:
        return found
    return _results().keep(kept, offered, briefed(shown(kept.document, with_kept(offered, kept.devices, True))))


def saved_result(connection: Connection | Session, kept: Kept, computed: Computed) -> Shown:
    """The result that a starter was saved with; who reads it next gets the same."""
    return _results().keep(kept, _offered(connection, kept), briefed(computed))


def table_of(kept: Kept, made: Callable[[], list[Failure]]) -> list[Failure]:
    """The failure table of a starter as it is kept, made anew only when something that it follows from has changed."""
    tables: Results[list[Failure]] = current_app.extensions["tables"]
    with current_app.extensions["engine"].connect() as connection:  # nothing is held open while it is made
        offered = _offered(connection, kept)
    found = tables.find(kept, offered)
    return found if found is not None else tables.keep(kept, offered, made())
