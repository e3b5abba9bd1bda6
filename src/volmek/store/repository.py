"""What is done with the tables: make boards and starters, save changes, go back to a revision."""

from collections.abc import Iterator
from datetime import timedelta
from typing import Any

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from volmek.core.document import Override, StarterDocument
from volmek.core.errors import Problem, ProblemError
from volmek.store.models import Board, Job, OverrideNote, Revision, Starter, now

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


def create_starter(session: Session, board: Board, document: StarterDocument) -> Starter:
    """A new starter at the end of a board.

    Raises
    ------
    ProblemError : the board has a starter of this tag.
    """
    _check_tag(session, board.id, document.tag, None)
    last = session.scalar(select(func.max(Starter.position)).where(Starter.board_id == board.id)) or 0
    data = document.to_json()
    starter = Starter(board=board, position=last + 1, tag=document.tag, document=data)
    session.add(starter)
    session.flush()
    session.add(Revision(starter_id=starter.id, change="made", document=data))
    _note_overrides(session, starter.id, [], document.overrides)
    return starter


def save_document(
    session: Session, starter: Starter, document: StarterDocument, version: int, change: str = ""
) -> Starter:
    """Save a changed document and keep the state before it as a revision.

    Parameters
    ----------
    version : the version that the change was made on
    change : words for the revision; by default the fields that differ

    Raises
    ------
    StaleVersionError : somebody else saved in between.
    ProblemError : another starter of the board has this tag.
    """
    if version != starter.version:
        raise StaleVersionError
    data = document.to_json()
    fields = ", ".join(differing_fields(starter.document, data))
    if not fields:
        return starter
    if document.tag != starter.tag:
        _check_tag(session, starter.board_id, document.tag, starter.id)
    old = [Override.model_validate(o) for o in starter.document.get("overrides", [])]
    _note_overrides(session, starter.id, old, document.overrides)
    said = (change or fields)[:200]
    moment = now()
    last = session.scalar(
        select(Revision).where(Revision.starter_id == starter.id).order_by(Revision.id.desc()).limit(1)
    )
    typed_on = said != "overrides" and last is not None and last.change == said
    if last is not None and typed_on and moment - last.saved < SAME_CHANGE:
        last.document, last.saved = data, moment
    else:
        session.add(Revision(starter_id=starter.id, change=said, document=data, saved=moment))
    starter.document, starter.tag, starter.saved = data, document.tag, moment
    starter.version += 1
    return starter


def revisions(session: Session, starter_id: int, limit: int = 100) -> list[Revision]:
    """The latest revisions of a starter, newest first."""
    query = select(Revision).where(Revision.starter_id == starter_id).order_by(Revision.id.desc()).limit(limit)
    return list(session.scalars(query))


def override_notes(session: Session, starter_id: int) -> list[OverrideNote]:
    """The log of override reasons, newest first."""
    query = select(OverrideNote).where(OverrideNote.starter_id == starter_id).order_by(OverrideNote.id.desc())
    return list(session.scalars(query))


def _check_tag(session: Session, board_id: int, tag: str, own_id: int | None) -> None:
    other = session.scalar(select(Starter.id).where(Starter.board_id == board_id, Starter.tag == tag))
    if other is not None and other != own_id:
        raise ProblemError([Problem("tag", f"the board has a starter {tag!r} already")])


def _note_overrides(session: Session, starter_id: int, old: list[Override], new: list[Override]) -> None:
    def choice(o: Override) -> str:
        said = [
            f"type {o.device_type}" if o.device_type else "",
            f"dial {o.dial_a:g} A" if o.dial_a else "",
            f"class {o.trip_class}" if o.trip_class else "",
            f"magnetic trip {o.instantaneous_trip_a:g} A" if o.instantaneous_trip_a else "",
        ]
        return ", ".join(filter(None, said))

    kept = {(o.role, choice(o), o.reason) for o in old}
    for o in new:
        if (o.role, choice(o), o.reason) not in kept:
            session.add(OverrideNote(starter_id=starter_id, role=o.role, choice=choice(o), reason=o.reason))
    for o in old:
        if o.role not in {n.role for n in new}:
            session.add(OverrideNote(starter_id=starter_id, role=o.role, choice="removed", reason=o.reason))
