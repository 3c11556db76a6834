"""Search over students, briefs, pieces and what was written of them."""

from __future__ import annotations

from dataclasses import dataclass

from django.contrib.postgres.search import (
    SearchHeadline,
    SearchQuery,
    SearchVector,
    TrigramWordSimilarity,
)
from django.db.models import Q, QuerySet
from django.shortcuts import render
from django.urls import reverse
from django.utils.html import escape
from django.utils.safestring import SafeString, mark_safe
from django.views.decorators.http import require_safe

from heath.assessment.models import Override, Piece, Remark
from heath.briefs.models import Brief
from heath.classes.models import Course, Student
from heath.people.policy import visible
from heath.web.plain import whole

MOST = 40  # of each kind
LONGEST = 100  # letters that are searched for
ALIKE = 0.5  # of a name's letter triples: "Thornbery" finds "Thornbury" (common practice: .3 to .6)
CODE = 4  # letters of a piece's code at the least
KINDS = (
    ("", "everything"),
    ("students", "students"),
    ("briefs", "briefs"),
    ("pieces", "pieces"),
    ("words", "remarks and reasons"),
)
START, STOP = "\ue000", "\ue001"  # around what was found, for private use; no text has them


@dataclass(frozen=True)
class Found:
    """One thing that was found: what it is called, what else is to be said, where it leads."""

    title: str
    beside: str
    to: str
    words: SafeString | str = ""


def alike(records: QuerySet, field: str, words: str) -> QuerySet:
    """Records whose `field` holds the words, or is spelt nearly so; the nearest first."""
    near = TrigramWordSimilarity(words, field)
    return (
        records.annotate(likeness=near)
        .filter(Q(likeness__gte=ALIKE) | Q(**{f"{field}__icontains": words}))
        .order_by("-likeness", field)
    )


def _students(user, words: str, course: int | None) -> list[Found]:
    records = visible(user, Student).select_related("course")
    if course is not None:
        records = records.filter(course=course)
    found = list(alike(records, "name", words)[:MOST])
    known = {s.pk for s in found}
    by = Q(number__iexact=words) | Q(email__iexact=words)
    found = [*(s for s in records.filter(by)[:MOST] if s.pk not in known), *found]
    return [
        Found(
            s.name,
            f"{s.course}{', ' if s.course.term else ''}{s.course.term}",
            reverse("student-record", args=[s.pk]),
        )
        for s in found
    ]


def _briefs(user, words: str, course: int | None) -> list[Found]:
    records = visible(user, Brief).select_related("course")
    if course is not None:
        records = records.filter(course=course)
    return [
        Found(
            b.name,
            f"{b.course}{', ' if b.course.term else ''}{b.course.term}",
            reverse("brief", args=[b.pk]),
        )
        for b in alike(records, "name", words)[:MOST]
    ]


def _pieces(user, words: str, course: int | None) -> list[Found]:
    code = "".join(c for c in words.upper() if c.isalnum())
    if len(code) < CODE:
        return []
    records = visible(user, Piece).filter(code__startswith=code)
    if course is not None:
        records = records.filter(brief__course=course)
    return [_piece(p) for p in records.select_related("brief__course", "student")[:MOST]]


def _piece(piece: Piece, words: SafeString | str = "") -> Found:
    return Found(
        f"{piece.shown_name}, {piece.brief.name}",
        str(piece.get_state_display()),
        reverse("bench", args=[piece.pk]),
        words,
    )


def _words(user, words: str, course: int | None) -> list[Found]:
    """Remarks, and reasons of marks set by hand, that hold the words in any of their forms."""
    query = SearchQuery(words, config="english", search_type="websearch")
    out = []
    for model, field in ((Remark, "words"), (Override, "reason")):
        records = visible(user, model).filter(taken_back=False)
        if course is not None:
            records = records.filter(piece__brief__course=course)
        records = (
            records.annotate(held=SearchVector(field, config="english"))
            .filter(held=query)
            .annotate(
                shown=SearchHeadline(field, query, config="english", start_sel=START, stop_sel=STOP)
            )
            .select_related("piece__brief__course", "piece__student")
            .order_by("-made_at")
        )
        out += [_piece(r.piece, _marked(r.shown)) for r in records[:MOST]]
    return out


def _marked(text: str) -> SafeString:
    """A text with what was found in it marked."""
    shown = escape(text).replace(START, "<mark>").replace(STOP, "</mark>")
    return mark_safe(shown)  # noqa: S308 - escaped just before


SEARCHES = {"students": _students, "briefs": _briefs, "pieces": _pieces, "words": _words}


@require_safe
def search(request):
    """What was found of the words in the address, by kind and class where these are asked for."""
    words = " ".join(request.GET.get("q", "").replace("\0", "").split())[:LONGEST]
    kind = request.GET.get("in", "")
    kind = kind if kind in SEARCHES else ""
    courses = visible(request.user, Course).order_by("-made_at")
    number = whole(request.GET.get("class"))
    course = courses.filter(pk=number).first() if number is not None else None
    found = [
        (title, SEARCHES[name](request.user, words, course.pk if course else None))
        for name, title in KINDS
        if words and name and kind in ("", name)
    ]
    context = {
        "q": words,
        "kind": kind,
        "kinds": KINDS,
        "course": course,
        "courses": courses,
        "found": [(title, rows) for title, rows in found if rows],
        "most": MOST,
    }
    return render(request, "records/search.html", context)
