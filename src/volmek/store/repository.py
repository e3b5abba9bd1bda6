"""Work on the tables: make boards and starters, save changes, go back to a revision."""

import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from typing import Any, cast

from sqlalchemy import Connection, Table, bindparam, delete, func, insert, select, update
from sqlalchemy.orm import Session

from volmek.core.document.errors import Problem, ProblemError
from volmek.core.document.model import Override, StarterDocument
from volmek.store.models import Board, Emptied, Job, JournalEntry, OverrideNote, Revision, Seal, Starter, now

#: Changes of the same fields within this time are one revision: typing 37.5 is one change, not four.
SAME_CHANGE = timedelta(seconds=60)


class StaleVersionError(Exception):
    """The starter was changed elsewhere since the caller read it."""


def differing_fields(old: Any, new: Any, path: str = "") -> Iterator[str]:
    """Paths of the fields in which two documents differ.

    Examples
    --------
    >>> list(differing_fields({"a": {"b": 1}, "c": 2}, {"a": {"b": 3}, "c": 2}))
    ['a.b']
    """
    if isinstance(old, dict) or isinstance(new, dict):
        before, after = (x if isinstance(x, dict) else {} for x in (old, new))
        for key in dict.fromkeys([*before, *after]):
            yield from differing_fields(before.get(key), after.get(key), f"{path}.{key}" if path else key)
    elif old != new:
        yield path


def next_tag(tag: str, taken: set[str]) -> str:
    """A tag that is free: the same, else the next number, or the next letter behind one.

    Examples
    --------
    >>> next_tag("KG-104", {"KG-104", "KG-105"}), next_tag("KG-106A", {"KG-106A"}), next_tag("Fan", {"Fan"}), next_tag("P9", set())
    ('KG-106', 'KG-106B', 'Fan-2', 'P9')
    """
    while tag in taken:
        number = re.fullmatch(r"(.*?)(\d+)([A-Y]?)", tag)
        if number is None:
            tag = f"{tag}-2"
        elif number[3]:
            tag = f"{number[1]}{number[2]}{chr(ord(number[3]) + 1)}"
        else:
            tag = f"{number[1]}{int(number[2]) + 1:0{len(number[2])}d}"
    return tag


def create_board(session: Session, job_name: str, name: str, title: str, defaults: dict[str, Any]) -> Board:
    """A board of a job; the job is made when it is new.

    Raises
    ------
    ProblemError : the job has a board of this name.
    """
    job = session.scalar(select(Job).where(Job.name == job_name)) or Job(name=job_name)
    if any(b.name == name for b in job.boards):
        raise ProblemError([Problem("name", f"{job_name} has a board {name!r} already")])
    board = Board(job=job, name=name, title=title, defaults=defaults)
    session.add(board)
    session.flush()
    return board


def rename_board(session: Session, board: Board, name: str, title: str) -> None:
    """Give a board another name and title.

    Raises
    ------
    ProblemError : its job has another board of this name.
    """
    if any(b.name == name for b in board.job.boards if b is not board):
        raise ProblemError([Problem("name", f"{board.job.name} has a board {name!r} already")])
    board.name, board.title = name, title
    session.flush()


def move_starter(session: Session, starter: Starter, board: Board) -> None:
    """Put a starter at the end of another board, with its history and its record.

    Raises
    ------
    ProblemError : that board has a starter of this tag.
    """
    _check_tag(session, board.id, starter.tag, starter.id)
    last = session.scalar(select(func.max(Starter.position)).where(Starter.board_id == board.id)) or 0
    starter.board, starter.position = board, last + 1
    session.flush()


def create_starter(
    session: Session, board: Board, document: StarterDocument, devices: str = "{}", change: str = "made", who: str = ""
) -> Starter:
    """A new starter at the end of a board, with the devices of its design; ``change`` names its first revision, ``who`` has signed in.

    Raises
    ------
    ProblemError : the board has a starter of this tag.
    """
    _check_tag(session, board.id, document.tag, None)
    last = session.scalar(select(func.max(Starter.position)).where(Starter.board_id == board.id)) or 0
    data = document.to_json()
    starter = Starter(board=board, position=last + 1, tag=document.tag, document=data, devices=devices, changed_by=who)
    session.add(starter)
    session.flush()
    session.add(Revision(starter_id=starter.id, change=change, document=data, who=who))
    _note_overrides(session, starter.id, [], document.overrides)
    session.flush()
    return starter


def create_starters(
    session: Session, board: Board, made: Sequence[tuple[StarterDocument, str]], change: str, who: str = ""
) -> None:
    """Many new starters at the end of a board, each with the devices of its design; in few statements, for others wait meanwhile.

    Raises
    ------
    ProblemError : the board has a starter of one of their tags, or two of them have the same.
    """
    query = select(Starter.tag).where(Starter.board_id == board.id, Starter.removed.is_(None))
    taken = set(session.scalars(query))
    for document, _ in made:
        if document.tag in taken:
            raise ProblemError([Problem("tag", f"the board has a starter {document.tag!r} already")])
        taken.add(document.tag)
    last = session.scalar(select(func.max(Starter.position)).where(Starter.board_id == board.id)) or 0
    moment = now()
    values: list[dict[str, Any]] = [
        {"board_id": board.id, "position": last + n, "tag": d.tag, "document": d.to_json(), "devices": devices, "changed_by": who, "saved": moment}
        for n, (d, devices) in enumerate(made, 1)
    ]  # fmt: skip
    if not values:
        return
    session.execute(insert(Starter), values)
    own = select(Starter.id, Starter.tag).where(Starter.board_id == board.id, Starter.removed.is_(None))
    ids = {tag: id for id, tag in session.execute(own)}
    session.execute(insert(Revision), [{"starter_id": ids[v["tag"]], "change": change, "document": v["document"], "saved": moment, "who": who} for v in values])  # fmt: skip
    for document, _ in made:
        if document.overrides:
            _note_overrides(session, ids[document.tag], [], document.overrides)


@dataclass(frozen=True, slots=True)
class Kept:
    """A starter as it is kept, with the names of its place and its latest revision."""

    id: int
    board_id: int
    board: str
    job: str
    tag: str
    version: int
    saved: datetime
    document: dict[str, Any]
    revision_id: int
    revision_change: str
    catalogues: str
    devices: str
    changed_by: str


# Statements on the bare tables, made once: one save runs all of them, at every keystroke.
_starter, _board, _job, _revision = (cast(Table, x.__table__) for x in (Starter, Board, Job, Revision))
_last = select(func.max(_revision.c.id)).where(_revision.c.starter_id == bindparam("starter_id")).scalar_subquery()
KEPT = (
    select(
        _starter.c.id,
        _starter.c.board_id,
        _board.c.name,
        _job.c.name,
        _starter.c.tag,
        _starter.c.version,
        _starter.c.saved,
        _starter.c.document,
        _revision.c.id,
        _revision.c.change,
        _board.c.catalogues,
        _starter.c.devices,
        _starter.c.changed_by,
    )
    .join(_board, _board.c.id == _starter.c.board_id)
    .join(_job, _job.c.id == _board.c.job_id)
    .join(_revision, _revision.c.id == _last)
    .where(_starter.c.id == bindparam("starter_id"), _starter.c.removed.is_(None))
)
SET_REVISION = update(_revision).where(_revision.c.id == bindparam("of")).values(document=None, saved=None)
ADD_REVISION = insert(_revision)
SET_STARTER = (
    update(_starter)
    .where(_starter.c.id == bindparam("of"))
    .values(document=None, saved=None, tag="", version=0, devices="", changed_by="")
)


def read_starter(connection: Connection | Session, starter_id: int) -> Kept:
    """A starter by its number.

    Raises
    ------
    LookupError : there is none.
    """
    row = connection.execute(KEPT, {"starter_id": starter_id}).first()
    if row is None:
        raise LookupError(absent(connection, starter_id))
    return Kept(*tuple(row))


def absent(connection: Connection | Session, starter_id: int) -> str:
    """Why there is no starter of this number on a board, in one sentence."""
    row = connection.execute(
        select(_starter.c.tag, _starter.c.removed, _starter.c.removed_by).where(_starter.c.id == starter_id)
    ).first()
    if row is None:
        return f"there is no starter {starter_id}"
    by = f" by {row.removed_by}" if row.removed_by else ""
    return f"{row.tag} is in the bin, removed on {row.removed:%Y-%m-%d}{by}; it can be put back from there"


@dataclass(frozen=True, slots=True)
class Binned:
    """A starter in the bin.

    Attributes
    ----------
    entries : of its record
    """

    id: int
    tag: str
    service: str
    board_id: int
    board: str
    job: str
    removed: datetime
    removed_by: str
    entries: int


def bin_of(session: Session) -> list[Binned]:
    """Every starter in the bin, the last one removed first."""
    counted = select(func.count(JournalEntry.id)).where(JournalEntry.starter_id == Starter.id).scalar_subquery()
    query = (
        select(Starter, Board, Job, counted).join(Board, Board.id == Starter.board_id).join(Job, Job.id == Board.job_id)
    )
    rows = session.execute(
        query.where(Starter.removed.is_not(None)).order_by(Starter.removed.desc(), Starter.id.desc())
    )
    return [
        Binned(s.id, s.tag, s.document.get("service", ""), b.id, b.name, j.name, s.removed, s.removed_by, n)
        for s, b, j, n in rows
        if s.removed is not None
    ]


def put_into_bin(session: Session, starter_id: int, who: str) -> Starter:
    """Take a starter off its board; document, history and record stay, and it can be put back.

    Raises
    ------
    LookupError : there is none, or it is in the bin already.
    """
    starter = _on_board(session, starter_id)
    starter.removed, starter.removed_by = now(), who
    session.flush()
    return starter


def put_back(session: Session, starter_id: int) -> Starter:
    """Put a starter back from the bin, at the place that it had.

    Raises
    ------
    LookupError : it is not in the bin.
    ProblemError : its board has another starter of this tag by now.
    """
    starter = _in_bin(session, starter_id)
    _check_tag(session, starter.board_id, starter.tag, starter.id)
    starter.removed, starter.removed_by = None, ""
    session.flush()
    return starter


def empty(session: Session, starter_id: int, who: str) -> Emptied:
    """Take a starter out of the bin for good, with its record; the end of the record's chain is kept.

    Raises
    ------
    LookupError : it is not in the bin.
    """
    starter = _in_bin(session, starter_id)
    rows = select(func.count(JournalEntry.id), func.max(JournalEntry.id)).where(JournalEntry.starter_id == starter_id)
    entries, last = session.execute(rows).one()
    digest = session.scalar(select(JournalEntry.digest).where(JournalEntry.id == last)) if last else ""
    left = Emptied(
        starter_id=starter_id, tag=starter.tag, board=f"{starter.board.job.name}, {starter.board.name}", who=who, entries=entries, digest=digest or "",
    )  # fmt: skip
    session.add(left)
    session.flush()
    for table in (JournalEntry, Seal):
        session.execute(delete(table).where(table.starter_id == starter_id))
    session.delete(starter)
    session.flush()
    return left


def _on_board(session: Session, starter_id: int) -> Starter:
    starter = session.get(Starter, starter_id)
    if starter is None or starter.removed is not None:
        raise LookupError(absent(session, starter_id))
    return starter


def _in_bin(session: Session, starter_id: int) -> Starter:
    starter = session.get(Starter, starter_id)
    if starter is None or starter.removed is None:
        raise LookupError(f"there is no starter {starter_id} in the bin")
    return starter


def save_document(
    connection: Connection,
    kept: Kept,
    document: StarterDocument,
    version: int,
    devices: str,
    change: str = "",
    who: str = "",
) -> Kept:
    """Save a changed document and keep the state before it as a revision.

    This runs at every keystroke, hence plain statements instead of mapped objects.

    Parameters
    ----------
    connection : inside a write transaction
    kept : the starter as it was read in that transaction
    devices : what its design is made of now, as JSON text
    version : the version that the change was made on
    change : words for the revision; by default the fields that differ
    who : name of who has signed in

    Raises
    ------
    StaleVersionError : somebody else saved in between.
    ProblemError : another starter of the board has this tag.
    """
    if version != kept.version:
        raise StaleVersionError
    data = document.to_json()
    fields = ", ".join(differing_fields(kept.document, data))
    if not fields:
        return kept
    if document.tag != kept.tag:
        _check_tag(connection, kept.board_id, document.tag, kept.id)
    _note_overrides(connection, kept.id, kept.document.get("overrides", []), document.overrides)
    said = (change or fields)[:200]
    moment = now()
    state: dict[str, Any] = {"document": data, "saved": moment}
    if (
        said != kept.revision_change
        or said == "overrides"
        or who != kept.changed_by
        or moment - kept.saved >= SAME_CHANGE
    ):
        # The last change is over: its revision gets the state that it ended with. While somebody types on in one
        # field only the starter itself is written.
        connection.execute(SET_REVISION, {"of": kept.revision_id, "document": kept.document, "saved": kept.saved})
        connection.execute(ADD_REVISION, {"starter_id": kept.id, "change": said, "who": who, **state})
    values = {**state, "tag": document.tag, "version": version + 1, "devices": devices, "changed_by": who}
    connection.execute(SET_STARTER, {"of": kept.id, **values})
    return replace(kept, **values)


def revisions(session: Session, starter_id: int, limit: int = 100) -> list[Revision]:
    """The latest revisions of a starter, newest first; the newest is the present state, which the starter holds."""
    query = select(Revision).where(Revision.starter_id == starter_id).order_by(Revision.id.desc()).limit(limit)
    return list(session.scalars(query))


def override_notes(session: Session, starter_id: int) -> list[OverrideNote]:
    """The log of override reasons, newest first."""
    query = select(OverrideNote).where(OverrideNote.starter_id == starter_id).order_by(OverrideNote.id.desc())
    return list(session.scalars(query))


def _check_tag(session: Connection | Session, board_id: int, tag: str, own_id: int | None) -> None:
    other = session.scalar(
        select(Starter.id).where(Starter.board_id == board_id, Starter.tag == tag, Starter.removed.is_(None))
    )
    if other is not None and other != own_id:
        raise ProblemError([Problem("tag", f"the board has a starter {tag!r} already")])


def _note_overrides(
    session: Connection | Session, starter_id: int, before: list[dict[str, Any]], new: list[Override]
) -> None:
    old = [Override.model_validate(o) for o in before]

    def choice(o: Override) -> str:
        said = [
            f"type {o.device_type}" if o.device_type else "",
            f"set {o.dial_a:g} A" if o.dial_a else "",
            f"class {o.trip_class}" if o.trip_class else "",
            f"magnetic trip {o.instantaneous_trip_a:g} A" if o.instantaneous_trip_a else "",
        ]
        return ", ".join(filter(None, said))

    known = {(o.role, choice(o), o.reason) for o in old}
    roles = {o.role for o in new}
    notes = [(o.role, choice(o), o.reason) for o in new if (o.role, choice(o), o.reason) not in known]
    notes += [(o.role, "removed", o.reason) for o in old if o.role not in roles]
    for role, chosen, reason in notes:
        session.execute(insert(OverrideNote).values(starter_id=starter_id, role=role, choice=chosen, reason=reason))
