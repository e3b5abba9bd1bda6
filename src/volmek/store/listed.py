"""Lines of the boards' lists, kept beside each document under a digest of all that they follow from."""

import hashlib
import json
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path
from typing import Any, cast

from sqlalchemy import ColumnElement, String, Table, delete, func, insert, select
from sqlalchemy import cast as as_text
from sqlalchemy.orm import Session

import volmek
from volmek.store.catalogues import SHIPPED, numbers_of
from volmek.store.models import Board, Catalogue, JournalEntry, Listed, Starter

AT_ONCE = 500
_starter, _board, _journal, _listed = (cast(Table, x.__table__) for x in (Starter, Board, JournalEntry, Listed))


@lru_cache(maxsize=1)
def rules_digest() -> str:
    """Digest of the rules: every file of the core and of its data. A new version makes every line anew."""
    root = Path(volmek.__file__).parent
    digest = hashlib.sha256()
    for folder in ("core", "data"):
        for file in sorted((root / folder).rglob("*")):
            if file.suffix in (".py", ".csv", ".json"):
                digest.update(file.relative_to(root).as_posix().encode() + b"\0" + file.read_bytes())
    return digest.hexdigest()


@dataclass(frozen=True, slots=True)
class Mark:
    """What tells in a glance that a line cannot have changed, without reading the document.

    Attributes
    ----------
    version, saved, devices : of the starter; the length of what its design is made of, which may change without a version
    entry : number of the last entry of its record
    offered : the catalogues of its board and when they were changed last
    rules : digest of the rules
    """

    version: int
    saved: str
    devices: int
    entry: int
    offered: str
    rules: str


@dataclass(frozen=True, slots=True)
class Place:
    """A starter on its board, with what its line follows from."""

    id: int
    board_id: int
    tag: str
    mark: Mark


#: First place of a page, and how many.
Page = tuple[int, int]


def places(
    session: Session, board_id: int | None = None, starter_id: int | None = None, page: Page | None = None
) -> list[Place]:
    """Every starter on a board, or on all of them, in the order of boards and places; a page of them, or one starter alone."""
    on: ColumnElement[bool] = _starter.c.removed.is_(None)
    last = select(_journal.c.starter_id, func.max(_journal.c.id)).group_by(_journal.c.starter_id)
    if board_id is not None:
        on &= _starter.c.board_id == board_id
    if starter_id is not None:
        on &= _starter.c.id == starter_id
        last = last.where(_journal.c.starter_id == starter_id)
    entries: dict[int, int] = {row[0]: row[1] for row in session.execute(last)}
    query = select(
        _starter.c.id, _starter.c.board_id, _starter.c.tag, _starter.c.version, as_text(_starter.c.saved, String), func.length(_starter.c.devices)
    )  # fmt: skip
    ordered = query.join(_board, _board.c.id == _starter.c.board_id).where(on).order_by(_board.c.job_id, _board.c.id, _starter.c.position, _starter.c.id)  # fmt: skip
    if page is not None:
        ordered = ordered.offset(page[0]).limit(page[1])
    offered, rules = _offered(session), rules_digest()
    return [
        Place(id, board, tag, Mark(version, saved, devices, entries.get(id, 0), offered[board], rules))
        for id, board, tag, version, saved, devices in session.execute(ordered)
    ]


def starters_on(session: Session, board_id: int | None = None) -> set[int]:
    """Numbers of the starters on a board, or on all of them."""
    on: ColumnElement[bool] = _starter.c.removed.is_(None)
    if board_id is not None:
        on &= _starter.c.board_id == board_id
    return {row[0] for row in session.execute(select(_starter.c.id).where(on))}


def _offered(session: Session) -> dict[int, str]:
    """For each board the catalogues that it chooses from, and when each was changed last."""
    changed = {id: str(at) for id, at in session.execute(select(Catalogue.id, Catalogue.changed))}
    rows = session.execute(select(_board.c.id, _board.c.catalogues))
    return {id: json.dumps([[n, changed.get(n, "") if n != SHIPPED else ""] for n in numbers_of(text)]) for id, text in rows}  # fmt: skip


@dataclass(frozen=True, slots=True)
class KeptLine:
    """A line as it is kept, with the digest that it must have now: another one, and it is made anew.

    Attributes
    ----------
    key : digest of document, devices, record, catalogues and rules as they are
    cells : None where none is kept under that digest
    """

    id: int
    key: str
    cells: dict[str, Any] | None


def kept_lines(session: Session, wanted: Sequence[Place]) -> Iterator[KeptLine]:
    """Kept lines of starters, each under its digest."""
    for start in range(0, len(wanted), AT_ONCE):
        part = {p.id: p for p in wanted[start : start + AT_ONCE]}
        query = select(
            _starter.c.id, as_text(_starter.c.document, String), _starter.c.devices, _listed.c.key, as_text(_listed.c.cells, String)
        )  # fmt: skip
        joined = query.outerjoin(_listed, _listed.c.starter_id == _starter.c.id).where(_starter.c.id.in_(part))
        for id, document, devices, kept, cells in session.execute(joined):
            mark = part[id].mark
            said = f"{mark.rules}\n{mark.offered}\n{mark.entry}\n{devices}\n{document}"
            key = hashlib.sha256(said.encode("utf-8", "replace")).hexdigest()
            yield KeptLine(id, key, _cells(cells) if kept == key else None)


def _cells(text: str) -> dict[str, Any] | None:
    """The cells of a line, None where they were spoilt."""
    try:
        found = json.loads(text)
    except (ValueError, RecursionError):
        return None
    return found if isinstance(found, dict) else None


def keep_lines(session: Session, lines: Iterable[tuple[int, str, Mapping[str, Any]]]) -> None:
    """Keep lines that were made anew, in place of those that are there; the session may write."""
    values = [{"starter_id": id, "key": key, "cells": dict(cells)} for id, key, cells in lines]
    for start in range(0, len(values), AT_ONCE):
        part = values[start : start + AT_ONCE]
        ids = [v["starter_id"] for v in part]
        there = set(session.scalars(select(Starter.id).where(Starter.id.in_(ids))))
        session.execute(delete(Listed).where(Listed.starter_id.in_(ids)))
        if good := [v for v in part if v["starter_id"] in there]:
            session.execute(insert(Listed), good)
