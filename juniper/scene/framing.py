"""How the picture was taken, as the piece shows it: roll, viewpoint, cut off, too small, crowded behind.

Thresholds are set on the simulated camera's roll: see `bin/trials faults`.
"""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np

from juniper.photograph.card import USUAL_FOCAL, Card
from juniper.photograph.quality import CORRECT, RETAKE, USE, Advice
from juniper.scene.datum import Datum
from juniper.scene.separation import CONTAINER, PLANT

ROLLED, MUCH_ROLLED = 3.2, 15.0  # degrees
SMALL, TOO_SMALL = 0.5, 0.25  # of the picture's height, or of its width if that is larger
CROWDED = 0.0038  # share of level edges in the outer parts of the picture
ABOVE, BELOW = 7.2, -3.0  # degrees the rim is looked down upon
UNSURE = 0.5  # of the datum's confidence; from table level the foot can hardly be told from the table's far edge
MOST_OPEN = 0.62  # of a foot that is believed
EDGE_RUN = 0.006  # of the picture's side along which the piece meets the frame


@dataclass(frozen=True)
class Framing:
    """What is measured of the framing.

    `roll_deg` lean of the picture to the right, by its straight lines, the card or the container; `looking_down_deg` how far the rim is looked down upon (below 0: up) or None;
    `cut` names the sides of the frame that cut the piece; `size` share of the frame it fills; `crowding` share of level edges beside it; `sure` whether the container was made out well.
    """

    roll_deg: float
    looking_down_deg: float | None
    cut: tuple[str, ...]
    size: float
    crowding: float
    sure: bool = True


def framing(
    labels: np.ndarray, pixels: np.ndarray, datum: Datum, focal: float = USUAL_FOCAL, card: Card | None = None
) -> Framing:
    """Measure the framing from the labels (h, w), the picture at the same size, and the datum in its pixels.

    `focal` is the focal length over the picture's longer side. The foot is looked down upon by the arcsine of its
    ellipse's openness; the rim by less, by the angle under which the container is seen.
    """
    piece = np.isin(labels, (PLANT, CONTAINER))
    h, w = labels.shape
    ys, xs = np.nonzero(piece)
    size = max(np.ptp(ys) / h, np.ptp(xs) / w) if len(ys) else 0.0
    return Framing(
        roll_deg=_roll(pixels, labels == PLANT, datum, card),
        looking_down_deg=_looking_down(labels, pixels, datum, focal * max(h, w)),
        cut=_cut(piece),
        size=float(size),
        crowding=_crowding(pixels, datum.base[1]),
        sure=datum.confidence >= UNSURE,
    )


def level_lines(pixels: np.ndarray, plant: np.ndarray | None = None) -> float | None:
    """Lean in degrees of the picture's long straight lines (table edge, boards, walls of the container) from level or upright,
    or None when there are too few. Lines on the plant (h, w) are stems, and left out. Lines by LSD (von Gioi, Jakubowicz, Morel & Randall 2010)."""
    grey = cv2.cvtColor(pixels, cv2.COLOR_RGB2GRAY)
    shrink = min(1.0, 1000 / max(grey.shape))
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
        length = np.where(on_plant[np.clip(y, 0, h - 1).astype(int), np.clip(x, 0, w - 1).astype(int)], 0.0, length)
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


def _cut(piece) -> tuple[str, ...]:
    h, w = piece.shape
    count, parts, stats, _ = cv2.connectedComponentsWithStats(piece.astype(np.uint8), connectivity=8)
    # A scrap of the wall taken for leaf is no part of the piece.
    large = [i for i in range(1, count) if stats[i, cv2.CC_STAT_AREA] > 0.008 * piece.sum()]
    piece = np.isin(parts, large)
    sides = {"top": piece[:2].any(0).sum() / w, "bottom": piece[-2:].any(0).sum() / w,
             "left": piece[:, :2].any(1).sum() / h, "right": piece[:, -2:].any(1).sum() / h}  # fmt: skip
    return tuple(name for name, run in sides.items() if run > EDGE_RUN)


def _looking_down(labels, pixels, datum: Datum, focal_px: float) -> float | None:
    container = labels == CONTAINER
    both = [foot_openness(container, pixels, datum), edge_openness(container, datum)]
    seen = [e for e in both if e is not None and e < MOST_OPEN]
    if not seen:
        return None
    # Each errs in its own way, on shaded walls and on shadows; their mean errs less.
    return float(np.mean(np.degrees(np.arcsin(seen))) - np.degrees(np.arctan(datum.height / focal_px)))


def edge_openness(container: np.ndarray, datum: Datum) -> float | None:
    """Openness of the foot ellipse from the lower edge of the container's mask (h, w); None when it is no half ellipse."""
    right, up = datum.right, datum.up
    ys, xs = np.nonzero(container)
    if len(ys) < 200:
        return None
    along = (xs - datum.base[0]) * up[0] + (ys - datum.base[1]) * up[1]
    across = (xs - datum.base[0]) * right[0] + (ys - datum.base[1]) * right[1]
    columns, levels = np.round(across).astype(int), np.round(along).astype(int)
    low, floor = columns.min(), levels.min()
    edge = np.full(columns.max() - low + 1, np.inf)
    np.minimum.at(edge, columns - low, along)
    x = (np.arange(len(edge)) + low).astype(float)
    x, edge = x[np.isfinite(edge)], edge[np.isfinite(edge)]
    first, last = np.full(np.ptp(levels) + 1, np.inf), np.full(np.ptp(levels) + 1, -np.inf)
    np.minimum.at(first, levels - floor, across)
    np.maximum.at(last, levels - floor, across)
    centre = floor + 0.05 * datum.height
    # The foot's ends lie on the level of its middle: found in turns, the level from the fit, the ends from the level.
    for _ in range(8):
        row = int(np.clip(round(centre - floor), 0, len(first) - 1))
        near = slice(max(0, row - 1), row + 2)
        if not np.isfinite(first[near]).all():
            return None
        half, middle = float(np.mean(last[near] - first[near])) / 2, float(np.mean(last[near] + first[near])) / 2
        inner = np.abs(x - middle) < 0.82 * half
        if inner.sum() < 12 or half < 8:
            return None
        u = (x[inner] - middle) / half
        design = np.column_stack([np.ones_like(u), u, -np.sqrt(1 - u**2)])
        weight = np.ones(len(u))
        for _ in range(4):
            solved, *_ = np.linalg.lstsq(design * weight[:, None], edge[inner] * weight, rcond=None)
            miss = np.abs(design @ solved - edge[inner])
            weight = 1 / np.sqrt(1 + (miss / max(0.7, 1.5 * np.median(miss))) ** 2)
        centre = 0.5 * centre + 0.5 * float(np.clip(solved[0], floor, floor + 0.4 * datum.height))
    if np.percentile(miss, 80) > max(2.0, 0.06 * half):
        return None
    return float(max(0.0, solved[2] / half))


def foot_openness(container: np.ndarray, pixels: np.ndarray, datum: Datum) -> float | None:
    """How open the foot ellipse looks: short over long half axis, 0 from level to 1 from above; None when no foot stands out.

    The lower half of an ellipse, with the beginning of both walls at its ends, is laid over the picture's edges near the
    base point; where the edges lie along it best, it is taken. `container` (h, w) says where to look and how wide.
    """
    ys, xs = np.nonzero(container)
    right, up = datum.right, datum.up
    along = (xs - datum.base[0]) * up[0] + (ys - datum.base[1]) * up[1]
    low = along < 0.25 * datum.height
    if low.sum() < 60:
        return None
    across = (xs - datum.base[0]) * right[0] + (ys - datum.base[1]) * right[1]
    reach = float(np.percentile(np.abs(across[low]), 97))
    if reach < 9:
        return None
    # Turned upright about the base point and brought to one size.
    scale = 60.0 / reach
    size = 320
    turn = scale * np.array([[right[0], right[1]], [-up[0], -up[1]]])
    move = np.column_stack([turn, np.array([size / 2, size / 2]) - turn @ np.array(datum.base)])
    part = cv2.warpAffine(
        pixels, move, (size, size), flags=cv2.INTER_AREA if scale < 1 else cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE
    )
    lab = cv2.GaussianBlur(cv2.cvtColor(part.astype(np.float32) / 255, cv2.COLOR_RGB2LAB), (0, 0), 1.6)
    gx, gy = cv2.Sobel(lab, cv2.CV_32F, 1, 0), cv2.Sobel(lab, cv2.CV_32F, 0, 1)
    most = (gx**2 + gy**2).argmax(-1)[..., None]
    gx, gy = np.take_along_axis(gx, most, -1)[..., 0], np.take_along_axis(gy, most, -1)[..., 0]
    strong = np.percentile(np.hypot(gx, gy), 97) + 1e-6
    gx, gy = gx / strong, gy / strong

    def best(halves, opens, cxs, cys):
        a, e, cx, cy = (v.ravel() for v in np.meshgrid(halves, opens, cxs, cys, indexing="ij"))
        t = np.linspace(0.06, np.pi - 0.06, 33)
        px = cx[:, None] + a[:, None] * np.cos(t)
        py = cy[:, None] + (a * e)[:, None] * np.sin(t)
        nx, ny = np.maximum(e, 0.02)[:, None] * np.cos(t), np.sin(t) + 0 * e[:, None]
        n = np.hypot(nx, ny)
        step = a[:, None] * np.sqrt(np.sin(t) ** 2 + (e[:, None] * np.cos(t)) ** 2)

        def at(g, x, y):
            return g[np.clip(y, 0, size - 1).astype(int), np.clip(x, 0, size - 1).astype(int)]

        arc = np.minimum(1.0, np.abs(at(gx, px, py) * nx + at(gy, px, py) * ny) / n)
        arc = (np.sqrt(arc) * step).sum(1) / step.sum(1)
        rise = np.linspace(0.04, 0.3, 9)
        walls = 0.0
        for side in (-1, 1):
            # A wall may lean outward: the best of a few leans.
            leans = [
                np.sqrt(
                    np.minimum(
                        1.0, np.abs(at(gx, cx[:, None] + side * a[:, None] * (1 + k * rise), cy[:, None] - a[:, None] * rise))
                    )
                ).mean(1)
                for k in (-0.15, 0.0, 0.2, 0.5, 1.0)
            ]
            walls = walls + np.max(leans, axis=0)
        score = arc + 0.3 * walls
        i = int(score.argmax())
        return a[i], e[i], cx[i], cy[i], arc[i]

    mid = size / 2
    a, e, cx, cy, _ = best(
        np.linspace(36, 100, 12), np.linspace(0, 0.7, 11), mid + np.linspace(-30, 30, 9), mid + np.linspace(-22, 26, 10)
    )
    a, e, cx, cy, fit = best(
        a + np.linspace(-3, 3, 7),
        np.clip(e + np.linspace(-0.06, 0.06, 13), 0, 0.8),
        cx + np.linspace(-4, 4, 9),
        cy + np.linspace(-3, 3, 7),
    )
    return float(e) if fit > 0.45 else None


def _crowding(pixels, base: float) -> float:
    """Share of level edges in the outer sixths of the picture, above the table: a plain wall has none, boards have upright ones only."""
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
    crowded = f.crowding > CROWDED or both
    if f.cut and not both:
        out.append(Advice("cut-off", f"The piece is cut off at the {' and '.join(f.cut)}. Step back so that all of it shows, and take it again.",
                          f"it meets the frame at the {' and '.join(f.cut)}", RETAKE))  # fmt: skip
    if f.size < SMALL:
        bad = f.size < TOO_SMALL
        out.append(Advice("small", "The piece is too small in the picture. Step nearer, and take it again." if bad else
                          "The piece is small in the picture: step nearer next time.", f"it fills {f.size:.0%} of the frame", RETAKE if bad else USE))  # fmt: skip
    if crowded:
        out.append(Advice("crowded", "Much stands behind the piece, and may be taken for it. A plain wall or cloth behind it is better.",
                          f"level edges on {f.crowding:.1%} of the outer parts" + (", and the piece seems to meet both sides" if f.cut else ""), RETAKE if f.cut else USE))  # fmt: skip
    if view == "top":
        return tuple(out)
    if abs(f.roll_deg) > ROLLED:
        side = "right" if f.roll_deg > 0 else "left"
        bad = abs(f.roll_deg) > MUCH_ROLLED
        out.append(Advice("roll", f"The picture leans to the {side}; " + ("hold the phone upright and take it again." if bad else "measures follow the container's own line, so it can be used."),
                          f"{abs(f.roll_deg):.0f} degrees", RETAKE if bad else CORRECT))  # fmt: skip
    if f.looking_down_deg is not None and f.looking_down_deg > ABOVE and f.sure:
        out.append(Advice("above", "The picture was taken from too high: heights read too short. Hold the phone level with the rim, and take it again.",
                          f"about {f.looking_down_deg:.0f} degrees down on the rim", RETAKE))  # fmt: skip
    if f.looking_down_deg is not None and f.looking_down_deg < BELOW and not f.sure:
        out.append(Advice("below", "The picture was taken from too low: heights over the rim read too long. Raise the phone to the rim, and take it again.",
                          f"about {-f.looking_down_deg:.0f} degrees up at the rim", RETAKE))  # fmt: skip
    return tuple(out)
