"""Whose piece a picture shows, from its file's name or what was written with it. Plain
functions.
"""

import re
import unicodedata

from juniper.photograph.code import typed_code

VIEW_WORDS = {
    "front": "front",
    "side": "side",
    "left": "side",
    "right": "side",
    "back": "back",
    "behind": "back",
    "rear": "back",
    "top": "top",
    "above": "top",
    "seated": "seated",
    "seat": "seated",
}


def words(text: str) -> list[str]:
    """The words of a name: without accents, lower case, split at anything that is no letter or
    figure and at inner capitals.
    """
    text = re.sub(r"(?<=[a-zà-ÿ])(?=[A-Z])", " ", text)
    plain = unicodedata.normalize("NFKD", text).encode("ascii", "ignore").decode().lower()
    return re.findall(r"[a-z]+|\d+", plain)


def view_in(name: str) -> str:
    """The view a file's name speaks of, or ''."""
    found = {VIEW_WORDS[w] for w in words(name.rsplit(".", 1)[0]) if w in VIEW_WORDS}
    return found.pop() if len(found) == 1 else ""


def person_in(text: str, people: dict[int, str]) -> int | None:
    """The key of the one person whose name a text holds, or None when it holds none or might mean
    several.

    The whole name counts for more than a part of it; a part counts only if it is one person's alone
    and has three letters at least.
    """
    said = set(words(text))
    if not said:
        return None
    names = {key: set(words(name)) for key, name in people.items()}
    whole = [key for key, name in names.items() if name and name <= said]
    if whole:
        longest = max(len(names[k]) for k in whole)
        best = [k for k in whole if len(names[k]) == longest]
        return best[0] if len(best) == 1 else None
    part = [key for key, name in names.items() if any(len(w) >= 3 and w in said for w in name)]
    return part[0] if len(part) == 1 else None


def code_in(text: str) -> str | None:
    """A card's code written in a text: alone, or as one of its words."""
    whole = typed_code(text)
    if whole:
        return whole
    for part in re.split(r"[^0-9A-Za-z]+", text):
        if len(part) == 8 and typed_code(part) and any(c.isdigit() for c in part):
            return typed_code(part)
    return None
