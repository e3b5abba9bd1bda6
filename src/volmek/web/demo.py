"""Fills an empty database with the invented Thornebeck Maltings."""

import json

from sqlalchemy import Engine, select
from sqlalchemy.orm import Session

from volmek.core.document import parse
from volmek.data.loader import demo
from volmek.store.models import Board
from volmek.store.repository import create_board, create_starter


def fill(engine: Engine) -> None:
    """Make the demo boards, unless the database has boards already."""
    with Session(engine) as session, session.begin():
        if session.scalar(select(Board.id).limit(1)) is not None:
            return
        for b in json.loads(demo("thornebeck.json"))["boards"]:
            board = create_board(session, b["job"], b["name"], b["title"], b["defaults"])
            for document in b["starters"]:
                create_starter(session, board, parse(document))
