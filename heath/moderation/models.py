"""Second markings: who marks which pieces again, unseen, and how differences were settled."""

from django.db import models


class Round(models.Model):
    """A second marking of a brief: a `share` of its marked pieces, drawn by `seed` and spread over
    high and low marks, goes to markers who did not mark them first; of each marker's own pieces
    `again` so many come back to them among the others.
    """

    brief = models.ForeignKey("briefs.Brief", on_delete=models.CASCADE, related_name="rounds")
    seed = models.PositiveIntegerField()
    share = models.FloatField()
    again = models.PositiveSmallIntegerField(default=0)
    made_by = models.ForeignKey("people.User", on_delete=models.SET_NULL, null=True)
    made_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("-pk",)


class SecondMark(models.Model):
    """One piece that is marked a second time: `copy` is a piece of its own, with the same
    photographs and nothing of what the first marker said. `again` where the marker is the first
    one.
    """

    round = models.ForeignKey(Round, on_delete=models.CASCADE, related_name="seconds")
    first = models.ForeignKey(
        "assessment.Piece", on_delete=models.CASCADE, related_name="second_marks"
    )
    copy = models.OneToOneField(
        "assessment.Piece", on_delete=models.CASCADE, related_name="second_of"
    )
    marker = models.ForeignKey("people.User", on_delete=models.CASCADE, related_name="second_marks")
    again = models.BooleanField(default=False)

    class Meta:
        ordering = ("pk",)


class Settlement(models.Model):
    """How two marks of one piece were settled: the mark that is in force then (of 100), the reason,
    and what the first and the second marker gave, which both are kept.
    """

    second = models.ForeignKey(SecondMark, on_delete=models.CASCADE, related_name="settlements")
    mark = models.FloatField()
    first_mark = models.FloatField()
    second_mark = models.FloatField()
    first_verdict = models.JSONField()
    reason = models.CharField(max_length=300)
    made_by = models.ForeignKey("people.User", on_delete=models.SET_NULL, null=True)
    made_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("pk",)
