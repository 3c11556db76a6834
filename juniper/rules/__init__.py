"""Taught rules: bands, rule sets, verdicts and advice."""

from juniper.rules.band import Band
from juniper.rules.document import (
    FAMILIES,
    FORMS,
    VIEWPOINTS,
    Brief,
    FaultyRuleSet,
    Rule,
    RuleSet,
    read_rule_set,
    school,
    school_slugs,
)
from juniper.rules.verdict import Line, NextCut, Override, Verdict, band_words, judge

__all__ = [
    "FAMILIES",
    "FORMS",
    "VIEWPOINTS",
    "Band",
    "Brief",
    "FaultyRuleSet",
    "Line",
    "NextCut",
    "Override",
    "Rule",
    "RuleSet",
    "Verdict",
    "band_words",
    "judge",
    "read_rule_set",
    "school",
    "school_slugs",
]
