"""Shared by all blueprints: sessions, rows by their number, answers to missing or refused requests."""

import io
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any, TypeVar

from flask import Response, current_app, g, send_file
from pydantic import BaseModel
from sqlalchemy import Connection, Engine
from sqlalchemy.orm import Session
from werkzeug.exceptions import NotFound

from volmek.core.catalogue.catalogue import Catalogue
from volmek.core.document.errors import Problem
from volmek.core.document.model import StarterDocument, parse
from volmek.store.catalogues import catalogue_for, with_kept
from volmek.store.engine import writer
from volmek.store.models import Board, Starter
from volmek.store.repository import Kept, absent, read_starter
from volmek.web.access import noted
from volmek.web.schemas import ProblemOut, ProblemsOut

Row = TypeVar("Row")

Responses = dict[str | int, type[BaseModel] | dict[Any, Any] | None]
NOT_FOUND: Responses = {404: ProblemsOut}
REFUSED: Responses = {404: ProblemsOut, 409: ProblemsOut, 422: ProblemsOut}
PDF = {"content": {"application/pdf": {"schema": {"type": "string", "format": "binary"}}}}
CSV = {"content": {"text/csv": {"schema": {"type": "string"}}}}
SVG = {"content": {"image/svg+xml": {"schema": {"type": "string"}}}}
HTML = {"content": {"text/html": {"schema": {"type": "string"}}}}


def operation_id(*, bp_name: str, name: str, path: str, method: str) -> str:
    """The view's own name; unique in the API."""
    return name


def new_session(*, write: bool = False) -> Session:
    """A session on the application's database."""
    engine: Engine = current_app.extensions["engine"]
    return Session(writer(engine) if write else engine, expire_on_commit=False)


@contextmanager
def writing(subject: str = "") -> Iterator[Session]:
    """A session whose transaction holds the write lock and is committed at the end, with a line on the list of changes.

    Parameters
    ----------
    subject : what it is about, for that list; by default the starter, board or catalogue in the address
    """
    if subject:
        audited(subject)
    with new_session(write=True) as session, session.begin():
        yield session
        session.flush()
        noted(session)


def audited(subject: str) -> None:
    """Say what a change is about, for the list of changes."""
    g.audited = subject


def catalogue_of(connection: Connection | Session, kept: Kept, *, unchanged: bool = True) -> Catalogue:
    """Catalogue of a starter's board, with the devices that its design keeps."""
    engine: Engine = current_app.extensions["engine"]
    offered = catalogue_for(connection, engine, kept.catalogues)
    return with_kept(offered, kept.devices, unchanged)


def board_catalogue(session: Session, board: Board) -> Catalogue:
    """Catalogue for a new starter of a board."""
    return catalogue_for(session, current_app.extensions["engine"], board.catalogues)


def found(session: Session, model: type[Row], id: int, *, binned: bool = False) -> Row:
    """A row by its number, else a 404 in words; a starter in the bin only where it is asked for."""
    row = session.get(model, id)
    if row is None or (isinstance(row, Starter) and (row.removed is not None) != binned):
        if binned and row is not None:
            raise NotFound(f"there is no starter {id} in the bin")
        raise NotFound(absent(session, id) if model is Starter else f"there is no {model.__name__.lower()} {id}")
    return row


def problems_out(problems: tuple[Problem, ...] | list[Problem]) -> list[ProblemOut]:
    """Problems as the API says them."""
    return [ProblemOut.model_construct(field=p.field, message=p.message, missing=p.missing) for p in problems]


def looked_at(starter_id: int, *, unchanged: bool = True) -> tuple[StarterDocument, Catalogue, Kept]:
    """The saved document of a starter, and the catalogue of its design, or another one."""
    with new_session() as session:
        starter = read_starter(session, starter_id)
        return parse(starter.document), catalogue_of(session, starter, unchanged=unchanged), starter


def download(data: bytes, name: str, mimetype: str) -> Response:
    """A file to be saved under a name."""
    return send_file(io.BytesIO(data), mimetype=mimetype, as_attachment=True, download_name=name)
