"""The lines of the lists: kept ones at once, others sized a few at a time, the rest in the background; searched and paged here."""

import re
import threading
import time
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass
from typing import Any, Literal

from flask import Flask, current_app
from pydantic import ValidationError
from sqlalchemy.exc import DatabaseError
from sqlalchemy.orm import Session

from volmek.core.catalogue.catalogue import Catalogue
from volmek.core.devices.device import Device
from volmek.core.devices.said import picked_of
from volmek.core.results.figures import as_read
from volmek.store.catalogues import with_kept
from volmek.store.listed import Mark, Page, Place, keep_lines, kept_lines, places
from volmek.store.models import Starter
from volmek.web.common import board_catalogue, new_session
from volmek.web.designs import shown
from volmek.web.record_views import points_of
from volmek.web.schemas import Output

Filter = Literal["all", "stop", "attention", "open", "incomplete"]
Sort = Literal["board", "worst", "tag", "current"]
#: What a request sizes by itself, before it leaves the rest to the background.
PATIENCE_S = 2.0
#: Lines that are written at once by the background.
TOGETHER = 20


class StarterRow(Output):
    """One line of a board's list; ``sized`` is false while it is still worked out, and its figures are empty then."""

    id: int
    tag: str
    service: str
    practice: str
    power: str
    voltage: str
    current: str
    breaker: str
    contactor: str
    relay: str
    dial: str
    stop: int
    attention: int
    open_points: int
    problem: str
    types: list[str]
    findings: list[str]
    sized: bool = True


def contactors_of(devices: list[Device]) -> str:
    """Types of the contactors; that the catalogues lack one is said once."""
    contactors = [d for d in devices if d.kind == "contactor"]
    types = [d.type for d in contactors if d.type]
    return ", ".join([*types, *(["none fits"] if len(types) < len(contactors) else [])])


def power_of(document: dict[str, Any]) -> str:
    """Rated power as it stands on the plate."""
    motor = document.get("motor", {})
    units = (("rated_power_kw", "kW"), ("rated_power_hp", "hp"), ("rated_power_ps", "PS"))
    return next((f"{motor[k]:g} {u}" for k, u in units if k in motor), "")


def row_of(starter: Starter, offered: Catalogue, open_now: int = 0) -> StarterRow:
    """One line of a board's list, sized."""
    computed, problems = shown(starter.document, with_kept(offered, starter.devices, True))
    cells = {"voltage": "", "current": "", "breaker": "", "contactor": "", "relay": "", "dial": ""}
    if computed:
        devices = {d.role: d for d in computed.devices}
        with_dial = devices.get("overload_relay") or devices["short_circuit_device"]
        dial = with_dial.settings.dial_a
        cells = {
            "voltage": f"{as_read(computed.supply.line_voltage_v)} V {computed.supply.frequency_hz:g} Hz",
            "current": as_read(computed.currents.design_current_a),
            "breaker": picked_of(devices["short_circuit_device"]).partition(",")[0],
            "contactor": contactors_of(computed.devices),
            "relay": picked_of(devices["overload_relay"]).partition(",")[0] if "overload_relay" in devices else "",
            "dial": as_read(float(dial)) if dial else "",
        }
    findings = computed.findings if computed else []
    return StarterRow(
        open_points=open_now,
        id=starter.id,
        tag=starter.tag,
        service=starter.document.get("service", ""),
        practice=starter.document.get("practice", "iec"),
        power=power_of(starter.document),
        stop=sum(f.severity == "stop" for f in findings),
        attention=sum(f.severity == "attention" for f in findings),
        problem=problems[0].message if problems else "",
        types=[f"{d.designation} {d.type}" for d in computed.devices if d.type] if computed else [],
        findings=[f.message for f in findings if f.severity != "info"],
        **cells,
    )


def unsized(place: Place) -> StarterRow:
    """The line of a starter that is still worked out."""
    return StarterRow(
        id=place.id, tag=place.tag, service="", practice="iec", power="", voltage="", current="", breaker="", contactor="", relay="", dial="",
        stop=0, attention=0, open_points=0, problem="", types=[], findings=[], sized=False,
    )  # fmt: skip


@dataclass(frozen=True, slots=True)
class Line:
    """A line with its board."""

    board_id: int
    row: StarterRow


@dataclass(frozen=True, slots=True)
class Found:
    """A line that was found; ``because`` says why where tag and description do not show it."""

    line: Line
    because: str


class Lines:
    """Lines of one process: what was read once is not read again until something that it follows from has changed."""

    def __init__(self, app: Flask) -> None:
        self.app = app
        self._lock = threading.Lock()
        self._known: dict[int, tuple[Mark, StarterRow]] = {}
        self._wanted: dict[int, None] = {}
        self._thread: threading.Thread | None = None
        self._over = threading.Event()

    def of(self, session: Session, board_id: int | None = None, page: Page | None = None) -> list[Line]:
        """Every line of a board, or of all, or a page of them; those that are not kept as they must be now are not sized."""
        there = places(session, board_id, page=page)
        missing = {p.id: p for p in there if self._row(p) is None}
        for kept in kept_lines(session, list(missing.values())):
            if kept.cells is not None and (row := _read(kept.id, kept.cells)) is not None:
                self._known[kept.id] = (missing[kept.id].mark, row)
        return [Line(p.board_id, self._row(p) or unsized(p)) for p in there]

    def _row(self, place: Place) -> StarterRow | None:
        mark, row = self._known.get(place.id, (None, None))
        return row if mark == place.mark else None

    def sized(self, lines: Sequence[Line], all_of: Sequence[Line], step: Callable[[str, int, int], bool]) -> list[Line]:
        """The same lines, those that are not sized yet sized now: as many as there is patience for; the others wait for the background.

        Parameters
        ----------
        lines : those that are shown, the first ones first
        all_of : the list that they are of, whose other lines are sized in the background
        step : told of each starter that is sized; false where nobody waits any more
        """
        until, found = time.monotonic() + PATIENCE_S, list[Line]()
        todo = sum(not x.row.sized for x in lines)
        made = 0
        for line in lines:
            if line.row.sized or time.monotonic() > until:
                found.append(line)
                continue
            if not step(f"sizing {line.row.tag}", made, todo):
                until = 0.0
                found.append(line)
                continue
            made += 1
            found.append(Line(line.board_id, self.size([line.row.id]).get(line.row.id, line.row)))
        done = {x.row.id for x in found if x.row.sized}
        if later := [x.row.id for x in all_of if not x.row.sized and x.row.id not in done]:
            self.want(later)
        return found

    def size(self, ids: Sequence[int]) -> dict[int, StarterRow]:
        """Size starters and keep their lines; one that is gone meanwhile is left out."""
        found: dict[int, StarterRow] = {}
        keys: dict[int, str] = {}
        with new_session() as session:
            for id in ids:
                starter = session.get(Starter, id)
                if starter is None or starter.removed is not None:
                    continue
                (place,) = places(session, starter_id=id)
                (kept,) = kept_lines(session, [place])
                row = row_of(starter, board_catalogue(session, starter.board), len(points_of(session, id)))
                found[id], keys[id] = row, kept.key
                self._known[id] = (place.mark, row)
                with self._lock:
                    self._wanted.pop(id, None)
        self._keep([(id, keys[id], row.model_dump(exclude={"id"})) for id, row in found.items()])
        return found

    def _keep(self, made: list[tuple[int, str, dict[str, Any]]]) -> None:
        """Keep lines in a transaction of their own, which may fail without harm."""
        try:
            with new_session(write=True) as session, session.begin():
                keep_lines(session, made)
        except DatabaseError:
            current_app.logger.warning("lines of a list could not be kept; they are made anew next time")

    def waiting(self) -> set[int]:
        """Starters that the background has still to size."""
        with self._lock:
            return set(self._wanted)

    def want(self, ids: Iterable[int]) -> None:
        """Have lines sized in the background, one after the other."""
        with self._lock:
            self._wanted |= dict.fromkeys(ids)
            if self._thread is None or not self._thread.is_alive():
                self._thread = threading.Thread(target=self._work, name="lines", daemon=True)
                self._thread.start()

    def all(self) -> None:
        """Look every line through, as after an upgrade."""
        with self.app.app_context(), new_session() as session:
            if later := [x.row.id for x in self.of(session) if not x.row.sized]:
                self.want(later)

    def _work(self) -> None:
        with self.app.app_context():
            while not self._over.wait(0.01):  # others have their turn between two of them
                with self._lock:
                    ids = list(self._wanted)[:TOGETHER]
                    if not ids:
                        self._thread = None
                        return
                try:
                    self.size(ids)
                except DatabaseError:  # locked or away: again in a while
                    if self._over.wait(5):
                        return
                    continue
                except Exception:
                    self.app.logger.exception("lines could not be sized in the background")
                    with self._lock:
                        self._wanted.clear()
                        self._thread = None
                    return
                with self._lock:
                    for id in ids:  # also of a starter that is gone
                        self._wanted.pop(id, None)

    def forget(self) -> None:
        """Read every line again."""
        self._known.clear()

    def close(self) -> None:
        """End the background."""
        self._over.set()


def _read(id: int, cells: dict[str, Any]) -> StarterRow | None:
    try:
        return StarterRow.model_validate({**cells, "id": id})
    except ValidationError:
        return None


def lines() -> Lines:
    """The lines of this application."""
    found: Lines = current_app.extensions["lines"]
    return found


KEEPS: dict[Filter, Callable[[StarterRow], bool]] = {
    "all": lambda r: True,
    "stop": lambda r: r.stop > 0,
    "attention": lambda r: r.attention > 0,
    "open": lambda r: r.open_points > 0,
    "incomplete": lambda r: r.problem != "",
}


def grave(r: StarterRow) -> float:
    """How urgent a line is, for the worst first."""
    return 1e6 * r.stop + (1e5 if r.problem else 0) + 1e2 * r.attention + r.open_points


def by_number(tag: str) -> list[tuple[int, int, str]]:
    """Order of tags in which numbers count as numbers.

    Examples
    --------
    >>> sorted(["KG-10", "KG-9", "A-1"], key=by_number)
    ['A-1', 'KG-9', 'KG-10']
    """
    return [(0, int(x), "") if x.isdigit() else (1, 0, x.casefold()) for x in re.findall(r"\d+|\D+", tag)]


def _amps(r: StarterRow) -> float:
    try:
        return float(r.current)
    except ValueError:
        return 0.0


SORTS: dict[Sort, Callable[[Found], Any] | None] = {
    "board": None,
    "worst": lambda f: -grave(f.line.row),
    "tag": lambda f: by_number(f.line.row.tag),
    "current": lambda f: -_amps(f.line.row),
}


def search(all_of: Sequence[Line], find: str, keep: Filter, sort: Sort, boards: dict[int, str]) -> list[Found]:
    """Lines that have every word looked for in tag, description, board, power, devices or findings.

    Parameters
    ----------
    boards : names of the boards, which are searched too
    """
    words, found = find.lower().split(), list[Found]()
    for line in all_of:
        r = line.row
        if not KEEPS[keep](r):
            continue
        plain = f"{r.tag} {r.service} {boards.get(line.board_id, '')} {r.power}".lower()
        missing = [w for w in words if w not in plain]
        if not missing:
            found.append(Found(line, ""))
            continue
        rest = [*r.types, *r.findings, r.problem]
        hits = {x: sum(w in x.lower() for w in missing) for x in rest}
        because = sorted((x for x in rest if hits[x]), key=lambda x: -hits[x])
        if all(any(w in x.lower() for x in because) for w in missing):
            found.append(Found(line, because[0]))
    if (order := SORTS[sort]) is not None:
        found.sort(key=order)
    return found
