"""Fills an empty database with the invented Thornebeck Maltings."""

import json

from sqlalchemy import Engine, select
from sqlalchemy.orm import Session

from volmek.core.catalogue.catalogue import reference_catalogue
from volmek.core.design import in_use
from volmek.core.document.errors import ProblemError
from volmek.core.document.model import parse
from volmek.core.sizing import size
from volmek.data.loader import demo
from volmek.store.catalogues import kept_text
from volmek.store.models import Board, Starter
from volmek.store.repository import create_board, create_starter
from volmek.web.demo_records import fill_records


def fill(engine: Engine) -> None:
    """Make the demo boards, unless the database has boards already."""
    with Session(engine) as session, session.begin():
        if session.scalar(select(Board.id).limit(1)) is not None:
            return
        starters: dict[str, Starter] = {}
        for b in json.loads(demo("thornebeck.json"))["boards"]:
            board = create_board(session, b["job"], b["name"], b["title"], b["defaults"])
            for data in b["starters"]:
                document = parse(data)
                try:
                    devices = kept_text(in_use(size(document, reference_catalogue()).design, reference_catalogue()))
                except ProblemError:  # incomplete on purpose
                    devices = "{}"
                starters[document.tag] = create_starter(session, board, document, devices)
        fill_records(session, starters)
