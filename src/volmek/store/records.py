"""The record of a starter in the database: entries added once, seals made, both only ever read afterwards."""

import hashlib
import json
from collections.abc import Sequence
from datetime import UTC, datetime
from typing import Any, cast

from sqlalchemy import Connection, String, Table, func, insert, select, type_coerce
from sqlalchemy.orm import Session

from volmek.core.record.history import Measured
from volmek.core.record.journal import Entry
from volmek.store.models import JournalEntry, MeterSetting, Seal, now

_journal = cast(Table, JournalEntry.__table__)
_COLUMNS = (_journal.c.id, _journal.c.key, _journal.c.kind, _journal.c.body, _journal.c.who, _journal.c.said, _journal.c.received, _journal.c.seen)  # fmt: skip


def entries(connection: Connection | Session, starter_id: int, kinds: Sequence[str] = ()) -> list[Entry]:
    """Entries of a starter's journal in the order of arrival, or only some kinds of them."""
    query = select(*_COLUMNS).where(_journal.c.starter_id == starter_id).order_by(_journal.c.id)
    if kinds:
        query = query.where(_journal.c.kind.in_(kinds))
    return [Entry(*row) for row in connection.execute(query)]


def numbers(connection: Connection | Session, starter_id: int) -> dict[str, list[Measured]]:
    """Every number that was measured on a starter, by item; SQLite reads it out of the entries itself."""
    body, said = _journal.c.body, type_coerce(_journal.c.said, String)
    query = select(func.json_extract(body, "$.item"), func.json_extract(body, "$.value"), said, _journal.c.who).where(
        _journal.c.starter_id == starter_id, _journal.c.kind == "reading", func.json_type(body, "$.value") != "text"
    )
    found: dict[str, list[Measured]] = {}
    for item, value, at, who in connection.execute(query.order_by(_journal.c.id)):
        found.setdefault(item, []).append(Measured(datetime.fromisoformat(at).replace(tzinfo=UTC), float(value), who))
    return found


def entry_of_key(connection: Connection | Session, starter_id: int, key: str) -> Entry | None:
    """The entry that was sent under a key."""
    row = connection.execute(
        select(*_COLUMNS).where(_journal.c.starter_id == starter_id, _journal.c.key == key)
    ).first()
    return None if row is None else Entry(*row)


def add_entry(
    connection: Connection | Session, starter_id: int, *, key: str, kind: str, body: dict[str, Any], who: str, said: datetime, seen: int, received: datetime | None = None
) -> Entry:  # fmt: skip
    """Add an entry; its number is given by the database."""
    received = received or now()
    values = {
        "starter_id": starter_id,
        "key": key,
        "kind": kind,
        "body": body,
        "who": who,
        "said": said,
        "received": received,
        "seen": seen,
    }
    result = connection.execute(insert(_journal).values(**values).returning(_journal.c.id))
    return Entry(result.scalar_one(), key, kind, body, who, said, received, seen)


def has_record(connection: Connection | Session, starter_id: int) -> bool:
    """A starter has entries or seals."""
    return any(
        connection.execute(select(func.count()).select_from(t).where(t.c.starter_id == starter_id)).scalar_one()
        for t in (_journal, cast(Table, Seal.__table__))
    )


def digest_of(document: dict[str, Any], design: dict[str, Any], journal: Sequence[Entry]) -> str:
    """SHA-256 over what is sealed, so that a changed copy shows."""
    whole = {
        "document": document,
        "design": design,
        "journal": [[e.id, e.key, e.kind, e.body, e.who, e.said.isoformat()] for e in journal],
    }
    return hashlib.sha256(json.dumps(whole, sort_keys=True, ensure_ascii=False).encode()).hexdigest()


def seal(session: Session, starter_id: int, who: str, document: dict[str, Any], design: dict[str, Any]) -> Seal:
    """Freeze a starter as it is built now."""
    journal = entries(session, starter_id)
    made = Seal(
        starter_id=starter_id, who=who, document=document, design=design, journal_id=journal[-1].id if journal else 0,
        digest=digest_of(document, design, journal),
    )  # fmt: skip
    session.add(made)
    session.flush()
    return made


def seals(session: Session, starter_id: int) -> list[Seal]:
    """Every seal of a starter, the newest first."""
    return list(session.scalars(select(Seal).where(Seal.starter_id == starter_id).order_by(Seal.id.desc())))


def unbroken(session: Session, made: Seal) -> bool:
    """The sealed content is unchanged."""
    journal = [e for e in entries(session, made.starter_id) if e.id <= made.journal_id]
    return digest_of(made.document, made.design, journal) == made.digest


def meter_of(session: Session, starter_id: int) -> dict[str, Any] | None:
    """Settings of a starter's meter, None where none were made."""
    row = session.get(MeterSetting, starter_id)
    return None if row is None else row.setting


def set_meter(session: Session, starter_id: int, setting: dict[str, Any]) -> None:
    """Keep the settings of a starter's meter."""
    session.merge(MeterSetting(starter_id=starter_id, setting=setting))
    session.flush()
