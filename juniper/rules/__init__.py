"""Taught rules: bands, rule sets, verdicts and advice."""

from juniper.measures.catalogue import FAMILIES
from juniper.rules.advice import NextCut
from juniper.rules.band import Band
from juniper.rules.document import (
    DOMINANTS,
    FORMS,
    KINDS,
    VIEWPOINTS,
    Brief,
    BriefVessel,
    FaultyRuleSet,
    Rule,
    RuleSet,
    read_rule_set,
    school,
    school_slugs,
    write_rule_set,
)
from juniper.rules.verdict import ANSWERS, Ceiling, Group, Line, Override, Verdict, judge

__all__ = [
    "ANSWERS",
    "DOMINANTS",
    "FAMILIES",
    "FORMS",
    "KINDS",
    "VIEWPOINTS",
    "Band",
    "Brief",
    "BriefVessel",
    "Ceiling",
    "FaultyRuleSet",
    "Group",
    "Line",
    "NextCut",
    "Override",
    "Rule",
    "RuleSet",
    "Verdict",
    "judge",
    "read_rule_set",
    "school",
    "school_slugs",
    "write_rule_set",
]
