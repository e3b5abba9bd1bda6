"""Open items of a starter."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime

from volmek.core.circuit.build.plan import Plan
from volmek.core.record.items import Item, judge
from volmek.core.record.journal import Entry, Folded, check_id, conductor, trip_of


@dataclass(frozen=True, slots=True)
class Point:
    """An open item of a starter.

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
                    f"{len(stale)} wires that are connected are no longer in the design: {', '.join(k.replace('~', ' to ') for k in stale[:6])}",
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
        (sum(not conductor(f.wires.get(k)) for k in wires), len(wires), "wires are not connected yet"),
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
    """Subject of an entry, in words."""
    return (
        items[e.subject].title
        if e.kind == "reading" and e.subject in items
        else e.subject.replace("~", " to ").replace("|", ", ")
    )


def said_of(e: Entry) -> str:
    """Content of an entry, in one word or figure."""
    body = e.body
    return {"reading": str(body.get("value")), "wire": "laid" if body.get("done") else "not laid", "check": str(body.get("reads")),
            "step": "something different" if body.get("different") else "as it must be"}.get(e.kind, "otherwise")  # fmt: skip
