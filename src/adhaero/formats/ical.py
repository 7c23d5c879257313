"""A schedule as an iCalendar file (RFC 5545): one event for everything that hands have to do."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import UTC, datetime


@dataclass(frozen=True)
class Entry:
    """One event: ``key`` stays the same when the file is written again, so that calendars replace it."""

    key: str
    start: datetime
    end: datetime
    title: str
    text: str


def write(name: str, entries: Iterable[Entry], stamp: datetime) -> bytes:
    """The file; times in UTC, a reminder ten minutes before each event."""
    # Read when a calendar is asked for: a start does not wait for it.
    from icalendar import Alarm, Calendar, Event

    calendar = Calendar()
    calendar.add("prodid", "-//Adhaero//Schedule//EN")
    calendar.add("version", "2.0")
    calendar.add("x-wr-calname", name)
    for e in entries:
        event = Event()
        event.add("uid", f"{e.key}@adhaero")
        event.add("dtstamp", stamp.astimezone(UTC))
        event.add("dtstart", e.start.astimezone(UTC))
        event.add("dtend", e.end.astimezone(UTC))
        event.add("summary", e.title)
        event.add("description", e.text)
        alarm = Alarm()
        alarm.add("action", "DISPLAY")
        alarm.add("description", e.title)
        alarm["trigger"] = "-PT10M"
        event.add_component(alarm)
        calendar.add_component(event)
    return bytes(calendar.to_ical())
