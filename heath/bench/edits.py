"""What is put right on the picture: handles, strokes of the brush, blooms, stems, colours."""

from __future__ import annotations

import math
from dataclasses import asdict

import numpy as np
from django.http import HttpResponse, HttpResponseBadRequest, JsonResponse
from django.template.loader import render_to_string
from django.utils import timezone
from django.views.decorators.http import require_POST
from pydantic import ValidationError

from heath.assessment.corrected import DATUM_HANDLES, datum_of, vessels_of
from heath.assessment.models import Correction, Photograph, Piece, places_of
from heath.assessment.reading import Reading, read
from heath.bench.accepting import confirm_handles, confirmed_places
from heath.bench.changes import Refused, change_piece
from heath.bench.changing import last_done, obstacle, record_change
from heath.bench.context import column, piece_on_bench
from heath.bench.dragging import note_move, piece_dragged
from heath.bench.overtaking import TURNS
from heath.bench.requests import KINDS, NOT_UNDERSTOOD, HandleMove, Made, VesselRemoval, made_from
from heath.drawing.evidence import lenses
from heath.drawing.lines import moving_line
from heath.web.plain import whole
from juniper.scene import (
    MOST_VESSELS,
    BloomChange,
    ColourChange,
    ContainerDrag,
    Datum,
    NoBloom,
    NoStem,
    PetalStroke,
    StemChange,
    Stroke,
    change_stems,
    placed_by_drag,
)
from juniper.scene.amending import change_bloom
from juniper.scene.colour_changes import with_colours_changed
from juniper.scene.painting import plant_under

SEVERAL, LEAST = "several vessels", 2  # the kind of piece, and how many vessels it has at least
ADDED = 100  # keys of vessels that a person added begin here
NEAREST = 8  # pixels of the photograph that two handles of one line keep apart
LIES_ON = "Two handles would be in the same place. The last good place is kept."
GONE = "This vessel is not part of the composition any more. Load the page again."
NO_PLACE = "This move has no place. Load the page again."


@require_POST
def move(request, pk):
    """A handle was dragged or nudged: keep where it is, measure and score anew."""
    try:
        made = HandleMove.model_validate(request.POST.dict())
    except ValidationError as error:
        piece_on_bench(request, pk)
        placed = {e["loc"][0] for e in error.errors()} - {"x", "y"}
        return HttpResponseBadRequest(NOT_UNDERSTOOD if placed else NO_PLACE)
    if made.rests:
        return change_piece(request, pk, lambda piece: _moved(request.user, piece, made), True)
    # A handle on its way overwrites nothing but itself: it takes its turn instead of the lock.
    with TURNS.turn(f"{request.user.pk} {made.gesture}") as newest:
        return _on_the_way(request, pk, made) if newest else HttpResponse(status=204)


def _moved(user, piece: Piece, made: HandleMove) -> bool:
    """Keep where a handle is; whether that counts as a change: its gesture begins or ends."""
    photograph, place = piece.on_bench, made.within(piece.on_bench)
    datum = _datum_moved(photograph, made)
    handles = {n: getattr(datum, n) for n in DATUM_HANDLES} | {made.name: place}
    lines = (("rim", "base"), ("rim_left", "rim_right"))
    if any(math.dist(handles[a], handles[b]) < NEAREST for a, b in lines):
        raise Refused(LIES_ON)
    kept = _kept_move(user, made, place)
    # A drag asks twenty times a second, so it is one statement where the gesture has begun.
    gesture = photograph.corrections.filter(gesture=made.gesture)
    begun = gesture.update(**kept, made_at=timezone.now())
    if not begun:
        photograph.corrections.update_or_create(gesture=made.gesture, defaults=kept)
    return made.rests or not begun


def _datum_moved(photograph: Photograph, made: HandleMove) -> Datum:
    """The datum that a handle belongs to: the picture's, or that of one of its vessels."""
    if made.vessel is None:
        return datum_of(photograph)
    found = next((v for v in vessels_of(photograph) if v.key == made.vessel), None)
    if found is None:
        raise Refused(GONE)
    return found.datum


def _kept_move(user, made: HandleMove, place: tuple[float, float]) -> dict:
    """What is kept of a handle's move."""
    kept = {"made_by": user, "undone": False}
    if made.vessel is None:
        return kept | {"handle": made.name, "x": place[0], "y": place[1]}
    moved = {"kind": "move", "key": made.vessel, "places": [[made.name, list(place)]]}
    return kept | {"kind": Correction.Kind.VESSEL, "what": moved}


def _on_the_way(request, pk: int, made: HandleMove) -> HttpResponse:
    """While a handle is dragged: keep its place, and tell the figures and the lens in use."""
    piece = piece_dragged(request, pk, made.gesture)
    if why := obstacle(piece, request.user, request.POST.get("seen", "")):
        return column(request, piece, fault=why, layers=True)
    try:
        counts = _moved(request.user, piece, made)
    except Refused as refused:
        return column(request, piece, fault=refused.words)
    if counts:
        record_change(piece, request.user)
        piece = piece_on_bench(request, pk)
    else:
        place = made.within(piece.on_bench)
        note_move(piece.on_bench, made.gesture, _kept_move(request.user, made, place))
    return JsonResponse(_figures(read(piece, moving=True, shown=piece.on_bench), made.lens))


def _figures(reading: Reading, lens: str) -> dict:
    """What changes on screen while a handle moves, without the rest of the column."""
    verdict, height = reading.verdict, reading.photograph.height
    return {
        "score": "–" if verdict.score is None else f"{verdict.score:.0f}",
        "next": verdict.next_cut.text,
        "lines": {x.rule.code: moving_line(x) for x in verdict.lines if not x.rule.asks},
        "groups": {g.family: "–" if g.score is None else f"{g.score:.1f}" for g in verdict.groups},
        "lenses": {
            one["name"]: render_to_string(
                "drawing/_marks.html", {"marks": one["marks"], "height": height}
            )
            for one in lenses(reading.shown)
            if lens in (one["name"], "all")
        },
    }


@require_POST
def confirm(request, pk):
    """Say that the handles are right where they stand: they count as put by hand, and can be
    doubted again by undoing it.
    """
    places = confirmed_places(piece_on_bench(request, pk).on_bench)

    def write(piece: Piece):
        confirm_handles(piece.on_bench, request.user, places)

    return change_piece(request, pk, write, layers=True)


@require_POST
def change(request, pk):
    """A stroke of the brush was made, or a bloom, a stem or the colours changed: keep it, see and
    measure anew.
    """
    piece = piece_on_bench(request, pk)
    try:
        made = made_from(request.POST, piece.on_bench)
    except ValueError:
        return HttpResponseBadRequest(NOT_UNDERSTOOD)
    fault, more = "", {}
    try:
        more = _tried_on(piece, made)
    except (NoBloom, NoStem, ValueError) as error:
        fault = str(error)

    def write(piece: Piece):
        if fault:
            raise Refused(fault)
        Correction.objects.get_or_create(
            photograph=piece.on_bench,
            gesture=made.gesture,
            defaults={
                "kind": _kind_kept(made, more),
                "what": more if "key" in more else asdict(made.change) | more,
                "made_by": request.user,
            },
        )

    return change_piece(request, pk, write, layers=True)


def _kind_kept(made: Made, more: dict) -> str:
    """The kind of correction that a change is kept as: a container drawn among several is one of a
    vessel.
    """
    return str(Correction.Kind.VESSEL if "key" in more else KINDS[type(made.change)])


def _tried_on(piece: Piece, made: Made) -> dict:
    """What else is kept of a change, once it was tried on the picture. Raises ValueError, NoBloom
    or NoStem, with a sentence for the person, where it cannot be made.
    """
    photograph, change = piece.on_bench, made.change
    if isinstance(change, Stroke):
        return {}
    if photograph.corrections.filter(gesture=made.gesture).exists():
        return {}  # it was made already
    now = read(piece, shown=photograph)
    if isinstance(change, ContainerDrag):
        datum = placed_by_drag(change, now.pixels, now.raster.scale)
        if now.brief.kind == SEVERAL:
            return _vessel_drawn(now, datum)
        return {"places": places_of(datum)}
    if isinstance(change, VesselRemoval):
        return _vessel_removed(now, change)
    if isinstance(change, BloomChange):
        change_bloom(now.scene.blooms, change, now.scene, now.pixels)
    elif isinstance(change, StemChange):
        change_stems(now.stems, change, photograph.height)
    elif isinstance(change, PetalStroke):
        plant_under(now.scene, now.raster, change)
    elif isinstance(change, ColourChange):
        with_colours_changed(now.scene, now.raster, now.pixels, change)
    return {}


def _vessel_removed(now: Reading, change: VesselRemoval) -> dict:
    """What is kept where a vessel is taken out."""
    if len(now.vessels) <= LEAST:
        raise ValueError("A composition has two vessels at the least: this one stays.")
    return {"kind": "remove", "key": change.without}


def _vessel_drawn(now: Reading, datum: Datum) -> dict:
    """What is kept of a container drawn in a composition: of the vessel that it was drawn over all
    four handles, or a new vessel.
    """
    places = [[name, list(at)] for name, at in places_of(datum).items()]
    middle = (np.array(datum.rim) + np.array(datum.base)) / 2
    over = next((v for v in now.vessels if _covers(v.datum, middle)), None)
    if over is not None:
        return {"kind": "move", "key": over.key, "places": places}
    if len(now.vessels) >= MOST_VESSELS:
        raise ValueError(f"{MOST_VESSELS} vessels are the most in one composition.")
    used = now.photograph.corrections.filter(kind=Correction.Kind.VESSEL, what__kind="add")
    key = ADDED + used.count()
    return {"kind": "add", "key": key, "places": places}


def _covers(datum: Datum, at: np.ndarray) -> bool:
    """Whether a place (2,) lies on a vessel between its foot and its rim."""
    step = at - np.array(datum.base)
    along, side = float(step @ datum.up), abs(float(step @ datum.right))
    return 0 < along < datum.height and side < max(datum.rim_width, 0.4 * datum.height) / 2


@require_POST
def undo(request, pk):
    """Undo the latest thing that was done and stands (a correction of this picture, a word, a cap,
    a remark), or the correction that is named; or put a named one back.
    """
    which, back = whole(request.POST.get("which", "")), request.POST.get("back") == "1"

    def named(piece: Piece) -> bool:
        return piece.on_bench.corrections.filter(pk=which).update(undone=not back) > 0

    return change_piece(request, pk, _undo_last if which is None else named, layers=True)


def _undo_last(piece: Piece) -> bool:
    """Undo the latest thing that was done; whether there was any."""
    corrections = piece.on_bench.corrections.all()
    one = last_done(corrections, piece.overrides.all(), piece.caps.all(), piece.remarks.all())
    if one is None:
        return False
    flag = "undone" if isinstance(one, Correction) else "taken_back"
    setattr(one, flag, True)
    one.save(update_fields=[flag])
    before = getattr(one, "replaces", None)
    if before is not None:
        before.taken_back = False
        before.save(update_fields=["taken_back"])
    return True
