"""What a draft would have done to pieces already marked."""

from __future__ import annotations

from dataclasses import dataclass

from django.contrib import messages
from django.shortcuts import redirect, render

from heath.assessment.models import Piece
from heath.assessment.reading import read
from heath.briefs.models import Brief
from heath.people.once import once
from heath.people.policy import find, visible
from heath.rulebook.models import RuleSetVersion
from heath.rulebook.sets import release


@dataclass(frozen=True)
class Effect:
    """What a rule set would do to a marked piece."""

    piece: Piece
    old: float | None
    new: float | None
    old_award: str
    new_award: str

    @property
    def step(self) -> float:
        """Change of the total."""
        return (self.new or 0) - (self.old or 0)

    @property
    def moves(self) -> bool:
        """Whether it changes the award."""
        return self.old_award != self.new_award


def effects(draft: RuleSetVersion, pieces) -> list[Effect]:
    """What a draft would have done to pieces already marked, the largest change first. Nothing is
    written.
    """
    out = []
    for piece in pieces:
        new = read(piece).assessment.under(draft.rule_set).verdict
        old = piece.mark
        out.append(Effect(piece, old.score, new.score, old.verdict.get("award", ""), new.award))
    return sorted(out, key=lambda e: -abs(e.step))


@once
def release_page(request, pk):
    """What a draft would have done to the pieces already marked, and its release."""
    one = find(request.user, RuleSetVersion, pk=pk)
    if one.released_at:
        return redirect("rulebook")
    base = one.slug.removesuffix("-own")
    briefs = list(
        visible(request.user, Brief)
        .filter(rule_set__in=(one.slug, base))
        .select_related("course__school")
    )
    if request.method == "POST":
        chosen = set(request.POST.getlist("brief"))
        release(one, [b for b in briefs if str(b.pk) in chosen])
        messages.success(request, f"{one} is released, and will not change any more.")
        return redirect("rulebook")
    marked = (
        visible(request.user, Piece)
        .filter(brief__in=briefs, mark__isnull=False)
        .select_related("brief__course__school", "student", "mark")
    )
    done = effects(one, [p for p in marked if p.photograph and p.photograph.scene])
    return render(
        request,
        "briefs/release.html",
        {
            "draft": one,
            "set": one.rule_set,
            "briefs": briefs,
            "effects": done,
            "moves": sum(e.moves for e in done),
        },
    )
