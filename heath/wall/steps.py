"""What is to be done next with a piece on the wall, and which filter shows it."""

from __future__ import annotations

from dataclasses import dataclass

from django.urls import reverse

from heath.assessment.models import Flag, Piece, PieceSnapshot

State = Piece.State
ONLY = (
    ("", "all"),
    ("marking", "to mark"),
    ("flagged", "flagged"),
    ("marked", "marked"),
    ("returned", "returned"),
    ("waiting", "no photograph"),
)
WITHOUT = (State.WAITING, State.MEASURING, State.FAILED)


@dataclass(frozen=True)
class Step:
    """The one next step with a piece: what it says, and where it leads; `post` where it changes
    something.
    """

    words: str
    to: str = ""
    post: bool = False


def flags(piece: Piece, snapshot: PieceSnapshot | None) -> tuple[str, ...]:
    """Why a piece needs a look before its mark is trusted, in words; a mark that was given is
    trusted, but for what can hurt somebody.
    """
    if snapshot is None:
        return ()
    open_ = not piece.is_closed
    return tuple(str(Flag(name).label) for name in snapshot.flags if open_ or name == Flag.SAFETY)


def shown_by(only: str, piece: Piece, snapshot: PieceSnapshot | None) -> bool:
    """Whether a piece is shown by one of the filters in ONLY."""
    if only == "flagged":
        return bool(flags(piece, snapshot)) or piece.state == State.FAILED
    return not only or piece.state == only or (only == "waiting" and piece.state in WITHOUT)


def step(piece: Piece, snapshot: PieceSnapshot | None, instructs: bool) -> Step:
    """The one next step with a piece for somebody who may return sheets (`instructs`) or not."""
    if piece.state == State.FAILED:
        return Step("Show the container", reverse("draw-container", args=[piece.pk]))
    if piece.state == State.RETURNED and not piece.reopened:
        return Step("Return sheet", reverse("sheet", args=[piece.pk]))
    if (
        piece.state == State.MARKED
        and instructs
        and not (piece.reopened or piece.brief.hides_names)
    ):
        return Step("Return", reverse("return", args=[piece.pk]), post=True)
    words = _at_the_bench(piece, snapshot)
    return Step(words, reverse("bench", args=[piece.pk]) if words else "")


def _at_the_bench(piece: Piece, snapshot: PieceSnapshot | None) -> str:
    """What is to be done with a piece on the bench; '' where it cannot go there yet."""
    raised = snapshot.flags if snapshot and not piece.is_closed else []
    if piece.reopened:
        return "Give the new mark"
    if piece.state == State.MARKED:
        return "Open on the bench"
    if piece.state != State.MARKING:
        return ""
    if Flag.HANDLES in raised:
        return "Check the handles"
    return "Answer the question" if Flag.QUESTION in raised else "Mark"
