"""The one way from a photograph to a mark: bytes to an `Analysis`, and views, brief, rules and the
instructor's word to an `Assessment`.

Command line, intake, bench, trial, release preview, line-up and sheet all call this and put nothing
together themselves.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from functools import lru_cache

import numpy as np

from juniper import VERSION
from juniper.background import in_background
from juniper.colour.heaviness import LIGHTNESS
from juniper.lengths import unit
from juniper.measures import (
    Finding,
    Findings,
    Surface,
    WarmStart,
    all_round,
    measure,
    seen_from_the_side,
    stems_under,
    surface_of,
)
from juniper.measures.colours import Asked, seen_from_behind
from juniper.measures.grouped import measure_group, with_tops
from juniper.measures.matching import FROM, depth_of, doubt_of_view, lean_of
from juniper.measures.rings import from_above
from juniper.measures.surface import View
from juniper.measures.turning import blooms_behind, seen_from_a_seat, seen_from_above
from juniper.photograph import Advice, Photograph, read_photograph
from juniper.planning.stems import LARGEST
from juniper.rules import KINDS, Brief, Ceiling, NextCut, Override, RuleSet, Verdict, judge
from juniper.scene import (
    ContainerShape,
    CutOut,
    Datum,
    NoStem,
    Raster,
    Scene,
    Stem,
    StemChange,
    Vessel,
    VesselChange,
    change_stems,
    change_vessels,
    framing,
    framing_advice,
    group_datum,
    see,
)
from juniper.scene.trying import Cut, Trial, apply_change
from juniper.values import Point

FRONT, SIDE, BACK, TOP, SEATED = "front", "side", "back", "top", "seated"
ALL_ROUND = "all round"
# views whose findings are kept, each with its surface of some 10 MB: those of the pieces that
# people move handles on
KEPT = 6
# of its height, by which the card has to tell a container off the brief's before it is taken for
# another one
ANOTHER = 0.1
# of ten, by which a rule is called worse; of 100, from which a cut lowers the mark
WORSE, LOWER = 0.5, 0.5


@dataclass(frozen=True, eq=False)
class Analysis:
    """What was seen in one photograph, by the core of `version`."""

    photograph: Photograph
    scene: Scene
    raster: Raster
    surface: Surface
    advice: tuple[Advice, ...]
    version: str = VERSION

    def as_view(self, name: str = FRONT) -> PieceView:
        """The view as it was found, nothing put right."""
        return view_of(self.scene, self.raster, self.surface, name)

    def measured(self, brief: Brief | None = None) -> Findings:
        """Its measures by themselves, as they were found."""
        return measured_view(self.as_view(), brief or Brief(form=""))


def analyse(
    data: bytes | Photograph,
    name: str = "",
    given: Datum | None = None,
    known: ContainerShape | None = None,
    cutout: CutOut | None = None,
    container_height_cm: float | None = None,
    view: str = FRONT,
    vessels: int | None = 1,
    kind: str = KINDS[0],
    fall: float | None = None,
) -> Analysis:
    """Read a photograph and see what stands in it: decoded once, its card searched once.

    Parameters: the photograph's bytes, or the photograph where it was read already; the file's
    `name`; a datum `given` instead of the automatic; the container's shape where it is `known` from
    the shelf; a second engine (`cutout`); the container's true height, cm; from where it is seen;
    how many `vessels` the brief lists (None: nobody says, and all are looked for), and what `kind`
    of piece it is; `fall` is how far a garland is to hang, of its edge's length. Raises
    UnusablePhotograph, NothingFound or NoCutOut, with a sentence for the user.
    """
    photograph = data if isinstance(data, Photograph) else read_photograph(data, name)
    scene, raster = see(
        photograph,
        given,
        known,
        cutout,
        container_height_cm,
        view=view,
        vessels=vessels,
        kind=kind,
        fall=fall,
    )
    datum = scene.datum.scaled(raster.scale)
    framed = in_background(
        framing, raster.labels, photograph.pixels, datum, photograph.focal, photograph.card
    )
    surface = surface_of(raster)
    return Analysis(
        photograph,
        scene,
        raster,
        surface,
        photograph.advice
        + framing_advice(framed.result(), view)
        + vessels_advice(len(scene.vessels), vessels, view),
    )


@dataclass(frozen=True)
class PieceView:
    """A piece from one side (`name`: front, side, back, top or seated) with a person's corrections
    laid over it. Photograph pixels. Two are the same where raster and surface are the very same
    ones.
    """

    name: str
    scene: Scene
    raster: Raster
    surface: Surface
    datum: Datum
    focal: Point | None
    stems: tuple[Stem, ...]
    focal_put: bool = False
    vessels: tuple[Vessel, ...] = ()


def view_of(
    scene: Scene,
    raster: Raster,
    surface: Surface,
    name: str = FRONT,
    handles: Mapping[str, Point] | None = None,
    changes: tuple[StemChange, ...] = (),
    stems: tuple[Stem, ...] | None = None,
    vessels: tuple[VesselChange, ...] = (),
) -> PieceView:
    """A view with handles put by hand (rim, base, rim_left, rim_right, focal: photograph pixels)
    and changes of its main lines laid over what was found; of a composition changes of its
    `vessels`, whose datum then stands for the whole. `stems` are those found, where they were
    looked for already.
    """
    put = dict(handles or {})
    focal = put.pop("focal", scene.focal)
    group = change_vessels(scene.vessels, vessels)
    of_group = len(group) > 1 and scene.of_group
    if of_group:
        group = with_tops(raster, group)
    found = group_datum(group) if of_group and vessels else scene.datum
    datum = found.moved(**put) if put and not of_group else found
    if stems is None:
        stems = stems_under(surface, datum)
    for change in changes:
        try:
            stems = change_stems(stems, change, scene.height)
        except NoStem:
            continue  # the stem that was meant is found no more
    return PieceView(
        name,
        scene,
        raster,
        surface,
        datum,
        focal,
        stems,
        "focal" in (handles or {}),
        group if of_group else (),
    )


@dataclass(frozen=True)
class Word:
    """The instructor's word on a piece: scores set or waived, answers to checks by rule (0..1), and
    ceilings.
    """

    overrides: tuple[Override, ...] = ()
    answers: Mapping[str, float] = field(default_factory=dict)
    ceilings: tuple[Ceiling, ...] = ()


@dataclass(frozen=True, eq=False)
class Assessment:
    """A piece held against a rule set. `own` are the findings of each view by itself, `findings`
    those that the piece is judged by, and `stages` those of each stage of its making, seen in
    `staged`.
    """

    views: tuple[PieceView, ...]
    brief: Brief
    word: Word
    own: Mapping[str, Findings]
    findings: Findings
    verdict: Verdict
    version: str = VERSION
    stages: Mapping[str, Findings] = field(default_factory=dict)
    staged: Mapping[str, PieceView] = field(default_factory=dict)

    def without_pictures(self) -> Assessment:
        """The same without what holds pictures, to be kept: its views and stages, and the scales by
        which another rule set would add opposite.
        """
        own = {name: replace(found, scales=None) for name, found in self.own.items()}
        return replace(
            self, views=(), staged={}, own=own, findings=replace(self.findings, scales=None)
        )

    def _serves(self, rules: RuleSet) -> bool:
        """Whether a rule set can judge by the findings as they are."""
        return rules.weighing == self.findings.weighing and self.findings.scales is not None

    def under(self, rules: RuleSet) -> Assessment:
        """The same piece, brief and word under another rule set; measured again where that reads
        visual weight in another way.
        """
        if not self._serves(rules):
            return assess(self.views, self.brief, rules, self.word, stages=self.staged)
        new = replace(self, verdict=self.verdict_under(rules))
        return replace(new, verdict=replace(new.verdict, next_cut=_tried(new)))

    def verdict_under(self, rules: RuleSet) -> Verdict:
        """What another rule set says of the same piece; its next cut is not tried on the piece."""
        if not self._serves(rules):
            return assess(self.views, self.brief, rules, self.word, stages=self.staged).verdict
        return _verdict(self.findings, rules, self.brief, self.word, self.stages)


def assess(
    views: tuple[PieceView, ...],
    brief: Brief,
    rules: RuleSet,
    word: Word = Word(),
    start: WarmStart | None = None,
    stages: Mapping[str, PieceView] | None = None,
) -> Assessment:
    """Measure a piece from all its views (the front first; one of each) and at the `stages` of its
    making, and hold it against a rule set. `start` is what to take over of the front while one of
    its handles moves.
    """
    front, others = views[0], {v.name: v for v in views[1:]}
    own = {front.name: measured_view(front, brief, start, rules.weighing)}
    findings = own[front.name]
    if side := others.get(SIDE):
        findings = findings.joined(
            _from_the_side(side.surface, side.datum),
            _leaning(side),
            depth_of(_laid(side), _laid(front)),
        )
    if top := others.get(TOP):
        findings = findings.joined(
            *from_above(top.scene.blooms, brief.rings), *_from_above(top.surface)
        )
    if seat := others.get(SEATED):
        findings = findings.joined(*_from_a_seat(seat, brief.container_height_cm, unit()))
    if brief.viewpoint == ALL_ROUND:
        turned = {}
        if back := others.get(BACK):
            turned[BACK] = own[BACK] = _measured_aside(back, brief, rules.weighing, unit())
            findings = findings.joined(
                seen_from_behind(front.scene, back.scene), blooms_behind(findings, own[BACK])
            )
        if side:
            turned[SIDE] = own[SIDE] = _measured_aside(side, brief, rules.weighing, unit())
        findings = all_round(findings, turned)
    making = {
        name: _measured_aside(view, brief, rules.weighing, unit())
        for name, view in (stages or {}).items()
    }
    verdict = _verdict(findings, rules, brief, word, making)
    done = Assessment(
        views, brief, word, own, findings, verdict, stages=making, staged=stages or {}
    )
    return (
        done
        if start is not None
        else replace(done, verdict=replace(verdict, next_cut=_tried(done)))
    )


def measured_view(
    view: PieceView, brief: Brief, start: WarmStart | None = None, weighing: str = LIGHTNESS
) -> Findings:
    """The measures of one view by itself; `weighing` is what visual weight is read from."""
    found = measure(
        view.surface,
        view.scene,
        view.datum,
        view.focal,
        brief.container_height_cm,
        brief.form,
        view.stems,
        Asked(brief.with_green, brief.split, brief.setting),
        start,
        view.focal_put,
        weighing,
    ).in_words_of(brief.kind)
    if len(view.vessels) < 2:
        return found
    clear = tuple(v.clear for v in brief.vessels)
    group, swap = _of_the_group(view.raster, view.scene, view.vessels, clear)
    return replace(found.joined(*group), swap=swap)


@lru_cache(maxsize=KEPT)
def _of_the_group(
    raster: Raster, scene: Scene, vessels: tuple[Vessel, ...], clear: tuple[bool, ...]
) -> tuple[tuple[Finding, ...], str]:
    return measure_group(raster, scene, vessels, clear)


def doubts_of_views(views: tuple[PieceView, ...]) -> tuple[tuple[str, str], ...]:
    """Which of a piece's views, the front first, may show another piece: name of the view and a
    sentence for the instructor each. Groups, bunches and the view from above are not compared.
    """
    front, *others = views
    if front.vessels or front.scene.tied:
        return ()
    return tuple(
        (other.name, said)
        for other in others
        if other.name in FROM
        and (
            said := doubt_of_view(
                other.name, (_laid(front), front.scene.palette), (_laid(other), other.scene.palette)
            )
        )
    )


def _laid(view: PieceView) -> View:
    return View(view.surface, view.datum, view.focal, pose=view.scene.pose)


def vessels_advice(found: int, asked: int | None, view: str) -> tuple[Advice, ...]:
    """What to say where a picture shows other vessels than the brief lists."""
    if asked is None or asked < 2 or found == asked or view in (TOP, BACK):
        return ()
    missing = asked - found
    if found == 0:
        text = (
            f"The brief lists {asked} vessels, and no group of vessels was made out. Photograph"
            " the whole group, or add each vessel by hand on the bench."
        )
    elif missing > 0:
        text = (
            f"{found} vessels were found where the brief lists {asked}. Add the {missing} that are"
            " missing by hand on the bench, or correct the brief."
        )
    else:
        text = (
            f"{found} vessels were found where the brief lists {asked}. Take out by hand what is"
            " none of the composition, or correct the brief."
        )
    return (Advice("vessels", text, f"{found} of {asked}"),)


def brief_by_card(brief: Brief, container_px: float, px_per_cm: float | None) -> Brief:
    """The brief for a piece in a vessel of its maker's own: where the reference card's scale tells
    that its container (`container_px` high) is another than the brief's, it is as high as by the
    card, and broader or narrower by as much.
    """
    if not px_per_cm or not brief.container_height_cm:
        return brief
    high = round(container_px / px_per_cm, 1)
    by = high / brief.container_height_cm
    if abs(by - 1) <= ANOTHER or not 1 <= high <= LARGEST:
        return brief
    wide = brief.container_width_cm and round(by * brief.container_width_cm, 1)
    return replace(brief, container_height_cm=high, container_width_cm=wide)


def _verdict(
    findings: Findings, rules: RuleSet, brief: Brief, word: Word, stages: Mapping[str, Findings]
) -> Verdict:
    return judge(findings, rules, brief, word.overrides, dict(word.answers), word.ceilings, stages)


@lru_cache(maxsize=KEPT)
def _from_the_side(surface: Surface, datum: Datum) -> Finding:
    return seen_from_the_side(surface, datum)


@lru_cache(maxsize=KEPT)
def _from_above(surface: Surface) -> tuple[Finding, ...]:
    return seen_from_above(surface)


@lru_cache(maxsize=KEPT)
def _leaning(side: PieceView) -> Finding:
    return lean_of(_laid(side))


@lru_cache(maxsize=KEPT)
def _from_a_seat(view: PieceView, high: float | None, written_in: str) -> tuple[Finding, ...]:
    laid = _laid(view)
    return seen_from_a_seat(laid, view.scene, high / laid.container_height if high else None)


@lru_cache(maxsize=2 * KEPT)
def _measured_aside(view: PieceView, brief: Brief, weighing: str, written_in: str) -> Findings:
    """The measures of another view, or of a stage. Its sentences are kept by the unit that they are
    written in.
    """
    return replace(measured_view(view, brief, weighing=weighing), scales=None)


def _tried(done: Assessment) -> NextCut:
    """The next cut, tried on the piece before it is advised: what it makes worse is named, and one
    that lowers the mark is not advised.
    """
    cut, front, before = done.verdict.next_cut, done.views[0], done.verdict
    if (
        cut.ghost is None
        or cut.cm is None
        or done.findings.cm_per_px is None
        or before.score is None
    ):
        return cut
    lengths = tuple((spot, round(cm / done.findings.cm_per_px, 2)) for spot, cm in cut.cuts)
    own = _after_cuts(front, lengths, done.brief, done.findings.weighing)
    if own is None:
        return replace(cut, text=f"{cut.text} It could not be tried on the picture, so look twice.")
    findings = done.findings.joined(
        *(f for f in own.by_name.values() if done.findings.by_name[f.name].view == front.name)
    )
    after = _verdict(findings, before.rule_set, done.brief, done.word, done.stages)
    if after.score is None:
        return cut
    was = {x.rule.code: x.score for x in before.lines}
    worse = tuple(
        f"{x.rule.title.lower()} ({old:.1f} to {x.score:.1f})"
        for x in after.lines
        if (old := was[x.rule.code]) is not None and x.score is not None and x.score < old - WORSE
    )
    gain = after.score - before.score
    if gain < -LOWER:
        why = f" These would score lower: {', '.join(worse)}." if worse else ""
        words = (
            "Leave the height: cutting the tallest stem to the band would lower the mark by"
            f" {-gain:.0f}.{why} A taller container would suit it better."
        )
        return NextCut(words, None, worse=worse, gain=gain, rule=cut.rule)
    also = f" After this cut these score lower: {', '.join(worse)}." if worse else ""
    return replace(cut, text=cut.text + also, worse=worse, gain=gain)


@lru_cache(maxsize=KEPT)
def _after_cuts(
    view: PieceView, cuts: tuple[tuple[Point, float], ...], brief: Brief, weighing: str
) -> Findings | None:
    """The front's findings with stems cut, each (its tip, length), photograph pixels; None where
    that of the tallest, the first, cannot be tried.
    """
    shades = np.dstack(
        [np.clip(view.raster.light.astype(np.float32) * 2.55, 0, 255).astype(np.uint8)] * 3
    )
    after = Trial.of(view.scene, view.raster, shades, view.datum, view.focal, view.stems)
    for number, (tip, length) in enumerate(cuts):
        try:
            after = apply_change(after, Cut(tip, length))
        except (NoStem, ValueError):
            if number == 0:
                return None
    lower = replace(
        view,
        scene=after.scene,
        raster=after.raster,
        surface=surface_of(after.raster),
        datum=after.datum,
        focal=after.focal,
        stems=after.stems,
    )
    # which would keep the whole surface with it
    return replace(measured_view(lower, brief, weighing=weighing), scales=None)
