"""What a marker keeps at the bench: phrases, and who has which piece open."""

from django.db import models


class Phrase(models.Model):
    """Words a marker has written before, kept to be put in again by one key; the latest used come
    first.
    """

    user = models.ForeignKey("people.User", on_delete=models.CASCADE, related_name="phrases")
    words = models.CharField(max_length=300)
    used = models.PositiveIntegerField(default=1)
    used_at = models.DateTimeField()

    class Meta:
        ordering = ("-used_at",)
        constraints = [
            models.UniqueConstraint(fields=("user", "words"), name="one_phrase_of_its_words")
        ]


class Presence(models.Model):
    """Who has a piece on their bench, and when that was last heard of."""

    piece = models.ForeignKey(
        "assessment.Piece", on_delete=models.CASCADE, related_name="presences"
    )
    user = models.ForeignKey("people.User", on_delete=models.CASCADE)
    seen_at = models.DateTimeField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=("piece", "user"), name="one_presence_each")]
