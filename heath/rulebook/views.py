"""The rulebook: what each school teaches, two of them side by side, and how each measure is
made.
"""

import math
from dataclasses import replace

from django.contrib import messages
from django.http import Http404
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST, require_safe

from heath.assessment.models import Mark
from heath.people.once import once
from heath.people.policy import find, visible
from heath.rulebook.drawing import band_on_scale, span_of, weights_bar
from heath.rulebook.examples import shown_measures
from heath.rulebook.models import RuleSetVersion
from heath.rulebook.sending import as_file, sent_text
from heath.rulebook.sets import RULE_SETS, SENTENCES, changed
from heath.web.plain import whole
from juniper.lengths import unit
from juniper.measures import DEFINITIONS
from juniper.rules import FAMILIES, FaultyRuleSet, RuleSet, school, school_slugs
from juniper.rules.document import SCHOOLS, fill_advice
from juniper.rules.wording import disagreements
from juniper.rules.written import band_words, edge_words, unit_once


def _set(request, slug) -> RuleSet:
    """A shipped rule set, or the newest released version of the school's own; a draft by its number
    (?version=).
    """
    if slug in school_slugs():
        return school(slug)
    number = request.GET.get("version", "")
    found = visible(request.user, RuleSetVersion).filter(slug=slug)
    one = (
        found.filter(number=number).first()
        if whole(number) is not None
        else found.filter(released_at__isnull=False).first()
    )
    if one is None:
        raise Http404
    return one.rule_set


def _sets(request) -> list[RuleSet]:
    newest = {
        v.slug: v.rule_set
        for v in (
            visible(request.user, RuleSetVersion)
            .filter(released_at__isnull=False)
            .order_by("number")
        )
    }
    return [*(school(s) for s in school_slugs()), *newest.values()]


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
    low, high = (edge_words(e, rule.unit) for e in (rule.band.low, rule.band.high))
    return fill_advice(
        unit_once(text, rule.unit),
        {
            "value": f"… {unit()}" if rule.unit == "cm" else "…",
            "low": low,
            "high": high,
            "cm": f"… {unit()}",
            "side": "one side",
            "other": "other",
            "swap": "the two",
        },
    )


def _row(rule, total: float, values: list[float], span=None) -> dict:
    drawn = None
    if not rule.check:
        drawn = band_on_scale(
            rule.band,
            span or span_of([rule.band, *(c.band for c in rule.cases)], values),
            values,
            f"{rule.title}: {band_words(rule.band, rule.unit)}",
            rule.unit,
        )
    return {
        "rule": rule,
        "share": 100 * rule.weight / total,
        "drawn": drawn,
        "words": "" if rule.check else band_words(rule.band, rule.unit),
        "measure": DEFINITIONS.get(rule.measure),
        "pieces": len(values),
        "below": _said(rule.below, rule),
        "above": _said(rule.above, rule),
        "cases": [
            {
                "when": " and ".join(c.when),
                "words": band_words(c.band, rule.unit),
                "taught": c.taught,
            }
            for c in rule.cases
        ],
        "breaks": _breaks(rule),
    }


BREACHES = {
    "below": "past the lower limit of its band",
    "above": "past the upper limit of its band",
    "either": "past a limit of its band",
}


def _breaks(rule) -> str:
    """What breaking a rule that can hold the whole mark does, in a sentence; '' for another."""
    if rule.breach is None:
        return ""
    when = (
        "the answer is no" if rule.check else f"the value is certainly {BREACHES[rule.breach.side]}"
    )
    return (
        f"This rule can hold the whole mark: when {when}, the mark is at most {rule.breach.at:g}."
        " An instructor can waive it."
    )


@once
def rulebook(request):
    """All schools, and the versions of the school's own; a document sent here becomes a draft."""
    faults, text = "", ""
    if request.method == "POST":
        text = sent_text(request)
        try:
            draft = RULE_SETS.taken_in(request.user.school, text, request.user)
        except FaultyRuleSet as error:
            faults = str(error)
        else:
            messages.success(request, "The document is sound. It is a draft until you release it.")
            return redirect("draft", pk=draft.pk)
    versions = visible(request.user, RuleSetVersion).select_related("made_by")
    return render(
        request,
        "rulebook/rulebook.html",
        {
            "shipped": [(s, weights_bar(s)) for s in map(school, school_slugs())],
            "beside": school_slugs()[1],
            "sets": _sets(request),
            "own": versions,
            "fault": faults,
            "text": text,
        },
    )


@require_safe
def rule_set(request, slug):
    """One school's rules, by family, each against what marked pieces came to."""
    one, values = _set(request, slug), _values(request.user)
    total = sum(r.weight for r in one.rules)
    families = []
    for family in FAMILIES:
        rows = [_row(r, total, values.get(r.measure, [])) for r in one.rules if r.family == family]
        if rows:
            families.append({"name": family, "rows": rows, "share": sum(r["share"] for r in rows)})
    return render(
        request,
        "rulebook/rule_set.html",
        {
            "set": one,
            "families": families,
            "sets": [school(s) for s in school_slugs()],
            "beside": next(s for s in school_slugs() if s != one.slug),
            "version": _version(request, one),
        },
    )


def _version(request, one: RuleSet) -> RuleSetVersion | None:
    """The school's own version that a rule set is, or None for a shipped one."""
    number = whole(one.version)
    found = visible(request.user, RuleSetVersion).filter(slug=one.slug)
    return found.filter(number=number).first() if number is not None else None


@require_safe
def compare(request):
    """Two schools side by side: for each measure what the one and the other wants, on one scale."""
    left, right = (_set(request, request.GET.get(side, "")) for side in ("left", "right"))
    if left.slug == right.slug:
        messages.info(request, f"{left.name} was chosen twice. Choose another school beside it.")
        return redirect("rule-set", slug=left.slug)
    values = _values(request.user)
    totals = [sum(r.weight for r in s.rules) for s in (left, right)]
    rows = []
    for family in FAMILIES:
        pairs = [
            {(r.measure or r.code): r for r in s.rules if r.family == family} for s in (left, right)
        ]
        for key in dict.fromkeys((*pairs[0], *pairs[1])):
            both = [p.get(key) for p in pairs]
            own = values.get(key, [])
            span = (
                span_of([r.band for r in both if r], own)
                if not any(r and r.check for r in both)
                else None
            )
            cells = [
                _row(r, t, own, span) if r else None for r, t in zip(both, totals, strict=True)
            ]
            rows.append(
                {
                    "family": family,
                    "title": (
                        DEFINITIONS[key].title
                        if key in DEFINITIONS
                        else next(r for r in both if r).title
                    ),
                    "cells": cells,
                    "differs": None in cells or cells[0]["words"] != cells[1]["words"],
                }
            )
    return render(
        request,
        "rulebook/compare.html",
        {"left": left, "right": right, "rows": rows, "sets": [school(s) for s in school_slugs()]},
    )


@require_safe
def document(request, slug):
    """A school's rule set as the TOML document that it is."""
    if slug in school_slugs():
        text = (SCHOOLS / f"{slug}.toml").read_text("utf-8")
    else:
        number = request.GET.get("version", "")
        found = visible(request.user, RuleSetVersion).filter(slug=slug)
        text = get_object_or_404(
            found,
            number=whole(number) if whole(number) is not None else _set(request, slug).version,
        ).text
    return as_file(slug, text)


@require_POST
@once
def copy(request, slug):
    """Make a draft to edit: of a shipped rule set, or the next version of one's own."""
    return redirect(
        "draft", pk=RULE_SETS.draft_of(request.user.school, _set(request, slug), request.user).pk
    )


def _draft_context(request, draft, fault="", code="") -> dict:
    values, one = _values(request.user), draft.rule_set
    total = sum(r.weight for r in one.rules)
    families = []
    for family in FAMILIES:
        rows = [_row(r, total, values.get(r.measure, [])) for r in one.rules if r.family == family]
        for row in rows:
            rule = row["rule"]
            if rule.measure:
                low, high = span_of([rule.band], values.get(rule.measure, []))
                row |= {
                    "low": low,
                    "high": high,
                    "edges": [e if math.isfinite(e) else "" for e in rule.band.edges],
                    "dots": values.get(rule.measure, []),
                }
            row["fault"] = fault if code == rule.code else ""
            row["disagrees"] = disagreements(replace(one, rules=(rule,)))
        if rows:
            families.append({"name": family, "rows": rows, "share": sum(r["share"] for r in rows)})
    return {"draft": draft, "set": one, "families": families}


@require_safe
def draft(request, pk):
    """A draft, whose bands are dragged against what real pieces came to."""
    one = find(request.user, RuleSetVersion, pk=pk)
    if one.released_at:
        return redirect(f"{reverse('rule-set', args=[one.slug])}?version={one.number}")
    return render(request, "rulebook/draft.html", _draft_context(request, one))


@require_POST
def change(request, pk):
    """A band was dragged, a weight typed, or a sentence written anew."""
    one, code = find(request.user, RuleSetVersion, pk=pk), request.POST.get("code", "")
    fault = ""
    try:
        band = None
        if "edge" in request.POST:
            rule = next((r for r in one.rule_set.rules if r.code == code), None)
            was = rule.band.edges if rule else ()
            typed = request.POST.getlist("edge")
            if len(typed) != len(was):
                raise ValueError("A band has four edges. Load the page again.")
            # An edge without end stays so when it is left empty.
            band = [
                e if t.strip() == "" and math.isinf(e) else float(t.replace(",", "."))
                for t, e in zip(typed, was, strict=True)
            ]
            if not all(math.isfinite(b) or math.isinf(e) for b, e in zip(band, was, strict=True)):
                raise ValueError("An edge is a number.")
        raw = request.POST.get("weight")
        words = {
            name: " ".join(request.POST[name].split()) for name in SENTENCES if name in request.POST
        }
        changed(one, code, band, float(raw.replace(",", ".")) if raw is not None else None, words)
    except ValueError as error:
        words = str(error)
        fault = (
            "Write a number, such as 1.5."
            if "could not convert" in words
            else words[0].upper() + words[1:].rstrip(".") + "."
        )
    return render(request, "rulebook/_draft.html", _draft_context(request, one, fault, code))


@require_POST
def discard(request, pk):
    """Throw a draft away; a released version stays."""
    find(request.user, RuleSetVersion, pk=pk, released_at__isnull=True).delete()
    return redirect("rulebook")


@require_POST
@once
def go_back(request, pk):
    """Make a draft from an earlier version; a draft that is there already is not lost for it."""
    one = find(request.user, RuleSetVersion, pk=pk)
    waiting = (
        visible(request.user, RuleSetVersion)
        .filter(slug=one.slug, released_at__isnull=True)
        .first()
    )
    if waiting:
        messages.error(
            request,
            f"A draft of version {waiting.number} waits: release it or throw it away first.",
        )
        return redirect("rulebook")
    return redirect(
        "draft", pk=RULE_SETS.draft_of(request.user.school, one.rule_set, request.user).pk
    )


@require_safe
def measures(request):
    """How each measure is made, with a drawing."""
    shown = shown_measures()
    families = [(f, [s for s in shown if s.definition.family == f]) for f in FAMILIES]
    return render(request, "rulebook/measures.html", {"families": families})
