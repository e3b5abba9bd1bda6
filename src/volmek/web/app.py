"""The application factory: engine, API, errors in words, and the built front end."""

import gc
import mimetypes
from pathlib import Path
from typing import Any

from flask import Response, g, request, send_from_directory
from flask_openapi3.models.info import Info
from flask_openapi3.openapi import OpenAPI
from pydantic import BaseModel, ValidationError
from sqlalchemy.exc import DatabaseError, DataError
from werkzeug.exceptions import HTTPException, TooManyRequests

from volmek.core.catalogue.catalogue import reference_catalogue
from volmek.core.circuit.faults.failures import Failure
from volmek.core.document.errors import Problem, ProblemError
from volmek.core.document.model import parse, problems_of
from volmek.core.examples import MOTOR
from volmek.core.sizing import size
from volmek.store.engine import Database, make_engine, upgrade
from volmek.store.repository import StaleVersionError
from volmek.web import (
    boards,
    catalogues,
    circuits,
    designs,
    diagrams,
    handbook,
    keeping,
    licences,
    panel_meter,
    papers,
    people,
    presence,
    presets,
    quick,
    records,
    removed,
    sheets,
    sign_in,
    stages,
    starters,
    work,
)
from volmek.web.access import ALONE, Access, check_role, install, reached_as
from volmek.web.common import problems_out
from volmek.web.guard import HEADERS, foreign, identity, own_name, storage_words
from volmek.web.lines import Lines
from volmek.web.results import TABLES_KEPT, Results, Shown
from volmek.web.schemas import ProblemsOut
from volmek.web.worker import RangeWorker

#: Where `make build` puts the front end: beside the sources, in a checkout.
DIST = Path(__file__).parents[3] / "frontend" / "dist"
SUBJECTS = (
    quick,
    boards,
    starters,
    designs,
    stages,
    circuits,
    diagrams,
    removed,
    records,
    panel_meter,
    papers,
    sheets,
    catalogues,
    presets,
    handbook,
    keeping,
    work,
    sign_in,
    people,
    presence,
    licences,
)
mimetypes.add_type("application/manifest+json", ".webmanifest")
MAXIMUM_BODY = 2 * 1024 * 1024


class Application(OpenAPI):
    """flask-openapi3, whose views may return models."""

    def make_response(self, rv: Any) -> Response:
        """Write a model as JSON."""
        body, *rest = rv if isinstance(rv, tuple) else (rv,)
        if isinstance(body, BaseModel):
            body = Response(body.__pydantic_serializer__.to_json(body), mimetype="application/json")
        return super().make_response((body, *rest) if rest else body)


def refusal(problems: list[Problem], status: int) -> Response:
    """A refusal in words, each problem at its field."""
    body = ProblemsOut(problems=problems_out(problems)).model_dump_json()
    return Response(body, status, mimetype="application/json")


def _validation(error: ValidationError) -> Response:
    if request.method in ("POST", "PUT") and request.get_json(silent=True) is None:
        return refusal([Problem("document", "the request is not JSON that can be read")], 422)
    problems = problems_of(error)
    shown = [Problem(p.field.removeprefix("document."), p.message) for p in problems]
    return refusal(shown, 422)


def settle() -> None:
    """Before requests come: what stays for good (rules, range, tables) is not looked through again and again for garbage, which takes a tenth of a second each time."""
    size(parse(MOTOR), reference_catalogue())
    gc.collect()
    gc.freeze()


def create_app(database: Database, dist: Path = DIST, how: Access = ALONE) -> Application:
    """The application on a database, brought to the newest schema.

    Parameters
    ----------
    database : SQLite file, made when it is not there, or address of a PostgreSQL database
    dist : folder of the built front end
    how : alone on this machine, or in a workshop where people sign in
    """
    app = Application(
        __name__,
        info=Info(title="Volmek", version="1"),
        security_schemes={},  # else the document has an invalid `securitySchemes: null`
        validation_error_status=422,
        validation_error_callback=_validation,
        validation_error_model=ProblemsOut,
        doc_ui=False,
        static_folder=None,
    )
    app.config["MAX_CONTENT_LENGTH"] = MAXIMUM_BODY
    engine = make_engine(database)
    upgrade(engine)
    app.extensions["engine"] = engine
    app.extensions["dist"] = dist
    app.extensions["ranges"] = RangeWorker()
    app.extensions["queue"] = work.Queue(app)
    app.extensions["lines"] = Lines(app)
    app.extensions["results"], app.extensions["tables"] = Results[Shown](), Results[list[Failure]](TABLES_KEPT)

    @app.before_request
    def _guard() -> Response | None:
        named = (lambda host: reached_as(host, how.names)) if how.workshop else own_name
        if words := foreign(request, named):
            return refusal([Problem("request", words)], 403)
        if isinstance(database, Path) and request.method != "GET" and identity(database) != opened:
            words = f"The database {database.name} was deleted or exchanged while it was in use: nothing of this was saved. End the server, put the file or its last copy back, and start again; what you typed is kept on this page."
            return refusal([Problem("request", words)], 503)
        check_role()
        return None

    opened = identity(database) if isinstance(database, Path) else None
    for subject in SUBJECTS:  # after the guard, so that it is asked first
        app.register_api(subject.bp)
    install(app, how)

    @app.errorhandler(OverflowError)
    def _too_large(error: OverflowError) -> Response:
        if "SQLite INTEGER" not in str(error):
            raise error
        # A number in the address names a row that there cannot be; elsewhere it is a field of the request.
        words = "a number in this request is larger than any that is stored here"
        return refusal([Problem("request", words)], 404 if request.method in ("GET", "DELETE") else 422)

    @app.errorhandler(DatabaseError)
    def _storage(error: DatabaseError) -> Response:
        if isinstance(error, DataError):  # a server of its own says so itself what does not fit a column
            words = "a number or a text in this request is not one that can be stored here"
            return refusal([Problem("request", words)], 404 if request.method in ("GET", "DELETE") else 422)
        return refusal([Problem("request", storage_words(error))], 503)

    @app.after_request
    def _quiet(response: Response) -> Response:
        response.headers.update(HEADERS)
        if request.path.startswith("/api/"):
            response.headers["Cache-Control"] = "no-store"
        if "design_ms" in g:
            response.headers["Server-Timing"] = f"design;dur={g.design_ms:.3f}"
        return response

    @app.errorhandler(ProblemError)
    def _problem(error: ProblemError) -> Response:
        return refusal(list(error.problems), 422)

    @app.errorhandler(LookupError)
    def _absent(error: LookupError) -> Response:
        # Only the repository raises it on purpose; any other one is a fault of ours.
        if type(error) is not LookupError:
            raise error
        return refusal([Problem("request", str(error))], 404)

    @app.errorhandler(work.CancelledError)
    def _cancelled(_: work.CancelledError) -> Response:
        return refusal([Problem("request", "cancelled; nothing was changed")], 409)

    @app.errorhandler(StaleVersionError)
    def _stale(error: StaleVersionError) -> Response:
        return refusal(
            [Problem("version", "this starter was changed elsewhere since it was opened here; load it again")], 409
        )

    @app.errorhandler(HTTPException)
    def _http(error: HTTPException) -> Response:
        response = refusal([Problem("request", error.description or error.name)], error.code or 500)
        if isinstance(error, TooManyRequests) and error.retry_after is not None:
            response.headers["Retry-After"] = str(error.retry_after)
        return response

    def front_end(name: str = "index.html") -> Response:
        """The built front end; its own paths all open the one page."""
        if name.startswith("api/"):
            return refusal([Problem("request", f"there is no /{name}")], 404)
        file = name if (dist / name).is_file() else "index.html"
        # The build leaves a compressed copy beside each large file.
        packed = (dist / f"{file}.gz").is_file() and request.accept_encodings.quality("gzip") > 0
        response = send_from_directory(
            dist,
            f"{file}.gz" if packed else file,
            mimetype=mimetypes.guess_type(file)[0],
            max_age=31_536_000 if file.startswith("assets/") else 0,
        )
        if packed:
            response.headers["Content-Encoding"] = "gzip"
        response.headers["Vary"] = "Accept-Encoding"
        return response

    app.add_url_rule("/", view_func=front_end)
    app.add_url_rule("/<path:name>", view_func=front_end)
    return app
