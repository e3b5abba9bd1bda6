"""The quick answer: one line from a plate, sized without a board; and from there a starter."""

from typing import Any

from flask import current_app
from flask_openapi3.blueprint import APIBlueprint
from pydantic import BaseModel, ConfigDict, Field
from sqlalchemy import select
from sqlalchemy.orm import Session

from volmek.core.catalogue.catalogue import reference_catalogue
from volmek.core.document.model import Practice, StarterDocument, parse
from volmek.core.document.plate_line import LONGEST, PlateLine, read_line
from volmek.core.ranges.ranges import ToFindOut
from volmek.core.views.quick import QuickAnswer, document_of, quick_answer
from volmek.store.models import Board, Job
from volmek.store.repository import create_board, create_starter, read_starter
from volmek.web.access import author
from volmek.web.common import REFUSED, board_catalogue, found, operation_id, writing
from volmek.web.designs import devices_text, shown
from volmek.web.results import briefed
from volmek.web.schemas import Output, ProblemsOut
from volmek.web.starters import StarterOut, starter_out
from volmek.web.worker import RangeWorker

bp = APIBlueprint("quick", __name__, url_prefix="/api", operation_id_callback=operation_id)

#: Where a starter goes that no board was chosen for.
JOB, BOARD, TITLE = "Quick answers", "QUICK", "Starters opened from the start page"


class Line(BaseModel):
    """A line as it was typed."""

    model_config = ConfigDict(extra="forbid")

    line: str = Field(max_length=LONGEST)
    practice: Practice | None = None


class LineAsked(Line):
    """A line, and who asks: a newer question of the same asker overtakes the older one."""

    asker: int = Field(ge=1, le=2**31)


class LineOpened(Line):
    """A line to be opened as a starter; without a board on the one for quick answers."""

    board_id: int | None = None
    tag: str = Field(default="", max_length=40)
    service: str = Field(default="", max_length=120)


class QuickOut(Output):
    """The answer to a line."""

    quick: QuickAnswer


class FindOutOut(Output):
    """Values to find out next, the one that changes most first; null when a newer question came meanwhile or there is no answer."""

    find_out: list[ToFindOut] | None


@bp.post("/quick", responses={200: QuickOut, 422: ProblemsOut})
def answer_line(body: Line) -> QuickOut:
    """Size the motor of one line, from the shipped range."""
    return QuickOut.model_construct(quick=quick_answer(body.line, reference_catalogue(), body.practice))


@bp.post("/quick/find-out", responses={200: FindOutOut, 422: ProblemsOut})
def find_out_for_line(body: LineAsked) -> FindOutOut:
    """Unknown values that would change the answer to a line."""
    quick = quick_answer(body.line, reference_catalogue(), body.practice)
    if quick.answer is None:
        return FindOutOut(find_out=None)
    worker: RangeWorker = current_app.extensions["ranges"]
    ranges = worker.ask(-body.asker, document_of(quick.read), reference_catalogue())
    return FindOutOut.model_construct(find_out=[u for u in ranges.find_out if u.changes] if ranges else None)


@bp.post("/quick/starter", responses={201: StarterOut, **REFUSED})
def open_line(body: LineOpened) -> tuple[StarterOut, int]:
    """Make a starter of a line; what the line does not say comes from its board."""
    read = read_line(body.line, body.practice)
    with writing() as session:
        board = found(session, Board, body.board_id) if body.board_id is not None else _quick_board(session)
        tags = {s.tag for s in board.starters}
        tag = body.tag.strip() or next(f"M-{n}" for n in range(1, len(tags) + 2) if f"M-{n}" not in tags)
        document = _on_board(read, board, tag, body.service.strip())
        catalogue = board_catalogue(session, board)
        computed = shown(document.to_json(), catalogue)
        made = " ".join(["made from one line;", *read.assumed])
        starter = create_starter(session, board, document, devices_text(computed, catalogue), made, author("")[0])
        return starter_out(read_starter(session, starter.id), briefed(computed)), 201


def _on_board(read: PlateLine, board: Board, tag: str, service: str) -> StarterDocument:
    """The document of a line on a board: what was typed, else what the board has, else what the line's answer assumed."""
    typed = {field for piece in read.pieces for field in piece.fields}
    parts: dict[str, Any] = {}
    for part in {**board.defaults, **read.document}:
        said, usual = read.document.get(part, {}), board.defaults.get(part, {})
        if isinstance(said, dict) and isinstance(usual, dict):
            parts[part] = {**said, **usual, **{k: v for k, v in said.items() if f"{part}.{k}" in typed}}
        else:
            parts[part] = read.document.get(part, usual)
    return parse({"tag": tag, "service": service, **parts})


def _quick_board(session: Session) -> Board:
    board = session.scalar(select(Board).join(Job).where(Job.name == JOB, Board.name == BOARD))
    return board or create_board(session, JOB, BOARD, TITLE, {})
