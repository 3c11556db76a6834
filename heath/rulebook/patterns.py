"""Patterns that a school may plan and mark by: the shipped ones, and its own in their versions."""

from __future__ import annotations

from dataclasses import dataclass, replace

from django.db import transaction
from django.utils import timezone

from heath.people.models import School
from heath.rulebook.models import PatternVersion
from heath.rulebook.sets import LARGEST, VERSION_LINE
from juniper.patterns import (
    FaultyPattern,
    Pattern,
    pattern_slugs,
    read_pattern,
    shipped_pattern,
    write_pattern,
)


def released_pattern(at, slug: str, number: int | None = None) -> PatternVersion | None:
    """A released version of a school's own pattern: that one, or the newest."""
    found = PatternVersion.objects.filter(school=at, slug=slug, released_at__isnull=False)
    return (found.filter(number=number) if number else found).first()


def pattern_in_force(at, slug: str, number: int | None = None) -> Pattern:
    """The pattern of a slug at a school. Raises KeyError when there is none."""
    if slug in pattern_slugs():
        return shipped_pattern(slug)
    own = released_pattern(at, slug, number)
    if own is None:
        raise KeyError(slug)
    return own.pattern


def pattern_choices(at) -> list[tuple[str, str]]:
    """Slug and name of every pattern that a brief may be built after."""
    own = {
        v.slug: f"{v.pattern.name} (own, version {v.number})"
        for v in PatternVersion.objects.filter(school=at, released_at__isnull=False).order_by(
            "number"
        )
    }
    shipped = [(s, shipped_pattern(s).name) for s in pattern_slugs()]
    return sorted(shipped, key=lambda p: p[1]) + sorted(own.items())


def draft_of_pattern(at, pattern: Pattern, user) -> PatternVersion:
    """A draft to edit, made from a pattern: the next version of the school's own, or the first of a
    copy of a shipped one. One that is already there is given back.
    """
    slug, name = pattern.slug, pattern.name
    if slug in pattern_slugs():
        slug, name = f"{slug}-own"[:62], f"{name}, our own"[:80]
    with transaction.atomic():
        waiting, number = _next(at, slug)
        if waiting:
            return waiting
        text = write_pattern(replace(pattern, slug=slug, name=name, version=str(number), with_=()))
        return PatternVersion.objects.create(
            school=at, slug=slug, number=number, text=text, made_by=user
        )


def _next(at, slug: str) -> tuple[PatternVersion | None, int]:
    """The draft of a pattern that waits, and the number of its next version."""
    # one at a time: a first version has no row to lock
    School.objects.select_for_update().get(pk=at.pk)
    versions = PatternVersion.objects.filter(school=at, slug=slug)
    newest = versions.first()
    return versions.filter(released_at__isnull=True).first(), (newest.number if newest else 0) + 1


def taken_in_pattern(at, text: str, user) -> PatternVersion:
    """A draft from a document that was brought in. Raises FaultyPattern, which says what is wrong
    and on which line.
    """
    pattern = _checked(text)
    with transaction.atomic():
        waiting, number = _next(at, pattern.slug)
        if waiting:
            raise FaultyPattern(
                f"A draft of version {waiting.number} of '{pattern.slug}' waits: release it or"
                " discard it first, then bring this one."
            )
        kept = VERSION_LINE.sub(f'version = "{number}"', text, count=1)
        return PatternVersion.objects.create(
            school=at, slug=pattern.slug, number=number, text=kept, made_by=user
        )


def _checked(text: str) -> Pattern:
    if len(text) > LARGEST:
        raise FaultyPattern(f"The document has {len(text)} letters; {LARGEST} is the most.")
    pattern = read_pattern(text)
    if pattern.slug in pattern_slugs():
        raise FaultyPattern(
            f"The slug '{pattern.slug}' belongs to a pattern that ships with the product. Give the"
            " document another."
        )
    return pattern


def rewritten(draft: PatternVersion, text: str) -> PatternVersion:
    """A draft with another text, of the same slug and number. Raises FaultyPattern or ValueError,
    with a sentence for the user.
    """
    if draft.released_at:
        raise ValueError("A released version never changes. Make a new draft from it.")
    pattern = _checked(text)
    if pattern.slug != draft.slug:
        raise FaultyPattern(f"The slug of this draft is '{draft.slug}'; leave it as it is.")
    draft.text = VERSION_LINE.sub(f'version = "{draft.number}"', text, count=1)
    draft.save(update_fields=["text"])
    return draft


def release_pattern(draft: PatternVersion, briefs, why: str = "") -> None:
    """Release a draft, with the reason of its changes, and build the given briefs after it from now
    on.
    """
    with transaction.atomic():
        draft.released_at, draft.why = timezone.now(), why
        draft.save(update_fields=["released_at", "why"])
        for brief in briefs:
            brief.pattern, brief.pattern_version = draft.slug, draft.number
            brief.save(update_fields=["pattern", "pattern_version"])


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
