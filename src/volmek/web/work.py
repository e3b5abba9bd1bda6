"""Long requests: how far they are, and that they can be cancelled.

A request that may take long carries a key of its client's choice in ``X-Work``; under it others ask how far it is, and cancel it.
"""

import threading
import time
from collections.abc import Callable
from dataclasses import dataclass, field

from flask import current_app, g, request
from flask_openapi3.blueprint import APIBlueprint
from pydantic import BaseModel, Field
from werkzeug.exceptions import BadRequest, NotFound

from volmek.files.sheet import sheet_pdf
from volmek.web.common import NOT_FOUND, operation_id
from volmek.web.schemas import Output

bp = APIBlueprint("work", __name__, url_prefix="/api", operation_id_callback=operation_id)
HEADER = "X-Work"


class CancelledError(Exception):
    """Whoever asked has cancelled it."""


@dataclass
class Work:
    """One long request.

    Attributes
    ----------
    words : what is being done
    done, of : how many of how many; ``of`` is 0 where nobody can say
    stop : set when it is cancelled
    """

    words: str = "waiting"
    done: int = 0
    of: int = 0
    stop: threading.Event = field(default_factory=threading.Event)

    @property
    def cancelled(self) -> bool:
        """Somebody has cancelled it."""
        return self.stop.is_set()

    def check(self) -> None:
        """Nothing new to say.

        Raises
        ------
        CancelledError : it has been cancelled.
        """
        self.step(self.words, self.done, self.of)

    def step(self, words: str, done: int = 0, of: int = 0) -> None:
        """Say what is done now.

        Raises
        ------
        CancelledError : it has been cancelled.
        """
        if self.cancelled:
            raise CancelledError
        self.words, self.done, self.of = words, done, of

    def counted(self, words: str) -> Callable[[int, int], None]:
        """For what counts its own steps: say how many of how many."""
        return lambda done, of: self.step(words, done, of)


def working() -> Work:
    """The work of this request; one that nobody looks at where it carries no key."""
    found: Work = g.setdefault("work", Work())
    return found


def laid_out(html: str) -> bytes:
    """A paper as PDF, within this request: cancelled with it.

    Raises
    ------
    CancelledError : the request has been cancelled.
    """
    work = working()
    began = time.monotonic()
    return sheet_pdf(html, lambda: work.step(f"laying out the pages, {time.monotonic() - began:.0f} s"))


def _works() -> dict[str, Work]:
    found: dict[str, Work] = current_app.extensions.setdefault("works", {})
    return found


@bp.before_app_request
def _begin() -> None:
    """Keep the work of a request under its key."""
    key = request.headers.get(HEADER)
    if not key:
        return
    if len(key) > 64 or key in _works():
        raise BadRequest(f"{HEADER} is a key of at most 64 letters that no other request has now")
    g.work_key = key
    g.work = _works()[key] = Work()


@bp.teardown_app_request
def _end(_: BaseException | None) -> None:
    """Forget it, however the request has ended."""
    if "work_key" in g:
        _works().pop(g.work_key, None)


class WorkPath(BaseModel):
    """A long request by its key."""

    key: str = Field(max_length=64)


class WorkOut(Output):
    """Progress of a request: step, and count of how many (of 0 where it is not known)."""

    words: str
    done: int
    of: int


def _found(key: str) -> Work:
    work = _works().get(key)
    if work is None:
        raise NotFound("this request is not being worked on: it is done, or it has not begun")
    return work


@bp.get("/requests/<string:key>", responses={200: WorkOut, **NOT_FOUND})
def how_far(path: WorkPath) -> WorkOut:
    """Progress of a long request."""
    work = _found(path.key)
    return WorkOut.model_construct(words=work.words, done=work.done, of=work.of)


@bp.delete("/requests/<string:key>", responses={204: None, **NOT_FOUND})
def cancel_work(path: WorkPath) -> tuple[str, int]:
    """Cancel a long request; it ends at its next step, and nothing of it is kept."""
    _found(path.key).stop.set()
    return "", 204
