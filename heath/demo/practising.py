"""Eye practice of the demo's class: students who have played some rounds over the weeks, a round
that is set for tonight, and an assistant who has calibrated. All of them err by figures made up.
"""

from __future__ import annotations

from datetime import datetime, timedelta

import numpy as np
from django.utils import timezone

from heath.classes.models import Course
from heath.people.models import User
from heath.practice import calibrating
from heath.practice.models import Calibration, ClassRound, Exercise, PracticePicture
from heath.practice.rounds import learner_of_student, learner_of_user, present, start, take_answer
from heath.practice.stock import studies_of, take_in_roll
from juniper.learning import KIND, Kind, Study

PICTURES = 24  # of the roll that are there at once; the worker goes on with the rest
STUDENTS = 6
SITTINGS = 3
FEW_PICTURES, FEW_STUDENTS = 12, 1  # of a small demo
LEAN = {"balance": -0.6, "finish": 0.3}  # of ten, by which the assistant errs by family


def load_practice(course: Course, maren: User, ossian: User, small: bool = False) -> None:
    """What the demo's class has practised. Loading again adds nothing."""
    pictures, students = (FEW_PICTURES, FEW_STUDENTS) if small else (PICTURES, STUDENTS)
    if PracticePicture.objects.count() < pictures:
        take_in_roll(pictures)
    if course.practice_rounds.exists():
        return
    ClassRound.objects.create(
        course=course, name="Heights, before the columns", skills=["height"], made_by=maren
    )
    now = timezone.now()
    for n, student in enumerate(course.students.all()[:students]):
        one = learner_of_student(student)
        for sitting in range(SITTINGS):
            at = now - timedelta(days=15 - 7 * sitting, minutes=20 * n)
            _play(one, 1.1 - 0.3 * sitting, at, seed=10 * n + sitting)
    _play(learner_of_user(maren), 0.4, now - timedelta(days=2), seed=99)
    _calibrate(ossian)


def _play(one, error: float, at: datetime, seed: int) -> None:
    rng = np.random.default_rng((31, seed))
    sitting = start(one)
    while (waiting := present(sitting)) is not None:
        at += timedelta(seconds=float(rng.uniform(12, 30)))
        take_answer(sitting, waiting.place, answer_of(waiting, error, rng), at)


def answer_of(exercise: Exercise, error: float, rng: np.random.Generator) -> dict:
    """What somebody answers who errs by so much (a beginner's errors)."""
    kind, truth = KIND[exercise.kind], exercise.question["truth"]
    study = studies_of(exercise.pictures)[0]
    knows = rng.random() < 1 - 0.45 * error
    if kind.answer in ("choice", "pair", "fault"):
        return _chosen(kind, exercise.question, study, bool(knows), rng)
    off = error * kind.scale * float(rng.normal())
    middle = truth.get("along", (truth.get("low", 0) + truth.get("high", 0)) / 2)
    if kind.answer == "level":
        return {"at": _held(study, study.at(middle + off * study.container_px))}
    if kind.answer == "upright":
        return {"at": _held(study, study.at(0, off * study.rim_px))}
    if kind.answer == "place":
        spot = truth.get("at") or study.at(middle)
        aside = rng.normal(0, 0.7 * error * kind.scale * study.plant_px, 2)
        return {"at": _held(study, np.add(spot, aside))}
    return _figures(kind, truth, study, error, rng)


def _figures(kind: Kind, truth: dict, study: Study, error: float, rng) -> dict:
    off = error * kind.scale * float(rng.normal())
    if kind.answer == "share":
        return {"left": float(np.clip(truth["left"] + off, 0, 100))}
    if kind.answer == "shares":
        own = np.abs(np.array(truth["shares"]) + error * rng.normal(0, 14, len(truth["shares"])))
        return {"shares": own.tolist()}
    if kind.answer == "order":
        said = [v + error * kind.scale * float(rng.normal()) for v in truth["values"]]
        return {"order": sorted(range(len(said)), key=lambda n: -said[n])}
    if truth["from"] is None:
        return {"none": True}
    end = study.at(truth["high"] + (off - 0.1) * study.container_px)
    return {"from": truth["from"], "to": _held(study, end)}


def _chosen(kind: Kind, question: dict, study: Study, knows: bool, rng) -> dict:
    truth = question["truth"]
    if kind.answer == "pair":
        return {"choice": truth["choice"] if knows else 1 - truth["choice"]}
    if kind.answer == "choice":
        others = [c for c in question["given"]["choices"] if c != truth["choice"]]
        return {"choice": truth["choice"] if knows else str(rng.choice(others))}
    spots = truth["spots"]
    if knows:
        return {"at": spots[0]} if spots else {"none": True}
    return {"none": True} if spots else {"at": [study.width / 2, study.height / 3]}


def _held(study: Study, spot) -> list[float]:
    return [float(np.clip(spot[0], 0, study.width)), float(np.clip(spot[1], 0, study.height))]


def _calibrate(marker: User) -> None:
    if Calibration.objects.filter(user=marker).exists():
        return
    rng = np.random.default_rng(37)
    one = calibrating.begin(marker, "classical-line-mass")
    for place in range(1, len(one.pictures) + 1):
        known = PracticePicture.objects.get(pk=one.pictures[place - 1]).marks[one.rules]
        marks = {
            family: float(
                np.clip(
                    round(2 * (known[family] + LEAN.get(family, 0) + rng.normal(0, 0.7))) / 2, 0, 10
                )
            )
            for family in calibrating.families_of(one, place)
        }
        calibrating.give(one, place, marks)
