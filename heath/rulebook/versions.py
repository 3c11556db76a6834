"""Documents that ship and that a school makes its own, version by version: rule sets and patterns.
A draft may be changed; a released version never is.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable
from dataclasses import dataclass, field, replace
from typing import Any, Generic, TypeVar

from django.db import transaction
from django.utils import timezone

from heath.people.models import School

LARGEST = 200_000  # letters of a document
VERSION_LINE = re.compile(r"^version\s*=.*$", re.MULTILINE)
D = TypeVar("D", bound=Any)
V = TypeVar("V", bound=Any)
RELEASED = "A released version never changes. Make a new draft from it."


@dataclass(frozen=True)
class DocumentKind(Generic[D, V]):
    """A kind of document. `versions` is the model of a school's own; `slugs` and `shipped` give
    those that ship; `read` and `write` turn text into a document and back, `faulty` is what reading
    raises. `names` is the brief's field that names one, and `apart` what a copy leaves out. `noun`
    is what it is called, `owner` what a shipped one belongs to.
    """

    versions: type[V]
    slugs: Callable[[], tuple[str, ...]]
    shipped: Callable[[str], D]
    read: Callable[[str], D]
    write: Callable[[D], str]
    faulty: type[ValueError]
    names: str
    noun: str
    owner: str
    apart: dict[str, Any] = field(default_factory=dict)

    def released(self, at, slug: str, number: int | None = None) -> V | None:
        """A released version of a school's own document: that one, or the newest."""
        found = self.versions.objects.filter(school=at, slug=slug, released_at__isnull=False)
        return (found.filter(number=number) if number else found).first()

    def in_force(self, at, slug: str, number: int | None = None) -> D:
        """The document of a slug at a school. Raises KeyError when there is none."""
        if slug in self.slugs():
            return self.shipped(slug)
        own = self.released(at, slug, number)
        if own is None:
            raise KeyError(slug)
        return own.document

    def choices(self, at, by_name: bool = False) -> list[tuple[str, str]]:
        """Slug and name of every document that a brief may name: the shipped ones in the order of
        their slugs or names, then a school's own.
        """
        own = {
            v.slug: f"{v.document.name} (own, version {v.number})"
            for v in self.versions.objects.filter(school=at, released_at__isnull=False).order_by(
                "number"
            )
        }
        shipped = [(s, self.shipped(s).name) for s in self.slugs()]
        if by_name:
            shipped.sort(key=lambda one: one[1])
        return shipped + sorted(own.items())

    def draft_of(self, at, document: D, user) -> V:
        """A draft to edit, made from a document: the next version of the school's own, or the first
        of a copy of a shipped one.

        A draft that is already there is given back, so that nothing that was typed is lost.
        """
        slug, name = document.slug, document.name
        if slug in self.slugs():
            slug, name = f"{slug}-own"[:62], f"{name}, our own"[:80]
        with transaction.atomic():
            waiting, number = self._next(at, slug)
            if waiting:
                return waiting
            own = replace(document, slug=slug, name=name, version=str(number), **self.apart)
            return self._draft(at, slug, number, self.write(own), user)

    def taken_in(self, at, text: str, user) -> V:
        """A draft from a document that was brought in. Raises `faulty`, which says what is wrong
        and on which line.
        """
        document = self._checked(text)
        with transaction.atomic():
            waiting, number = self._next(at, document.slug)
            if waiting:
                raise self.faulty(
                    f"A draft of version {waiting.number} of '{document.slug}' waits: release it"
                    " or discard it first, then bring this one."
                )
            return self._draft(at, document.slug, number, numbered(text, number), user)

    def rewritten(self, draft: V, text: str) -> V:
        """A draft with another text, of the same slug and number. Raises ValueError, with a
        sentence for the user.
        """
        if draft.released_at:
            raise ValueError(RELEASED)
        if self._checked(text).slug != draft.slug:
            raise self.faulty(f"The slug of this draft is '{draft.slug}'; leave it as it is.")
        draft.text = numbered(text, draft.number)
        draft.save(update_fields=["text"])
        return draft

    def release(self, draft: V, briefs: Iterable, why: str = "") -> None:
        """Release a draft, with the reason of its changes (`why`), and let the given briefs name it
        from now on; marks that were given stay as they are.
        """
        with transaction.atomic():
            draft.released_at, draft.why = timezone.now(), why
            draft.save(update_fields=["released_at", "why"])
            for brief in briefs:
                setattr(brief, self.names, draft.slug)
                setattr(brief, f"{self.names}_version", draft.number)
                brief.save(update_fields=[self.names, f"{self.names}_version"])

    def _checked(self, text: str) -> D:
        if len(text) > LARGEST:
            raise self.faulty(f"The document has {len(text)} letters; {LARGEST} is the most.")
        document = self.read(text)
        if document.slug in self.slugs():
            raise self.faulty(
                f"The slug '{document.slug}' belongs to {self.owner} that ships with the product."
                " Give the document another."
            )
        return document

    def _next(self, at, slug: str) -> tuple[V | None, int]:
        """The draft that waits, and the number of the next version."""
        # one at a time: a first version has no row to lock
        School.objects.select_for_update().get(pk=at.pk)
        versions = self.versions.objects.filter(school=at, slug=slug)
        newest = versions.first()
        number = newest.number + 1 if newest else 1
        return versions.filter(released_at__isnull=True).first(), number

    def _draft(self, at, slug: str, number: int, text: str, user) -> V:
        return self.versions.objects.create(
            school=at, slug=slug, number=number, text=text, made_by=user
        )


def numbered(text: str, number: int) -> str:
    """A document with its version's number; one that already carries it is given back the same."""
    return VERSION_LINE.sub(f'version = "{number}"', text, count=1)
