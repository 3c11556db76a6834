"""Which colour scheme a palette makes on the artists' circle.

Definitions are those taught (handbook, "Colour"): monochromatic, analogous (up to four
neighbouring steps), complementary, split complementary, triadic, tetradic, polychromatic (five or
more), white and green.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import lru_cache
from itertools import combinations, pairwise

import numpy as np

from juniper.colour.circle import NEUTRALS, gap, hue_name, place_of, saturation
from juniper.colour.palette import Swatch, own_colour
from juniper.colour.spaces import (
    from_hex,
    lab_from_srgb,
    linear_from_srgb,
    srgb_from_lab,
    srgb_from_linear,
    to_hex,
)


@dataclass(frozen=True)
class SchemeSettings:
    """What counts in a palette, and what a scheme's misses cost.

    Where no source is named: set by trial on the colours of simulated pictures (bin/trials colour).
    """

    counts_from: float = 0.025  # share of the flowers from which a colour is one of the palette's
    # a colour of less may be left out of a scheme: an accent of its own, or the green of
    # calyx and bud
    minor: float = 0.15
    left_out: float = 120.0  # degrees that leaving a colour out costs, times its share
    # share of another hue up to which white stays white and green: eyes and flushed backs of white
    # flowers
    white_blush: float = 0.12
    pale: float = 0.2  # saturation under which a colour is nearly a neutral
    pale_counts_from: float = 0.06  # share from which such a one still counts
    # a corner that is held by a share of less costs the difference times so many degrees
    faint: float = 0.1
    by_faint: float = 150.0
    # the part that foliage plays among the flowers where green belongs to the scheme
    leaves: float = 0.15
    one: float = 0.8  # steps: colours no further apart hold one place on the circle
    # steps: analogous colours are neighbours, with no wider step between one and the next (blue
    # beside red, with nothing between them, is not)
    next: float = 2.5
    beside: float = 0.2  # steps, on average: colours no further beside the chief one are its tints
    # degrees that two broad colours beside one pole cost a pair of poles, from 1.3 steps
    # apart in full and under 1 step nothing
    two_corners: float = 12.0
    half: float = 15.0  # degrees: half a step, within which a scheme fits in full
    lost: float = 60.0  # degrees, two steps, at which nothing of it is left
    degrees: float = 30.0  # of one step


SCHEME = SchemeSettings()


WHITES = ("white", "cream")
GREENS = ("green", "yellow-green")
CREAM_TINTS, CALYX = ("yellow", "yellow-orange"), 0.08
SHAPES = {
    "complementary": (0, 6),
    "split-complementary": (0, 5, 7),
    "triadic": (0, 4, 8),
    "tetradic": (0, 3, 6, 9),
}
NAMES = ("monochromatic", "analogous", *SHAPES, "polychromatic", "white-green")


@dataclass(frozen=True)
class Scheme:
    """A scheme's name, how well it fits (0..1), how far off it is in degrees on the circle, and the
    nearest other one with the same; `under_other_light` is what it would be, were the picture's
    light not what it is taken for.
    """

    name: str
    fit: float
    off_degrees: float
    other: str = ""
    other_off: float = 0.0
    under_other_light: str = ""


def flowers_of(swatches: tuple[Swatch, ...]) -> tuple[Swatch, ...]:
    """The flowers' colours that are large enough to belong to the palette, as `swatches` has
    them.
    """
    return tuple(s for s in swatches if s.part == "flower" and s.share >= SCHEME.counts_from)


@lru_cache(maxsize=256)  # a palette does not change while handles move
def scheme_of(swatches: tuple[Swatch, ...], with_green: bool = False) -> Scheme | None:
    """Scheme of a flower palette; None when there is no flower colour. Foliage is left out, and so
    is a little green among the flowers, unless green belongs to the scheme (`with_green`).
    """
    ranked = schemes_of(swatches, with_green)
    if not ranked:
        return None
    other = next((s for s in ranked[1:] if s.off_degrees < 2 * SCHEME.lost), None)
    return replace(ranked[0], other=other.name, other_off=other.off_degrees) if other else ranked[0]


def in_doubt(
    scheme: Scheme, swatches: tuple[Swatch, ...], doubt: float, with_green: bool = False
) -> Scheme:
    """The scheme with what it would be under a light that is bluer or yellower by `doubt` (CIELAB
    b* of a white), if that is another one.
    """
    for step in (-doubt, doubt):
        cast = tuple(_lit_by(s, step) for s in swatches)
        other = scheme_of(cast, with_green)
        if other is not None and other.name != scheme.name:
            return replace(scheme, under_other_light=other.name)
    return scheme


@lru_cache(maxsize=512)
def relit(swatch: Swatch, matrix: tuple[tuple[float, ...], ...]) -> Swatch:
    """A swatch under another light: `matrix` (3 x 3) takes linear sRGB from the one to the
    other.
    """
    light = np.array(matrix) @ linear_from_srgb(np.array(from_hex(swatch.chip), float))
    return _shown(swatch, lab_from_srgb(srgb_from_linear(np.clip(light, 0, 1))))


def _shown(swatch: Swatch, lab: np.ndarray) -> Swatch:
    """A swatch that shows another CIELAB colour (3,)."""
    seen = own_colour(lab) if swatch.part == "flower" else lab
    return replace(swatch, shown=to_hex(srgb_from_lab(lab)), hue=hue_name(seen))


@lru_cache(maxsize=512)
def _lit_by(swatch: Swatch, step: float) -> Swatch:
    """A swatch under a light that turns white yellower by `step`: a darker colour is turned by as
    much less.
    """
    lab = lab_from_srgb(from_hex(swatch.chip))
    return _shown(swatch, lab + np.array([0, 0, step]) * (lab[0] + 16) / 116)


def schemes_of(swatches: tuple[Swatch, ...], with_green: bool = False) -> list[Scheme]:
    """All schemes that a palette can be held to, the one it makes first, the others by how far they
    are off.
    """
    flowers = [s for s in swatches if s.part == "flower"]
    leaves = [s for s in swatches if s.part == "foliage"]
    if with_green and leaves and flowers:
        flowers.append(replace(leaves[0], part="flower", share=SCHEME.leaves))
    counted = [s for s in flowers if s.share >= _counts_from(s)]
    if not counted:
        return []
    chromatic = _with_cream([s for s in counted if s.hue not in NEUTRALS], counted)
    green = sum(s.share for s in chromatic if s.hue in GREENS)
    weight = sum(s.share for s in chromatic)
    # White with any green is white and green, and so is green by itself beside a neutral.
    beside_neutral = any(s.hue in WHITES for s in counted)
    if weight - green < 0.05 and beside_neutral:
        return [Scheme("white-green", 1.0, 0.0)]
    if weight - green < SCHEME.white_blush and beside_neutral:
        return [Scheme("white-green", float(1 - weight), SCHEME.degrees * weight)]
    others = [s for s in chromatic if s.hue not in GREENS]
    if (
        not with_green
        and others
        and _is_polychromatic([s for s in counted if s.hue not in GREENS], _places(others))
    ):
        return [Scheme("polychromatic", 1.0, 0.0), *_ranked(_offs(_places(others)))]
    off = _offs(
        _places(
            chromatic
            if with_green or not others or green >= SCHEME.minor
            else _green_last(chromatic)
        )
    )
    if min(off.values()) > 45 and len(chromatic) >= 4:
        off["polychromatic"] = 24.0
    return _ranked(off)


def _counts_from(swatch: Swatch) -> float:
    """Share from which a colour counts: more of one that is nearly a neutral, whose hue tells
    little.
    """
    faint = swatch.hue not in NEUTRALS and float(saturation(np.array(swatch.own))) < SCHEME.pale
    return SCHEME.pale_counts_from if faint else SCHEME.counts_from


def _with_cream(chromatic: list[Swatch], counted: list[Swatch]) -> list[Swatch]:
    """Colours with cream joined to yellow or yellow-orange, where these are all there is besides
    the green of calyx and bud: cream is their tint, and else a neutral.
    """
    cream = sum(s.share for s in counted if s.hue == "cream")
    warm = [s for s in chromatic if s.hue not in GREENS]
    green = sum(s.share for s in chromatic) - sum(s.share for s in warm)
    if not cream or not warm or green > CALYX or any(s.hue not in CREAM_TINTS for s in warm):
        return chromatic
    return [replace(warm[0], share=warm[0].share + cream), *warm[1:]]


def _ranked(off: dict[str, float]) -> list[Scheme]:
    ranked = sorted(off.items(), key=lambda o: (round(o[1], 3), NAMES.index(o[0])))
    return [
        Scheme(
            name, float(np.clip((SCHEME.lost - d) / (SCHEME.lost - SCHEME.half), 0, 1)), float(d)
        )
        for name, d in ranked
    ]


def _green_last(chromatic: list[Swatch]) -> list[Swatch]:
    """Colours with a little green weighed by half: it may be leaf."""
    return [replace(s, share=s.share / 2) if s.hue in GREENS else s for s in chromatic]


def _is_polychromatic(counted: list[Swatch], places: list[tuple[float, float, float]]) -> bool:
    """Five or more colours, neutrals not counted, on four places or more that no quarter of the
    circle holds.
    """
    names = {s.hue for s in counted if s.hue not in NEUTRALS}
    return len(names) >= 5 and len(places) >= 4 and _arc([p for p, _, _ in places]) > 4.5


def _offs(places: list[tuple[float, float, float]]) -> dict[str, float]:
    """Degrees by which each scheme is off, at the best choice of minor colours that are left out of
    it.
    """
    total = sum(w for _, w, _ in places)
    places = [(p, w / total, broad) for p, w, broad in places]
    minor = [i for i, (_, w, _) in enumerate(places) if w < SCHEME.minor and i > 0][:5]
    out: dict[str, float] = {}
    for count in range(len(minor) + 1):
        for left in combinations(minor, count):
            kept = [p for i, p in enumerate(places) if i not in left]
            cost = SCHEME.left_out * sum(places[i][1] for i in left)
            for name, off in _offs_of(kept).items():
                out[name] = min(out.get(name, np.inf), off + cost)
    return out


def _offs_of(places: list[tuple[float, float, float]]) -> dict[str, float]:
    """Degrees by which each scheme is off that these colours, all of them, can make."""
    arc, chief = _arc([p for p, _, _ in places]), places[0][0]
    total = sum(w for _, w, _ in places)
    beside = sum(w * gap(chief, p) for p, w, _ in places) / total
    # One step, and a tint of the next one that holds little; what was taken together may lie apart
    # as well.
    one = arc <= SCHEME.one or (
        arc < 1.6 and beside + sum(w * broad for _, w, broad in places) / total <= SCHEME.beside
    )
    out = {
        "monochromatic": SCHEME.degrees * beside
        if one
        else SCHEME.half + SCHEME.degrees * (arc - SCHEME.one)
    }
    if arc > SCHEME.one:
        apart = max(0.0, arc - 3.4) + max(0.0, _widest([p for p, _, _ in places]) - SCHEME.next)
        out["analogous"] = 2 * SCHEME.degrees * apart + (6.0 if one else 0.0)
    if arc <= 3.4:
        return out
    for name, shape in SHAPES.items():
        if len(places) >= len(shape):
            out[name] = _shape_error([(p, w) for p, w, _ in places], shape)
    # Two broad colours at one pole, more than a step apart, are two corners.
    broad = [p for p, w, _ in places if w >= 0.2 * total]
    flanks = max((gap(p, q) for p, q in combinations(broad, 2) if gap(p, q) < 3), default=0.0)
    out["complementary"] += SCHEME.two_corners * float(np.clip((flanks - 1) / 0.3, 0, 1))
    return out


def _places(chromatic: list[Swatch]) -> list[tuple[float, float, float]]:
    """(place on the circle, share, mean distance from it) with colours of nearly one place taken
    together, the largest first.
    """
    out: list[tuple[float, float, list[tuple[float, float]]]] = []
    for swatch in sorted(chromatic, key=lambda s: -s.share):
        place = float(place_of(swatch.own))
        for i, (other, share, own) in enumerate(out):
            if gap(place, other) < SCHEME.one:
                turn = (place - other + 6) % 12 - 6
                total = share + swatch.share
                out[i] = (
                    (other + turn * swatch.share / total) % 12,
                    total,
                    [*own, (place, swatch.share)],
                )
                break
        else:
            out.append((place, swatch.share, [(place, swatch.share)]))
    out.sort(key=lambda p: -p[1])
    return [
        (place, share, sum(w * gap(place, p) for p, w in own) / share) for place, share, own in out
    ]


def _widest(steps: list[float]) -> float:
    """The widest step between neighbours on the shortest arc that holds all places."""
    ordered = sorted(steps)
    gaps = sorted([b - a for a, b in pairwise(ordered)] + [12 - ordered[-1] + ordered[0]])
    return gaps[-2]


def _arc(steps: list[float]) -> float:
    """Shortest arc of the circle that holds all places, in steps."""
    if len(steps) < 2:
        return 0.0
    ordered = sorted(steps)
    gaps = [b - a for a, b in pairwise(ordered)] + [12 - ordered[-1] + ordered[0]]
    return 12 - max(gaps)


def _shape_error(places: list[tuple[float, float]], shape: tuple[int, ...]) -> float:
    """Degrees from a turned shape, each of whose corners is held by some place, at its best turn:
    half the share-weighted mean distance of the places, half that of the emptiest corner, and what
    faint corners cost; infinite when there are too few places.
    """
    turns = (np.arange(0, 12, 0.25)[:, None] + np.array(shape, float)) % 12
    where, share = np.array([p for p, _ in places]), np.array([w for _, w in places])
    away = np.abs(where[None, :, None] - turns[:, None, :])
    away = np.minimum(away, 12 - away)
    nearest = away.argmin(axis=2)
    held = (nearest[:, :, None] == np.arange(len(shape))) * share[None, :, None]
    faintest = held.sum(axis=1).min(axis=1) / share.sum()
    error = (away.min(axis=2) * share).sum(axis=1) / share.sum()
    empty = away.min(axis=1).max(axis=1)  # the corner that is furthest from any colour
    degrees = SCHEME.degrees * (0.5 * error + 0.5 * empty) + SCHEME.by_faint * np.maximum(
        0.0, SCHEME.faint - faintest
    )
    return float(np.where(faintest > 0, degrees, np.inf).min())
