"""Help: the pages of docs/guide, inside the site."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cache
from pathlib import Path

import markdown
from django.conf import settings
from django.http import Http404
from django.shortcuts import render
from django.utils.safestring import mark_safe
from django.views.decorators.http import require_safe

# In the order of the work.
PAGES = (
    "start",
    "term",
    "classes",
    "briefs",
    "plan",
    "photographs",
    "wall",
    "bench",
    "return",
    "records",
    "practice",
    "rulebook",
    "materials",
    "shelf",
    "people",
)


@dataclass(frozen=True)
class Page:
    """One page of the guide: its name in the address, its title, and its text as HTML."""

    name: str
    title: str
    html: str


def _folder() -> Path:
    return settings.BASE_DIR / "docs" / "guide"


@cache
def page(name: str) -> Page:
    """A page of the guide by its name; links between its files become links of the site.

    Raises:
        KeyError: for a page that the guide does not have.
    """
    if name not in PAGES:
        raise KeyError(name)
    text = (_folder() / f"{name}.md").read_text(encoding="utf-8")
    for other in PAGES:
        text = text.replace(f"]({other}.md)", f"](/help/{other}/)")
    title = text.splitlines()[0].removeprefix("# ")
    return Page(name, title, markdown.markdown(text, extensions=["tables", "sane_lists"]))


@require_safe
def help_on(request, name="start"):
    """A page of the guide, with the others beside it."""
    try:
        shown = page(name)
    except KeyError as error:
        raise Http404 from error
    context = {
        "shown": shown,
        "html": mark_safe(shown.html),  # noqa: S308 - our own text, from the repository
        "pages": [page(other) for other in PAGES],
    }
    return render(request, "web/help.html", context)
