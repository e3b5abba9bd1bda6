"""The chain of a record: each entry holds the digest of the one before, so that a change, a removal or an insertion shows."""

import hashlib
import json
from collections.abc import Iterable
from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Any


@dataclass(frozen=True, slots=True)
class Link:
    """An entry with its digest.

    Attributes
    ----------
    id : number in the journal, counting up
    tag : tag of the starter that the entry was made for; empty in entries of earlier versions
    key, kind, body, who, said, received : as in ``journal.Entry``
    seen : how many entries of this starter the writer knew; not their numbers, which differ between databases
    digest : of this entry and all before it; empty inside the block of entries made before records had a chain
    signed : who wrote it had signed in; not part of the digest where nobody had, as in entries of earlier versions
    """

    id: int
    tag: str
    key: str
    kind: str
    body: dict[str, Any]
    who: str
    said: datetime
    received: datetime
    seen: int
    digest: str = ""
    signed: bool = False


def link_digest(before: str, link: Link) -> str:
    """SHA-256 of an entry and of the digest before it.

    Parameters
    ----------
    before : digest of the entry before, empty for the first
    link : the entry; its own digest is not read

    Examples
    --------
    >>> noon = datetime(2026, 3, 2, 12, tzinfo=UTC)
    >>> first = Link(1, "A-1", "k1", "reading", {"item": "load.L1", "value": 9.5}, "Ann", noon, noon, 0)
    >>> link_digest("", first)[:12], link_digest("x", first)[:12]
    ('e637cf6a3a25', 'ee2f9f1bd7a4')
    """
    whole = [before, link.tag, link.key, link.kind, link.body, link.who, _at(link.said), _at(link.received), link.seen]
    whole += ["signed in"] if link.signed else []
    return hashlib.sha256(json.dumps(whole, sort_keys=True, ensure_ascii=False).encode()).hexdigest()


def _at(moment: datetime) -> str:
    return moment.astimezone(UTC).isoformat(timespec="microseconds")


@dataclass(frozen=True, slots=True)
class Chain:
    """A chain followed from its first entry.

    Attributes
    ----------
    entries : how many were read
    block : how many of them are proven only together, made before records had a chain
    end : digest of the last entry, empty without entries
    broken : id of the first entry whose digest does not follow, None where all do
    """

    entries: int
    block: int
    end: str
    broken: int | None


def follow(links: Iterable[Link]) -> Chain:
    """Follow the chain of one starter, its entries in the order of their numbers.

    Raises nothing: a broken chain is told by ``broken``, where the entry itself or one before it was changed, taken out or put in.

    Examples
    --------
    >>> follow([])
    Chain(entries=0, block=0, end='', broken=None)
    """
    digest, end, count, block, last = "", "", 0, 0, 0
    for link in links:
        count, last = count + 1, link.id
        digest = link_digest(digest, link)
        if not link.digest and not end:
            block += 1
            continue
        if link.digest != digest:
            return Chain(count, block, end, link.id)
        if not end and block:
            block += 1
        end = digest
    return Chain(count, block, end, last if count and not end else None)


def broken_words(chain: Chain, tag: str) -> str:
    """A broken chain in one sentence, empty where it holds.

    Examples
    --------
    >>> broken_words(Chain(9, 0, "", 4), "KG-101")
    'The record of KG-101 was changed outside the application at entry 4 or before it: compare it with a backup.'
    """
    if chain.broken is None:
        return ""
    return f"The record of {tag} was changed outside the application at entry {chain.broken} or before it: compare it with a backup."
