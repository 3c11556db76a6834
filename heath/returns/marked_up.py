"""The marked-up picture as one SVG file that holds its photograph."""

import base64

from django.template.loader import render_to_string

from heath.assessment.models import Photograph


def marked_up(sheet) -> str:
    """SVG of a sheet's photograph with its measures and pinned remarks drawn on it."""
    photograph = Photograph.objects.get(pk=sheet.figures["photograph"])
    with photograph.screen.open("rb") as file:
        data = base64.b64encode(file.read()).decode()
    return render_to_string("returns/marked_up.svg", {"f": sheet.figures, "data": data})
