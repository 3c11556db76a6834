"""What answers tell of a learner, of a class over the weeks, and of who took part in a round."""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date, timedelta

from django.utils import timezone

from heath.classes.models import Course
from heath.practice.models import ClassRound, Exercise, Learner
from juniper.learning import KIND, SKILLS, Estimate, Kind, Lean, Skill, lean_of

LATEST = 20  # answers of a kind that its own error is told from
WEEKS = 6  # on the class's page
LEAST = 3  # answers in a week under which no share is told


@dataclass(frozen=True)
class KindRow:
    """A kind of exercise: how a learner errs in its own unit (root mean square of the latest), and
    to which side; None where answers are right or wrong.
    """

    kind: Kind
    answers: int
    right: float
    error: float | None
    lean: Lean | None

    @property
    def error_words(self) -> str:
        """The error with its unit; '' where there is none."""
        if self.error is None:
            return ""
        return f"{self.error * self.kind.times:.{self.kind.decimals}f} {self.kind.unit}"

    @property
    def lean_words(self) -> str:
        """To which side the answers lie, where that is sure."""
        if self.lean is None or not self.lean.sure:
            return ""
        by = f"{abs(self.lean.by) * self.kind.times:.{self.kind.decimals}f} {self.kind.unit}"
        sides = {
            "axis": ("to the right", "to the left"),
            "share": ("too much for the left", "too little for the left"),
        }
        more, less = sides.get(self.kind.code, ("too high", "too low"))
        return f"on average {by} {more if self.lean.by > 0 else less}"


@dataclass(frozen=True)
class SkillRow:
    """A skill of a learner: what is known of its error, and its kinds."""

    skill: Skill
    estimate: Estimate
    kinds: tuple[KindRow, ...]

    @property
    def answers(self) -> int:
        """How many exercises were answered, of each kind the latest."""
        return sum(k.answers for k in self.kinds)

    @property
    def percent(self) -> int:
        """The error as per cent of a beginner's."""
        return round(100 * self.estimate.error)

    @property
    def at(self) -> int:
        """Where it lies on a line from 0 to twice a beginner's error, of 200."""
        return min(200, self.percent)

    @property
    def low(self) -> int:
        """Where the line of what it may be begins, likewise."""
        return max(0, self.at - self.give)

    @property
    def high(self) -> int:
        """And where it ends."""
        return min(200, self.at + self.give)

    @property
    def give(self) -> int:
        """Its standard uncertainty, likewise."""
        return max(1, round(100 * self.estimate.uncertainty))


def skill_rows(learner: Learner) -> list[SkillRow]:
    """A learner's skills that were practised, in their order."""
    standing = learner.as_standing
    by_kind: dict[str, list[tuple]] = defaultdict(list)
    rows = (
        Exercise.objects.filter(round__learner=learner, answered_at__isnull=False)
        .order_by("-answered_at", "-pk")
        .values_list("kind", "error", "signed", "right")[:1000]
    )
    for kind, error, signed, right in rows:
        if kind in KIND and len(by_kind[kind]) < LATEST:
            by_kind[kind].append((error, signed, right))
    out = []
    for skill in SKILLS:
        kinds = tuple(
            _kind_row(KIND[code], given)
            for code, given in sorted(by_kind.items(), key=lambda pair: pair[0])
            if KIND[code].skill == skill.code
        )
        if kinds:
            out.append(SkillRow(skill, standing.of(skill.code), kinds))
    return out


def _kind_row(kind: Kind, given: list[tuple]) -> KindRow:
    errors = [e for e, _, _ in given if e is not None]
    signed = [s for _, s, _ in given if s is not None]
    return KindRow(
        kind,
        len(given),
        sum(bool(r) for *_, r in given) / len(given),
        math.sqrt(sum(e * e for e in errors) / len(errors)) if errors else None,
        lean_of(signed),
    )


@dataclass(frozen=True)
class Week:
    """A week, by its Monday: of how many answers in a skill how many were right."""

    monday: date
    answers: int
    right: int

    @property
    def percent(self) -> int | None:
        """The share that was right, per cent; None with fewer than LEAST answers."""
        return round(100 * self.right / self.answers) if self.answers >= LEAST else None


@dataclass(frozen=True)
class ClassEye:
    """A class by skill over the latest weeks (`weeks` are their Mondays), and by person."""

    weeks: tuple[date, ...]
    skills: tuple[tuple[Skill, tuple[Week, ...], int], ...]
    people: tuple[tuple[str, int, int, tuple[int | None, ...]], ...]

    @property
    def any(self) -> bool:
        """Whether anybody has practised."""
        return bool(self.people)


def class_eye(course: Course) -> ClassEye:
    """What the answers of a class tell, on students' own pages and behind the class's links."""
    rows = list(
        Exercise.objects.filter(round__learner__course=course, answered_at__isnull=False)
        .order_by("answered_at")
        .values_list("kind", "right", "answered_at", "round__learner")
    )
    tally: dict[tuple[str, date], list[int]] = defaultdict(lambda: [0, 0])
    for kind, right, at, _ in rows:
        if kind not in KIND:
            continue
        day = timezone.localtime(at).date()
        cell = tally[KIND[kind].skill, day - timedelta(days=day.weekday())]
        cell[0] += 1
        cell[1] += bool(right)
    weeks = tuple(sorted({monday for _, monday in tally})[-WEEKS:])
    skills = tuple(
        (
            skill,
            tuple(Week(m, *tally.get((skill.code, m), (0, 0))) for m in weeks),
            sum(n for (code, _), (n, _) in tally.items() if code == skill.code),
        )
        for skill in SKILLS
        if any(code == skill.code for code, _ in tally)
    )
    return ClassEye(weeks, skills, _people(course, rows, [s for s, *_ in skills]))


def _people(course: Course, rows: list[tuple], skills: list[Skill]) -> tuple:
    """By person: answers, share right in per cent, and the error in each of some skills as per cent
    of a beginner's (None: not known yet); of a student who practised in several places, where most
    was answered.
    """
    answers: dict[int, list[int]] = defaultdict(lambda: [0, 0])
    for _, right, _, learner in rows:
        answers[learner][0] += 1
        answers[learner][1] += bool(right)
    learners = Learner.objects.filter(pk__in=answers).select_related("student", "user")
    together: dict[object, list[Learner]] = defaultdict(list)
    for learner in learners:
        together[learner.student_id or ("", learner.pk)].append(learner)
    out = []
    for some in together.values():
        most = max(some, key=lambda x: answers[x.pk][0])
        count = sum(answers[x.pk][0] for x in some)
        right = sum(answers[x.pk][1] for x in some)
        standing = most.as_standing
        known = tuple(
            round(100 * e.error) if (e := standing.of(skill.code)).known else None
            for skill in skills
        )
        sorting = most.student.sorting if most.student else most.shown_name.lower()
        out.append((sorting, (most.shown_name, count, round(100 * right / count), known)))
    return tuple(row for _, row in sorted(out, key=lambda pair: pair[0]))


@dataclass(frozen=True)
class Place:
    """Somebody's best finished sitting of a class's round."""

    name: str
    right: int
    count: int


def league_of(set_round: ClassRound) -> list[Place]:
    """Who took part in a class's round and finished it, the best first."""
    best: dict[int, Place] = {}
    for sitting in set_round.rounds.filter(finished_at__isnull=False).select_related(
        "learner__student", "learner__user"
    ):
        given = list(sitting.exercises.values_list("right", flat=True))
        place = Place(sitting.learner.name or "without a name", sum(map(bool, given)), len(given))
        old = best.get(sitting.learner_id)
        if old is None or place.right > old.right:
            best[sitting.learner_id] = place
    return sorted(best.values(), key=lambda p: -p.right)


def taken_part(set_rounds: Iterable[ClassRound]) -> list[tuple[ClassRound, int, int, int | None]]:
    """Of each round set for a class: how many people took part, how many finished, and the share
    of right answers in per cent (None without answers).
    """
    out = []
    for one in set_rounds:
        people = one.rounds.values("learner").distinct().count()
        done = one.rounds.filter(finished_at__isnull=False).values("learner").distinct().count()
        given = list(
            Exercise.objects.filter(round__set_as=one, answered_at__isnull=False).values_list(
                "right", flat=True
            )
        )
        share = round(100 * sum(map(bool, given)) / len(given)) if given else None
        out.append((one, people, done, share))
    return out
