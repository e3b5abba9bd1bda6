"""The journal of a starter: entries that are only ever added, and what they come to.

Wires laid, readings, trials, trips, changes, open points, inspections and signatures are all entries. Nothing is changed or taken
away: a later entry of the same subject counts, the earlier ones stay readable.
"""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import date, datetime, timedelta
from typing import Any

from volmek.core.circuit.build.causes import choices
from volmek.core.circuit.build.plan import Plan, Stage
from volmek.core.document.errors import Problem
from volmek.core.record.items import Item, judge, refusal

#: A clock that is so far off is said to be wrong.
CLOCK_OFF = timedelta(minutes=5)


@dataclass(frozen=True, slots=True)
class Entry:
    """One entry.

    Attributes
    ----------
    id : counts up in the order of arrival; None before it is kept
    key : made by who wrote it, so that sending it twice keeps it once
    kind, body : what it says
    who : wrote it
    said : by the clock of the device it was written on
    received : by the clock of the server
    seen : id of the last entry that the writer knew
    """

    id: int
    key: str
    kind: str
    body: dict[str, Any]
    who: str
    said: datetime
    received: datetime
    seen: int = 0

    @property
    def subject(self) -> str:
        """What it is about: entries of one subject follow each other."""
        return subject_of(self.kind, self.body)


def subject_of(kind: str, body: Mapping[str, Any]) -> str:
    """What an entry is about.

    Examples
    --------
    >>> subject_of("reading", {"item": "load.L1"}), subject_of("step", {"stage": "Coil of K1", "step": 2})
    ('load.L1', 'Coil of K1|2')
    """
    if kind == "check":
        return f"{body['stage']}|{body['check']}"
    if kind == "step":
        return f"{body['stage']}|{body['step']}"
    name = {
        "wire": "wire",
        "isolated": "stage",
        "reading": "item",
        "trip": "trip",
        "closed": "point",
        "inspected": "inspection",
        "signature": "role",
    }.get(kind)
    return str(body.get(name, "")) if name else ""


def check_id(a: str, b: str, held: str) -> str:
    """Name of a continuity reading in the journal."""
    return f"{a} {b} {held}"


@dataclass
class Folded:
    """What a journal comes to.

    Attributes
    ----------
    wires : the last entry of each conductor
    isolated, checks, steps : the last entry of each subject of the build plan
    readings : all entries of each item, the last one counts
    trips, points, inspections : what was begun, with all that followed
    changes, signatures : as they came
    """

    wires: dict[str, Entry] = field(default_factory=dict)
    isolated: dict[str, Entry] = field(default_factory=dict)
    checks: dict[str, Entry] = field(default_factory=dict)
    steps: dict[str, Entry] = field(default_factory=dict)
    readings: dict[str, list[Entry]] = field(default_factory=dict)
    trips: dict[str, list[Entry]] = field(default_factory=dict)
    points: dict[str, list[Entry]] = field(default_factory=dict)
    inspections: dict[str, list[Entry]] = field(default_factory=dict)
    changes: list[Entry] = field(default_factory=list)
    signatures: dict[str, Entry] = field(default_factory=dict)
    conflicts: list[tuple[Entry, Entry]] = field(default_factory=list)
    clocks: list[Entry] = field(default_factory=list)
    last: int = 0


def fold(entries: Iterable[Entry]) -> Folded:
    """Put the entries of one starter together, in the order of their arrival.

    Two people who write about the same thing without knowing of each other are a conflict until somebody who knows both writes again;
    a clock that is off, or runs backwards, is noted and never puts entries in another order.
    """
    f = Folded()
    latest: dict[tuple[str, str], Entry] = {}
    clock: dict[str, Entry] = {}
    for e in entries:
        f.last = max(f.last, e.id)
        subject = e.subject
        before = latest.get((e.kind, subject)) if subject and e.kind != "trip" else None
        f.conflicts = [
            c for c in f.conflicts if not ((c[1].kind, c[1].subject) == (e.kind, subject) and e.seen >= c[1].id)
        ]
        if before is not None and before.who != e.who and before.id > e.seen and before.body != e.body:
            f.conflicts.append((before, e))
        if subject:
            latest[e.kind, subject] = e
        earlier = clock.get(e.who)
        if (abs(e.said - e.received) > CLOCK_OFF and e.said > e.received) or (
            earlier is not None and e.said < earlier.said - CLOCK_OFF
        ):
            f.clocks.append(e)
        clock[e.who] = e
        _put(f, e, subject)
    return f


def _put(f: Folded, e: Entry, subject: str) -> None:
    if e.kind == "wire" and subject in f.wires:
        # What was measured of a conductor stays when it is only ticked again.
        known = {k: v for k, v in f.wires[subject].body.items() if v is not None}
        e = replace(e, body={**known, **{k: v for k, v in e.body.items() if v is not None}})
    if e.kind in ("wire", "isolated", "check", "step"):
        {"wire": f.wires, "isolated": f.isolated, "check": f.checks, "step": f.steps}[e.kind][subject] = e
    elif e.kind == "reading":
        f.readings.setdefault(subject, []).append(e)
    elif e.kind == "trip":
        f.trips.setdefault(subject or e.key, []).append(e)
    elif e.kind == "change":
        f.changes.append(e)
    elif e.kind == "signature":
        f.signatures[subject] = e
    elif e.kind in ("open", "closed"):
        f.points.setdefault(subject or e.key, []).append(e)
    else:
        f.inspections.setdefault(subject or e.key, []).append(e)


def trip_of(entries: list[Entry]) -> dict[str, Any]:
    """A trip with all that was added to it: what was said last of each field counts."""
    found: dict[str, Any] = {}
    for e in entries:
        found |= {k: v for k, v in e.body.items() if v not in ("", None, False)}
    return found


def conductor(e: Entry | None) -> bool:
    """A conductor is laid."""
    return e is not None and bool(e.body["done"])


def stage_state(f: Folded, stage: Stage, before: Sequence[Stage] = ()) -> dict[str, Any]:
    """How far a stage is: what is still missing for its readings, for its voltage, and for its end.

    Parameters
    ----------
    before : stages that come before it: no voltage while one of them lacks isolation, conductors or readings
    """
    wires = sum(conductor(f.wires.get(k)) for k in stage.wires)
    isolated = f.isolated.get(stage.title)
    dead = isolated is not None and all(isolated.body[k] for k in ("isolated", "locked", "proved_dead"))
    checks = [f.checks.get(f"{stage.title}|{check_id(c.a, c.b, c.held)}") for c in stage.checks]
    right = [e is not None and e.body["reads"] == c.reads for e, c in zip(checks, stage.checks, strict=True)]
    steps = [f.steps.get(f"{stage.title}|{n}") for n in range(len(stage.steps))]
    seen = [e is not None and not e.body["different"] for e in steps]
    missing = ""
    if not dead:
        missing = "first isolate, lock off and prove dead"
    elif wires < len(stage.wires):
        missing = f"first lay {len(stage.wires) - wires} more of the {len(stage.wires)} conductors of this stage"
    elif not all(right):
        missing = f"first take {right.count(False)} more of the {len(right)} continuity readings, each as it must be"
    earlier = next(((s, why) for s in before if (why := stage_state(f, s)["missing"])), None)
    if earlier is not None:
        missing = f"{earlier[0].title} comes before: {earlier[1]}"
    done = not missing and all(seen)
    return {"wires": wires, "dead": dead, "checks": sum(right), "steps": sum(seen), "missing": missing, "done": done}


def refused(
    f: Folded, plan: Plan | None, items: Mapping[str, Item], kind: str, body: Mapping[str, Any]
) -> Problem | None:
    """Why an entry cannot stand; None when it can.

    Parameters
    ----------
    f : the journal so far
    plan : of the starter, None where there is none
    items : what is measured on it, by id
    """
    if kind == "reading":
        item = items.get(str(body["item"]))
        if item is None:
            return Problem("item", f"{body['item']!r} is not measured on this starter")
        value = body["value"]
        if (item.kind == "number") != isinstance(value, float):
            return Problem(
                "value",
                f"{item.title} must be {'a number in ' + item.unit if item.kind == 'number' else 'one of ' + ', '.join(item.choices)}",
            )
        words = refusal(item, value, confirmed=bool(body["confirmed"]))
        return Problem("value", f"{item.title}: {words}") if words else None
    if kind in ("wire", "isolated", "check", "step"):
        return _refused_build(f, plan, kind, body)
    if kind == "trip":
        return _refused_trip(f, body)
    of = {
        "closed": ("point", f.points, "an open point"),
        "inspected": ("inspection", f.inspections, "an inspection"),
    }.get(kind)
    if of and str(body[of[0]]) not in of[1]:
        return Problem(of[0], f"there is no such thing as {of[2]} {body[of[0]]!r}")
    return None


def _refused_build(f: Folded, plan: Plan | None, kind: str, body: Mapping[str, Any]) -> Problem | None:
    if plan is None:
        return Problem("stage", "there is no build plan: the circuit has options that contradict each other")
    if kind == "wire":
        if body["done"] and body["wire"] not in {i.key for i in plan.wires}:
            return Problem("wire", f"{body['wire']!r} is not a conductor of this starter as it is designed now")
        return None
    stage = next((s for s in plan.stages if s.title == body["stage"]), None)
    if stage is None:
        return Problem("stage", f"{body['stage']!r} is not a stage of this starter as it is designed now")
    if kind == "check" and body["check"] not in {check_id(c.a, c.b, c.held) for c in stage.checks}:
        return Problem("check", "this reading does not belong to the stage as it is designed now")
    if kind == "step":
        if body["step"] >= len(stage.steps):
            return Problem("step", f"the stage has {len(stage.steps)} steps")
        state = stage_state(f, stage, plan.stages[: plan.stages.index(stage)])
        if state["missing"]:
            return Problem("step", f"{stage.title} is not put under voltage yet: {state['missing']}")
        shown = stage.steps[body["step"]].state
        for name, value in body["different"].items():
            if name not in shown or value not in choices(shown[name]):
                return Problem("different", f"{name} {value!r} cannot be seen in this step")
    return None


def _refused_trip(f: Folded, body: Mapping[str, Any]) -> Problem | None:
    entries = f.trips.get(str(body["trip"]), []) if body["trip"] else []
    if body["trip"] and not entries:
        return Problem("trip", f"there is no trip {body['trip']!r}")
    if not entries and not (body["what"] and body["happened"]):
        return Problem("what", "say what tripped and when")
    whole = trip_of(entries) | {k: v for k, v in body.items() if v not in ("", None, False)}
    if body["close"] and not whole.get("cause"):
        return Problem("cause", "a trip cannot be closed without its cause")
    return None


@dataclass(frozen=True, slots=True)
class Point:
    """Something that is still open.

    Attributes
    ----------
    key : of the entry it can be settled by; empty for what settles itself
    text : one sentence
    since : when it came up
    """

    key: str
    text: str
    since: datetime | None = None


def open_points(f: Folded, items: Mapping[str, Item], plan: Plan | None, *, whole: bool = False) -> list[Point]:
    """Open items: noted by hand, trips without an end, readings that failed, two that contradict each other, and what is left of the plan.

    Parameters
    ----------
    whole : count what is left of the plan even where nobody has begun, as papers do
    """
    found = [
        Point(k, es[0].body["text"], es[0].received)
        for k, es in f.points.items()
        if es[0].kind == "open" and es[-1].kind != "closed"
    ]
    for es in f.trips.values():
        trip = trip_of(es)
        if not trip.get("close"):
            found.append(
                Point(
                    "",
                    f"Trip of {trip.get('what', '')}: {'no cause found yet' if not trip.get('cause') else 'not closed yet'}",
                    es[0].received,
                )
            )
    for id, es in f.readings.items():
        if id in items:
            verdict = judge(items[id], es[-1].body["value"])
            if verdict.severity == "stop":
                found.append(Point("", f"{items[id].title}: {verdict.words}", es[-1].received))
    for a, b in f.conflicts:
        found.append(Point("", clash_words(a, b, items), b.received))
    if plan is not None and f.wires:
        keys = {i.key for i in plan.wires}
        stale = [k for k, e in f.wires.items() if conductor(e) and k not in keys]
        if stale:
            found.append(
                Point(
                    "",
                    f"{len(stale)} conductors that are laid are no longer in the design: {', '.join(k.replace('~', ' to ') for k in stale[:6])}",
                )
            )
    if plan is not None and (whole or f.wires):
        found += [Point("", words) for words in left_of(f, items, plan, whole=whole)]
    return found


def left_of(f: Folded, items: Mapping[str, Item], plan: Plan, *, whole: bool) -> list[str]:
    """Conductors not laid; with ``whole`` readings of the plan not taken, steps not seen, trials and measurements not done too. One sentence each."""
    wires = [i.key for i in plan.wires]
    checks = [f"{s.title}|{check_id(c.a, c.b, c.held)}" for s in plan.stages for c in s.checks]
    steps = [f"{s.title}|{n}" for s in plan.stages for n, _ in enumerate(s.steps)]
    trials = [i.id for i in items.values() if i.group == "trials"]
    measured = [i.id for i in items.values() if i.group != "trials"]
    counted = (
        (sum(not conductor(f.wires.get(k)) for k in wires), len(wires), "conductors are not laid yet"),
        (sum(k not in f.checks for k in checks), len(checks), "continuity readings are not taken yet"),
        (sum(k not in f.steps for k in steps), len(steps), "steps under voltage are not seen yet"),
        (sum(k not in f.readings for k in trials), len(trials), "trials are not done yet"),
        (sum(k not in f.readings for k in measured), len(measured), "measurements and settings are not recorded yet"),
    )
    return [f"{left} of {all_} {words}" for left, all_, words in (counted if whole else counted[:1]) if left]


def clash_words(a: Entry, b: Entry, items: Mapping[str, Item]) -> str:
    """Two people who wrote about the same thing without knowing of each other, in one sentence."""
    return (
        f"{title_of(b, items)}: {a.who} wrote {said_of(a)}, {b.who} wrote {said_of(b)}, neither knowing of the other. "
        "Both are kept; enter again what counts."
    )


def title_of(e: Entry, items: Mapping[str, Item]) -> str:
    """What an entry is about, in words."""
    return (
        items[e.subject].title
        if e.kind == "reading" and e.subject in items
        else e.subject.replace("~", " to ").replace("|", ", ")
    )


def said_of(e: Entry) -> str:
    """What an entry says, in one word or figure."""
    body = e.body
    return {"reading": str(body.get("value")), "wire": "laid" if body.get("done") else "not laid", "check": str(body.get("reads")),
            "step": "something different" if body.get("different") else "as it must be"}.get(e.kind, "otherwise")  # fmt: skip


@dataclass(frozen=True, slots=True)
class Due:
    """An inspection and when it falls due.

    Attributes
    ----------
    key, title, every_months : which it is
    due : next time
    last, result : last time, None and empty before the first
    """

    key: str
    title: str
    every_months: int
    due: date
    last: date | None
    result: str


def inspections(f: Folded) -> list[Due]:
    """Every inspection with its next date, the earliest first."""
    found = []
    for key, es in f.inspections.items():
        first = next((e for e in es if e.kind == "inspection"), None)
        if first is None:
            continue
        done = [e for e in es if e.kind == "inspected"]
        last = max((date.fromisoformat(e.body["on"]) for e in done), default=None)
        months, due = int(first.body["every_months"]), date.fromisoformat(first.body["first_due"])
        if last is not None:
            due = months_later(last, months)
        result = next((e.body["result"] for e in reversed(done) if date.fromisoformat(e.body["on"]) == last), "")
        found.append(Due(key, first.body["title"], months, due, last, result))
    return sorted(found, key=lambda d: d.due)


def months_later(day: date, months: int) -> date:
    """The same day some months later, or the last one of that month.

    Examples
    --------
    >>> months_later(date(2026, 1, 31), 1)
    datetime.date(2026, 2, 28)
    """
    month = day.month - 1 + months
    year, month = day.year + month // 12, month % 12 + 1
    following = date(year + month // 12, month % 12 + 1, 1)
    return date(year, month, min(day.day, (following - timedelta(days=1)).day))
