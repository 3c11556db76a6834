"""Every vessel of a composition, each with its own datum.

The parts network tells vessels from all else, and a further head of it where their feet and rims
are (CenterNet; Zhou, Wang & Kraehenbuehl 2019). It looks at the whole and at tiles of it; what the
looks say of one vessel is joined, each pixel of vessel goes to the nearest axis, and each vessel's
datum is read as a single container's is.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from juniper.scene.container.datum import (
    HANDLES,
    Datum,
    HandleUncertainty,
    NoContainer,
    given_datum,
)
from juniper.scene.container.reading import find_datum, foot_of, seen_of
from juniper.scene.container.sides import chief_part, expected_slope, sides_of
from juniper.scene.parts import Part
from juniper.scene.segment.probabilities import (
    Keypoint,
    PartProbabilities,
    VesselPlace,
    vessel_places,
    vessel_probabilities,
)
from juniper.values import Point, point

ANY = (Part.CONTAINER, Part.OTHER_VESSEL)
FAR_APART = 3.0  # joint standard uncertainties, from which two places are not of one vessel
MOST_VESSELS = 12  # in one composition: ten are taught (common practice), and two to spare


@dataclass(frozen=True)
class VesselSettings:
    """What is a vessel of its own. Where no source is named: by trial on traced groups of three,
    five and ten (docs/seeing.md).
    """

    surely: float = 0.6  # probability of any vessel, from which a pixel tells where they stand
    likely: float = 0.45  # the same, from which it is one's wall
    least: float = 0.15  # likelihood of a foot, from which it is looked at
    kept: float = 0.3  # likelihood of a vessel, all looks and its wall together, to be one
    walled: float = 0.5  # what the wall weighs in that, beside the place
    # the same, from which it is one where the brief lists more than are made out otherwise, and
    # where it is one beside all that the brief lists
    hardly: float = 0.2
    plainly: float = 0.5
    # of the smaller one's upright box: two places that share more are of one vessel
    shared: float = 0.5
    # times the height of the band that vessels stand in: side of the tiles that are looked at, and
    # how far they lie apart, in parts of that
    tiles: tuple[float, ...] = (1.8, 0.9)
    step: float = 0.5
    narrowest: float = 0.2  # of the band's width: a tile is no smaller
    # of a vessel's height: how near two places of it lie in two looks
    same: float = 0.3
    # of its height: a vessel cut by the frame of a look is not believed there
    cut: float = 0.05
    # times its half width: how far from its axis a wall's pixels lie
    aside: float = 1.9
    # times its width and height: what is looked at beside, over and under a vessel
    beside: float = 0.35
    over: float = 0.8
    under: float = 0.25
    # of its longer side: how far about a vessel its keypoints may lie
    room: float = 0.08
    # of its height: how far wall and place may differ together, from where the place is believed;
    # how surely a place alone tells foot and rim; and the confidence in it at the most
    off: float = 0.25
    placed: float = 0.05
    sure: float = 0.6
    # of the tallest in the picture: a vessel of less is none
    as_high: float = 0.1


VESSELS = VesselSettings()


@dataclass(frozen=True)
class Vessel:
    """One vessel of a composition: its `number` from the viewer's left, the first 1, its datum, its
    greatest width in pixels, whether it is the main one of the picture, the `key` that it keeps
    when others are added or taken out, and the highest point of what was seen to stand in it, or
    where a person put that (`top_put`).
    """

    number: int
    datum: Datum
    wide: float = 0.0
    main: bool = False
    key: int = 0
    top: Point | None = None
    top_put: bool = False

    @property
    def height_ratio(self) -> float | None:
        """What stands in it over its own height, as the picture shows it; None where nothing
        does.
        """
        if self.top is None:
            return None
        over = float(np.subtract(self.top, self.datum.rim) @ self.datum.up)
        return max(0.0, over) / self.datum.height

    def scaled(self, factor: float) -> Vessel:
        """The same vessel in a picture enlarged by `factor`."""
        top = None if self.top is None else point(factor * v for v in self.top)
        datum = self.datum.scaled(factor)
        return replace(self, datum=datum, wide=self.wide * factor, top=top)


@dataclass(frozen=True, eq=False)
class _Found:
    datum: Datum
    wall: np.ndarray
    wide: float


def find_vessels(
    pixels: np.ndarray,
    look: PartProbabilities,
    focal: float,
    asked: int | None = None,
    settings: VesselSettings = VESSELS,
) -> tuple[tuple[Vessel, ...], np.ndarray]:
    """All vessels of a composition from the left, and their walls (bool h x w).

    Parameters: the picture, sRGB uint8 (h, w, 3); what the network saw in all of it; the focal
    length in pixels; and how many the brief lists (None: nobody says). Raises NoEngine when the
    network cannot be run.
    """
    places, likely = _looked_over(pixels, look, settings)
    places = as_many(places, asked, settings)
    walls = _walls(places, likely, settings)
    found = [
        _with_doubt(_read(pixels, place, wall, focal, settings), place, settings)
        for place, wall in zip(places, walls, strict=True)
    ]
    tallest = max((f.datum.height for f in found), default=0.0)
    kept = [f for f in found if f.datum.height >= settings.as_high * tallest][:MOST_VESSELS]
    whole = np.zeros(likely.shape, bool)
    for one in kept:
        whole |= one.wall
    ordered = sorted(kept, key=lambda f: f.datum.base[0])
    return tuple(Vessel(n, f.datum, f.wide, key=n) for n, f in enumerate(ordered, 1)), whole


def as_many(
    places: list[VesselPlace], asked: int | None, settings: VesselSettings = VESSELS
) -> list[VesselPlace]:
    """Which of the places, the likeliest first, are vessels, where a brief lists `asked` of them:
    that many as far as they can hardly be made out, and beside them only what is one plainly.
    Without a brief those that are likely enough by themselves.
    """
    if asked is None:
        return [p for p in places if p.likely >= settings.kept]
    return places[:asked] + [p for p in places[asked:] if p.likely >= settings.plainly]


def _looked_over(
    pixels: np.ndarray, look: PartProbabilities, settings: VesselSettings
) -> tuple[list[VesselPlace], np.ndarray]:
    """The places of all vessels, the likeliest first, and how likely each pixel is of any (h, w):
    by looks at the whole of the composition and at tiles along the band in which vessels stand.
    Small ones are lost in a picture of the whole, and of large ones a tile shows too little.
    """
    first = look.likely[list(ANY)].sum(0)
    ys, xs = np.nonzero(first > settings.surely)
    if not len(ys):
        return [], first
    high, low = np.percentile(ys, (1, 99))
    plant = look.likely[[Part.LEAF, Part.PETAL]].sum(0) > settings.surely
    left, right = (f(np.append(xs, np.nonzero(plant)[1])) for f in (np.min, np.max))
    band = (float(left), float(right), float(low))
    height, width = first.shape
    room = 0.15 * (right - left) + 0.3 * (low - high)
    frames = [
        (
            max(0, round(left - room)),
            max(0, round(high - 0.6 * (low - high))),
            min(width, round(right + room)),
            min(height, round(low + 0.3 * (low - high))),
        )
    ]
    for times in settings.tiles:
        side = max(times * (low - high), settings.narrowest * (right - left), 48)
        frames += _tiles(band, side, (height, width), settings)
    seen, likely = [], first.copy()
    for frame in frames:
        places, near = vessel_places(pixels, frame, settings.least)
        seen += [p for p in places if _inside(p, frame, (height, width), settings)]
        part = np.s_[frame[1] : frame[3], frame[0] : frame[2]]
        likely[part] = np.maximum(likely[part], near)
    return _apart(_with_walls(_joined(seen, settings), likely, settings), settings), likely


def _with_walls(
    places: list[VesselPlace], likely: np.ndarray, settings: VesselSettings
) -> list[VesselPlace]:
    """The places, the likeliest first, with what the pixels (h, w) say joined in: between foot and
    rim of a vessel there is wall, and under its foot there is none.
    """
    out = []
    for place in places:
        shown = _share(place, likely, 0.15, 0.85) * (1 - _share(place, likely, -0.25, -0.1))
        both = place.likely ** (1 - settings.walled) * shown**settings.walled
        if both >= settings.hardly:
            out.append(replace(place, likely=float(both)))
    return sorted(out, key=lambda p: -p.likely)


def _share(place: VesselPlace, likely: np.ndarray, low: float, high: float) -> float:
    """How likely vessel (h, w) is in the mean in the middle half of a place's width, between two
    levels in parts of its height over the foot.
    """
    foot, up = np.array(place.foot), np.subtract(place.rim, place.foot)
    across = place.half / max(place.high, 1e-6) * np.array([-up[1], up[0]])
    level, aside = np.meshgrid(np.linspace(low, high, 12), np.linspace(-0.5, 0.5, 7))
    at = foot + level[..., None] * up + aside[..., None] * across
    x = np.clip(np.round(at[..., 0] - 0.5).astype(int), 0, likely.shape[1] - 1)
    y = np.clip(np.round(at[..., 1] - 0.5).astype(int), 0, likely.shape[0] - 1)
    return float(likely[y, x].mean())


def _tiles(
    band: tuple[float, float, float], side: float, size: tuple[int, int], settings: VesselSettings
) -> list[tuple[int, int, int, int]]:
    """Square tiles of a side along a band (left, right, foot) of a picture's size (h, w)."""
    left, right, low = band
    count = max(1, round(np.ceil((right - left) / (settings.step * side))))
    middles = left + (right - left) * (np.arange(count) + 0.5) / count
    return [
        (
            max(0, round(middle - side / 2)),
            max(0, round(low - 0.82 * side)),
            min(size[1], round(middle + side / 2)),
            min(size[0], round(low + 0.18 * side)),
        )
        for middle in middles
    ]


def _inside(
    place: VesselPlace,
    frame: tuple[int, int, int, int],
    size: tuple[int, int],
    settings: VesselSettings,
) -> bool:
    """Whether all of a vessel lies in a frame, so that it could be seen whole."""
    left, top, right, bottom = frame
    room = settings.cut * place.high
    low_x, high_x = (f(place.foot[0], place.rim[0]) for f in (min, max))
    return (
        (low_x - 0.7 * place.half > left - room or left == 0)
        and (high_x + 0.7 * place.half < right + room or right == size[1])
        and place.rim[1] > top
        and place.foot[1] < bottom
        and place.high > 4
    )


def _joined(seen: list[VesselPlace], settings: VesselSettings) -> list[VesselPlace]:
    """The places of all looks, those of one vessel joined: weighed by likelihood and by how finely
    each look saw it; what too few looks bear out is left out.
    """
    left, out = sorted(seen, key=lambda p: -p.likely), []
    while left:
        chief = left[0]
        own = [p for p in left if _alike(p, chief, settings)]
        left = [p for p in left if p not in own]
        weight = np.array([p.likely**2 / p.pitch**2 for p in own])
        weight /= weight.sum()
        foot, rim, half = (
            weight @ np.array([getattr(p, n) for p in own]) for n in ("foot", "rim", "half")
        )
        best = sorted((p.likely for p in own), reverse=True)[:2]
        likely = float(np.mean(best)) if len(best) > 1 else 0.8 * best[0]
        out.append(VesselPlace(point(foot), point(rim), float(half), likely, chief.pitch))
    return out


def _alike(a: VesselPlace, b: VesselPlace, settings: VesselSettings) -> bool:
    """Whether two places are of one vessel: feet and rims near to one another."""
    reach = settings.same * min(a.high, b.high)
    return (
        float(np.hypot(*np.subtract(a.foot, b.foot))) < reach
        and float(np.hypot(*np.subtract(a.rim, b.rim))) < 1.3 * reach
    )


def _apart(places: list[VesselPlace], settings: VesselSettings) -> list[VesselPlace]:
    """Places without those that share their foot, or most of their wall, with a likelier one."""
    kept: list[VesselPlace] = []
    for one in places:
        reach = [0.5 * settings.same * max(one.high, k.high) for k in kept]
        if all(
            np.hypot(*np.subtract(one.foot, k.foot)) >= r and _common(one, k) <= settings.shared
            for k, r in zip(kept, reach, strict=True)
        ):
            kept.append(one)
    return kept


def _common(a: VesselPlace, b: VesselPlace) -> float:
    """What two vessels' upright boxes have in common, in parts of the smaller one."""
    sides, areas = [], []
    for p in (a, b):
        middle = (p.foot[0] + p.rim[0]) / 2
        sides.append((middle - p.half, p.rim[1], middle + p.half, p.foot[1]))
        areas.append(2 * p.half * max(p.foot[1] - p.rim[1], 0.0))
    left, top, right, low = (
        f(side) for f, side in zip((max, max, min, min), zip(*sides, strict=True), strict=True)
    )
    return max(0.0, right - left) * max(0.0, low - top) / max(min(areas), 1e-6)


def _walls(
    places: list[VesselPlace], likely: np.ndarray, settings: VesselSettings
) -> list[np.ndarray]:
    """The wall (bool h x w) of each place: pixels of any vessel that are nearest to its axis, in
    parts of its half width, and hang together with it.
    """
    mask = likely > settings.likely
    ys, xs = np.nonzero(mask)
    at = np.column_stack([xs, ys]) + 0.5
    distance = np.full((len(places), len(at)), np.inf)
    for n, place in enumerate(places):
        foot, rim = np.array(place.foot), np.array(place.rim)
        up = (rim - foot) / max(place.high, 1e-6)
        along, side = (at - foot) @ up, np.abs((at - foot) @ np.array([-up[1], up[0]]))
        half = max(place.half, 0.12 * place.high)
        beyond = np.maximum(np.maximum(-along, along - place.high), 0.0)
        off = np.hypot(side / half, beyond / (0.25 * place.high))
        near = (side < settings.aside * max(half, 0.35 * place.high)) & (beyond < 0.25 * place.high)
        distance[n, near] = off[near]
    owner = distance.argmin(0) if len(places) else np.zeros(0, int)
    reached = np.isfinite(distance.min(0)) if len(places) else np.zeros(0, bool)
    out = []
    for n, place in enumerate(places):
        wall = np.zeros(mask.shape, np.uint8)
        own = reached & (owner == n)
        wall[ys[own], xs[own]] = 1
        foot, rim = np.array(place.foot), np.array(place.rim)
        axis = [foot + (rim - foot) * t for t in np.linspace(0.1, 0.9, 9)]
        out.append(chief_part(wall > 0, np.array(axis)))
    return out


def _read(
    pixels: np.ndarray, place: VesselPlace, wall: np.ndarray, focal: float, settings: VesselSettings
) -> _Found:
    """A vessel's datum, its keypoints looked for by themselves near its place; where too little of
    its wall is seen, as its place has it.
    """
    height, width = wall.shape
    half = max(place.half, 0.2 * place.high)
    x = min(place.foot[0], place.rim[0]) - half
    wide = abs(place.foot[0] - place.rim[0]) + 2 * half
    y, high = place.rim[1], place.high
    longer, reach = max(wide, high), max(wide, 0.5 * high)
    frame = (
        max(0, round(x - settings.beside * reach)),
        max(0, round(y - settings.over * longer)),
        min(width, round(x + wide + settings.beside * reach)),
        min(height, round(y + high + settings.under * longer)),
    )
    room = settings.room * longer
    box = (x - room, y - room, x + wide + room, y + high + 1.5 * room)
    middle = tuple((np.array(place.foot) + np.array(place.rim)) / 2)
    look = vessel_probabilities(pixels, frame, (float(middle[0]), float(middle[1])), box)
    points = dict(look.points)
    own = np.eye(2) * (0.03 * place.high + place.pitch) ** 2
    for name, at in (("base", place.foot), ("rim", place.rim)):
        points[name] = _with_place(points[name], np.array(at), own, place.likely)
    base, rim = points["base"].at, points["rim"].at
    spread = float(np.sqrt(sum(points[n].covariance[0, 0] for n in ("base", "rim"))))
    try:
        seen = seen_of(wall, sides_of(wall, (*base, expected_slope(base, rim, spread))))
        over = np.array([rim[0], rim[1] - 0.6 * (base[1] - rim[1])])
        datum = find_datum(
            seen, foot_of(seen, focal), points, over, focal, agreement=look.agreement
        )
    except NoContainer:
        return _Found(_datum_at(place, settings), wall, 2 * place.half)
    off = sum(
        float(np.hypot(*np.subtract(a, b)))
        for a, b in ((datum.base, place.foot), (datum.rim, place.rim))
    )
    wide = float(2 * np.percentile(seen.profile.half, 95))
    if off > settings.off * place.high:
        return _Found(_datum_at(place, settings), wall, max(wide, 2 * place.half))
    return _Found(datum, wall, wide)


def _with_doubt(found: _Found, place: VesselPlace, settings: VesselSettings) -> _Found:
    """A vessel that was hardly made out is doubtful, however well its wall was followed then."""
    if place.likely >= settings.kept:
        return found
    datum = replace(
        found.datum,
        confidence=min(found.datum.confidence, settings.sure * place.likely),
        doubts=(*found.datum.doubts, "it was hardly made out"),
    )
    return replace(found, datum=datum)


def _datum_at(place: VesselPlace, settings: VesselSettings) -> Datum:
    """The datum of a vessel whose wall says something else than its place: as its place has it."""
    foot, rim = np.array(place.foot), np.array(place.rim)
    up = (rim - foot) / max(place.high, 1e-6)
    across = place.half * np.array([-up[1], up[0]])
    unsure = settings.placed * place.high + place.pitch
    return Datum(
        place.rim,
        place.foot,
        point(rim - across),
        point(rim + across),
        confidence=settings.sure * place.likely,
        spread=HandleUncertainty(unsure, unsure, unsure),
        doubts=("it stands close to another vessel",),
    )


def _with_place(seen: Keypoint, at: np.ndarray, covariance: np.ndarray, likely: float) -> Keypoint:
    """A keypoint joined with where a vessel's place has it, by inverse covariance; where the two
    are far apart the place is believed, for another vessel's keypoint may lie near.
    """
    step = seen.at - at
    both = seen.covariance + covariance
    if float(step @ np.linalg.solve(both, step)) > FAR_APART**2 or seen.mass < 0.2:
        return Keypoint(at, covariance, max(seen.mass, likely))
    first, second = np.linalg.inv(seen.covariance + 1e-6 * np.eye(2)), np.linalg.inv(covariance)
    joined = np.linalg.inv(first + second)
    return Keypoint(joined @ (first @ seen.at + second @ at), joined, max(seen.mass, likely))


@dataclass(frozen=True)
class VesselChange:
    """What a person did to the vessels of a composition: `kind` 'move' (handles of the one of a
    `key` put elsewhere), 'add' (a new one of that key, with all four handles), 'remove', or
    'confirm' (all are right where they stand). Places by handle (rim, base, rim_left, rim_right;
    of a move also top, the highest point of what stands in it), photograph pixels.
    """

    kind: str
    key: int = 0
    places: tuple[tuple[str, Point], ...] = ()


def change_vessels(
    vessels: tuple[Vessel, ...], changes: tuple[VesselChange, ...]
) -> tuple[Vessel, ...]:
    """The vessels with changes made to them in order, numbered anew from the left; a change of one
    that is there no more is left out.
    """
    now = {v.key: v for v in vessels}
    for change in changes:
        places = dict(change.places)
        if change.kind == "add":
            datum = given_datum(*(places[n] for n in ("rim", "base", "rim_left", "rim_right")))
            now[change.key] = Vessel(0, datum, datum.rim_width, key=change.key)
        elif change.kind == "confirm":
            for key, v in now.items():
                own = {n: getattr(v.datum, n) for n in HANDLES}
                now[key] = replace(v, datum=v.datum.moved(**own))
        elif change.key not in now:
            continue
        elif change.kind == "remove":
            del now[change.key]
        else:
            old = now[change.key]
            if "top" in places:
                old = replace(old, top=places.pop("top"), top_put=True)
            datum = old.datum.moved(**places) if places else old.datum
            now[change.key] = replace(old, datum=datum, wide=max(old.wide, datum.rim_width))
    ordered = sorted(now.values(), key=lambda v: v.datum.base[0])
    return tuple(replace(v, number=n) for n, v in enumerate(ordered, 1))
