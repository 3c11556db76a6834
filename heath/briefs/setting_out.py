"""The field in which the vessels of a composition are listed, and set out on a drawing by
dragging.
"""

from __future__ import annotations

import json

from django import forms

from heath.briefs.vessels import FURTHEST, LEAST
from juniper.scene import MOST_VESSELS


class SetOut(forms.Widget):
    """A drawing of table, sill or mantel with the vessels on it, and a row of figures for each; its
    value is their rows as JSON. `shelf` are the containers that can be taken.
    """

    template_name = "briefs/set_out.html"
    shelf: tuple = ()

    def format_value(self, value) -> str:
        """The rows as JSON, whatever they came as."""
        return value if isinstance(value, str) else json.dumps(value or [])

    def get_context(self, name, value, attrs):
        """The rows, what the shelf offers, and how many vessels there may be."""
        context = super().get_context(name, value, attrs)
        context["widget"] |= {
            "value": self.format_value(value),
            "shelf": [
                {
                    "pk": c.pk,
                    "name": c.name,
                    "height": float(c.height_cm),
                    "width": float(c.width_cm),
                    "clear": c.wall == "clear",
                }
                for c in self.shelf
                if c.measured
            ],
            "least": LEAST,
            "most": MOST_VESSELS,
            "furthest": FURTHEST,
        }
        return context

    def id_for_label(self, id_):
        """No one field: the label belongs to the group."""
        return ""
