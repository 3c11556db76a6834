"""The patterns in the rulebook: each with its drawing, order, counts and mechanics; a school's own
are edited as the document that they are.
"""

from __future__ import annotations

from django.contrib import messages
from django.http import Http404
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST, require_safe

from heath.people.once import once
from heath.people.policy import find, visible
from heath.rulebook.models import PatternVersion
from heath.rulebook.pattern_drawing import drawn_pattern
from heath.rulebook.patterns import PATTERNS, listed_patterns
from heath.rulebook.sending import as_file, sent_text
from heath.web.plain import whole
from juniper.measures import DEFINITIONS
from juniper.patterns import FaultyPattern, Pattern, PatternStem, pattern_slugs, shipped_pattern
from juniper.patterns.document import SHIPPED
from juniper.planning import order_of_placing
from juniper.rules.document import STAGE_WORDS
from juniper.rules.written import per_cent


def _version(request, slug: str) -> PatternVersion:
    """A version of the school's own pattern: the one that is asked for (?version=), else the newest
    that is released; Http404 for none.
    """
    found = visible(request.user, PatternVersion).filter(slug=slug)
    number = whole(request.GET.get("version", ""))
    one = (
        found.filter(number=number).first()
        if number is not None
        else found.filter(released_at__isnull=False).first()
    )
    if one is None:
        raise Http404
    return one


def _pattern(request, slug: str) -> Pattern:
    return shipped_pattern(slug) if slug in pattern_slugs() else _version(request, slug).pattern


def _shown(pattern: Pattern) -> dict:
    """What the templates are given of a pattern."""
    drawing = drawn_pattern(pattern)
    filled = order_of_placing(drawing.plan)
    return {
        "pattern": pattern,
        "drawing": drawing,
        "stems": [(s, _place(s)) for s in pattern.stems],
        "steps": [
            {
                "what": step.what,
                "mind": done.mind,
                "stage": STAGE_WORDS.get(step.stage, ""),
                "measures": [DEFINITIONS[m].title for m in step.measures],
            }
            for step, done in zip(pattern.steps, filled, strict=True)
        ],
    }


def _place(stem: PatternStem) -> str:
    """Where a stem of a pattern stands, or how long it is, in words."""
    if stem.of:
        lean = f"{abs(stem.lean):.0f}° to the {'left' if stem.lean < 0 else 'right'}"
        whole = ", whole stem" if stem.whole else ""
        return f"{stem.times:g} times the {stem.of}{whole}; leans {lean}"
    up, side = float(stem.up or 0.0), float(stem.side or 0.0)
    high = f"{per_cent(up)} of the height" if up >= 0 else f"{per_cent(-up)} of the height below"
    if abs(side) < 0.01:
        return f"{high}, over the middle"
    way = "left" if side < 0 else "right"
    return f"{high}, {per_cent(abs(side))} of half the breadth to the {way}"


@once
def patterns(request):
    """All patterns, and the school's own; a document sent here becomes a draft."""
    fault, text = "", ""
    if request.method == "POST":
        text = sent_text(request)
        try:
            draft = PATTERNS.taken_in(request.user.school, text, request.user)
        except FaultyPattern as error:
            fault = str(error)
        else:
            messages.success(request, "The pattern is sound. It is a draft until you release it.")
            return redirect("pattern-draft", pk=draft.pk)
    listed = listed_patterns(request.user.school)
    context = {
        "patterns": [(one, drawn_pattern(one.pattern)) for one in listed],
        "fault": fault,
        "text": text,
    }
    return render(request, "rulebook/patterns.html", context)


@require_safe
def pattern(request, slug):
    """One pattern: its drawing, its order of placing, and what holds it."""
    one = _pattern(request, slug)
    version = None if slug in pattern_slugs() else _version(request, slug)
    return render(request, "rulebook/pattern.html", _shown(one) | {"version": version})


@require_safe
def pattern_document(request, slug):
    """A pattern as the TOML document that it is."""
    if slug in pattern_slugs():
        text = (SHIPPED / f"{slug}.toml").read_text("utf-8")
    else:
        text = _version(request, slug).text
    return as_file(slug, text)


@require_POST
@once
def pattern_copy(request, slug):
    """Make a draft to edit: of a shipped pattern, or the next version of one's own."""
    draft = PATTERNS.draft_of(request.user.school, _pattern(request, slug), request.user)
    return redirect("pattern-draft", pk=draft.pk)


def pattern_draft(request, pk):
    """A draft, edited as its document; what is sent is checked, and kept where it is sound."""
    one = find(request.user, PatternVersion, pk=pk)
    if one.released_at:
        return redirect(f"{reverse('pattern', args=[one.slug])}?version={one.number}")
    text, fault = one.text, ""
    if request.method == "POST":
        text = request.POST.get("text", "").replace("\r\n", "\n")
        try:
            one = PATTERNS.rewritten(one, text)
        except ValueError as error:
            fault = str(error)
        else:
            if request.POST.get("release"):
                return _released(request, one)
            messages.success(request, "The draft is kept.")
            return redirect("pattern-draft", pk=pk)
    context = _shown(one.pattern) | {"draft": one, "text": text, "fault": fault}
    return render(request, "rulebook/pattern_draft.html", context, status=422 if fault else 200)


def _released(request, one: PatternVersion):
    PATTERNS.release(one, (), request.POST.get("why", "")[:400])
    messages.success(
        request, f"Version {one.number} is released. Choose it in a brief to build after it."
    )
    return redirect("pattern", slug=one.slug)


@require_POST
def pattern_discard(request, pk):
    """Throw a draft away; a released version stays."""
    get_object_or_404(
        visible(request.user, PatternVersion), pk=pk, released_at__isnull=True
    ).delete()
    return redirect("patterns")
