"""What others changed meanwhile: asked every few seconds, answered in a word while nothing did."""

import hashlib
from datetime import datetime

from flask import Response, request
from flask_openapi3.blueprint import APIBlueprint
from sqlalchemy import func, select

from volmek.store.models import Board, JournalEntry, Seal, Starter
from volmek.store.repository import read_starter
from volmek.web.common import NOT_FOUND, Responses, new_session, operation_id
from volmek.web.schemas import Output, StarterPath

bp = APIBlueprint("presence", __name__, url_prefix="/api", operation_id_callback=operation_id)


class StarterState(Output):
    """How a starter stands: its version with who made it and what was changed, and the end of its record.

    Attributes
    ----------
    changed_by : who had signed in; empty without sign-in
    change : fields that the last change touched, or what was done
    entries : number of the last entry of the record, 0 before the first
    entered_by : who wrote it
    """

    version: int
    saved: datetime
    changed_by: str
    change: str
    entries: int
    entered_by: str
    entered: datetime | None
    seals: int


class BoardsState(Output):
    """How the lists of the boards stand: alike as long as none of their lines can have changed."""

    mark: str


def _conditional(body: StarterState | BoardsState) -> Response:
    """The answer with an entity tag; 304 where the one who asks has it already."""
    text = body.model_dump_json()
    response = Response(text, mimetype="application/json")
    response.set_etag(hashlib.sha256(text.encode()).hexdigest()[:32])
    response.make_conditional(request)
    return response


NOT_MODIFIED: Responses = {304: None}


@bp.get("/starters/<int:starter_id>/state", responses={200: StarterState, **NOT_MODIFIED, **NOT_FOUND})
def starter_state(path: StarterPath) -> Response:
    """How a starter stands, with an entity tag."""
    with new_session() as session:
        kept = read_starter(session, path.starter_id)
        query = select(JournalEntry.id, JournalEntry.who, JournalEntry.received)
        last = session.execute(query.where(JournalEntry.starter_id == kept.id).order_by(JournalEntry.id.desc()).limit(1)).first()  # fmt: skip
        seals = session.scalar(select(func.count(Seal.id)).where(Seal.starter_id == kept.id)) or 0
    id, who, received = tuple(last) if last else (0, "", None)
    return _conditional(
        StarterState(
            version=kept.version, saved=kept.saved, changed_by=kept.changed_by, change=kept.revision_change,
            entries=id, entered_by=who, entered=received, seals=seals,
        )
    )  # fmt: skip


@bp.get("/boards/state", responses={200: BoardsState, **NOT_MODIFIED})
def boards_state() -> Response:
    """How the lists of the boards stand, with an entity tag."""
    with new_session() as session:
        counted = session.execute(
            select(func.count(Starter.id), func.sum(Starter.version), func.max(Starter.saved), func.count(Starter.removed))
        ).one()  # fmt: skip
        boards = session.execute(select(Board.id, Board.name, Board.title, Board.catalogues).order_by(Board.id)).all()
        last = session.scalar(select(func.max(JournalEntry.id)))
    said = repr([tuple(map(str, counted)), [tuple(b) for b in boards], last])
    return _conditional(BoardsState(mark=hashlib.sha256(said.encode()).hexdigest()[:32]))
