"""The settings sheet and the document of a starter as files."""

import io
from collections.abc import Callable

from flask import Response, jsonify, send_file
from flask_openapi3.blueprint import APIBlueprint

from volmek.core.sizing import size
from volmek.files.sheet import Place, sheet_html
from volmek.store.models import Starter
from volmek.store.repository import Kept
from volmek.web.common import HTML, NOT_FOUND, PDF, REFUSED, found, looked_at, new_session, operation_id
from volmek.web.record_views import points_of
from volmek.web.schemas import StarterPath
from volmek.web.work import laid_out, working
from volmek.web.worker import ranges_meanwhile

bp = APIBlueprint("sheets", __name__, url_prefix="/api", operation_id_callback=operation_id)


def _sheet(starter_id: int, finish: Callable[[str, Kept], Response], *, paged: bool) -> Response:
    document, catalogue, starter = looked_at(starter_id)
    place = Place(starter.job, starter.board, starter.version, starter.saved)
    with new_session() as session:
        points = points_of(session, starter_id, whole=True)
    design, asked = size(document, catalogue).design, ranges_meanwhile(starter_id, document, catalogue)
    return finish(
        sheet_html(document, design, place, paged=paged, points=points, ranges=asked(working().check)), starter
    )


@bp.get("/starters/<int:starter_id>/sheet.html", responses={200: HTML, **REFUSED})
def sheet_page(path: StarterPath) -> Response:
    """The settings sheet for the screen."""
    return _sheet(path.starter_id, lambda html, _: Response(html, mimetype="text/html"), paged=False)


@bp.get("/starters/<int:starter_id>/sheet.pdf", responses={200: PDF, **REFUSED})
def sheet_print(path: StarterPath) -> Response:
    """The settings sheet as PDF."""

    def finish(html: str, starter: Kept) -> Response:
        return send_file(
            io.BytesIO(laid_out(html)), mimetype="application/pdf", download_name=f"{starter.tag} settings.pdf"
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
