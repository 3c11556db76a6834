"""The same piece, the same mark: one photograph taken again in small ways, and how far its mark
moves.
"""

from __future__ import annotations

import io
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from pathlib import Path

import cv2
import numpy as np
from PIL import Image, ImageOps

from juniper.assessment import analyse, assess
from juniper.evaluation.truth import truth_beside
from juniper.photograph import UnusablePhotograph
from juniper.rules import Brief, school
from juniper.scene import NothingFound
from juniper.steadiness import seen_again, steadied

LARGE = 5.0  # of 100: a shift that a student would ask about
Picture = np.ndarray


def _saved(pixels: Picture, quality: int = 92) -> bytes:
    out = io.BytesIO()
    Image.fromarray(pixels).save(out, "JPEG", quality=quality)
    return out.getvalue()


def _lit(pixels: Picture, by: float) -> Picture:
    """Brighter or darker by a factor in linear light, by the sRGB curve's usual power of 2.2."""
    return np.clip(np.round(255 * (pixels / 255.0) * by ** (1 / 2.2)), 0, 255).astype(np.uint8)


def _turned(pixels: Picture, degrees: float) -> Picture:
    high, wide = pixels.shape[:2]
    turn = cv2.getRotationMatrix2D((wide / 2, high / 2), degrees, 1.0)
    return cv2.warpAffine(
        pixels, turn, (wide, high), flags=cv2.INTER_CUBIC, borderMode=cv2.BORDER_REFLECT
    )


def _cropped(pixels: Picture, share: float) -> Picture:
    high, wide = pixels.shape[:2]
    y, x = round(high * share / 2), round(wide * share / 2)
    return pixels[y : high - y, x : wide - x]


def _half(pixels: Picture) -> Picture:
    return cv2.resize(pixels, None, fx=0.5, fy=0.5, interpolation=cv2.INTER_AREA)


RESHOOTS: dict[str, Callable[[Picture], bytes]] = {
    "as taken": _saved,
    "mirrored": lambda p: _saved(np.ascontiguousarray(p[:, ::-1])),
    "half size": lambda p: _saved(_half(p)),
    "JPEG 50": lambda p: _saved(p, 50),
    "JPEG 60": lambda p: _saved(p, 60),
    "a tenth lighter": lambda p: _saved(_lit(p, 1.1)),
    "a tenth darker": lambda p: _saved(_lit(p, 0.9)),
    "turned by 1 degree": lambda p: _saved(_turned(p, 1.0)),
    "cropped by 5 %": lambda p: _saved(_cropped(p, 0.05)),
}


@dataclass(frozen=True)
class Shot:
    """One re-shoot of a piece: its mark, that mark's stated uncertainty, whether its datum is
    flagged, and each rule's score by code.
    """

    name: str
    score: float
    uncertainty: float
    needs_check: bool
    lines: dict[str, float | None]


def shots_of(
    path: Path,
    steady: bool = True,
    rules: str = "classical-line-mass",
    form: str = "symmetrical triangle",
) -> tuple[str, list[Shot]]:
    """The marks of a photograph taken again in each way; `steady`: each looked at under small
    changes, as the site does. The container's height is told where its truth beside it has it.
    """
    with Image.open(path) as image:
        pixels = np.asarray(ImageOps.exif_transpose(image).convert("RGB"))
    height = truth_beside(path).height_cm if path.with_suffix(".json").exists() else None
    brief = Brief(form=form, container_height_cm=height)
    out = []
    for name, again in RESHOOTS.items():
        try:
            seen = analyse(again(pixels))
        except (UnusablePhotograph, NothingFound):
            continue
        if steady:
            seen = steadied(seen, brief, seen_again(seen.photograph))
        verdict = assess((seen.as_view(),), brief, school(rules)).verdict
        if verdict.score is not None:
            lines = {x.rule.code: x.score for x in verdict.lines}
            out.append(
                Shot(name, verdict.score, verdict.uncertainty, seen.scene.datum.needs_check, lines)
            )
    return path.stem, out


@dataclass(frozen=True)
class Repeat:
    """Over pieces: how many, and shots of them; the mark's standard deviation over re-shoots,
    pooled, and the stated one (root mean square); shares of shots that moved the mark by over LARGE
    from its mean, all and those whose datum is not flagged; and the most it moved.
    """

    pieces: int
    shots: int
    mark_sd: float
    mark_u: float
    shift_over_5: float
    unflagged_over_5: float
    most: float


def repeat(pieces: Iterable[tuple[str, list[Shot]]]) -> Repeat:
    """The figures over several pieces; those of which fewer than two shots could be measured are
    left out.
    """
    kept = [shots for _, shots in pieces if len(shots) > 1]
    variances = [float(np.var([s.score for s in shots], ddof=1)) for shots in kept]
    weights = [len(shots) - 1 for shots in kept]
    shifts = [
        (abs(s.score - float(np.median([t.score for t in shots]))), s.needs_check)
        for shots in kept
        for s in shots
    ]
    stated = [s.uncertainty**2 for shots in kept for s in shots]
    count = max(1, len(shifts))
    return Repeat(
        len(kept),
        len(shifts),
        round(float(np.sqrt(np.average(variances, weights=weights))), 2) if kept else 0.0,
        round(float(np.sqrt(np.mean(stated))), 2) if kept else 0.0,
        round(sum(s > LARGE for s, _ in shifts) / count, 4),
        round(sum(s > LARGE and not f for s, f in shifts) / count, 4),
        round(max((s for s, _ in shifts), default=0.0), 1),
    )
