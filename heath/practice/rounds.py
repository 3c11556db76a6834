"""Rounds of practice: who practises, what is asked next, and what came of an answer."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import datetime, timedelta
from itertools import pairwise
from typing import Any

import numpy as np
from django.db import transaction
from django.utils import timezone

from heath.classes.models import Student
from heath.people.models import User
from heath.practice.models import (
    ClassRound,
    Exercise,
    Learner,
    PracticePicture,
    PracticeRound,
    PracticeSettings,
    new_key,
)
from heath.practice.stock import indexes, may_be_shown, studies_of
from juniper.learning import (
    KIND,
    DoesNotSuit,
    Kind,
    Outcome,
    Question,
    Standing,
    ask,
    judge,
    kinds_of,
    next_kind,
    plain_answer,
    wanted_strength,
)
from juniper.learning.kinds import COMPARED
from juniper.rules import RuleSet
from juniper.rules import school as rules_of

TRIES = 6  # kinds and pictures that are tried before a round ends early
LIKE = 6  # pictures nearest to the wanted plainness, of which one is drawn
WITH_FAULT = 0.65  # of exercises that look for a fault, in which there is one
MOST_BY_LINK = 400  # people who take part in one round
STALE = timedelta(days=1)  # an unfinished round is gone on with for so long


class TooMany(Exception):
    """More people came by a link than a class can be."""


class NothingToAsk(Exception):
    """There are no pictures that could be asked about."""


def settings_of(school) -> PracticeSettings:
    """A school's settings, the usual ones where it has none."""
    return PracticeSettings.objects.filter(school=school).first() or PracticeSettings(school=school)


def learner_of_user(user: User) -> Learner:
    """Somebody of a school, as a learner."""
    learner, _ = Learner.objects.get_or_create(user=user, school=user.school)
    return learner


def learner_of_student(student: Student) -> Learner:
    """A student on their own page, as a learner."""
    learner, _ = Learner.objects.get_or_create(
        student=student,
        by_link=None,
        defaults={"school": student.course.school, "course": student.course},
    )
    return learner


def renew_address(student: Student) -> None:
    """Give a student's own practice a new address: whoever had the old one is let in no more."""
    Learner.objects.filter(student=student, by_link=None).update(key=new_key())


def join(set_round: ClassRound, name: str) -> Learner:
    """Somebody who takes part in a class's round; one whose name is on the class's list is that
    student to their instructor. Raises TooMany where more came than a class can be.
    """
    if set_round.learners.count() >= MOST_BY_LINK:
        raise TooMany
    course = set_round.course
    student = course.students.filter(name__iexact=name, removed_at=None).first() if name else None
    return Learner.objects.create(
        school=course.school, course=course, student=student, name=name, by_link=set_round
    )


def is_open(practice_round: PracticeRound) -> bool:
    """Whether it can be gone on with: not finished, and its link not withdrawn."""
    set_as = practice_round.set_as
    return practice_round.finished_at is None and (set_as is None or set_as.withdrawn_at is None)


@transaction.atomic
def start(
    learner: Learner, skills: tuple[str, ...] = (), set_as: ClassRound | None = None
) -> PracticeRound:
    """A round for a learner: the one that they left unfinished today, else a new one. Raises
    NothingToAsk where there are no pictures yet.
    """
    learner = Learner.objects.select_for_update().get(pk=learner.pk)
    chosen = list(set_as.skills if set_as else skills)
    for left in learner.rounds.filter(
        finished_at=None, set_as=set_as, made_at__gt=timezone.now() - STALE
    ):
        if left.skills == chosen and is_open(left):
            return left
    made = PracticeRound.objects.create(learner=learner, set_as=set_as, skills=chosen)
    if set_as:
        made.count = set_as.count
        made.save(update_fields=["count"])
    if ask_next(made, learner) is None:
        raise NothingToAsk
    return made


def ask_next(practice_round: PracticeRound, learner: Learner) -> Exercise | None:
    """Make the next exercise of a round; None where nothing can be asked."""
    place = practice_round.exercises.count() + 1
    rng = np.random.default_rng()
    now = timezone.now()
    recent = list(
        Exercise.objects.filter(round__learner=learner)
        .order_by("-pk")
        .values_list("kind", "pictures")[:300]
    )
    slug = settings_of(learner.school).rules
    kept = indexes(learner.school)
    fits = {pk: index["fits"].get(slug, {}) for pk, index in kept.items()}
    values = {pk: index["values"] for pk, index in kept.items()}
    kinds = [
        k
        for k in kinds_of(practice_round.skills)
        if sum(k.code in f for f in fits.values()) >= k.pictures
        and (not k.fault or any(f.get(k.code, (0, False))[1] for f in fits.values()))
    ]
    standing, rules = learner.as_standing, rules_of(slug)
    codes = [kind for kind, _ in recent[::-1]]
    for _ in range(TRIES):
        if not kinds:
            return None
        kind = next_kind(standing, kinds, now, rng, codes)
        seen = {pk for k, shown in recent if k == kind.code for pk in shown}
        last = {pk for _, shown in recent[:5] for pk in shown}
        asked = _set(kind, standing, fits, values, seen, last, rules, rng)
        if asked is None:
            kinds.remove(kind)
            continue
        question, pictures = asked
        return Exercise.objects.create(
            round=practice_round,
            place=place,
            kind=kind.code,
            pictures=pictures,
            question=question.as_document(),
            rules=slug,
        )
    return None


def _set(
    kind: Kind,
    standing: Standing,
    fits: Mapping[int, Mapping[str, Any]],
    values: Mapping[int, Mapping[str, float]],
    seen: set[int],
    last: set[int],
    rules: RuleSet,
    rng: np.random.Generator,
) -> tuple[Question, list[int]] | None:
    """An exercise of a kind on pictures that were not seen in it (nor just now, if that can be),
    as plain as is wanted.
    """
    fitting = [pk for pk, f in fits.items() if kind.code in f]
    if kind.fault:
        there = bool(rng.random() < WITH_FAULT)
        fitting = [pk for pk in fitting if fits[pk][kind.code][1] is there] or fitting
    fresh = [pk for pk in fitting if pk not in seen] or fitting
    fresh = [pk for pk in fresh if pk not in last] or fresh
    wanted = wanted_strength(kind, standing.of(kind.skill))
    for _ in range(TRIES):
        if kind.pictures == 1:
            near = sorted(fresh, key=lambda pk: abs(fits[pk][kind.code][0] - wanted))
            # where any picture is as hard, all of them
            alike = len({fits[pk][kind.code][0] for pk in fresh}) == 1
            drawn = [int(rng.choice(near if alike else near[:LIKE]))]
        else:
            pool = fresh if len(fresh) >= kind.pictures else fitting
            drawn = _apart(kind, pool, values, wanted, rng)
        studies = studies_of(drawn)
        try:
            return ask(kind, studies, rules, rng), drawn
        except DoesNotSuit:
            continue
    return None


def _apart(kind, pool, values, wanted, rng) -> list[int]:
    """Pictures to compare whose figures lie about as far apart as is wanted, in an order by
    chance.
    """
    name = COMPARED[kind.code]
    best, far = [], float("inf")
    for _ in range(40):
        drawn = [int(pk) for pk in rng.choice(pool, kind.pictures, replace=False)]
        figures = sorted(values[pk].get(name, 0.0) for pk in drawn)
        apart = min(b - a for a, b in pairwise(figures)) / kind.scale
        if abs(apart - wanted) < far:
            best, far = drawn, abs(apart - wanted)
    return best


def still_shown(exercise: Exercise, school) -> bool:
    """Whether all pictures of an exercise may be shown now."""
    wanted = set(exercise.pictures)
    return PracticePicture.objects.filter(may_be_shown(school), pk__in=wanted).count() == len(
        wanted
    )


@transaction.atomic
def present(practice_round: PracticeRound) -> Exercise | None:
    """The exercise that waits for an answer; None where the round is through. One whose picture may
    not be shown any more is asked anew of another.
    """
    learner = Learner.objects.select_for_update().get(pk=practice_round.learner_id)
    if practice_round.finished_at is not None:
        return None
    waiting = practice_round.exercises.filter(answered_at=None).order_by("place").first()
    if waiting is not None and not still_shown(waiting, learner.school):
        waiting.delete()
        waiting = None
    if waiting is None and practice_round.exercises.count() < practice_round.count:
        waiting = ask_next(practice_round, learner)
    if waiting is None:
        _finish(practice_round)
    return waiting


@transaction.atomic
def take_answer(
    practice_round: PracticeRound,
    place: int,
    answer: Mapping[str, Any],
    now: datetime | None = None,
) -> tuple[Exercise, bool]:
    """Judge the answer to an exercise of an open round and keep it; the exercise, and whether
    it had been answered before (elsewhere), when it stays as it was. `now` is when it is answered,
    this moment where it is not said. What comes next is made by present().

    Raises Exercise.DoesNotExist, or BadAnswer with what to do.
    """
    learner = (
        Learner.objects.select_for_update(of=("self",))
        .select_related("school")
        .get(pk=practice_round.learner_id)
    )
    exercise = practice_round.exercises.get(place=place)
    if exercise.answered_at is not None:
        return exercise, True
    outcome = outcome_of(exercise, answer)
    now = now or timezone.now()
    exercise.answer = plain_answer(KIND[exercise.kind], answer)
    exercise.error, exercise.signed, exercise.scaled = (
        outcome.error,
        outcome.signed,
        outcome.scaled,
    )
    exercise.right, exercise.words, exercise.answered_at = outcome.right, outcome.words, now
    exercise.save()
    learner.standing = learner.as_standing.after(KIND[exercise.kind], outcome, now).as_document()
    learner.save(update_fields=["standing"])
    if practice_round.exercises.count() >= practice_round.count:
        _finish(practice_round, now)
    return exercise, False


def _finish(practice_round: PracticeRound, now: datetime | None = None) -> None:
    practice_round.finished_at = now or timezone.now()
    practice_round.save(update_fields=["finished_at"])


def outcome_of(exercise: Exercise, answer: Mapping[str, Any] | None = None) -> Outcome:
    """What comes of an answer to an exercise, its own where none is given. Raises BadAnswer."""
    given = exercise.answer if answer is None else answer
    return judge(Question(**exercise.question), studies_of(exercise.pictures), given or {})


def standing_anew(learner: Learner) -> Standing:
    """What a learner's answers tell, worked out from all of them."""
    now = Standing()
    for exercise in Exercise.objects.filter(
        round__learner=learner, answered_at__isnull=False
    ).order_by("answered_at", "pk"):
        now = now.after(KIND[exercise.kind], outcome_of(exercise), exercise.answered_at)
    return now
