"""How far a long request is, where several processes serve one database: each of them can be asked."""

import json
import time
from typing import Any

from sqlalchemy import Engine, delete, select, update
from sqlalchemy.orm import Session

from volmek.store.engine import each_statement
from volmek.store.models import WorkState, now

#: A step is written at most so often.
EVERY_S = 0.5
Answer = tuple[int, list[tuple[str, str]], bytes]


class Shared:
    """A long request as a row that every process sees."""

    def __init__(self, engine: Engine, key: str, owner: str, *, there: bool = False) -> None:
        self.engine, self.key = engine, key
        self._told = 0.0
        if not there:
            with self._session() as session:
                session.add(WorkState(key=key, owner=owner, words="waiting", done=0, of=0))
                session.commit()

    def _session(self) -> Session:
        # Without the writers' lock, which a save may be waiting for; who works and who cancels may write the same row.
        return Session(each_statement(self.engine))

    @classmethod
    def found(cls, engine: Engine, key: str, owner: str) -> "Shared | None":
        """The request under a key, None where there is none of this owner."""
        with Session(engine) as session:
            there = session.scalar(select(WorkState.key).where(WorkState.key == key, WorkState.owner == owner))
        return cls(engine, key, owner, there=True) if there else None

    def tell(self, words: str, done: int, of: int) -> bool:
        """Write how far it is, not too often; True when somebody has cancelled it."""
        if time.monotonic() - self._told < EVERY_S:
            return False
        self._told = time.monotonic()
        return self._set(words=words[:200], done=done, of=of)

    def _set(self, **values: Any) -> bool:
        with self._session() as session:
            query = update(WorkState).where(WorkState.key == self.key).values(changed=now(), **values)
            stop = session.execute(query.returning(WorkState.stop)).scalar_one_or_none()
            session.commit()
        return bool(stop)

    def far(self) -> tuple[str, int, int]:
        """Step, and how many of how many."""
        with self._session() as session:
            row = session.get(WorkState, self.key)
        return (row.words, row.done, row.of) if row else ("done", 0, 0)

    def cancel(self) -> None:
        """Ask whoever works on it to stop."""
        self._set(stop=True)

    def answer(self, answer: Answer) -> None:
        """Keep the answer for whoever asks for it."""
        status, headers, body = answer
        self._set(status=status, headers=json.dumps(headers), body=body)

    def take(self) -> Answer | None:
        """The answer, once; None while it is not there."""
        with self._session() as session:
            row = session.get(WorkState, self.key)
            if row is None or row.status is None:
                return None
            headers = [(str(k), str(v)) for k, v in json.loads(row.headers)]
            found = (row.status, headers, row.body)
        self.end()
        return found

    def end(self) -> None:
        """Forget it."""
        with self._session() as session:
            session.execute(delete(WorkState).where(WorkState.key == self.key))
            session.commit()
