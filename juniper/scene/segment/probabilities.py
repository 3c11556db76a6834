"""A picture looked at by the parts network in two framings: the whole of it, then the piece by
itself, as it is and mirrored.

The network sees small things better in the second framing and pale ones better in the first, so the
two are joined; how far they agree says how far they can be believed (test-time augmentation; Wang
et al. 2019).
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from pathlib import Path

import cv2
import numpy as np

from juniper.scene.parts import Part
from juniper.scene.segment.engine import Network, loaded

WEIGHTS = Path(__file__).with_name("parts.onnx")
POINTS = ("base", "rim", "rim_left", "rim_right", "foot_front", "rim_front")
MIRRORED = (0, 1, 3, 2, 4, 5)  # the order of POINTS in a mirrored picture
PIECE = (Part.CONTAINER, Part.LEAF, Part.PETAL)


@dataclass(frozen=True)
class Framings:
    """How pictures are framed for the network."""

    # pixels: longer side of a framing; lessons were up to 416, and a little more shows finer stems
    long: int = 512
    block: int = 32  # sides are multiples of this, the network's coarsest stride
    # likeness of the piece from which a pixel counts when the second framing is laid about it
    least: float = 0.35
    room: float = 0.1  # of the piece's longer side, left about it in the second framing
    smallest: float = 0.0012  # of the picture: a patch of less is no piece
    # what the second framing's log odds weigh beside the first's, whose pixels are coarser
    nearer: float = 2.0
    window: int = 4  # cells about a map's peak in which a keypoint's place and spread are taken


FRAMINGS = Framings()


@dataclass(frozen=True, eq=False)
class Keypoint:
    """Where a keypoint is likely to lie: `at` (x, y) and `covariance` (2, 2) in pixels of the
    picture; `mass` 0..1 is how much of the network's map lies there, and not elsewhere in the
    picture.
    """

    at: np.ndarray
    covariance: np.ndarray
    mass: float


@dataclass(frozen=True, eq=False)
class PartProbabilities:
    """What was seen: `likely` float32 (6, h, w), the probability of each Part at each pixel of the
    picture; `points` by name; `agreement` 0..1, common to joint area of the piece between the
    looks.
    """

    likely: np.ndarray
    points: dict[str, Keypoint]
    agreement: float

    @property
    def piece(self) -> np.ndarray:
        """How likely each pixel is of the piece (h, w)."""
        return self.likely[list(PIECE)].sum(0)


@dataclass(frozen=True, eq=False)
class _Pass:
    """One run of the network: log odds of parts on a grid, keypoint maps, and where they lie: left,
    top and pixels of the picture to one of the framing.
    """

    odds: np.ndarray
    maps: np.ndarray
    left: float
    top: float
    pitch: float


def part_probabilities(
    pixels: np.ndarray,
    foreground: np.ndarray | None = None,
    click: tuple[float, float] | None = None,
    settings: Framings = FRAMINGS,
) -> PartProbabilities:
    """Look at an sRGB picture (uint8 h x w x 3). `foreground` (h, w) 0..1 is a general network's
    map, where there is one; `click` a place on the container that a person pointed at. Raises
    NoEngine when the network cannot be run.
    """
    network = loaded(WEIGHTS)
    height, width = pixels.shape[:2]
    whole = _run(network, pixels, (0, 0, width, height), foreground, click, False, settings)
    frame = _about(_likely(_laid(whole, (height, width)))[list(PIECE)].sum(0), settings)
    near, mirrored = (
        _run(network, pixels, frame, foreground, click, turned, settings)
        for turned in (False, True)
    )
    # What the first framing saw, on the finer grid of the second.
    rough = _laid(whole, near.odds.shape[1:], near)
    odds = (rough + settings.nearer * (near.odds + mirrored.odds) / 2) / (1 + settings.nearer)
    pieces = [_likely(o)[list(PIECE)].sum(0) > 0.5 for o in (rough, near.odds, mirrored.odds)]
    joint = np.logical_or.reduce(pieces).sum()
    agreement = float(np.logical_and.reduce(pieces).sum() / joint) if joint else 0.0
    all_odds = _laid(whole, (height, width))
    left, top, right, bottom = frame
    all_odds[:, top:bottom, left:right] = _laid(
        replace(near, odds=odds, left=near.left - left, top=near.top - top),
        (bottom - top, right - left),
    )
    return PartProbabilities(
        _likely(all_odds), _joined_points([whole, near, mirrored], settings), agreement
    )


def _about(piece: np.ndarray, settings: Framings) -> tuple[int, int, int, int]:
    """Frame (left, top, right, bottom) about what is likely piece (h, w); all of the picture where
    nothing is.
    """
    height, width = piece.shape
    count, _parts, stats, _ = cv2.connectedComponentsWithStats(
        (piece > settings.least).astype(np.uint8), connectivity=8
    )
    big = [
        k for k in range(1, count) if stats[k, cv2.CC_STAT_AREA] > settings.smallest * piece.size
    ]
    if not big:
        return 0, 0, width, height
    left, top = stats[big, cv2.CC_STAT_LEFT].min(), stats[big, cv2.CC_STAT_TOP].min()
    right = (stats[big, cv2.CC_STAT_LEFT] + stats[big, cv2.CC_STAT_WIDTH]).max()
    bottom = (stats[big, cv2.CC_STAT_TOP] + stats[big, cv2.CC_STAT_HEIGHT]).max()
    room = int(settings.room * max(right - left, bottom - top)) + 2
    return (
        max(0, left - room),
        max(0, top - room),
        min(width, right + room),
        min(height, bottom + room),
    )


def _run(
    network: Network, pixels, frame, foreground, click, mirrored: bool, settings: Framings
) -> _Pass:
    left, top, right, bottom = frame
    part = pixels[top:bottom, left:right]
    scale = settings.long / max(part.shape[:2])
    size = (max(1, round(part.shape[1] * scale)), max(1, round(part.shape[0] * scale)))
    small = cv2.resize(part, size, interpolation=cv2.INTER_AREA if scale < 1 else cv2.INTER_LINEAR)
    hints = np.full((2, size[1], size[0]), 128, np.float32)
    if foreground is not None:
        hints[0] = 255 * cv2.resize(
            foreground[top:bottom, left:right], size, interpolation=cv2.INTER_AREA
        )
    hints[1] = 0
    if click is not None:
        cv2.circle(
            hints[1],
            (round((click[0] - left) * scale), round((click[1] - top) * scale)),
            8,
            255,
            -1,
        )
    more = (-size[1] % settings.block, -size[0] % settings.block)
    small = cv2.copyMakeBorder(small, 0, more[0], 0, more[1], cv2.BORDER_REPLICATE)
    hints = np.pad(hints, ((0, 0), (0, more[0]), (0, more[1])), mode="edge")[:, 1::2, 1::2]
    if mirrored:
        small, hints = small[:, ::-1], hints[:, :, ::-1]
    picture = np.ascontiguousarray(small.transpose(2, 0, 1)[None], np.float32)
    odds, maps = (
        out[0] for out in network.run(picture, np.ascontiguousarray(hints[None], np.float32))
    )
    if mirrored:
        odds, maps = odds[:, :, ::-1], maps[list(MIRRORED), :, ::-1]
    odds, maps = (
        odds[:, : -(-size[1] // 2), : -(-size[0] // 2)],
        maps[:, : -(-size[1] // 4), : -(-size[0] // 4)],
    )
    return _Pass(
        np.ascontiguousarray(odds), np.ascontiguousarray(maps), float(left), float(top), 1 / scale
    )


def _likely(odds: np.ndarray) -> np.ndarray:
    """Probabilities of log odds (6, h, w)."""
    out = np.exp(odds - odds.max(0))
    return out / out.sum(0)


def _laid(one: _Pass, shape: tuple[int, int], onto: _Pass | None = None) -> np.ndarray:
    """Log odds (6, h, w) of a pass at each pixel of a picture of a `shape`, or at each cell of
    another pass; beyond its frame those of its edge.
    """
    p = 2 * one.pitch
    step, left, top = (2 * onto.pitch, onto.left, onto.top) if onto else (1.0, 0.0, 0.0)
    # Middles of cells: from the cells asked for to the picture to the cells there are.
    lay = np.array(
        [
            [step / p, 0, (0.5 * step + left - one.left) / p - 0.5],
            [0, step / p, (0.5 * step + top - one.top) / p - 0.5],
        ]
    )
    return np.stack(
        [
            cv2.warpAffine(
                o,
                lay,
                shape[::-1],
                flags=cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP,
                borderMode=cv2.BORDER_REPLICATE,
            )
            for o in one.odds
        ]
    )


def _point(one: _Pass, k: int, window: int) -> Keypoint:
    """A keypoint by one pass: mean and covariance of its map about the peak, which takes the `mass`
    it has there.
    """
    odds = one.maps[k]
    likely = np.exp(odds - odds.max())
    likely /= likely.sum()
    y, x = np.unravel_index(int(cv2.GaussianBlur(likely, (0, 0), 1.0).argmax()), likely.shape)
    y0, x0 = max(0, y - window), max(0, x - window)
    near = likely[y0 : y + window + 1, x0 : x + window + 1]
    mass = float(near.sum())
    ys, xs = np.mgrid[y0 : y0 + near.shape[0], x0 : x0 + near.shape[1]]
    mean = np.array([(near * xs).sum(), (near * ys).sum()]) / mass
    away = np.stack([xs - mean[0], ys - mean[1]])
    covariance = np.einsum("iyx,jyx,yx->ij", away, away, near) / mass
    cell = 4 * one.pitch
    return Keypoint((mean + 0.5) * cell + [one.left, one.top], covariance * cell**2, mass)


def _joined_points(passes: list[_Pass], settings: Framings) -> dict[str, Keypoint]:
    """Each keypoint by all passes: mean by mass and fineness, covariance within and between
    them.
    """
    out = {}
    for k, name in enumerate(POINTS):
        seen = [_point(one, k, settings.window) for one in passes]
        weight = np.array([p.mass / one.pitch**2 for p, one in zip(seen, passes, strict=True)])
        weight /= weight.sum()
        at = np.array([p.at for p in seen])
        mean = weight @ at
        within = sum(w * p.covariance for w, p in zip(weight, seen, strict=True))
        between = sum(w * np.outer(p - mean, p - mean) for w, p in zip(weight, at, strict=True))
        out[name] = Keypoint(mean, within + between, float(weight @ [p.mass for p in seen]))
    return out
