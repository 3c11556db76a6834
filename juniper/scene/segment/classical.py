"""A picture segmented without a network: by flat ground carried on behind the piece, and a
container that mirrors itself.

It answers where no network can be run, and reads empty containers, which no network was taught.
"""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np

from juniper.background import in_background
from juniper.scene.container.profile import Profile, band_of, find_profile, relief_of
from juniper.scene.container.wall import WALLS, Wall, see_wall
from juniper.scene.parts import Label
from juniper.scene.segment.ground import BACKDROP as REGION_BACKDROP
from juniper.scene.segment.ground import INTERIOR, Ground, Region, plate, read_ground
from juniper.scene.segment.ground import TABLE as REGION_TABLE


@dataclass(frozen=True)
class ClassicalSettings:
    """What belongs to plant and container without the network.

    Where no source is named: set by trial on simulated pictures (bin/accuracy).
    """

    # half widths of the container from its axis, within which an upright line is a stem
    middle_stems: float = 1.0
    edge: int = 5  # pixels beside the container that its own edge may colour
    # of the picture's height: how far below the table's far edge the backdrop may still be seen
    below_edge: float = 0.02
    # what a difference in lightness counts where the table is only darker: it is a shadow
    shade: float = 0.22
    half_shade: float = 0.5


CLASSICAL_SETTINGS = ClassicalSettings()


@dataclass(frozen=True, eq=False)
class Separation:
    """Label raster (uint8 h x w of Label) and how sure it is.

    `plant_confidence` is 0..1; `profile` is the container's outline, None where none was made out,
    and `wall` what is seen of it; `horizon` is the row of the table's far edge in each column (NaN
    where no table was seen).
    """

    labels: np.ndarray
    plant_confidence: float
    profile: Profile | None
    wall: Wall | None
    horizon: np.ndarray


def separate(lab: np.ndarray, empty: bool = False) -> Separation:
    """Label each pixel of a picture of a piece, or of an `empty` container, given as CIELAB
    (float32 h x w x 3).

    Order of the work: flat regions; the container by its two sides; what stands out from the
    ground; of that, what is wall.
    """
    relief = in_background(relief_of, lab)
    ground = read_ground(lab)
    border = [r for r in ground.regions if r.kind != INTERIOR]
    carried = [(r, in_background(plate, ground.lab, r.mask)) for r in border]
    plates = {id(r): found.result() for r, found in carried}
    size = (lab.shape[1], lab.shape[0])
    scale = lab.shape[0] / ground.lab.shape[0]
    horizon = cv2.resize(ground.horizon[None, :], (size[0], 1))[0] * scale
    if not ground.found_table:
        horizon = np.full_like(horizon, np.nan)

    # What is certainly no backdrop or table, to look for the container in.
    rough, _ = _fine_distance(ground.lab, ground, border, plates, CLASSICAL_SETTINGS.half_shade)
    backdrop = [r for r in border if r.kind == REGION_BACKDROP]
    begun = in_background(_fine_distance, lab, ground, backdrop, plates)
    foreground = cv2.resize(np.clip((rough - 5) / 10, 0, 1), size, interpolation=cv2.INTER_LINEAR)
    level = float(horizon[-1] - horizon[0]) / max(1, size[0] - 1) if ground.found_table else 0.0
    # A table set askew has an edge that leans, too: it is believed by half.
    profile = find_profile(lab, foreground, horizon, -level, 0.5, empty, None, relief.result())
    seeds = _of_the_wall(ground, profile, scale)
    done = {id(r) for r in (*seeds, *backdrop)}
    behind = [r for r in ground.regions if id(r) not in done and not _is_leaf(r, rough)]
    distance, table = _fine_distance(lab, ground, behind, plates, begun=begun.result()[0])
    standing = _standing(distance, ground, seeds, size)
    plant, container, wall = standing, np.zeros_like(standing), None
    if profile is not None:
        wall = see_wall(lab, profile, standing)
        container = wall.mask | _handle(lab, wall, standing)
        plant = (standing & ~wall.outline | wall.plant) & ~container
    plant = _keep_plant(plant & ~_ruled(plant, profile), container)
    if wall is not None:
        plant = _without_shadow(plant & ~_slivers(plant, container), container, wall)
    labels = np.where(table, Label.TABLE, Label.BACKDROP).astype(np.uint8)
    labels[plant] = Label.PLANT
    labels[container] = Label.CONTAINER
    contrast = float(np.median(distance[plant])) if plant.any() else 0.0
    return Separation(labels, float(np.clip((contrast - 6) / 18, 0, 1)), profile, wall, horizon)


def _is_leaf(region: Region, rough: np.ndarray) -> bool:
    """Whether a flat region is a broad leaf: green, and unlike the ground about the piece (`rough`
    distance from it, h x w).
    """
    light, a, b = (float(v) for v in region.lab)
    green = 95 < np.degrees(np.arctan2(b, a)) % 360 < 200 and np.hypot(a, b) > 8
    return (
        region.kind == INTERIOR
        and green
        and light < 75
        and float(np.median(rough[region.mask])) > 12
    )


def _of_the_wall(ground: Ground, profile: Profile | None, scale: float) -> list[Region]:
    """The flat regions that lie within the container's outline: they are wall, and no ground seen
    through the piece.
    """
    if profile is None:
        return []
    band, _ = band_of(profile.scaled(1 / scale), ground.rough.shape, 0.1, WALLS.below)
    return [
        r for r in ground.regions if r.kind == INTERIOR and (r.mask & band).sum() > 0.6 * r.area
    ]


def _ruled(plant: np.ndarray, profile: Profile | None) -> np.ndarray:
    """Long thin level or upright runs (h, w): edges of boards, frames and shelves behind the piece.
    Stems lean and bend, but for those that rise from the middle of the container.
    """
    size = max(plant.shape)
    mask = plant.astype(np.uint8)
    out = np.zeros_like(mask)
    for long, broad, turn in ((0.12, 0.012, 0), (0.07, 0.014, 1)):
        run, breadth = (max(9, int(long * size)), 1), (1, max(3, int(broad * size)))
        if turn:
            run, breadth = run[::-1], breadth[::-1]
        line = cv2.morphologyEx(mask, cv2.MORPH_OPEN, np.ones(run, np.uint8))
        out |= line & (1 - cv2.morphologyEx(mask, cv2.MORPH_OPEN, np.ones(breadth, np.uint8)))
    if profile is not None:
        rows = np.arange(plant.shape[0])
        off = np.abs(np.arange(plant.shape[1])[None] - profile.axis_at(rows)[:, None])
        out[off < CLASSICAL_SETTINGS.middle_stems * np.median(profile.half)] = 0
    # Within a full piece a row of leaves may look ruled.
    full = cv2.morphologyEx(mask, cv2.MORPH_OPEN, np.ones((max(3, size // 60),) * 2, np.uint8))
    full = cv2.dilate(full, np.ones((max(3, size // 25),) * 2, np.uint8))
    return (cv2.dilate(out, np.ones((3, 3), np.uint8)) > 0) & (full == 0)


def _without_shadow(plant: np.ndarray, container: np.ndarray, wall: Wall) -> np.ndarray:
    """The plant without what lies about the foot and hangs together with none of it above: the
    container's own shadow.
    """
    rows = np.flatnonzero(container.any(axis=1))
    if len(rows) == 0:
        return plant
    _, parts, stats, _ = cv2.connectedComponentsWithStats(plant.astype(np.uint8), connectivity=8)
    low = stats[:, cv2.CC_STAT_TOP] > rows[0] + 0.5 * len(rows)
    low[np.unique(parts[plant & wall.plant])] = False
    low[0] = False
    return plant & ~low[parts]


def _slivers(plant: np.ndarray, container: np.ndarray) -> np.ndarray:
    """Thin runs of plant (h, w) that lie all along the container's edge: the edge itself, lit or
    shaded. A stem that crosses it is left.
    """
    edge = (
        cv2.dilate(
            container.astype(np.uint8), np.ones((2 * CLASSICAL_SETTINGS.edge + 1,) * 2, np.uint8)
        )
        > 0
    )
    mask = plant.astype(np.uint8)
    full = cv2.dilate(
        cv2.morphologyEx(
            mask,
            cv2.MORPH_OPEN,
            np.ones((CLASSICAL_SETTINGS.edge, CLASSICAL_SETTINGS.edge), np.uint8),
        ),
        np.ones((CLASSICAL_SETTINGS.edge, CLASSICAL_SETTINGS.edge), np.uint8),
    )
    number, parts = cv2.connectedComponents(
        (mask & edge & (full == 0)).astype(np.uint8), connectivity=8
    )
    size = np.bincount(parts.ravel(), minlength=number)
    long = size > 4 * CLASSICAL_SETTINGS.edge  # a stem's crossing is short
    long[0] = False
    return long[parts]


def _handle(lab: np.ndarray, wall: Wall, standing: np.ndarray) -> np.ndarray:
    """Pixels (h, w) beside the wall that stand, are of its colours, and hang together with it: a
    jug's handle, the foot's edge.
    """
    if wall.clear or not wall.mask.any():
        return np.zeros_like(wall.mask)
    rows, columns = np.flatnonzero(wall.mask.any(axis=1)), np.flatnonzero(wall.mask.any(axis=0))
    high, wide = len(rows), len(columns)
    part = np.s_[
        rows[0] : rows[-1] + max(3, high // 25),
        max(0, columns[0] - wide // 2) : columns[-1] + wide // 2,
    ]
    low, top = np.percentile(lab[wall.mask], (3, 97), axis=0).astype(np.float32)
    near = (
        np.linalg.norm(
            (lab[part] - np.clip(lab[part], low, top)) * np.array((0.5, 1.5, 1.5), np.float32),
            axis=2,
        )
        < 6
    )
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
    shade: float = CLASSICAL_SETTINGS.shade,
    begun: np.ndarray | None = None,
) -> tuple[np.ndarray, np.ndarray]:
    """How far each pixel's colour lies from the nearest ground carried on behind it.

    Returns float32 (h, w) in CIELAB units, and whether the table is that ground. On the table a
    pixel that is only darker, with its chroma scaled alike, is a shadow and counts for less.
    `begun` is what other regions gave already, and is written over.
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
        x1, y1 = (
            min(width, int(np.ceil((left + wide) * scale))),
            min(height, int(np.ceil((top + high) * scale))),
        )
        size = (x1 - x0, y1 - y0)
        fine = np.s_[y0:y1, x0:x1]
        want = [cv2.resize(plane, size) for plane in cv2.split(carried[part])]
        distance = _from_plate(
            [plane[fine] for plane in planes], want, grain, shade if on_table else None
        )
        # Each reach-limit further away costs 30 units, four at most.
        distance += cv2.resize(
            np.clip(reach[part] - reach_limit, 0, 4 * reach_limit) * np.float32(30 / reach_limit),
            size,
        )
        if on_table:
            distance += np.clip((horizon[None, x0:x1] - rows[y0:y1]) * np.float32(0.5) - 2, 0, 60)
        elif ground.found_table:
            # Nor does the backdrop show below the table's far edge.
            distance += np.clip(
                (rows[y0:y1] - horizon[None, x0:x1] - CLASSICAL_SETTINGS.below_edge * height)
                * np.float32(0.5),
                0,
                60,
            )
        np.minimum(best[fine], distance, out=best[fine])
    return best, rows > horizon[None, :]


def _from_plate(planes, carried, grain: float, shade: float | None) -> np.ndarray:
    """CIELAB distance of three planes from those of the ground carried on; a pixel only darker than
    it counts for less.
    """
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
    return cv2.magnitude(
        weight * cv2.absdiff(light, want) * np.float32(1 / max(1.0, grain / 2)),
        np.float32(1.6) * chroma,
    )


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
    expected_right = cv2.remap(
        right, nil, at_right, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE
    )
    part = lab[low:high]
    both = (1 - share) * expected_left + share * expected_right
    for expected in (both, expected_left, expected_right):
        step = part - expected
        distance = np.hypot(0.5 * np.abs(step[..., 0]), 1.6 * np.hypot(step[..., 1], step[..., 2]))
        out[low:high] = np.minimum(out[low:high], distance)
    return out


def _standing(
    distance: np.ndarray, ground: Ground, seeds: list[Region], size: tuple[int, int]
) -> np.ndarray:
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


def _keep_plant(plant: np.ndarray, container: np.ndarray) -> np.ndarray:
    """Drop specks and things standing apart: keep parts joined to the main mass or close by it."""
    close = cv2.dilate((plant | container).astype(np.uint8), np.ones((7, 7), np.uint8))
    count, labels = cv2.connectedComponents(close)
    if count < 2:
        return plant
    weight = np.bincount(labels[plant], minlength=count).astype(float)
    weight[0] = 0
    if container.any():
        joined = np.bincount(labels[container], minlength=count) > 0
        joined[0] = False
        weight = np.where(joined, weight, 0.3 * weight)
    return plant & (labels == int(np.argmax(weight)))
