"""The instructor's word: scores set by hand, ceilings, remarks, answers, and the mark itself."""

from __future__ import annotations

from datetime import timedelta

from django.db import transaction
from django.http import HttpResponseBadRequest
from django.shortcuts import redirect
from django.urls import reverse
from django.utils import timezone
from django.views.decorators.http import require_POST
from django_htmx.http import HttpResponseClientRedirect

from heath.assessment.models import Override, Piece
from heath.assessment.reading import read
from heath.bench.accepting import NotSure, accept_marks
from heath.bench.changes import Refused, change_piece
from heath.bench.changing import obstacle, put_back, remember
from heath.bench.context import column, piece_on_bench, queue_of
from heath.bench.forms import CapForm, RemarkForm, ScoreForm
from heath.bench.requests import NOT_UNDERSTOOD
from heath.people.policy import visible
from heath.web.plain import whole
from juniper.rules import ANSWERS, DOMINANTS, FAMILIES

PRESSED_TWICE = timedelta(seconds=10)  # the same remark at the same spot within it is one press


def _taken_back(said):
    """The one of a piece's words that is in force, taken back for another to take its place; None
    where there is none.
    """
    before = said.filter(taken_back=False).last()
    said.filter(taken_back=False).update(taken_back=True)
    return before


@require_POST
def override(request, pk):
    """Set or waive the score of one rule, with a reason."""
    rule = request.POST.get("rule", "")
    lines = read(piece_on_bench(request, pk)).verdict.lines
    line = next((x for x in lines if x.rule.code == rule), None)
    if line is None:
        return HttpResponseBadRequest("This rule is not in force any more. Load the page again.")
    form = ScoreForm(request.POST)

    def write(piece: Piece):
        if not form.is_valid():
            typed = {n: " ".join(request.POST.get(n, "").split()) for n in ("score", "reason")}
            raise Refused(form.fault, rule, typed)
        reason = form.cleaned_data["reason"]
        Override.objects.create(
            piece=piece,
            rule=rule,
            score=form.given,
            old_score=line.score,
            reason=reason,
            made_by=request.user,
            replaces=_taken_back(piece.overrides.filter(rule=rule)),
        )
        remember(request.user, reason)

    return change_piece(request, pk, write)


@require_POST
def take_back(request, pk, rule):
    """Take the word on a rule back: the measured score counts again."""

    def write(piece: Piece) -> bool:
        return piece.overrides.filter(rule=rule, taken_back=False).update(taken_back=True) > 0

    return change_piece(request, pk, write)


@require_POST
def cap(request, pk):
    """Hold a family's mark, or the whole, down to a figure, with a reason; or take that back."""
    family = request.POST.get("family", "")
    if family not in ("", *FAMILIES):
        return HttpResponseBadRequest("This part of the mark is not known. Load the page again.")

    def back(piece: Piece) -> bool:
        return piece.caps.filter(family=family, taken_back=False).update(taken_back=True) > 0

    def write(piece: Piece):
        form = CapForm(request.POST)
        if not form.is_valid():
            typed = {n: " ".join(request.POST.get(n, "").split()) for n in ("at", "reason")}
            raise Refused(form.fault, f"cap-{family or 'total'}", typed)
        piece.caps.create(
            family=family,
            at=form.cleaned_data["at"],
            reason=form.cleaned_data["reason"],
            made_by=request.user,
            replaces=_taken_back(piece.caps.filter(family=family)),
        )
        remember(request.user, form.cleaned_data["reason"])

    return change_piece(request, pk, back if request.POST.get("back") == "1" else write)


@require_POST
def remark(request, pk):
    """Pin a comment to a spot of the picture, or to the piece as a whole; or take one back."""
    back = request.POST.get("back", "")

    def take(piece: Piece) -> bool:
        said = piece.remarks.filter(pk=whole(back), taken_back=False)
        return whole(back) is not None and said.update(taken_back=True) > 0

    if back:
        return change_piece(request, pk, take, layers=True)
    form = RemarkForm(request.POST, piece_on_bench(request, pk).on_bench)
    if form.misplaced:
        return HttpResponseBadRequest(NOT_UNDERSTOOD)

    def write(piece: Piece):
        if not form.is_valid():
            raise Refused(form.fault)
        said = {"words": form.cleaned_data["words"], "made_by": request.user} | form.spot
        since = timezone.now() - PRESSED_TWICE
        if not piece.remarks.filter(**said, taken_back=False, made_at__gte=since).exists():
            piece.remarks.create(**said)
        remember(request.user, said["words"])

    return change_piece(request, pk, write, layers=True)


@require_POST
def answer(request, pk):
    """A check was answered by eye, or its answer taken back."""
    rule, word = request.POST.get("rule", ""), request.POST.get("answer", "")
    asked = {x.code for x in piece_on_bench(request, pk).brief.rules.rules if x.asks}
    if rule not in asked:
        return HttpResponseBadRequest("This check is not in force any more. Load the page again.")
    value = next((v for v, w in ANSWERS.items() if w == word), None)

    def write(piece: Piece):
        if value is None:
            piece.answers.filter(rule=rule).delete()
        else:
            said = {"value": value, "made_by": request.user}
            piece.answers.update_or_create(rule=rule, defaults=said)

    return change_piece(request, pk, write)


@require_POST
def declare(request, pk):
    """The piece declares a principle as its own, or none."""
    dominant = request.POST.get("dominant", "")
    if dominant not in ("", *DOMINANTS):
        return HttpResponseBadRequest("This principle is not known. Load the page again.")

    def write(piece: Piece):
        piece.dominant = dominant
        piece.save(update_fields=["dominant"])

    return change_piece(request, pk, write)


@require_POST
def exemplar(request, pk):
    """Make this piece the brief's exemplar, or no longer; its mark may be given already."""
    piece = piece_on_bench(request, pk)
    brief = piece.brief
    if brief.locked_at:
        return column(request, piece, fault=obstacle(piece, request.user, ""))
    brief.exemplar = None if brief.exemplar_id == piece.pk else piece
    brief.save(update_fields=["exemplar"])
    return column(request, piece)


@require_POST
def reopen(request, pk):
    """Open a piece whose mark is given, to change it; or leave it, everything as it was when the
    mark was given.
    """
    piece = piece_on_bench(request, pk)
    if piece.brief.locked_at:
        return column(request, piece, fault=obstacle(piece, request.user, ""))
    with transaction.atomic():
        every = visible(request.user, Piece, second=True)
        one = every.select_for_update(of=("self",)).get(pk=pk)
        if request.POST.get("leave") == "1":
            if one.reopened and one.given and one.given.in_force:
                put_back(one, one.given.in_force, request.user)
            one.reopened = False
        else:
            one.reopened = one.given is not None
        one.revision += 1
        one.changed_by, one.changed_at = request.user, timezone.now()
        one.save(update_fields=["reopened", "revision", "changed_by", "changed_at"])
    return column(request, piece_on_bench(request, pk), layers=True)


@require_POST
def accept(request, pk):
    """Accept the marks as they stand, and go on to the next piece."""
    piece = piece_on_bench(request, pk)
    why = obstacle(piece, request.user, request.POST.get("seen", ""))
    if why:
        return column(request, piece, fault=why, layers=True)
    try:
        accept_marks(piece, request.user)
    except NotSure as error:
        return column(request, piece, fault=str(error))
    upcoming = queue_of(request.user, piece)["next"]
    on = upcoming if upcoming and request.POST.get("go") == "next" else piece.pk
    to = reverse("bench", args=[on])
    return HttpResponseClientRedirect(to) if request.htmx else redirect(to)
