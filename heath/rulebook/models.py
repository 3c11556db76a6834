"""A school's own rule sets, version by version."""

from functools import lru_cache

from django.db import models

from juniper.patterns import Pattern, read_pattern
from juniper.rules import RuleSet, read_rule_set


@lru_cache(maxsize=64)
def _read(text: str) -> RuleSet:
    return read_rule_set(text)


@lru_cache(maxsize=64)
def _read_pattern(text: str) -> Pattern:
    return read_pattern(text)


class DocumentVersion(models.Model):
    """One version of a document that a school has made its own: a draft until it is released, and
    never changed after that. `why` is the reason for its changes, given at its release.
    """

    slug = models.CharField(max_length=62)
    number = models.PositiveIntegerField()
    text = models.TextField()
    why = models.CharField(max_length=400, blank=True)
    made_by = models.ForeignKey("people.User", on_delete=models.SET_NULL, null=True)
    made_at = models.DateTimeField(auto_now_add=True)
    released_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        abstract = True


class RuleSetVersion(DocumentVersion):
    """One version of a school's own rule set."""

    school = models.ForeignKey("people.School", on_delete=models.CASCADE, related_name="rule_sets")

    class Meta:
        ordering = ("slug", "-number")
        constraints = [
            models.UniqueConstraint(fields=("school", "slug", "number"), name="one_of_each_version")
        ]

    def __str__(self):
        return f"{self.rule_set.name}, version {self.number}"

    @property
    def document(self) -> RuleSet:
        """The rules as the core reads them."""
        return _read(self.text)

    rule_set = document


class PatternVersion(DocumentVersion):
    """One version of a school's own pattern."""

    school = models.ForeignKey("people.School", on_delete=models.CASCADE, related_name="patterns")

    class Meta:
        ordering = ("slug", "-number")
        constraints = [
            models.UniqueConstraint(
                fields=("school", "slug", "number"), name="one_of_each_pattern_version"
            )
        ]

    def __str__(self):
        return f"{self.pattern.name}, version {self.number}"

    @property
    def document(self) -> Pattern:
        """The pattern as the core reads it."""
        return _read_pattern(self.text)

    pattern = document
