"""JSON API and files: the circuit diagrams of a starter as sheets of paper, to be looked at, printed and opened elsewhere."""

from typing import Literal

from flask import Response
from flask_openapi3.blueprint import APIBlueprint
from pydantic import BaseModel, Field
from werkzeug.exceptions import NotFound

from volmek.core.circuit.simulated import simulated
from volmek.core.results.sheets import PAPERS, Sheet
from volmek.core.views.circuit import style_of
from volmek.core.views.sheets import starter_sheets, title_block
from volmek.files.dxf import sheets_dxf
from volmek.files.sheet import sheets_html
from volmek.files.svg import sheet_svg
from volmek.web.common import HTML, NOT_FOUND, PDF, REFUSED, SVG, download, looked_at, operation_id
from volmek.web.schemas import Output, StarterPath
from volmek.web.work import laid_out

bp = APIBlueprint("diagrams", __name__, url_prefix="/api", operation_id_callback=operation_id)
DXF = {"content": {"image/vnd.dxf": {"schema": {"type": "string"}}}}


class SheetQuery(BaseModel):
    """Paper and symbols of the sheets, those of the practice where none are asked for; who has drawn them."""

    paper: Literal["a3", "a4", "tabloid", "letter"] | None = None
    style: Literal["columns", "ladder"] | None = None
    drawn_by: str = Field(default="", max_length=60)


class SheetPath(StarterPath):
    """One sheet of a starter."""

    number: int


class SheetOut(Output):
    """A sheet of the set."""

    number: int
    title: str
    description: str


class PaperOut(Output):
    """A sheet size."""

    name: str
    title: str


class DiagramsOut(Output):
    """The set: its paper and symbols, its sheets, and the papers that there are."""

    paper: str
    style: str
    sheets: list[SheetOut]
    papers: list[PaperOut]


def _sheets(starter_id: int, query: SheetQuery) -> tuple[list[Sheet], str, str]:
    """All sheets of a starter, its tag, and the symbols they are drawn with."""
    document, catalogue, kept = looked_at(starter_id)
    date = kept.saved.strftime("%Y-%m-%d")
    head = title_block(document, kept.job, kept.board, kept.version, date, query.drawn_by)
    it = simulated(document, catalogue)
    return (
        starter_sheets(document, it, head, paper=query.paper, style=query.style),
        kept.tag,
        style_of(document, query.style),
    )


@bp.get("/starters/<int:starter_id>/diagrams", responses={200: DiagramsOut, **REFUSED})
def diagrams(path: StarterPath, query: SheetQuery) -> DiagramsOut:
    """Sheets of the circuit diagrams of a starter."""
    sheets, _, style = _sheets(path.starter_id, query)
    return DiagramsOut.model_construct(
        paper=sheets[0].paper.name,
        style=style,
        sheets=[SheetOut.model_construct(number=s.number, title=s.title, description=s.description) for s in sheets],
        papers=[PaperOut.model_construct(name=p.name, title=p.title) for p in PAPERS.values()],
    )


@bp.get("/starters/<int:starter_id>/diagrams/<int:number>.svg", responses={200: SVG, **REFUSED, **NOT_FOUND})
def diagram_picture(path: SheetPath, query: SheetQuery) -> Response:
    """One sheet as SVG in its true size."""
    sheets, _, _ = _sheets(path.starter_id, query)
    if not 1 <= path.number <= len(sheets):
        raise NotFound(f"there is no sheet {path.number}: the set has {len(sheets)}")
    return Response(sheet_svg(sheets[path.number - 1]), mimetype="image/svg+xml")


@bp.get("/starters/<int:starter_id>/diagrams.html", responses={200: HTML, **REFUSED})
def diagrams_page(path: StarterPath, query: SheetQuery) -> Response:
    """All sheets for the screen, and for the printer of a browser."""
    sheets, tag, _ = _sheets(path.starter_id, query)
    return Response(sheets_html(sheets, tag), mimetype="text/html")


@bp.get("/starters/<int:starter_id>/diagrams.pdf", responses={200: PDF, **REFUSED})
def diagrams_print(path: StarterPath, query: SheetQuery) -> Response:
    """All sheets in one PDF, with bookmarks."""
    sheets, tag, _ = _sheets(path.starter_id, query)
    return download(laid_out(sheets_html(sheets, tag, paged=True)), f"{tag}-diagrams.pdf", "application/pdf")


@bp.get("/starters/<int:starter_id>/diagrams.dxf", responses={200: DXF, **REFUSED})
def diagrams_dxf(path: StarterPath, query: SheetQuery) -> Response:
    """All sheets as DXF R2010: a layout each, symbols as blocks, layers by what they hold."""
    sheets, tag, _ = _sheets(path.starter_id, query)
    return download(sheets_dxf(sheets).encode(), f"{tag}-diagrams.dxf", "image/vnd.dxf")
