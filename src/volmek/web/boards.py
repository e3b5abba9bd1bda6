"""Boards, and a line for each of their starters."""

from typing import Any

from flask import current_app
from flask_openapi3.blueprint import APIBlueprint
from pydantic import BaseModel, ConfigDict, Field
from sqlalchemy import select
from sqlalchemy.exc import DatabaseError
from sqlalchemy.orm import Session, selectinload

from volmek.core.catalogue.catalogue import Catalogue
from volmek.core.devices.device import Device
from volmek.core.devices.said import picked_of
from volmek.core.document.errors import Problem
from volmek.core.document.model import parse
from volmek.core.results.figures import as_read
from volmek.files.documents import read_documents
from volmek.store.catalogues import numbers_of, with_kept
from volmek.store.engine import DAMAGED
from volmek.store.listed import keep_lines, kept_lines, keys_of
from volmek.store.models import Board, Starter
from volmek.store.repository import create_board, create_starter, next_tag, rename_board
from volmek.web.access import author
from volmek.web.common import NOT_FOUND, REFUSED, board_catalogue, found, new_session, operation_id, writing
from volmek.web.designs import devices_text, shown
from volmek.web.record_views import points_of
from volmek.web.schemas import BoardPath, Output, ProblemsOut
from volmek.web.work import working

bp = APIBlueprint("boards", __name__, url_prefix="/api", operation_id_callback=operation_id)


class StarterRow(Output):
    """One line of a board's list."""

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


class BoardRow(Output):
    """One board in the list of boards."""

    id: int
    job: str
    name: str
    title: str
    stop: int
    attention: int
    starters: list[StarterRow]


class BoardsOut(Output):
    """All boards."""

    boards: list[BoardRow]


class BoardOut(Output):
    """A board with its starters."""

    id: int
    job: str
    name: str
    title: str
    defaults: dict[str, Any]
    catalogues: list[int]
    starters: list[StarterRow]


class BoardCreate(BaseModel):
    """A new board; ``defaults`` are parts of a document that its new starters begin with."""

    model_config = ConfigDict(extra="forbid")

    job: str = Field(min_length=1, max_length=120)
    name: str = Field(min_length=1, max_length=40)
    title: str = Field(default="", max_length=120)
    defaults: dict[str, Any] = {}


class BoardRename(BaseModel):
    """Another name and title of a board."""

    model_config = ConfigDict(extra="forbid")

    name: str = Field(min_length=1, max_length=40)
    title: str = Field(default="", max_length=120)


class ImportIn(BaseModel):
    """Starters as JSON text, one document or a list; ``renumber`` gives a free tag to one that is taken."""

    model_config = ConfigDict(extra="forbid")

    text: str = Field(max_length=1_500_000)
    renumber: bool = False


#: What is said of a starter whose sizing was cancelled.
NOT_SIZED = Problem("starter", "not sized: cancelled before it; load the page again")


def contactors_of(devices: list[Device]) -> str:
    """Types of the contactors; that the catalogues lack one is said once."""
    contactors = [d for d in devices if d.kind == "contactor"]
    types = [d.type for d in contactors if d.type]
    return ", ".join([*types, *(["none fits"] if len(types) < len(contactors) else [])])


def rows_of(session: Session, board: Board, offered: Catalogue) -> list[StarterRow]:
    """The lines of a board's list: as they are kept where nothing that they follow from has changed, else made anew and kept.

    Those not sized when it was cancelled have no figures, and are not kept.
    """
    work, rows, made = working(), list[StarterRow](), list[tuple[int, str, dict[str, Any]]]()
    keys, kept = keys_of(session, board), kept_lines(session, board)
    for k, starter in enumerate(board.starters):
        key, cells = kept.get(starter.id, ("", {}))
        if key == keys[starter.id] and DAMAGED not in cells:
            rows.append(StarterRow.model_construct(id=starter.id, **cells))
            continue
        if not work.cancelled:
            work.step(f"sizing {board.name} {starter.tag}", k, len(board.starters))
        row = row_of(starter, offered, len(points_of(session, starter.id)), sized=not work.cancelled)
        rows.append(row)
        if not work.cancelled:
            made.append((starter.id, keys[starter.id], row.model_dump(exclude={"id"})))
    if made:
        _keep(made)
    return rows


def _keep(made: list[tuple[int, str, dict[str, Any]]]) -> None:
    """Keep lines in a transaction of their own, which may fail without harm."""
    try:
        with new_session(write=True) as own, own.begin():
            keep_lines(own, made)
    except DatabaseError:
        current_app.logger.warning("lines of a list could not be kept; they are made anew next time")


def row_of(starter: Starter, offered: Catalogue, open_now: int = 0, *, sized: bool = True) -> StarterRow:
    """One line of a board's list; without its figures where it is not sized."""
    computed, problems = (
        shown(starter.document, with_kept(offered, starter.devices, True)) if sized else (None, [NOT_SIZED])
    )
    motor = starter.document.get("motor", {})
    power = next(
        (
            f"{motor[k]:g} {u}"
            for k, u in (("rated_power_kw", "kW"), ("rated_power_hp", "hp"), ("rated_power_ps", "PS"))
            if k in motor
        ),
        "",
    )
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
        power=power,
        stop=sum(f.severity == "stop" for f in findings),
        attention=sum(f.severity == "attention" for f in findings),
        problem=problems[0].message if problems else "",
        types=[f"{d.designation} {d.type}" for d in computed.devices if d.type] if computed else [],
        findings=[f.message for f in findings if f.severity != "info"],
        **cells,
    )


def board_out(session: Session, board: Board) -> BoardOut:
    """A board with a line per starter."""
    offered = board_catalogue(session, board)
    return BoardOut(
        id=board.id,
        job=board.job.name,
        name=board.name,
        title=board.title,
        defaults=board.defaults,
        catalogues=list(numbers_of(board.catalogues)),
        starters=rows_of(session, board, offered),
    )


def board_page(board_id: int) -> BoardOut:
    """A board as it is now; its lines are made where nothing is locked."""
    with new_session() as session:
        return board_out(session, found(session, Board, board_id))


@bp.get("/boards", responses={200: BoardsOut})
def list_boards() -> BoardsOut:
    """Every board with what is open on it."""
    with new_session() as session:
        query = select(Board).order_by(Board.job_id, Board.id).options(selectinload(Board.starters))
        rows = []
        for board in session.scalars(query):
            offered = board_catalogue(session, board)
            lines = rows_of(session, board, offered)
            rows.append(
                BoardRow(
                    id=board.id,
                    job=board.job.name,
                    name=board.name,
                    title=board.title,
                    stop=sum(x.stop for x in lines),
                    attention=sum(x.attention for x in lines),
                    starters=lines,
                )
            )
        return BoardsOut(boards=rows)


@bp.post("/boards", responses={201: BoardOut, 422: ProblemsOut})
def add_board(body: BoardCreate) -> tuple[BoardOut, int]:
    """Make a board; its defaults must be parts of a document."""
    parse({"tag": "-", **body.defaults})
    with writing() as session:
        made = create_board(session, body.job, body.name, body.title, body.defaults).id
    return board_page(made), 201


@bp.put("/boards/<int:board_id>", responses={200: BoardOut, **REFUSED})
def change_board(path: BoardPath, body: BoardRename) -> BoardOut:
    """Rename a board."""
    with writing() as session:
        board = found(session, Board, path.board_id)
        rename_board(session, board, body.name.strip(), body.title.strip())
    return board_page(path.board_id)


@bp.post("/boards/<int:board_id>/import", responses={201: BoardOut, **REFUSED})
def import_starters(path: BoardPath, body: ImportIn) -> tuple[BoardOut, int]:
    """Put starters from JSON text on a board, all or none; a tag that is taken is refused, or numbered on."""
    documents, _ = read_documents(body.text)
    with new_session() as session:
        catalogue = board_catalogue(session, found(session, Board, path.board_id))
    devices = []  # designed before anything is locked: others save meanwhile
    for k, document in enumerate(documents):
        working().step(f"importing {document.tag}", k, len(documents))
        devices.append(devices_text(shown(document.to_json(), catalogue), catalogue))
    with writing() as session:
        board = found(session, Board, path.board_id)
        taken = {x.tag for x in board.starters}
        for document, own in zip(documents, devices, strict=True):
            tag = next_tag(document.tag, taken) if body.renumber else document.tag
            taken.add(tag)
            create_starter(session, board, parse({**document.to_json(), "tag": tag}), own, "imported", author("")[0])
    return board_page(path.board_id), 201


@bp.get("/boards/<int:board_id>", responses={200: BoardOut, **NOT_FOUND})
def get_board(path: BoardPath) -> BoardOut:
    """A board with its starters."""
    return board_page(path.board_id)
