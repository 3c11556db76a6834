"""The vessels of a composition as a brief's form sends them: read, checked, and summed up."""

from __future__ import annotations

import json
import math
import re
from typing import Any

from django import forms

from heath.people.policy import visible
from heath.shelf.models import Container
from juniper.scene import MOST_VESSELS

LEAST = 2  # vessels of a composition
SMALLEST, LARGEST = 1.0, 300.0  # cm of a vessel's side
FURTHEST = 400.0  # cm from a composition's middle
COLOUR = re.compile(r"^#[0-9a-fA-F]{6}$")
NOT_READ = "The vessels could not be read. Load the page again, and set them out once more."


def read_vessels(text: str, user) -> list[dict]:
    """The rows of a set-out drawing as they are kept: name, the shelf's container (its number or
    None), height and width in cm, clear glass or not, colour, and place (x_cm to the right of the
    middle, y_cm toward the back). Raises forms.ValidationError with a sentence.
    """
    try:
        rows = json.loads(text or "[]")
    except (ValueError, RecursionError):
        raise forms.ValidationError(NOT_READ) from None
    if not isinstance(rows, list):
        raise forms.ValidationError(NOT_READ)
    named = any(isinstance(r, dict) and r.get("shelf") for r in rows)
    shelf = {c.pk: c for c in visible(user, Container)} if named else {}
    return checked_vessels(rows, shelf)


def checked_vessels(rows: list[dict], shelf: dict[int, Container]) -> list[dict]:
    """Rows of vessels as they are kept, their containers among those of `shelf` (by number). Raises
    forms.ValidationError with a sentence.
    """
    if not all(isinstance(r, dict) for r in rows):
        raise forms.ValidationError(NOT_READ)
    if len(rows) > MOST_VESSELS:
        raise forms.ValidationError(
            f"{len(rows)} vessels are listed; {MOST_VESSELS} are the most in one composition."
        )
    return [_row(n, row, shelf) for n, row in enumerate(rows, 1)]


def _row(number: int, row: dict, shelf: dict[int, Container]) -> dict:
    one = shelf.get(row["shelf"]) if isinstance(row.get("shelf"), int) else None
    name = " ".join(str(row.get("name") or (one.name if one else "")).split())[:60]
    colour = str(row.get("colour") or "")
    out: dict[str, Any] = {
        "name": name or f"vessel {number}",
        "shelf": one.pk if one else None,
        "clear": bool(row.get("clear")),
        "colour": colour if COLOUR.match(colour) else "",
    }
    for key, words in (("height_cm", "height"), ("width_cm", "greatest width")):
        value = _number(row.get(key))
        if value is None or not SMALLEST <= value <= LARGEST:
            raise forms.ValidationError(
                f"Vessel {number}: write its {words} in centimetres, between 1 and 300."
            )
        out[key] = round(value, 1)
    for key in ("x_cm", "y_cm"):
        value = _number(row.get(key)) or 0.0
        out[key] = round(max(-FURTHEST, min(FURTHEST, value)), 1)
    return out


def _number(value) -> float | None:
    try:
        number = float(value)
    except (TypeError, ValueError):
        return None
    return number if math.isfinite(number) else None


def summed_up(rows: list[dict]) -> dict:
    """What stands for a composition where a brief names one container: its tallest vessel."""
    tallest = max(rows, key=lambda r: r["height_cm"])
    return {
        "container": f"{len(rows)} vessels",
        "container_height_cm": tallest["height_cm"],
        "container_width_cm": tallest["width_cm"],
    }
