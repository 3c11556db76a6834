"""Patterns: how pieces are built up, as documents that plan, student's list and mark all read."""

from juniper.patterns.document import (
    HOLDINGS,
    STAGES,
    FaultyPattern,
    Mechanic,
    Pattern,
    PatternStem,
    PatternStep,
    pattern_slugs,
    read_pattern,
    shipped_pattern,
    usual_pattern,
    write_pattern,
)

__all__ = [
    "HOLDINGS",
    "STAGES",
    "FaultyPattern",
    "Mechanic",
    "Pattern",
    "PatternStem",
    "PatternStep",
    "pattern_slugs",
    "read_pattern",
    "shipped_pattern",
    "usual_pattern",
    "write_pattern",
]
