"""Patterns that a school may plan and mark by: the shipped ones, and its own in their versions."""

from __future__ import annotations

from dataclasses import dataclass

from heath.rulebook.models import PatternVersion
from heath.rulebook.versions import DocumentKind
from juniper.patterns import (
    FaultyPattern,
    Pattern,
    pattern_slugs,
    read_pattern,
    shipped_pattern,
    write_pattern,
)

PATTERNS = DocumentKind(
    versions=PatternVersion,
    slugs=pattern_slugs,
    shipped=shipped_pattern,
    read=read_pattern,
    write=write_pattern,
    faulty=FaultyPattern,
    names="pattern",
    noun="pattern",
    owner="a pattern",
    apart={"with_": ()},
)


@dataclass(frozen=True)
class ListedPattern:
    """A pattern as the rulebook lists it: with its own draft or version, if it is a school's."""

    pattern: Pattern
    version: PatternVersion | None = None

    @property
    def is_draft(self) -> bool:
        """Whether it waits to be released."""
        return self.version is not None and self.version.released_at is None


def listed_patterns(at) -> list[ListedPattern]:
    """Every pattern of a school: the shipped ones, then the newest version and any draft of its
    own.
    """
    out = [ListedPattern(shipped_pattern(s)) for s in pattern_slugs()]
    seen: set[tuple[str, bool]] = set()
    for version in PatternVersion.objects.filter(school=at):
        key = (version.slug, version.released_at is None)
        if key not in seen:
            seen.add(key)
            out.append(ListedPattern(version.pattern, version))
    return out
