"""Papers of a starter as files: report and labels, lists, calendars."""

from flask import Response
from flask_openapi3.blueprint import APIBlueprint
from sqlalchemy.orm import Session

from volmek.core.circuit.build.plan import Plan
from volmek.core.document.errors import ProblemError
from volmek.core.record.history import history, measured
from volmek.core.record.inspections import inspections
from volmek.core.record.items import repeated
from volmek.core.record.journal import fold
from volmek.core.views.record import build_view, name_words, record_view
from volmek.files.calendar import calendar
from volmek.files.lists import markers_csv, strip_csv, wires_csv
from volmek.files.report import Papers, labels_html, report_html
from volmek.files.sheet import Place
from volmek.store.models import Board
from volmek.store.records import entries, seals
from volmek.store.repository import read_starter
from volmek.web.common import CSV, HTML, NOT_FOUND, PDF, REFUSED, download, found, new_session, operation_id
from volmek.web.record_views import Looked, Order, OrderQuery
from volmek.web.schemas import BoardPath, StarterPath
from volmek.web.work import laid_out, working
from volmek.web.worker import ranges_meanwhile

bp = APIBlueprint("papers", __name__, url_prefix="/api", operation_id_callback=operation_id)
ICS = {"content": {"text/calendar": {"schema": {"type": "string"}}}}


def _papers(session: Session, starter_id: int, order: Order, *, sure: bool = False) -> Papers:
    work = working()
    work.step("sizing the starter")
    looked = Looked(session, starter_id)
    if looked.design is None:
        raise ProblemError(looked.problems)
    asked = ranges_meanwhile(starter_id, looked.document, looked.catalogue) if sure else None
    work.step("simulating every stage of the build")
    journal = entries(session, starter_id)
    f = fold(journal)
    plan = looked.plan(order)
    work.step("how sure the design is")
    series = history(repeated(looked.items), measured(f.readings))
    kept = looked.kept
    return Papers(
        looked.document, looked.design, looked.live, plan, build_view(plan, f, looked.by_id), record_view(looked.items, f, plan, whole=True), series,
        Place(kept.job, kept.board, kept.version, kept.saved), [(f"{s.who} ({name_words(s.signed)})", s.sealed, s.digest) for s in seals(session, starter_id)],
        asked(work.check) if asked else None,
    )  # fmt: skip


@bp.get("/starters/<int:starter_id>/report.html", responses={200: HTML, **REFUSED})
def report_page(path: StarterPath, query: OrderQuery) -> Response:
    """The report as it will be printed."""
    with new_session() as session:
        return Response(report_html(_papers(session, path.starter_id, query.order, sure=True)), mimetype="text/html")


@bp.get("/starters/<int:starter_id>/report.pdf", responses={200: PDF, **REFUSED})
def report_print(path: StarterPath, query: OrderQuery) -> Response:
    """The report: plate, design, working, drawings, wire list, tests, findings, cautions, signatures."""
    with new_session() as session:
        papers = _papers(session, path.starter_id, query.order, sure=True)
    return download(laid_out(report_html(papers, paged=True)), f"{papers.design.tag}-report.pdf", "application/pdf")


@bp.get("/starters/<int:starter_id>/labels.pdf", responses={200: PDF, **REFUSED})
def labels_print(path: StarterPath) -> Response:
    """Door label and device labels with settings."""
    with new_session() as session:
        papers = _papers(session, path.starter_id, "control_first")
    return download(laid_out(_labels(papers, paged=True)), f"{papers.design.tag}-labels.pdf", "application/pdf")


def _labels(p: Papers, *, paged: bool) -> str:
    restart, points = p.live.circuit.restart, len(p.record.points)
    return labels_html(p.document, p.design, p.place, restart=restart, open_points=points, paged=paged)


@bp.get("/starters/<int:starter_id>/labels.html", responses={200: HTML, **REFUSED})
def labels_page(path: StarterPath) -> Response:
    """The labels as they will be printed."""
    with new_session() as session:
        return Response(_labels(_papers(session, path.starter_id, "control_first"), paged=False), mimetype="text/html")


def _planned(starter_id: int, order: Order) -> tuple[Plan, str]:
    with new_session() as session:
        looked = Looked(session, starter_id)
        return looked.plan(order), looked.document.tag


@bp.get("/starters/<int:starter_id>/wires.csv", responses={200: CSV, **REFUSED})
def wire_file(path: StarterPath, query: OrderQuery) -> Response:
    """The wire list."""
    plan, tag = _planned(path.starter_id, query.order)
    return download(wires_csv(plan).encode(), f"{tag}-wires.csv", "text/csv")


@bp.get("/starters/<int:starter_id>/markers.csv", responses={200: CSV, **REFUSED})
def marker_file(path: StarterPath) -> Response:
    """Wire markers, one line for each ferrule."""
    plan, tag = _planned(path.starter_id, "control_first")
    return download(markers_csv(plan).encode(), f"{tag}-markers.csv", "text/csv")


@bp.get("/starters/<int:starter_id>/strip.csv", responses={200: CSV, **REFUSED})
def strip_file(path: StarterPath) -> Response:
    """The terminal strip, one line for each terminal."""
    plan, tag = _planned(path.starter_id, "control_first")
    return download(strip_csv(plan).encode(), f"{tag}-strip.csv", "text/csv")


@bp.get("/starters/<int:starter_id>/inspections.ics", responses={200: ICS, **REFUSED})
def starter_calendar(path: StarterPath) -> Response:
    """Inspections of a starter as a calendar."""
    with new_session() as session:
        kept = read_starter(session, path.starter_id)
        due = inspections(fold(entries(session, kept.id, ("inspection", "inspected"))))
    return download(
        calendar([(f"{kept.board} {kept.tag}", d) for d in due]), f"{kept.tag}-inspections.ics", "text/calendar"
    )


@bp.get("/boards/<int:board_id>/inspections.ics", responses={200: ICS, **NOT_FOUND})
def board_calendar(path: BoardPath) -> Response:
    """Inspections of every starter of a board as a calendar."""
    with new_session() as session:
        board = found(session, Board, path.board_id)
        rows = [
            (f"{board.name} {s.tag}", d)
            for s in board.starters
            for d in inspections(fold(entries(session, s.id, ("inspection", "inspected"))))
        ]
        name = board.name
    return download(calendar(rows), f"{name}-inspections.ics", "text/calendar")
