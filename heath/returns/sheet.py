"""What a return sheet says, gathered once as plain figures and sentences."""

from __future__ import annotations

from dataclasses import asdict, dataclass

from heath.assessment.models import Piece
from heath.assessment.reading import Reading
from heath.drawing.bands import band_drawing
from heath.drawing.evidence import drawable, ghost
from heath.drawing.lines import band_text, spread
from heath.planner.models import Plan
from heath.planner.planned import stem_plan
from heath.returns.models import ReturnSheet
from heath.web.names import FAMILY_NAMES
from juniper.lengths import length, lengths
from juniper.rules import Group, Line, Verdict
from juniper.rules.awards import why_not_next
from juniper.rules.observations import seen_and_taught
from juniper.values import adding_up

CHANGED = 0.5  # of ten: a family's mark that differs by less is the same
DETAILED = 8  # rules shown with their band
SHOWN = ("height_ratio", "left_weight_share", "focal_height", "twin_tips")
MOST = 3  # things that held, and things to change
KEEP = "Keep this."
SEE_CUT = "See the next cut."
LEAST_COLOUR = 0.03  # share of the flowers from which a colour is named


@dataclass(frozen=True)
class Sentence:
    """One thing that held or is to be changed: the rule, what was seen, and what to do."""

    title: str
    seen: str
    do: str


@dataclass(frozen=True)
class ShortLine:
    """A rule in a few words: its title and its mark of ten."""

    title: str
    score: float


@dataclass(frozen=True)
class FullLine:
    """A rule shown with its band: what was `seen`, and how uncertain it is; `drawing` has the
    figures of the band as SVG, `reason` the instructor's words (`spoken`) or why it was not
    measured.
    """

    title: str
    seen: str
    spread: str
    band: str
    drawing: dict | None
    taught: str
    score: float | None
    state: str
    borderline: bool
    advice: str
    goals: str
    reason: str
    spoken: bool


@dataclass(frozen=True)
class Family:
    """A family of rules: its mark of ten, the rules shown in full, and those that held or were
    near.
    """

    name: str
    mark: float | None
    capped_by: str
    lines: tuple[FullLine, ...]
    held: tuple[ShortLine, ...]
    near: tuple[ShortLine, ...]


@dataclass(frozen=True)
class FamilyMark:
    """A family's name and its mark of ten."""

    name: str
    mark: float | None


@dataclass(frozen=True)
class SheetColour:
    """A colour of the flowers: sRGB, its name and its share in per cent."""

    hex: str
    hue: str
    share: int


@dataclass(frozen=True)
class SheetRemark:
    """The instructor's words; `number` tells the pin they belong to."""

    number: int | None
    words: str


@dataclass(frozen=True)
class Pin:
    """A remark pinned to a spot of the picture (its pixels)."""

    number: int
    words: str
    x: int
    y: int


@dataclass(frozen=True)
class Waived:
    """A rule that was waived, and why."""

    title: str
    reason: str


@dataclass(frozen=True)
class Before:
    """How the piece stands against the student's last one that was returned."""

    brief: str
    score: int
    words: str


@dataclass(frozen=True)
class Sheet:
    """Everything on a return sheet. Marks are of ten, the whole of 100; `marks` is what is drawn
    over the picture, of `width` and `height` pixels.
    """

    student: str
    brief: str
    course: str
    rule_set: str
    rule_set_version: str
    score: int | None
    spread: int
    pass_mark: float
    passed: bool
    photograph: int
    width: int
    height: int
    marks: tuple[dict, ...]
    held: tuple[Sentence, ...]
    to_change: tuple[Sentence, ...]
    next_cut: str
    families: tuple[Family, ...]
    award: str
    next_award: str
    measured: float
    called_for: float
    enough: bool
    family_marks: tuple[FamilyMark, ...]
    unmeasured: tuple[str, ...]
    palette: tuple[SheetColour, ...]
    scheme: str
    wished: str
    remarks: tuple[SheetRemark, ...]
    pins: tuple[Pin, ...]
    waived: tuple[Waived, ...]
    capped: str
    unsafe: str
    breaks: tuple[str, ...]
    before: Before | None
    changed: str
    planned: str
    settled: str

    def as_json(self) -> dict:
        """The sheet as it is kept, so that it never changes."""
        rows = asdict(self)
        return {"class" if name == "course" else name: value for name, value in rows.items()}


def sheet_of(piece: Piece, reading: Reading) -> Sheet:
    """The return sheet of a piece as it reads."""
    verdict, findings, photo = reading.verdict, reading.findings, reading.photograph
    brief, remarks = piece.brief, list(piece.remarks.filter(taken_back=False))
    settled = (piece.given.verdict.get("settled") if piece.given else None) or {}
    whole = settled.get("mark", verdict.score)
    score = None if whole is None else round(whole)
    return Sheet(
        student=piece.student.name,
        brief=brief.name,
        course=brief.course.name,
        rule_set=verdict.rule_set.name,
        rule_set_version=verdict.rule_set.version,
        score=score,
        spread=0 if settled else max(1, round(verdict.uncertainty)),
        pass_mark=float(brief.pass_mark),
        passed=score is not None and score >= float(brief.pass_mark),
        photograph=photo.pk,
        width=photo.width,
        height=photo.height,
        marks=_drawn(reading),
        held=held(verdict),
        to_change=to_change(verdict),
        next_cut=verdict.next_cut.text,
        families=_families(verdict),
        award=piece.given.verdict.get("award", "") if settled else verdict.award,
        next_award="" if settled else why_not_next(verdict, float(brief.pass_mark), FAMILY_NAMES),
        measured=verdict.measured,
        called_for=verdict.called_for,
        enough=verdict.enough,
        family_marks=tuple(
            FamilyMark(FAMILY_NAMES[g.family], _tenth(g.score)) for g in verdict.groups
        ),
        unmeasured=tuple(
            x.rule.title
            for x in verdict.lines
            if x.score is None and x.called_for and x.rule.weight
        ),
        palette=_palette(reading),
        scheme=findings.scheme.name if findings.scheme else "",
        wished=brief.scheme,
        remarks=tuple(
            SheetRemark(n if r.photograph_id == photo.pk else None, r.words)
            for n, r in enumerate(remarks, 1)
        ),
        pins=tuple(
            Pin(n, r.words, round(r.x), round(r.y))
            for n, r in enumerate(remarks, 1)
            if r.photograph_id == photo.pk
        ),
        waived=tuple(
            Waived(x.rule.title, x.overridden.rstrip("."))
            for x in verdict.lines
            if x.state == "waived"
        ),
        capped=verdict.capped_by,
        unsafe=verdict.unsafe,
        breaks=tuple(verdict.breaks),
        before=before(piece, verdict),
        changed=changed(piece),
        planned=planned(piece, reading),
        settled=f"Settled between two markers: {settled['reason'].rstrip('.')}." if settled else "",
    )


def _tenth(score: float | None) -> float | None:
    return None if score is None else round(score, 1)


def _drawn(reading: Reading) -> tuple[dict, ...]:
    """What is drawn over the picture: the chief measures, and the piece after its next cut."""
    # of several vessels each is drawn from foot to top, and not the whole as one
    first = "tops_differ" if reading.findings.measured("tops_differ") else SHOWN[0]
    marks = [m for name in (first, *SHOWN[1:]) for m in reading.findings[name].evidence]
    cut = reading.verdict.next_cut.ghost
    after = ghost(reading, cut) if cut is not None else ()
    return tuple(drawable(m) for m in (*dict.fromkeys(marks), *after))


def _families(verdict: Verdict) -> tuple[Family, ...]:
    """What cost most is shown with its band, and what was said by hand; the rest takes a line
    together, so that a sheet stays one page.
    """
    lost = [
        x
        for x in verdict.lines
        if x.score is not None and not x.overridden and x.state != "met" and x.rule.weight
    ]
    detailed = sorted(lost, key=lambda x: -(10 - x.marks) * x.rule.weight)[:DETAILED]
    families = (_family(group, detailed) for group in verdict.groups)
    return tuple(f for f in families if f is not None)


def _family(group: Group, detailed: list[Line]) -> Family | None:
    """A family on the sheet; None where none of its rules was judged."""
    counted = [x for x in group.lines if (x.score is not None or x.overridden) and x.rule.weight]
    if not counted:
        return None
    shown = [x for x in counted if x in detailed or x.overridden]
    rest = [x for x in counted if x not in shown]
    return Family(
        name=FAMILY_NAMES[group.family],
        mark=_tenth(group.score),
        capped_by=group.capped_by,
        lines=tuple(_full(x) for x in shown),
        held=tuple(_short(x) for x in rest if x.state == "met"),
        near=tuple(_short(x) for x in rest if x.state != "met"),
    )


def _palette(reading: Reading) -> tuple[SheetColour, ...]:
    flowers = [s for s in reading.scene.palette if s.part == "flower"]
    shown = adding_up([100 * s.share for s in flowers], 1.0)
    return tuple(
        SheetColour(s.chip, s.name if s.name == s.hue else f"{s.name} ({s.hue})", int(per_cent))
        for s, per_cent in zip(flowers, shown, strict=True)
        if s.share >= LEAST_COLOUR
    )


def planned(piece: Piece, reading: Reading) -> str:
    """How the piece stands against the brief's stem plan, in a sentence; '' where nobody planned,
    or its height was not measured.
    """
    height = reading.findings.measured("height_ratio")
    if height is None or not Plan.objects.filter(brief=piece.brief_id).exists():
        return ""
    plan, container = stem_plan(piece.brief, reading.brief)
    own = container.height != float(piece.brief.container_height_cm)
    by_card = f"In this container, {length(container.height, 0)} high by the card: planned"
    vessel = by_card if own else "Planned"
    return (
        f"{vessel} {length(plan.height, 0)} over the rim,"
        f" made {length(height.value * container.height, 0)};"
        f" {lengths(plan.low, plan.high, 0)} is taught."
    )


def changed(piece: Piece) -> str:
    """What became of the mark since the sheet before, in a sentence; '' on the first sheet or where
    it is the same.
    """
    last = piece.sheets.order_by("version").last()
    if last is None:
        return ""
    steps = list(piece.mark_changes.filter(made_at__gt=last.issued_at))
    if not steps or steps[0].old is None or steps[-1].new is None:
        return ""
    reasons = "; ".join(dict.fromkeys(s.why for s in steps if s.why))
    old, new = round(steps[0].old), round(steps[-1].new)
    words = (
        f"Since sheet {last.version} the mark went from {old} to {new}"
        if old != new
        else f"Sheet {last.version} was looked at again"
    )
    return f"{words}{': ' + reasons if reasons else ''}."


def before(piece: Piece, verdict: Verdict) -> Before | None:
    """How the piece stands against the student's last one that was returned: None when there is
    none.
    """
    last = (
        ReturnSheet.objects.filter(piece__student=piece.student_id, withdrawn_at=None)
        .exclude(piece=piece.pk)
        .order_by("issued_at")
        .last()
    )
    if last is None or verdict.score is None or last.figures.get("score") is None:
        return None
    old, new = last.figures["score"], round(verdict.score)
    marks = {
        FAMILY_NAMES[g.family]: round(g.score, 1) for g in verdict.groups if g.score is not None
    }
    steps = [
        (n, marks[n] - m)
        for n, m in ((f["name"], f["mark"]) for f in last.figures["families"])
        if m is not None and n in marks
    ]
    better = [n for n, step in sorted(steps, key=lambda s: -s[1]) if step >= CHANGED][:3]
    worse = [n for n, step in sorted(steps, key=lambda s: s[1]) if step <= -CHANGED][:3]
    words = f"{last.figures['brief']}: {old} of 100; this piece {new}."
    if better:
        words += f" {_listed(better)} {'is' if len(better) == 1 else 'are'} better."
    if worse:
        words += f" {_listed(worse)} {'was' if len(worse) == 1 else 'were'} better then."
    return Before(last.figures["brief"], old, words)


def _listed(names: list[str]) -> str:
    low = [names[0], *(n.lower() for n in names[1:])]
    return low[0] if len(low) == 1 else f"{', '.join(low[:-1])} and {low[-1]}"


def _short(line: Line) -> ShortLine:
    return ShortLine(line.rule.title, round(line.marks, 1))


def _full(line: Line) -> FullLine:
    finding = line.finding
    return FullLine(
        title=line.rule.title,
        seen=seen_and_taught(line),
        spread=spread(finding),
        band=band_text(line),
        drawing=band_drawing(line),
        taught=line.rule.taught,
        score=_tenth(line.score),
        state=line.state,
        borderline=line.borderline,
        advice=line.advice,
        goals=line.goals if line.score is not None and line.score < 8 else "",
        reason=line.overridden or finding.reason,
        spoken=bool(line.overridden),
    )


def held(verdict: Verdict) -> tuple[Sentence, ...]:
    """What held, the weightiest first."""
    kept = sorted((x for x in _judged(verdict) if x.state == "met"), key=lambda x: -x.rule.weight)
    return tuple(
        Sentence(x.rule.title, seen_and_taught(x) or f"{x.rule.title} holds.", KEEP)
        for x in kept[:MOST]
    )


def to_change(verdict: Verdict) -> tuple[Sentence, ...]:
    """What to change, the dearest first; what the next cut says already is not said again."""
    lost = sorted(
        (x for x in _judged(verdict) if x.state != "met" and x.to_do),
        key=lambda x: -(10 - x.marks) * x.rule.weight,
    )
    cut = verdict.next_cut
    tall = ("governing_ratio", "height_ratio", "table_height")

    def cut_says(line: Line) -> bool:
        return line.to_do.rstrip(".").lower() in cut.text.lower() or (
            line.rule.measure in tall and cut.ghost is not None
        )

    return tuple(
        Sentence(x.rule.title, seen_and_taught(x), SEE_CUT if cut_says(x) else x.to_do)
        for x in lost[:MOST]
    )


def _judged(verdict: Verdict) -> list[Line]:
    return [x for x in verdict.lines if x.score is not None and x.rule.weight]
