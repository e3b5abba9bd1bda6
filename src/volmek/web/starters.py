"""Starters: made, copied, saved, taken back to an earlier revision."""

from datetime import datetime
from typing import Any

from flask import current_app
from flask_openapi3.blueprint import APIBlueprint
from pydantic import BaseModel, ConfigDict, Field
from werkzeug.exceptions import NotFound

from volmek.core.document.model import StarterDocument, parse
from volmek.store.models import Board, Revision, Starter
from volmek.store.repository import (
    Binned,
    Kept,
    bin_of,
    create_starter,
    move_starter,
    next_tag,
    override_notes,
    put_into_bin,
    read_starter,
    revisions,
    save_document,
)
from volmek.web.access import author
from volmek.web.common import (
    NOT_FOUND,
    REFUSED,
    board_catalogue,
    catalogue_of,
    found,
    new_session,
    operation_id,
    writing,
)
from volmek.web.designs import DesignBrief, designed, devices_text, shown
from volmek.web.results import Shown, briefed, result_of, saved_result
from volmek.web.schemas import BoardPath, Output, ProblemOut, StarterCreate, StarterPath

bp = APIBlueprint("starters", __name__, url_prefix="/api", operation_id_callback=operation_id)


class RevisionOut(Output):
    """A state that can be gone back to."""

    id: int
    change: str
    saved: datetime
    who: str


class OverrideNoteOut(Output):
    """One entry of the log of override reasons."""

    role: str
    choice: str
    reason: str
    noted: datetime


class HistoryOut(Output):
    """Revisions and override reasons of a starter, newest first."""

    revisions: list[RevisionOut]
    overrides: list[OverrideNoteOut]


class StarterCopy(BaseModel):
    """A starter like another one: on the same board or another one, under a tag of its own or the next that is free."""

    model_config = ConfigDict(extra="forbid")

    tag: str = Field(default="", max_length=40)
    service: str | None = Field(default=None, max_length=120)
    board_id: int | None = None


class StarterMove(BaseModel):
    """Target board of a starter."""

    model_config = ConfigDict(extra="forbid")

    board_id: int


class StarterSave(BaseModel):
    """A changed document, and the version that the change was made on."""

    model_config = ConfigDict(extra="forbid")

    version: int
    document: StarterDocument


class Restore(BaseModel):
    """Go back to a revision."""

    model_config = ConfigDict(extra="forbid")

    version: int
    revision_id: int


class BinOut(Output):
    """The bin, the last one removed first."""

    starters: list[Binned]


class RemovedBy(BaseModel):
    """Name of the person who removes."""

    who: str = Field(default="", max_length=80)


class StarterOut(Output):
    """A starter as it is kept, with its design, or with what is missing for one."""

    id: int
    board_id: int
    board: str
    job: str
    version: int
    saved: datetime
    document: dict[str, Any]
    design: DesignBrief | None
    problems: list[ProblemOut]


def starter_out(starter: Kept, result: Shown) -> StarterOut:
    """A starter with its design; what the core computed is not checked again."""
    return StarterOut.model_construct(
        id=starter.id,
        board_id=starter.board_id,
        board=starter.board,
        job=starter.job,
        version=starter.version,
        saved=starter.saved,
        document=starter.document,
        design=result[0],
        problems=result[1],
    )


@bp.post("/boards/<int:board_id>/starters", responses={201: StarterOut, **REFUSED})
def add_starter(path: BoardPath, body: StarterCreate) -> tuple[StarterOut, int]:
    """Put a starter on a board; its plate may be incomplete."""
    with new_session() as session:
        catalogue = board_catalogue(session, found(session, Board, path.board_id))
    computed = designed(body.document, catalogue)
    with writing() as session:
        board = found(session, Board, path.board_id)
        starter = create_starter(session, board, body.document, devices_text(computed, catalogue), who=author("")[0])
        return starter_out(read_starter(session, starter.id), briefed(computed)), 201


@bp.post("/starters/<int:starter_id>/copy", responses={201: StarterOut, **REFUSED})
def copy_starter(path: StarterPath, body: StarterCopy) -> tuple[StarterOut, int]:
    """A new starter with the same decisions; its plate is then typed anew."""
    with writing() as session:
        original = found(session, Starter, path.starter_id)
        board = found(session, Board, body.board_id) if body.board_id is not None else original.board
        tag = body.tag or next_tag(original.tag, {s.tag for s in board.starters})
        service = original.document.get("service", "") if body.service is None else body.service
        document = parse({**original.document, "tag": tag, "service": service})
        catalogue = board_catalogue(session, board)
        computed = shown(document.to_json(), catalogue)
        made = f"copied from {original.board.name} {original.tag}"
        starter = create_starter(session, board, document, devices_text(computed, catalogue), made, author("")[0])
        return starter_out(read_starter(session, starter.id), briefed(computed)), 201


@bp.post("/starters/<int:starter_id>/move", responses={200: StarterOut, **REFUSED})
def move_to_board(path: StarterPath, body: StarterMove) -> StarterOut:
    """Put a starter on another board; history, record and the devices of its design go with it."""
    with writing() as session:
        move_starter(session, found(session, Starter, path.starter_id), found(session, Board, body.board_id))
        kept = read_starter(session, path.starter_id)
        return starter_out(kept, result_of(session, kept))


@bp.get("/starters/<int:starter_id>", responses={200: StarterOut, **NOT_FOUND})
def get_starter(path: StarterPath) -> StarterOut:
    """A starter with its design."""
    with new_session() as session:
        starter = read_starter(session, path.starter_id)
        return starter_out(starter, result_of(session, starter))


@bp.put("/starters/<int:starter_id>", responses={200: StarterOut, **REFUSED})
def save_starter(path: StarterPath, body: StarterSave) -> StarterOut:
    """Save a changed document; wrong values are refused, missing ones are saved and listed."""
    engine = current_app.extensions["engine"]
    with engine.connect() as connection:
        before = read_starter(connection, path.starter_id)
        catalogue = catalogue_of(connection, before, unchanged=False)
    computed = designed(body.document, catalogue)  # before anything is locked: others save meanwhile
    devices = devices_text(computed, catalogue, before.devices)
    with writing() as session:
        connection = session.connection()
        kept = read_starter(connection, path.starter_id)
        saved = save_document(connection, kept, body.document, body.version, devices, who=author("")[0])
        return starter_out(saved, saved_result(session, saved, computed))


@bp.post("/starters/<int:starter_id>/catalogue-now", responses={200: StarterOut, **REFUSED})
def take_catalogue_now(path: StarterPath) -> StarterOut:
    """Design anew from the catalogue as it is now, and let go of the devices that the design kept."""
    with writing() as session:
        starter = found(session, Starter, path.starter_id)
        catalogue = board_catalogue(session, starter.board)
        computed = designed(parse(starter.document), catalogue)
        starter.devices = devices_text(computed, catalogue)
        starter.version += 1
        starter.changed_by = author("")[0]
        session.flush()
        return starter_out(read_starter(session, starter.id), briefed(computed))


@bp.delete("/starters/<int:starter_id>", responses={200: BinOut, **REFUSED})
def remove_starter(path: StarterPath, query: RemovedBy) -> BinOut:
    """Take a starter off its board into the bin, with document, history and record."""
    with writing() as session:
        put_into_bin(session, path.starter_id, author(query.who)[0])
        return BinOut(starters=bin_of(session))


@bp.get("/starters/<int:starter_id>/history", responses={200: HistoryOut, **NOT_FOUND})
def get_history(path: StarterPath) -> HistoryOut:
    """Revisions to go back to, and the log of override reasons."""
    with new_session() as session:
        starter = found(session, Starter, path.starter_id)
        return HistoryOut(
            revisions=[
                RevisionOut(id=r.id, change=r.change, saved=r.saved, who=r.who) for r in revisions(session, starter.id)
            ],
            overrides=[
                OverrideNoteOut(role=n.role, choice=n.choice, reason=n.reason, noted=n.noted)
                for n in override_notes(session, starter.id)
            ],
        )


@bp.post("/starters/<int:starter_id>/restore", responses={200: StarterOut, **REFUSED})
def restore_revision(path: StarterPath, body: Restore) -> StarterOut:
    """Go back to a revision; that is a change like any other and can be undone."""
    with writing() as session:
        starter = found(session, Starter, path.starter_id)
        revision = found(session, Revision, body.revision_id)
        if revision.starter_id != starter.id:
            raise NotFound(f"revision {revision.id} is of another starter")
        change = f"back to the state of {revision.saved:%Y-%m-%d %H:%M}"
        kept = read_starter(session, starter.id)
        document = kept.document if kept.revision_id == revision.id else revision.document
        catalogue = catalogue_of(session, kept, unchanged=False)
        computed = shown(document, catalogue)
        devices = devices_text(computed, catalogue, kept.devices)
        saved = save_document(session.connection(), kept, parse(document), body.version, devices, change, author("")[0])
        return starter_out(saved, saved_result(session, saved, computed))
