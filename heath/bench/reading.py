"""A piece as it now reads: automatic scene, corrections laid over it, findings, verdict."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

from heath.bench.models import Correction, Override
from heath.intake.models import Photograph, Piece
from juniper.measures import Findings, Surface, measure, surface_of
from juniper.rules import Override as CoreOverride
from juniper.rules import Verdict, judge
from juniper.scene import Datum, Scene

DATUM_HANDLES = ("rim", "base", "rim_left", "rim_right")


@dataclass(frozen=True, eq=False)
class Reading:
    """What bench and sheet show of a piece."""

    photograph: Photograph
    scene: Scene
    datum: Datum
    focal: tuple[float, float] | None
    moved: frozenset[str]
    can_undo: bool
    findings: Findings
    verdict: Verdict
    overrides: tuple[Override, ...]

    @property
    def hands(self) -> int:
        """How many of the datum's four handles a person has put."""
        return len(self.moved & set(DATUM_HANDLES))

    @property
    def to_check(self) -> bool:
        """Whether a doubtful automatic datum still stands in some handle."""
        return self.scene.datum.needs_check and self.hands < len(DATUM_HANDLES)


@lru_cache(maxsize=48)
def _surface(pk: int, name: str) -> Surface:
    # The raster's name is random and never written twice, so it stands for its contents.
    return surface_of(Photograph.objects.get(pk=pk).core_raster())


@lru_cache(maxsize=48)
def _scene(pk: int, name: str) -> Scene:
    return Photograph.objects.only("scene").get(pk=pk).core_scene()


def corrected(scene: Scene, corrections) -> tuple[Datum, tuple[float, float] | None, frozenset[str]]:
    """Datum and focal point with corrections laid over the automatic ones, and which were moved."""
    last = {c.handle: (c.x, c.y) for c in corrections if not c.undone}
    points = {h: last[h] for h in DATUM_HANDLES if h in last}
    datum = scene.datum.moved(**points) if points else scene.datum
    return datum, last.get("focal", scene.focal), frozenset(last)


def read(piece: Piece) -> Reading:
    """The piece as it now reads. The piece must have a photograph with a scene."""
    photograph = piece.photograph
    scene = _scene(photograph.pk, photograph.raster.name)
    surface = _surface(photograph.pk, photograph.raster.name)
    corrections = list(photograph.corrections.all())
    datum, focal, moved = corrected(scene, corrections)
    brief = piece.brief
    findings = measure(surface, scene, datum, focal, float(brief.container_height_cm))
    overrides = tuple(piece.overrides.filter(taken_back=False))
    said = tuple(CoreOverride(o.rule, o.score, o.reason) for o in overrides)
    verdict = judge(findings, brief.rule_set, brief.as_core(), said)
    can_undo = any(not c.undone for c in corrections)
    return Reading(photograph, scene, datum, focal, moved, can_undo, findings, verdict, overrides)


def datum_of(photograph: Photograph) -> Datum:
    """The datum in force, without measuring anything."""
    return corrected(_scene(photograph.pk, photograph.raster.name), photograph.corrections.all())[0]


def handles(reading: Reading) -> list[dict]:
    """The handles to draw: name, place, and what to call each."""
    out = []
    for handle in Correction.Handle:
        point = reading.focal if handle == "focal" else getattr(reading.datum, handle)
        if point is None:
            # No focal point was found: its handle waits above the rim, to be dragged.
            up = reading.datum.up * 0.2 * reading.datum.height
            point = (reading.datum.rim[0] + up[0], reading.datum.rim[1] + up[1])
        out.append(
            {"name": handle.value, "label": handle.label, "x": point[0], "y": point[1], "moved": handle.value in reading.moved}
        )
    return out
