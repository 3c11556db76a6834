"""Rule sets that a school may be marked by: the shipped ones, and its own in their versions."""

from __future__ import annotations

import re
from dataclasses import dataclass, replace
from typing import Any

from django.db import transaction
from django.utils import timezone

from heath.people.models import School
from heath.rulebook.models import RuleSetVersion
from juniper.rules import (
    Band,
    FaultyRuleSet,
    RuleSet,
    read_rule_set,
    school,
    school_slugs,
    write_rule_set,
)
from juniper.rules.written import band_words

LARGEST = 200_000  # letters of a document
SHORTEST, LONGEST = 5, 400  # letters of a sentence
SENTENCES = {
    "taught": "As it is taught",
    "why": "The reason",
    "below": "What to do under the band",
    "above": "What to do over the band",
}
BLANKS = {"value", "low", "high", "cm", "side", "other", "swap"}
VERSION_LINE = re.compile(r"^version\s*=.*$", re.MULTILINE)


def released(at, slug: str, number: int | None = None) -> RuleSetVersion | None:
    """A released version of a school's own rule set: that one, or the newest."""
    found = RuleSetVersion.objects.filter(school=at, slug=slug, released_at__isnull=False)
    return (found.filter(number=number) if number else found).first()


def in_force(at, slug: str, number: int | None = None) -> RuleSet:
    """The rule set of a slug at a school. Raises KeyError when there is none."""
    if slug in school_slugs():
        return school(slug)
    own = released(at, slug, number)
    if own is None:
        raise KeyError(slug)
    return own.rule_set


def choices(at) -> list[tuple[str, str]]:
    """Slug and name of every rule set a brief may be held against."""
    own = {
        v.slug: f"{v.rule_set.name} (own, version {v.number})"
        for v in RuleSetVersion.objects.filter(school=at, released_at__isnull=False).order_by(
            "number"
        )
    }
    return [(s, school(s).name) for s in school_slugs()] + sorted(own.items())


def draft_of(at, rule_set: RuleSet, user) -> RuleSetVersion:
    """A draft to edit, made from a rule set: the next version of the school's own, or the first of
    a copy of a shipped one.

    A draft that is already there is given back, so that nothing that was typed is lost.
    """
    slug, name = rule_set.slug, rule_set.name
    if slug in school_slugs():
        slug, name = f"{slug}-own"[:62], f"{name}, our own"[:80]
    with transaction.atomic():
        # one at a time: a first version has no row to lock
        School.objects.select_for_update().get(pk=at.pk)
        versions = RuleSetVersion.objects.filter(school=at, slug=slug)
        waiting = versions.filter(released_at__isnull=True).first()
        if waiting:
            return waiting
        number = (versions.first().number if versions.exists() else 0) + 1
        text = write_rule_set(replace(rule_set, slug=slug, name=name, version=str(number)))
        return RuleSetVersion.objects.create(
            school=at, slug=slug, number=number, text=text, made_by=user
        )


def taken_in(at, text: str, user) -> RuleSetVersion:
    """A draft from a document that was brought in. Raises FaultyRuleSet, which says what is
    wrong and on which line.
    """
    if len(text) > LARGEST:
        raise FaultyRuleSet(f"The document has {len(text)} letters; {LARGEST} is the most.")
    rule_set = read_rule_set(text)
    if rule_set.slug in school_slugs():
        raise FaultyRuleSet(
            f"The slug '{rule_set.slug}' belongs to a school that ships with the product. Give the"
            " document another."
        )
    with transaction.atomic():
        # one at a time: a first version has no row to lock
        School.objects.select_for_update().get(pk=at.pk)
        versions = RuleSetVersion.objects.filter(school=at, slug=rule_set.slug)
        waiting = versions.filter(released_at__isnull=True).first()
        if waiting:
            raise FaultyRuleSet(
                f"A draft of version {waiting.number} of '{rule_set.slug}' waits: release it or"
                " discard it first, then bring this one."
            )
        number = (versions.first().number if versions.exists() else 0) + 1
        # Kept as it came, when it already carries its number, so that it is given back the same.
        kept = VERSION_LINE.sub(f'version = "{number}"', text, count=1)
        return RuleSetVersion.objects.create(
            school=at, slug=rule_set.slug, number=number, text=kept, made_by=user
        )


def changed(
    draft: RuleSetVersion,
    code: str,
    band: list[float] | None = None,
    weight: float | None = None,
    words: dict[str, str] | None = None,
) -> RuleSetVersion:
    """The draft with another band, weight or other sentences (by their names in SENTENCES) for one
    rule. Raises ValueError with a sentence for the user.
    """
    words = words or {}
    if draft.released_at:
        raise ValueError("A released version never changes. Make a new draft from it.")
    rule_set = draft.rule_set
    if code not in {r.code for r in rule_set.rules}:
        raise ValueError("This rule is not in the draft any more. Load the page again.")
    if weight is not None and not 0 <= weight <= 20:
        raise ValueError("A weight is 20 at most; 0 shows the rule and gives it no marks.")
    if weight == 0 and not any(r.weight for r in rule_set.rules if r.code != code):
        raise ValueError("One rule at least has to carry marks.")
    _check_words(words)
    new: dict[str, Any] = {"band": Band(*band) if band else None, "weight": weight, **words}
    rules = tuple(
        r if r.code != code else replace(r, **{k: v for k, v in new.items() if v is not None})
        for r in rule_set.rules
    )
    draft.text = write_rule_set(replace(rule_set, rules=rules))
    draft.save(update_fields=["text"])
    return draft


def _check_words(words: dict[str, str]) -> None:
    """Raises ValueError where a sentence is too short or long, or has a blank nobody fills."""
    for name, text in words.items():
        if name in ("taught", "why") and not SHORTEST <= len(text) <= LONGEST:
            raise ValueError(
                f"{SENTENCES[name]}: write {SHORTEST} letters at least and {LONGEST} at most."
            )
        if len(text) > LONGEST:
            raise ValueError(f"{SENTENCES[name]}: write {LONGEST} letters at most.")
        if name in ("below", "above"):
            blanks = set(re.findall(r"\{(.*?)\}", text)) - BLANKS
            if blanks:
                raise ValueError(
                    f"{SENTENCES[name]}: {{{sorted(blanks)[0]}}} is not known. Use"
                    f" {', '.join('{' + b + '}' for b in sorted(BLANKS))}."
                )


@dataclass(frozen=True)
class Difference:
    """What a draft changes in one rule: what it was and what it becomes, in words."""

    title: str
    what: str
    old: str
    new: str


def differences(draft: RuleSetVersion) -> list[Difference]:
    """What a draft changes against the version before it, or the shipped school it comes from."""
    before = _before(draft)
    if before is None:
        return []
    was = {r.code: r for r in before.rules}
    out = []
    for rule in draft.rule_set.rules:
        old = was.get(rule.code)
        if old is None:
            out.append(Difference(rule.title, "rule", "not there", "added"))
            continue
        if old.band != rule.band:
            words = (band_words(b, rule.unit) for b in (old.band, rule.band))
            out.append(Difference(rule.title, "band", *words))
        if old.weight != rule.weight:
            out.append(Difference(rule.title, "weight", f"{old.weight:g}", f"{rule.weight:g}"))
        out += [
            Difference(rule.title, title.lower(), getattr(old, name), getattr(rule, name))
            for name, title in SENTENCES.items()
            if getattr(old, name) != getattr(rule, name)
        ]
    left = set(was) - {r.code for r in draft.rule_set.rules}
    return out + [Difference(was[code].title, "rule", "there", "left out") for code in sorted(left)]


def _before(draft: RuleSetVersion) -> RuleSet | None:
    own = (
        RuleSetVersion.objects.filter(school=draft.school_id, slug=draft.slug)
        .filter(released_at__isnull=False, number__lt=draft.number)
        .first()
    )
    if own:
        return own.rule_set
    shipped = draft.slug.removesuffix("-own")
    return school(shipped) if shipped in school_slugs() else None


def release(draft: RuleSetVersion, briefs, why: str = "") -> None:
    """Release a draft, with the reason of its changes (`why`), and hold the given briefs against it
    from now on; marks that were given stay as they are.
    """
    with transaction.atomic():
        draft.released_at, draft.why = timezone.now(), why
        draft.save(update_fields=["released_at", "why"])
        for brief in briefs:
            brief.rule_set, brief.rule_set_version = draft.slug, draft.number
            brief.save(update_fields=["rule_set", "rule_set_version"])
