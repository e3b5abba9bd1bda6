"""Long requests: how far they are, that they can be cancelled, and a queue for those that nobody need wait for.

A request that may take long carries a key of its client's choice in ``X-Work``; under it others ask how far it is, and cancel it. With
``Prefer: respond-async`` (RFC 7240) it is put into the queue and answered 202 at once; its own answer is fetched under the key when it is there.
"""

import io
import sys
import threading
import time
from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import dataclass, field
from typing import Any

from flask import Flask, Response, current_app, g, request
from flask_openapi3.blueprint import APIBlueprint
from pydantic import BaseModel, Field
from werkzeug.exceptions import BadRequest, NotFound, ServiceUnavailable
from werkzeug.test import run_wsgi_app

from volmek.files.sheet import sheet_pdf
from volmek.store.progress import Shared
from volmek.web.access import signed_in
from volmek.web.common import NOT_FOUND, REFUSED, operation_id
from volmek.web.schemas import Output

bp = APIBlueprint("work", __name__, url_prefix="/api", operation_id_callback=operation_id)
HEADER = "X-Work"
#: Long requests that run at once, and that may wait beside them.
AT_ONCE, MOST = 2, 40
#: While something long runs, threads that compute give way so soon: a save waits for a few of these turns, not of Python's usual ones.
TURN_S = 0.0005
#: How long an answer is kept for whoever asked; the oldest go sooner where there are many.
KEPT_S = 600.0
#: Marks a request that runs in the queue, so that it is not put there again.
QUEUED = "volmek.queued"


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
    owner : who has signed in and asked; another one does not see it
    answer : status, headers and body, when it ran in the queue and is done
    at : when that was, in seconds of the clock that only goes forward
    shared : where other processes see how far it is, None where there are none
    """

    words: str = "waiting"
    done: int = 0
    of: int = 0
    stop: threading.Event = field(default_factory=threading.Event)
    owner: str = ""
    answer: tuple[int, list[tuple[str, str]], bytes] | None = None
    at: float = 0.0
    shared: Shared | None = None

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
        if self.shared is not None and self.shared.tell(words, done, of):
            self.stop.set()
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
    ServiceUnavailable : it cannot be laid out.
    """
    work = working()
    began = time.monotonic()
    try:
        return sheet_pdf(html, lambda: work.step(f"laying out the pages, {time.monotonic() - began:.0f} s"))
    except OSError as error:
        words = f"The paper could not be laid out ({error}). Nothing that is saved was touched: try again, or print the page that is shown from the browser."
        raise ServiceUnavailable(words) from None


class Queue:
    """Long requests of one process, by their keys."""

    def __init__(self, app: Flask) -> None:
        self.app = app
        self.works: dict[str, Work] = {}
        self._pool = ThreadPoolExecutor(AT_ONCE, "long-request")
        self._lock = threading.Lock()
        self._waiting = 0
        self._usual_turn_s = sys.getswitchinterval()

    def begin(self, key: str, owner: str) -> Work:
        """Keep the work of a request under its key.

        Raises
        ------
        BadRequest : another request has the key now.
        """
        engine = self.app.extensions["engine"]
        with self._lock:
            self._forget()
            if key in self.works:
                raise BadRequest(f"{HEADER} is a key of at most 64 letters that no other request has now")
            work = self.works[key] = Work(owner=owner)
        if engine.dialect.name == "postgresql":
            work.shared = Shared(engine, key, owner)
        return work

    def end(self, key: str) -> None:
        """Forget a request that was answered."""
        work = self.works.pop(key, None)
        if work is not None and work.shared is not None:
            work.shared.end()

    def _forget(self) -> None:
        over = time.monotonic() - KEPT_S
        done = sorted((w.at, key) for key, w in self.works.items() if w.answer is not None)
        for n, (at, key) in enumerate(done):
            if at < over or n < len(done) - MOST:
                self.end(key)

    def put(self, key: str, environ: dict[str, Any]) -> None:
        """Run a request when its turn comes, and keep its answer.

        Raises
        ------
        ServiceUnavailable : too many wait already.
        """
        with self._lock:
            if self._waiting >= MOST:
                self.end(key)
                raise ServiceUnavailable(f"{MOST} long requests wait already: try again when some are done")
            self._waiting += 1
            sys.setswitchinterval(TURN_S)
        work = self.works[key]

        def run() -> None:
            try:
                body, status, headers = run_wsgi_app(self.app.wsgi_app, environ, buffered=True)
                answer = (int(status[:3]), [(k, v) for k, v in headers if k != "Content-Length"], b"".join(body))
            except Exception:
                self.app.logger.exception("a long request failed")
                answer = (500, [("Content-Type", "text/plain")], b"this failed inside the server")
            work.at, work.answer = time.monotonic(), answer
            if work.shared is not None:
                work.shared.answer(answer)

        def over(_: "Future[None]") -> None:
            with self._lock:
                self._waiting -= 1
                if self._waiting == 0:
                    sys.setswitchinterval(self._usual_turn_s)

        self._pool.submit(run).add_done_callback(over)

    def close(self) -> None:
        """Cancel everything: what runs ends at its next step."""
        for work in self.works.values():
            work.stop.set()
        self._pool.shutdown(wait=False, cancel_futures=True)


def queue() -> Queue:
    """The queue of this application."""
    found: Queue = current_app.extensions["queue"]
    return found


def _owner() -> str:
    user = signed_in()
    return user.name if user else ""


@bp.before_app_request
def _begin() -> tuple[dict[str, str], int] | None:
    """Keep the work of a request under its key; one that nobody need wait for goes into the queue."""
    key = request.headers.get(HEADER)
    if not key:
        return None
    if QUEUED in request.environ:
        g.work = queue().works[key]
        return None
    if len(key) > 64:
        raise BadRequest(f"{HEADER} is a key of at most 64 letters that no other request has now")
    work = queue().begin(key, _owner())
    if "respond-async" in request.headers.get("Prefer", ""):
        body = request.get_data()
        kept = {k: v for k, v in request.environ.items() if k.isupper() or k.startswith("wsgi.")}
        queue().put(key, kept | {"wsgi.input": io.BytesIO(body), "CONTENT_LENGTH": str(len(body)), QUEUED: True})
        return {"key": key}, 202
    g.work_key, g.work = key, work
    return None


@bp.teardown_app_request
def _end(_: BaseException | None) -> None:
    """Forget it, however the request has ended; the queue keeps its own until they are fetched."""
    if "work_key" in g:
        queue().end(g.work_key)


class WorkPath(BaseModel):
    """A long request by its key."""

    key: str = Field(max_length=64)


class WorkOut(Output):
    """Progress of a request: step, and count of how many (of 0 where it is not known)."""

    words: str
    done: int
    of: int


def _found(key: str) -> Work:
    work = queue().works.get(key)
    if work is None or work.owner != _owner():
        raise NotFound("this request is not being worked on: it is done, or it has not begun")
    return work


def _elsewhere(key: str) -> Shared | None:
    """A request that another process works on, None where there is none."""
    engine = current_app.extensions["engine"]
    if key in queue().works or engine.dialect.name != "postgresql":
        return None
    return Shared.found(engine, key, _owner())


@bp.get("/requests/<string:key>", responses={200: WorkOut, **NOT_FOUND})
def how_far(path: WorkPath) -> WorkOut:
    """Progress of a long request."""
    if (other := _elsewhere(path.key)) is not None:
        words, done, of = other.far()
        return WorkOut.model_construct(words=words, done=done, of=of)
    work = _found(path.key)
    return WorkOut.model_construct(words=work.words, done=work.done, of=work.of)


@bp.get("/requests/<string:key>/answer", responses={202: WorkOut, **REFUSED})
def long_answer(path: WorkPath) -> Response | tuple[WorkOut, int]:
    """The answer of a request in the queue, once and as it would have been at once; 202 until it is there."""
    other = _elsewhere(path.key)
    answer = other.take() if other is not None else _found(path.key).answer
    if answer is None:
        return how_far(path), 202
    if other is None:
        queue().end(path.key)
    status, headers, body = answer
    response = Response(body, status)
    for name, value in headers:
        response.headers[name] = value
    return response


@bp.delete("/requests/<string:key>", responses={204: None, **NOT_FOUND})
def cancel_work(path: WorkPath) -> tuple[str, int]:
    """Cancel a long request; it ends at its next step, and nothing of it is kept."""
    if (other := _elsewhere(path.key)) is not None:
        other.cancel()
    else:
        _found(path.key).stop.set()
    return "", 204
