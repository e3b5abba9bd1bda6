"""JSON API: boards, starters, designs, history, sheets."""

import io
from collections.abc import Callable
from time import perf_counter
from typing import Any

from flask import Response, current_app, g, jsonify, send_file
from flask_openapi3.blueprint import APIBlueprint
from sqlalchemy import select
from sqlalchemy.orm import Session, selectinload
from werkzeug.exceptions import NotFound

from volmek.core.catalogue.catalogue import Catalogue, reference_catalogue
from volmek.core.design import Design, in_use
from volmek.core.document.errors import Problem, ProblemError
from volmek.core.document.model import StarterDocument, parse
from volmek.core.methods.choose import offers
from volmek.core.results.figures import as_read
from volmek.core.sizing import size
from volmek.core.standards.handbook import find_schools, find_tables, usual_loads
from volmek.core.symbols import symbols
from volmek.core.views.compare import compare
from volmek.core.views.phase_loss import phase_failure_sheet, unbalance
from volmek.core.views.start import start_sheet
from volmek.core.views.time_current import points_csv, time_current_sheet
from volmek.files.sheet import Place, picked_of, sheet_html, sheet_pdf
from volmek.files.svg import to_svg
from volmek.store.catalogues import kept_text, numbers_of, with_kept
from volmek.store.engine import writer
from volmek.store.models import Board, Revision, Starter
from volmek.store.records import has_record
from volmek.store.repository import (
    Kept,
    create_board,
    create_starter,
    override_notes,
    read_starter,
    revisions,
    save_document,
)
from volmek.web.common import (
    CSV,
    HTML,
    NOT_FOUND,
    PDF,
    REFUSED,
    SVG,
    board_catalogue,
    catalogue_of,
    found,
    looked_at,
    new_session,
    operation_id,
    problems_out,
)
from volmek.web.record_views import points_of
from volmek.web.schemas import (
    BoardCreate,
    BoardOut,
    BoardPath,
    BoardRow,
    BoardsOut,
    CompareOut,
    CompareQuery,
    DesignOut,
    FiguresOut,
    HandbookOut,
    HandbookQuery,
    HistoryOut,
    LoadsOut,
    OffersOut,
    OverrideNoteOut,
    PhaseFailureOut,
    ProblemOut,
    ProblemsOut,
    Restore,
    RevisionOut,
    StarterCopy,
    StarterCreate,
    StarterOut,
    StarterPath,
    StarterRow,
    StarterSave,
    StartOut,
    SymbolsOut,
    TimeCurrentOut,
    UnbalanceIn,
    UnbalanceOut,
    brief,
)

bp = APIBlueprint("api", __name__, url_prefix="/api", operation_id_callback=operation_id)

Computed = tuple[Design | None, list[ProblemOut]]


def designed(document: StarterDocument, catalogue: Catalogue) -> Computed:
    """The design of a kept document, or what is missing for one.

    Raises
    ------
    ProblemError : something is wrong, not only missing.
    """
    start = perf_counter()
    try:
        computed = size(document, catalogue).design
        g.design_ms = 1000 * (perf_counter() - start)
        return computed, []
    except ProblemError as error:
        if all(p.missing for p in error.problems):
            return None, problems_out(error.problems)
        raise


def devices_text(computed: Computed, catalogue: Catalogue, before: str = "{}") -> str:
    """What a design is made of, to be kept with it; what it was made of before while there is none."""
    return kept_text(in_use(computed[0], catalogue)) if computed[0] else before


def starter_out(starter: Kept, computed: Computed) -> StarterOut:
    """A starter with its design; what the core computed is not checked again."""
    return StarterOut.model_construct(
        id=starter.id,
        board_id=starter.board_id,
        board=starter.board,
        job=starter.job,
        version=starter.version,
        saved=starter.saved,
        document=starter.document,
        design=brief(computed[0]) if computed[0] else None,
        problems=computed[1],
    )


def shown(document: dict[str, Any], catalogue: Catalogue) -> Computed:
    """The design of what is kept, or whatever stands against it, so that a page can always show it."""
    try:
        return designed(parse(document), catalogue)
    except ProblemError as error:
        return None, problems_out(error.problems)


def keep_devices(starter: Starter, catalogue: Catalogue) -> None:
    """Design a starter from a catalogue and keep what the design is made of."""
    starter.devices = devices_text(shown(starter.document, catalogue), catalogue)


def row_of(starter: Starter, offered: Catalogue, open_now: int = 0) -> StarterRow:
    """One line of a board's list."""
    computed, problems = shown(starter.document, with_kept(offered, starter.devices, True))
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
            "contactor": ", ".join(str(d.selected.type) for d in computed.devices if d.kind == "contactor"),
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
        starters=[row_of(s, offered, len(points_of(session, s.id))) for s in board.starters],
    )


@bp.get("/boards", responses={200: BoardsOut})
def list_boards() -> BoardsOut:
    """Every board with what is open on it."""
    with new_session() as session:
        query = select(Board).order_by(Board.job_id, Board.id).options(selectinload(Board.starters))
        rows = []
        for board in session.scalars(query):
            offered = board_catalogue(session, board)
            lines = [row_of(s, offered, len(points_of(session, s.id))) for s in board.starters]
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
    with new_session(write=True) as session, session.begin():
        board = create_board(session, body.job, body.name, body.title, body.defaults)
        return board_out(session, board), 201


@bp.get("/boards/<int:board_id>", responses={200: BoardOut, **NOT_FOUND})
def get_board(path: BoardPath) -> BoardOut:
    """A board with its starters."""
    with new_session() as session:
        return board_out(session, found(session, Board, path.board_id))


@bp.post("/boards/<int:board_id>/starters", responses={201: StarterOut, **REFUSED})
def add_starter(path: BoardPath, body: StarterCreate) -> tuple[StarterOut, int]:
    """Put a starter on a board; its plate may be incomplete."""
    with new_session(write=True) as session, session.begin():
        board = found(session, Board, path.board_id)
        catalogue = board_catalogue(session, board)
        computed = designed(body.document, catalogue)
        starter = create_starter(session, board, body.document, devices_text(computed, catalogue))
        return starter_out(read_starter(session, starter.id), computed), 201


@bp.post("/starters/<int:starter_id>/copy", responses={201: StarterOut, **REFUSED})
def copy_starter(path: StarterPath, body: StarterCopy) -> tuple[StarterOut, int]:
    """A new starter on the same board with the same decisions; its plate is then typed anew."""
    with new_session(write=True) as session, session.begin():
        original = found(session, Starter, path.starter_id)
        document = parse({**original.document, "tag": body.tag, "service": body.service})
        catalogue = board_catalogue(session, original.board)
        computed = shown(document.to_json(), catalogue)
        starter = create_starter(session, original.board, document, devices_text(computed, catalogue))
        return starter_out(read_starter(session, starter.id), computed), 201


@bp.get("/starters/<int:starter_id>", responses={200: StarterOut, **NOT_FOUND})
def get_starter(path: StarterPath) -> StarterOut:
    """A starter with its design."""
    with new_session() as session:
        starter = read_starter(session, path.starter_id)
        return starter_out(starter, shown(starter.document, catalogue_of(session, starter)))


@bp.put("/starters/<int:starter_id>", responses={200: StarterOut, **REFUSED})
def save_starter(path: StarterPath, body: StarterSave) -> StarterOut:
    """Save a changed document; what is wrong is refused, what is only missing is kept and said."""
    with writer(current_app.extensions["engine"]).begin() as connection:
        kept = read_starter(connection, path.starter_id)
        catalogue = catalogue_of(connection, kept, unchanged=False)
        computed = designed(body.document, catalogue)
        devices = devices_text(computed, catalogue, kept.devices)
        return starter_out(save_document(connection, kept, body.document, body.version, devices), computed)


@bp.post("/starters/<int:starter_id>/catalogue-now", responses={200: StarterOut, **REFUSED})
def take_catalogue_now(path: StarterPath) -> StarterOut:
    """Design anew from the catalogue as it is now, and let go of the devices that the design kept."""
    with new_session(write=True) as session, session.begin():
        starter = found(session, Starter, path.starter_id)
        catalogue = board_catalogue(session, starter.board)
        computed = designed(parse(starter.document), catalogue)
        starter.devices = devices_text(computed, catalogue)
        starter.version += 1
        session.flush()
        return starter_out(read_starter(session, starter.id), computed)


@bp.delete("/starters/<int:starter_id>", responses={204: None, **REFUSED})
def delete_starter(path: StarterPath) -> tuple[str, int]:
    """Take a starter off its board, with its history."""
    with new_session(write=True) as session, session.begin():
        starter = found(session, Starter, path.starter_id)
        if has_record(session, starter.id):
            words = f"{starter.tag} has a record, which is never thrown away; it stays on its board"
            raise ProblemError([Problem("starter", words)])
        session.delete(starter)
    return "", 204


@bp.get("/starters/<int:starter_id>/history", responses={200: HistoryOut, **NOT_FOUND})
def get_history(path: StarterPath) -> HistoryOut:
    """Revisions to go back to, and the log of override reasons."""
    with new_session() as session:
        starter = found(session, Starter, path.starter_id)
        return HistoryOut(
            revisions=[RevisionOut(id=r.id, change=r.change, saved=r.saved) for r in revisions(session, starter.id)],
            overrides=[
                OverrideNoteOut(role=n.role, choice=n.choice, reason=n.reason, noted=n.noted)
                for n in override_notes(session, starter.id)
            ],
        )


@bp.post("/starters/<int:starter_id>/restore", responses={200: StarterOut, **REFUSED})
def restore_revision(path: StarterPath, body: Restore) -> StarterOut:
    """Go back to a revision; that is a change like any other and can be undone."""
    with new_session(write=True) as session, session.begin():
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
        saved = save_document(session.connection(), kept, parse(document), body.version, devices, change)
        return starter_out(saved, computed)


@bp.get("/starters/<int:starter_id>/figures", responses={200: FiguresOut, **REFUSED})
def get_figures(path: StarterPath) -> FiguresOut:
    """The working of every figure of a starter."""
    document, catalogue, _ = looked_at(path.starter_id)
    return FiguresOut.model_construct(figures=dict(size(document, catalogue).design.figures))


@bp.get("/starters/<int:starter_id>/methods", responses={200: OffersOut, **REFUSED})
def get_methods(path: StarterPath) -> OffersOut:
    """Every starting method with a verdict for this plate, supply and load."""
    document, catalogue, _ = looked_at(path.starter_id, unchanged=False)
    return OffersOut.model_construct(offers=offers(document, catalogue))


@bp.get("/starters/<int:starter_id>/compare", responses={200: CompareOut, **REFUSED})
def compare_methods(path: StarterPath, query: CompareQuery) -> CompareOut:
    """Up to three starting methods side by side."""
    document, catalogue, _ = looked_at(path.starter_id, unchanged=False)
    return CompareOut.model_construct(methods=compare(document, catalogue, query.method))


@bp.get("/starters/<int:starter_id>/start", responses={200: StartOut, **REFUSED})
def get_start(path: StarterPath) -> StartOut:
    """Curves of the start: run-up, star time, supply dip."""
    document, catalogue, _ = looked_at(path.starter_id)
    return StartOut.model_construct(start=start_sheet(document, catalogue))


@bp.get("/starters/<int:starter_id>/phase-failure", responses={200: PhaseFailureOut, **REFUSED})
def get_phase_failure(path: StarterPath) -> PhaseFailureOut:
    """What a lost phase does to this starter at every load, and how a monitor is set for it."""
    document, catalogue, _ = looked_at(path.starter_id)
    return PhaseFailureOut.model_construct(sheet=phase_failure_sheet(document, catalogue))


@bp.get("/starters/<int:starter_id>/time-current", responses={200: TimeCurrentOut, **REFUSED})
def get_time_current(path: StarterPath) -> TimeCurrentOut:
    """The time-current sheet: every curve, limit and crossing."""
    document, catalogue, _ = looked_at(path.starter_id)
    return TimeCurrentOut.model_construct(sheet=time_current_sheet(document, catalogue))


@bp.get("/starters/<int:starter_id>/time-current.csv", responses={200: CSV, **REFUSED})
def time_current_points(path: StarterPath) -> Response:
    """The points of its curves as CSV."""
    document, catalogue, kept = looked_at(path.starter_id)
    data = points_csv(time_current_sheet(document, catalogue)).encode()
    return send_file(
        io.BytesIO(data), mimetype="text/csv", download_name=f"{kept.tag} time-current.csv", as_attachment=True
    )


@bp.get("/starters/<int:starter_id>/time-current.svg", responses={200: SVG, **REFUSED})
def time_current_picture(path: StarterPath) -> Response:
    """The sheet as SVG."""
    document, catalogue, kept = looked_at(path.starter_id)
    data = to_svg(time_current_sheet(document, catalogue).drawing).encode()
    return send_file(
        io.BytesIO(data), mimetype="image/svg+xml", download_name=f"{kept.tag} time-current.svg", as_attachment=True
    )


@bp.post("/unbalance", responses={200: UnbalanceOut, 422: ProblemsOut})
def judge_unbalance(body: UnbalanceIn) -> UnbalanceOut:
    """Three measured voltages, and currents if there are any, against each other."""
    return UnbalanceOut.model_construct(result=unbalance(body.voltages_v, body.currents_a))


@bp.get("/loads", responses={200: LoadsOut})
def list_loads() -> LoadsOut:
    """Usual machines in a fitter's words, with the torque they ask for."""
    return LoadsOut.model_construct(loads=list(usual_loads()))


@bp.get("/symbols", responses={200: SymbolsOut})
def get_symbols() -> SymbolsOut:
    """The drawings that designs refer to by name."""
    return SymbolsOut.model_construct(symbols=symbols())


@bp.post("/design", responses={200: DesignOut, 422: ProblemsOut})
def compute_design(body: StarterCreate) -> DesignOut:
    """Design a document without keeping it, from the shipped range."""
    return DesignOut.model_construct(design=size(body.document, reference_catalogue()).design.to_json(working=True))


def _sheet(starter_id: int, finish: Callable[[str, Kept], Response], *, paged: bool) -> Response:
    document, catalogue, starter = looked_at(starter_id)
    place = Place(starter.job, starter.board, starter.version, starter.saved)
    with new_session() as session:
        points = points_of(session, starter_id, whole=True)
    return finish(sheet_html(document, size(document, catalogue).design, place, paged=paged, points=points), starter)


@bp.get("/starters/<int:starter_id>/sheet.html", responses={200: HTML, **REFUSED})
def sheet_page(path: StarterPath) -> Response:
    """The settings sheet for the screen."""
    return _sheet(path.starter_id, lambda html, _: Response(html, mimetype="text/html"), paged=False)


@bp.get("/starters/<int:starter_id>/sheet.pdf", responses={200: PDF, **REFUSED})
def sheet_print(path: StarterPath) -> Response:
    """The settings sheet as PDF."""

    def finish(html: str, starter: Kept) -> Response:
        return send_file(
            io.BytesIO(sheet_pdf(html)), mimetype="application/pdf", download_name=f"{starter.tag} settings.pdf"
        )

    return _sheet(path.starter_id, finish, paged=True)


@bp.get("/starters/<int:starter_id>/document.json", responses={200: {"content": {"application/json": {}}}, **NOT_FOUND})
def document_file(path: StarterPath) -> Response:
    """The starter document as a file, as ``volmek size`` reads it."""
    with new_session() as session:
        starter = found(session, Starter, path.starter_id)
        response = jsonify(starter.document)
        response.headers["Content-Disposition"] = f'attachment; filename="{starter.id}.volmek.json"'
        return response


@bp.get("/tables", responses={200: HandbookOut, 422: ProblemsOut})
def read_tables(query: HandbookQuery) -> HandbookOut:
    """The standards' tables and the schools, searched in the words that fitters use."""
    return HandbookOut(tables=find_tables(query.find), schools=find_schools(query.find))
