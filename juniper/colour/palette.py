"""The palette of a piece: its main colours and their share of visible area."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from itertools import combinations

import cv2
import numpy as np

from juniper.colour.circle import hue_name, place_of, saturation
from juniper.colour.names import flower_name
from juniper.colour.spaces import from_hex, lab_from_srgb, srgb_from_lab, to_hex
from juniper.values import triple


@dataclass(frozen=True)
class PaletteSettings:
    """Which colours of petals are one.

    Where no source is named: set by trial on the colours of simulated pictures (bin/trials colour).
    """

    lightness_weight: float = 0.35  # shade within one flower must not split it
    smallest_share: float = 0.03  # of the pixels; smaller clusters join others sooner
    # CIELAB with lightness weighed down, for clusters of one name times 2.6
    merge_below: float = 17.0
    # Two colours are one when the sum of these, times what parts them on the circle, in
    # saturation and in lightness, is under 1: by logistic regression on 17,000 pairs of
    # blooms of 104 simulated pictures.
    by_hue: float = 5.6
    by_saturation: float = 8.0
    by_lightness: float = 0.6
    # saturation at which a colour lies halfway from the circle's middle to its rim
    half_deep: float = 0.3
    # share of a bloom that its second colour must hold: an edge or a flush is kept (common
    # practice)
    tones: float = 0.1
    tones_apart: float = 2.5  # distance of the two, with 1 the limit between one colour and two
    # what pixels at the edge of petals count for in a colour's mean: half of them is what
    # lies behind
    at_edge: float = 0.5
    # of the flowers' area: petals of no bloom must hold as much to be a colour of their own
    loose: float = 0.08
    # degrees of hue: petals lit by each other look so much nearer to red, if yellow to orange
    # (median of 104 simulated pictures)
    warmed: float = 5.0
    # times L* + 16: lit petals turn partly away from the light, and look so much darker than
    # flat ones that face it (same pictures)
    facing: float = 1.18
    # percentiles of lightness between which a petal shows its own colour: neither in shade
    # nor shining
    lit: tuple[float, float] = (50.0, 97.0)


PALETTE = PaletteSettings()


@dataclass(frozen=True)
class Swatch:
    """One colour of a palette: CIELAB mean as lit, its name on the circle, share of its part.

    `hex` is the mean as lit; `shown` that of its lit side, which is how it is spoken of and drawn,
    and `hue` is named by; `called` is the name that a person gave it; `doubt` is the area, in parts
    of all flowers, that it may have too much or too little.
    """

    part: str
    lab: tuple[float, float, float]
    hex: str
    hue: str
    share: float
    shown: str = ""
    called: str = ""
    doubt: float = 0.0

    @property
    def chip(self) -> str:
        """The colour to draw it in."""
        return self.shown or self.hex

    @property
    def name(self) -> str:
        """What it is called: by hand, or by the plain names of flower colours; of anything else its
        step.
        """
        return self.called or (_petal_name(self.chip) if self.part == "flower" else self.hue)

    @property
    def own(self) -> tuple[float, float, float]:
        """CIELAB of the material by itself: of its lit side, for petals without the warmth that
        they throw on each other.
        """
        return _own(self.chip, self.part == "flower")


@lru_cache(maxsize=2048)  # those of some 200 pieces
def _own(chip: str, petal: bool) -> tuple[float, float, float]:
    lab = lab_from_srgb(from_hex(chip))
    return triple(own_colour(lab) if petal else lab)


@lru_cache(maxsize=2048)
def _petal_name(chip: str) -> str:
    return flower_name(_own(chip, True))


def flower_colours(lab: np.ndarray, bloom: np.ndarray, most: int = 9) -> np.ndarray:
    """Number of the colour (n,) from 0 of petal pixels (n, 3) in CIELAB, of which `bloom` (n,) int
    tells the bloom each belongs to (0 none).

    A bloom is of one colour from its lit side to its shaded one, or of two if both are plain and
    broad. Blooms are joined while they are alike, the likest first (average linkage; Sokal &
    Michener 1958); how many colours there are is so found by the data. Petals of no bloom go to the
    likest colour unless there are many that none is like.
    """
    if len(lab) == 0:
        return np.zeros(0, int)
    tone, tones, sizes = _tones(lab, bloom)
    loose = tone < 0
    if loose.any():
        tone, tones, sizes = _with_loose(lab, loose, tone, tones, sizes)
    return _joined(tones, sizes, most)[tone]


def _tones(lab: np.ndarray, bloom: np.ndarray) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """(tone of each pixel or -1, lit CIELAB of each tone (k, 3), pixels of each): one tone to a
    bloom, or two.
    """
    tone = np.full(len(lab), -1)
    order = np.argsort(bloom, kind="stable")
    numbers, starts = np.unique(bloom[order], return_index=True)
    tones: list = []
    sizes: list = []
    for number, own in zip(numbers, np.split(order, starts[1:]), strict=True):
        if number == 0:
            continue
        for part in _two_toned(lab[own]):
            tone[own[part]] = len(tones)
            tones.append(lit(lab[own[part]]))
            sizes.append(int(part.sum()))
    return tone, np.array(tones).reshape(-1, 3), np.array(sizes, float)


def lit(lab: np.ndarray) -> np.ndarray:
    """CIELAB (3,) of what of some petals (n, 3) is neither in shade nor shining."""
    low, high = np.percentile(lab[:, 0], PALETTE.lit, method="nearest")
    return lab[(lab[:, 0] >= low) & (lab[:, 0] <= high)].mean(axis=0)


def _two_toned(lab: np.ndarray) -> list[np.ndarray]:
    """The parts (bool n) of a bloom: all of it, or two where it shows two colours."""
    whole = [np.ones(len(lab), bool)]
    if len(lab) < 80:
        return whole
    places = on_disc(lab)
    step = max(1, len(lab) // 400)
    cv2.setRNGSeed(7)
    criteria = (cv2.TERM_CRITERIA_EPS + cv2.TERM_CRITERIA_MAX_ITER, 10, 0.01)
    _, _, centres = cv2.kmeans(
        places[::step].astype(np.float32), 2, None, criteria, 1, cv2.KMEANS_PP_CENTERS
    )
    second = ((places - centres[1]) ** 2).sum(axis=1) < ((places - centres[0]) ** 2).sum(axis=1)
    if not PALETTE.tones < second.mean() < 1 - PALETTE.tones:
        return whole
    parts = [~second, second]
    one, other = (lit(lab[p]) for p in parts)
    return parts if float(apart(one, other)) > PALETTE.tones_apart else whole


def on_disc(lab) -> np.ndarray:
    """Place of colours on the painters' disc (..., 2): turned by their step on the artists' circle,
    out from its middle by saturation.
    """
    lab = np.asarray(lab, float)
    deep = saturation(lab)
    turn = np.radians(30 * place_of(lab))
    return (deep / (deep + PALETTE.half_deep))[..., None] * np.stack(
        [np.cos(turn), np.sin(turn)], axis=-1
    )


def apart(first, second) -> np.ndarray:
    """How far two colours of petals (..., 3) CIELAB are from being one: under 1 they are taken for
    the same, in light and in shade.
    """
    first, second = np.asarray(first, float), np.asarray(second, float)
    across, out = across_and_out(on_disc(first), on_disc(second))
    lighter = np.abs(first[..., 0] - second[..., 0]) / 100
    return PALETTE.by_hue * across + PALETTE.by_saturation * out + PALETTE.by_lightness * lighter


def across_and_out(first: np.ndarray, second: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """What parts places on_disc() (..., 2): in hue, as far as two of the paler one's saturation
    would lie across the disc, and in saturation.
    """
    out = [np.hypot(p[..., 0], p[..., 1]) for p in (first, second)]
    across = np.sqrt(np.maximum(((first - second) ** 2).sum(axis=-1) - (out[0] - out[1]) ** 2, 0.0))
    return across * np.sqrt(np.minimum(*out) / np.maximum(np.maximum(*out), 1e-9)), np.abs(
        out[0] - out[1]
    )


def _with_loose(lab, loose, tone, tones, sizes):
    """The tones with those of petals of no bloom: of the likest tone, or of their own where many
    are like none.
    """
    own = lab[loose]
    index, centres = _few(own, 4)
    places = np.empty(len(centres), int)
    for k in range(len(centres)):
        here = index == k
        colour = lit(own[here]) if here.any() else centres[k]
        away = apart(tones, colour) if len(tones) else np.array([np.inf])
        if len(tones) == 0 or (away.min() > 1 and here.sum() > PALETTE.loose * len(lab)):
            tones, sizes = np.vstack([tones.reshape(-1, 3), colour]), np.append(sizes, here.sum())
            places[k] = len(tones) - 1
        else:
            places[k] = int(away.argmin())
    tone = tone.copy()
    tone[loose] = places[index]
    return tone, tones, sizes


def _few(lab: np.ndarray, count: int) -> tuple[np.ndarray, np.ndarray]:
    """Number (n,) of the nearest of a few colours of pixels, and these colours (k, 3)."""
    places = (lab * (PALETTE.lightness_weight, 1.0, 1.0)).astype(np.float32)
    sample = places[:: max(1, len(places) // 2000)]
    if len(sample) <= count:
        return np.zeros(len(lab), int), lab.mean(axis=0, keepdims=True)
    cv2.setRNGSeed(7)
    criteria = (cv2.TERM_CRITERIA_EPS + cv2.TERM_CRITERIA_MAX_ITER, 20, 0.3)
    _, _, centres = cv2.kmeans(sample, count, None, criteria, 1, cv2.KMEANS_PP_CENTERS)
    return _nearest(places, centres), centres / (PALETTE.lightness_weight, 1.0, 1.0)


def _joined(tones: np.ndarray, sizes: np.ndarray, most: int) -> np.ndarray:
    """Number of the colour of each tone (k,), from 0."""
    count = len(tones)
    group, weight = np.arange(count), np.maximum(sizes, 1.0).copy()
    away = apart(tones[:, None], tones[None])
    np.fill_diagonal(away, np.inf)
    for left in range(count, 1, -1):
        i, j = divmod(int(away.argmin()), count)
        if away[i, j] >= 1 and left <= most:
            break
        # Both of their distances to each other colour, by their sizes.
        joined = (weight[i] * away[i] + weight[j] * away[j]) / (weight[i] + weight[j])
        away[i], away[:, i] = joined, joined
        away[i, i] = np.inf
        away[j], away[:, j] = np.inf, np.inf
        weight[i] += weight[j]
        group[group == j] = i
    return np.unique(group, return_inverse=True)[1]


def palette_of(lab: np.ndarray, part: str, most: int = 7) -> tuple[tuple[Swatch, ...], np.ndarray]:
    """Main colours of pixels (n, 3) in CIELAB: (swatches by falling share, index (n,) into them).

    k-means (Lloyd 1982, seeded by k-means++) on a fixed sample with lightness weighed down, then
    clusters of one name, or nearer than PALETTE.merge_below, are made one. Shares sum to 1.
    """
    count = len(lab)
    if count == 0:
        return (), np.zeros(0, np.int32)
    points = (lab * (PALETTE.lightness_weight, 1.0, 1.0)).astype(np.float32)
    step = max(1, count // 6000)
    sample = points[::step]
    distinct = np.unique(sample.round() @ np.array([1e6, 1e3, 1.0]))  # one number for each colour
    clusters = min(most + 3, len(distinct))
    cv2.setRNGSeed(7)
    criteria = (cv2.TERM_CRITERIA_EPS + cv2.TERM_CRITERIA_MAX_ITER, 25, 0.3)
    if clusters > 1:
        _, _, centres = cv2.kmeans(sample, clusters, None, criteria, 2, cv2.KMEANS_PP_CENTERS)
    else:  # OpenCV takes a single pixel for three points of one value
        centres = sample.mean(axis=0, keepdims=True)
    index = _nearest(points, centres)
    groups = _merge(lab[::step], index[::step], clusters)
    index = groups[index]
    return swatches_of(lab, index, part)


def swatches_of(
    lab: np.ndarray, index: np.ndarray, part: str, inner: np.ndarray | None = None
) -> tuple[tuple[Swatch, ...], np.ndarray]:
    """Swatches by falling share of pixels (n, 3) CIELAB by the number (n,) of their colour, and the
    place (n,) among these of each. Shares sum to 1. `inner` (n,) bool tells which pixels have
    petals all round: the colours are theirs.
    """
    if len(lab) == 0:
        return (), np.zeros(0, np.int32)
    names, counts = np.unique(index, return_counts=True)
    order = np.argsort(-counts)
    out = []
    renamed = np.zeros(names.max() + 1, np.int32)
    for place, which in enumerate(order):
        own = index == names[which]
        renamed[names[which]] = place
        out.append(
            swatch_of(lab[own], part, float(own.mean()), None if inner is None else inner[own])
        )
    return tuple(out), renamed[index]


def swatch_of(lab: np.ndarray, part: str, share: float, inner: np.ndarray | None = None) -> Swatch:
    """The swatch of pixels (n, 3) CIELAB that are of one colour; `inner` (n,) bool tells which of
    them have petals all round.
    """
    weight = None if inner is None else np.where(inner, 1.0, PALETTE.at_edge)
    mean, shown = np.average(lab, axis=0, weights=weight), lit(lab)
    return Swatch(
        part=part,
        lab=triple(mean),
        hex=to_hex(srgb_from_lab(mean)),
        hue=hue_name(own_colour(shown) if part == "flower" else shown),
        share=share,
        shown=to_hex(srgb_from_lab(shown)),
    )


def own_colour(lab) -> np.ndarray:
    """Colour of a petal by itself and squarely lit, of one (3,) as seen among others: light thrown
    from petal to petal warms yellow and orange.
    """
    light, a, b = (float(v) for v in lab)
    hue, chroma = np.degrees(np.arctan2(b, a)) % 360, np.hypot(a, b)
    # In full from 48 to 84 degrees, fading to none at 36 and 96.
    hue = np.radians(hue + PALETTE.warmed * np.clip(min(hue - 36, 96 - hue) / 12, 0, 1))
    more = min(PALETTE.facing, 116 / max(light + 16, 1.0))
    return np.array(
        [more * (light + 16) - 16, more * chroma * np.cos(hue), more * chroma * np.sin(hue)]
    )


def among_others(lab) -> np.ndarray:
    """How a colour (3,) of petals by itself and squarely lit shows among others: the inverse of
    own_colour().
    """
    light, a, b = (float(v) for v in lab)
    hue, chroma = np.degrees(np.arctan2(b, a)) % 360, np.hypot(a, b)
    seen = np.linspace(hue - PALETTE.warmed, hue, 501)
    turned = seen + PALETTE.warmed * np.clip(np.minimum(seen - 36, 96 - seen) / 12, 0, 1)
    seen = np.radians(seen[np.abs(turned - hue).argmin()])
    # own_colour() stops at white: what is brighter than that shows as white in light.
    less = 1 / PALETTE.facing
    return np.array(
        [less * (light + 16) - 16, less * chroma * np.cos(seen), less * chroma * np.sin(seen)]
    )


def _nearest(points: np.ndarray, centres: np.ndarray) -> np.ndarray:
    # |p-c|^2 = |p|^2 - 2 p.c + |c|^2; the first term does not choose.
    return np.argmin((centres**2).sum(1)[None, :] - 2 * points @ centres.T, axis=1)


def _merge(lab, index, clusters) -> np.ndarray:
    """Group number of each cluster."""
    group = np.arange(clusters)
    parts = {g: lab[index == g] for g in group if (index == g).any()}
    colour, name = {}, {}

    def assigned(g):
        # The brightest half carries the flower's own colour; the rest is its shade.
        bright = parts[g][parts[g][:, 0] >= np.median(parts[g][:, 0])]
        colour[g] = bright.mean(axis=0)
        name[g] = hue_name(colour[g])

    def apart(a, b) -> float:
        away = float(np.linalg.norm((colour[a] - colour[b]) * (PALETTE.lightness_weight, 1, 1)))
        limit = 2.6 * PALETTE.merge_below if name[a] == name[b] else 0.55 * PALETTE.merge_below
        if min(len(parts[a]), len(parts[b])) < PALETTE.smallest_share * len(lab):
            limit = max(limit, 4 * PALETTE.merge_below)
        return away / limit

    for g in parts:
        assigned(g)
    while len(parts) > 1:
        score, a, b = min((apart(a, b), a, b) for a, b in combinations(parts, 2))
        if score >= 1:
            break
        parts[a] = np.concatenate([parts[a], parts.pop(b)])
        assigned(a)
        group[group == b] = a
    return group
