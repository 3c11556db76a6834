"""Telling plant, container, table and backdrop apart in one picture."""

from __future__ import annotations

from dataclasses import dataclass, replace

import cv2
import numpy as np

from juniper.aside import aside
from juniper.scene.container import BELOW, Profile, Wall, band_of, find_profile, profile_of, relief_of, see_wall
from juniper.scene.ground import BACKDROP as REGION_BACKDROP
from juniper.scene.ground import INTERIOR, Ground, Region, plate, read_ground
from juniper.scene.ground import TABLE as REGION_TABLE
from juniper.scene.petals import LEAF, PETAL, WALL, Look, frame_of, look_at

BACKDROP, TABLE, CONTAINER, PLANT = 0, 1, 2, 3
MIDDLE_STEMS = 1.0  # half widths of the container from its axis
TELLS = 0.8  # how much less what looks like the piece need differ from the ground
SURE = 2.5  # times a likeness of wall: half is as good as sure
NO_PIECE = 0.3  # likeness of the piece below which what is thick is none; stems and grass are too thin to be looked at
PAINTED, PLAIN_WALL = 0.85, 0.6  # of the outline's height, up to which paint is looked for; likeness of wall
SURELY_NONE, PLAINLY = 0.1, 0.9  # likeness of the piece, of plant
BUSY = 0.012  # share of what looks like no piece that stands out all the same
NARROW, SLENDER = 0.008, 3  # of the picture's longer side, and times its breadth: how broad and how long a groove of the wall is
GOES_ON = 0.3  # share of a line's contrast that is found again right above it, or it ends there
HINTED, THIN_TIP = 0.35, 0.03  # likeness that is enough for a tip no broader than that, of the picture's longer side
LOOKS, TIP = (
    0.5,
    0.06,
)  # likeness of plant that is believed right above the plant's top, and up to how far above it, of the plant's height
# CIELAB chroma of white flowers; likeness of petal that is believed of them where no more than this parts them from the ground. The blurred edge of leaves
# and coloured petals is as pale, but narrower than BROAD (of the picture's longer side).
PALE, FAINT_PETAL, FAINTLY, BROAD = 12.0, 0.6, 4.0, 0.005
MOST_STEPS = 4
SPECK, STALK = 6.0, 6  # distance from the ground of a floret; pixels of unseen stalk to each side of it
NEAR = 9  # pixels about what looks like the piece within which fine things may be it
THICK = 0.01  # of the picture's longer side
LEVEL_WITH = 0.25  # of the container's height: how much lower or higher a vessel stands that is set nearer or further back
VESSEL = 0.1  # of the container's area: a smaller piece of wall is no vessel of its own
NECK, RISES = (
    0.4,
    0.6,
)  # of its width: how narrow its neck is, or those of several; share of the rows right above it in which plant shows
GROWN = 0.2  # share of what lies right above a vessel that is plant
PLAIN_SIDES = 0.1  # an outline's score to the pixel of its height, from which its sides are plain
ALL_WALL = 0.8  # share of an outline that looks like wall, at which it is one, whatever else looks so beside it
FITS = 0.8  # of the same, from which an outline that is not by its edges is believed all the same
BY, BORNE = 0.25, 0.01  # of the container's height, about its outline; share of the plant that has to lie there
SAME = 0.75  # common to joint area of two outlines of one container
EDGE = 5  # pixels beside the container that its own edge may colour
BELOW_EDGE = 0.02  # of the picture's height: how far below the table's far edge the backdrop may still be seen
SHADE, HALF_SHADE = 0.22, 0.5  # what a difference in lightness counts where the table is only darker: it is a shadow


@dataclass(frozen=True)
class Separation:
    """Label raster (uint8 h x w of BACKDROP, TABLE, CONTAINER, PLANT) and how sure it is.

    `plant_confidence` is 0..1; `profile` is the container's outline, None where none was made out, and `wall` what is seen of it;
    `horizon` is the row of the table's far edge in each column (NaN where no table was seen); `look` is what was seen of its parts, if anything
    stood there to be looked at, and `agreed` whether it has the container where its edges have it; `others` says whether more vessels
    with something in them stand beside it.
    """

    labels: np.ndarray
    plant_confidence: float
    profile: Profile | None
    wall: Wall | None
    horizon: np.ndarray
    look: Look | None = None
    agreed: bool = True
    others: bool = False


def separate(lab: np.ndarray, pixels: np.ndarray, empty: bool = False) -> Separation:
    """Label each pixel of a picture of a piece, or of an `empty` container, given as CIELAB (float32 h x w x 3) and sRGB (uint8).

    Order of the work: flat regions; the container by its two sides; what stands out from the ground; of that, what is wall.
    """
    relief = aside(relief_of, lab)
    ground = read_ground(lab)
    border = [r for r in ground.regions if r.kind != INTERIOR]
    carried = [(r, aside(plate, ground.lab, r.mask)) for r in border]
    plates = {id(r): found.result() for r, found in carried}
    size = (lab.shape[1], lab.shape[0])
    scale = lab.shape[0] / ground.lab.shape[0]
    horizon = cv2.resize(ground.horizon[None, :], (size[0], 1))[0] * scale
    if not ground.found_table:
        horizon = np.full_like(horizon, np.nan)

    # What is certainly no backdrop or table, to look for the container in.
    rough, _ = _fine_distance(ground.lab, ground, border, plates, HALF_SHADE)
    backdrop = [r for r in border if r.kind == REGION_BACKDROP]
    begun = aside(_fine_distance, lab, ground, backdrop, plates)
    stands = cv2.resize(np.clip((rough - 5) / 10, 0, 1), size, interpolation=cv2.INTER_LINEAR)
    # It was taught on pieces, and knows no empty containers.
    look = look_at(pixels, frame_of(stands > 0.5)) if (stands > 0.5).any() and not empty else None
    likely = look.likeness(stands.shape, WALL) if look else np.ones_like(stands)
    level = float(horizon[-1] - horizon[0]) / max(1, size[0] - 1) if ground.found_table else 0.0
    # A table set askew has an edge that leans, too: it is believed by half.
    # Its likeness is a hint: it is blurred at the edges, and lost under leaves.
    hint = np.clip(SURE * cv2.dilate(likely, np.ones((7, 7), np.uint8)), 0, 1)
    profile = find_profile(lab, stands, horizon, -level, 0.5, empty, hint, relief.result())
    by_edges = profile
    if look is not None:
        profile = _better(lab, profile, likely > 0.5, -level)
    agreed = profile is by_edges or _common(band_of(profile, likely.shape)[0], likely > 0.5) > FITS
    if look is not None and not _bears(profile, look, likely.shape):
        profile = None
    seeds = _of_the_wall(ground, profile, scale)
    done = {id(r) for r in (*seeds, *backdrop)}
    behind = [r for r in ground.regions if id(r) not in done and not _is_leaf(r, rough)]
    distance, table = _fine_distance(lab, ground, behind, plates, begun=begun.result()[0])
    if look is not None:
        # What looks like the piece needs to differ less from the ground behind it: pale flowers before a pale wall.
        piece = look.likeness(stands.shape, WALL, LEAF, PETAL)
        distance *= np.exp(TELLS * np.maximum(0, piece - 0.5))
    standing = _standing(distance, ground, seeds, size)
    if look is not None:
        standing |= _faint(lab, look, distance, standing)
    others = aside(_vessels_beside, look, profile, standing)
    plant, container, wall = standing, np.zeros_like(standing), None
    if profile is not None:
        wall = see_wall(lab, profile, standing)
        if look is not None:
            wall = _painted(wall, profile, look)
        container = wall.mask | _handle(lab, wall, standing)
        plant = (standing & ~wall.outline | wall.plant) & ~container
    elif look is not None:
        # No outline could be followed, as from above; what looks like wall is no foliage all the same.
        container = standing & (look.likeness(stands.shape, WALL) > PLAIN_WALL)
        plant = standing & ~container
    beside = others.result()
    container |= beside
    grown = None
    if look is not None:
        grown = cv2.dilate(piece, np.ones((NEAR, NEAR), np.uint8)) > NO_PIECE
        plant &= ~thick(plant & (piece < NO_PIECE), THICK)
        if _is_busy(look, piece, standing, horizon):
            # Edges of a pattern are as thin as stems, and flowers are as like it as leaves: here the look is believed throughout.
            plant &= grown
            plant |= (look.likeness(stands.shape, LEAF, PETAL) > PLAINLY) & ~container
        within = _inside(look, plant, container)
        plant, container = plant & ~within, container | within
    plant = _keep_plant(plant & ~beside & ~_ruled(plant, lab[..., 0], profile, grown), container, beside, scale)
    if wall is not None:
        plant = _without_shadow(plant & ~_slivers(plant, container), container, wall)
    if look is not None:
        plant |= _tip(plant, look) & ~container
        for _ in range(MOST_STEPS):
            more = _florets(plant, look, distance) & ~container & ~plant
            if not more.any():
                break
            plant |= more
    labels = np.where(table, TABLE, BACKDROP).astype(np.uint8)
    labels[plant] = PLANT
    labels[container] = CONTAINER
    contrast = float(np.median(distance[plant])) if plant.any() else 0.0
    plant_confidence = float(np.clip((contrast - 6) / 18, 0, 1))
    return Separation(labels, plant_confidence, profile, wall, horizon, look, agreed, bool(beside.any()))


def _better(lab: np.ndarray, profile: Profile | None, wall: np.ndarray, lean: float) -> Profile | None:
    """The outline that mirrored edges gave, or that of what looks like wall (bool h x w) where the two are not of one thing."""
    if profile is not None:
        band, _ = band_of(profile, wall.shape)
        plain = profile.score > PLAIN_SIDES * len(profile.half) and wall[band].mean() > ALL_WALL
        if plain or _common(band, wall) > SAME:
            return profile
    return profile_of(lab, wall, lean, 0.5) or profile


def _bears(profile: Profile | None, look: Look, shape: tuple[int, int]) -> bool:
    """Whether some of what looks like plant lies on an outline or right by it: a container with nothing in it is none, however plain its sides."""
    plant = look.likeness(shape, LEAF, PETAL) > 0.5
    if profile is None or not plant.any():
        return True
    reach = 2 * max(3, round(BY * len(profile.half))) + 1
    near = cv2.dilate(band_of(profile, shape)[0].astype(np.uint8), np.ones((reach, reach), np.uint8)) > 0
    return bool((plant & near).sum() > BORNE * plant.sum())


def _painted(wall: Wall, profile: Profile, look: Look) -> Wall:
    """The wall with what plainly looks like wall within its outline, though it is of another colour: bands, a picture, a strong light."""
    level = (profile.foot[1] - np.arange(len(wall.mask))) / len(profile.half)
    below = (level < PAINTED)[:, None]
    paint = wall.outline & below & (look.likeness(wall.mask.shape, WALL) > PLAIN_WALL)
    return replace(wall, mask=wall.mask | paint, plant=wall.plant & ~paint)


def _is_busy(look: Look, piece: np.ndarray, standing: np.ndarray, horizon: np.ndarray) -> bool:
    """Whether much stands out (bool h x w) above the table that looks like no piece at all: a patterned wall, or things behind."""
    framed = look.onto(np.ones(look.middle.shape, np.float32), standing.shape) > 0.5
    above = np.arange(len(standing))[:, None] < np.nan_to_num(horizon, nan=len(standing))[None]
    behind = framed & above & (piece < SURELY_NONE)
    return bool(behind.any()) and float(standing[behind].mean()) > BUSY


def _vessels_beside(look: Look | None, profile: Profile | None, standing: np.ndarray) -> np.ndarray:
    """What looks like further vessels of one composition (bool h x w): wall beside the container's outline, with plant right above it."""
    none = np.zeros_like(standing)
    if look is None or profile is None:
        return none
    band, _ = band_of(profile, standing.shape, 0.0, BELOW)
    room = max(3, round(0.5 * float(np.median(profile.half))))
    near = cv2.dilate(band.astype(np.uint8), np.ones((3, 2 * room + 1), np.uint8)) > 0  # the container's own handle or bulge
    wall = (look.likeness(standing.shape, WALL) > 0.5) & ~band
    grown = (look.likeness(standing.shape, LEAF, PETAL) > 0.5) & standing
    number, parts, stats, _ = cv2.connectedComponentsWithStats(wall.astype(np.uint8), connectivity=4)
    out = none.copy()
    for k in range(1, number):
        left, top, wide, high, area = (int(v) for v in stats[k])
        own = parts == k
        level = abs(top + high - profile.foot[1]) < LEVEL_WITH * len(profile.half)
        if not level or area < VESSEL * band.sum() or (own & near).sum() > 0.2 * area:
            continue
        if _grown_from(own, grown, (left, top, wide, high)):
            out |= own
    return out


def _grown_from(own: np.ndarray, grown: np.ndarray, box: tuple[int, int, int, int]) -> bool:
    """Whether plant (bool h x w) stands in a part of wall (bool h x w) within a box (left, top, width, height): it fills what lies right above it, or,
    where the wall ends in a neck, rises from that."""
    left, top, wide, high = box
    above = grown[max(0, top - high // 4) : top + high // 8, left : left + wide]
    if above.size and above.mean() > GROWN:
        return True
    neck = own[top : top + max(2, high // 10)].any(axis=0)
    if neck.sum() > NECK * wide:
        return False
    mouth = grown[max(0, top - high // 4) : top, cv2.dilate(neck[None].astype(np.uint8), np.ones((1, 7), np.uint8))[0] > 0]
    return bool(mouth.size) and float(mouth.any(axis=1).mean()) > RISES


def _common(one: np.ndarray, other: np.ndarray) -> float:
    """Common to joint area of two masks (h, w)."""
    return float((one & other).sum()) / max(1, int((one | other).sum()))


def _is_leaf(region: Region, rough: np.ndarray) -> bool:
    """Whether a flat region is a broad leaf: green, and unlike the ground about the piece (`rough` distance from it, h x w)."""
    light, a, b = (float(v) for v in region.lab)
    green = 95 < np.degrees(np.arctan2(b, a)) % 360 < 200 and np.hypot(a, b) > 8
    return region.kind == INTERIOR and green and light < 75 and float(np.median(rough[region.mask])) > 12


def _of_the_wall(ground: Ground, profile: Profile | None, scale: float) -> list[Region]:
    """The flat regions that lie within the container's outline: they are wall, and no ground seen through the piece."""
    if profile is None:
        return []
    band, _ = band_of(profile.scaled(1 / scale), ground.rough.shape, 0.1, BELOW)
    return [r for r in ground.regions if r.kind == INTERIOR and (r.mask & band).sum() > 0.6 * r.area]


def _ruled(plant: np.ndarray, light: np.ndarray, profile: Profile | None, grown: np.ndarray | None = None) -> np.ndarray:
    """Long thin level or upright runs (h, w): edges of boards, frames and shelves behind the piece. Stems lean and bend, but for
    those that rise from the middle of the container, where the look (`grown`, h x w) has them, too."""
    size = max(plant.shape)
    mask = plant.astype(np.uint8)
    out = np.zeros_like(mask)
    for long, thick, turn in ((0.12, 0.012, 0), (0.07, 0.014, 1)):
        run, breadth = (max(9, int(long * size)), 1), (1, max(3, int(thick * size)))
        if turn:
            run, breadth = run[::-1], breadth[::-1]
        line = cv2.morphologyEx(mask, cv2.MORPH_OPEN, np.ones(run, np.uint8))
        out |= line & (1 - cv2.morphologyEx(mask, cv2.MORPH_OPEN, np.ones(breadth, np.uint8)))
    if profile is not None:
        rows = np.arange(plant.shape[0])
        off = np.abs(np.arange(plant.shape[1])[None] - profile.axis_at(rows)[:, None])
        stems = off < MIDDLE_STEMS * np.median(profile.half)
        out[stems if grown is None else stems & grown] = 0
    # Within a full piece a row of leaves may look ruled.
    full = cv2.morphologyEx(mask, cv2.MORPH_OPEN, np.ones((max(3, size // 60),) * 2, np.uint8))
    full = cv2.dilate(full, np.ones((max(3, size // 25),) * 2, np.uint8))
    ruled = (cv2.dilate(out, np.ones((3, 3), np.uint8)) > 0) & (full == 0)
    return ruled if grown is None else ruled | _grooves(plant & ~grown, light)


def _grooves(stray: np.ndarray, light: np.ndarray) -> np.ndarray:
    """Narrow upright parts of what the look has nowhere near the piece (bool h x w) that go on as a line (in lightness, h x w) above their top:
    the wall's own, where a blade of grass would end."""
    _, parts, stats, _ = cv2.connectedComponentsWithStats(stray.astype(np.uint8), connectivity=8)
    out = np.zeros_like(stray)
    for k, (left, top, wide, high, _) in enumerate(stats[1:], 1):
        if wide > NARROW * max(stray.shape) or high < SLENDER * wide or top < 2 * high:
            continue
        across = np.s_[max(0, left - 2 * wide) : left + 3 * wide]
        here, above = (
            np.median(light[rows, across], axis=0) for rows in (np.s_[top : top + high], np.s_[max(0, top - 4 * high) : top])
        )
        own, further = here - np.median(here), above - np.median(above)
        if own @ further > GOES_ON * (own @ own):
            out |= parts == k
    return out


def _without_shadow(plant: np.ndarray, container: np.ndarray, wall: Wall) -> np.ndarray:
    """The plant without what lies about the foot and hangs together with none of it above: the container's own shadow."""
    rows = np.flatnonzero(container.any(axis=1))
    if len(rows) == 0:
        return plant
    _, parts, stats, _ = cv2.connectedComponentsWithStats(plant.astype(np.uint8), connectivity=8)
    low = stats[:, cv2.CC_STAT_TOP] > rows[0] + 0.5 * len(rows)
    low[np.unique(parts[plant & wall.plant])] = False
    low[0] = False
    return plant & ~low[parts]


def _faint(lab: np.ndarray, look: Look, distance: np.ndarray, standing: np.ndarray) -> np.ndarray:
    """White florets (bool h x w) that hardly differ from the ground behind them (`distance`, h x w), beside what is `standing` out."""
    pale = cv2.magnitude(lab[..., 1], lab[..., 2]) < PALE
    faint = pale & (look.likeness(standing.shape, PETAL) > FAINT_PETAL) & (distance > FAINTLY) & ~standing
    return thick(faint, BROAD)


def _inside(look: Look, plant: np.ndarray, container: np.ndarray) -> np.ndarray:
    """What of the plant (bool h x w) looks like wall and hangs together with the container: its inner side that shows over the near lip."""
    seen = plant & (look.likeness(plant.shape, WALL) > PLAIN_WALL) & (look.likeness(plant.shape, LEAF, PETAL) < NO_PIECE)
    number, parts = cv2.connectedComponents((seen | container).astype(np.uint8), connectivity=8)
    joined = np.bincount(parts[container], minlength=number) > 0
    joined[0] = False
    return seen & joined[parts]


def _tip(plant: np.ndarray, look: Look) -> np.ndarray:
    """What looks like plant right above the plant's highest point (bool h x w) and touches it: a tip as pale or as thin as what is behind it."""
    out = np.zeros_like(plant)
    rows = np.flatnonzero(plant.any(axis=1))
    if len(rows) == 0:
        return out
    top = max(0, rows[0] - int(TIP * len(rows)))
    part = np.s_[top : rows[0] + 4]
    likely = look.likeness(plant.shape, LEAF, PETAL)[part]
    for least, widest in ((LOOKS, plant.shape[1]), (HINTED, THIN_TIP * max(plant.shape))):
        seen = likely > least
        number, parts = cv2.connectedComponents((seen | plant[part]).astype(np.uint8), connectivity=8)
        touching = np.bincount(parts[plant[part]], minlength=number) > 0
        touching[0] = False
        new = seen & touching[parts] & ~plant[part]
        _, parts, stats, _ = cv2.connectedComponentsWithStats(new.astype(np.uint8), connectivity=8)
        narrow = stats[:, cv2.CC_STAT_WIDTH] <= widest
        narrow[0] = False
        out[part] |= narrow[parts]
    return out


def _florets(plant: np.ndarray, look: Look, distance: np.ndarray) -> np.ndarray:
    """Specks that look like plant above the plant's highest point (bool h x w), each close by the next: the florets of an airy tip whose
    stalks are too thin to be seen."""
    out = np.zeros_like(plant)
    rows = np.flatnonzero(plant.any(axis=1))
    if len(rows) == 0:
        return out
    low = min(len(plant), rows[0] + int(TIP * len(rows)))
    part = np.s_[max(0, rows[0] - int(TIP * len(rows))) : low]
    seen = (look.likeness(plant.shape, LEAF, PETAL)[part] > HINTED) & (distance[part] > SPECK) & ~plant[part]
    near = cv2.dilate((seen | plant[part]).astype(np.uint8), np.ones((2 * STALK + 1,) * 2, np.uint8))
    number, parts = cv2.connectedComponents(near, connectivity=8)
    joined = np.bincount(parts[plant[part]], minlength=number) > 0
    joined[0] = False
    out[part] = seen & joined[parts]
    return out


def _slivers(plant: np.ndarray, container: np.ndarray) -> np.ndarray:
    """Thin runs of plant (h, w) that lie all along the container's edge: the edge itself, lit or shaded. A stem that crosses it is left."""
    edge = cv2.dilate(container.astype(np.uint8), np.ones((2 * EDGE + 1,) * 2, np.uint8)) > 0
    mask = plant.astype(np.uint8)
    full = cv2.dilate(cv2.morphologyEx(mask, cv2.MORPH_OPEN, np.ones((EDGE, EDGE), np.uint8)), np.ones((EDGE, EDGE), np.uint8))
    number, parts = cv2.connectedComponents((mask & edge & (full == 0)).astype(np.uint8), connectivity=8)
    size = np.bincount(parts.ravel(), minlength=number)
    long = size > 4 * EDGE  # a stem's crossing is short
    long[0] = False
    return long[parts]


def _handle(lab: np.ndarray, wall: Wall, standing: np.ndarray) -> np.ndarray:
    """Pixels (h, w) beside the wall that stand, are of its colours, and hang together with it: a jug's handle, the foot's edge."""
    if wall.clear or not wall.mask.any():
        return np.zeros_like(wall.mask)
    rows, columns = np.flatnonzero(wall.mask.any(axis=1)), np.flatnonzero(wall.mask.any(axis=0))
    high, wide = len(rows), len(columns)
    part = np.s_[rows[0] : rows[-1] + max(3, high // 25), max(0, columns[0] - wide // 2) : columns[-1] + wide // 2]
    low, top = np.percentile(lab[wall.mask], (3, 97), axis=0).astype(np.float32)
    near = np.linalg.norm((lab[part] - np.clip(lab[part], low, top)) * np.float32((0.5, 1.5, 1.5)), axis=2) < 6
    cand = (near & standing[part] & ~wall.outline[part]).astype(np.uint8)
    cand = cv2.morphologyEx(cand, cv2.MORPH_OPEN, np.ones((3, 3), np.uint8))
    number, parts, stats, _ = cv2.connectedComponentsWithStats(cand, connectivity=4)
    touch = cv2.dilate(wall.mask[part].astype(np.uint8), np.ones((3, 3), np.uint8)) > 0
    joined = np.bincount(parts[touch], minlength=number) > 0
    joined &= stats[:, cv2.CC_STAT_AREA] > 0.004 * wall.mask.sum()
    joined[0] = False
    out = np.zeros_like(wall.mask)
    out[part] = joined[parts]
    return out


def _groups(ground: Ground, regions: list[Region], known: dict):
    """Yield ground to be carried on as (mask, on the table, plate, reach): the table as one, each
    larger backdrop region by itself. `known` holds plates made already, by id of their region."""
    table = []
    for region in regions:
        on_table = region.kind == REGION_TABLE
        if region.kind == INTERIOR:
            row = float(ground.horizon[int(np.clip(region.centre[0], 0, len(ground.horizon) - 1))])
            on_table = region.centre[1] > row
            stands_behind = abs(region.box[3] - row) < 0.06 * len(ground.rough)
            if not on_table and region.area < 0.006 * ground.rough.size and not stands_behind:
                continue
        if on_table:
            table.append(region)
        else:
            yield (region.mask, False, *(known.get(id(region)) or plate(ground.lab, region.mask)))
    if len(table) == 1 and id(table[0]) in known:
        yield (table[0].mask, True, *known[id(table[0])])
    elif table:
        mask = np.logical_or.reduce([r.mask for r in table])
        yield (mask, True, *plate(ground.lab, mask))


def _fine_distance(
    lab: np.ndarray,
    ground: Ground,
    regions: list[Region],
    known: dict,
    shade: float = SHADE,
    begun: np.ndarray | None = None,
) -> tuple[np.ndarray, np.ndarray]:
    """How far each pixel's colour lies from the nearest ground carried on behind it.

    Returns float32 (h, w) in CIELAB units, and whether the table is that ground. On the table a
    pixel that is only darker, with its chroma scaled alike, is a shadow and counts for less. `begun` is what
    other regions gave already, and is written over.
    """
    height, width = lab.shape[:2]
    planes = cv2.split(lab)
    reach_limit = 0.16 * max(ground.lab.shape[:2])
    horizon = cv2.resize(ground.horizon[None, :], (width, 1))[0] * (height / ground.lab.shape[0])
    rows = np.arange(height, dtype=np.float32)[:, None]
    scale = height / ground.lab.shape[0]
    best = begun if begun is not None else _level_distance(lab, horizon)
    for mask, on_table, carried, reach in _groups(ground, regions, known):
        spread = ground.lab[mask] - carried[mask]
        grain = max(1.0, 1.4826 * float(np.median(np.abs(spread[:, 0]))))
        # Only the part of the picture that this ground can reach is worth the arithmetic.
        left, top, wide, high = cv2.boundingRect((reach < 3 * reach_limit).astype(np.uint8))
        part = np.s_[top : top + high, left : left + wide]
        x0, y0 = int(left * scale), int(top * scale)
        x1, y1 = min(width, int(np.ceil((left + wide) * scale))), min(height, int(np.ceil((top + high) * scale)))
        size = (x1 - x0, y1 - y0)
        fine = np.s_[y0:y1, x0:x1]
        want = [cv2.resize(plane, size) for plane in cv2.split(carried[part])]
        distance = _from_plate([plane[fine] for plane in planes], want, grain, shade if on_table else None)
        # Each reach-limit further away costs 30 units, four at most.
        distance += cv2.resize(np.clip(reach[part] - reach_limit, 0, 4 * reach_limit) * np.float32(30 / reach_limit), size)
        if on_table:
            distance += np.clip((horizon[None, x0:x1] - rows[y0:y1]) * np.float32(0.5) - 2, 0, 60)
        elif ground.found_table:
            # Nor does the backdrop show below the table's far edge.
            distance += np.clip((rows[y0:y1] - horizon[None, x0:x1] - BELOW_EDGE * height) * np.float32(0.5), 0, 60)
        np.minimum(best[fine], distance, out=best[fine])
    return best, rows > horizon[None, :]


def _from_plate(planes, carried, grain: float, shade: float | None) -> np.ndarray:
    """CIELAB distance of three planes from those of the ground carried on; a pixel only darker than it counts for less."""
    light, a, b = planes
    want, want_a, want_b = carried
    chroma = cv2.magnitude(a - want_a, b - want_b)
    ratio = light / cv2.max(want, 1.0)
    if shade is not None:
        dark = ratio < 0.98
        shaded = cv2.magnitude(a - ratio * want_a, b - ratio * want_b)
        chroma = np.where(dark, cv2.min(shaded, chroma), chroma)
        weight = np.where(dark & (ratio > 0.3), np.float32(shade), np.float32(0.75))
    else:
        weight = np.where((ratio < 0.98) & (ratio > 0.75), np.float32(0.45), np.float32(0.75))
    return cv2.magnitude(weight * cv2.absdiff(light, want) * np.float32(1 / max(1.0, grain / 2)), np.float32(1.6) * chroma)


def _level_distance(lab: np.ndarray, horizon: np.ndarray) -> np.ndarray:
    """Distance from what is seen at the same level at both sides of the picture, near the table's
    far edge, where the change from table to backdrop would else stand out."""
    height, width = lab.shape[:2]
    band = max(4, width // 20)
    slope = (horizon[-1] - horizon[0]) / max(1, width - 1)
    reach = int(0.05 * height)
    out = np.full((height, width), 200.0, np.float32)
    low = int(max(0, horizon.min() - reach))
    high = int(min(height, horizon.max() + reach))
    if high - low < 3:
        return out
    columns = np.arange(width, dtype=np.float32)
    rows = np.arange(low, high, dtype=np.float32)
    left = np.median(lab[:, :band], axis=1).astype(np.float32)[:, None]
    right = np.median(lab[:, -band:], axis=1).astype(np.float32)[:, None]
    at_left = (rows[:, None] - slope * columns[None, :]).astype(np.float32)
    at_right = (rows[:, None] + slope * (width - 1 - columns)[None, :]).astype(np.float32)
    share = (columns / (width - 1))[None, :, None]
    nil = np.zeros_like(at_left)
    expected_left = cv2.remap(left, nil, at_left, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
    expected_right = cv2.remap(right, nil, at_right, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
    part = lab[low:high]
    both = (1 - share) * expected_left + share * expected_right
    for expected in (both, expected_left, expected_right):
        step = part - expected
        distance = np.hypot(0.5 * np.abs(step[..., 0]), 1.6 * np.hypot(step[..., 1], step[..., 2]))
        out[low:high] = np.minimum(out[low:high], distance)
    return out


def _standing(distance: np.ndarray, ground: Ground, seeds: list[Region], size: tuple[int, int]) -> np.ndarray:
    """Pixels of the piece: clearly off the ground, or fairly so and joined to such (hysteresis)."""
    strong = distance > 15
    local = cv2.dilate(distance, np.ones((5, 5), np.uint8))
    weak = (distance > 8) & (distance > 0.4 * np.minimum(local, 60))
    if seeds:
        wall = np.zeros(ground.rough.shape, np.uint8)
        for region in seeds:
            wall |= region.mask.astype(np.uint8)
        wall = cv2.resize(wall, size, interpolation=cv2.INTER_NEAREST) > 0
        strong |= wall
        weak |= wall
    count, labels = cv2.connectedComponents(weak.astype(np.uint8), connectivity=8)
    hit = np.bincount(labels[strong], minlength=count)
    hit[0] = 0
    keep = hit >= 6
    return keep[labels]


def thick(mask: np.ndarray, share: float) -> np.ndarray:
    """What of a mask (bool h x w) is thicker than a disc that is a `share` of its longer side, with its own edge."""
    reach = max(3, round(share * max(mask.shape)) | 1)
    round_ = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (reach, reach))
    core = cv2.morphologyEx(mask.astype(np.uint8), cv2.MORPH_OPEN, round_)
    return mask & (cv2.dilate(core, np.ones((3, 3), np.uint8)) > 0)


def _keep_plant(plant: np.ndarray, container: np.ndarray, beside: np.ndarray, scale: float) -> np.ndarray:
    """Drop specks and things standing apart: keep parts joined to the main mass or close by it, or to a vessel beside."""
    close = cv2.dilate((plant | container).astype(np.uint8), np.ones((7, 7), np.uint8))
    count, labels = cv2.connectedComponents(close)
    if count < 2:
        return plant
    weight = np.bincount(labels[plant], minlength=count).astype(float)
    weight[0] = 0
    if container.any():
        joined = np.bincount(labels[container], minlength=count) > 0
        joined[0] = False
        main = int(np.argmax(np.where(joined, weight, 0.3 * weight)))
    else:
        main = int(np.argmax(weight))
    return plant & ((labels == main) | np.isin(labels, np.unique(labels[beside & (labels > 0)])))
