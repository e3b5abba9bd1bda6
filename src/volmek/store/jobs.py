"""A whole job as one file that needs no database: boards, starters with history and record, and the catalogues they choose from."""

import json
from collections import Counter
from collections.abc import Iterable, Sequence
from datetime import UTC, datetime
from typing import Any, cast

from pydantic import AwareDatetime, BaseModel, ConfigDict, Field, ValidationError
from sqlalchemy import Table, insert, select
from sqlalchemy.orm import Session

from volmek.core.catalogue.device_types import TABLES
from volmek.core.document.errors import Problem, ProblemError
from volmek.core.document.model import parse, problems_of
from volmek.core.record.bodies import parse_body
from volmek.core.record.chain import Link, follow
from volmek.store.catalogues import SHIPPED, cells_of, numbers_of, read_devices
from volmek.store.models import (
    Board,
    Catalogue,
    CatalogueDevice,
    Job,
    JournalEntry,
    MeterSetting,
    OverrideNote,
    Revision,
    Seal,
    Starter,
    now,
)
from volmek.store.records import IMPORTED, links

VERSION = 1
Cells = dict[str, Any]


class Part(BaseModel):
    """A part of a job file; unknown fields are errors."""

    model_config = ConfigDict(extra="forbid")


class RevisionPart(Part):
    """A state to go back to."""

    change: str = Field(max_length=200)
    saved: AwareDatetime
    document: Cells


class NotePart(Part):
    """A reason for a choice."""

    role: str = Field(max_length=40)
    choice: str = Field(max_length=200)
    reason: str = Field(max_length=300)
    noted: AwareDatetime


class EntryPart(Part):
    """An entry of a record, with its digest; ``seen`` counts the entries that the writer knew."""

    tag: str = Field(max_length=40)
    key: str = Field(min_length=1, max_length=64)
    kind: str = Field(max_length=20)
    body: Cells
    who: str = Field(max_length=80)
    said: AwareDatetime
    received: AwareDatetime
    seen: int = Field(ge=0)
    digest: str = Field(max_length=64)
    signed: bool = False


class SealPart(Part):
    """A seal, over so many entries."""

    who: str = Field(max_length=80)
    sealed: AwareDatetime
    document: Cells
    design: Cells
    entries: int = Field(ge=0)
    digest: str = Field(max_length=64)
    chain: str = Field(max_length=64)
    key_id: str = Field(max_length=16)
    mac: str = Field(max_length=64)
    signed: bool = False


class StarterPart(Part):
    """A starter with everything that belongs to it."""

    tag: str = Field(max_length=40)
    document: Cells
    devices: str
    saved: AwareDatetime
    revisions: list[RevisionPart] = Field(max_length=20_000)
    reasons: list[NotePart] = Field(max_length=20_000)
    record: list[EntryPart] = Field(max_length=200_000)
    seals: list[SealPart] = Field(max_length=1000)
    meter: Cells | None = None


class BoardPart(Part):
    """A board; an empty name among its catalogues is the shipped one."""

    name: str = Field(min_length=1, max_length=40)
    title: str = Field(max_length=120)
    defaults: Cells
    catalogues: list[str]
    starters: list[StarterPart] = Field(max_length=20_000)


class CataloguePart(Part):
    """A catalogue, its rows as cells by table."""

    name: str = Field(min_length=1, max_length=80)
    devices: dict[str, list[dict[str, str]]]


class JobFile(Part):
    """A whole job."""

    volmek_job: int
    job: str = Field(min_length=1, max_length=120)
    exported: AwareDatetime
    catalogues: list[CataloguePart] = Field(max_length=200)
    boards: list[BoardPart] = Field(max_length=2000)


def export_job(session: Session, job: Job) -> str:
    """A job as JSON text. What lies in the bin is left out."""
    used = sorted({n for b in job.boards for n in numbers_of(b.catalogues)} - {SHIPPED})
    names = {SHIPPED: ""} | {c.id: c.name for c in session.scalars(select(Catalogue).where(Catalogue.id.in_(used)))}
    catalogues = [CataloguePart(name=names[id], devices=cells_of(session, id)) for id in used if id in names]
    boards = [
        BoardPart(
            name=b.name, title=b.title, defaults=b.defaults, catalogues=[names[n] for n in numbers_of(b.catalogues) if n in names],
            starters=[_starter_part(session, s) for s in b.starters],
        )
        for b in job.boards
    ]  # fmt: skip
    file = JobFile(volmek_job=VERSION, job=job.name, exported=now(), catalogues=catalogues, boards=boards)
    return file.model_dump_json(indent=1)


def _starter_part(session: Session, s: Starter) -> StarterPart:
    of = s.id
    chain = links(session, of)
    ids = [x.id for x in chain]
    meter = session.get(MeterSetting, of)
    return StarterPart(
        tag=s.tag,
        document=s.document,
        devices=s.devices,
        saved=s.saved,
        revisions=[RevisionPart(change=r.change, saved=r.saved, document=r.document) for r in session.scalars(select(Revision).where(Revision.starter_id == of).order_by(Revision.id))],
        reasons=[NotePart(role=n.role, choice=n.choice, reason=n.reason, noted=n.noted) for n in session.scalars(select(OverrideNote).where(OverrideNote.starter_id == of).order_by(OverrideNote.id))],
        record=[EntryPart(tag=x.tag, key=x.key, kind=x.kind, body=x.body, who=x.who, said=x.said, received=x.received, seen=x.seen, digest=x.digest, signed=x.signed) for x in chain],
        seals=[
            SealPart(who=x.who, sealed=x.sealed, document=x.document, design=x.design, entries=sum(i <= x.journal_id for i in ids), digest=x.digest, chain=x.chain, key_id=x.key_id, mac=x.mac, signed=x.signed)
            for x in session.scalars(select(Seal).where(Seal.starter_id == of).order_by(Seal.id))
        ],
        meter=None if meter is None else meter.setting,
    )  # fmt: skip


def read_job(text: str) -> JobFile:
    """A job file, checked: fields, every entry, every document, and the chain of every record.

    Raises
    ------
    ProblemError : what is wrong and where; a record that was changed in the file names its entry.
    """
    try:
        file = JobFile.model_validate_json(text)
    except ValidationError as error:
        raise ProblemError(problems_of(error)[:20]) from None
    if file.volmek_job > VERSION:
        raise ProblemError([Problem("volmek_job", f"this file is of a newer version ({file.volmek_job}); this one reads up to {VERSION}")])  # fmt: skip
    problems: list[Problem] = []
    for b in file.boards:
        for s in b.starters:
            at = f"{b.name}.{s.tag}"
            try:
                parse(s.document)
                for e in s.record:
                    parse_body(e.kind, e.body)
            except ProblemError as error:
                problems += [Problem(f"{at}.{p.field}", p.message) for p in error.problems]
            problems += _contradictions(at, s)
            chain = follow(Link(n + 1, e.tag, e.key, e.kind, e.body, e.who, e.said, e.received, e.seen, e.digest, e.signed) for n, e in enumerate(s.record))  # fmt: skip
            if chain.broken is not None:
                problems.append(Problem(f"{at}.record", f"the record of {s.tag} in this file was changed at entry {chain.broken} or before it"))  # fmt: skip
        problems += [Problem(f"{b.name}.{t}", "the tag occurs twice") for t in _twice(s.tag for s in b.starters)]
    problems += [Problem(name, "the board occurs twice") for name in _twice(b.name for b in file.boards)]
    problems += [Problem(name, "the catalogue occurs twice") for name in _twice(c.name for c in file.catalogues)]
    for c in file.catalogues:
        types = _twice(cells.get("type", "") for rows in c.devices.values() for cells in rows)
        problems += [Problem(f"{c.name}.{t}", "the type occurs twice") for t in types]
        for kind, rows in c.devices.items():
            if kind not in TABLES:
                problems.append(Problem(f"{c.name}.{kind}", "is no table of a catalogue"))
                continue
            for n, cells in enumerate(rows):
                try:
                    TABLES[kind].model_validate(cells)
                except ValidationError as error:
                    problems += [Problem(f"{c.name}.{kind}.{n + 1}", str(p)) for p in problems_of(error)]
    if problems:
        raise ProblemError(problems[:20])
    return file


def _twice(names: Iterable[str]) -> list[str]:
    """Names that occur more than once, in alphabetical order."""
    return sorted(name for name, n in Counter(names).items() if n > 1)


def _contradictions(at: str, s: StarterPart) -> list[Problem]:
    """What a starter's parts say of each other that cannot be; the chain of a record shows none of it."""
    found = [Problem(f"{at}.record.{key}", "the key occurs twice") for key in _twice(e.key for e in s.record)]
    if s.document.get("tag") != s.tag:
        found.append(Problem(f"{at}.tag", "is not the tag of its document"))
    found += [
        Problem(f"{at}.record.{n}.seen", f"{e.seen} entries cannot have been known: {n} came before")
        for n, e in enumerate(s.record)
        if e.seen > n
    ]
    found += [
        Problem(f"{at}.seals.{n}.entries", f"{x.entries} entries are more than the {len(s.record)} of the record")
        for n, x in enumerate(s.seals)
        if x.entries > len(s.record)
    ]
    try:
        read_devices(json.loads(s.devices))
    except (ValueError, KeyError, TypeError, AttributeError):
        found.append(Problem(f"{at}.devices", "cannot be read as devices"))
    return found


def import_job(session: Session, file: JobFile, name: str = "") -> Job:
    """Put a job into the database, all of it or nothing.

    Parameters
    ----------
    file : as ``read_job`` has checked it
    name : another name for it; needed where there is a job of its own name already

    Raises
    ------
    ProblemError : a job of that name is there.
    """
    called = name or file.job
    if session.scalar(select(Job.id).where(Job.name == called)) is not None:
        raise ProblemError([Problem("name", f"there is a job {called!r} already: give this one another name")])
    job = Job(name=called)
    session.add(job)
    session.flush()
    numbers = {"": SHIPPED} | {c.name: _catalogue(session, c) for c in file.catalogues}
    for b in file.boards:
        chosen = " ".join(str(numbers[c]) for c in b.catalogues if c in numbers) or str(SHIPPED)
        board = Board(job=job, name=b.name, title=b.title, defaults=b.defaults, catalogues=chosen)
        session.add(board)
        session.flush()
        for position, s in enumerate(b.starters, 1):
            _put_starter(session, board, position, s)
    session.flush()
    return job


def _catalogue(session: Session, part: CataloguePart) -> int:
    """Number of a catalogue with these devices: the one of that name where it is alike, else a new one with a name of its own."""
    name, n = part.name, 1
    while (there := session.scalar(select(Catalogue).where(Catalogue.name == name))) is not None:
        if cells_of(session, there.id) == part.devices:
            return there.id
        n += 1
        name = f"{part.name[:74]} {n}"
    made = Catalogue(name=name)
    session.add(made)
    session.flush()
    values = [{"catalogue_id": made.id, "kind": kind, "type": cells["type"], "cells": cells} for kind, rows in part.devices.items() for cells in rows]  # fmt: skip
    if values:
        session.execute(insert(CatalogueDevice), values)
    return made.id


def _put_starter(session: Session, board: Board, position: int, s: StarterPart) -> None:
    made = Starter(board=board, position=position, tag=s.tag, document=s.document, devices=s.devices, saved=s.saved)
    session.add(made)
    session.flush()
    for r in s.revisions:
        session.add(Revision(starter_id=made.id, change=r.change, document=r.document, saved=r.saved))
        session.flush()
    for note in s.reasons:
        session.add(OverrideNote(starter_id=made.id, **note.model_dump()))
    ids: list[int] = []
    table = cast(Table, JournalEntry.__table__)
    for e in s.record:
        values = e.model_dump() | {"starter_id": made.id, "seen": ids[e.seen - 1] if e.seen else 0, "said": _utc(e.said), "received": _utc(e.received)}  # fmt: skip
        ids.append(session.execute(insert(table).values(**values).returning(table.c.id)).scalar_one())
    _put_seals(session, made.id, s.seals, ids)
    if s.meter is not None:
        session.add(MeterSetting(starter_id=made.id, setting=s.meter))


def _put_seals(session: Session, starter_id: int, parts: Sequence[SealPart], ids: Sequence[int]) -> None:
    for x in parts:
        session.add(
            Seal(
                starter_id=starter_id, who=x.who, sealed=x.sealed, document=x.document, design=x.design, digest=x.digest, chain=x.chain,
                journal_id=ids[x.entries - 1] if x.entries else 0, key_id=x.key_id if x.mac else IMPORTED, mac=x.mac, signed=x.signed,
            )
        )  # fmt: skip
        session.flush()


def _utc(moment: datetime) -> datetime:
    return moment.astimezone(UTC)


def file_name(job: str) -> str:
    """Name of a job's file.

    Examples
    --------
    >>> file_name("Thornebeck Maltings: kiln/2")
    'Thornebeck-Maltings-kiln-2.volmek.json'
    """
    kept = "".join(c if c.isalnum() else "-" for c in job)
    return "-".join(filter(None, kept.split("-"))) + ".volmek.json"
