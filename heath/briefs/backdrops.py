"""Colours of what a piece will stand before: chosen by name and swatch, or by the eye."""

from __future__ import annotations

from django import forms

# Paints and cloths as sRGB, common practice; the names are what a person would call them.
BACKDROPS = (
    ("#f4f2ec", "white"),
    ("#e9dfc7", "cream"),
    ("#d8cfc0", "sand"),
    ("#a9a6a0", "stone grey"),
    ("#5b6168", "slate"),
    ("#242424", "black"),
    ("#a87b4f", "oak"),
    ("#5a4030", "walnut"),
    ("#e3c3bb", "blush"),
    ("#b5694a", "terracotta"),
    ("#c79a3a", "mustard"),
    ("#5f2632", "wine"),
    ("#a8b49a", "sage"),
    ("#27443a", "bottle green"),
    ("#a9c4d6", "sky blue"),
    ("#27364f", "navy"),
)
OWN = "own"


def backdrop_name(value: str) -> str:
    """What a backdrop is called: its name in the list, else "a colour of its own".

    >>> backdrop_name("#D8CFC0"), backdrop_name("#112233")
    ('sand', 'a colour of its own')
    """
    return dict(BACKDROPS).get(value.lower(), "a colour of its own")


class BackdropSelect(forms.Widget):
    """Swatches with names, none, and one that a person mixes; its value is a colour such as
    #d8cfc0, or ''.
    """

    template_name = "briefs/backdrop.html"

    def get_context(self, name, value, attrs):
        """The choices, the one that is chosen, and the mixed colour."""
        value = (value or "").lower()
        listed = dict(BACKDROPS)
        chosen = value if value in listed or not value else OWN
        context = super().get_context(name, value, attrs)
        context["widget"] |= {
            "choices": [(colour, words, colour == chosen) for colour, words in BACKDROPS],
            "none": not chosen,
            "own": chosen == OWN,
            "mixed": value if chosen == OWN else "#888888",
        }
        return context

    def value_from_datadict(self, data, files, name):
        """The colour that is chosen, the mixed one where that is."""
        value = data.get(name, "")
        return data.get(f"{name}_own", "") if value == OWN else value

    def id_for_label(self, id_):
        """No one field: the label belongs to the group."""
        return ""
