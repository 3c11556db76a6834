"""Background work of returning: the sheets of a class."""

import logging

from django.core.files.base import ContentFile
from procrastinate.contrib.django import app

from heath.assessment.models import Piece
from heath.returns import mailing
from heath.returns.issuing import NotToReturn, issue_sheet
from heath.returns.models import Bundle
from heath.returns.pdf import pdf_of_all

__all__ = ["mailing", "make_bundle"]  # mailing: its handler is known to the worker
log = logging.getLogger(__name__)
GONE_WRONG = "Not all sheets could be made. Try once more; if it fails again, open them one by one."


@app.task(name="returns.make_bundle")
def make_bundle(bundle_id: int):
    """Return every marked piece of a brief, and put all its sheets into one PDF; what was done is
    told as it goes on.
    """
    bundle = Bundle.objects.filter(pk=bundle_id).select_related("brief").first()
    if bundle is None or bundle.ready:
        return
    try:
        _make(bundle)
    except NotToReturn as error:
        _fail(bundle, str(error))
    except Exception:
        log.exception("The sheets of brief %s could not be made", bundle.brief_id)
        _fail(bundle, GONE_WRONG)


def _fail(bundle: Bundle, words: str) -> None:
    bundle.fault = words
    bundle.save(update_fields=["fault"])


def _make(bundle: Bundle) -> None:
    ready = bundle.brief.pieces.filter(state__in=(Piece.State.MARKED, Piece.State.RETURNED))
    pieces = list(
        ready.select_related("brief__course", "student")
        .prefetch_related("photographs")
        .order_by("student__sorting")
    )
    if not pieces:
        _fail(bundle, "No piece of this brief is marked yet.")
        return
    bundle.total = len(pieces)
    bundle.save(update_fields=["total"])

    def done(number: int) -> None:
        Bundle.objects.filter(pk=bundle.pk).update(done=number)

    sheets = (issue_sheet(piece, bundle.made_by) for piece in pieces)
    bundle.file.save("sheets.pdf", ContentFile(pdf_of_all(sheets, done)), save=False)
    bundle.done = bundle.total
    bundle.save(update_fields=["file", "done"])
