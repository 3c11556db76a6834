"""Documents of the rulebook as they come from a form and go out as files."""

from __future__ import annotations

from django.http import HttpResponse

from heath.rulebook.versions import LARGEST


def sent_text(request) -> str:
    """The document of a form: the file that was chosen, else what was pasted."""
    file = request.FILES.get("document")
    if file:
        return str(file.read(LARGEST + 1).decode("utf-8", "replace"))
    return str(request.POST.get("text", ""))


def as_file(slug: str, text: str) -> HttpResponse:
    """A document as the TOML file that it is."""
    answer = HttpResponse(text, content_type="application/toml; charset=utf-8")
    answer["Content-Disposition"] = f'attachment; filename="{slug}.toml"'
    return answer
