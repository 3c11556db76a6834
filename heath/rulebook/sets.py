"""Rule sets that a school may be marked by: the shipped ones, and its own in their versions."""

from __future__ import annotations

import re
from dataclasses import dataclass, replace
from typing import Any

from heath.rulebook.models import RuleSetVersion
from heath.rulebook.versions import RELEASED, DocumentKind
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

SHORTEST, LONGEST = 5, 400  # letters of a sentence
SENTENCES = {
    "taught": "As it is taught",
    "why": "The reason",
    "below": "What to do under the band",
    "above": "What to do over the band",
}
BLANKS = {"value", "low", "high", "cm", "side", "other", "swap"}


RULE_SETS = DocumentKind(
    versions=RuleSetVersion,
    slugs=school_slugs,
    shipped=school,
    read=read_rule_set,
    write=write_rule_set,
    faulty=FaultyRuleSet,
    names="rule_set",
    noun="rule set",
    owner="a school",
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
        raise ValueError(RELEASED)
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
