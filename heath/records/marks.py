"""Which marks records speak of."""

from __future__ import annotations

from collections.abc import Sequence

from django.db.models import Q

from heath.assessment.models import GIVEN


def named(way: str = "") -> Q:
    """Pieces whose makers' names may be seen, as names are not hidden or the marks are locked;
    `way` leads from the records asked for to the piece, such as "piece__".
    """
    return Q(**{f"{way}brief__names_hidden": False}) | Q(
        **{f"{way}brief__locked_at__isnull": False}
    )


def given_marks(courses: Sequence[int]) -> Q:
    """The given marks of some classes, by number: of briefs that are not deleted and whose makers'
    names may be seen.
    """
    return named("piece__") & Q(
        piece__brief__course__in=courses, piece__brief__deleted_at=None, piece__state__in=GIVEN
    )
