"""The record of a starter in the database: entries added once, seals made, both only ever read afterwards."""

import hashlib
import json
from bisect import bisect_right
from collections.abc import Sequence
from datetime import UTC, datetime
from functools import lru_cache
from typing import Any, NamedTuple, cast

from sqlalchemy import Connection, String, Table, func, insert, select
from sqlalchemy import cast as as_text
from sqlalchemy.orm import Session

from volmek.core.document.errors import ProblemError
from volmek.core.record.bodies import parse_body
from volmek.core.record.chain import Chain, Link, follow, link_digest
from volmek.core.record.history import Measured
from volmek.core.record.journal import Entry
from volmek.store.models import JournalEntry, MeterSetting, Seal, Starter, now
from volmek.store.secret import key_id, keyed, same

_journal = cast(Table, JournalEntry.__table__)
_tag = cast(Table, Starter.__table__).c
_COLUMNS = (_journal.c.id, _journal.c.key, _journal.c.kind, _journal.c.body, _journal.c.who, _journal.c.said, _journal.c.received, _journal.c.seen, _journal.c.signed)  # fmt: skip
_AS_KEPT = (*_COLUMNS[:3], as_text(_journal.c.body, String), _journal.c.who, *(as_text(x, String) for x in (_journal.c.said, _journal.c.received)), _journal.c.seen, _journal.c.signed)  # fmt: skip


class Journal(NamedTuple):
    """A journal as it was read: its entries, and a sentence for each row that cannot be used."""

    entries: list[Entry]
    damaged: list[str]


def read_journal(connection: Connection | Session, starter_id: int, kinds: Sequence[str] = ()) -> Journal:
    """Rows of a starter's journal in the order of arrival, each read on its own: one bad row leaves the others as they are."""
    query = select(*_AS_KEPT).where(_journal.c.starter_id == starter_id).order_by(_journal.c.id)
    if kinds:
        query = query.where(_journal.c.kind.in_(kinds))
    found = Journal([], [])
    for id, key, kind, body, who, said, received, seen, signed in connection.execute(query):
        try:
            found.entries.append(
                Entry(id, key, kind, _body(kind, body), who, _time(said), _time(received), seen, signed)
            )
        except (ProblemError, ValueError, TypeError) as error:
            why = "; ".join(map(str, error.problems)) if isinstance(error, ProblemError) else "its row is damaged"
            found.damaged.append(
                f"Entry {id} cannot be used ({why}): it is left out. Enter it again, or restore a backup."
            )
    return found


@lru_cache(maxsize=65536)
def _body(kind: str, text: str) -> dict[str, Any]:
    """Body of an entry as it was written, once it is known that it can be read; only ever read."""
    body = json.loads(text)
    parse_body(kind, body)
    return cast(dict[str, Any], body)


def _time(kept: str) -> datetime:
    return datetime.fromisoformat(kept).replace(tzinfo=UTC)


def entries(connection: Connection | Session, starter_id: int, kinds: Sequence[str] = ()) -> list[Entry]:
    """Entries of a starter's journal in the order of arrival, or only some kinds of them."""
    return read_journal(connection, starter_id, kinds).entries


def numbers(connection: Connection | Session, starter_id: int) -> dict[str, list[Measured]]:
    """Every number that was measured on a starter, by item; the database reads it out of the entries itself."""
    body, said, sqlite = _journal.c.body, as_text(_journal.c.said, String), _dialect(connection) == "sqlite"
    item = func.json_extract(body, "$.item") if sqlite else func.json_extract_path_text(body, "item")
    value = func.json_extract(body, "$.value") if sqlite else func.json_extract_path_text(body, "value")
    kind = func.json_type(body, "$.value") if sqlite else func.json_typeof(func.json_extract_path(body, "value"))
    query = select(item, value, said, _journal.c.who).where(
        _journal.c.starter_id == starter_id, _journal.c.kind == "reading", kind.not_in(("text", "string"))
    )
    found: dict[str, list[Measured]] = {}
    for item, value, at, who in connection.execute(query.order_by(_journal.c.id)):
        found.setdefault(item, []).append(Measured(datetime.fromisoformat(at).replace(tzinfo=UTC), float(value), who))
    return found


def _dialect(connection: Connection | Session) -> str:
    return (connection.get_bind() if isinstance(connection, Session) else connection).dialect.name


def entry_of_key(connection: Connection | Session, starter_id: int, key: str) -> Entry | None:
    """The entry that was sent under a key."""
    row = connection.execute(
        select(*_COLUMNS).where(_journal.c.starter_id == starter_id, _journal.c.key == key)
    ).first()
    return None if row is None else Entry(*row)


def add_entry(
    connection: Connection | Session, starter_id: int, *, key: str, kind: str, body: dict[str, Any], who: str, said: datetime, seen: int, received: datetime | None = None, signed: bool = False
) -> Entry:  # fmt: skip
    """Add an entry: its number is given by the database, its digest follows that of the entry before.

    The caller holds the write lock, so that two entries never follow the same one.
    """
    received = received or now()
    tag = connection.execute(select(_tag.tag).where(_tag.id == starter_id)).scalar_one()
    known = select(func.count()).where(_journal.c.starter_id == starter_id, _journal.c.id <= seen)
    link = Link(0, tag, key, kind, body, who, said, received, connection.execute(known).scalar_one(), signed=signed)
    values = {
        "tag": tag,
        "digest": link_digest(chain_end(connection, starter_id), link),
        "starter_id": starter_id,
        "key": key,
        "kind": kind,
        "body": body,
        "who": who,
        "said": said,
        "received": received,
        "seen": seen,
        "signed": signed,
    }
    result = connection.execute(insert(_journal).values(**values).returning(_journal.c.id))
    return Entry(result.scalar_one(), key, kind, body, who, said, received, seen, signed)


def chain_end(connection: Connection | Session, starter_id: int) -> str:
    """Digest of a starter's last entry, empty before the first."""
    query = select(_journal.c.digest).where(_journal.c.starter_id == starter_id).order_by(_journal.c.id.desc()).limit(1)
    return connection.execute(query).scalar_one_or_none() or ""


def chain_of(connection: Connection | Session, starter_id: int) -> Chain:
    """The chain of a starter's record, followed from its first entry."""
    return follow(links(connection, starter_id))


def links(connection: Connection | Session, starter_id: int) -> list[Link]:
    """Entries of a starter with their digests, as its chain and a job file hold them."""
    c = _journal.c
    said, received = (as_text(x, String) for x in (c.said, c.received))
    columns = (c.id, c.tag, c.key, c.kind, c.body, c.who, said, received, c.seen, c.digest, c.signed)
    query = select(*columns).where(c.starter_id == starter_id).order_by(c.id)
    found, ids = [], list[int]()
    for id, tag, key, kind, body, who, at, came, seen, digest, signed in connection.execute(query):
        link = Link(
            id, tag, key, kind, body, who, _any_time(at), _any_time(came), bisect_right(ids, seen), digest, signed
        )
        found.append(link)
        ids.append(id)
    return found


def _any_time(kept: str) -> datetime:
    """A time as it is kept; one that cannot be read is one that no entry has, so that the chain breaks at its entry."""
    try:
        return _time(kept)
    except (ValueError, TypeError):
        return datetime.min.replace(tzinfo=UTC)


def has_record(connection: Connection | Session, starter_id: int) -> bool:
    """A starter has entries or seals."""
    return any(
        connection.execute(select(func.count()).select_from(t).where(t.c.starter_id == starter_id)).scalar_one()
        for t in (_journal, cast(Table, Seal.__table__))
    )


def digest_of(document: dict[str, Any], design: dict[str, Any], journal: Sequence[Entry], *, numbered: bool) -> str:
    """SHA-256 over what is sealed, so that a changed copy shows.

    Parameters
    ----------
    numbered : as earlier versions did, with the numbers of the entries, which only the database of the seal has
    """
    whole = {
        "document": document,
        "design": design,
        "journal": [[*([e.id] if numbered else []), e.key, e.kind, e.body, e.who, e.said.isoformat()] for e in journal],
    }
    return hashlib.sha256(json.dumps(whole, sort_keys=True, ensure_ascii=False).encode()).hexdigest()


def seal(
    session: Session,
    starter_id: int,
    who: str,
    document: dict[str, Any],
    design: dict[str, Any],
    *,
    signed: bool = False,
) -> Seal:
    """Freeze a starter as it is built now, keyed with the secret of this installation."""
    journal = entries(session, starter_id)
    digest, chain, made_at = digest_of(document, design, journal, numbered=False), chain_end(session, starter_id), now()
    made = Seal(
        starter_id=starter_id, who=who, sealed=made_at, document=document, design=design, journal_id=journal[-1].id if journal else 0,
        digest=digest, chain=chain, key_id=key_id(), mac=keyed(_sealed_text(who, made_at, digest, chain, signed)), signed=signed,
    )  # fmt: skip
    session.add(made)
    session.flush()
    return made


def _sealed_text(who: str, sealed: datetime, digest: str, chain: str, signed: bool) -> str:
    whole = [who, sealed.astimezone(UTC).isoformat(timespec="microseconds"), digest, chain]
    return json.dumps([*whole, "signed in"] if signed else whole)


def seals(session: Session, starter_id: int) -> list[Seal]:
    """Every seal of a starter, the newest first."""
    return list(session.scalars(select(Seal).where(Seal.starter_id == starter_id).order_by(Seal.id.desc())))


#: In place of the key of a seal of an earlier version that came in a job file.
IMPORTED = "imported"
#: What a seal proves, by its state.
PROVES = {
    "imported": "made by an earlier version and imported: only the database that it was made in can check its digest",
    "intact": "made by this installation; document, figures and entries are unchanged since",
    "unkeyed": "made by an earlier version without a key: unchanged by its digest, which whoever can write the database can make too",
    "other_key": "unchanged by its digest; made with the key of another installation, which is not here to check it",
    "broken": "document, figures or entries were changed after it was made, or the seal was not made by this installation",
}


def seal_state(session: Session, made: Seal) -> str:
    """State of a seal, one of ``PROVES``."""
    journal = [e for e in entries(session, made.starter_id) if e.id <= made.journal_id]
    if not made.mac and made.key_id == IMPORTED:
        return "imported"
    if digest_of(made.document, made.design, journal, numbered=not made.mac) != made.digest:
        return "broken"
    if not made.mac:
        return "unkeyed"
    if made.key_id != key_id():
        return "other_key"
    text = _sealed_text(made.who, made.sealed, made.digest, made.chain, made.signed)
    return "intact" if same(keyed(text), made.mac) else "broken"


def meter_of(session: Session, starter_id: int) -> dict[str, Any] | None:
    """Settings of a starter's meter, None where none were made."""
    row = session.get(MeterSetting, starter_id)
    return None if row is None else row.setting


def set_meter(session: Session, starter_id: int, setting: dict[str, Any]) -> None:
    """Keep the settings of a starter's meter."""
    session.merge(MeterSetting(starter_id=starter_id, setting=setting))
    session.flush()
