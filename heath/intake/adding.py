"""Adding a photograph to a piece, and measuring it in the background."""

import hashlib

from django.core.files.base import ContentFile
from django.db import transaction

from heath.intake.models import Photograph, Piece
from juniper import VERSION
from juniper.photograph import LARGEST_BYTES, UnusablePhotograph, derivative, read_photograph
from juniper.scene import NothingFound, see

FULL_SIDE = 4800
SCREEN_SIDE = 1600


def read_upload(upload) -> bytes:
    """The bytes of an uploaded file. Raises UnusablePhotograph before reading one that is too large."""
    if upload.size > LARGEST_BYTES:
        raise UnusablePhotograph(
            f"The file has {upload.size / 1e6:.0f} MB; {LARGEST_BYTES // 1_000_000} MB is the most. "
            "Save the photograph at a lower quality and add it again."
        )
    return upload.read()


def add_photograph(piece: Piece, data: bytes, name: str, user) -> tuple[Photograph, str]:
    """Keep a photograph and set it to be measured: (photograph, remark for the person).

    Two that arrive at once are both kept; the later is the one in force. Raises
    UnusablePhotograph with a sentence for the person; nothing is changed then.
    """
    photo = read_photograph(data, name, side=480)
    digest = hashlib.sha256(data).hexdigest()
    full, screen = derivative(data, FULL_SIDE, 92), derivative(data, SCREEN_SIDE, 88)
    longer = max(photo.width, photo.height)
    shrink = min(1.0, FULL_SIDE / longer)
    with transaction.atomic():
        piece = Piece.objects.select_for_update().get(pk=piece.pk)
        same = piece.photographs.filter(digest=digest, fault="").first()
        if same and same.current:
            return same, "This photograph is here already; nothing was changed."
        replaced = piece.photographs.filter(current=True).update(current=False)
        if same:
            same.current = True
            same.save(update_fields=["current"])
            piece.state = Piece.State.MARKING if same.scene else Piece.State.MEASURING
            piece.save(update_fields=["state"])
            return same, "An earlier photograph of this piece is in force again, with the marks made on it."
        new = Photograph(
            piece=piece,
            width=round(photo.width * shrink),
            height=round(photo.height * shrink),
            digest=digest,
            taken=photo.taken or "",
            camera=photo.camera or "",
            advice=[{"code": a.code, "text": a.text} for a in photo.advice],
            added_by=user,
        )
        new.full.save("full.jpg", ContentFile(full), save=False)
        new.screen.save("screen.jpg", ContentFile(screen), save=False)
        new.save()
        piece.state = Piece.State.MEASURING
        piece.save(update_fields=["state"])
        from heath.intake.tasks import measure_photograph

        measure_photograph.defer(photograph_id=new.pk)
    return new, "The earlier photograph is kept; the new one is in force." if replaced else ""


def see_photograph(photograph: Photograph):
    """Find the piece in a photograph and keep what was found. Safe to run again."""
    with photograph.full.open("rb") as file:
        data = file.read()
    fault, raster_file = "", None
    try:
        read = read_photograph(data)
        scene, raster = see(read)
        photograph.keep_scene(scene)
        photograph.raster_scale = raster.scale
        raster_file = ContentFile(raster.packed())
    except (UnusablePhotograph, NothingFound) as error:
        fault = str(error)
    with transaction.atomic():
        piece = Piece.objects.select_for_update().get(pk=photograph.piece_id)
        if raster_file is not None:
            photograph.raster.save("raster.png", raster_file, save=False)
        photograph.fault = fault
        photograph.core_version = VERSION
        photograph.save(update_fields=["scene", "raster", "raster_scale", "fault", "core_version"])
        if piece.state == Piece.State.MEASURING and Photograph.objects.filter(pk=photograph.pk, current=True).exists():
            piece.state = Piece.State.FAILED if fault else Piece.State.MARKING
            piece.save(update_fields=["state"])
