"""The rulebook: what each school teaches, two of them side by side, and how each measure is made."""

from functools import cache

from django.contrib.auth.decorators import login_required
from django.http import Http404, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_safe

from heath.bench.models import Mark
from heath.people.policy import visible
from heath.rulebook.drawing import band_on_scale, band_words, shown_measures, span_of
from juniper.measures import DEFINITIONS
from juniper.rules import FAMILIES, school, school_slugs
from juniper.rules.document import SCHOOLS


def _school(slug):
    if slug not in school_slugs():
        raise Http404
    return school(slug)


def _values(user) -> dict[str, list[float]]:
    """What the marked pieces of the person's school came to, by measure."""
    out: dict[str, list[float]] = {}
    for verdict in visible(user, Mark).values_list("verdict", flat=True):
        for line in verdict.get("lines", ()):
            if line.get("measure") and line.get("value") is not None:
                out.setdefault(line["measure"], []).append(float(line["value"]))
    return out


def _said(text: str, rule) -> str:
    """Advice as it is read before there is a piece."""
    return text.format(value="…", low=f"{rule.band.low:g}", high=f"{rule.band.high:g}", cm="… cm", side="one side", other="other")


def _row(rule, total: float, values: list[float], span=None) -> dict:
    drawn = None
    if not rule.check:
        drawn = band_on_scale(
            rule.band,
            span or span_of([rule.band, *(c.band for c in rule.cases)], values),
            values,
            f"{rule.title}: {band_words(rule.band)}",
        )
    return {
        "rule": rule,
        "share": 100 * rule.weight / total,
        "drawn": drawn,
        "words": "" if rule.check else band_words(rule.band),
        "measure": DEFINITIONS.get(rule.measure),
        "pieces": len(values),
        "below": _said(rule.below, rule),
        "above": _said(rule.above, rule),
        "cases": [{"when": " and ".join(c.when), "words": band_words(c.band)} for c in rule.cases],
    }


@login_required
@require_safe
def rulebook(request):
    """All schools."""
    sets = [school(s) for s in school_slugs()]
    return render(request, "rulebook/rulebook.html", {"sets": sets})


@login_required
@require_safe
def rule_set(request, slug):
    """One school's rules, by family, each against what marked pieces came to."""
    one, values = _school(slug), _values(request.user)
    total = sum(r.weight for r in one.rules)
    families = []
    for family in FAMILIES:
        rows = [_row(r, total, values.get(r.measure, [])) for r in one.rules if r.family == family]
        if rows:
            families.append({"name": family, "rows": rows, "share": sum(r["share"] for r in rows)})
    return render(
        request, "rulebook/rule_set.html", {"set": one, "families": families, "sets": [school(s) for s in school_slugs()]}
    )


@login_required
@require_safe
def compare(request):
    """Two schools side by side: for each measure what the one and the other wants, on one scale."""
    left, right = (_school(request.GET.get(side, "")) for side in ("left", "right"))
    values = _values(request.user)
    totals = [sum(r.weight for r in s.rules) for s in (left, right)]
    rows = []
    for family in FAMILIES:
        pairs = [{(r.measure or r.code): r for r in s.rules if r.family == family} for s in (left, right)]
        for key in dict.fromkeys((*pairs[0], *pairs[1])):
            both = [p.get(key) for p in pairs]
            own = values.get(key, [])
            span = span_of([r.band for r in both if r], own) if not any(r and r.check for r in both) else None
            cells = [_row(r, t, own, span) if r else None for r, t in zip(both, totals, strict=True)]
            rows.append({
                "family": family,
                "title": DEFINITIONS[key].title if key in DEFINITIONS else next(r for r in both if r).title,
                "cells": cells,
                "differs": None in cells or cells[0]["words"] != cells[1]["words"],
            })  # fmt: skip
    return render(
        request,
        "rulebook/compare.html",
        {"left": left, "right": right, "rows": rows, "sets": [school(s) for s in school_slugs()]},
    )


@login_required
@require_safe
def document(request, slug):
    """A school's rule set as the TOML document that it is."""
    _school(slug)
    answer = HttpResponse((SCHOOLS / f"{slug}.toml").read_text("utf-8"), content_type="application/toml; charset=utf-8")
    answer["Content-Disposition"] = f'attachment; filename="{slug}.toml"'
    return answer


@cache
def _measures() -> tuple:
    shown = shown_measures()
    return tuple((family, [s for s in shown if s.definition.family == family]) for family in FAMILIES)


@login_required
@require_safe
def measures(request):
    """How each measure is made, with a drawing."""
    return render(request, "rulebook/measures.html", {"families": _measures()})
