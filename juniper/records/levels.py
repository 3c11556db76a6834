"""What is asked of students level by level: the levels that ship, as data."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cache
from pathlib import Path

from juniper.documents import read_toml

SHIPPED = Path(__file__).with_name("levels.toml")


@dataclass(frozen=True)
class Level:
    """A level's name, what it asks for in sentences, and the codes of the rules that are shown at
    it and not marked yet.
    """

    name: str
    asks: tuple[str, ...]
    shown: frozenset[str]


@cache
def shipped_levels() -> tuple[Level, ...]:
    """The levels that ship, the first step first.

    >>> [level.name for level in shipped_levels()]
    ['beginner', 'intermediate', 'advanced']
    """
    rows = read_toml(SHIPPED.read_text(encoding="utf-8"))["level"]
    return tuple(Level(row["name"], tuple(row["asks"]), frozenset(row["shown"])) for row in rows)
