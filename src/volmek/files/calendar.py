"""Inspections as an iCalendar file."""

from collections.abc import Sequence
from datetime import UTC, datetime, timedelta

from volmek.core.record.inspections import Due


def calendar(rows: Sequence[tuple[str, Due]]) -> bytes:
    """A calendar with one event for each inspection, on the day that it falls due.

    Parameters
    ----------
    rows : whose inspection it is, and the inspection

    References
    ----------
    RFC 5545.
    """
    from icalendar import Alarm, Calendar, Event  # here, since a server starts without it

    cal = Calendar()
    cal.add("prodid", "-//Volmek//inspections//EN")
    cal.add("version", "2.0")
    for whose, due in rows:
        event = Event()
        event.add("uid", f"{due.key}@volmek")
        event.add("dtstamp", datetime.now(UTC))
        event.add("dtstart", due.due)
        event.add("dtend", due.due + timedelta(days=1))
        event.add("summary", f"{whose}: {due.title}")
        last = f"Last on {due.last.isoformat()}: {due.result}" if due.last else "Not done yet."
        event.add("description", f"Every {due.every_months} months. {last}")
        alarm = Alarm()
        alarm.add("action", "DISPLAY")
        alarm.add("description", due.title)
        alarm.add("trigger", timedelta(days=-14))
        event.add_component(alarm)
        cal.add_component(event)
    return bytes(cal.to_ical())
