"""Due dates of inspections."""

from dataclasses import dataclass
from datetime import date

from dateutil.relativedelta import relativedelta

from volmek.core.record.journal import Folded


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
        last = (
            date.fromisoformat(done[-1].body["on"]) if done else None
        )  # the last entry counts: it corrects the ones before
        months, due = int(first.body["every_months"]), date.fromisoformat(first.body["first_due"])
        if last is not None:
            due = last + relativedelta(months=months)
        result = done[-1].body["result"] if done else ""
        found.append(Due(key, first.body["title"], months, due, last, result))
    return sorted(found, key=lambda d: d.due)
