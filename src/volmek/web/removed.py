"""The bin: starters taken off their boards, put back, or emptied for good."""

from flask_openapi3.blueprint import APIBlueprint
from pydantic import Field

from volmek.core.document.errors import Problem, ProblemError
from volmek.store.models import Starter
from volmek.store.repository import bin_of, empty, put_back, read_starter
from volmek.web.access import author
from volmek.web.common import REFUSED, audited, found, new_session, operation_id, writing
from volmek.web.results import result_of
from volmek.web.schemas import Output, StarterPath
from volmek.web.starters import BinOut, RemovedBy, StarterOut, starter_out

bp = APIBlueprint("removed", __name__, url_prefix="/api", operation_id_callback=operation_id)


class EmptyQuery(RemovedBy):
    """Name of the person who empties, and the tag once more, typed."""

    tag: str = Field(min_length=1, max_length=40)


class EmptiedOut(Output):
    """End of the record of a starter that is gone for good."""

    tag: str
    entries: int
    digest: str


@bp.get("/bin", responses={200: BinOut})
def get_bin() -> BinOut:
    """Starters in the bin."""
    with new_session() as session:
        return BinOut(starters=bin_of(session))


@bp.post("/bin/<int:starter_id>/put-back", responses={200: StarterOut, **REFUSED})
def put_starter_back(path: StarterPath) -> StarterOut:
    """Put a starter back on its board, as it was."""
    with writing() as session:
        put_back(session, path.starter_id)
        kept = read_starter(session, path.starter_id)
        return starter_out(kept, result_of(session, kept))


@bp.delete("/bin/<int:starter_id>", responses={200: EmptiedOut, **REFUSED})
def empty_starter(path: StarterPath, query: EmptyQuery) -> EmptiedOut:
    """Take a starter out of the bin for good; of its record only the end of the chain is kept."""
    with writing() as session:
        starter = found(session, Starter, path.starter_id, binned=True)
        if query.tag != starter.tag:
            raise ProblemError([Problem("tag", f"type {starter.tag} to remove it for good")])
        audited(f"{starter.board.name} {starter.tag} (starter {path.starter_id})")
        left = empty(session, path.starter_id, author(query.who)[0])
        return EmptiedOut(tag=left.tag, entries=left.entries, digest=left.digest)
