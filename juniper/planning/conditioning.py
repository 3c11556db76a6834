"""Conditioning, backwards from class time: what each material needs, and when whose hands do it.

Times are common practice (handbook section 5): two hours in water, woody and large leaves longer; soft ends seared about 10 s, medium 20, woody 30
to 40, over a tenth of the stem.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta

from juniper.planning.materials import Material

SEAR = {"soft": (10, 10), "medium": (20, 20), "woody": (30, 40), "milky": (20, 20)}  # seconds in just-boiled water
SOAK = {"woody": 240, "leaf": 240, "hollow": 180}  # minutes in deep water
USUAL_SOAK, BLEED, UNDER = 120, 30, 30  # minutes
EACH = 0.3  # minutes of hands to strip and cut a stem
MORE = {"woody": 0.3, "hollow": 0.4, "milky": 0.3, "leaf": 0.1}  # minutes more: split, fill, sear, lay under water
SETTLE = 15  # minutes before class by which all stands ready
STEP = 5  # minutes that work is planned in
MOST_PEOPLE = 2


@dataclass(frozen=True)
class Need:
    """A material and how many stems of it are to be made ready."""

    material: Material
    stems: int


@dataclass(frozen=True)
class Job:
    """Work of one pair of hands on one material: when, by whom (from 1), what is done, and until when it then stands."""

    material: Material
    stems: int
    start: datetime
    end: datetime
    ready: datetime
    person: int
    what: tuple[str, ...]


def steps_of(material: Material) -> tuple[str, ...]:
    """What is done to a material, in order, each in a sentence."""
    if material.texture == "dried":
        return ("Needs no water: steam what is crushed, and shake the dust off out of doors.",)
    steps = ["Strip every leaf that would stand under water."]
    if "thorns" in material.cautions:
        steps.append("Take the thorns off, with gloves.")
    if material.texture == "woody":
        steps.append("Cut on the slant, and split the end crosswise for a finger's breadth.")
    else:
        steps.append("Cut on the slant, at once into water.")
    if "bleeds" in material.cautions:
        steps.append(f"Let it bleed apart from the others for {BLEED} minutes, then rinse.")
    if material.texture in SEAR:
        low, high = SEAR[material.texture]
        steps.append(
            f"Sear a tenth of the stem in just-boiled water, {low if low == high else f'{low} to {high}'} seconds, the tops wrapped from the steam."
        )
    if material.texture == "hollow":
        steps.append("Turn the stem up, fill it with water, and stop it with a plug of wet cotton wool.")
    if material.texture == "leaf":
        steps.append(f"Lay it under water for {UNDER} minutes before it stands.")
    if material.slug == "tulip":
        steps.append("Wrap the bunch upright while it drinks, or the stems bend.")
    steps.append(f"Stand it in deep cool water for {soak(material) // 60} hours or overnight.")
    return tuple(steps)


def soak(material: Material) -> int:
    """Minutes that a material stands in water at least."""
    if material.texture == "dried":
        return 0
    extra = BLEED if "bleeds" in material.cautions else UNDER if material.texture == "leaf" else 0
    return SOAK.get(material.texture, USUAL_SOAK) + extra


def hands(need: Need) -> int:
    """Minutes of one pair of hands, in whole steps."""
    minutes = need.stems * (EACH + MORE.get(need.material.texture, 0.1)) + 5
    return STEP * math.ceil(minutes / STEP)


def timetable(needs: tuple[Need, ...], class_at: datetime, people: int = 1) -> tuple[Job, ...]:
    """Jobs in the order of the day, each as late as it may be: everything has stood its time and is ready before class, and nobody has two
    jobs at once. Raises ValueError with a sentence."""
    if not 1 <= people <= MOST_PEOPLE:
        raise ValueError(f"The timetable is made for one person or {MOST_PEOPLE}.")
    if any(n.stems < 1 for n in needs):
        raise ValueError("Of each material there is one stem at least.")
    free = [class_at - timedelta(minutes=SETTLE)] * people  # from when on each is busy, looking backwards
    jobs = []
    # What need not stand long is done last: so all of it is as fresh as it can be.
    for need in sorted(needs, key=lambda n: (soak(n.material), n.material.slug)):
        latest = class_at - timedelta(minutes=SETTLE + soak(need.material))
        person = max(range(people), key=lambda p: (min(free[p], latest), -p))
        end = min(free[person], latest)
        start = end - timedelta(minutes=hands(need))
        free[person] = start
        ready = end + timedelta(minutes=soak(need.material))
        jobs.append(Job(need.material, need.stems, start, end, ready, person + 1, steps_of(need.material)))
    return tuple(sorted(jobs, key=lambda j: (j.start, j.person)))


def as_ics(jobs: tuple[Job, ...], title: str, stamp: datetime) -> str:
    """A timetable as iCalendar (RFC 5545), times in UTC; `stamp` is when it was made."""

    def when(moment: datetime) -> str:
        return moment.astimezone(UTC).strftime("%Y%m%dT%H%M%SZ")

    lines = ["BEGIN:VCALENDAR", "VERSION:2.0", "PRODID:-//Juniper Heath//conditioning//EN"]
    for number, job in enumerate(jobs, 1):
        lines += [
            "BEGIN:VEVENT", f"UID:{number}-{job.material.slug}-{when(job.start)}@juniper-heath.invalid", f"DTSTAMP:{when(stamp)}",
            f"DTSTART:{when(job.start)}", f"DTEND:{when(job.end)}", f"SUMMARY:{_plain(f'{job.material.common}, {job.stems} stems')}",
            f"DESCRIPTION:{_plain(f'{title}. ' + ' '.join(job.what))}", "END:VEVENT",
        ]  # fmt: skip
    return "".join(f"{_folded(line)}\r\n" for line in [*lines, "END:VCALENDAR"])


def _plain(text: str) -> str:
    for one, other in (("\\", "\\\\"), (";", "\\;"), (",", "\\,"), ("\n", "\\n")):
        text = text.replace(one, other)
    return text


def _folded(line: str) -> str:
    """A content line in parts of at most 75 octets (RFC 5545, 3.1)."""
    out, part = [], ""
    for letter in line:
        if len((part + letter).encode()) > 74:
            out.append(part)
            part = ""
        part += letter
    return "\r\n ".join([*out, part])
