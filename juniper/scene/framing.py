"""How the picture was taken, as the piece shows it: roll, viewpoint, cut off, too small, crowded
behind.

Thresholds are set on the simulated camera's roll: see `bin/trials faults`.
"""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np

from juniper.photograph.card import USUAL_FOCAL, Card
from juniper.photograph.quality import CORRECT, RETAKE, USE, Advice
from juniper.scene.container.datum import Datum
from juniper.scene.container.foot import FOOT, foot_ellipse
from juniper.scene.parts import Label


@dataclass(frozen=True)
class FramingSettings:
    """When a framing is remarked upon.

    Where no source is named: set by trial on simulated pictures (bin/accuracy).
    """

    # degrees
    rolled: float = 4.0
    much_rolled: float = 15.0
    # of the picture's height, or of its width if that is larger
    small: float = 0.5
    too_small: float = 0.25
    crowded: float = 0.0038  # share of level edges in the outer parts of the picture
    # degrees the rim is looked down upon
    above: float = 12.2
    below: float = -4.5
    # of the datum's confidence, below which its foot says nothing of a view from above
    blind: float = 0.2
    # of the datum's confidence; from table level the foot can hardly be told from the table's
    # far edge
    unsure: float = 0.45
    lines_side: int = 700  # pixels: the longer side on which straight lines are looked for
    edge_run: float = 0.0035  # of the picture's side along which the piece meets the frame


FRAMING = FramingSettings()


@dataclass(frozen=True)
class Framing:
    """What is measured of the framing.

    `roll_deg` lean of the picture to the right, by its straight lines, the card or the container;
    `looking_down_deg` how far the rim is looked down upon (below 0: up) or None; `cut` names the
    sides of the frame that cut the piece; `size` share of the frame it fills; `crowding` share of
    level edges beside it; `confidence` that of the datum.
    """

    roll_deg: float
    looking_down_deg: float | None
    cut: tuple[str, ...]
    size: float
    crowding: float
    confidence: float = 1.0


def framing(
    labels: np.ndarray,
    pixels: np.ndarray,
    datum: Datum,
    focal: float = USUAL_FOCAL,
    card: Card | None = None,
) -> Framing:
    """Measure the framing from the labels (h, w), the picture at the same size, and the datum in
    its pixels.

    `focal` is the focal length over the picture's longer side. The foot is looked down upon by the
    arcsine of its ellipse's openness; the rim by less, by the angle under which the container is
    seen.
    """
    piece = np.isin(labels, (Label.PLANT, Label.CONTAINER))
    h, w = labels.shape
    *_, wide, high = cv2.boundingRect(piece.astype(np.uint8))
    size = max(high / h, wide / w)
    return Framing(
        roll_deg=_roll(pixels, labels == Label.PLANT, datum, card),
        looking_down_deg=_looking_down(labels, datum, focal * max(h, w)),
        cut=_edges_cut(piece),
        size=float(size),
        crowding=_crowding(pixels, datum.base[1]),
        confidence=datum.confidence,
    )


def level_lines(pixels: np.ndarray, plant: np.ndarray | None = None) -> float | None:
    """Lean in degrees of the picture's long straight lines (table edge, boards, walls of the
    container) from level or upright, or None when there are too few. Lines on the plant (h, w) are
    stems, and left out. Lines by LSD (von Gioi, Jakubowicz, Morel & Randall 2010).
    """
    grey = cv2.cvtColor(pixels, cv2.COLOR_RGB2GRAY)
    shrink = min(1.0, FRAMING.lines_side / max(grey.shape))
    grey = cv2.resize(grey, None, fx=shrink, fy=shrink, interpolation=cv2.INTER_AREA)
    found = cv2.createLineSegmentDetector().detect(grey)[0]
    if found is None:
        return None
    step = found[:, 0, 2:] - found[:, 0, :2]
    length = np.hypot(*step.T)
    angle = (np.degrees(np.arctan2(step[:, 1], step[:, 0])) + 45) % 90 - 45
    if plant is not None:
        x, y = (found[:, 0, :2] + step / 2).T / shrink
        h, w = plant.shape
        on_plant = cv2.dilate(plant.astype(np.uint8), np.ones((15, 15), np.uint8)) > 0
        length = np.where(
            on_plant[np.clip(y, 0, h - 1).astype(int), np.clip(x, 0, w - 1).astype(int)],
            0.0,
            length,
        )
    long = (length > 0.04 * max(grey.shape)) & (np.abs(angle) < 25)
    if length[long].sum() < 0.35 * max(grey.shape):
        return None
    tried = np.arange(-25, 25.01, 0.25)
    near = np.exp(-(((angle[long][None] - tried[:, None]) / 0.8) ** 2))
    return float(tried[(near * length[long] ** 1.5).sum(1).argmax()])


def _roll(pixels, plant, datum: Datum, card: Card | None) -> float:
    up = datum.up
    lean = float(np.degrees(np.arctan2(up[0], -up[1])))
    lines = level_lines(pixels, plant)
    if card is not None and card.roll_deg is not None:
        # A card may itself be put askew: the lines decide unless they contradict it.
        return lines if lines is not None and abs(lines - card.roll_deg) < 5 else card.roll_deg
    return lean if lines is None else lines


def _edges_cut(piece) -> tuple[str, ...]:
    h, w = piece.shape
    count, parts, stats, _ = cv2.connectedComponentsWithStats(
        piece.astype(np.uint8), connectivity=8
    )
    # A scrap of the wall taken for leaf is no part of the piece.
    large = [i for i in range(1, count) if stats[i, cv2.CC_STAT_AREA] > 0.0006 * piece.sum()]
    piece = np.isin(parts, large)
    sides = {
        "top": piece[:2].any(0).sum() / w,
        "bottom": piece[-2:].any(0).sum() / w,
        "left": piece[:, :2].any(1).sum() / h,
        "right": piece[:, -2:].any(1).sum() / h,
    }
    return tuple(name for name, run in sides.items() if run > FRAMING.edge_run)


def _looking_down(labels, datum: Datum, focal_px: float) -> float | None:
    seen = edge_openness(labels == Label.CONTAINER, datum)
    if seen is None or seen > FOOT.most_open:
        return None
    return float(np.degrees(np.arcsin(seen)) - np.degrees(np.arctan(datum.height / focal_px)))


def edge_openness(container: np.ndarray, datum: Datum) -> float | None:
    """Openness of the foot ellipse from the lower edge of the container's mask (h, w); None when it
    is no half ellipse.
    """
    ys, xs = np.nonzero(container)
    if len(ys) < 200:
        return None
    step = np.column_stack([xs, ys]) - np.array(datum.base)
    found = foot_ellipse(step @ datum.up, step @ datum.right, datum.height)
    return None if found is None else found[1]


def _crowding(pixels, base: float) -> float:
    """Share of level edges in the outer sixths of the picture, above the table: a plain wall has
    none, boards have upright ones only.
    """
    h, w = pixels.shape[:2]
    rows, band = int(base - 0.2 * h), w // 6
    if rows < 0.1 * h:
        return 0.0
    grey = cv2.GaussianBlur(cv2.cvtColor(pixels[:rows], cv2.COLOR_RGB2GRAY), (0, 0), 1.6)
    gx, gy = np.abs(cv2.Sobel(grey, cv2.CV_32F, 1, 0)), np.abs(cv2.Sobel(grey, cv2.CV_32F, 0, 1))
    level = (cv2.Canny(grey, 25, 60) > 0) & (gy > 1.5 * gx)
    return float(np.concatenate([level[:, :band].ravel(), level[:, -band:].ravel()]).mean())


def framing_advice(f: Framing, view: str = "front") -> tuple[Advice, ...]:
    """What to say of the framing; from above, roll and viewpoint mean nothing."""
    out = []
    both = {"left", "right"} <= set(f.cut)  # what meets both sides is rarely a piece
    crowded = f.crowding > FRAMING.crowded or both
    if f.cut and not both:
        out.append(
            Advice(
                "cut-off",
                f"The piece is cut off at the {' and '.join(f.cut)}. Step back so that all of it"
                " shows, and take it again.",
                f"it meets the frame at the {' and '.join(f.cut)}",
                RETAKE,
            )
        )
    if f.size < FRAMING.small:
        bad = f.size < FRAMING.too_small
        out.append(
            Advice(
                "small",
                (
                    "The piece is too small in the picture. Step nearer, and take it again."
                    if bad
                    else "The piece is small in the picture: step nearer next time."
                ),
                f"it fills {100 * f.size:.0f} % of the frame",
                RETAKE if bad else USE,
            )
        )
    if crowded:
        out.append(
            Advice(
                "crowded",
                "Much stands behind the piece, and may be taken for it. A plain wall or cloth"
                " behind it is better.",
                f"straight edges on {100 * f.crowding:.1f} % of the picture beside the piece"
                + (", and the piece seems to meet both sides" if f.cut else ""),
                RETAKE if f.cut else USE,
            )
        )
    if view == "top":
        return tuple(out)
    if abs(f.roll_deg) > FRAMING.rolled:
        side = "right" if f.roll_deg > 0 else "left"
        bad = abs(f.roll_deg) > FRAMING.much_rolled
        out.append(
            Advice(
                "roll",
                f"The picture leans to the {side}; "
                + (
                    "hold the phone upright and take it again."
                    if bad
                    else "measures follow the container's own line, so it can be used."
                ),
                f"{abs(f.roll_deg):.0f} degrees",
                RETAKE if bad else CORRECT,
            )
        )
    if (
        f.looking_down_deg is not None
        and f.looking_down_deg > FRAMING.above
        and f.confidence >= FRAMING.blind
    ):
        out.append(
            Advice(
                "above",
                "The picture was taken from too high: heights read too short. Hold the phone level"
                " with the rim, and take it again.",
                f"about {f.looking_down_deg:.0f} degrees down on the rim",
                RETAKE,
            )
        )
    if (
        f.looking_down_deg is not None
        and f.looking_down_deg < FRAMING.below
        and f.confidence < FRAMING.unsure
    ):
        out.append(
            Advice(
                "below",
                "The picture was taken from too low: heights over the rim read too long. Raise the"
                " phone to the rim, and take it again.",
                f"about {-f.looking_down_deg:.0f} degrees up at the rim",
                RETAKE,
            )
        )
    return tuple(out)
