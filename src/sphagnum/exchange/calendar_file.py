"""Days to look again as a calendar file."""

from __future__ import annotations

import hashlib
from collections.abc import Sequence
from datetime import UTC, date, datetime, timedelta

from icalendar import Calendar, Event

from ..core.fitting.afterwards import LookAgain


def calendar_file(days: Sequence[LookAgain], job_name: str) -> bytes:
    """An iCalendar file (RFC 5545), a whole day an entry; the same days give the same file."""
    calendar = Calendar()
    calendar.add("prodid", "-//Sphagnum//look again//EN")
    calendar.add("version", "2.0")
    for day in days:
        event, due = Event(), date.fromisoformat(day.due_on)
        event.add("uid", hashlib.sha256(f"{job_name} {day.due_on} {day.what}".encode()).hexdigest()[:24] + "@sphagnum")
        event.add("dtstamp", datetime(due.year, due.month, due.day, tzinfo=UTC))
        event.add("dtstart", due)
        event.add("dtend", due + timedelta(days=1))
        event.add("summary", f"{job_name}: look again")
        event.add("description", day.what)
        calendar.add_component(event)
    data: bytes = calendar.to_ical()
    return data
