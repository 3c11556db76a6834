"""Adding a photograph to a piece, and measuring it in the background."""

import hashlib
from dataclasses import replace
from functools import partial

from django.core.files.base import ContentFile
from django.db import transaction
from procrastinate.contrib.django import app
from pydantic import TypeAdapter

from heath.assessment.models import Photograph, Piece, View
from heath.web.files import delete_unused
from juniper import VERSION
from juniper.assessment import Analysis, analyse
from juniper.measures import surface_of
from juniper.photograph import (
    LARGEST_BYTES,
    RENDITIONS,
    Card,
    UnusablePhotograph,
    read_photograph,
    read_with_copies,
)
from juniper.photograph import Photograph as Read
from juniper.scene import CutOut, Datum, NothingFound, given_datum
from juniper.steadiness import seen_again, steadied

CARD = TypeAdapter(Card)
MEASURE = "assessment.measure_photograph"  # the task that sees a photograph in the background


def too_large(size: int) -> str:
    """What to say of a file of so many bytes, or ''."""
    if size <= LARGEST_BYTES:
        return ""
    return (
        f"The file has {size / 1e6:.0f} MB; {LARGEST_BYTES // 1_000_000} MB is the most. "
        "Save the photograph at a lower quality and add it again."
    )


def as_rows(advice) -> list[dict]:
    """Advice as it is kept."""
    return [{"code": a.code, "text": a.text, "measured": a.measured, "use": a.use} for a in advice]


def as_row(card) -> dict | None:
    """What is kept of a reference card."""
    if card is None:
        return None
    return CARD.dump_python(card, mode="json")


def card_of(photograph: Photograph) -> Card | None:
    """The reference card that was found when a photograph came, in its pixels; None without one, or
    where only its scale was kept.
    """
    row = photograph.card
    return CARD.validate_python(row) if row and "corners" in row else None


LOCKED = (
    "The marks of this brief are locked. Unlock them on the brief's Return page, then try again."
)


def add_photograph(
    piece: Piece,
    data: bytes,
    name: str,
    user,
    view=View.FRONT,
    read: Read | None = None,
    copies: dict[str, bytes] | None = None,
) -> tuple[Photograph, str]:
    """Keep a photograph of one view and set it to be measured: (photograph, remark for the person).

    Two that arrive at once are both kept; the later is the one in force. `read` and `copies` may be
    given when the bytes were read and copied already. Raises UnusablePhotograph with a sentence for
    the person; nothing is changed then.
    """
    if read is None or copies is None:
        read, found = read_with_copies(data, name)
        copies = found.made()
    photo = read
    digest = hashlib.sha256(data).hexdigest()
    shrink = min(1.0, RENDITIONS["full"][0] / max(photo.width, photo.height))
    with transaction.atomic():
        piece = Piece.objects.select_for_update().get(pk=piece.pk)
        if piece.brief.locked_at:
            raise UnusablePhotograph(LOCKED)
        same = piece.photographs.filter(digest=digest, view=view, fault="").first()
        if same and same.current:
            return same, "This photograph is here already. Nothing was changed."
        replaced = piece.photographs.filter(current=True, view=view).update(current=False)
        if same:
            same.current = True
            same.save(update_fields=["current"])
            update_state(piece)
            return (same, "An earlier photograph of this piece is used again, with its marks.")
        new = Photograph(
            piece=piece,
            view=view,
            width=round(photo.width * shrink),
            height=round(photo.height * shrink),
            digest=digest,
            taken=photo.taken or "",
            camera=photo.camera or "",
            focal=photo.focal,
            card=as_row(photo.card and photo.card.scaled(shrink)),
            advice=as_rows(photo.advice),
            added_by=user,
        )
        new.size = sum(map(len, copies.values()))
        for step, copy in copies.items():
            getattr(new, step).save("copy.jpg", ContentFile(copy), save=False)
        new.save()
        update_state(piece)
        app.configure_task(MEASURE).defer(photograph_id=new.pk)
    return new, "The new photograph is used now; the earlier one is kept." if replaced else ""


def update_state(piece: Piece):
    """Bring a piece's state in line with its front photograph. Marks already accepted stay as they
    are.
    """
    front = Photograph.objects.filter(piece=piece, view=View.FRONT, current=True).first()
    if front is None:
        state = Piece.State.WAITING
    elif front.fault:
        state = Piece.State.FAILED
    elif not front.scene:
        state = Piece.State.MEASURING
    elif (
        piece.state in (Piece.State.MARKED, Piece.State.RETURNED)
        and piece.mark.photograph_id == front.pk
    ):
        return
    else:
        state = Piece.State.MARKING
    if state != piece.state:
        piece.state, piece.reopened = state, False
        piece.save(update_fields=["state", "reopened"])


def remove_photograph(photograph: Photograph):
    """Take a photograph out of force. It and what was marked on it are kept, and come back when it
    is added again. Raises UnusablePhotograph where the marks are locked.
    """
    with transaction.atomic():
        piece = Piece.objects.select_for_update().get(pk=photograph.piece_id)
        if piece.brief.locked_at:
            raise UnusablePhotograph(LOCKED)
        Photograph.objects.filter(pk=photograph.pk).update(current=False)
        update_state(piece)


def see_photograph(photograph: Photograph, cutout: CutOut | None = None) -> bool:
    """Find the piece in a photograph and keep what was found, with the second engine when it is
    given. Safe to run again.

    Says whether the outline is so doubtful that the second engine is worth its time.
    """
    fault, raster_file, advice, doubtful = "", None, None, False
    try:
        # The kept copy has no metadata; the focal length was noted when the picture was added.
        read = kept_copy(photograph)
        seen = _seen(photograph, read, cutout)
        # The kept copy has no metadata: what the file as sent said of itself was noted when it was
        # added.
        framed = tuple(a for a in seen.advice if a.code in FRAMING)
        advice = [a for a in photograph.advice if a["code"] not in FRAMING] + as_rows(framed)
        photograph.keep_scene(seen.scene)
        doubtful = seen.scene.doubtful
        photograph.raster_scale = seen.raster.scale
        raster_file = ContentFile(seen.raster.packed())
    except (UnusablePhotograph, NothingFound) as error:
        fault = str(error)
    with transaction.atomic():
        piece = Piece.objects.select_for_update().get(pk=photograph.piece_id)
        if raster_file is not None:
            photograph.raster.save("raster.png", raster_file, save=False)
            photograph.advice = advice
        photograph.fault = fault if photograph.view == View.FRONT else ""
        photograph.core_version = VERSION
        photograph.save(
            update_fields=["scene", "raster", "raster_scale", "fault", "advice", "core_version"]
        )
        photograph.arrivals.update(advice=photograph.advice)
        update_state(piece)
    return doubtful


def kept_copy(photograph: Photograph) -> Read:
    """The kept copy of a photograph, with the card and the focal length that were found when it
    came. Raises UnusablePhotograph.
    """
    with photograph.full.open("rb") as file:
        data = file.read()
    card = card_of(photograph)
    # Of cards that came before all of them was kept, only the scale is known: they are searched for
    # again.
    read = read_photograph(data, judge=bool(photograph.card and card is None), card=card)
    return replace(read, focal=photograph.focal)


def _told(photograph: Photograph) -> dict:
    """What is known of a photograph's container before it is looked at, and from where it is
    seen.
    """
    brief = photograph.piece.brief
    stands = None if brief.several else brief.shelf_container
    return {
        "known": stands.container_shape if stands else None,
        # A vessel of the student's own is not as high as the brief has it.
        "container_height_cm": float(brief.container_height_cm) if stands else None,
        "view": photograph.view,
        "vessels": len(brief.vessels) if brief.several else 1,
        "kind": brief.kind,
        "fall": float(brief.container_height_cm) / float(brief.container_width_cm),
    }


def _seen(photograph: Photograph, read: Read, cutout: CutOut | None) -> Analysis:
    """What is seen in a photograph; by the datum that a person drew where none is found. Raises
    NothingFound.
    """
    told = _told(photograph) | {"cutout": cutout}
    try:
        return analyse(read, **told)
    except NothingFound:
        drawn = _drawn(photograph)
        if drawn is None:
            raise
        return analyse(read, given=drawn, **told)


def look_again(photograph: Photograph) -> None:
    """Look at a photograph again under small changes, and keep with what was seen how steadily it
    is. Nothing else of it changes.
    """
    read, scene, raster = kept_copy(photograph), photograph.core_scene(), photograph.core_raster()
    again = seen_again(read, **_told(photograph))
    seen = steadied(
        Analysis(read, scene, raster, surface_of(raster), ()),
        photograph.piece.brief.as_core(),
        again,
    )
    with transaction.atomic():
        now = Photograph.objects.select_for_update(of=("self",)).get(pk=photograph.pk)
        if not now.current or now.raster.name != photograph.raster.name:
            return  # another look was faster
        now.keep_scene(seen.scene)
        # What is kept of a scene elsewhere is known by the raster's name.
        old = now.raster.name
        now.raster.save("raster.png", ContentFile(raster.packed()), save=False)
        now.save(update_fields=["scene", "raster"])
        transaction.on_commit(partial(delete_unused, Photograph, "raster", old))


def give_up_photograph(pk: int, words: str) -> None:
    """Call a photograph that cannot be measured so, with words for the person; one that was seen
    before stays as it was seen.
    """
    with transaction.atomic():
        photograph = Photograph.objects.select_related("piece").filter(pk=pk).first()
        if photograph is None or photograph.scene:
            return
        piece = Piece.objects.select_for_update().get(pk=photograph.piece_id)
        photograph.fault = words
        photograph.save(update_fields=["fault"])
        update_state(piece)


def _drawn(photograph: Photograph) -> Datum | None:
    """The datum that a person drew over a picture in which none is found; None where none was
    drawn.
    """
    last = photograph.corrections.filter(kind="container", undone=False).last()
    return given_datum(**last.places) if last else None


FRAMING = ("cut-off", "small", "crowded", "roll", "above", "below", "vessels")
