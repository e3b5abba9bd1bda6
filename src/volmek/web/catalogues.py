"""JSON API: catalogues of one's own, their files, and which of them a board chooses from; presets."""

import io
from collections.abc import Callable, Iterable
from dataclasses import dataclass, field
from typing import Any, cast

from flask import Response, current_app, request, send_file
from flask_openapi3.blueprint import APIBlueprint
from flask_openapi3.models.file import FileStorage
from pydantic import BaseModel, ConfigDict, Field
from sqlalchemy import select
from sqlalchemy.orm import Session

from volmek.core.catalogue.catalogue import Catalogue, RowProblem, reference_catalogue, remarks
from volmek.core.catalogue.device_types import TABLES, Device, TableName
from volmek.core.catalogue.guide import TableGuide, table_guides
from volmek.core.document.errors import Problem, ProblemError
from volmek.files.catalogue_files import (
    MAXIMUM_BYTES,
    CatalogueFile,
    read_catalogue,
    template_csv,
    write_csv,
    write_xlsx,
)
from volmek.store.catalogues import (
    SHIPPED,
    boards_using,
    catalogue_for,
    chosen_text,
    create_catalogue,
    put_devices,
    remove_catalogue,
)
from volmek.store.models import Board, CatalogueDevice
from volmek.store.models import Catalogue as CatalogueRow
from volmek.web.access import author
from volmek.web.boards import BoardOut, board_page
from volmek.web.common import NOT_FOUND, REFUSED, found, new_session, operation_id, writing
from volmek.web.designs import devices_text, shown
from volmek.web.schemas import BoardPath, Output, ProblemsOut
from volmek.web.work import working
from volmek.web.worker import devices_elsewhere

bp = APIBlueprint("catalogues", __name__, url_prefix="/api", operation_id_callback=operation_id)

XLSX = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"
BOOK = {"content": {XLSX: {"schema": {"type": "string", "format": "binary"}}}}
TEXT = {"content": {"text/csv": {"schema": {"type": "string"}}}}
#: What a request around a file may add to it.
FORM_BYTES = 100_000
#: So many designs are made within the request; more go to another process.
FEW = 20
SHOWN_PROBLEMS, SHOWN_ROWS, SHOWN_DEVICES = 200, 8, 300


class CataloguePath(BaseModel):
    """A catalogue's number in the address; 0 is the shipped one."""

    catalogue_id: int


class TableQuery(BaseModel):
    """Table, and filter on its devices."""

    table: TableName
    find: str = Field("", max_length=80, description="part of a cell")


class TableOnly(BaseModel):
    """Table asked for."""

    table: TableName


class CatalogueCreate(BaseModel):
    """A new catalogue."""

    model_config = ConfigDict(extra="forbid")

    name: str = Field(min_length=1, max_length=80, pattern=r"\S")


class ImportForm(BaseModel):
    """A file, and what to do with it."""

    file: FileStorage
    table: TableName | None = None
    remove_others: bool = False
    commit: bool = False


class DeviceQuery(BaseModel):
    """One device of a catalogue."""

    type: str = Field(min_length=1, max_length=40)


class BoardCatalogues(BaseModel):
    """The catalogues that a board chooses from, the first one first."""

    model_config = ConfigDict(extra="forbid")

    catalogues: list[int] = Field(max_length=20)
    design_anew: bool = False


class TableCount(Output):
    """Number of devices of a table."""

    table: TableName
    devices: int


class CatalogueOut(Output):
    """A catalogue in the list."""

    id: int
    name: str
    shipped: bool
    boards: list[str]
    counts: list[TableCount]


class CataloguesOut(Output):
    """Every catalogue, and what their tables mean."""

    catalogues: list[CatalogueOut]
    tables: list[TableGuide]


class DevicesOut(Output):
    """Devices of one table as cells; ``total`` counts those that are not shown, too."""

    columns: list[str]
    rows: list[list[str]]
    total: int


class RowProblemOut(Output):
    """Problem of one cell, with its content."""

    table: str
    row: int
    column: str
    message: str


class PreviewRow(Output):
    """One row of a file as it was read."""

    row: int
    cells: list[str]
    wrong: list[str]


class TablePreview(Output):
    """Effect of a file on one table."""

    table: TableName
    columns: list[str]
    rows: list[PreviewRow]
    read: int
    added: int
    changed: int
    same: int
    removed: list[str]


class ImportOut(Output):
    """Effect of an import, planned or done; nothing is imported from a file with a problem."""

    committed: bool
    problems: list[RowProblemOut]
    more_problems: int
    remarks: list[str]
    tables: list[TablePreview]


def _catalogue(session: Session, catalogue_id: int) -> Catalogue:
    if catalogue_id == SHIPPED:
        return reference_catalogue()
    found(session, CatalogueRow, catalogue_id)
    return catalogue_for(session, current_app.extensions["engine"], str(catalogue_id))


def _out(session: Session, id: int, name: str, boards: dict[int, list[str]]) -> CatalogueOut:
    tables = _catalogue(session, id).tables
    counts = [TableCount(table=cast(TableName, t), devices=len(rows)) for t, rows in tables.items()]
    return CatalogueOut(id=id, name=name, shipped=id == SHIPPED, boards=boards.get(id, []), counts=counts)


@bp.get("/catalogues", responses={200: CataloguesOut})
def list_catalogues() -> CataloguesOut:
    """Every catalogue with the number of its devices and the boards that choose from it."""
    with new_session() as session:
        boards = boards_using(session)
        rows = [(SHIPPED, reference_catalogue().name)]
        rows += [(c.id, c.name) for c in session.scalars(select(CatalogueRow).order_by(CatalogueRow.name))]
        out = [_out(session, id, name, boards) for id, name in rows]
    return CataloguesOut.model_construct(catalogues=out, tables=list(table_guides()))


@bp.post("/catalogues", responses={201: CatalogueOut, 422: ProblemsOut})
def add_catalogue(body: CatalogueCreate) -> tuple[CatalogueOut, int]:
    """Make an empty catalogue."""
    with writing() as session:
        row = create_catalogue(session, body.name.strip())
        return _out(session, row.id, row.name, {}), 201


@bp.delete("/catalogues/<int:catalogue_id>", responses={204: None, **NOT_FOUND})
def delete_catalogue(path: CataloguePath) -> tuple[str, int]:
    """Take a catalogue away; designs made from it keep their devices."""
    with writing() as session:
        remove_catalogue(session, found(session, CatalogueRow, path.catalogue_id))
    return "", 204


@bp.get("/catalogues/<int:catalogue_id>/devices", responses={200: DevicesOut, **NOT_FOUND})
def list_devices(path: CataloguePath, query: TableQuery) -> DevicesOut:
    """Devices of one table, those with the words looked for in a cell."""
    with new_session() as session:
        devices = _catalogue(session, path.catalogue_id).tables[query.table]
    columns = list(TABLES[query.table].model_fields)
    words = query.find.lower().split()
    rows = []
    for d in devices:
        cells = d.cells()
        text = " ".join(cells.values()).lower()
        if all(w in text for w in words):
            rows.append([cells.get(c, "") for c in columns])
    return DevicesOut(columns=columns, rows=rows[:SHOWN_DEVICES], total=len(rows))


@bp.delete("/catalogues/<int:catalogue_id>/devices", responses={204: None, **NOT_FOUND})
def delete_device(path: CataloguePath, query: DeviceQuery) -> tuple[str, int]:
    """Take one device out of a catalogue; designs that use it keep it."""
    with writing() as session:
        catalogue = found(session, CatalogueRow, path.catalogue_id)
        of_type = (CatalogueDevice.catalogue_id == catalogue.id, CatalogueDevice.type == query.type)
        row = session.scalar(select(CatalogueDevice).where(*of_type))
        if row is None:
            raise LookupError(f"{catalogue.name} has no {query.type}")
        session.delete(row)
        put_devices(session, catalogue, {}, remove_others=False)
    return "", 204


@bp.post("/catalogues/<int:catalogue_id>/import", responses={200: ImportOut, 413: ProblemsOut, **REFUSED})
def import_devices(path: CataloguePath, form: ImportForm) -> ImportOut | tuple[ImportOut, int]:
    """Say what a file would do to a catalogue; with ``commit`` do it, all or nothing."""
    if isinstance(form.file, str):  # a field of that name that is no file
        raise ProblemError([Problem("file", "choose a file")])
    file = read_catalogue(form.file.read(), form.file.filename or "", form.table, working().counted("reading the rows"))
    with writing() if form.commit and not file.problems else new_session() as session:
        row = found(session, CatalogueRow, path.catalogue_id)
        out = _preview(file, _catalogue(session, row.id), remove_others=form.remove_others)
        if form.commit and not file.problems:
            working().step("writing the devices")
            put_devices(session, row, file.devices, remove_others=form.remove_others)
            out.committed = True
    return (out, 422) if form.commit and file.problems else out


@bp.before_app_request
def _room_for_a_file() -> None:
    """An import may be larger than the other requests."""
    if request.path.endswith("/import"):
        request.max_content_length = MAXIMUM_BYTES + FORM_BYTES


def _preview(file: CatalogueFile, present: Catalogue, *, remove_others: bool) -> ImportOut:
    wrong: dict[tuple[str, int], list[str]] = {}
    for p in file.problems:
        wrong.setdefault((p.table, p.row), []).append(p.column)
    tables = []
    for table, columns in file.columns.items():
        devices, rows = file.devices.get(table, []), file.rows[table]
        here = {d.type: d for d in present.tables[table]}
        stays = {d.type for d in devices}
        # Rows with a problem first, then those at the head of the file.
        first = sorted(rows, key=lambda r: (table, r[0]) not in wrong)[:SHOWN_ROWS]
        preview = [
            PreviewRow(row=n, cells=[cells.get(c, "") for c in columns], wrong=wrong.get((table, n), []))
            for n, cells in sorted(first, key=lambda r: r[0])
        ]
        same = sum(here.get(d.type) == d for d in devices)
        added = sum(d.type not in here for d in devices)
        tables.append(
            TablePreview(
                table=cast(TableName, table),
                columns=columns,
                rows=preview,
                read=len(rows),
                added=added,
                changed=len(devices) - same - added,
                same=same,
                removed=sorted(here.keys() - stays) if remove_others and not file.problems else [],
            )
        )
    shown = [_problem_out(p) for p in file.problems[:SHOWN_PROBLEMS]]
    more = len(file.problems) - len(shown)
    said = remarks(file.devices, present.types() | reference_catalogue().types())
    return ImportOut(committed=False, problems=shown, more_problems=more, remarks=said[:SHOWN_PROBLEMS], tables=tables)


def _problem_out(p: RowProblem) -> RowProblemOut:
    return RowProblemOut(table=p.table, row=p.row, column=p.column, message=p.message)


def _book(devices: dict[str, tuple[Device, ...]], name: str) -> Response:
    return send_file(io.BytesIO(write_xlsx(devices)), mimetype=XLSX, download_name=f"{name}.xlsx", as_attachment=True)


def _csv(table: str, devices: tuple[Device, ...], name: str) -> Response:
    data = io.BytesIO(write_csv(table, devices).encode("utf-8-sig"))
    return send_file(data, mimetype="text/csv", download_name=f"{name} {table}.csv", as_attachment=True)


@bp.get("/catalogues/template.xlsx", responses={200: BOOK})
def template_book() -> Response:
    """An empty workbook with every table, and a sheet that explains the columns."""
    return _book({}, "Volmek catalogue template")


@bp.get("/catalogues/template.csv", responses={200: TEXT, 422: ProblemsOut})
def template_text(query: TableOnly) -> Response:
    """The headings of one table and three example rows."""
    data = io.BytesIO(template_csv(query.table).encode("utf-8-sig"))
    return send_file(data, mimetype="text/csv", download_name=f"Volmek template {query.table}.csv", as_attachment=True)


@bp.get("/catalogues/<int:catalogue_id>/export.xlsx", responses={200: BOOK, **NOT_FOUND})
def export_book(path: CataloguePath) -> Response:
    """A whole catalogue as a workbook that can be imported again."""
    with new_session() as session:
        catalogue = _catalogue(session, path.catalogue_id)
    return _book(dict(catalogue.tables), catalogue.name)


@bp.get("/catalogues/<int:catalogue_id>/export.csv", responses={200: TEXT, 422: ProblemsOut, **NOT_FOUND})
def export_text(path: CataloguePath, query: TableOnly) -> Response:
    """One table of a catalogue as CSV that can be imported again."""
    with new_session() as session:
        catalogue = _catalogue(session, path.catalogue_id)
    return _csv(query.table, catalogue.tables[query.table], catalogue.name)


@bp.put("/boards/<int:board_id>/catalogues", responses={200: BoardOut, **REFUSED})
def choose_for_board(path: BoardPath, body: BoardCatalogues) -> BoardOut:
    """Say which catalogues a board chooses from; its designs keep their devices unless they are made anew."""
    with new_session() as session:  # designed before anything is locked: others save meanwhile
        made = _designed_anew(session, found(session, Board, path.board_id), body, Anew())
    with writing() as session:
        board = found(session, Board, path.board_id)
        session.refresh(board, ["starters"])
        late = _designed_anew(session, board, body, made)  # what was changed in between
        board.catalogues = chosen_text(session, body.catalogues)
        for starter in board.starters:
            if (fresh := late.devices.get(starter.id)) is not None:
                starter.devices = fresh[1]
                if body.design_anew:
                    starter.version += 1
                    starter.changed_by = author("")[0]
    return board_page(path.board_id)


@dataclass
class Anew:
    """Designs made anew: from which catalogue, and for each starter the version it was made of and its devices."""

    offered: Catalogue | None = None
    devices: dict[int, tuple[int, str]] = field(default_factory=dict)


def _designed_anew(session: Session, board: Board, body: BoardCatalogues, known: Anew) -> Anew:
    """Design what must be: everything where it is asked for, else what kept no devices until now.

    Parameters
    ----------
    known : what was designed a moment ago; taken where starter and catalogues are as they were then
    """
    engine = current_app.extensions["engine"]
    chosen = chosen_text(session, body.catalogues)
    offered = catalogue_for(session, engine, chosen if body.design_anew else board.catalogues)
    todo = [s for s in board.starters if body.design_anew or s.devices == "{}"]
    made = Anew(offered)
    if known.offered == offered:
        made.devices = {s.id: known.devices[s.id] for s in todo if known.devices.get(s.id, (None,))[0] == s.version}
    todo = [s for s in todo if s.id not in made.devices]

    def step(k: int) -> None:
        working().step(f"designing {board.name} {todo[k].tag}", k, len(todo))

    for s, devices in zip(todo, _devices_of([s.document for s in todo], offered, step), strict=True):
        made.devices[s.id] = (s.version, devices)
    return made


def _devices_of(documents: list[dict[str, Any]], catalogue: Catalogue, step: Callable[[int], None]) -> Iterable[str]:
    """Devices of many designs; a few are made here, since another process takes a second to begin."""
    if len(documents) > FEW:
        return devices_elsewhere(documents, catalogue, step)
    made = []
    for k, document in enumerate(documents):
        step(k)
        made.append(devices_text(shown(document, catalogue), catalogue))
    return made
