"""Records of the demo starters: one proved with a history of years, one built with open items, one in building."""

import csv
import io
from datetime import UTC, date, datetime, timedelta
from itertools import count
from typing import Any

from sqlalchemy.orm import Session

from volmek.core.catalogue.catalogue import reference_catalogue
from volmek.core.circuit.build.plan import Plan, Stage
from volmek.core.record.bodies import parse_body
from volmek.core.record.journal import check_id
from volmek.data.loader import demo
from volmek.store.models import Starter
from volmek.store.records import add_entry, seal
from volmek.web.record_views import Looked

FITTER, OTHER = "T. Brannoc", "E. Sallow"


class _Writer:
    """Writes entries of one starter, a minute apart."""

    def __init__(self, session: Session, starter: Starter, began: datetime) -> None:
        self.session, self.starter, self.at = session, starter, began
        self.numbers = count(1)
        self.entries: list[tuple[datetime, str, str, dict[str, Any], str]] = []

    def add(self, kind: str, body: dict[str, object], who: str = FITTER, at: datetime | None = None) -> str:
        """One entry; returns its key."""
        self.at = at or self.at + timedelta(minutes=1)
        key = f"demo-{self.starter.tag}-{next(self.numbers)}"
        self.entries.append((self.at, key, kind, parse_body(kind, body), who))
        return key

    def keep(self) -> None:
        """Put everything into the journal in the order in which it happened."""
        for at, key, kind, body, who in sorted(self.entries, key=lambda e: e[0]):
            add_entry(
                self.session, self.starter.id, key=key, kind=kind, body=body, who=who, said=at, seen=10**9, received=at
            )

    def stage(self, s: Stage, *, wires: int | None = None) -> None:
        """A whole stage as it must be, or only its first wires."""
        for key in s.wires[:wires]:
            self.add("wire", {"wire": key})
        if wires is None:
            self.add("isolated", {"stage": s.title, "isolated": True, "locked": True, "proved_dead": True})
            for c in s.checks:
                self.add("check", {"stage": s.title, "check": check_id(c.a, c.b, c.held), "reads": c.reads})
            for n in range(len(s.steps)):
                self.add("step", {"stage": s.title, "step": n})

    def whole(self, plan: Plan) -> None:
        """Every stage."""
        for s in plan.stages:
            self.stage(s)

    def readings(self, rows: list[dict[str, str]]) -> None:
        """Readings of a table, those from after the first year included."""
        for row in rows:
            number = row["item"].partition(".")[0] not in ("rotation", "trip", "restart") and not row["item"].endswith(
                ("class.left", "reset.left")
            )
            value: float | str = float(row["value"]) if number else row["value"]
            at = datetime.fromisoformat(row["when"]).replace(tzinfo=UTC)
            self.add("reading", {"item": row["item"], "value": value}, row["who"], at)


def fill_records(session: Session, starters: dict[str, Starter]) -> None:
    """Write the records of the demo starters."""
    rows = list(csv.DictReader(io.StringIO(demo("thornebeck_readings.csv"))))

    def of(tag: str) -> list[dict[str, str]]:
        return [r for r in rows if r["tag"] == tag]

    proved = starters["KG-104"]
    looked = Looked(session, proved.id, reference_catalogue())
    w = _Writer(session, proved, datetime(2023, 5, 15, 7, 0, tzinfo=UTC))
    w.whole(looked.plan())
    first, later = of("KG-104")[:23], of("KG-104")[23:]
    w.readings(first)
    w.add("signature", {"role": "set", "name": FITTER})
    w.add("signature", {"role": "checked", "name": OTHER}, OTHER)
    yearly = w.add(
        "inspection",
        {"title": "Currents, insulation, terminals retightened", "every_months": 12, "first_due": "2024-05-15"},
    )
    trip = w.add(
        "trip",
        {"what": "Q1", "happened": "2024-11-12T04:50:00Z", "reading": "10.9 A in L2, bucket chain stiff"},
        OTHER,
        datetime(2024, 11, 12, 6, 0, tzinfo=UTC),
    )
    w.add("trip", {"trip": trip, "cause": "Boot of the elevator choked with culms after the sieve was off", "repair": "Boot cleared, sieve refitted",
                   "reset": "by hand after ten minutes", "restarted": "2024-11-12T06:40:00Z", "close": True}, OTHER)  # fmt: skip
    w.add(
        "change",
        {
            "what": "P1",
            "designed": "no running lamp",
            "built": "green lamp at the local panel",
            "reason": "Asked for by the maltster on shift",
        },
        OTHER,
        datetime(2025, 2, 3, 9, 0, tzinfo=UTC),
    )
    w.readings(later)
    for day, result in (
        (date(2024, 5, 14), "in order"),
        (date(2025, 5, 20), "in order, L2 watched"),
        (date(2026, 5, 19), "L2 higher again: bearing to be listened to"),
    ):
        w.add(
            "inspected",
            {"inspection": yearly, "on": day.isoformat(), "result": result},
            at=datetime(day.year, day.month, day.day, 15, 0, tzinfo=UTC),
        )
    w.keep()
    assert looked.design is not None
    seal(session, proved.id, OTHER, looked.kept.document, looked.design.to_json(working=True))

    built = starters["KG-106A"]
    looked = Looked(session, built.id, reference_catalogue())
    w = _Writer(session, built, datetime(2026, 10, 5, 7, 30, tzinfo=UTC))
    w.whole(looked.plan())
    w.readings(of("KG-106A"))
    w.add("open", {"text": "Pressure contact B2 is not calibrated yet: the gauge comes next week"}, OTHER)
    w.add("open", {"text": "Label for the terminal strip missing"}, OTHER)
    w.add(
        "trip",
        {"what": "F1", "happened": "2026-10-07T11:25:00Z", "reading": "8.9 A, valve on the pressure side shut"},
        OTHER,
        datetime(2026, 10, 7, 11, 40, tzinfo=UTC),
    )

    w.keep()

    begun = starters["KG-101"]
    plan = Looked(session, begun.id, reference_catalogue()).plan()
    w = _Writer(session, begun, datetime(2026, 11, 23, 7, 15, tzinfo=UTC))
    for s in plan.stages[:4]:
        w.stage(s)
    w.stage(plan.stages[4], wires=2)
    w.keep()
