"""Lines of the boards' lists, kept beside each document under a digest of all that they follow from."""

import hashlib
import json
from collections.abc import Iterable, Mapping
from functools import lru_cache
from pathlib import Path
from typing import Any

from sqlalchemy import delete, func, insert, select
from sqlalchemy.orm import Session

import volmek
from volmek.store.catalogues import SHIPPED, numbers_of
from volmek.store.models import Board, Catalogue, JournalEntry, Listed, Starter


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


def keys_of(session: Session, board: Board) -> dict[int, str]:
    """Digest for each starter of a board: of its document, its devices, the board's catalogues, its record and the rules."""
    numbers = numbers_of(board.catalogues)
    own = [n for n in numbers if n != SHIPPED]
    changed = dict(session.execute(select(Catalogue.id, Catalogue.changed).where(Catalogue.id.in_(own))).all()) if own else {}  # fmt: skip
    offered = json.dumps([[n, str(changed.get(n, ""))] for n in numbers])
    last = dict(
        session.execute(
            select(JournalEntry.starter_id, func.max(JournalEntry.id))
            .join(Starter, Starter.id == JournalEntry.starter_id)
            .where(Starter.board_id == board.id)
            .group_by(JournalEntry.starter_id)
        ).all()
    )  # fmt: skip
    return {
        s.id: hashlib.sha256(
            json.dumps([rules_digest(), offered, last.get(s.id, 0), s.devices, s.document], sort_keys=True).encode()
        ).hexdigest()
        for s in board.starters
    }


def kept_lines(session: Session, board: Board) -> dict[int, tuple[str, dict[str, Any]]]:
    """Kept lines of a board's starters, each with the digest that it was made under."""
    query = select(Listed.starter_id, Listed.key, Listed.cells).join(Starter, Starter.id == Listed.starter_id)
    return {id: (key, cells) for id, key, cells in session.execute(query.where(Starter.board_id == board.id))}


def keep_lines(session: Session, lines: Iterable[tuple[int, str, Mapping[str, Any]]]) -> None:
    """Keep lines that were made anew, in place of those that are there; the session may write."""
    values = [{"starter_id": id, "key": key, "cells": dict(cells)} for id, key, cells in lines]
    for start in range(0, len(values), 500):
        part = values[start : start + 500]
        ids = [v["starter_id"] for v in part]
        there = set(session.scalars(select(Starter.id).where(Starter.id.in_(ids))))
        session.execute(delete(Listed).where(Listed.starter_id.in_(ids)))
        if good := [v for v in part if v["starter_id"] in there]:
            session.execute(insert(Listed), good)
