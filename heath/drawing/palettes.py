"""A palette as other eyes see it, beside the brief's own, and before a cloth or wall."""

from functools import lru_cache

import numpy as np
from django.utils.html import format_html, format_html_join

from heath.drawing.circle import PALETTES
from juniper.colour import flowers_of
from juniper.colour.deficiency import MATRICES, confused
from juniper.colour.ratios import relation, setting_swatch
from juniper.colour.spaces import ciede2000, from_hex, lab_from_srgb

COUNTED = 0.05  # share from which a colour is looked at by other eyes


LOST = 12.0  # CIEDE2000 to what is behind it under which a colour hardly shows


THERE = 18.0  # CIEDE2000 to the nearest colour of a palette under which a wished one is there


def cone_filters():
    """SVG filters that show a picture as eyes that lack one kind of cone see it."""
    rows = {
        kind: " ".join(" ".join(f"{v:.6f}" for v in row) + " 0 0" for row in matrix) + " 0 0 0 1 0"
        for kind, matrix in MATRICES.items()
    }
    filters = format_html_join(
        "",
        '<filter id="{}" color-interpolation-filters="linearRGB"><feColorMatrix type="matrix"'
        ' values="{}"/></filter>',
        rows.items(),
    )
    return format_html(
        '<svg class="visually-hidden" aria-hidden="true" width="0" height="0">{}</svg>', filters
    )


@lru_cache(maxsize=PALETTES)
def confusions(palette):
    """(kind of eye, colour, colour) of a palette's flowers that such an eye can hardly tell
    apart.
    """
    flowers = [s for s in palette if s.part == "flower" and s.share >= COUNTED]
    srgb = np.array([from_hex(s.chip) for s in flowers]).reshape(-1, 3)
    return tuple(
        (kind, flowers[i].name, flowers[j].name)
        for kind in MATRICES
        for i, j in confused(srgb, kind)
    )


def wished_of(palette, wished):
    """The brief's colours, each with the nearest of a palette's flowers and whether it is there."""
    flowers = flowers_of(palette)
    out = []
    for one in wished:
        lab = lab_from_srgb(from_hex(one["hex"]))
        apart = [
            min(
                float(ciede2000(lab, np.array(c))) for c in (s.own, lab_from_srgb(from_hex(s.chip)))
            )
            for s in flowers
        ]
        at = int(np.argmin(apart)) if apart else None
        out.append(
            {
                **one,
                "nearest": one["hex"] if at is None else flowers[at].chip,
                "there": at is not None and apart[at] < THERE,
            }
        )
    return out


def before_setting(palette, setting):
    """In a sentence, how the flowers stand before the cloth or wall that the brief tells of."""
    cloth = setting_swatch(setting)
    word, nearest = relation(cloth, palette)
    flowers = [s for s in palette if s.part == "flower" and s.share >= COUNTED]
    chips = [(s.name, lab_from_srgb(from_hex(s.chip))) for s in flowers]
    lost = [name for name, lab in chips if float(ciede2000(cloth.lab, lab)) < LOST]
    if lost:
        return f"Before the wall or cloth of the brief {' and '.join(lost)} would hardly show."
    return {
        "neutral": "The wall or cloth of the brief is neutral; every colour shows before it.",
        "echo": f"The wall or cloth of the brief echoes {nearest}.",
        "contrast": "The wall or cloth of the brief contrasts with the flowers.",
    }[word]
