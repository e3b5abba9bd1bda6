"""Boards, and a line for each of their starters."""

from typing import Any

from flask_openapi3.blueprint import APIBlueprint
from pydantic import BaseModel, ConfigDict, Field
from sqlalchemy import select
from sqlalchemy.orm import Session, joinedload

from volmek.core.document.model import parse
from volmek.files.documents import read_documents
from volmek.store.catalogues import numbers_of
from volmek.store.listed import starters_on
from volmek.store.models import Board
from volmek.store.repository import create_board, create_starters, next_tag, rename_board
from volmek.web.access import author
from volmek.web.common import NOT_FOUND, REFUSED, board_catalogue, found, new_session, operation_id, writing
from volmek.web.designs import devices_text
from volmek.web.designs import shown as designed_or_why
from volmek.web.lines import Filter, Found, Line, Sort, StarterRow, lines, search
from volmek.web.schemas import BoardPath, Output, ProblemsOut
from volmek.web.work import CancelledError, working

bp = APIBlueprint("boards", __name__, url_prefix="/api", operation_id_callback=operation_id)
#: Lines that a board shows on the start page, and on its own.
HEAD, FIRST = 60, 200


class BoardRow(Output):
    """One board in the list of boards, with the first of its lines and how many there are."""

    id: int
    job: str
    name: str
    title: str
    stop: int
    attention: int
    total: int
    unsized: int
    starters: list[StarterRow]


class BoardsOut(Output):
    """All boards; ``unsized`` counts the starters that are still worked out."""

    boards: list[BoardRow]
    total: int
    unsized: int


class BoardOut(Output):
    """A board with the first of its starters and how many there are; ``GET /api/lines`` has the others."""

    id: int
    job: str
    name: str
    title: str
    defaults: dict[str, Any]
    catalogues: list[int]
    total: int
    unsized: int
    starters: list[StarterRow]


class LineOut(Output):
    """A starter in a list, with its board; ``because`` says why it was found where tag and description do not show it."""

    row: StarterRow
    board_id: int
    board: str
    because: str


class LinesOut(Output):
    """A page of a list: so many were found, of so many; ``unsized`` of them are still worked out."""

    rows: list[LineOut]
    total: int
    of: int
    unsized: int


class LinesQuery(BaseModel):
    """What is looked for, in which order, and which page."""

    board_id: int | None = Field(default=None, ge=1)
    find: str = Field(default="", max_length=200)
    filter: Filter = "all"
    sort: Sort = "board"
    offset: int = Field(default=0, ge=0, le=1_000_000)
    limit: int = Field(default=100, ge=1, le=500)


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


def _told(words: str, done: int, of: int) -> bool:
    """Say which starter is sized; false when the request was cancelled, and the rest is left to the background."""
    try:
        working().step(words, done, of)
    except CancelledError:
        return False
    return True


def names_of(session: Session) -> dict[int, str]:
    """Name of every board by its number."""
    return {b.id: b.name for b in session.execute(select(Board.id, Board.name))}


def board_out(session: Session, board: Board) -> BoardOut:
    """A board with the first of its lines."""
    all_of = lines().of(session, board.id)
    first = lines().sized(all_of[:FIRST], all_of, _told)
    return BoardOut(
        id=board.id,
        job=board.job.name,
        name=board.name,
        title=board.title,
        defaults=board.defaults,
        catalogues=list(numbers_of(board.catalogues)),
        total=len(all_of),
        unsized=sum(not x.row.sized for x in [*first, *all_of[FIRST:]]),
        starters=[x.row for x in first],
    )


def board_page(board_id: int) -> BoardOut:
    """A board as it is now; its lines are made where nothing is locked."""
    with new_session() as session:
        return board_out(session, found(session, Board, board_id))


@bp.get("/boards", responses={200: BoardsOut})
def list_boards() -> BoardsOut:
    """Every board with what is open on it, and the first of its lines."""
    with new_session() as session:
        boards = session.scalars(select(Board).order_by(Board.job_id, Board.id).options(joinedload(Board.job))).all()
        by_board: dict[int, list[Line]] = {b.id: [] for b in boards}
        for line in lines().of(session):
            by_board.setdefault(line.board_id, []).append(line)
    heads = [x for b in boards for x in by_board[b.id][:HEAD]]
    made = {x.row.id: x for x in lines().sized(heads, [x for b in boards for x in by_board[b.id]], _told)}
    rows = []
    for b in boards:
        all_of = [made.get(x.row.id, x).row for x in by_board[b.id]]
        rows.append(
            BoardRow(
                id=b.id, job=b.job.name, name=b.name, title=b.title,
                stop=sum(x.stop for x in all_of), attention=sum(x.attention for x in all_of),
                total=len(all_of), unsized=sum(not x.sized for x in all_of), starters=all_of[:HEAD],
            )
        )  # fmt: skip
    return BoardsOut(boards=rows, total=sum(b.total for b in rows), unsized=sum(b.unsized for b in rows))


@bp.get("/lines", responses={200: LinesOut, **REFUSED})
def list_lines(query: LinesQuery) -> LinesOut:
    """Starters of a board or of all, searched, filtered and in order, a page of them."""
    with new_session() as session:
        if query.board_id is not None:
            found(session, Board, query.board_id)
        names = names_of(session)
        if not query.find.strip() and query.filter == "all" and query.sort == "board":
            # As it stands on the boards: only the page is looked at, however many there are.
            page = lines().of(session, query.board_id, (query.offset, query.limit))
            there = starters_on(session, query.board_id)
            shown = lines().sized(page, page, _told)
            found_of = [Found(line, "") for line in shown]
            total, left = len(there), len(there & lines().waiting())
        else:  # what is looked for is known of sized ones only
            all_of = lines().of(session, query.board_id)
            all_of = lines().sized(all_of, all_of, _told)
            hits = search(all_of, query.find, query.filter, query.sort, names)
            found_of = hits[query.offset : query.offset + query.limit]
            total, left = len(hits), sum(not x.row.sized for x in all_of)
            there = {x.row.id for x in all_of}
    rows = [
        LineOut.model_construct(
            row=f.line.row, board_id=f.line.board_id, board=names.get(f.line.board_id, ""), because=f.because
        )
        for f in found_of
    ]
    return LinesOut.model_construct(rows=rows, total=total, of=len(there), unsized=left)


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
        devices.append(devices_text(designed_or_why(document.to_json(), catalogue), catalogue))
    with writing() as session:
        board = found(session, Board, path.board_id)
        taken, made = {x.tag for x in board.starters}, []
        for document, own in zip(documents, devices, strict=True):
            tag = next_tag(document.tag, taken) if body.renumber else document.tag
            taken.add(tag)
            renamed = document if tag == document.tag else parse({**document.to_json(), "tag": tag})
            made.append((renamed, own))
        create_starters(session, board, made, "imported", author("")[0])
    return board_page(path.board_id), 201


@bp.get("/boards/<int:board_id>", responses={200: BoardOut, **NOT_FOUND})
def get_board(path: BoardPath) -> BoardOut:
    """A board with its starters."""
    return board_page(path.board_id)
