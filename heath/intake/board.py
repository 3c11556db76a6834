"""What the intake page shows of a brief: progress, what is to be sorted, what failed, and each
piece's views.
"""

from heath.assessment.models import Piece, View
from heath.intake.models import Arrival


def board(brief) -> dict:
    """Context of the intake page's changing part."""
    arrivals = list(
        brief.arrivals.exclude(state=Arrival.State.DROPPED).select_related(
            "piece__student", "photograph"
        )
    )
    by = {state: [a for a in arrivals if a.state == state] for state in Arrival.State.values}
    pieces = list(
        brief.pieces.select_related("student", "brief")
        .prefetch_related("photographs")
        .order_by(brief.order)
    )
    measuring = sum(p.state == Piece.State.MEASURING for p in pieces)
    done = len(arrivals) - len(by["waiting"])
    return {
        "brief": brief,
        "pieces": pieces,
        "all": len(arrivals),
        "done": done,
        "waiting": by["waiting"],
        "unmatched": by["unmatched"],
        "failed": by["failed"],
        "duplicates": by["duplicate"],
        "sorted": by["sorted"],
        "without": [p for p in pieces if p.photograph is None and not p.has_others],
        "measuring": measuring,
        "busy": bool(by["waiting"]) or measuring > 0,
        "with_front": sum(p.photograph is not None for p in pieces),
        "view_choices": View.choices,
    }
