"""The exemplar shelf, putting a piece on it, and an exemplar opened beside a piece."""

from __future__ import annotations

from dataclasses import dataclass

from django.contrib import messages
from django.shortcuts import redirect, render
from django.views.decorators.http import require_POST, require_safe

from heath.assessment.models import GIVEN, Piece
from heath.assessment.reading import Reading, read
from heath.drawing.evidence import drawable
from heath.exemplars.forms import ExemplarForm
from heath.exemplars.models import Exemplar
from heath.exemplars.shelf import change_permission, held_rules, on_shelf
from heath.people.once import once
from heath.people.policy import find, visible
from heath.web.plain import whole
from juniper.rules import Line

MOST = 60  # exemplars on the page
BESIDE = 12  # exemplars to choose from beside a piece


@require_safe
def exemplars(request):
    """The shelf, by rule and award; instructors also see what is asked for and withdrawn."""
    rule, award = (request.GET.get(name, "") for name in ("rule", "award"))
    every = list(on_shelf(request.user)[: 5 * MOST])
    titles: dict[str, str] = {}
    for one in every:
        for line in one.piece.mark.verdict["lines"]:
            if line["rule"] in one.rules:
                titles[line["rule"]] = line.get("title", line["rule"])
    shown = [
        one
        for one in every
        if (not rule or rule in one.rules)
        and (not award or one.piece.mark.verdict.get("award") == award)
    ]
    waiting = (
        visible(request.user, Exemplar)
        .exclude(state=Exemplar.State.ALLOWED)
        .select_related("piece__brief", "piece__student")
        if request.user.instructs
        else []
    )
    context = {
        "exemplars": [(one, [titles[c] for c in one.rules if c in titles]) for one in shown[:MOST]],
        "rules": sorted(titles.items(), key=lambda pair: pair[1]),
        "awards": sorted({a for one in every if (a := one.piece.mark.verdict.get("award"))}),
        "rule": rule,
        "award": award,
        "waiting": waiting,
        "asked": bool(rule or award),
    }
    return render(request, "exemplars/exemplars.html", context)


@once
def offer(request, pk):
    """Put a marked piece on the shelf."""
    piece = find(request.user, Piece, "brief__course", "student", "mark__photograph", pk=pk)
    if piece.state not in GIVEN or piece.given is None:
        messages.info(request, "Give the mark first, then the piece can be shown as an exemplar.")
        return redirect("bench", pk=pk)
    if piece.brief.hides_names:
        messages.info(request, "Lock the marks of this brief first: its names are hidden.")
        return redirect("bench", pk=pk)
    if Exemplar.objects.filter(piece=piece).exclude(state=Exemplar.State.WITHDRAWN).exists():
        messages.info(request, "This piece is on the exemplar shelf already.")
        return redirect("exemplars")
    held = held_rules(piece)
    form = ExemplarForm(request.POST or None, held=held)
    if request.method == "POST" and form.is_valid():
        told = form.cleaned_data
        Exemplar.objects.update_or_create(
            piece=piece,
            defaults={
                "rules": told["rules"],
                "words": told["words"],
                "state": told["state"],
                "said": told["said"],
                "made_by": request.user,
            },
        )
        messages.info(
            request,
            "The piece is on the shelf."
            if told["state"] == Exemplar.State.ALLOWED
            else f"{piece.student.name} is asked on the page of their record. Make their link on"
            " their record if they have none.",
        )
        return redirect("exemplars")
    context = {"piece": piece, "form": form, "held": held}
    status = 422 if request.method == "POST" else 200
    return render(request, "exemplars/offer.html", context, status=status)


@require_POST
def change(request, pk):
    """Write down that a permission is withdrawn, or take a piece off the shelf altogether."""
    one = find(request.user, Exemplar, pk=pk)
    if request.POST.get("do") == "remove":
        change_permission(one, Exemplar.State.WITHDRAWN)
        one.delete()
        messages.info(request, "The piece is off the shelf.")
    else:
        change_permission(one, Exemplar.State.WITHDRAWN)
        messages.info(request, "The permission is withdrawn. The piece is shown nowhere any more.")
    return redirect("exemplars")


@dataclass(frozen=True)
class Shown:
    """One of two pieces side by side: its reading, the line of the rule (None where it has none)
    and what is drawn for it.
    """

    title: str
    reading: Reading
    line: Line | None
    marks: tuple[dict, ...]


def _shown(piece: Piece, title: str, rule: str) -> Shown:
    reading = read(piece)
    line = next((x for x in reading.verdict.lines if x.rule.code == rule), None)
    marks = tuple(drawable(m) for m in line.finding.evidence) if line else ()
    return Shown(title, reading, line, marks)


@require_safe
def beside(request, pk):
    """An exemplar beside a piece, with what one rule rests on drawn on both."""
    piece = find(request.user, Piece, "brief__course", "student__level", second=True, pk=pk)
    if piece.photograph is None or not piece.photograph.scene:
        return redirect("brief", pk=piece.brief_id)
    own = _shown(piece, piece.shown_name, request.GET.get("rule", ""))
    lines = [x for x in own.reading.verdict.lines if x.score is not None and x.rule.weight]
    usual = max(lines, key=lambda x: (10 - x.marks) * x.rule.weight, default=None)
    rule = request.GET.get("rule") or (usual.rule.code if usual else "")
    if rule != request.GET.get("rule", ""):
        own = _shown(piece, piece.shown_name, rule)
    others = [e for e in on_shelf(request.user, rule)[: BESIDE + 1] if e.piece_id != piece.pk]
    number = whole(request.GET.get("exemplar"))
    chosen = next((e for e in others if e.pk == number), others[0] if others else None)
    context = {
        "piece": piece,
        "rule": rule,
        "lines": lines,
        "others": others[:BESIDE],
        "chosen": chosen,
        "pair": [own] + ([_shown(chosen.piece, "Exemplar", rule)] if chosen else []),
    }
    return render(request, "exemplars/beside.html", context)
