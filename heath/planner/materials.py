"""The catalogue of materials: what ships, and what a school has of its own."""

from django.contrib import messages
from django.db import transaction
from django.http import Http404, HttpResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.utils.text import slugify
from django.views.decorators.http import require_POST, require_safe

from heath.people.once import once
from heath.people.policy import find
from heath.planner.models import OwnMaterial, as_rows, row_of
from heath.planner.planned import materials_of, workshop_of
from heath.web.length_field import centimetres
from heath.web.plain import whole
from juniper.lengths import unit
from juniper.planning.materials import (
    CAUTIONS,
    COLOURS,
    ROLES,
    TEXTURES,
    FaultyMaterials,
    as_csv,
    as_json,
    catalogue,
    from_json,
    read_materials,
)

LARGEST = 400_000  # bytes of a catalogue that comes in
AT_ONCE = 60  # materials shown where nothing is asked for
MOST = 2000  # materials of a school's own


def _page(request, **more):
    words = " ".join(request.GET.get("words", "").lower().split())
    role, month = request.GET.get("role", ""), request.GET.get("month", "")
    own = {m.slug: m for m in OwnMaterial.objects.filter(school=request.user.school_id)}
    found = [
        m
        for m in materials_of(request.user.school_id).values()
        if words in f"{m.common} {m.botanical} {m.role}".lower()
    ]
    if role in ROLES:
        found = [m for m in found if m.role == role]
    if 1 <= (whole(month) or 0) <= 12:
        found = [m for m in found if m.in_season(int(month), request.user.school.south)]
    if request.GET.get("food"):
        found = [m for m in found if m.safe_near_food]
    asked = any(request.GET.get(n) for n in ("words", "role", "month", "food", "all"))
    context = {
        "materials": found if asked else found[:AT_ONCE],
        "more": 0 if asked else max(0, len(found) - AT_ONCE),
        "words": words,
        "cautions": CAUTIONS,
        "own": own,
        "roles": ROLES,
        "textures": TEXTURES,
        "colours": COLOURS,
        "role": role,
        "month": whole(month) or 0,
        "months": range(1, 13),
        "south": request.user.school.south,
        "food": bool(request.GET.get("food")),
        "faulty": [m for m in own.values() if m.fault],
        "now": timezone.localdate().month,
        "row": {},
        "unit": unit(),
        "ways": workshop_of(request.user.school_id).ways,
    }
    return render(request, "planner/materials.html", context | more)


@require_safe
def materials(request):
    """The catalogue, those that are asked for."""
    return _page(request)


@require_safe
def materials_file(request, suffix):
    """The school's catalogue as CSV or JSON; with `own`, only what is its own."""
    every = materials_of(request.user.school_id)
    if request.GET.get("own"):
        own = OwnMaterial.objects.filter(school=request.user.school_id)
        every = {m.slug: m.material for m in own if not m.fault}
    text, kind = (as_csv, "text/csv") if suffix == "csv" else (as_json, "application/json")
    answer = HttpResponse(text(tuple(every.values())), content_type=f"{kind}; charset=utf-8")
    answer["Content-Disposition"] = f'attachment; filename="materials.{suffix}"'
    return answer


@require_POST
def bring(request):
    """Take materials in from CSV or JSON, all or none of them: those that the catalogue has just so
    are passed over.
    """
    file = request.FILES.get("file")
    if file is None:
        messages.error(request, "Choose a file of materials first, CSV or JSON.")
        return redirect("materials")
    data = file.read(LARGEST + 1)
    if len(data) > LARGEST:
        messages.error(
            request, f"That file is larger than {LARGEST // 1000} kB: is it a list of materials?"
        )
        return redirect("materials")
    try:
        text = data.decode("utf-8-sig")
        found = from_json(text) if text.lstrip().startswith("[") else read_materials(text)
    except UnicodeDecodeError:
        messages.error(
            request,
            "That file is not text in UTF-8. Save it as CSV (UTF-8) or JSON, and choose it again.",
        )
        return redirect("materials")
    except FaultyMaterials as error:
        return _page(request, faults=error.faults)
    ships = {m.slug: m for m in catalogue()}
    new = [m for m in found if ships.get(m.slug) != m]
    if len(new) > MOST:
        messages.error(
            request, f"A school has up to {MOST} materials of its own; that file has {len(new)}."
        )
        return redirect("materials")
    with transaction.atomic():
        for one in new:
            _keep(request.user, one)
    messages.info(
        request,
        f"{len(new)} materials are now the school's own; {len(found) - len(new)} were in the"
        " catalogue already.",
    )
    return redirect("materials")


def _keep(user, one) -> None:
    if user.school_id is None:
        raise Http404
    OwnMaterial.objects.update_or_create(
        school=user.school, slug=one.slug, defaults={"row": row_of(one), "added_by": user}
    )


def _centimetres(typed: str) -> str:
    """A length in centimetres; what is none is left for the catalogue's own check to name."""
    try:
        return str(centimetres(typed))
    except ValueError:
        return typed


@require_POST
@once
def add(request):
    """Add a material by hand, or change one."""
    sent = request.POST
    row = {
        c: sent.get(c, "")
        for c in (
            "common",
            "botanical",
            "role",
            "texture",
            "across_cm",
            "life_low",
            "life_high",
            "source",
        )
    }
    row |= {
        "slug": slugify(sent.get("slug") or row["common"])[:60],
        "months": f"{sent.get('from', '')}-{sent.get('to', '')}",
        "colours": " ".join(sent.getlist("colours")),
        "cautions": " ".join(sent.getlist("cautions")),
    }
    row["source"] = row["source"] or "common practice"
    try:
        if not row["colours"]:
            raise FaultyMaterials([(2, "it has one colour at least")])
        one = read_materials(as_rows([row | {"across_cm": _centimetres(row["across_cm"])}]))[0]
    except FaultyMaterials as error:
        return _page(
            request,
            add_faults=[words for _, words in error.faults],
            row=row | {"from": sent.get("from"), "to": sent.get("to")},
        )
    _keep(request.user, one)
    messages.info(request, f"{one.common} is in the school's catalogue.")
    return redirect("materials")


@require_POST
def remove(request, pk):
    """Take a material of the school's own out again; one that ships under the same name comes
    back.
    """
    one = find(request.user, OwnMaterial, pk=pk)
    one.delete()
    messages.info(
        request,
        f"{one.slug if one.fault else one.material.common} is removed from the school's own.",
    )
    return redirect("materials")
