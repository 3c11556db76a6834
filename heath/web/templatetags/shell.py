"""The bar that names the places, and a brief's own line under it."""

from __future__ import annotations

from dataclasses import dataclass

from django import template
from django.urls import reverse

register = template.Library()


@dataclass(frozen=True)
class Place:
    """One place of the site: its name on the bar, the address's name that it leads to, the names
    of all pages that belong to it, and the least role that may open it.
    """

    title: str
    to: str
    pages: frozenset[str]
    role: str


def _place(title: str, to: str, *pages: str, role: str = "assistant") -> Place:
    return Place(title, to, frozenset({to, *pages}), role)


PLACES = (
    _place("Term", "term"),
    _place("Classes", "classes", "course", "course-new", "student"),
    _place("Briefs", "briefs", "brief-new"),
    _place(
        "Records",
        "records",
        "class-picture",
        "agreement",
        "bundles",
        "bundle-take-in",
        "class-students",
        "gradebook",
        "level",
        "levels",
        "second-mark",
        "student-erase",
        "student-record",
    ),
    _place(
        "Rulebook",
        "rulebook",
        "rule-set",
        "compare",
        "measures",
        "draft",
        "draft-release",
        "draft-preview",
        "patterns",
        "pattern",
        "pattern-draft",
    ),
    _place("Exemplars", "exemplars", "exemplar-offer"),
    _place(
        "Practice", "practice", "calibration", "eye", "eye-round", "eye-answer", "practice-round"
    ),
    _place("Materials", "materials"),
    _place("Shelf", "shelf", "container"),
)
# The places inside a brief, in the order of the work.
OF_BRIEF = (
    _place("Wall", "brief", "bench", "draw-container"),
    _place("Line-up", "line-up"),
    _place("Plan", "plan", "recipe", "lesson-plan", "conditioning", "care", "piece-care"),
    _place("Photographs", "intake"),
    _place("Return", "returning", "sheet"),
)


OF_SECOND = ("brief", "line-up")  # of which a second marking has these alone
# The records of a class.
OF_CLASS = (
    _place("Class picture", "class-picture", "lesson"),
    _place("Students", "class-students", "student-record"),
    _place("Gradebook", "gradebook", "gradebook-cell", "school-list", role="instructor"),
    _place("Eye practice", "class-practice", "practice-round"),
    _place("Agreement", "agreement", "second-mark", "second-marking", role="moderator"),
)


def _name(context) -> str:
    match = getattr(context.get("request"), "resolver_match", None)
    return (match and match.url_name) or ""


@register.inclusion_tag("web/_places.html", takes_context=True)
def places(context):
    """The bar's places, the present one marked; inside a brief that is Briefs."""
    page = _name(context)
    inside = context.get("brief") or any(page in p.pages for p in OF_BRIEF)
    rows = [
        (p.title, reverse(p.to), page in p.pages or (p.to == "briefs" and bool(inside)))
        for p in PLACES
    ]
    return {"places": rows}


@register.inclusion_tag("web/_brief_places.html", takes_context=True)
def brief_places(context, brief):
    """A brief's own places, the present one marked."""
    page, user = _name(context), context["user"]
    own = [p for p in OF_BRIEF if brief.second_of_id is None or p.to in OF_SECOND]
    rows = [(p.title, reverse(p.to, args=[brief.pk]), page in p.pages) for p in own]
    if user.instructs and brief.second_of_id is None:
        to = reverse("brief-change", args=[brief.pk])
        rows.append(("Brief", to, page == "brief-change"))
    return {"brief": brief, "places": rows}


@register.inclusion_tag("web/_class_places.html", takes_context=True)
def class_places(context, course):
    """The records of a class that a person may open, the present one marked."""
    page = _name(context)
    rows = [
        (p.title, reverse(p.to, args=[course.pk]), page in p.pages)
        for p in OF_CLASS
        if context["user"].is_at_least(p.role)
    ]
    return {"course": course, "places": rows}


@register.simple_tag(takes_context=True)
def help_page(context) -> str:
    """Address of the help that belongs to the present page."""
    page = _name(context)
    return reverse("help", args=[HELP.get(page, "start")])


# Which page of the help belongs to which page of the site.
HELP = {
    "term": "term",
    "classes": "classes",
    "course": "classes",
    "course-new": "classes",
    "student": "classes",
    "briefs": "briefs",
    "brief-new": "briefs",
    "brief-change": "briefs",
    "brief": "wall",
    "line-up": "wall",
    "plan": "plan",
    "recipe": "plan",
    "lesson-plan": "plan",
    "conditioning": "plan",
    "care": "plan",
    "piece-care": "plan",
    "intake": "photographs",
    "draw-container": "photographs",
    "bench": "bench",
    "returning": "return",
    "sheet": "return",
    "rulebook": "rulebook",
    "rule-set": "rulebook",
    "compare": "rulebook",
    "measures": "rulebook",
    "draft": "rulebook",
    "draft-release": "rulebook",
    "patterns": "rulebook",
    "pattern": "rulebook",
    "pattern-draft": "rulebook",
    "agreement": "records",
    "bundles": "records",
    "erasure": "records",
    "records": "records",
    "search": "records",
    "student-erase": "records",
    "second-mark": "records",
    "class-picture": "records",
    "class-students": "records",
    "gradebook": "records",
    "level": "records",
    "levels": "records",
    "student-record": "records",
    "exemplars": "records",
    "exemplar-beside": "records",
    "exemplar-offer": "records",
    "practice": "practice",
    "class-practice": "practice",
    "practice-round": "practice",
    "calibration": "practice",
    "eye": "practice",
    "eye-round": "practice",
    "eye-answer": "practice",
    "materials": "materials",
    "shelf": "shelf",
    "container": "shelf",
    "people": "people",
    "server": "people",
    "settings": "people",
    "password": "people",
}
