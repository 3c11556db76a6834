"""Calendars as iCalendar (RFC 5545), which every calendar reads."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import UTC, date, datetime

FOLD = 74  # octets of a content line, less the blank that continues it (RFC 5545, 3.1)


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
    lines = ["BEGIN:VCALENDAR", "VERSION:2.0", "PRODID:-//Juniper Heath//planner//EN"]
    for e in entries:
        lines += [
            "BEGIN:VEVENT",
            f"UID:{e.key}-{_when(e.start).rpartition(':')[2]}@juniper-heath.invalid",
            f"DTSTAMP{_when(stamp)}",
            f"DTSTART{_when(e.start)}",
            f"DTEND{_when(e.end)}",
            f"SUMMARY:{_plain(e.title)}",
            f"DESCRIPTION:{_plain(f'{title}. {e.words}')}",
            "END:VEVENT",
        ]
    return "".join(f"{_folded(line)}\r\n" for line in [*lines, "END:VCALENDAR"])


def _when(moment: date) -> str:
    if isinstance(moment, datetime):
        return f":{moment.astimezone(UTC):%Y%m%dT%H%M%SZ}"
    return f";VALUE=DATE:{moment:%Y%m%d}"


def _plain(text: str) -> str:
    for one, other in (("\\", "\\\\"), (";", "\\;"), (",", "\\,"), ("\n", "\\n")):
        text = text.replace(one, other)
    return text


def _folded(line: str) -> str:
    out, part = [], ""
    for letter in line:
        if len((part + letter).encode()) > FOLD:
            out.append(part)
            part = ""
        part += letter
    return "\r\n ".join([*out, part])
