"""Calendars as iCalendar (RFC 5545), which every calendar reads."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import UTC, date, datetime

import icalendar


@dataclass(frozen=True)
class Entry:
    """One entry: from `start` to `end`, moments (with their zone) or whole days (the end is the day
    after the last).
    """

    key: str
    start: date
    end: date
    title: str
    words: str


def as_ics(entries: tuple[Entry, ...], title: str, stamp: datetime) -> str:
    """Entries as one calendar, moments in UTC; `title` is what they belong to, `stamp` when it was
    made.
    """
    calendar = icalendar.Calendar()
    calendar.add("version", "2.0")
    calendar.add("prodid", "-//Juniper Heath//planner//EN")
    for entry in entries:
        start = _in_utc(entry.start)
        event = icalendar.Event()
        key = f"{entry.key}-{icalendar.vDDDTypes(start).to_ical().decode()}"
        event.add("uid", f"{key}@juniper-heath.invalid")
        event.add("dtstamp", _in_utc(stamp))
        event.add("dtstart", start)
        event.add("dtend", _in_utc(entry.end))
        event.add("summary", entry.title)
        event.add("description", f"{title}. {entry.words}")
        calendar.add_component(event)
    return calendar.to_ical(sorted=False).decode()


def _in_utc(moment: date) -> date:
    return moment.astimezone(UTC) if isinstance(moment, datetime) else moment
