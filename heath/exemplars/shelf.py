"""What stands on the exemplar shelf, and putting pieces on it and off."""

from __future__ import annotations

from django.db import transaction

from heath.assessment.models import GIVEN, Piece
from heath.briefs.models import Brief
from heath.exemplars.models import Exemplar
from heath.people.policy import visible

HELD = 9.0  # of ten: a rule whose mark is no less is shown as held


def on_shelf(user, rule: str = "", award: str = ""):
    """The exemplars that a person may open now: allowed, with a mark, of a rule or an award where
    one is asked for.
    """
    found = visible(user, Exemplar).filter(
        state=Exemplar.State.ALLOWED, piece__state__in=GIVEN, piece__mark__isnull=False
    )
    if rule:
        found = found.filter(rules__contains=[rule])
    if award:
        found = found.filter(piece__mark__verdict__award=award)
    return found.select_related(
        "piece__brief__course", "piece__student__level", "piece__mark__photograph"
    )


def held_rules(piece: Piece) -> list[tuple[str, str]]:
    """Code and title of the rules that a marked piece held and that carry marks, the weightiest
    first.
    """
    lines = piece.mark.lines.filter(score__gte=HELD, share__gt=0).order_by("-share", "pk")
    return [(line.rule, line.title) for line in lines]


@transaction.atomic
def change_permission(exemplar: Exemplar, state: str, said: str = "") -> None:
    """Write down what the maker of a piece says: allowed or withdrawn. A piece whose permission is
    withdrawn is nobody's exemplar any more.
    """
    exemplar.state = state
    if said:
        exemplar.said = said
    exemplar.save(update_fields=["state", "said", "changed_at"])
    if state == Exemplar.State.WITHDRAWN:
        Brief.every.filter(exemplar=exemplar.piece_id).update(exemplar=None)
