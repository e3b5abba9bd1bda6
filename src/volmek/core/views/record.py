"""Projection for build and test: plan and record put together, each reading with its verdict."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from volmek.core.circuit.build.causes import choices
from volmek.core.circuit.build.continuity import READINGS
from volmek.core.circuit.build.plan import Plan, Stage
from volmek.core.circuit.build.wiring import WireItem
from volmek.core.plate.plate import voltage_unbalance_pct
from volmek.core.record.history import LINES, TOGETHER, unbalance_item
from volmek.core.record.inspections import Due, inspections
from volmek.core.record.items import GROUPS, Item, Verdict, judge
from volmek.core.record.journal import Entry, Folded, check_id, conductor, stage_state, trip_of
from volmek.core.record.open_points import Point, clash_words, open_points


@dataclass(frozen=True, slots=True)
class WireRow:
    """A conductor with how far it is."""

    item: WireItem
    done: bool
    length_mm: float | None
    torque_nm: float | None
    who: str


@dataclass(frozen=True, slots=True)
class CheckRow:
    """A continuity reading: what must be read, and what was."""

    id: str
    a: str
    b: str
    held: str
    reads: str
    words: str
    read: str
    who: str


@dataclass(frozen=True, slots=True)
class StepRow:
    """A step under voltage: what must be seen, what could be seen instead, and what was."""

    number: int
    do: str
    words: str
    sees: tuple[str, ...]
    because: str
    state: dict[str, str]
    choices: dict[str, tuple[str, ...]]
    seen: bool | None
    different: dict[str, str]
    who: str


@dataclass(frozen=True, slots=True)
class StageRow:
    """A stage with how far it is.

    Attributes
    ----------
    missing : why it is not put under voltage yet; empty when it may be
    done : everything in it was seen as it must be
    """

    number: int
    kind: str
    title: str
    why: str
    cautions: tuple[str, ...]
    wires: tuple[str, ...]
    laid: int
    isolated: bool
    locked: bool
    proved_dead: bool
    checks: list[CheckRow]
    steps: list[StepRow]
    missing: str
    done: bool


@dataclass(frozen=True, slots=True)
class BuildView:
    """The build stage.

    Attributes
    ----------
    next : key of the conductor that is laid next, empty when all are
    last : number of the last entry that this is made from
    work : how far each terminal is, for the drawing: ``done``, ``next``, ``open``
    """

    order: str
    wires: list[WireRow]
    stages: list[StageRow]
    laid: int
    next: str
    points: list[Point]
    last: int
    work: dict[str, str]


def build_view(plan: Plan, f: Folded, items: Mapping[str, Item]) -> BuildView:
    """The plan with what is done of it."""
    wires = [_wire(i, f.wires.get(i.key)) for i in plan.wires]
    following = next((w.item.key for w in wires if not w.done), "")
    work: dict[str, str] = {}
    for w in wires:
        for ends in (w.item.a, w.item.b, *w.item.within):
            state = "done" if w.done else "next" if w.item.key == following else "open"
            work[ends] = min(work.get(ends, state), state, key=("next", "open", "done").index)
    laid = sum(w.done for w in wires)
    return BuildView(
        plan.order,
        wires,
        [_stage(s, f, plan.stages[:n]) for n, s in enumerate(plan.stages)],
        laid,
        following,
        open_points(f, items, plan),
        f.last,
        work,
    )


def _wire(item: WireItem, e: Entry | None) -> WireRow:
    body = e.body if e else {}
    return WireRow(item, conductor(e), body.get("length_mm"), body.get("torque_nm"), e.who if e else "")


def _stage(s: Stage, f: Folded, before: Sequence[Stage]) -> StageRow:
    state = stage_state(f, s, before)
    isolated = f.isolated.get(s.title)
    dead = isolated.body if isolated else {}
    checks = []
    for c in s.checks:
        id = check_id(c.a, c.b, c.held)
        e = f.checks.get(f"{s.title}|{id}")
        checks.append(
            CheckRow(
                id, c.a, c.b, c.held, c.reads, READINGS[c.reads], str(e.body["reads"]) if e else "", e.who if e else ""
            )
        )
    steps = []
    for n, x in enumerate(s.steps):
        e = f.steps.get(f"{s.title}|{n}")
        different = dict(e.body["different"]) if e else {}
        steps.append(
            StepRow(
                n,
                x.do,
                x.words,
                x.sees,
                x.because,
                x.state,
                {name: choices(state) for name, state in x.state.items()},
                None if e is None else not different,
                different,
                e.who if e else "",
            )
        )
    return StageRow(
        s.number, s.kind, s.title, s.why, s.cautions, s.wires, state["wires"], bool(dead.get("isolated")), bool(dead.get("locked")),
        bool(dead.get("proved_dead")), checks, steps, state["missing"], state["done"],
    )  # fmt: skip


@dataclass(frozen=True, slots=True)
class ReadingRow:
    """One reading that was taken."""

    id: int
    value: float | str
    severity: str
    words: str
    who: str
    said: datetime
    source: str
    note: str


@dataclass(frozen=True, slots=True)
class ItemRow:
    """An item to be measured, with its readings, the newest first."""

    item: Item
    limit: str
    readings: list[ReadingRow]


@dataclass(frozen=True, slots=True)
class GroupRow:
    """Things that are measured together."""

    key: str
    title: str
    items: list[ItemRow]


@dataclass(frozen=True, slots=True)
class UnbalanceRow:
    """The unbalance of three readings."""

    title: str
    value: float
    severity: str
    words: str


@dataclass(frozen=True, slots=True)
class TripRow:
    """A trip from what happened to the restart."""

    key: str
    happened: datetime
    what: str
    reading: str
    cause: str
    repair: str
    reset: str
    restarted: datetime | None
    closed: bool
    who: str


@dataclass(frozen=True, slots=True)
class ChangeRow:
    """A deviation from the design."""

    what: str
    designed: str
    built: str
    reason: str
    who: str
    said: datetime


@dataclass(frozen=True, slots=True)
class SignatureRow:
    """A signature: person and role."""

    role: str
    name: str
    said: datetime
    words: str


@dataclass(frozen=True, slots=True)
class RecordView:
    """The prove stage.

    Attributes
    ----------
    groups : what is measured, with readings
    unbalances : computed from the newest three
    trips, changes, points, inspections, signatures : as they stand
    clashes, clocks : two people without knowing of each other, and clocks that are off, one sentence each
    measured, wanted : how many items have a reading
    last : number of the last entry that this is made from
    names : what a name in it proves
    """

    groups: list[GroupRow]
    unbalances: list[UnbalanceRow]
    trips: list[TripRow]
    changes: list[ChangeRow]
    points: list[Point]
    inspections: list[Due]
    signatures: list[SignatureRow]
    clashes: list[str]
    clocks: list[str]
    measured: int
    wanted: int
    last: int
    names: str


def name_words(signed: bool) -> str:
    """What a name proves.

    Examples
    --------
    >>> name_words(True), name_words(False)
    ('signed in', 'name as typed')
    """
    return "signed in" if signed else "name as typed"


def names_words(f: Folded) -> str:
    """What the names of a record prove, in one sentence.

    Examples
    --------
    >>> names_words(Folded(written=3)), names_words(Folded(written=3, signed=2))
    ('Names are as typed: nobody had signed in.', 'Names are of people who had signed in for 2 of 3 entries; the others are as typed.')
    """
    if f.signed == 0:
        return "Names are as typed: nobody had signed in." if f.written else ""
    if f.signed == f.written:
        return "Names are of people who had signed in."
    return f"Names are of people who had signed in for {f.signed} of {f.written} entries; the others are as typed."


def record_view(items: Sequence[Item], f: Folded, plan: Plan | None, *, whole: bool = False) -> RecordView:
    """The record with every reading judged.

    Parameters
    ----------
    whole : count what is left of the plan even where nobody has begun, as papers do
    """
    known = {i.id: i for i in items}
    groups = []
    for key, title in GROUPS.items():
        rows = [
            ItemRow(i, limit_words(i), [_reading(i, e) for e in reversed(f.readings.get(i.id, []))])
            for i in items
            if i.group == key
        ]
        if rows:
            groups.append(GroupRow(key, title, rows))
    clashes = [clash_words(a, b, known) for a, b in f.conflicts]
    clocks = [
        f"The clock of {e.who}'s device is off or ran backwards: it says {e.said:%Y-%m-%d %H:%M} for what came at {e.received:%Y-%m-%d %H:%M} UTC, "
        "after later entries. The order of arrival counts."
        for e in f.clocks[-3:]
    ]
    measured = sum(i.id in f.readings for i in items)
    return RecordView(
        groups, unbalances(known, f), [_trip(k, es) for k, es in reversed(f.trips.items())], [_change(e) for e in reversed(f.changes)],
        open_points(f, known, plan, whole=whole), inspections(f), [SignatureRow(e.body["role"], e.body["name"], e.said, name_words(e.signed)) for e in f.signatures.values()],
        clashes, clocks, measured, len(items), f.last, names_words(f),
    )  # fmt: skip


def _reading(item: Item, e: Entry) -> ReadingRow:
    verdict: Verdict = judge(item, e.body["value"])
    return ReadingRow(
        e.id,
        e.body["value"],
        verdict.severity,
        verdict.words,
        e.who,
        e.said,
        str(e.body.get("source", "typed")),
        str(e.body.get("note", "")),
    )


def limit_words(item: Item) -> str:
    """The limits of an item as they are printed.

    Examples
    --------
    >>> limit_words(Item("load.L1", "running", "", "", "A", attention_above=66, stop_above=75.9))
    'up to 66 A, never above 75.9 A'
    """
    from volmek.core.results.figures import as_read

    unit = f" {item.unit}" if item.unit else ""
    if item.kind == "choice":
        return " or ".join(item.good)
    low, high = item.attention_below, item.attention_above
    parts = []
    if low is not None and high is not None:
        parts.append(f"{as_read(low)} to {as_read(high)}{unit}")
    elif low is not None:
        parts.append(f"from {as_read(low)}{unit}")
    elif high is not None:
        parts.append(f"up to {as_read(high)}{unit}")
    if item.stop_below is not None:
        parts.append(f"never below {as_read(item.stop_below)}{unit}")
    if item.stop_above is not None:
        parts.append(f"never above {as_read(item.stop_above)}{unit}")
    return ", ".join(parts)


def unbalances(items: Mapping[str, Item], f: Folded) -> list[UnbalanceRow]:
    """Unbalance of the newest readings of three lines that were taken together."""
    found = []
    for name, ids in LINES.items():
        newest = [f.readings[id][-1] for id in ids if id in items and id in f.readings]
        if len(newest) < 3 or max(e.said for e in newest) - min(e.said for e in newest) > TOGETHER:
            continue
        values = [float(e.body["value"]) for e in newest]
        if sum(values) <= 0:
            continue
        item, value = unbalance_item(name), voltage_unbalance_pct((values[0], values[1], values[2]))
        verdict = judge(item, value)
        found.append(UnbalanceRow(item.title, value, verdict.severity, verdict.words))
    return found


def _trip(key: str, entries: list[Entry]) -> TripRow:
    t: dict[str, Any] = trip_of(entries)

    def when(name: str) -> datetime | None:
        return datetime.fromisoformat(t[name]) if t.get(name) else None

    return TripRow(
        key, when("happened") or entries[0].said, t.get("what", ""), t.get("reading", ""), t.get("cause", ""), t.get("repair", ""), t.get("reset", ""),
        when("restarted"), bool(t.get("close")), entries[-1].who,
    )  # fmt: skip


def _change(e: Entry) -> ChangeRow:
    b = e.body
    return ChangeRow(b["what"], b["designed"], b["built"], b["reason"], e.who, e.said)
