"""Pictures sent to a brief: kept as sent, looked at in the background, sorted to pieces, or shown
to be sorted by hand.
"""

import hashlib
import re
from dataclasses import dataclass
from datetime import timedelta

from django.conf import settings
from django.core.files.base import ContentFile
from django.db import transaction
from django.utils import timezone
from procrastinate.contrib.django import app

from heath.assessment.models import Piece, View
from heath.assessment.photographs import add_photograph, as_rows, too_large
from heath.intake.matching import code_in, person_in, view_in
from heath.intake.models import Arrival
from heath.intake.quotas import no_room
from juniper.photograph import Photograph as Read
from juniper.photograph import UnusablePhotograph, read_with_copies

LOOK = "intake.look_at_arrival"  # the task that looks at an arrival in the background


def receive(
    brief, upload, user=None, link=None, said="", phone="", piece: Piece | None = None, view=""
) -> Arrival:
    """Keep a file as it was sent and set it to be looked at; a `view` that is given says from where
    it was taken or at which stage, a `piece` whose it is. What cannot be used is kept as such with
    its reason.
    """
    name = re.sub(r"[^\w .()\-]+", "_", (upload.name or "").rsplit("/", 1)[-1])[-160:]
    arrival = Arrival(
        brief=brief, link=link, name=name, said=said[:120], phone=phone, added_by=user
    )
    if view in View.values:
        arrival.view = view
    if piece is not None:
        arrival.piece, arrival.view, arrival.matched = piece, view, Arrival.By.HAND
    if words := too_large(upload.size) or no_room(brief.course.school, upload.size):
        arrival.state, arrival.reason = Arrival.State.FAILED, words
        arrival.save()
        return arrival
    data = upload.read()
    arrival.size = len(data)
    arrival.digest = hashlib.sha256(data).hexdigest()
    with transaction.atomic():
        arrival.file.save("sent", ContentFile(data), save=False)
        arrival.save()
        _look_later(arrival)
    return arrival


def _look_later(arrival):
    # Several views of one piece that do not say which they are take the brief's views in the order
    # they came in.
    in_order = len(arrival.brief.views) > 1 and not (arrival.view or view_in(arrival.name))
    lock = f"arrivals of brief {arrival.brief_id}" if in_order else None
    app.configure_task(LOOK, lock=lock).defer(arrival_id=arrival.pk)


def sort_arrival(pk: int) -> None:
    """Read an arrival, find whose it is and hand it on. Safe to run again: what is sorted stays as
    it is. The picture is decoded before anything is locked.
    """
    arrival = Arrival.objects.filter(pk=pk, state=Arrival.State.WAITING).first()
    if arrival is None:
        return
    try:
        with arrival.file.open("rb") as file:
            data = file.read()
        read, found = read_with_copies(data, arrival.name)
        copies = found.made()
    except UnusablePhotograph as error:
        give_up_arrival(pk, str(error))
        return
    with transaction.atomic():
        waiting = Arrival.objects.select_for_update(of=("self",), skip_locked=True)
        arrival = waiting.filter(pk=pk, state=Arrival.State.WAITING).first()
        if arrival is not None:
            arrival.advice = as_rows(read.advice)
            arrival.thumb.save("thumb.jpg", ContentFile(copies["thumb"]), save=False)
            _sort(arrival, Picture(data, read, copies))


@dataclass(frozen=True)
class Picture:
    """A picture as it was sent, read, and copied to each size."""

    data: bytes
    read: Read
    copies: dict[str, bytes]


def _sort(arrival: Arrival, picture: Picture) -> None:
    """Hand an arrival on to its piece, or keep it to be sorted by hand."""
    if arrival.matched == Arrival.By.HAND and arrival.piece is not None:
        _hand_on(arrival, arrival.piece, picture)
        return
    twin = _twin(arrival)
    if twin is not None:
        arrival.state, arrival.reason = Arrival.State.DUPLICATE, "This picture was sent before."
        arrival.piece, arrival.photograph = twin.piece, twin.photograph
        arrival.save()
        return
    arrival.view = arrival.view or view_in(arrival.name)
    card = picture.read.card
    piece, arrival.matched = _whose(arrival, card.code if card else None)
    by_words = arrival.matched != Arrival.By.CARD
    if piece is not None and by_words and (words := _in_the_way(arrival, piece)):
        piece, arrival.matched, arrival.reason = None, "", words
    if piece is None:
        arrival.state = Arrival.State.UNMATCHED
        arrival.save()
        return
    _hand_on(arrival, piece, picture)


def let_originals_go() -> int:
    """Remove pictures as they were sent, with whatever they tell of places, that nobody sorted
    within the time set; how many.
    """
    old = Arrival.objects.exclude(file="").exclude(state=Arrival.State.WAITING)
    gone = list(old.filter(added_at__lt=timezone.now() - timedelta(days=settings.ORIGINALS_DAYS)))
    for arrival in gone:
        arrival.file.delete(save=False)
        if arrival.state == Arrival.State.UNMATCHED:
            arrival.state = Arrival.State.FAILED
            arrival.reason = (
                f"Nobody sorted it within {settings.ORIGINALS_DAYS} days, so that it was removed."
                " Send it again if it is needed."
            )
        arrival.save()
    return len(gone)


def give_up_arrival(pk: int, words: str) -> None:
    """Call a picture that cannot be worked on so, with words for the person; one that is settled
    stays as it is.
    """
    Arrival.objects.filter(pk=pk, state=Arrival.State.WAITING).update(
        state=Arrival.State.FAILED, reason=words
    )


def _fail(arrival, words):
    arrival.state, arrival.reason = Arrival.State.FAILED, words
    arrival.save()


def _twin(arrival):
    settled = (Arrival.State.SORTED, Arrival.State.UNMATCHED)
    return (
        arrival.brief.arrivals.filter(digest=arrival.digest, state__in=settled)
        .exclude(pk=arrival.pk)
        .first()
    )


def _whose(arrival, code) -> tuple[Piece | None, str]:
    """The piece a picture shows and how that is known: by card, then what the student wrote, then
    file name.
    """
    pieces = {p.pk: p for p in arrival.brief.pieces.select_related("student")}
    by_code = {p.code: p for p in pieces.values()}
    if code:
        # A card of another brief says plainly that it is none of these.
        return (by_code[code], str(Arrival.By.CARD)) if code in by_code else (None, "")
    people = {pk: p.student.name for pk, p in pieces.items()}
    for text, how in (
        (arrival.said, str(Arrival.By.SAID)),
        (arrival.name.rsplit(".", 1)[0], str(Arrival.By.NAME)),
    ):
        written = code_in(text)
        if written in by_code:
            return by_code[written], how
        found = person_in(text, people)
        if found is not None:
            return pieces[found], how
    return None, ""


def _in_the_way(arrival, piece: Piece) -> str:
    """Why a picture is not given to the piece that only a name tells, or ''. What anybody may write
    on a picture displaces no photograph and opens no mark again: the instructor sorts it.
    """
    view = arrival.view or _free_view(piece)
    if piece.state in (Piece.State.MARKED, Piece.State.RETURNED):
        return (
            f"The file is named for {piece.shown_name}, whose piece is marked already. Sort it"
            " if it should replace the other photograph."
        )
    if piece.photographs.filter(current=True, view=view).exists():
        return (
            f"The file is named for {piece.shown_name}, who has a photograph of this view"
            " already. Sort it if it should replace that one."
        )
    return ""


def _free_view(piece: Piece) -> str:
    """The first view the brief asks for that has no photograph yet; the front when all are
    there.
    """
    have = set(piece.photographs.filter(current=True).values_list("view", flat=True))
    asked = (v for v in View.values if v in piece.brief.views and v not in have)
    return next(asked, str(View.FRONT))


def _hand_on(arrival: Arrival, piece: Piece, picture: Picture) -> None:
    piece = Piece.objects.select_for_update().get(pk=piece.pk)
    arrival.view = arrival.view or _free_view(piece)
    try:
        photograph, remark = add_photograph(
            piece,
            picture.data,
            arrival.name,
            arrival.added_by,
            arrival.view,
            picture.read,
            picture.copies,
        )
    except UnusablePhotograph as error:
        _fail(arrival, str(error))
        return
    arrival.piece, arrival.photograph, arrival.reason = piece, photograph, remark
    arrival.state = Arrival.State.SORTED
    arrival.save()
    sent = arrival.file.name
    Arrival.objects.filter(pk=arrival.pk).update(file="")
    transaction.on_commit(lambda: arrival.file.storage.delete(sent))


def sort_by_hand(arrival: Arrival, piece: Piece, view: str) -> Arrival:
    """Give a picture that could not be matched to a piece; it is handed on in the background."""
    with transaction.atomic():
        arrival = Arrival.objects.select_for_update().get(pk=arrival.pk)
        if arrival.state != Arrival.State.UNMATCHED:
            return arrival
        arrival.matched, arrival.view, arrival.reason = Arrival.By.HAND, view, ""
        arrival.piece, arrival.state = piece, Arrival.State.WAITING
        arrival.save()
        _look_later(arrival)
    return arrival


def try_again(arrival: Arrival) -> Arrival:
    """Look at a failed picture once more."""
    with transaction.atomic():
        arrival = Arrival.objects.select_for_update().get(pk=arrival.pk)
        if arrival.state == Arrival.State.FAILED and arrival.file:
            arrival.state, arrival.reason = Arrival.State.WAITING, ""
            arrival.save()
            _look_later(arrival)
    return arrival


def put_aside(arrival: Arrival) -> Arrival:
    """Take a picture that is none of the pieces, or cannot be used, off the list."""
    with transaction.atomic():
        arrival = Arrival.objects.select_for_update().get(pk=arrival.pk)
        if arrival.state in (
            Arrival.State.UNMATCHED,
            Arrival.State.FAILED,
            Arrival.State.DUPLICATE,
        ):
            arrival.state = Arrival.State.DROPPED
            arrival.save()
    return arrival
