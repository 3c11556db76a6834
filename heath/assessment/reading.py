"""A piece as it now reads: automatic scene, corrections laid over it, findings, verdict."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass, replace
from functools import cached_property
from threading import RLock

import numpy as np
from cachetools import LRUCache, cached

from heath.assessment.corrected import (
    DATUM_HANDLES,
    OPEN,
    Corrections,
    corrected,
    first_stems,
    handles_put,
    laid_over,
    outline,
    pixels_of,
    surface,
)
from heath.assessment.framing import framed
from heath.assessment.models import STAGE_VIEWS, Cap, Correction, Override, Photograph, Piece
from juniper.assessment import (
    ALL_ROUND,
    BACK,
    FRONT,
    SEATED,
    SIDE,
    TOP,
    Assessment,
    PieceView,
    Word,
    assess,
    brief_by_card,
    doubts_of_views,
    measured_view,
    view_of,
)
from juniper.lengths import unit
from juniper.measures import Findings, View, WarmStart, surface_of, warm_start
from juniper.measures.focal import focal_doubt
from juniper.measures.lines import stem_lean, stem_length
from juniper.measures.matching import FROM
from juniper.rules import Brief as CoreBrief
from juniper.rules import Ceiling, RuleSet, Verdict
from juniper.rules import Override as CoreOverride
from juniper.scene import Bloom, Datum, Raster, Scene, Stem, Vessel, like_blooms, prepare
from juniper.scene.blooms import BLOOM


@dataclass(frozen=True)
class Group:
    """Like blooms of a piece: `number` from 1, and the part most of them play."""

    number: int
    role: str
    blooms: tuple[Bloom, ...]

    @property
    def slender(self) -> bool:
        """Whether they are line flowers by their shape."""
        return self.blooms[0].slender >= BLOOM.slender


@dataclass(frozen=True, eq=False)
class Reading:
    """What bench and sheet show of a piece. `stems` are the main lines in force, in the
    photograph's pixels: those found under this datum, with a person's changes laid over them;
    `answers` those to checks, by rule. `photograph` and all that is drawn are of one view; `shown`
    is what that view tells by itself, `findings` what the piece is judged by.
    """

    photograph: Photograph
    scene: Scene
    datum: Datum
    focal: tuple[float, float] | None
    moved: frozenset[str]
    findings: Findings
    verdict: Verdict
    overrides: tuple[Override, ...]
    corrections: tuple[Correction, ...]
    laid_over: Corrections
    stems: tuple[Stem, ...]
    answers: dict[str, float]
    shown: Findings
    caps: tuple[Cap, ...]
    brief: CoreBrief
    assessment: Assessment
    at: PieceView

    @property
    def vessels(self) -> tuple[Vessel, ...]:
        """The vessels in force of a composition, from the left; none for a single one, or in a view
        that does not tell them.
        """
        return self.at.vessels

    @property
    def view(self) -> str:
        """Which view is shown."""
        return self.photograph.view

    @property
    def pixels(self) -> np.ndarray:
        """The picture at its raster's size: sRGB (h, w, 3) uint8."""
        return pixels_of(self.photograph)

    @property
    def raster(self) -> Raster:
        """The raster in force."""
        return corrected(self.photograph, self.laid_over)[1]

    def prepare(self) -> None:
        """Open and look at the picture ahead of a correction."""
        prepare(self.raster, self.pixels)

    @cached_property
    def groups(self) -> tuple[Group, ...]:
        """The blooms in force, like ones together."""
        groups = like_blooms(self.scene.blooms)
        return tuple(
            Group(n, Counter(b.role for b in g).most_common(1)[0][0], g)
            for n, g in enumerate(groups, 1)
        )

    @property
    def outline(self) -> str:
        """The plant's outline and its openings as an SVG path in the photograph's pixels."""
        return outline(self.photograph, self.laid_over)

    @property
    def outer(self) -> np.ndarray:
        """The plant's closed outline, points (n, 2) in the photograph's pixels."""
        return surface(self.photograph, self.laid_over).outline

    def run_of(self, stem: Stem) -> tuple[float, float]:
        """A main line's visible length in pixels and its lean in degrees, to the viewer's right
        above 0, as they are measured.
        """
        surface_seen = surface(self.photograph, self.laid_over)
        view = View(surface_seen, self.datum, None, pose=self.scene.pose)
        return stem_length(view, stem), stem_lean(view, stem)

    @property
    def hands(self) -> int:
        """How many of the datum's four handles a person has put; of several vessels those of the
        one with the fewest.
        """
        if self.vessels:
            return min(len(v.datum.put & set(DATUM_HANDLES)) for v in self.vessels)
        return len(self.moved & set(DATUM_HANDLES))

    @property
    def confirmed(self) -> bool:
        """Whether the last that a person did to the handles was to say that they are right."""
        placing = [
            c
            for c in self.corrections
            if not c.undone
            and (
                c.kind == Correction.Kind.VESSEL and not c.puts_top
                if self.vessels
                else c.places.keys() & set(DATUM_HANDLES)
            )
        ]
        return bool(placing) and placing[-1].confirms

    @property
    def focal_doubt(self) -> str:
        """Why the focal point may be another one, in a sentence; '' once a person has put it, or
        called a bloom focal.
        """
        named = any(
            not c.undone and c.kind == Correction.Kind.BLOOM and c.what.get("role") == "focal"
            for c in self.corrections
        )
        if named or "focal" in self.moved or self.vessels:
            return ""  # a composition has no one focal point
        return focal_doubt(self.focal, self.scene.blooms)

    @property
    def frame(self) -> tuple[float, float, float, float]:
        """What the bench shows of the photograph at first: left, top, width and height in its
        pixels, about the piece, its container and its reference card, with room for the lines.
        """
        return framed(self.photograph, self.outer, self.datum)

    @property
    def vessels_doubt(self) -> str:
        """What to say where the view shows another number of vessels than the brief lists."""
        asked = len(self.brief.vessels)
        found = len(self.vessels) or 1
        if self.view not in (FRONT, SIDE) or asked < 2 or found == asked:
            return ""
        seen = (
            f"{found} vessel{'s have' if found > 1 else ' has'} handles; the brief lists {asked}."
        )
        if found < asked:
            return f"{seen} Drag with Container over what is missing, or correct the brief."
        return f"{seen} Press Delete on a handle of what is none of it, or correct the brief."

    @property
    def matched(self) -> bool:
        """Whether the front can be laid over the view that is shown."""
        return self.view in FROM

    @cached_property
    def views_doubt(self) -> tuple[tuple[str, str], ...]:
        """Which views may show another piece than the front: name of the view and a sentence."""
        return doubts_of_views(self.assessment.views)

    @property
    def to_check(self) -> bool:
        """Whether a doubtful automatic datum still stands in some handle."""
        return self.datum.needs_check


@dataclass(frozen=True, eq=False)
class Corrected:
    """One photograph with a person's corrections laid over it."""

    photograph: Photograph
    corrections: Corrections
    laid_over: Corrections
    moved: frozenset[str]
    view: PieceView
    facts: tuple  # all that the view follows from


def _see(photograph: Photograph, moving: bool = False) -> Corrected:
    """A photograph with its corrections. While a handle is `moving` the main lines stay as they
    were found first.
    """
    made = photograph.corrections.all()
    corrections = tuple(made if moving else made.select_related("made_by"))
    over, put = laid_over(corrections), handles_put(corrections)
    scene, raster = corrected(photograph, over)
    stems, vessels = (
        tuple(c.as_core() for c in corrections if c.kind == kind and not c.undone)
        for kind in (Correction.Kind.STEM, Correction.Kind.VESSEL)
    )
    view = view_of(
        scene,
        raster,
        surface(photograph, over),
        photograph.view,
        put,
        stems,
        first_stems(photograph, over) if moving else None,
        vessels,
    )
    laid = (*sorted(put.items()), moving, stems, vessels)
    facts = (photograph.pk, photograph.raster.name, tuple(c.pk for c in over), *laid)
    return Corrected(photograph, corrections, over, frozenset(put), view, facts)


def read(piece: Piece, moving: bool = False, shown: Photograph | None = None) -> Reading:
    """The piece as it now reads, `shown` by one of its photographs (the front if None). The piece
    must have a front photograph with a scene. While a handle is `moving` the main lines stay as
    they were found first; they are found anew when it rests.
    """
    front, shown = piece.photograph, shown or piece.photograph
    # The back speaks only of a piece that is seen all round: else nothing of it is read, above all
    # not while a handle moves.
    names = (SIDE, *((BACK,) if piece.brief.viewpoint == ALL_ROUND else ()), TOP, SEATED)
    others = [p for p in map(piece.view, names) if p is not None and p.scene]
    seen = {front.pk: _see(front, moving)} | {p.pk: _see(p, moving=True) for p in others}
    making = {
        str(stage): _see(p, moving=True)
        for stage in STAGE_VIEWS
        if (p := piece.view(stage)) is not None and p.scene
    }
    brief = brief_in_force(piece, seen[front.pk].view)
    overrides, caps = (
        tuple(s for s in said.all() if not s.taken_back) for said in (piece.overrides, piece.caps)
    )
    answers = {a.rule: a.value for a in piece.answers.all()}
    word = _word(overrides, caps, answers)
    start = _start_while(moving, seen[front.pk], brief.form)
    assessment = _assessed(tuple(seen.values()), making, brief, piece.brief.rules, word, start)
    at, own = seen[front.pk], assessment.own[FRONT]
    if shown != front:
        at = _see(shown, moving)
        start = _start_while(moving, at, brief.form)
        own = measured_view(at.view, brief, start, piece.brief.rules.weighing)
    return Reading(
        shown,
        at.view.scene,
        at.view.datum,
        at.view.focal,
        at.moved,
        assessment.findings,
        assessment.verdict,
        overrides,
        at.corrections,
        at.laid_over,
        at.view.stems,
        answers,
        own,
        caps,
        brief,
        assessment,
        at.view,
    )


# assessments that a process keeps, some .2 MB each: those of the pieces that people look at
_ASSESSED: LRUCache[tuple, Assessment] = LRUCache(4 * OPEN)
_ASSESSED_LOCK = RLock()


def _assessed(
    seen: tuple[Corrected, ...],
    making: dict[str, Corrected],
    brief: CoreBrief,
    rules: RuleSet,
    word: Word,
    start: WarmStart | None,
) -> Assessment:
    """A piece held against its rules; as it was before where nothing that this hangs on changed."""
    views, staged = tuple(s.view for s in seen), {name: s.view for name, s in making.items()}
    if start is not None:
        return assess(views, brief, rules, word, start, staged)
    pictures = (*(s.facts for s in seen), *((n, s.facts) for n, s in making.items()))
    said = (word.overrides, word.ceilings, *sorted(word.answers.items()))
    key = (pictures, brief, rules, said, unit())
    with _ASSESSED_LOCK:
        before = _ASSESSED.get(key)
    if before is not None:
        return replace(before, views=views, staged=staged)
    found = assess(views, brief, rules, word, stages=staged)
    with _ASSESSED_LOCK:
        _ASSESSED[key] = found.without_pictures()
    return found


def _word(overrides, caps, answers) -> Word:
    said = tuple(CoreOverride(o.rule, o.score, o.reason) for o in overrides)
    return Word(said, answers, tuple(Ceiling(c.family, c.at, c.reason) for c in caps))


def _place(seen: Corrected, form: str) -> tuple:
    """What hangs on a photograph's geometry at large: the picture, what was corrected, and which
    handles a person has put. Where exactly these are hardly changes it.
    """
    over = tuple(c.pk for c in seen.laid_over)
    return (seen.photograph.pk, seen.photograph.raster.name, over, seen.moved, form)


@cached(LRUCache(OPEN), key=_place, lock=RLock())
def _start(seen: Corrected, form: str) -> WarmStart:
    """What is taken over from where the handles were when first asked, for as long as they move."""
    scene, _ = corrected(seen.photograph, seen.laid_over)
    at = surface(seen.photograph, seen.laid_over)
    return warm_start(at, scene, seen.view.datum, seen.view.focal, form)


def _start_while(moving: bool, seen: Corrected, form: str) -> WarmStart | None:
    """What to take over while a handle moves; None when it rests."""
    return _start(seen, form) if moving else None


def brief_in_force(piece, front: PieceView) -> CoreBrief:
    """The brief as the rules read it, for a vessel off the shelf or one of the student's own."""
    brief = piece.core_brief
    card = piece.photograph.card or {}
    return (
        brief
        if piece.brief.shelf_container_id
        else brief_by_card(brief, front.datum.height, card.get("px_per_cm"))
    )


def anew(piece, reading: Reading, scene, raster, datum, focal, stems, brief) -> Reading:
    """The reading with another front picture, datum and (core) brief in its place: what would be,
    were it so.
    """
    before = reading.assessment
    front = PieceView(FRONT, scene, raster, surface_of(raster), datum, focal, stems)
    after = assess(
        (front, *before.views[1:]),
        brief,
        before.verdict.rule_set,
        before.word,
        stages=before.staged,
    )
    return replace(
        reading,
        scene=scene,
        datum=datum,
        focal=focal,
        stems=stems,
        findings=after.findings,
        verdict=after.verdict,
        shown=after.own[FRONT],
        brief=brief,
        assessment=after,
        at=front,
    )


def view_in_force(photograph: Photograph) -> PieceView:
    """A photograph with everything that people corrected laid over it."""
    return _see(photograph).view


def handles(reading: Reading) -> list[dict]:
    """The handles to draw: name, place, and what to call each."""
    out = []
    for handle, label in Correction.Handle.choices:
        if handle == "focal" and reading.view != "front":
            continue
        if handle != "focal" and reading.vessels:
            continue  # those of each vessel come in the place of the group's own
        point = reading.focal if handle == "focal" else getattr(reading.datum, handle)
        if point is None:
            # No focal point was found: its handle waits above the rim, to be dragged.
            up = reading.datum.up * 0.2 * reading.datum.height
            point = (reading.datum.rim[0] + up[0], reading.datum.rim[1] + up[1])
        out.append(
            {
                "name": handle,
                "label": label,
                "x": point[0],
                "y": point[1],
                "moved": handle in reading.moved,
                "vessel": None,
            }
        )
    return out + [h for vessel in reading.vessels for h in _handles_of(vessel)]


def _handles_of(vessel: Vessel) -> list[dict]:
    """The handles of one vessel of a composition, and that of the highest point in it; named with
    its key, so that one is told from another's.
    """
    words, datum = dict(Correction.Handle.choices), vessel.datum
    places = [
        (name, words[name], getattr(datum, name), name in datum.put) for name in DATUM_HANDLES
    ]
    # where nothing was found to stand in it, the handle waits over the rim, to be dragged
    top = vessel.top or tuple(np.array(datum.rim) + 0.2 * datum.height * datum.up)
    places.append(("top", "highest point", top, vessel.top_put))
    return [
        {
            "name": f"{name}@{vessel.key}",
            "label": f"{label} of vessel {vessel.number}",
            "x": at[0],
            "y": at[1],
            "moved": put,
            "vessel": vessel,
        }
        for name, label, at, put in places
    ]
