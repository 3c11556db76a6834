"""What a learner sees behind their address: their skills, a round of exercises, and the way in by a
class's link. Nobody signs in here; the address is what lets them in.
"""

from __future__ import annotations

import json
from dataclasses import dataclass

from django.contrib.auth.decorators import login_not_required
from django.http import Http404, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.cache import never_cache
from django.views.decorators.http import require_http_methods, require_POST, require_safe

from heath.drawing.evidence import drawable
from heath.practice import rounds
from heath.practice.models import ClassRound, Exercise, Learner, PracticePicture, PracticeRound
from heath.practice.results import league_of, skill_rows
from heath.practice.stock import indexes, may_be_shown, studies_of
from juniper.learning import (
    KIND,
    SKILL,
    SKILLS,
    BadAnswer,
    Outcome,
    Question,
    Study,
    prompt,
    rule_for,
    same_measure,
)
from juniper.measures.catalogue import DEFINITIONS
from juniper.rules import school as rules_of
from juniper.rules.written import value_words

LETTERS = "ABCDE"
BOLD = 1.6
ROOM = 2.3  # container heights over the rim that are shown where a height is asked for
OTHERS = 3
NAME = 60  # letters of a name at the most
WEEK = 7 * 86_400  # seconds
FULL = (
    "More people have taken part by this link than a class can be. Ask your instructor to set a new"
    " round."
)
NO_PICTURES = (
    "The pictures are being made ready. Load this page again in a minute; nothing is lost."
)


@dataclass(frozen=True)
class Shown:
    """One picture of an exercise: its letter and record, what is drawn over it, and how many
    container heights `over` the rim are shown at the least.
    """

    letter: str
    picture: int
    study: Study
    truth: list[dict]
    answer: list[dict]
    over: float = 0.0

    @property
    def frame(self) -> tuple[float, float, float, float]:
        """What of the picture is shown."""
        return self.study.frame(self.over)

    @property
    def tall(self) -> float:
        """What lines and letters over it are measured by: bold enough for a phone."""
        return BOLD * self.frame[3]


def _learner(key: str) -> Learner:
    learner = get_object_or_404(
        Learner.objects.select_related("school", "user", "student", "course", "by_link"), key=key
    )
    if learner.course is not None and learner.course.deleted_at is not None:
        raise Http404
    return learner


def _round(learner: Learner, pk: int) -> PracticeRound:
    return get_object_or_404(learner.rounds.select_related("set_as__course"), pk=pk)


def _base(request, learner: Learner) -> dict:
    """Whose page it is: somebody signed in keeps the site's bar."""
    own = request.user.is_authenticated and request.user.pk == learner.user_id
    return {"base": "web/base.html" if own else "web/student.html", "learner": learner, "own": own}


@login_not_required
@never_cache
@require_safe
def learner(request, key):
    """A learner's skills, what is due, and the start of a round."""
    one = _learner(key)
    rows = skill_rows(one)
    left = next((r for r in one.rounds.filter(finished_at=None)[:3] if rounds.is_open(r)), None)
    weakest = max(
        (r for r in rows if r.estimate.known), key=lambda r: r.estimate.error, default=None
    )
    context = {
        "rows": rows,
        "left": left,
        "weakest": weakest,
        "skills": SKILLS,
        "closed": one.by_link is not None and one.by_link.withdrawn_at is not None,
        "latest": one.rounds.filter(finished_at__isnull=False)[:5],
    }
    return render(request, "practice/learner.html", _base(request, one) | context)


@login_not_required
@never_cache
@require_POST
def start_round(request, key):
    """Begin a round, of one skill where one is asked for."""
    one = _learner(key)
    if one.by_link is not None and one.by_link.withdrawn_at is not None:
        return _closed(request, one)
    skills = tuple(s for s in request.POST.getlist("skill") if s in SKILL)
    try:
        made = rounds.start(one, skills, one.by_link)
    except rounds.NothingToAsk:
        context = {"words": NO_PICTURES}
        return render(request, "practice/waiting.html", _base(request, one) | context, status=503)
    return redirect("eye-round", key=key, pk=made.pk)


def _closed(request, one: Learner):
    return render(request, "practice/closed.html", _base(request, one), status=410)


@login_not_required
@never_cache
@require_safe
def practice_round(request, key, pk):
    """The exercise that waits, or what came of the round."""
    one = _learner(key)
    sitting = _round(one, pk)
    if sitting.finished_at is None and not rounds.is_open(sitting):
        return _closed(request, one)
    exercise = rounds.present(sitting) if sitting.finished_at is None else None
    context = _base(request, one) | {"round": sitting}
    if exercise is None:
        return render(request, "practice/through.html", context | _through(sitting))
    return render(request, "practice/round.html", context | _asked(exercise))


def _asked(exercise: Exercise) -> dict:
    question = Question(**exercise.question)
    studies = studies_of(exercise.pictures)
    kind = question.of
    return {
        "exercise": exercise,
        "kind": kind,
        "skill": SKILL[kind.skill],
        "prompt": prompt(question, rules_of(exercise.rules)),
        "given": question.given,
        "shown": [
            Shown(LETTERS[n], pk, study, [], [], ROOM if kind.skill in ("height", "cutting") else 0)
            for n, (pk, study) in enumerate(zip(exercise.pictures, studies, strict=True))
        ],
        "handles": _handles(kind.answer, studies[0].frame(ROOM)),
    }


@dataclass(frozen=True)
class Handle:
    """What is dragged to answer: which part of the answer it is, along which ways it moves, where
    it lies at first, and what it is called.
    """

    part: str
    moves: str
    x: int
    y: int
    called: str


def _handles(answer: str, frame: tuple[float, float, float, float]) -> list[Handle]:
    """The handles of a way of answering, at an edge of the picture, where they tell nothing."""
    left, top, wide, high = frame
    rows = {
        "level": [("at", "y", 0.5, 0.05, "The line")],
        "upright": [("at", "x", 0.08, 0.5, "The line")],
        "place": [("at", "xy", 0.9, 0.08, "The cross")],
        "fault": [("at", "xy", 0.9, 0.08, "The cross")],
        "cut": [
            ("from", "xy", 0.9, 0.06, "The tip to cut"),
            ("to", "xy", 0.9, 0.15, "Where the stem should end"),
        ],
    }.get(answer, [])
    return [
        Handle(part, moves, round(left + across * wide), round(top + down * high), called)
        for part, moves, across, down, called in rows
    ]


def _through(sitting: PracticeRound) -> dict:
    done = list(sitting.exercises.filter(answered_at__isnull=False))
    return {
        "done": [(e, KIND[e.kind]) for e in done],
        "right": sum(bool(e.right) for e in done),
        "league": league_of(sitting.set_as) if sitting.set_as and sitting.set_as.league else [],
        "rows": skill_rows(sitting.learner),
    }


@login_not_required
@never_cache
@require_http_methods(["GET", "HEAD", "POST"])
def answer(request, key, pk, place):
    """Take an answer and show the truth; a page that is loaded again shows it once more."""
    one = _learner(key)
    sitting = _round(one, pk)
    if request.method != "POST":
        exercise = get_object_or_404(sitting.exercises, place=place, answered_at__isnull=False)
        return render(
            request, "practice/round.html", _base(request, one) | _said(sitting, exercise)
        )
    if sitting.finished_at is None and not rounds.is_open(sitting):
        return HttpResponse(
            "Your instructor has closed this round. What you answered before is kept.", status=410
        )
    try:
        given = json.loads(request.POST.get("answer", ""))
        if not isinstance(given, dict):
            raise ValueError
        exercise, before = rounds.take_answer(sitting, place, given)
    except (ValueError, RecursionError):
        return _refused(BadAnswer("That answer could not be read. Answer again."))
    except BadAnswer as error:
        return _refused(error)
    except Exercise.DoesNotExist as error:
        raise Http404 from error
    except KeyError:
        return HttpResponse(
            "This piece is no longer shown. Load the page again: another is asked.", status=409
        )
    context = _base(request, one) | _said(sitting, exercise) | {"before": before}
    return render(request, "practice/_said.html", context)


def _refused(error: BadAnswer) -> HttpResponse:
    return HttpResponse(str(error), status=422)


def _said(sitting: PracticeRound, exercise: Exercise) -> dict:
    """What is shown of an answered exercise."""
    context = _asked(exercise)
    outcome: Outcome = rounds.outcome_of(exercise)
    still = rounds.still_shown(exercise, sitting.learner.school)
    rules = rules_of(exercise.rules)
    studies = [s.study for s in context["shown"]]
    return context | {
        "round": sitting,
        "outcome": outcome,
        "still": still,
        "rule": rule_for(context["kind"], rules, studies[0].form),
        "school": rules,
        "shown": [
            Shown(
                s.letter,
                s.picture,
                s.study,
                [drawable(m) for m in (outcome.truth[n] if n < len(outcome.truth) else ())],
                [drawable(m) for m in (outcome.answer[n] if n < len(outcome.answer) else ())],
                s.over,
            )
            for n, s in enumerate(context["shown"])
        ],
        "more": sitting.finished_at is None,
        "bars": _bars(exercise, studies[0]),
        "answered": True,
    }


def _bars(exercise: Exercise, study: Study) -> list[tuple[str, list[dict]]]:
    """The colours of a piece as bars a hundred long, and beside them those of the answer; none for
    other kinds of exercise.
    """
    if exercise.kind == "scheme":
        return [("The piece", _bar([(c.hex, c.name, 100 * c.share) for c in study.colours]))]
    if exercise.kind != "shares":
        return []
    colours = exercise.question["given"]["colours"]
    given = exercise.answer["shares"]
    own = [100 * v / sum(given) for v in given]
    return [
        (title, _bar([(c["hex"], c["name"], v) for c, v in zip(colours, shares, strict=True)]))
        for title, shares in (("The piece", exercise.question["truth"]["shares"]), ("You", own))
    ]


def _bar(colours: list[tuple[str, str, float]]) -> list[dict]:
    at, out = 0.0, []
    for hexa, name, percent in colours:
        out.append({"hex": hexa, "name": name, "at": at, "percent": percent})
        at += percent
    return out


@login_not_required
@never_cache
@require_POST
def ahead(request, key, pk):
    """Make the next exercise while the answer is read, and have its pictures fetched."""
    one = _learner(key)
    sitting = _round(one, pk)
    waiting = rounds.present(sitting) if rounds.is_open(sitting) else None
    context = {"learner": one, "pictures": waiting.pictures if waiting else []}
    return render(request, "practice/_ahead.html", context)


@login_not_required
@never_cache
@require_safe
def others(request, key, pk, place):
    """The same measure on three other pieces."""
    one = _learner(key)
    sitting = _round(one, pk)
    exercise = get_object_or_404(sitting.exercises, place=place, answered_at__isnull=False)
    kind = KIND[exercise.kind]
    fitting = [
        pk
        for pk, index in sorted(indexes(one.school).items())
        if pk not in exercise.pictures and kind.code in index["fits"].get(exercise.rules, {})
    ]
    step = max(1, len(fitting) // OTHERS)
    start = exercise.pk % step
    drawn = fitting[start::step][:OTHERS]
    shown = []
    for picture_pk, study in zip(drawn, studies_of(drawn), strict=True):
        name, value, marks = same_measure(kind, study)
        words = value_words(value, DEFINITIONS[name].unit) if value is not None else ""
        if kind.fault:
            words = kind.fault if kind.fault in study.faults else f"no {kind.fault}"
        elif kind.code == "scheme":
            words = study.scheme
        elif kind.code == "shares":
            words = ", ".join(f"{c.name} {round(100 * c.share)} %" for c in study.colours)
        one_shown = Shown("", picture_pk, study, [drawable(m) for m in marks], [])
        shown.append((one_shown, words))
    return render(request, "practice/_others.html", {"shown": shown, "learner": one, "kind": kind})


@login_not_required
@require_safe
def picture(request, key, pk):
    """A picture that may be shown now."""
    one = _learner(key)
    found = (
        PracticePicture.objects.filter(may_be_shown(one.school), pk=pk)
        .select_related("piece__mark__photograph")
        .first()
    )
    if found is None or (found.number is not None and not found.file):
        raise Http404
    if found.number is not None:
        with found.file.open("rb") as file:
            answer_ = HttpResponse(file.read(), content_type="image/jpeg")
        answer_["Cache-Control"] = f"private, max-age={WEEK}"
        return answer_
    photograph = found.piece.mark.photograph
    with photograph.screen.open("rb") as file:
        answer_ = HttpResponse(file.read(), content_type="image/jpeg")
    answer_["Cache-Control"] = "private, no-store"  # its maker may withdraw it
    return answer_


@login_not_required
@never_cache
@require_http_methods(["GET", "HEAD", "POST"])
def take_part(request, key):
    """The way into a class's round by its link: a name, if somebody likes, and off."""
    found = get_object_or_404(ClassRound.objects.select_related("course__school"), key=key)
    if found.course.deleted_at is not None:
        raise Http404
    if found.withdrawn_at is not None:
        return render(request, "practice/closed.html", {"base": "web/student.html"}, status=410)
    known = request.session.get(f"eye {found.pk}")
    context = {"base": "web/student.html", "set_round": found, "skills": _named(found.skills)}
    if request.method != "POST":
        context["known"] = found.learners.filter(key=known).first() if known else None
        return render(request, "practice/join.html", context)
    one = found.learners.filter(key=known).first() if known else None
    if one is None or "name" in request.POST:
        name = " ".join(request.POST.get("name", "").split())[:NAME]
        try:
            one = rounds.join(found, name)
        except rounds.TooMany:
            context |= {"words": FULL}
            return render(request, "practice/waiting.html", context, status=409)
        request.session[f"eye {found.pk}"] = one.key
    try:
        made = rounds.start(one, (), found)
    except rounds.NothingToAsk:
        return render(
            request, "practice/waiting.html", context | {"words": NO_PICTURES}, status=503
        )
    return redirect("eye-round", key=one.key, pk=made.pk)


def _named(codes: list[str]) -> list[str]:
    return [SKILL[c].title for c in codes if c in SKILL]
