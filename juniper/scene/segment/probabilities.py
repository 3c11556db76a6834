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
FAR = 16.0  # cells of the vessels' grid that an output of one stands for, from foot to rim
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


@dataclass(frozen=True)
class VesselPlace:
    """Where a vessel stands: its foot and rim (x, y) and half its rim's width in pixels of the
    picture; `likely` 0..1, and `pitch` the pixels of the picture to one that was looked at.
    """

    foot: tuple[float, float]
    rim: tuple[float, float]
    half: float
    likely: float
    pitch: float

    @property
    def high(self) -> float:
        """From foot to rim, pixels."""
        return float(np.hypot(self.rim[0] - self.foot[0], self.rim[1] - self.foot[1]))


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
    top and pixels of the picture to one of the framing; and `vessels` (5, h, w), on the keypoints'
    grid: log odds of any vessel's foot and rim, the step from a foot to its rim, and the logarithm
    of half the rim's width.
    """

    odds: np.ndarray
    maps: np.ndarray
    left: float
    top: float
    pitch: float
    vessels: np.ndarray


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


def vessel_probabilities(
    pixels: np.ndarray,
    frame: tuple[int, int, int, int],
    click: tuple[float, float],
    within: tuple[float, float, float, float] | None = None,
    settings: Framings = FRAMINGS,
) -> PartProbabilities:
    """Look at one vessel among others: at a `frame` (left, top, right, bottom) of an sRGB picture,
    as it is and mirrored, with `click` on the vessel that is meant (pixels of the picture), whose
    keypoints lie `within` a box of it. The probabilities are those of the frame's pixels, the
    keypoints lie in the picture. Raises NoEngine when the network cannot be run.
    """
    network = loaded(WEIGHTS)
    left, top, right, bottom = frame
    passes = [
        _run(network, pixels, frame, None, click, mirrored, settings) for mirrored in (False, True)
    ]
    if within is not None:
        passes = [replace(p, maps=_only_within(p, within)) for p in passes]
    one, turned = passes
    odds = _laid(
        replace(one, odds=(one.odds + turned.odds) / 2, left=0.0, top=0.0),
        (bottom - top, right - left),
    )
    looks = [_likely(p.odds)[[Part.CONTAINER, Part.OTHER_VESSEL]].sum(0) > 0.5 for p in passes]
    joint = np.logical_or(*looks).sum()
    return PartProbabilities(
        _likely(odds),
        _joined_points(passes, settings),
        float(np.logical_and(*looks).sum() / joint) if joint else 0.0,
    )


def vessel_places(
    pixels: np.ndarray,
    frame: tuple[int, int, int, int],
    least: float,
    settings: Framings = FRAMINGS,
) -> tuple[list[VesselPlace], np.ndarray]:
    """The places of all vessels in a frame (left, top, right, bottom) of an sRGB picture that are
    at least so likely, and how likely each of its pixels is of any vessel (h, w): looked at as it
    is and mirrored. Raises NoEngine when the network cannot be run.
    """
    network = loaded(WEIGHTS)
    one, turned = (
        _run(network, pixels, frame, None, None, mirrored, settings) for mirrored in (False, True)
    )
    told = (one.vessels + turned.vessels) / 2
    foot, rim = (1 / (1 + np.exp(-told[k])) for k in (0, 1))
    cell = 4 * one.pitch
    peaks = (foot >= least) & (foot >= cv2.dilate(foot, np.ones((5, 5), np.uint8)))
    found = []
    for i, j in np.argwhere(peaks):
        x, y = j + told[2, i, j] * FAR, i + told[3, i, j] * FAR
        half, likely = float(np.exp(told[4, i, j])), float(foot[i, j])
        x, y, sure = _peak_near(rim, x, y, max(1.5, 0.12 * float(np.hypot(x - j, y - i))))
        at_foot = (*_middle_of(foot, i, j), 0.0)
        found.append(
            VesselPlace(
                ((at_foot[0] + 0.5) * cell + one.left, (at_foot[1] + 0.5) * cell + one.top),
                ((x + 0.5) * cell + one.left, (y + 0.5) * cell + one.top),
                half * cell,
                float(np.sqrt(likely * max(sure, 0.05))),
                one.pitch,
            )
        )
    left, top, right, bottom = frame
    odds = _laid(
        replace(one, odds=(one.odds + turned.odds) / 2, left=0.0, top=0.0),
        (bottom - top, right - left),
    )
    return found, _likely(odds)[[Part.CONTAINER, Part.OTHER_VESSEL]].sum(0)


def _peak_near(map_: np.ndarray, x: float, y: float, reach: float) -> tuple[float, float, float]:
    """The peak (x, y) of a map (h, w) within some reach of a place, and its height; the place
    itself where nothing is near.
    """
    high, wide = map_.shape
    x0, x1 = int(max(0, np.floor(x - reach))), int(min(wide, np.ceil(x + reach) + 1))
    y0, y1 = int(max(0, np.floor(y - reach))), int(min(high, np.ceil(y + reach) + 1))
    if x0 >= x1 or y0 >= y1:
        return x, y, 0.0
    part = map_[y0:y1, x0:x1]
    i, j = np.unravel_index(int(part.argmax()), part.shape)
    if part[i, j] < 0.1:
        return x, y, float(part[i, j])
    at_x, at_y = _middle_of(map_, y0 + int(i), x0 + int(j))
    return at_x, at_y, float(part[i, j])


def _middle_of(map_: np.ndarray, i: int, j: int) -> tuple[float, float]:
    """The middle (x, y) of a map (h, w) about one of its peaks."""
    near = map_[max(0, i - 1) : i + 2, max(0, j - 1) : j + 2].astype(float)
    ys, xs = np.mgrid[max(0, i - 1) : max(0, i - 1) + near.shape[0],
                      max(0, j - 1) : max(0, j - 1) + near.shape[1]]  # fmt: skip
    return float((near * xs).sum() / near.sum()), float((near * ys).sum() / near.sum())


def _only_within(one: _Pass, box: tuple[float, float, float, float]) -> np.ndarray:
    """The keypoint maps of a pass, with nothing outside a box (left, top, right, bottom)."""
    cell = 4 * one.pitch
    left, top, right, bottom = (
        (v - o) / cell - 0.5
        for v, o in zip(box, (one.left, one.top, one.left, one.top), strict=True)
    )
    ys, xs = np.mgrid[0 : one.maps.shape[1], 0 : one.maps.shape[2]]
    inside = (xs >= left - 1) & (xs <= right + 1) & (ys >= top - 1) & (ys <= bottom + 1)
    return np.where(inside, one.maps, one.maps.min() - 20) if inside.any() else one.maps


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
    odds, maps, feet = (
        out[0] for out in network.run(picture, np.ascontiguousarray(hints[None], np.float32))
    )
    if mirrored:
        odds, maps, feet = odds[:, :, ::-1], maps[list(MIRRORED), :, ::-1], feet[:, :, ::-1].copy()
        feet[2] = -feet[2]
    fine, coarse = (np.s_[:, : -(-size[1] // by), : -(-size[0] // by)] for by in (2, 4))
    return _Pass(
        np.ascontiguousarray(odds[fine]),
        np.ascontiguousarray(maps[coarse]),
        float(left),
        float(top),
        1 / scale,
        np.ascontiguousarray(feet[coarse]),
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
