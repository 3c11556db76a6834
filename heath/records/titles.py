"""What rules are called and why they are taught, whichever set a mark was given under."""

from __future__ import annotations

from heath.people.models import School
from heath.rulebook.models import RuleSetVersion
from juniper.rules import Rule, school, school_slugs


def known_rules(at: School) -> dict[str, Rule]:
    """All rules by code that a school may mark by: the shipped ones, and in their place those of
    its own sets, the newest release first.
    """
    rules = {rule.code: rule for slug in school_slugs() for rule in school(slug).rules}
    own = RuleSetVersion.objects.filter(school=at, released_at__isnull=False).order_by("number")
    return rules | {rule.code: rule for version in own for rule in version.rule_set.rules}
