"""Whether a photograph can be used: sharpness, exposure, cast, mixed light, noise; each with what
was measured.

Thresholds are set on the simulated camera's roll: see `bin/trials faults` for what they catch and
what they raise on good pictures.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import cv2
import numpy as np

from juniper.photograph.card import Card

USE, CORRECT, RETAKE = "use", "correct", "retake"


@dataclass(frozen=True)
class QualityLimits:
    """From where on a picture's fault is remarked upon, and from where it is too bad.

    Set by trial on pictures of the simulated camera (bin/trials faults).
    """

    blur_side: int = 1000  # pixels of the longer side that blur is judged at
    blurred: float = 0.46
    much_blurred: float = 0.56
    dark: float = 46.5
    too_dark: float = 34.0
    bright: float = 0.13
    too_bright: float = 0.3
    warm: float = 0.88
    cold: float = -0.27
    strong_cast: float = 1.8
    mixed: float = 12.0  # CIELAB between the left and the right half
    noisy: float = 3.2  # sRGB levels, standard deviation


LIMITS = QualityLimits()


@dataclass(frozen=True)
class Advice:
    """A remark on a picture in the user's words.

    `code` names it, `measured` is the figure it rests on in words, `use` says whether the picture
    can be used ("use"), is corrected when measured ("correct"), or should be taken again
    ("retake").
    """

    code: str
    text: str
    measured: str = ""
    use: str = USE


def blur_effect(grey: np.ndarray, reach: int = 11) -> float:
    """How much of its detail a picture loses when blurred once more, turned round: 0 sharp .. 1
    blurred.

    `grey` is (h, w) float. Crete, Dolmiere, Ladret & Nicolas 2007, "The blur effect".
    """
    worst = 0.0
    for axis in (0, 1):
        soft = cv2.blur(
            grey, (reach, 1) if axis == 0 else (1, reach), borderType=cv2.BORDER_REFLECT
        )
        sharp_step = np.abs(cv2.Sobel(grey, cv2.CV_32F, 1 - axis, axis, ksize=3))[2:-1, 2:-1]
        soft_step = np.abs(cv2.Sobel(soft, cv2.CV_32F, 1 - axis, axis, ksize=3))[2:-1, 2:-1]
        total = float(sharp_step.sum())
        kept = float(np.maximum(0, sharp_step - soft_step).sum())
        worst = max(worst, (total - kept) / total if total > 0 else 0.0)
    return worst


@dataclass(frozen=True)
class Figures:
    """What is measured of a picture's pixels; see picture_advice for how each is judged."""

    blur: float
    light: float
    clipped: float
    noise: float
    cast: float | None
    cast_from: str
    mixed: float

    def by_card(self, card: Card | None) -> Figures:
        """The same with the light's cast read from the card's greys, where it shows them."""
        if card is None or card.white is None:
            return self
        return replace(self, cast=card.white.warmth, cast_from="the card's greys")


def figures(pixels: np.ndarray) -> Figures:
    """Measure a picture (h, w, 3) uint8 sRGB, longer side about 1000 to 2000 pixels."""
    shrink = min(1.0, LIMITS.blur_side / max(pixels.shape[:2]))
    small = cv2.resize(pixels, None, fx=shrink, fy=shrink, interpolation=cv2.INTER_AREA)
    grey = cv2.cvtColor(small, cv2.COLOR_RGB2GRAY).astype(np.float32)
    lab = cv2.cvtColor(small.astype(np.float32) / 255, cv2.COLOR_RGB2LAB)
    few = np.ascontiguousarray(lab[::2, ::2])  # enough for medians and percentiles
    noise = _noise(grey)
    cast, source = _cast(few)
    return Figures(
        blur=_sharpest(grey, noise),
        light=float(np.percentile(few[..., 0], 90)),
        clipped=float((cv2.max(cv2.max(*cv2.split(small)[:2]), small[..., 2]) >= 253).mean()),
        noise=noise,
        cast=cast,
        cast_from=source,
        mixed=_mixed(few),
    )


def _noise(grey) -> float:
    """Standard deviation of grain, from the flattest tenth of small blocks (levels)."""
    fine = grey - cv2.GaussianBlur(grey, (0, 0), 1.2)
    h, w = (s // 16 * 16 for s in grey.shape)
    blocks = fine[:h, :w].reshape(h // 16, 16, w // 16, 16).transpose(0, 2, 1, 3).reshape(-1, 256)
    return float(np.percentile(blocks.std(1), 10))


def _sharpest(grey, noise) -> float:
    """Blur of the parts that hold detail: the piece, not the wall."""
    calm = cv2.GaussianBlur(grey, (0, 0), 0.8) if noise > 1.5 else grey
    detail = np.abs(cv2.Laplacian(cv2.GaussianBlur(grey, (0, 0), 2.0), cv2.CV_32F))
    # Where detail lies is told well enough a quarter as fine.
    detail = cv2.GaussianBlur(
        cv2.resize(detail, None, fx=0.25, fy=0.25, interpolation=cv2.INTER_AREA), (0, 0), 3
    )
    if detail.max() < 0.05:
        return 0.0  # an even surface has nothing to be sharp
    ys, xs = np.nonzero(detail > 0.35 * detail.max())
    (y0, y1), (x0, x1) = 4 * np.percentile(ys, (3, 97)), 4 * np.percentile(xs, (3, 97))
    part = calm[int(y0) : int(y1) + 4, int(x0) : int(x1) + 4]
    return blur_effect(part if min(part.shape) > 40 else calm)


def _cast(lab) -> tuple[float | None, str]:
    """Warmth of the light in stops of blue against red, from what should be white."""
    light = lab[..., 0]
    bright = light >= np.percentile(light, 97)
    a, b = float(np.median(lab[..., 1][bright])), float(np.median(lab[..., 2][bright]))
    overall = np.median(lab[..., 1:].reshape(-1, 2), axis=0)
    # The lightest parts and the picture as a whole must lean the same way; a painted wall alone is
    # no cast.
    agree = min(abs(b), abs(overall[1])) * (1 if b * overall[1] > 0 else 0)
    return (float(np.sign(b) * agree / 22), "the lightest parts") if abs(a) < 40 else (None, "")


def _mixed(lab) -> float:
    """How differently left and right side of the surround are coloured (CIELAB, left against right
    at one height).
    """
    h, w = lab.shape[:2]
    strip = max(8, w // 9)
    upper = slice(0, int(0.5 * h))
    left, right = lab[upper, :strip].reshape(-1, 3), lab[upper, -strip:].reshape(-1, 3)
    if len(left) == 0:
        return 0.0
    return float(np.linalg.norm(np.median(left[:, 1:], 0) - np.median(right[:, 1:], 0)))


def picture_advice(f: Figures) -> tuple[Advice, ...]:
    """What to say of a picture's figures, worst first."""
    out = []
    if f.blur > LIMITS.blurred:
        bad = f.blur > LIMITS.much_blurred
        out.append(
            Advice(
                "blur",
                (
                    "The picture is blurred. Rest the phone on something, tap the flowers to focus,"
                    " and take it again."
                    if bad
                    else "The picture is a little soft: fine stems may be missed."
                ),
                f"blur {f.blur:.2f}, sharp pictures lie below {LIMITS.blurred:.2f}",
                RETAKE if bad else USE,
            )
        )
    if f.light < LIMITS.dark:
        bad = f.light < LIMITS.too_dark
        out.append(
            Advice(
                "dark",
                (
                    "The picture is too dark to judge colour. Put on more light or stand nearer a"
                    " window, and take it again."
                    if bad
                    else "The picture is dark: light and dark are judged less surely."
                ),
                f"its lights reach L* {f.light:.0f}, usual is {LIMITS.dark + 13:.0f} and more",
                RETAKE if bad else CORRECT,
            )
        )
    if f.clipped > LIMITS.bright:
        bad = f.clipped > LIMITS.too_bright
        out.append(
            Advice(
                "bright",
                (
                    "Large parts are burnt out to white. Tap the lightest flower so that the phone"
                    " takes less light, and take it again."
                    if bad
                    else "Some parts are burnt out: pale colours are judged less surely."
                ),
                f"{100 * f.clipped:.0f} % of the picture is white without detail",
                RETAKE if bad else USE,
            )
        )
    if f.noise > LIMITS.noisy:
        out.append(
            Advice(
                "noise",
                "The picture is grainy from too little light. Put on more light and take it again"
                " if you can.",
                f"grain {f.noise:.0f} levels",
                USE,
            )
        )
    if f.mixed > LIMITS.mixed:
        out.append(
            Advice(
                "mixed",
                "Two kinds of light fall on the piece, warm on one side and cold on the other. Put"
                " the lamp out or close the blind, and take it again.",
                f"left and right differ by {f.mixed:.0f} in colour",
                RETAKE,
            )
        )
    elif f.cast is not None and not LIMITS.cold <= f.cast <= LIMITS.warm:
        warm = "warm, as lamplight is" if f.cast > 0 else "cold, as shade is"
        by_card = f.cast_from.startswith("the card")
        bad = abs(f.cast) > LIMITS.strong_cast and not by_card
        text = f"The light is {warm}: " + (
            "colours were set right by the card's greys."
            if by_card
            else (
                "colours may be misnamed. Stand the reference card beside the piece, or take it by"
                " daylight."
            )
        )
        out.append(
            Advice(
                "cast",
                text,
                f"{abs(f.cast):.1f} stops between blue and red, from {f.cast_from}",
                RETAKE if bad else CORRECT,
            )
        )
    return tuple(out)
