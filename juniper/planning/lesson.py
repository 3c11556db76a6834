"""A lesson from its end backwards: what each student's bag holds, what is bought, and who does what
in which minute.

Shares of a lesson are common practice: a short look at the rules first, making for more than half
of it, a step back before the focal flower and at the end, photographs and clearing up last.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from datetime import datetime, timedelta

from juniper.planning.calendar import Entry
from juniper.planning.conditioning import Job
from juniper.planning.placing import Step
from juniper.planning.recipe import Item
from juniper.planning.transport import BY_KEY, Transport

SHORTEST, LONGEST, USUAL = 45, 480, 120  # minutes of a lesson
MOST_PEOPLE = 2
BAG = 1.0  # minutes of one person to count and bag one student's stems (from memory)
SET_OUT = 1.5  # minutes of one person to set out one student's place (from memory)
# minutes for one piece, front and another side, at so many places with a plain wall (from memory)
PHOTOGRAPH, PHOTOGRAPH_PLACES = 1.5, 2
CLEAR = 10  # minutes
STEP = 5  # minutes that work is planned in
# shares of what is left once photographs and clearing up are taken off (common practice)
INTRODUCTION, DEMONSTRATION = 0.06, 0.12
LOOKS = 0.06  # of it: one stepping back before the focal flower, one at the end
BEFORE_FOCAL = "before"  # the stage at which makers stop and look (juniper.rules STAGES)
SETTING = "Set out the places: vessel, holding material, tools, water."
BAGGING = "Count the stems into bags, one a student, named."
WHO = ("instructor", "helper")


def kit(items: tuple[Item, ...]) -> tuple[Item, ...]:
    """The bag of one student: the lines of a recipe that put something in. A stem that yields
    several pieces is divided while the bags are filled, so that they take what is bought.
    """
    return tuple(i for i in items if i.stems)


@dataclass(frozen=True)
class Minute:
    """One line of the run-sheet: from when until when, who (1 the instructor, 2 the helper, 0 all),
    and what.
    """

    start: datetime
    end: datetime
    who: int
    what: str

    @property
    def minutes(self) -> int:
        """How long it takes."""
        return round((self.end - self.start).total_seconds() / 60)


class NoTime(ValueError):
    """A lesson too short for what is asked of it; the sentence says what helps."""


def run_sheet(
    ends: datetime,
    minutes: int,
    students: int,
    steps: tuple[Step, ...],
    people: int = 1,
    transport: Transport = BY_KEY["none"],
    way: int = 0,
    jobs: tuple[Job, ...] = (),
) -> tuple[Minute, ...]:
    """The lesson in minutes, from bags to the last photograph: `steps` of placing are shared over
    the time of making by what is placed in each. With conditioning `jobs`, bagging and setting out
    are done when those leave hands free; what is bagged has stood its time if the jobs were made
    for ready_by(). Raises NoTime with a sentence.
    """
    if not SHORTEST <= minutes <= LONGEST:
        raise NoTime(f"A lesson takes {SHORTEST} to {LONGEST} minutes.")
    if not 1 <= people <= MOST_PEOPLE:
        raise NoTime(f"The run-sheet is made for one person or {MOST_PEOPLE}.")
    if students < 1:
        raise NoTime("A lesson has one student at least.")
    begins = ends - timedelta(minutes=minutes)
    photographs = _steps_of(PHOTOGRAPH * students / PHOTOGRAPH_PLACES)
    making = minutes - photographs - CLEAR
    talk = _steps_of(INTRODUCTION * making)
    shown = _steps_of(DEMONSTRATION * making)
    looks = _steps_of(LOOKS * making)
    hands_on = making - talk - shown - 2 * looks
    if hands_on < STEP * max(3, len(steps)):
        raise NoTime(
            f"{minutes} minutes are too short for {students} students and {len(steps)} steps of"
            f" placing: photographs and clearing up alone take {photographs + CLEAR}. Plan a longer"
            " lesson, or a smaller class."
        )
    rows: list[Minute] = []
    at = begins

    def add(length: int, who: int, what: str) -> None:
        nonlocal at
        rows.append(Minute(at, at + timedelta(minutes=length), who, what))
        at += timedelta(minutes=length)

    add(talk, 1, "The brief, the rules that will mark it, and what can hurt.")
    add(shown, 1, "Demonstration: the first stems of each step.")
    shares = _shares(hands_on, tuple(max(1, s.stems) for s in steps))
    # the stage before the focal flower, where the pattern tells it; else halfway
    look = next((n for n, s in enumerate(steps) if s.stage == BEFORE_FOCAL), (len(steps) - 1) // 2)
    for n, (step, length) in enumerate(zip(steps, shares, strict=True)):
        add(length, 0, step.what)
        if n == look:
            add(looks, 0, "Step back: is the outline there, and the holding material hidden?")
    add(looks, 0, "Step back again: turn it, fill holes, soften the rim.")
    add(photographs, 0, f"Photographs at the height of the rim: {students} pieces.")
    add(CLEAR, 0, "Clear up: stems to the compost, benches wiped, knives counted.")
    rows += _before(begins, students, people, jobs)
    rows += _afterwards(ends, students, people, transport, way)
    return tuple(sorted(rows, key=lambda r: (r.start, r.who)))


def ready_by(begins: datetime, students: int, people: int = 1) -> datetime:
    """By when all material has to have stood its time, so that it can be counted into bags."""
    setting, bagging = _steps_of(SET_OUT * students), _steps_of(BAG * students)
    before = setting + bagging if people == 1 else max(setting, bagging)
    return begins - timedelta(minutes=before)


def _steps_of(minutes: float) -> int:
    return STEP * max(1, math.ceil(minutes / STEP - 1e-9))


def _shares(minutes: int, weights: tuple[int, ...]) -> tuple[int, ...]:
    """Whole steps of time by weight, each one at least, that add up to `minutes`."""
    left = minutes // STEP - len(weights)
    whole = sum(weights)
    exact = [left * w / whole for w in weights]
    found = [math.floor(e) for e in exact]
    by_rest = sorted(range(len(weights)), key=lambda n: (found[n] - exact[n], n))
    for n in by_rest[: left - sum(found)]:
        found[n] += 1
    out = [STEP * (1 + f) for f in found]
    out[-1] += minutes % STEP
    return tuple(out)


def _before(begins: datetime, students: int, people: int, jobs: tuple[Job, ...]) -> list[Minute]:
    """Setting out and bagging, as late as may be before the lesson, in minutes in which the person
    has no conditioning to do.
    """
    setting = _steps_of(SET_OUT * students)
    bagging = _steps_of(BAG * students)
    tasks = [(setting, SETTING), (bagging, BAGGING)]
    out: list[Minute] = []
    free = dict.fromkeys(range(1, people + 1), begins)
    for length, what in tasks:
        found = {p: _free_before(free[p], length, p, jobs) for p in free}
        who = max(found, key=lambda p: (found[p], p))
        start = found[who]
        out.append(Minute(start, start + timedelta(minutes=length), who, what))
        free[who] = start
    return out


def _free_before(latest: datetime, length: int, person: int, jobs: tuple[Job, ...]) -> datetime:
    """The latest start of a task of so many minutes that ends by `latest` and meets none of a
    person's jobs.
    """
    end = latest
    for job in sorted((j for j in jobs if j.person == person), key=lambda j: j.start, reverse=True):
        if end - timedelta(minutes=length) >= job.end:
            break
        end = min(end, job.start)
    return end - timedelta(minutes=length)


def _afterwards(
    ends: datetime, students: int, people: int, transport: Transport, way: int
) -> list[Minute]:
    """The way to where the pieces will stand, and setting them up there."""
    if transport.key == "none":
        return []
    out, at = [], ends
    # every student sees to a piece of their own, two to a doorway or a tap (common practice)
    hands = max(people, math.ceil(students / 2))

    def add(minutes: int, what: str) -> None:
        nonlocal at
        out.append(Minute(at, at + timedelta(minutes=minutes), 0, what))
        at += timedelta(minutes=minutes)

    for step in transport.before:
        add(_steps_of(step.minutes * students / hands), f"{step.what} Water: {step.water}.")
    if way:
        add(way, f"On the way: {transport.says.lower()}.")
    for step in transport.after:
        add(_steps_of(step.minutes * students / hands), f"{step.what} Water: {step.water}.")
    return out


def entries(rows: tuple[Minute, ...]) -> tuple[Entry, ...]:
    """A run-sheet as calendar entries."""
    return tuple(
        Entry(f"{n}-lesson", r.start, r.end, r.what, WHO[r.who - 1] if r.who else "everybody")
        for n, r in enumerate(rows, 1)
    )
