"""A piece as it now reads: automatic scene, corrections laid over it, findings, verdict."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable
from dataclasses import dataclass, field, replace
from functools import cached_property, lru_cache

import cv2
import numpy as np

from heath.bench.models import Cap, Correction, Override
from heath.intake.models import Photograph, Piece
from juniper.assessment import (
    ALL_ROUND,
    BACK,
    FRONT,
    SIDE,
    TOP,
    Assessment,
    PieceView,
    Word,
    assess,
    brief_by_card,
    measured_view,
    view_of,
)
from juniper.measures import Findings, Surface, View, stems_under, surface_of
from juniper.measures.lines import stem_lean, stem_length
from juniper.measures.saliency import eye_map
from juniper.rules import Brief as CoreBrief
from juniper.rules import Ceiling, Verdict
from juniper.rules import Override as CoreOverride
from juniper.scene import (
    Bloom,
    Datum,
    Label,
    NoBloom,
    Raster,
    Scene,
    Stem,
    correct,
    like_blooms,
    prepare,
)
from juniper.scene.blooms import SLENDER

DATUM_HANDLES = ("rim", "base", "rim_left", "rim_right")


@dataclass(frozen=True)
class Group:
    """Like blooms of a piece: `number` from 1, and the part most of them play."""

    number: int
    role: str
    blooms: tuple[Bloom, ...]

    @property
    def slender(self) -> bool:
        """Whether they are line flowers by their shape."""
        return self.blooms[0].slender >= SLENDER


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
    marks: tuple[int, ...]
    stems: tuple[Stem, ...]
    answers: dict[str, float]
    shown: Findings
    caps: tuple[Cap, ...]
    brief: CoreBrief
    assessment: Assessment

    @property
    def view(self) -> str:
        """Which view is shown."""
        return self.photograph.view

    @property
    def pixels(self) -> np.ndarray:
        """The picture at its raster's size, sRGB."""
        return picture_pixels(self.photograph.pk, self.photograph.raster.name)

    @property
    def raster(self) -> Raster:
        """The raster in force."""
        return amended_raster(self.photograph.pk, self.photograph.raster.name, self.marks)

    def prepare(self) -> None:
        """Open and look at the picture ahead of a correction."""
        prepare(
            _amended(self.photograph.pk, self.photograph.raster.name, self.marks)[1], self.pixels
        )

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
        return _outline(self.photograph.pk, self.photograph.raster.name, self.marks)

    @property
    def outer(self) -> np.ndarray:
        """The plant's closed outline, points (n, 2) in the photograph's pixels."""
        return _surface(self.photograph.pk, self.photograph.raster.name, self.marks).outline

    def run_of(self, stem: Stem) -> tuple[float, float]:
        """A main line's visible length in pixels and its lean in degrees, to the viewer's right
        above 0, as they are measured.
        """
        surface = _surface(self.photograph.pk, self.photograph.raster.name, self.marks)
        view = View(surface, self.datum, None, pose=self.scene.pose)
        return stem_length(view, stem), stem_lean(view, stem)

    @property
    def hands(self) -> int:
        """How many of the datum's four handles a person has put."""
        return len(self.moved & set(DATUM_HANDLES))

    @property
    def confirmed(self) -> bool:
        """Whether the last that a person did to the handles was to say that they are right."""
        placing = [
            c for c in self.corrections if not c.undone and c.places.keys() & set(DATUM_HANDLES)
        ]
        return bool(placing) and placing[-1].confirms

    @property
    def to_check(self) -> bool:
        """Whether a doubtful automatic datum still stands in some handle."""
        return self.datum.needs_check


# pieces that people have on the bench at once, as a process keeps them: 10 MB of surface each
OPEN = 32


# The raster's name is random and never written twice, and a stroke never changes: so both stand for
# what they hold.
@lru_cache(maxsize=2 * OPEN)
def _amended(pk: int, name: str, marks: tuple[int, ...]) -> tuple[Scene, Raster]:
    """Scene and raster with strokes and bloom changes laid over them, one after the other."""
    if not marks:
        photograph = Photograph.objects.get(pk=pk)
        return photograph.core_scene(), photograph.core_raster()
    scene, raster = _amended(pk, name, marks[:-1])
    try:
        return correct(
            scene, raster, picture_pixels(pk, name), Correction.objects.get(pk=marks[-1]).as_core()
        )
    except (NoBloom, ValueError):
        return scene, raster  # the bloom that was meant is found no more


@lru_cache(maxsize=OPEN // 2)
def picture_pixels(pk: int, name: str) -> np.ndarray:
    """The picture at its raster's size."""
    photograph = Photograph.objects.get(pk=pk)
    with photograph.screen.open("rb") as file:
        picture = cv2.imdecode(np.frombuffer(file.read(), np.uint8), cv2.IMREAD_COLOR_RGB)
    size = _amended(pk, name, ())[1].labels.shape[::-1]
    return cv2.resize(picture, size, interpolation=cv2.INTER_AREA)


def amended_raster(pk: int, name: str, marks: tuple[int, ...]) -> Raster:
    """The raster of a photograph with corrections laid over it."""
    return _amended(pk, name, marks)[1]


@lru_cache(maxsize=OPEN)
def _surface(pk: int, name: str, marks: tuple[int, ...]) -> Surface:
    return surface_of(_amended(pk, name, marks)[1])


@lru_cache(maxsize=OPEN)
def _outline(pk: int, name: str, marks: tuple[int, ...]) -> str:
    raster = _amended(pk, name, marks)[1]
    edges, _ = cv2.findContours(
        (raster.labels == Label.PLANT).astype(np.uint8), cv2.RETR_CCOMP, cv2.CHAIN_APPROX_SIMPLE
    )
    parts = []
    for edge in edges:
        if cv2.contourArea(edge) >= 6:
            edge = (cv2.approxPolyDP(edge, 0.7, True).reshape(-1, 2) + 0.5) / raster.scale  # noqa: PLW2901
            parts.append("M" + "L".join(f"{x:.0f} {y:.0f}" for x, y in edge) + "Z")
    return "".join(parts)


def outline_of(photograph: Photograph, marks: tuple[int, ...]) -> str:
    """The plant's outline as an SVG path in the photograph's pixels, with only some corrections of
    what was seen in force.
    """
    return _outline(photograph.pk, photograph.raster.name, marks)


SEEN = (Correction.Kind.BRUSH, Correction.Kind.BLOOM, Correction.Kind.COLOUR)


def marks_of(corrections) -> tuple[int, ...]:
    """Numbers of the corrections in force that change what is seen: strokes and changes of colours
    as they were made, then changes of blooms, since a stroke finds the blooms anew and these are
    laid over them.
    """
    standing = sorted(
        (c for c in corrections if c.kind in SEEN and not c.undone),
        key=lambda c: c.kind == Correction.Kind.BLOOM,
    )
    return tuple(c.pk for c in standing)


def handles_put(corrections: Iterable[Correction]) -> dict[str, tuple[float, float]]:
    """Where a person last put each handle, by its name."""
    last: dict[str, tuple[float, float]] = {}
    for correction in corrections:
        if not correction.undone:
            last |= correction.places
    return last


@dataclass(frozen=True, eq=False)
class Seen:
    """One photograph with a person's corrections laid over it."""

    photograph: Photograph
    corrections: tuple[Correction, ...]
    marks: tuple[int, ...]
    moved: frozenset[str]
    view: PieceView


def _see(photograph: Photograph, moving: bool = False) -> Seen:
    """A photograph with its corrections. While a handle is `moving` the main lines stay as they
    were found first.
    """
    corrections = tuple(photograph.corrections.select_related("made_by"))
    marks = marks_of(corrections)
    scene = _amended(photograph.pk, photograph.raster.name, marks)[0]
    surface = _surface(photograph.pk, photograph.raster.name, marks)
    first = _first_stems(photograph.pk, photograph.raster.name, marks) if moving else None
    changes = tuple(
        c.as_core() for c in corrections if c.kind == Correction.Kind.STEM and not c.undone
    )
    put = handles_put(corrections)
    view = view_of(
        scene,
        amended_raster(photograph.pk, photograph.raster.name, marks),
        surface,
        photograph.view,
        put,
        changes,
        first,
    )
    return Seen(photograph, corrections, marks, frozenset(put), view)


def read(piece: Piece, moving: bool = False, shown: Photograph | None = None) -> Reading:
    """The piece as it now reads, `shown` by one of its photographs (the front if None). The piece
    must have a front photograph with a scene. While a handle is `moving` the main lines stay as
    they were found first; they are found anew when it rests.
    """
    front, shown = piece.photograph, shown or piece.photograph
    # The back speaks only of a piece that is seen all round: else nothing of it is read, above all
    # not while a handle moves.
    names = (
        SIDE,
        *((BACK,) if piece.brief.viewpoint == ALL_ROUND else ()),
        *((TOP,) if piece.brief.rings else ()),
    )
    others = [p for p in map(piece.view, names) if p is not None and p.scene]
    seen = {front.pk: _see(front, moving)} | {p.pk: _see(p, moving=True) for p in others}
    brief = brief_in_force(piece, seen[front.pk].view)
    overrides, caps = (
        tuple(said.filter(taken_back=False)) for said in (piece.overrides, piece.caps)
    )
    answers = {a.rule: a.value for a in piece.answers.all()}
    views = tuple(s.view for s in seen.values())
    assessment = assess(
        views,
        brief,
        piece.brief.rule_set,
        _word(overrides, caps, answers),
        _unsure_while(moving, seen[front.pk]),
    )
    at, own = seen[front.pk], assessment.own[FRONT]
    if shown != front:
        at = _see(shown, moving)
        own = measured_view(
            at.view, brief, _unsure_while(moving, at), piece.brief.rule_set.weighing
        )
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
        at.marks,
        at.view.stems,
        answers,
        own,
        caps,
        brief,
        assessment,
    )


def _word(overrides, caps, answers) -> Word:
    said = tuple(CoreOverride(o.rule, o.score, o.reason) for o in overrides)
    return Word(said, answers, tuple(Ceiling(c.family, c.at, c.reason) for c in caps))


@dataclass(frozen=True)
class _Place:
    """What the uncertainty of a photograph's geometry hangs on: the picture, and which handles a
    person has put. Where exactly these are hardly changes it, so that is not compared.
    """

    pk: int
    name: str
    marks: tuple[int, ...]
    moved: frozenset[str]
    datum: Datum = field(compare=False)
    focal: tuple[float, float] | None = field(compare=False)


@lru_cache(maxsize=OPEN)
def _unsure(place: _Place) -> dict[str, float]:
    """Uncertainty of each measure where the handles were when first asked, for as long as they
    move.
    """
    scene = _amended(place.pk, place.name, place.marks)[0]
    raster, surface = (
        amended_raster(place.pk, place.name, place.marks),
        _surface(place.pk, place.name, place.marks),
    )
    found = measured_view(
        PieceView(FRONT, scene, raster, surface, place.datum, place.focal, ()), CoreBrief(form="")
    )
    return {name: f.uncertainty for name, f in found.by_name.items() if f.measured}


def _unsure_while(moving: bool, seen: Seen) -> dict[str, float] | None:
    """The uncertainties to take over while a handle moves; None when it rests."""
    at, view = seen.photograph, seen.view
    return (
        _unsure(_Place(at.pk, at.raster.name, seen.marks, seen.moved, view.datum, view.focal))
        if moving
        else None
    )


def brief_in_force(piece, front: PieceView) -> CoreBrief:
    """The brief as the rules read it, for a vessel off the shelf or one of the student's own."""
    brief = piece.brief.as_core(piece.dominant)
    card = piece.photograph.card or {}
    return (
        brief
        if piece.brief.stands_id
        else brief_by_card(brief, front.datum.height, card.get("px_per_cm"))
    )


def anew(piece, reading: Reading, scene, raster, datum, focal, stems, brief) -> Reading:
    """The reading with another front picture, datum and (core) brief in its place: what would be,
    were it so.
    """
    before = reading.assessment
    front = PieceView(FRONT, scene, raster, surface_of(raster), datum, focal, stems)
    after = assess((front, *before.views[1:]), brief, before.verdict.rule_set, before.word)
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
    )


@lru_cache(maxsize=2 * OPEN)
def _first_stems(pk: int, name: str, marks: tuple[int, ...]) -> tuple[Stem, ...]:
    return stems_under(_surface(pk, name, marks), _amended(pk, name, marks)[0].datum)


def view_in_force(photograph: Photograph) -> PieceView:
    """A photograph with everything that people corrected laid over it."""
    return _see(photograph).view


def datum_of(photograph: Photograph) -> Datum:
    """The datum in force, without measuring anything."""
    scene = _amended(photograph.pk, photograph.raster.name, ())[0]
    put = {
        n: at for n, at in handles_put(photograph.corrections.all()).items() if n in DATUM_HANDLES
    }
    return scene.datum.moved(**put) if put else scene.datum


VEIL = (112, 112, 112, 215)  # a grey between most leaves and most petals
DIM = 140  # of 255: how dark the eye's layer is where the eye does not go


def eye_layer(reading: Reading) -> bytes:
    """Black by how little the eye is drawn to each place, as a PNG of the raster's size."""
    raster = amended_raster(reading.photograph.pk, reading.photograph.raster.name, reading.marks)
    drawn = cv2.GaussianBlur(
        eye_map(raster.light.astype(np.float32), raster.labels == Label.PLANT), (0, 0), 3
    )
    alpha = DIM * (1 - np.clip(drawn / max(float(drawn.max()), 1e-6), 0, 1) ** 0.6)
    black = np.zeros((*alpha.shape, 3), np.uint8)
    return cv2.imencode(".png", np.dstack([black, alpha.astype(np.uint8)]))[1].tobytes()


def petals_layer(reading: Reading) -> bytes:
    """The plant veiled in grey but for what counts as petal, as a PNG of the raster's size."""
    raster = amended_raster(reading.photograph.pk, reading.photograph.raster.name, reading.marks)
    leaf = (raster.labels == Label.PLANT) & (raster.flowers == 0)
    veil = np.where(leaf[..., None], VEIL, 0).astype(np.uint8)
    return cv2.imencode(".png", veil)[1].tobytes()


def handles(reading: Reading) -> list[dict]:
    """The handles to draw: name, place, and what to call each."""
    out = []
    for handle in Correction.Handle:
        if handle == "focal" and reading.view != "front":
            continue
        point = reading.focal if handle == "focal" else getattr(reading.datum, handle)
        if point is None:
            # No focal point was found: its handle waits above the rim, to be dragged.
            up = reading.datum.up * 0.2 * reading.datum.height
            point = (reading.datum.rim[0] + up[0], reading.datum.rim[1] + up[1])
        out.append(
            {
                "name": handle.value,
                "label": handle.label,
                "x": point[0],
                "y": point[1],
                "moved": handle.value in reading.moved,
            }
        )
    return out
