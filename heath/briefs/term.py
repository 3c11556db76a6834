"""Term at a glance, and all briefs of all terms."""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass

from django.core.paginator import Paginator
from django.db.models import Count, Exists, OuterRef, Q
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.http import require_safe

from heath.assessment.models import Mark, Photograph, Piece, View
from heath.briefs.models import Brief
from heath.classes.models import Course
from heath.people.keeping import WAY_BACK, keep, meant
from heath.people.policy import deleted, visible
from heath.web.plain import whole

PAST, MOST = 6, 60  # returned briefs shown beside the open ones, and open ones at most
PAGE = 50  # briefs on a page of all
PICTURES = 14  # of one brief in its row
TONIGHT = 12  # pictures of what is to be marked first
# In a brief's row: what is to be done comes first.
ORDER = (
    Piece.State.MARKING,
    Piece.State.FAILED,
    Piece.State.MARKED,
    Piece.State.MEASURING,
    Piece.State.RETURNED,
    Piece.State.WAITING,
)


@dataclass(frozen=True)
class Row:
    """One brief with some of its pictures: photographs of pieces with what is to be done first."""

    brief: Brief
    pictures: tuple[Photograph, ...]
    more: int


def _counted(briefs):
    """Briefs with their class and how many of their pieces are in each state."""
    states = {state: Count("pieces", filter=Q(pieces__state=state)) for state in Piece.State.values}
    return (
        briefs.select_related("course")
        .annotate(made=Count("pieces"), **states)
        .order_by("-made_at")
    )


def rows(briefs) -> list[Row]:
    """Briefs with their pictures."""
    briefs = list(_counted(briefs))
    found = defaultdict(list)
    fronts = Photograph.objects.filter(
        piece__brief__in=briefs, current=True, view=View.FRONT
    ).select_related("piece__student")
    by_number = {b.pk: b for b in briefs}
    for photograph in fronts:
        photograph.piece.brief = by_number[photograph.piece.brief_id]
    for photograph in sorted(fronts, key=lambda p: (ORDER.index(p.piece.state), p.piece.in_order)):
        found[photograph.piece.brief_id].append(photograph)
    return [
        Row(b, tuple(found[b.pk][:PICTURES]), max(len(found[b.pk]) - PICTURES, 0)) for b in briefs
    ]


def _tasks(user, shown: list[Row]) -> list[tuple[str, str]]:
    """What to do tonight, the first thing first: (words, address)."""
    out = []
    for row in shown:
        b = row.brief
        if b.failed:
            again = "photograph cannot be used" if b.failed == 1 else "photographs cannot be used"
            out.append((0, f"{b.failed} {again}: {b.name}", reverse("brief", args=[b.pk])))
        if b.marking:
            words = f"{b.marking} to mark: {b.name}"
            out.append((1, words, reverse("brief", args=[b.pk]) + "?only=marking"))
        if b.marked and user.instructs and b.second_of_id is None:
            out.append((2, f"{b.marked} to return: {b.name}", reverse("returning", args=[b.pk])))
    return [(words, to) for _, words, to in sorted(out, key=lambda task: task[0])]


@require_safe
def term(request):
    """Briefs, and what waits for a photograph, for marking, for return; tonight's work first."""
    every = visible(request.user, Brief, second=True)
    marking = Piece.objects.filter(brief=OuterRef("pk"), state=Piece.State.MARKING)
    briefs = (
        every.filter(archived_at=None, course__archived_at=None)
        .filter(
            Q(second_of=None) | Exists(marking)
        )  # a second marking that is done is out of the way
        .order_by("-made_at")
    )
    waiting = Exists(Piece.objects.filter(brief=OuterRef("pk")).exclude(state=Piece.State.RETURNED))
    open_ = list(briefs.filter(waiting).values_list("pk", flat=True)[:MOST])
    past = list(briefs.exclude(waiting).values_list("pk", flat=True)[:PAST])
    to_mark = (
        visible(request.user, Piece, second=True)
        .filter(state=Piece.State.MARKING, brief__archived_at=None)
        .filter(brief__course__archived_at=None)
        .select_related("brief__course", "student")
        .prefetch_related("photographs")
        .order_by("brief__made_at", "brief")
    )
    shown = rows(every.filter(pk__in=open_ + past))
    tonight = sorted(to_mark[:MOST], key=lambda p: (p.brief.made_at, p.brief_id, p.in_order))
    context = {
        "has_courses": visible(request.user, Course).exists(),
        "rows": shown,
        "tasks": _tasks(request.user, shown),
        "tonight": tonight[:TONIGHT],
        "to_mark": sum(row.brief.marking for row in shown),
        "first": tonight[0] if tonight else None,
    }
    return render(request, "briefs/term.html", context)


@require_safe
def every_brief(request):
    """All briefs of all terms, a page at a time, or those of a class, or whose name or class holds
    some words.
    """
    words = " ".join(request.GET.get("words", "").split())
    briefs = visible(request.user, Brief).order_by("-made_at")
    course = None
    if (number := whole(request.GET.get("class"))) is not None:
        course = visible(request.user, Course).filter(pk=number).first()
    if course is not None:
        briefs = briefs.filter(course=course)
    archived = request.GET.get("archived") == "1"
    briefs = briefs.filter(archived_at__isnull=not archived)
    if words:
        briefs = briefs.filter(Q(name__icontains=words) | Q(course__name__icontains=words))
    page = Paginator(briefs.values_list("pk", flat=True), PAGE).get_page(request.GET.get("page"))
    context = {
        "rows": rows(visible(request.user, Brief).filter(pk__in=list(page))),
        "page": page,
        "words": words,
        "course": course,
        "archived": archived,
        "deleted": deleted(request.user, Brief) if request.user.instructs else [],
        "has_archived": visible(request.user, Brief).filter(archived_at__isnull=False).exists(),
    }
    return render(request, "briefs/every_brief.html", context)


def brief_keep(request, pk):
    """Archive a brief, delete it, or bring it back; before deleting, what goes with it is shown."""
    what = request.POST.get("do", "")
    one = meant(request.user, Brief, pk, what)
    if one is None:
        return redirect("briefs")
    if request.method == "POST":
        keep(one, what)
        gone = what in ("archive", "delete")
        return redirect("briefs") if gone else redirect("brief", pk=pk)
    pieces = one.pieces.all()
    context = {
        "title": one.name,
        "kind": "brief",
        "back": reverse("brief-change", args=[pk]),
        "days": WAY_BACK.days,
        "lost": [
            ("photographed piece", pieces.exclude(state=Piece.State.WAITING).count()),
            ("mark", Mark.objects.filter(piece__in=pieces).count()),
            ("returned sheet", pieces.filter(state=Piece.State.RETURNED).count()),
        ],
    }
    return render(request, "web/delete.html", context)
