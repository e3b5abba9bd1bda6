"""JSON API: build plan, journal, record, history, seals, meter."""

import json
from datetime import UTC, datetime
from typing import Annotated, Any

from flask import Response
from flask_openapi3.blueprint import APIBlueprint
from pydantic import BaseModel, ConfigDict, Field, ValidationError
from sqlalchemy.orm import Session
from werkzeug.exceptions import NotFound

from volmek.core.circuit.build.candidates import Cause, covered
from volmek.core.circuit.build.causes import causes_of_check, causes_of_step
from volmek.core.circuit.build.plan import Stage
from volmek.core.circuit.build.symptoms import Symptom, symptoms
from volmek.core.document.errors import Problem, ProblemError
from volmek.core.document.model import problems_of
from volmek.core.record.bodies import parse_body
from volmek.core.record.chain import broken_words
from volmek.core.record.history import Series, history
from volmek.core.record.items import repeated
from volmek.core.record.journal import Entry, Folded, check_id, fold
from volmek.core.record.refusals import refused
from volmek.core.views.progress import Progress, progress
from volmek.core.views.record import BuildView, RecordView, build_view, record_view
from volmek.store.models import Seal
from volmek.store.records import (
    PROVES,
    add_entry,
    chain_of,
    entries,
    entry_of_key,
    numbers,
    read_journal,
    seal,
    seal_state,
    seals,
)
from volmek.store.repository import Kept, StaleVersionError, differing_fields, read_starter, revisions
from volmek.web.access import author
from volmek.web.common import NOT_FOUND, REFUSED, download, found, new_session, operation_id, problems_out, writing
from volmek.web.record_views import Looked, Order, OrderQuery, folded, points_of
from volmek.web.schemas import Output, ProblemOut, StarterPath
from volmek.web.sign_in import second_of

bp = APIBlueprint("records", __name__, url_prefix="/api", operation_id_callback=operation_id)
ICS = {"content": {"text/calendar": {"schema": {"type": "string"}}}}


#: Kinds of entries that belong to the build plan.
PLANNED = ("wire", "isolated", "check", "step")
#: Kinds of entries that depend on what was recorded before them.
ASK_THE_JOURNAL = ("step", "trip", "closed", "inspected")


class BuildOut(Output):
    """The build plan with what is done of it."""

    sheet: BuildView


class EntryIn(BaseModel):
    """One entry as a device sends it."""

    model_config = ConfigDict(extra="forbid")

    key: str = Field(min_length=8, max_length=64)
    #: Tag of the starter that it was made for; one that this starter never had is refused.
    tag: str = Field(default="", max_length=40)
    kind: str = Field(max_length=20)
    body: dict[str, Any]
    #: Name as typed; signed in it is that name, or empty.
    who: str = Field(default="", max_length=80)
    #: Sign-in of a second person, whose entry it is then.
    second: str = Field(default="", max_length=300)
    said: datetime
    seen: int = Field(default=0, ge=0)


class JournalIn(BaseModel):
    """Entries in the order in which they were made."""

    model_config = ConfigDict(extra="forbid")

    order: Order = "control_first"
    #: Each is checked and answered for itself: a malformed one keeps no other from being saved.
    entries: list[Annotated[EntryIn | dict[str, Any], Field(union_mode="left_to_right")]] = Field(
        min_length=1, max_length=500
    )


class EntryOut(BaseModel):
    """Outcome of an entry: saved under a number, or refused."""

    key: str
    id: int | None
    problems: list[ProblemOut]


class JournalOut(BaseModel):
    """Outcome of each entry, and the last number of the journal."""

    results: list[EntryOut]
    last: int


class CausesIn(BaseModel):
    """Reading or observation that differs."""

    model_config = ConfigDict(extra="forbid")

    order: Order = "control_first"
    stage: str = Field(max_length=80)
    step: int | None = Field(default=None, ge=0, le=500)
    seen: dict[str, str] = Field(default={}, max_length=40)
    check: str | None = Field(default=None, max_length=200)
    reads: str = Field(default="", max_length=10)
    measured: bool = True
    everywhere: bool = False


class CausesOut(Output):
    """Possible causes, and the single mistakes and defects among which they were looked for."""

    causes: list[Cause]
    covers: list[str]


class SymptomsOut(Output):
    """Complaints that can be chosen."""

    symptoms: list[Symptom]


class SealOut(BaseModel):
    """A sealed as-built version."""

    id: int
    who: str
    signed: bool
    sealed: datetime
    digest: str
    unbroken: bool
    proves: str
    changed_since: list[str]


class RecordOut(Output):
    """The record with every reading assessed, its seals, and what is wrong with its rows."""

    sheet: RecordView
    seals: list[SealOut]
    damaged: list[str]


class ProgressOut(Output):
    """Progress of build and test; null counts while nobody has begun or the circuit cannot be worked out."""

    progress: Progress | None
    points: list[str]
    sealed: int


class SealIn(BaseModel):
    """Person who seals: a name as typed; signed in it is that name, or empty."""

    model_config = ConfigDict(extra="forbid")

    who: str = Field(default="", max_length=80)


class SealsOut(BaseModel):
    """Every seal, the newest first."""

    seals: list[SealOut]


class SealPath(BaseModel):
    """A seal's number in the address."""

    starter_id: int
    seal_id: int


class SeriesOut(Output):
    """Readings over the years."""

    series: list[Series]


@bp.get("/starters/<int:starter_id>/build", responses={200: BuildOut, **REFUSED})
def get_build(path: StarterPath, query: OrderQuery) -> BuildOut:
    """The wire list and the stages, with what is done."""
    with new_session() as session:
        looked = Looked(session, path.starter_id)
        return BuildOut.model_construct(
            sheet=build_view(looked.plan(query.order), folded(session, path.starter_id), looked.by_id)
        )


@bp.post("/starters/<int:starter_id>/build/causes", responses={200: CausesOut, **REFUSED})
def find_causes(path: StarterPath, body: CausesIn) -> CausesOut:
    """Mistakes and defects that give exactly what was seen."""
    with new_session() as session:
        looked = Looked(session, path.starter_id)
    plan = looked.plan(body.order)
    stage: Stage | None = next((s for s in plan.stages if s.title == body.stage), None)
    if stage is None:
        raise ProblemError([Problem("stage", f"{body.stage!r} is not a stage of this starter as it is designed now")])
    whole = looked.live.simulator
    if body.check is not None:
        index = next((n for n, c in enumerate(stage.checks) if check_id(c.a, c.b, c.held) == body.check), None)
        if index is None:
            raise ProblemError([Problem("check", "this reading does not belong to the stage")])
        found = causes_of_check(plan, whole, stage, index, body.reads)
        return CausesOut.model_construct(causes=found, covers=covered(everywhere=False))
    if body.step is None or body.step >= len(stage.steps):
        raise ProblemError([Problem("step", f"the stage has {len(stage.steps)} steps")])
    found = causes_of_step(plan, whole, stage, body.step, body.seen, measured=body.measured, everywhere=body.everywhere)
    return CausesOut.model_construct(causes=found, covers=covered(everywhere=body.everywhere))


@bp.get("/starters/<int:starter_id>/symptoms", responses={200: SymptomsOut, **REFUSED})
def get_symptoms(path: StarterPath, query: OrderQuery) -> SymptomsOut:
    """Usual complaints about a starter, each as an observation that causes can be asked for; nothing is written."""
    with new_session() as session:
        looked = Looked(session, path.starter_id)
    return SymptomsOut.model_construct(symptoms=symptoms(looked.plan(query.order)))


@bp.post("/starters/<int:starter_id>/journal", responses={200: JournalOut, **REFUSED})
def add_to_journal(path: StarterPath, body: JournalIn) -> JournalOut:
    """Keep entries, each once however often it is sent; what is refused says why and keeps nobody else's from being kept."""
    results = []
    looked = _looked_before(path.starter_id, body)
    with writing() as session:
        if read_starter(session, path.starter_id).version != looked.kept.version:
            looked = Looked(session, path.starter_id)  # changed meanwhile
        journal = entries(session, path.starter_id)
        f = fold(journal)
        for sent in body.entries:
            if isinstance(sent, dict):
                results.append(
                    EntryOut(key=str(sent.get("key", ""))[:64], id=None, problems=problems_out(_malformed(sent)))
                )
                continue
            e = sent
            if e.kind in ASK_THE_JOURNAL and journal and journal[-1].id > f.last:
                f = fold(journal)
            kept, problems = _keep(session, looked, f, e, body.order)
            results.append(EntryOut(key=e.key, id=kept.id if kept else None, problems=problems_out(problems)))
            if kept is not None and (not journal or kept.id > journal[-1].id):
                journal.append(kept)
        return JournalOut(results=results, last=journal[-1].id if journal else 0)


def _looked_before(starter_id: int, body: JournalIn) -> Looked:
    """The starter with all that the entries are checked against, computed before anything is locked."""
    with new_session() as session:
        looked = Looked(session, starter_id)
    if any(isinstance(e, EntryIn) and e.kind in PLANNED for e in body.entries):
        looked.plan(body.order)
    return looked


def _malformed(sent: dict[str, Any]) -> tuple[Problem, ...]:
    try:
        EntryIn.model_validate(sent)
    except ValidationError as error:
        return tuple(problems_of(error))
    raise AssertionError("a good entry was taken for a malformed one")


def _had(session: Session, kept: Kept, tag: str) -> bool:
    """The starter has this tag, or had it once."""
    return tag in ("", kept.tag) or any(r.document.get("tag") == tag for r in revisions(session, kept.id, 10_000))


def _keep(session: Session, looked: Looked, f: Folded, e: EntryIn, order: Order) -> tuple[Entry | None, list[Problem]]:
    before = entry_of_key(session, looked.kept.id, e.key)
    try:
        checked = parse_body(e.kind, e.body)
    except ProblemError as error:
        return None, list(error.problems)
    if before is not None:
        if before.body == checked and before.kind == e.kind:
            return before, []
        return None, [Problem("key", "this key was used for another entry")]
    if e.said.tzinfo is None:
        return None, [Problem("said", "must name its time zone")]
    try:
        who, signed = author(e.who, second_of(session, e.second))
    except ProblemError as error:
        return None, list(error.problems)
    if not who:
        return None, [Problem("who", "say who writes")]
    if signed and e.kind == "signature" and checked["name"] != who:
        return None, [
            Problem("body.name", f"a signature is of who signs, {who}: {checked['name']} must sign in for it")
        ]
    if not _had(session, looked.kept, e.tag):
        return None, [Problem("tag", f"made for {e.tag}; this starter is {looked.kept.tag}")]
    plan = looked.plan(order) if e.kind in PLANNED else None
    problem = refused(f, plan, looked.by_id, e.kind, checked, datetime.now(UTC).date())
    if problem is not None:
        return None, [problem]
    said = e.said.astimezone(UTC)
    return add_entry(
        session, looked.kept.id, key=e.key, kind=e.kind, body=checked, who=who, said=said, seen=e.seen, signed=signed
    ), []


def _seals(session: Session, kept: Kept) -> list[SealOut]:
    return [
        SealOut(
            id=s.id, who=s.who, signed=s.signed, sealed=s.sealed, digest=s.digest, unbroken=state != "broken", proves=PROVES[state],
            changed_since=list(differing_fields(s.document, kept.document)),
        )
        for s in seals(session, kept.id)
        for state in [seal_state(session, s)]
    ]  # fmt: skip


@bp.get("/starters/<int:starter_id>/record", responses={200: RecordOut, **REFUSED})
def get_record(path: StarterPath) -> RecordOut:
    """Record: measured, tried, tripped, changed and open."""
    with new_session() as session:
        looked = Looked(session, path.starter_id)
        journal = read_journal(session, path.starter_id)
        f = fold(journal.entries)
        plan = looked.plan() if f.wires else None
        broken = broken_words(chain_of(session, path.starter_id), looked.kept.tag)
        return RecordOut.model_construct(
            sheet=record_view(looked.items, f, plan),
            seals=_seals(session, looked.kept),
            damaged=[*journal.damaged, *([broken] if broken else [])],
        )


@bp.get("/starters/<int:starter_id>/progress", responses={200: ProgressOut, **REFUSED})
def get_progress(path: StarterPath) -> ProgressOut:
    """Progress of build and test, and the open items, in words."""
    with new_session() as session:
        read_starter(session, path.starter_id)
        journal = entries(session, path.starter_id)
        sealed = len(seals(session, path.starter_id))
        try:
            looked = Looked(session, path.starter_id) if journal else None
        except ProblemError:
            looked = None
        if looked is None:
            return ProgressOut(progress=None, points=points_of(session, path.starter_id), sealed=sealed)
        found = progress(fold(journal), looked.by_id, looked.plan())
        return ProgressOut.model_construct(progress=found, points=list(found.points), sealed=sealed)


@bp.get("/starters/<int:starter_id>/readings", responses={200: SeriesOut, **REFUSED})
def get_readings(path: StarterPath) -> SeriesOut:
    """Readings over the years with limits and trend."""
    with new_session() as session:
        looked = Looked(session, path.starter_id)
        return SeriesOut.model_construct(series=history(repeated(looked.items), numbers(session, path.starter_id)))


@bp.post("/starters/<int:starter_id>/seals", responses={201: SealsOut, **REFUSED})
def seal_starter(path: StarterPath, body: SealIn) -> tuple[SealsOut, int]:
    """Freeze the starter as it is built now, with its computed figures."""
    who, signed = author(body.who)
    if not who:
        raise ProblemError([Problem("who", "say who seals")])
    with new_session() as session:
        looked = Looked(session, path.starter_id)
    if looked.design is None:
        raise ProblemError(looked.problems)
    with writing() as session:
        if read_starter(session, path.starter_id).version != looked.kept.version:
            raise StaleVersionError
        seal(session, path.starter_id, who, looked.kept.document, looked.design.to_json(working=True), signed=signed)
        return SealsOut(seals=_seals(session, looked.kept)), 201


@bp.get(
    "/starters/<int:starter_id>/seals/<int:seal_id>.json",
    responses={200: {"content": {"application/json": {}}}, **NOT_FOUND},
)
def seal_file(path: SealPath) -> Response:
    """A sealed version as a file: document, figures and digest."""
    with new_session() as session:
        made = found(session, Seal, path.seal_id)
        if made.starter_id != path.starter_id:
            raise NotFound(f"seal {made.id} is of another starter")
        data = {"sealed": made.sealed.isoformat(), "who": made.who, "digest": made.digest, "document": made.document, "design": made.design,
                "journal": [{"id": e.id, "kind": e.kind, "body": e.body, "who": e.who, "said": e.said.isoformat()} for e in entries(session, path.starter_id) if e.id <= made.journal_id]}  # fmt: skip
    return download(
        json.dumps(data, ensure_ascii=False, indent=1).encode(),
        f"{made.document['tag']}-as-built-{made.id}.json",
        "application/json",
    )


# The meter
