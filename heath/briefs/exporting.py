"""The marks of a brief as a table."""

from __future__ import annotations

from django.utils import timezone

from heath.assessment.models import Piece
from heath.web.names import FAMILY_NAMES
from juniper.rules import FAMILIES

HEAD = (
    "Student",
    "Piece",
    "State",
    "Mark of 100",
    "Uncertainty",
    "Passed",
    "Award",
    *(FAMILY_NAMES[f] for f in FAMILIES),
    "Set by hand",
    "Waived",
    "Rule set",
    "Version",
    "Marked by",
    "Marked at",
    "Sheet",
    "Own link",
)


def rows(brief, pieces: list[Piece], link) -> list[tuple]:
    """One row for each piece, in HEAD's order; `link` gives the address of a returned piece's own
    sheet. Cells without a value are ''.
    """
    return [_row(brief, piece, link) for piece in pieces]


def _row(brief, piece: Piece, link) -> tuple:
    mark = getattr(piece, "mark", None)
    if mark is None or piece.state not in (Piece.State.MARKED, Piece.State.RETURNED):
        blank = [""] * (len(HEAD) - 3)
        return (piece.shown_name, piece.shown_code, piece.get_state_display(), *blank)
    verdict, groups = mark.verdict, mark.verdict.get("groups", {})
    said = [o for o in piece.overrides.all() if not o.taken_back]
    return (
        piece.shown_name,
        piece.shown_code,
        piece.get_state_display(),
        "" if mark.score is None else round(mark.score, 1),
        verdict.get("uncertainty", ""),
        (
            ""
            if mark.score is None
            else "yes"
            if round(mark.score) >= float(brief.pass_mark)
            else "no"
        ),
        verdict.get("award", ""),
        *("" if groups.get(f) is None else groups[f] for f in FAMILIES),
        sum(o.score is not None for o in said),
        sum(o.score is None for o in said),
        mark.rule_set,
        mark.rule_set_version,
        mark.accepted_by.shown_name if mark.accepted_by else "",
        timezone.localtime(mark.accepted_at).strftime("%Y-%m-%d %H:%M"),
        piece.latest_sheet_version() or "",
        link(piece) if piece.state == Piece.State.RETURNED else "",
    )
