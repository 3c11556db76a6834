"""How the picture was taken, as the piece shows it: roll, viewpoint, cut off, too small, crowded behind.

Thresholds are set on the simulated camera's roll: see `bin/trials faults`.
"""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np

from juniper.photograph.card import USUAL_FOCAL
from juniper.photograph.quality import CORRECT, RETAKE, USE, Advice
from juniper.scene.datum import Datum
from juniper.scene.separation import CONTAINER, PLANT

ROLLED, MUCH_ROLLED = 3.2, 15.0  # degrees
SMALL, TOO_SMALL = 0.46, 0.25  # of the picture's height, or of its width if that is larger
CROWDED = 0.055  # share of the backdrop near the piece that is edges
ABOVE, BELOW = 9.0, -4.5  # degrees the rim is looked down upon
EDGE_RUN = 0.02  # of the picture's side along which the piece meets the frame


@dataclass(frozen=True)
class Framing:
    """What is measured of the framing.

    `roll_deg` lean of the container's axis; `looking_down_deg` how far the rim is looked down upon (below 0: up) or None;
    `cut` names the sides of the frame that cut the piece; `size` share of the frame it fills; `crowding` share of edges behind it.
    """

    roll_deg: float
    looking_down_deg: float | None
    cut: tuple[str, ...]
    size: float
    crowding: float


def framing(labels: np.ndarray, pixels: np.ndarray, datum: Datum, focal: float = USUAL_FOCAL) -> Framing:
    """Measure the framing from the labels (h, w), the picture at the same size, and the datum in its pixels.

    `focal` is the focal length over the picture's longer side. The foot is looked down upon by the arcsine of its
    ellipse's openness; the rim by less, by the angle under which the container is seen.
    """
    up = datum.up
    piece = np.isin(labels, (PLANT, CONTAINER))
    h, w = labels.shape
    ys, xs = np.nonzero(piece)
    size = max(np.ptp(ys) / h, np.ptp(xs) / w) if len(ys) else 0.0
    return Framing(
        roll_deg=float(np.degrees(np.arctan2(up[0], -up[1]))),
        looking_down_deg=_looking_down(labels == CONTAINER, datum, focal * max(h, w)),
        cut=_cut(piece),
        size=float(size),
        crowding=_crowding(labels, pixels, datum.base[1]),
    )


def _cut(piece) -> tuple[str, ...]:
    h, w = piece.shape
    sides = {"top": piece[:2].any(0).sum() / w, "bottom": piece[-2:].any(0).sum() / w,
             "left": piece[:, :2].any(1).sum() / h, "right": piece[:, -2:].any(1).sum() / h}  # fmt: skip
    return tuple(name for name, run in sides.items() if run > EDGE_RUN)


def _looking_down(container, datum: Datum, focal_px: float) -> float | None:
    openness = _openness(container, datum)
    if openness is None or openness > 0.8:
        return None
    return float(np.degrees(np.arcsin(openness)) - np.degrees(np.arctan(datum.height / focal_px)))


def _openness(container, datum: Datum) -> float | None:
    """How open the foot ellipse looks: short over long half axis, from the container's lower edge."""
    right, up = datum.right, datum.up
    ys, xs = np.nonzero(container)
    if len(ys) < 200:
        return None
    along = (xs - datum.base[0]) * up[0] + (ys - datum.base[1]) * up[1]
    across = (xs - datum.base[0]) * right[0] + (ys - datum.base[1]) * right[1]
    columns = np.round(across).astype(int)
    low = columns.min()
    edge = np.full(columns.max() - low + 1, np.inf)
    np.minimum.at(edge, columns - low, along)
    x = (np.arange(len(edge)) + low).astype(float)
    x, edge = x[np.isfinite(edge)], edge[np.isfinite(edge)]
    best = None
    # The foot is the widest stretch whose lower edge is the lower half of an ellipse; beyond it the wall begins.
    for half in np.linspace(np.abs(x).max(), 0.25 * np.abs(x).max(), 40):
        inner = np.abs(x) < 0.96 * half
        if inner.sum() < 14 or half < 8:
            break
        bow = np.sqrt(1 - (x[inner] / half) ** 2)
        design = np.column_stack([np.ones_like(bow), x[inner] / half, -bow])
        solved, *_ = np.linalg.lstsq(design, edge[inner], rcond=None)
        miss = np.abs(design @ solved - edge[inner])
        if np.percentile(miss, 85) < max(0.8, 0.016 * half):
            best = float(max(0.0, solved[2] / half))
            break
    return best


def _crowding(labels, pixels, base: float) -> float:
    h, w = labels.shape
    piece = np.isin(labels, (PLANT, CONTAINER)).astype(np.uint8)
    reach = max(h, w) // 6
    near = cv2.boxFilter(piece.astype(np.float32), -1, (2 * reach + 1, 2 * reach + 1)) > 0
    clear = cv2.dilate(piece, np.ones((25, 25), np.uint8)) == 0
    ys = np.arange(h)[:, None]
    zone = near & clear & (ys < base - 0.03 * h)
    if zone.sum() < 0.01 * h * w:
        return 0.0
    grey = cv2.GaussianBlur(cv2.cvtColor(pixels, cv2.COLOR_RGB2GRAY), (0, 0), 1.6)
    return float((cv2.Canny(grey, 25, 60) > 0)[zone].mean())


def framing_advice(f: Framing, view: str = "front") -> tuple[Advice, ...]:
    """What to say of the framing; from above, roll and viewpoint mean nothing."""
    out = []
    if f.cut:
        out.append(Advice("cut-off", f"The piece is cut off at the {' and '.join(f.cut)}. Step back so that all of it shows, and take it again.",
                          f"it meets the frame at the {' and '.join(f.cut)}", RETAKE))  # fmt: skip
    if f.size < SMALL:
        bad = f.size < TOO_SMALL
        out.append(Advice("small", "The piece is too small in the picture. Step nearer, and take it again." if bad else
                          "The piece is small in the picture: step nearer next time.", f"it fills {f.size:.0%} of the frame", RETAKE if bad else USE))  # fmt: skip
    if f.crowding > CROWDED:
        out.append(Advice("crowded", "Much stands behind the piece, and may be taken for it. A plain wall or cloth behind it is better.",
                          f"edges on {f.crowding:.0%} of the backdrop", USE))  # fmt: skip
    if view == "top":
        return tuple(out)
    if abs(f.roll_deg) > ROLLED:
        side = "right" if f.roll_deg > 0 else "left"
        bad = abs(f.roll_deg) > MUCH_ROLLED
        out.append(Advice("roll", f"The picture leans to the {side}; " + ("hold the phone upright and take it again." if bad else "measures follow the container's own line, so it can be used."),
                          f"{abs(f.roll_deg):.0f} degrees", RETAKE if bad else CORRECT))  # fmt: skip
    if f.looking_down_deg is not None and f.looking_down_deg > ABOVE:
        out.append(Advice("above", "The picture was taken from too high: heights read too short. Hold the phone level with the rim, and take it again.",
                          f"about {f.looking_down_deg:.0f} degrees down on the rim", RETAKE))  # fmt: skip
    if f.looking_down_deg is not None and f.looking_down_deg < BELOW:
        out.append(Advice("below", "The picture was taken from too low: heights over the rim read too long. Raise the phone to the rim, and take it again.",
                          f"about {-f.looking_down_deg:.0f} degrees up at the rim", RETAKE))  # fmt: skip
    return tuple(out)
