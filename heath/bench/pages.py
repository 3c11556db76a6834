"""The bench's pages and pictures: what is looked at, and changes nothing."""

from __future__ import annotations

from django.http import Http404, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_POST, require_safe

from heath.assessment.layers import eye_layer, petals_layer
from heath.assessment.models import Piece
from heath.assessment.reading import read
from heath.bench.changing import others_at_the_bench
from heath.bench.context import READY, bench_context, column, phrases, piece_on_bench, queue_of
from heath.bench.overlays import as_found, exemplar_over, front_laid, stage_before, wanted_form
from heath.bench.toolbox import KEYS, ROLE_KEYS, TOOLS
from heath.drawing.evidence import drawable
from heath.people.policy import find, visible
from heath.shelf.models import Container
from heath.web.plain import whole
from juniper.colour import flowers_of
from juniper.colour.formats import Colour, to_csv, to_gpl, to_svg

LAYERS = {"eye": eye_layer, "petals": petals_layer}
OVERLAYS = {
    "found": as_found,
    "form": wanted_form,
    "exemplar": exemplar_over,
    "stage": stage_before,
    "front": front_laid,
}


@require_safe
def bench(request, pk):
    """The marking place for one piece."""
    piece = find(request.user, Piece, second=True, pk=pk)
    if piece.state not in READY or piece.photograph is None or not piece.photograph.scene:
        return redirect("brief", pk=piece.brief_id)
    piece = piece_on_bench(request, pk)
    context = bench_context(piece) | queue_of(request.user, piece)
    context |= {"tools": TOOLS, "keys": KEYS, "role_keys": ROLE_KEYS}
    context["phrases"] = phrases(request.user)
    context["shelf"] = [c for c in visible(request.user, Container).all() if c.measured]
    return render(request, "bench/bench.html", context)


@require_safe
def ready(request, pk):
    """Make a piece ready before it is asked for: its picture is opened and looked at, so that the
    first stroke is as quick as the next.
    """
    piece = piece_on_bench(request, pk)
    read(piece, shown=piece.on_bench).prepare()
    return HttpResponse(status=204)


@require_safe
def reading(request, pk):
    """The column and the evidence as they now stand."""
    return column(request, piece_on_bench(request, pk), layers=True)


@require_safe
def evidence(request, pk, rule):
    """What a rule's figure rests on, drawn over the photograph while the rule stands open."""
    piece = piece_on_bench(request, pk)
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
    piece = piece_on_bench(request, pk)
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


@require_safe
def layer(request, pk, what):
    """The picture dimmed but for what is salient (eye) or what counts as petal (petals), as a layer
    to lay over it.
    """
    piece = piece_on_bench(request, pk)
    drawn = LAYERS[what](read(piece, shown=piece.on_bench))
    return HttpResponse(
        drawn, content_type="image/png", headers={"Cache-Control": "private, max-age=60"}
    )


@require_safe
def overlay(request, pk, what):
    """Something to lay faintly over the photograph: what was found before any correction, the
    wanted form, the brief's exemplar.
    """
    piece = piece_on_bench(request, pk)
    reading = read(piece, shown=piece.on_bench)
    return render(
        request,
        "bench/_laid_over.html",
        {"photo": reading.photograph, "laid": OVERLAYS[what](piece, reading), "what": what},
    )


@require_POST
def here(request, pk):
    """Who else has this piece on the bench, and whether they changed it meanwhile."""
    piece = find(request.user, Piece, "changed_by", second=True, pk=pk)
    seen = whole(request.POST.get("seen", ""))
    newer = (
        seen is not None
        and seen < piece.revision
        and piece.changed_by_id not in (None, request.user.pk)
    )
    return render(
        request,
        "bench/_others.html",
        {"piece": piece, "others": others_at_the_bench(piece, request.user), "newer": newer},
    )
