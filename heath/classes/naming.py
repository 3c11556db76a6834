"""How students' names are put in order: by family name."""

from __future__ import annotations

import unicodedata

# Written small before a family name, and part of it (British practice: van Rijn under V).
PARTICLES = frozenset(
    ("af", "al", "bin", "da", "de", "del", "della", "den", "der", "di", "dos", "du", "el", "la")
    + ("le", "ten", "ter", "van", "vom", "von", "y", "zu")
)


def family_name(name: str) -> str:
    """The family name in a full name: the last word with the particles before it; the whole name
    where it is one word.

    >>> family_name("Mirela van der Cobb"), family_name("Oskar Pellow"), family_name("Suri")
    ('van der Cobb', 'Pellow', 'Suri')
    """
    words = name.split()
    first = len(words) - 1
    while first > 1 and words[first - 1].lower() in PARTICLES:
        first -= 1
    return " ".join(words[max(first, 0) :])


def sorting_key(name: str, family: str = "") -> str:
    """What a name is sorted by: family name, then the rest, without accents and capitals.

    Args:
        name: full name as it is shown.
        family: the family name where a list gave it apart; else it is taken from the name.

    >>> sorting_key("Élodie Ångström")
    'angstrom elodie'
    """
    family = family or family_name(name)
    rest = name.removesuffix(family).strip()
    plain = unicodedata.normalize("NFKD", f"{family} {rest}".strip())
    return "".join(c for c in plain if not unicodedata.combining(c)).casefold()[:160]
