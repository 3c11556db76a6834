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
    return tuple(
        str(Flag(name).label) for name in snapshot.flags if open_ or name == Flag.SAFETY
    )


def shown_by(only: str, piece: Piece, snapshot: PieceSnapshot | None) -> bool:
    """Whether a piece is shown by one of the filters in ONLY."""
    if only == "flagged":
        return bool(flags(piece, snapshot)) or piece.state == State.FAILED
    return not only or piece.state == only or (only == "waiting" and piece.state in WITHOUT)


def step(piece: Piece, snapshot: PieceSnapshot | None, instructs: bool) -> Step:
    """The one next step with a piece for somebody who may return sheets (`instructs`) or not."""
    bench = reverse("bench", args=[piece.pk])
    raised = snapshot.flags if snapshot and not piece.is_closed else []
    if piece.state == State.FAILED:
        return Step("Show the container", reverse("draw-container", args=[piece.pk]))
    if piece.reopened:
        return Step("Give the new mark", bench)
    if piece.state == State.MARKING and Flag.HANDLES in raised:
        return Step("Check the handles", bench)
    if piece.state == State.MARKING and Flag.QUESTION in raised:
        return Step("Answer the question", bench)
    if piece.state == State.MARKING:
        return Step("Mark", bench)
    if piece.state == State.MARKED and instructs and not piece.brief.hides_names:
        return Step("Return", reverse("return", args=[piece.pk]), post=True)
    if piece.state == State.MARKED:
        return Step("Open on the bench", bench)
    if piece.state == State.RETURNED:
        return Step("Return sheet", reverse("sheet", args=[piece.pk]))
    return Step("")
