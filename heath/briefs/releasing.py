"""The release of a draft: what it would do to pieces already marked, and the briefs that take it
up.
"""

from __future__ import annotations

from dataclasses import asdict, dataclass
from hashlib import sha256

from django.contrib import messages
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from heath.assessment.models import Piece
from heath.assessment.reading import read
from heath.briefs.models import Brief
from heath.jobs.models import Job
from heath.jobs.work import NotDone, handles, start
from heath.people.once import once
from heath.people.policy import find, visible
from heath.rulebook.models import RuleSetVersion
from heath.rulebook.sets import LONGEST, RULE_SETS, SHORTEST, differences

PREVIEW = "release-preview"
GONE = "This draft is not there any more. Go back to the rulebook."


@dataclass(frozen=True)
class Effect:
    """What a rule set would do to a marked piece."""

    piece: int
    name: str
    brief: str
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


def effect(draft: RuleSetVersion, piece: Piece) -> Effect:
    """What a draft would have done to a piece already marked. Nothing is written."""
    new, old = read(piece).assessment.verdict_under(draft.rule_set), piece.mark
    return Effect(
        piece.pk,
        piece.shown_name,
        piece.brief.name,
        old.score,
        new.score,
        old.verdict.get("award", ""),
        new.award,
    )


def held_against(draft: RuleSetVersion):
    """The briefs held against a draft's rule set, or the one that it was made from."""
    slugs = (draft.slug, draft.slug.removesuffix("-own"))
    of_school = Brief.objects.filter(course__school=draft.school_id, rule_set__in=slugs)
    return of_school.select_related("course__school")


@require_POST
def preview(request, pk):
    """Have worked out what a draft would have done to the pieces already marked."""
    draft = find(request.user, RuleSetVersion, pk=pk, released_at__isnull=True)
    given = {"draft": draft.pk, "text": _digest(draft)}
    back, title = reverse("draft", args=[pk]), f"What {draft} would have done"
    return redirect(
        "job", start(PREVIEW, draft.school, request.user, title, given, back=back).secret
    )


def _digest(draft: RuleSetVersion) -> str:
    return sha256(draft.text.encode()).hexdigest()


@handles(PREVIEW)
def work_out(job: Job) -> None:
    """What a draft would have done to each piece already marked, the largest change first."""
    draft = RuleSetVersion.objects.filter(pk=job.given["draft"], school=job.school).first()
    if draft is None:
        raise NotDone(GONE)
    pieces = (
        Piece.objects.filter(brief__in=held_against(draft), mark__isnull=False)
        .select_related("brief__course__school", "student", "mark")
        .prefetch_related("photographs")
    )
    marked = [p for p in pieces if p.photograph and p.photograph.scene]
    effects = []
    for number, piece in enumerate(marked):
        job.progress(number, len(marked))
        effects.append(effect(draft, piece))
    job.result = [asdict(e) for e in sorted(effects, key=lambda e: -abs(e.step))]
    job.to = f"{reverse('draft-release', args=[draft.pk])}?made={job.secret}"


@once
def release_page(request, pk):
    """What a draft would have done to the pieces already marked, and its release."""
    draft = find(request.user, RuleSetVersion, "school", pk=pk)
    if draft.released_at:
        return redirect("rulebook")
    briefs, changes = list(held_against(draft)), differences(draft)
    fault, why = "", " ".join(request.POST.get("why", "").split())[:LONGEST]
    if request.method == "POST":
        chosen = set(request.POST.getlist("brief"))
        if changes and len(why) < SHORTEST:
            fault = "Say in a sentence why this changes: whoever marks by it will read it."
        else:
            RULE_SETS.release(draft, [b for b in briefs if str(b.pk) in chosen], why)
            messages.success(request, f"{draft} is released. It does not change any more.")
            return redirect("rulebook")
    job = visible(request.user, Job).filter(secret=request.GET.get("made", ""), kind=PREVIEW)
    done = job.first()
    known = done is not None and done.succeeded and done.given.get("text") == _digest(draft)
    effects = [Effect(**row) for row in done.result] if known else []
    context = {
        "draft": draft,
        "set": draft.rule_set,
        "briefs": briefs,
        "known": known,
        "effects": effects,
        "moves": sum(e.moves for e in effects),
        "changes": changes,
        "fault": fault,
        "why": why,
    }
    return render(request, "briefs/release.html", context, status=422 if fault else 200)
