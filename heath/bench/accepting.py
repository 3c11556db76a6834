"""Accepting a piece's marks as they stand."""

from django.db import transaction

from heath.bench.models import Mark
from heath.bench.reading import read
from heath.intake.models import Piece
from juniper import VERSION
from juniper.cli import verdict_document


def accept_marks(piece: Piece, user) -> Mark:
    """Keep the piece's mark under the rule-set and core version in force, by whom and when."""
    reading = read(piece)
    verdict = reading.verdict
    with transaction.atomic():
        mark, _ = Mark.objects.update_or_create(
            piece=piece,
            defaults={
                "photograph": reading.photograph,
                "rule_set": verdict.rule_set.slug,
                "rule_set_version": verdict.rule_set.version,
                "core_version": VERSION,
                "score": verdict.score,
                "verdict": verdict_document(verdict) | {"award": verdict.award},
                "accepted_by": user,
            },
        )
        piece.state = Piece.State.MARKED
        piece.save(update_fields=["state"])
    return mark
