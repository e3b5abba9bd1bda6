"""The journal of a starter: entries that are only ever added, and what they come to.

Wires laid, readings, trials, trips, changes, open items, inspections and signatures are all entries. Nothing is changed or taken
away: a later entry of the same subject counts, the earlier ones stay readable.
"""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import datetime, timedelta
from typing import Any

from volmek.core.circuit.build.plan import Stage

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
    signed : who wrote it had signed in; else the name is as typed
    """

    id: int
    key: str
    kind: str
    body: dict[str, Any]
    who: str
    said: datetime
    received: datetime
    seen: int = 0
    signed: bool = False

    @property
    def subject(self) -> str:
        """Subject: entries of one subject follow each other."""
        return subject_of(self.kind, self.body)


def stage_title(title: str) -> str:
    """Title of a stage as it is called today; entries made before a stage was renamed still count.

    Examples
    --------
    >>> stage_title("Hold of K1"), stage_title("Coil of K1")
    ('Seal-in of K1', 'Coil of K1')
    """
    return title.replace("Hold of ", "Seal-in of ")


def subject_of(kind: str, body: Mapping[str, Any]) -> str:
    """Subject of an entry.

    Examples
    --------
    >>> subject_of("reading", {"item": "load.L1"}), subject_of("step", {"stage": "Coil of K1", "step": 2})
    ('load.L1', 'Coil of K1|2')
    """
    if kind == "check":
        return f"{stage_title(body['stage'])}|{body['check']}"
    if kind == "step":
        return f"{stage_title(body['stage'])}|{body['step']}"
    name = {
        "wire": "wire",
        "isolated": "stage",
        "reading": "item",
        "trip": "trip",
        "closed": "point",
        "inspected": "inspection",
        "signature": "role",
    }.get(kind)
    found = str(body.get(name, "")) if name else ""
    return stage_title(found) if kind == "isolated" else found


def check_id(a: str, b: str, held: str) -> str:
    """Name of a continuity reading in the journal."""
    return f"{a} {b} {held}"


@dataclass
class Folded:
    """State that a journal adds up to.

    Attributes
    ----------
    wires : the last entry of each conductor
    isolated, checks, steps : the last entry of each subject of the build plan
    readings : all entries of each item, the last one counts
    trips, points, inspections : what was begun, with all that followed
    changes, signatures : as they came
    written, signed : how many entries there are, and how many of them are of people who had signed in
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
    written: int = 0
    signed: int = 0


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
        f.written += 1
        f.signed += e.signed
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
    """A trip with its later entries: the last entry of each field counts."""
    found: dict[str, Any] = {}
    for e in entries:
        found |= {k: v for k, v in e.body.items() if v not in ("", None, False)}
    return found


def conductor(e: Entry | None) -> bool:
    """A conductor is laid."""
    return e is not None and bool(e.body["done"])


def stage_state(f: Folded, stage: Stage, before: Sequence[Stage] = ()) -> dict[str, Any]:
    """Progress of a stage: missing for its readings, before it is energized, and for its completion.

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
