"""The bench: the piece, its handles, its lines, the instructor's word."""

import math
import re
from dataclasses import asdict
from datetime import timedelta
from functools import wraps
from urllib.parse import urlencode

from django.core.exceptions import BadRequest
from django.db import transaction
from django.db.models import prefetch_related_objects
from django.http import Http404, HttpResponse, HttpResponseBadRequest, JsonResponse
from django.shortcuts import redirect, render
from django.template.loader import render_to_string
from django.urls import reverse
from django.utils import timezone
from django.views.decorators.http import require_POST, require_safe
from django_htmx.http import HttpResponseClientRedirect
from pydantic import TypeAdapter, ValidationError

from heath.bench.accepting import NotSure, accept_marks, confirm_handles
from heath.bench.changing import company, hindered, last_done, last_words, put_back, remember, touch
from heath.bench.models import Correction, Override, places_of
from heath.bench.overlays import as_found, exemplar_over, wanted_form
from heath.bench.overtaking import TURNS
from heath.bench.reading import DATUM_HANDLES, datum_of, eye_layer, handles, petals_layer, read
from heath.bench.trying import WISHES, overlay, picture_of, try_on
from heath.intake.models import Piece
from heath.interface.drawing import drawable, lenses
from heath.interface.plain import whole
from heath.interface.templatetags.heath import moving_line
from heath.people.policy import find, visible
from heath.shelf.models import Container
from juniper.colour import flowers_of
from juniper.colour.formats import Colour, to_csv, to_gpl, to_svg
from juniper.rules import ANSWERS, DOMINANTS, FAMILIES
from juniper.scene import (
    ACTS,
    ROLES,
    TINTS,
    BloomChange,
    ColourChange,
    ContainerDrag,
    NoBloom,
    NoStem,
    PetalStroke,
    StemChange,
    Stroke,
    change_stems,
    placed_by_drag,
)
from juniper.scene.amending import change_bloom
from juniper.scene.painting import plant_under
from juniper.scene.stems import LINES
from juniper.scene.tinting import LONGEST, tinted

READY = (Piece.State.MARKING, Piece.State.MARKED, Piece.State.RETURNED)
REASON_MOST = 300
MOST_POINTS = 400
PRESSED_TWICE = timedelta(seconds=10)  # the same remark at the same spot within it is one press
HISTORY = 41  # corrections listed
GESTURE = re.compile(r"[A-Za-z0-9-]{6,40}")
CHANGE = TypeAdapter(Stroke | PetalStroke | BloomChange | StemChange | ColourChange | ContainerDrag)
KINDS = {
    Stroke: Correction.Kind.BRUSH,
    PetalStroke: Correction.Kind.BRUSH,
    BloomChange: Correction.Kind.BLOOM,
    StemChange: Correction.Kind.STEM,
    ColourChange: Correction.Kind.COLOUR,
    ContainerDrag: Correction.Kind.CONTAINER,
}
NOT_UNDERSTOOD = "This move could not be understood. Load the page again."


def bench(request, pk):
    """The marking place for one piece."""
    piece = find(request.user, Piece, pk=pk)
    if piece.state not in READY or piece.photograph is None or not piece.photograph.scene:
        return redirect("brief", pk=piece.brief_id)
    piece = _on_the_bench(request, pk)
    pieces = list(
        visible(request.user, Piece)
        .filter(brief=piece.brief_id, state__in=READY)
        .order_by(piece.brief.order)
        .values_list("pk", "state")
    )
    order = [p for p, _ in pieces]
    place = order.index(piece.pk)
    ahead = order[place + 1 :] + order[:place]
    waiting = {p for p, state in pieces if state == Piece.State.MARKING}
    context = _context(piece) | {
        "phrases": _phrases(request.user),
        "shelf": [c for c in visible(request.user, Container).all() if c.measured],
        "next": next((p for p in ahead if p in waiting), None),
        "place": place + 1,
        "count": len(order),
        "previous": order[place - 1] if place else None,
        "following": order[place + 1] if place + 1 < len(order) else None,
    }
    return render(request, "bench/bench.html", context)


def _on_the_bench(request, pk):
    """The piece, when it has a photograph that can be marked; else 404 or 400."""
    piece = find(request.user, Piece, "brief", "student", pk=pk)
    prefetch_related_objects([piece], "photographs")
    if piece.photograph is None or not piece.photograph.scene:
        raise BadRequest("This piece has no photograph that can be marked.")
    piece.on_bench = piece.photograph
    view = request.GET.get("view", piece.photograph.view)
    if view != piece.photograph.view:
        piece.on_bench = piece.view(view)
        if piece.on_bench is None or not piece.on_bench.scene:
            raise Http404
    return piece


def _context(piece, fault="", fault_rule="", typed=None, layers=False):
    """What the bench shows."""
    reading = read(piece, shown=piece.on_bench)
    remarks = list(piece.remarks.filter(taken_back=False).select_related("made_by"))
    return {
        "piece": piece,
        "query": "" if piece.on_bench == piece.photograph else f"?view={piece.on_bench.view}",
        "views": [
            (v, name)
            for v, name, photograph, _ in piece.views
            if photograph is not None and photograph.scene
        ],
        "brief": piece.brief,
        "photo": reading.photograph,
        "reading": reading,
        "handles": handles(reading),
        "fault": fault,
        "fault_rule": fault_rule,
        "typed": typed or {},
        "history": reading.corrections[:-HISTORY:-1],
        "layers": layers,
        "roles": ROLES,
        "dominants": DOMINANTS,
        "answers": tuple(ANSWERS.values()),
        "caps": {c.family: c for c in reading.caps},
        "remarks": remarks,
        "last": last_words(
            last_done(reading.corrections, reading.overrides, reading.caps, remarks)
        ),
        "mark_changes": list(piece.mark_changes.select_related("made_by")),
    }


def _answer(request, piece, **more):
    """The column and the evidence, after something changed."""
    context = _context(piece, **more) | {"swapped": True, "phrases": _phrases(request.user)}
    return render(request, "bench/_reading.html", context)


def _phrases(user):
    """A marker's own phrases that can be put in by a key."""
    return list(user.phrases.all()[:9])


def changes(view):
    """A view that changes a piece: not while the marks are locked, nor over what somebody else did
    meanwhile.
    """

    def made(request, pk, **more):
        piece = _on_the_bench(request, pk)
        why = hindered(piece, request.user, request.POST.get("seen", ""))
        if why:
            written = " ".join(
                (request.POST.get("reason") or request.POST.get("words") or "").split()
            )
            return _answer(
                request,
                piece,
                fault=f"{why} You wrote: “{written}”." if written else why,
                layers=True,
            )
        return view(request, piece, **more)

    @wraps(view)
    def within(request, pk, **more):
        if "lens" in request.POST:  # a handle on its way overwrites nothing but itself
            with TURNS.turn(f"{request.user.pk} {request.POST.get('gesture', '')[:40]}") as newest:
                return made(request, pk, **more) if newest else HttpResponse(status=204)
        with transaction.atomic():
            # Two who press at once go one after the other.
            visible(request.user, Piece).select_for_update(of=("self",)).filter(pk=pk).first()
            return made(request, pk, **more)

    return require_POST(within)


@require_safe
def ready(request, pk):
    """Make a piece ready before it is asked for: its picture is opened and looked at, so that the
    first stroke is as quick as the next.
    """
    piece = _on_the_bench(request, pk)
    read(piece, shown=piece.on_bench).prepare()
    return HttpResponse(status=204)


@require_safe
def reading(request, pk):
    """The column and the evidence as they now stand."""
    return _answer(request, _on_the_bench(request, pk), layers=True)


@require_safe
def evidence(request, pk, rule):
    """What a rule's figure rests on, drawn over the photograph while the rule stands open."""
    piece = _on_the_bench(request, pk)
    reading = read(piece, shown=piece.on_bench)
    line = next((x for x in reading.verdict.lines if x.rule.code == rule), None)
    if line is None:
        raise Http404
    added = line.addition.marks if line.addition and reading.view == "front" else ()
    # Each view tells its own part: what is drawn is what this picture shows of it.
    own = (
        line.finding
        if line.finding.view == reading.view
        else reading.shown.by_name.get(line.rule.measure)
    )
    marks = [drawable(m) for m in (*(own.evidence if own else ()), *added)]
    return render(request, "bench/_opened.html", {"photo": reading.photograph, "marks": marks})


@require_safe
def palette(request, pk, suffix):
    """The flowers' colours as a file: GIMP palette, CSV or SVG swatches."""
    piece = _on_the_bench(request, pk)
    palette = read(piece, shown=piece.on_bench).scene.palette
    colours = tuple(Colour(s.name, s.chip, s.share) for s in flowers_of(palette))
    title = f"{piece.shown_name}, {piece.brief.name}"
    text, kind = {
        "gpl": lambda: (to_gpl(title, colours), "text/plain"),
        "csv": lambda: (to_csv(colours), "text/csv"),
        "svg": lambda: (to_svg(title, colours), "image/svg+xml"),
    }[suffix]()
    answer = HttpResponse(text, content_type=f"{kind}; charset=utf-8")
    answer["Content-Disposition"] = f'attachment; filename="palette-{piece.pk}.{suffix}"'
    return answer


LAYERS = {"eye": eye_layer, "petals": petals_layer}


@require_safe
def layer(request, pk, what):
    """The picture dimmed but for what is salient (eye) or what counts as petal (petals), as a layer
    to lay over it.
    """
    piece = _on_the_bench(request, pk)
    drawn = LAYERS[what](read(piece, shown=piece.on_bench))
    return HttpResponse(
        drawn, content_type="image/png", headers={"Cache-Control": "private, max-age=60"}
    )


def _wishes(raw: str):
    """What is to be tried, from JSON. Raises BadRequest."""
    try:
        return WISHES.validate_json(raw or "[]")
    except ValidationError:
        raise BadRequest(NOT_UNDERSTOOD) from None


@require_POST
def try_it(request, pk):
    """What the piece would measure and score with some changes; nothing of it is kept."""
    piece = _on_the_bench(request, pk)
    changes = request.POST.get("changes", "")
    tried = try_on(piece, read(piece), _wishes(changes))
    picture = f"{reverse('tried-picture', args=[pk])}?{urlencode({'changes': changes})}"
    return render(
        request,
        "bench/_tried.html",
        {"piece": piece, "photo": tried.before.photograph, "tried": tried, "picture": picture},
    )


@require_safe
def tried_picture(request, pk):
    """The parts of the picture that a trial changes, clear elsewhere."""
    piece = _on_the_bench(request, pk)
    drawn = overlay(picture_of(piece, _wishes(request.GET.get("changes", ""))))
    return HttpResponse(
        drawn, content_type="image/png", headers={"Cache-Control": "private, max-age=60"}
    )


@changes
def move(request, piece):
    """A handle was dragged or nudged: keep where it is, measure and score anew."""
    photograph = piece.on_bench
    handle, gesture = request.POST.get("handle"), request.POST.get("gesture", "")
    if handle not in Correction.Handle.values or not GESTURE.fullmatch(gesture):
        return HttpResponseBadRequest(NOT_UNDERSTOOD)
    try:
        x, y = float(request.POST["x"]), float(request.POST["y"])
    except (KeyError, ValueError):
        return HttpResponseBadRequest("This move has no place. Load the page again.")
    if not (math.isfinite(x) and math.isfinite(y)):
        return HttpResponseBadRequest("This move has no place. Load the page again.")
    x, y = min(max(x, 0.0), photograph.width), min(max(y, 0.0), photograph.height)
    datum = datum_of(photograph)
    others = {n: getattr(datum, n) for n in DATUM_HANDLES} | {handle: (x, y)}
    if (
        math.dist(others["rim"], others["base"]) < 8
        or math.dist(others["rim_left"], others["rim_right"]) < 8
    ):
        return _answer(
            request,
            piece,
            fault="Two handles would lie on one another; the last place that made sense is kept.",
        )
    place = {"handle": handle, "x": x, "y": y, "made_by": request.user, "undone": False}
    # A drag asks twenty times a second, so it is one statement where the gesture has begun.
    begun = photograph.corrections.filter(gesture=gesture).update(**place, made_at=timezone.now())
    if not begun:
        photograph.corrections.update_or_create(gesture=gesture, defaults=place)
    rests = request.POST.get("rests") == "1"
    if rests or not begun:
        touch(piece, request.user)
    if rests:
        return _answer(request, piece, layers=True)
    return _on_the_way(request, piece)


def _on_the_way(request, piece):
    """While a handle is dragged: the figures and the lens in use, without the rest of the column,
    as JSON.
    """
    reading = read(piece, moving=True, shown=piece.on_bench)
    lens = request.POST.get("lens", "")
    drawn = {
        one["name"]: render_to_string(
            "interface/_marks.html", {"marks": one["marks"], "height": reading.photograph.height}
        )
        for one in lenses(reading.shown)
        if lens in (one["name"], "all")
    }
    lines = {x.rule.code: moving_line(x) for x in reading.verdict.lines if not x.rule.asks}
    score = reading.verdict.score
    groups = {
        g.family: "–" if g.score is None else f"{g.score:.1f}" for g in reading.verdict.groups
    }
    return JsonResponse(
        {
            "score": "–" if score is None else f"{score:.0f}",
            "next": reading.verdict.next_cut.text,
            "lines": lines,
            "groups": groups,
            "lenses": drawn,
        }
    )


def _change_from(
    raw: str, photograph
) -> Stroke | PetalStroke | BloomChange | StemChange | ColourChange | ContainerDrag | None:
    """What was done to the picture, from JSON; None when it makes no sense for this photograph."""
    try:
        change = CHANGE.validate_json(raw)
    except ValidationError:
        return None
    points = (
        list(change.points)
        if isinstance(change, Stroke | PetalStroke)
        else [p for p in vars(change).values() if isinstance(p, tuple)]
    )
    radius = getattr(change, "radius", None) or 0.0
    numbers = [v for p in points for v in p] + [radius]
    if isinstance(change, ColourChange):
        placed = change.tint == "neutral"
        if change.tint not in TINTS or len(points) != placed or len(change.name or "") > LONGEST:
            return None
        if not placed:
            return change
    if (
        not 0 < len(points) <= MOST_POINTS
        or not all(map(math.isfinite, numbers))
        or min(numbers) < 0
    ):
        return None
    if (
        any(x > photograph.width or y > photograph.height for x, y in points)
        or radius > 0.2 * photograph.height
    ):
        return None
    if isinstance(change, BloomChange) and (
        change.act not in ACTS
        or ((change.act == "role" or change.role) and change.role not in ROLES)
    ):
        return None
    if isinstance(change, StemChange) and change.line not in LINES:
        return None
    return change


@changes
def confirm(request, piece):
    """Say that the handles are right where they stand: they count as put by hand, and can be
    doubted again by undoing it.
    """
    confirm_handles(piece.on_bench, request.user)
    touch(piece, request.user)
    return _answer(request, piece, layers=True)


@changes
def change(request, piece):
    """A stroke of the brush was made, or a bloom, a stem or the colours changed: keep it, see and
    measure anew.
    """
    photograph, gesture = piece.on_bench, request.POST.get("gesture", "")
    made = _change_from(request.POST.get("change", ""), photograph)
    if made is None or not GESTURE.fullmatch(gesture):
        return HttpResponseBadRequest(NOT_UNDERSTOOD)
    more = {}
    if not isinstance(made, Stroke) and not photograph.corrections.filter(gesture=gesture).exists():
        now = read(piece, shown=photograph)
        try:
            if isinstance(made, ContainerDrag):
                more = {"places": places_of(placed_by_drag(made, now.pixels, now.raster.scale))}
            elif isinstance(made, BloomChange):
                change_bloom(now.scene.blooms, made, now.scene, now.pixels)
            elif isinstance(made, StemChange):
                change_stems(now.stems, made, photograph.height)
            elif isinstance(made, PetalStroke):
                plant_under(now.scene, now.raster, made)
            elif isinstance(made, ColourChange):
                tinted(now.scene, now.raster, now.pixels, made)
        except (NoBloom, NoStem, ValueError) as error:
            return _answer(request, piece, fault=str(error))
    Correction.objects.get_or_create(
        photograph=photograph,
        gesture=gesture,
        defaults={"kind": KINDS[type(made)], "what": asdict(made) | more, "made_by": request.user},
    )
    touch(piece, request.user)
    return _answer(request, piece, layers=True)


@changes
def undo(request, piece):
    """Undo the latest thing that was done and stands (a correction of this picture, a word, a cap,
    a remark), or the correction that is named; or put a named one back.
    """
    which = request.POST.get("which", "")
    if whole(which) is not None:
        one = piece.on_bench.corrections.filter(pk=which).first()
        if one:
            one.undone = request.POST.get("back") != "1"
            one.save(update_fields=["undone"])
            touch(piece, request.user)
        return _answer(request, piece, layers=True)
    one = last_done(
        piece.on_bench.corrections.all(),
        piece.overrides.all(),
        piece.caps.all(),
        piece.remarks.all(),
    )
    if one:
        flag = "undone" if isinstance(one, Correction) else "taken_back"
        setattr(one, flag, True)
        one.save(update_fields=[flag])
        before = getattr(one, "replaces", None)
        if before is not None:
            before.taken_back = False
            before.save(update_fields=["taken_back"])
        touch(piece, request.user)
    return _answer(request, piece, layers=True)


def _taken_back(said):
    """The word that stands among some of a piece's, taken back for another to take its place; None
    where none stands.
    """
    standing = said.filter(taken_back=False).last()
    said.filter(taken_back=False).update(taken_back=True)
    return standing


@changes
def override(request, piece):
    """Set or waive the score of one rule, with a reason."""
    rule, reason = request.POST.get("rule", ""), " ".join(request.POST.get("reason", "").split())
    raw = request.POST.get("score", "").strip().replace(",", ".")
    typed = {"score": raw, "reason": reason}
    line = next((x for x in read(piece).verdict.lines if x.rule.code == rule), None)
    if line is None:
        return HttpResponseBadRequest("This rule is not in force any more. Load the page again.")

    def refuse(words):
        return _answer(request, piece, fault=words, fault_rule=rule, typed=typed)

    score = None
    if request.POST.get("waive") != "1":
        try:
            score = float(raw)
        except ValueError:
            return refuse("Write the score as a number from 0 to 10, or waive the rule.")
        if not 0 <= score <= 10:
            return refuse("A score lies between 0 and 10.")
    if not reason:
        return refuse("Say in a few words why; the student reads it too.")
    if len(reason) > REASON_MOST:
        return refuse(f"The reason has {len(reason)} letters; {REASON_MOST} is the most.")
    with transaction.atomic():
        said = {"score": score, "old_score": line.score, "reason": reason, "made_by": request.user}
        Override.objects.create(
            piece=piece, rule=rule, replaces=_taken_back(piece.overrides.filter(rule=rule)), **said
        )
        remember(request.user, reason)
        touch(piece, request.user)
    return _answer(request, piece)


@changes
def cap(request, piece):
    """Hold a family's mark, or the whole, down to a figure, with a reason; or take that back."""
    family, reason = (
        request.POST.get("family", ""),
        " ".join(request.POST.get("reason", "").split()),
    )
    if family not in ("", *FAMILIES):
        return HttpResponseBadRequest("This part of the mark is not known. Load the page again.")
    standing = piece.caps.filter(family=family, taken_back=False)
    where = f"cap-{family or 'total'}"
    if request.POST.get("back") == "1":
        if standing.update(taken_back=True):
            touch(piece, request.user)
        return _answer(request, piece)
    raw = request.POST.get("at", "").strip().replace(",", ".")

    def refuse(words):
        return _answer(
            request, piece, fault=words, fault_rule=where, typed={"at": raw, "reason": reason}
        )

    most = 10 if family else 100
    try:
        at = float(raw)
    except ValueError:
        return refuse(f"Write the highest mark as a number from 0 to {most}.")
    if not 0 <= at <= most:
        return refuse(f"It lies between 0 and {most}.")
    if not reason:
        return refuse("Say in a few words why; the student reads it too.")
    with transaction.atomic():
        before = _taken_back(standing)
        piece.caps.create(
            family=family, at=at, reason=reason[:REASON_MOST], made_by=request.user, replaces=before
        )
        remember(request.user, reason[:REASON_MOST])
        touch(piece, request.user)
    return _answer(request, piece)


@changes
def remark(request, piece):
    """Pin a comment to a spot of the picture, or to the piece as a whole; or take one back."""
    back = request.POST.get("back", "")
    if back:
        if whole(back) is not None and piece.remarks.filter(pk=back, taken_back=False).update(
            taken_back=True
        ):
            touch(piece, request.user)
        return _answer(request, piece, layers=True)
    words, photograph = " ".join(request.POST.get("words", "").split()), piece.on_bench
    if not words:
        return _answer(request, piece, fault="Write what the student should read at this spot.")
    if len(words) > REASON_MOST:
        return _answer(
            request, piece, fault=f"The remark has {len(words)} letters; {REASON_MOST} is the most."
        )
    spot = {}
    if request.POST.get("x"):
        try:
            x, y = float(request.POST["x"]), float(request.POST["y"])
        except (KeyError, ValueError):
            return HttpResponseBadRequest(NOT_UNDERSTOOD)
        if not (0 <= x <= photograph.width and 0 <= y <= photograph.height):
            return HttpResponseBadRequest(NOT_UNDERSTOOD)
        spot = {"photograph": photograph, "x": x, "y": y}
    again = {"taken_back": False, "made_at__gte": timezone.now() - PRESSED_TWICE}
    if not piece.remarks.filter(
        words=words, made_by=request.user, **(spot or {"photograph": None}), **again
    ).exists():
        piece.remarks.create(words=words, made_by=request.user, **spot)
    remember(request.user, words)
    touch(piece, request.user)
    return _answer(request, piece, layers=True)


@require_POST
def here(request, pk):
    """Who else has this piece on the bench, and whether they changed it meanwhile."""
    piece = find(request.user, Piece, "changed_by", pk=pk)
    seen = request.POST.get("seen", "")
    newer = (
        whole(seen) is not None
        and whole(seen) < piece.revision
        and piece.changed_by_id not in (None, request.user.pk)
    )
    return render(
        request,
        "bench/_company.html",
        {"piece": piece, "others": company(piece, request.user), "newer": newer},
    )


OVERLAYS = {"found": as_found, "form": wanted_form, "exemplar": exemplar_over}


@require_safe
def overlay_of(request, pk, what):
    """Something to lay faintly over the photograph: what was found before any correction, the
    wanted form, the brief's exemplar.
    """
    piece = _on_the_bench(request, pk)
    reading = read(piece, shown=piece.on_bench)
    return render(
        request,
        "bench/_laid_over.html",
        {"photo": reading.photograph, "laid": OVERLAYS[what](piece, reading), "what": what},
    )


@require_POST
def exemplar(request, pk):
    """Make this piece the brief's exemplar, or no longer; its mark may be given already."""
    piece = _on_the_bench(request, pk)
    brief = piece.brief
    if brief.locked_at:
        return _answer(request, piece, fault=hindered(piece, request.user, ""))
    brief.exemplar = None if brief.exemplar_id == piece.pk else piece
    brief.save(update_fields=["exemplar"])
    return _answer(request, piece)


@changes
def answer(request, piece):
    """A check was answered by eye, or its answer taken back."""
    rule, word = request.POST.get("rule", ""), request.POST.get("answer", "")
    if rule not in {x.code for x in piece.brief.rule_set.rules if x.asks}:
        return HttpResponseBadRequest("This check is not in force any more. Load the page again.")
    value = next((v for v, w in ANSWERS.items() if w == word), None)
    if value is None:
        piece.answers.filter(rule=rule).delete()
    else:
        piece.answers.update_or_create(
            rule=rule, defaults={"value": value, "made_by": request.user}
        )
    touch(piece, request.user)
    return _answer(request, piece)


@changes
def declare(request, piece):
    """The piece declares a principle as its own, or none."""
    dominant = request.POST.get("dominant", "")
    if dominant not in ("", *DOMINANTS):
        return HttpResponseBadRequest("This principle is not known. Load the page again.")
    piece.dominant = dominant
    piece.save(update_fields=["dominant"])
    touch(piece, request.user)
    return _answer(request, piece)


@changes
def take_back(request, piece, rule):
    """Take the word on a rule back: the measured score counts again."""
    if piece.overrides.filter(rule=rule, taken_back=False).update(taken_back=True):
        touch(piece, request.user)
    return _answer(request, piece)


@require_POST
def reopen(request, pk):
    """Open a piece whose mark is given, to change it; or leave it, everything as it was when the
    mark was given.
    """
    piece = _on_the_bench(request, pk)
    if piece.brief.locked_at:
        return _answer(request, piece, fault=hindered(piece, request.user, ""))
    with transaction.atomic():
        one = visible(request.user, Piece).select_for_update(of=("self",)).get(pk=pk)
        if request.POST.get("leave") == "1":
            if one.reopened and one.given and one.given.in_force:
                put_back(one, one.given.in_force, request.user)
            one.reopened = False
        else:
            one.reopened = one.given is not None
        one.revision += 1
        one.changed_by, one.changed_at = request.user, timezone.now()
        one.save(update_fields=["reopened", "revision", "changed_by", "changed_at"])
    return _answer(request, _on_the_bench(request, pk), layers=True)


@changes
def accept(request, piece):
    """Accept the marks as they stand, and go on to the next piece."""
    try:
        accept_marks(piece, request.user)
    except NotSure as error:
        return _answer(request, piece, fault=str(error))
    upcoming = (
        visible(request.user, Piece)
        .filter(brief=piece.brief_id, state=Piece.State.MARKING)
        .order_by(piece.brief.order)
        .first()
    )
    to = (
        reverse("bench", args=[upcoming.pk])
        if upcoming and request.POST.get("go") == "next"
        else reverse("bench", args=[piece.pk])
    )
    return HttpResponseClientRedirect(to) if request.htmx else redirect(to)
