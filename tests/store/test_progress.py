"""How far a long request is, seen by every process: who works on it and who cancels it write the same row at once."""

import threading

from sqlalchemy import Engine

from databases import ON_SERVERS
from volmek.store import progress
from volmek.store.progress import Shared


@ON_SERVERS
def test_who_cancels_and_who_works_do_not_trip_each_other(engine_here: Engine) -> None:
    progress_at_once, mine = progress.EVERY_S, Shared(engine_here, "a-key", "Ann")
    progress.EVERY_S = 0.0
    try:
        assert Shared.found(engine_here, "a-key", "Bob") is None, "another's is not seen"
        other = Shared.found(engine_here, "a-key", "Ann")
        assert other is not None and other.take() is None and other.far() == ("waiting", 0, 0)
        cancelling = threading.Thread(target=lambda: [other.cancel() for _ in range(100)])
        cancelling.start()
        stopped = [mine.tell(f"step {n}", n, 100) for n in range(100)]
        cancelling.join()
        assert stopped[-1] is True or mine.tell("last", 100, 100) is True
        mine.answer((200, [("Content-Type", "text/plain")], b"done"))
        assert other.take() == (200, [("Content-Type", "text/plain")], b"done") and other.take() is None
    finally:
        progress.EVERY_S = progress_at_once
