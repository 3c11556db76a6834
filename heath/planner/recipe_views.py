"""The recipe of a piece: what it is made of, how many stems, what to buy, and what must be answered
before it is used.
"""

from django.contrib import messages
from django.shortcuts import redirect, render
from django.utils import timezone
from django.views.decorators.http import require_POST

from heath.planner.planned import MOST_ITEMS, Planned, faults_of, own_workshop, read_items
from heath.planner.views import keep, planned_of
from heath.web.plain import whole
from juniper.planning.materials import COLOURS, ROLES
from juniper.planning.recipe import VARIANTS

MOST_PIECES = 200
MOST_PRICES = 500_000  # characters of a price list: ten thousand lines and more
TOLD = 20  # faulty lines of it that are shown at once
LEAST_WORDS = 5


def _typed(request) -> list[dict]:
    columns = [request.POST.getlist(name) for name in ("material", "role", "colour", "stems")]
    return [
        dict(zip(("material", "role", "colour", "stems"), row, strict=True))
        for row in zip(*columns, strict=False)
    ]


def _rows(planned: Planned) -> list[dict]:
    """The lines of the form, one empty one last: as kept, with what was worked out."""
    worked = {(i.material.slug, i.role, i.colour): i.stems for i in planned.items}
    rows = []
    for line in planned.plan.items[:MOST_ITEMS]:
        one = planned.materials.get(line["slug"])
        row = {
            "material": one.common if one else line.get("words") or line["slug"],
            "role": line["role"],
            "colour": line["colour"],
        }
        row["stems"] = line.get("raw") or ("" if line["stems"] is None else line["stems"])
        rows.append(row | {"worked": worked.get((line["slug"], line["role"], line["colour"]))})
    return rows + [{"material": "", "role": "", "colour": "", "stems": ""}] * (
        len(rows) < MOST_ITEMS
    )


def recipe(request, pk):
    """What a piece is made of. Everything is kept as it is typed; what is at fault is told, and the
    rest stands.
    """
    planned, faults = planned_of(request, pk), []
    if request.method == "POST":
        planned.plan.items = read_items(_typed(request), planned.materials)
        if request.POST.get("variant") in VARIANTS:
            planned.plan.variant = request.POST["variant"]
        pieces = request.POST.get("pieces", "").strip()
        if not pieces or 1 <= (whole(pieces) or 0) <= MOST_PIECES:
            planned.plan.pieces = int(pieces) if pieces else None
        else:
            faults.append(
                f"How many pieces? A whole number from 1 to {MOST_PIECES}, or nothing for one to"
                " each student."
            )
        prices = request.POST.get("prices")
        if prices is not None and prices != planned.workshop.prices:
            if len(prices) > MOST_PRICES:
                faults.append(
                    f"The price list is longer than {MOST_PRICES // 1000},000 characters and was"
                    " not kept. Leave out what the school never buys."
                )
            else:
                workshop = own_workshop(request.user)
                workshop.prices = prices
                workshop.save(update_fields=["prices"])
        keep(planned, request.user)
        if not request.htmx and not faults:
            return redirect("recipe", pk=pk)
        planned = planned_of(request, pk)
    context = {
        "p": planned,
        "brief": planned.brief,
        "rows": _rows(planned),
        "faults": faults_of(planned.plan.items, planned.materials) + faults,
        "told": TOLD,
        "instead": planned.in_place_of(request.GET.get("instead", "")),
        "roles": ROLES,
        "colours": COLOURS,
    }
    return render(
        request, "planner/_recipe.html" if request.htmx else "planner/recipe.html", context
    )


@require_POST
def answer(request, pk):
    """What is said to a warning: the material is taken out, or stays, with the reason."""
    planned, key = planned_of(request, pk), request.POST.get("key", "")
    one = next((w for w, _ in planned.warnings if w.key == key), None)
    words = " ".join(request.POST.get("words", "").split())[:300]
    if one is None:
        messages.info(request, "That warning does not apply any more.")
    elif request.POST.get("do") == "out":
        planned.plan.items = [i for i in planned.plan.items if i.get("slug") != one.material.slug]
        keep(planned, request.user)
    elif request.POST.get("do") == "again":
        planned.plan.answers.pop(key, None)
        keep(planned, request.user)
    elif len(words) < LEAST_WORDS:
        messages.error(
            request,
            f"{one.material.common} is still left out. Write in a few words why you keep it.",
        )
    else:
        said = {
            "words": words,
            "by": request.user.shown_name,
            "at": timezone.localtime().strftime("%d %B %Y, %H:%M"),
        }
        planned.plan.answers[key] = said
        keep(planned, request.user)
    return redirect("recipe", pk=pk)
