"""Telling plant, container, table and backdrop apart in one picture."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np

from juniper.scene.ground import INTERIOR, Ground, Region, plate, read_ground
from juniper.scene.ground import TABLE as REGION_TABLE

BACKDROP, TABLE, CONTAINER, PLANT = 0, 1, 2, 3


@dataclass(frozen=True)
class Separation:
    """Label raster (uint8 h x w of BACKDROP, TABLE, CONTAINER, PLANT) and how sure it is.

    `confidence` holds 0..1 figures by part; `seed` says whether a solid container was seen;
    `horizon` is the row of the table's far edge in each column (NaN where no table was seen).
    """

    labels: np.ndarray
    confidence: dict[str, float]
    seed: bool
    horizon: np.ndarray


def separate(lab: np.ndarray) -> Separation:
    """Label each pixel of a CIELAB picture (float32 h x w x 3).

    Order of the work: flat regions, which of them is the container, what stands out from the
    ground, then container against plant by colour carried up from the container's own wall.
    """
    ground = read_ground(lab)
    plates = {id(r): plate(ground.lab, r.mask) for r in ground.regions if r.kind != INTERIOR}
    seeds = _container_regions(ground, plates)
    behind = [r for r in ground.regions if not any(r is s for s in seeds)]
    size = (lab.shape[1], lab.shape[0])
    scale = lab.shape[0] / ground.lab.shape[0]

    fine_distance, fine_table = _fine_distance(lab, ground, behind, plates)
    standing = _standing(fine_distance, ground, seeds, size)
    container = _container(lab, ground, seeds, standing)
    container = _with_edges(lab, container, standing)
    plant = standing & ~container
    plant = _keep_plant(plant, container, scale)
    container = _largest(_solid(container, plant))
    labels = np.where(fine_table, TABLE, BACKDROP).astype(np.uint8)
    labels[plant] = PLANT
    labels[container] = CONTAINER
    contrast = float(np.median(fine_distance[plant])) if plant.any() else 0.0
    confidence = {
        "plant": float(np.clip((contrast - 6) / 18, 0, 1)),
        "container": 1.0 if seeds else 0.15,
        "table": 1.0 if ground.found_table else 0.4,
    }
    horizon = cv2.resize(ground.horizon[None, :], (size[0], 1))[0] * scale
    if not ground.found_table:
        horizon = np.full_like(horizon, np.nan)
    return Separation(labels, confidence, bool(seeds), horizon)


def _container_regions(ground: Ground, known: dict) -> list[Region]:
    """The flat regions that are the container's wall: off the edges of the picture, unlike the
    ground behind, in the middle of the piece and low; with the strips of wall beside them."""
    height, width = ground.lab.shape[:2]
    rough = ground.rough.copy()
    rough[:, :3] = rough[:, -3:] = False
    body = cv2.morphologyEx(rough.astype(np.uint8), cv2.MORPH_OPEN, np.ones((5, 5), np.uint8))
    columns = body.sum(axis=0).astype(float) ** 2
    if columns.sum() == 0:
        return []
    middle = float((columns * np.arange(width)).sum() / columns.sum())
    crown = float(np.average(np.arange(height), weights=body.sum(axis=1) + 1e-9))
    border = [r for r in ground.regions if r.kind != INTERIOR]
    table = [r for r in border if r.kind == REGION_TABLE]
    table_lab = np.mean([r.lab for r in table], axis=0) if table else None
    plates = [known[id(r)] for r in border]
    scored = []
    for region in ground.regions:
        x0, y0, x1, y1 = region.box
        if region.kind != INTERIOR or y1 < 0.4 * height or region.centre[1] < crown - 0.05 * height:
            continue
        row = float(ground.horizon[int(np.clip(region.centre[0], 0, width - 1))])
        on_table = y1 > row + 0.02 * height
        # Table cannot show above its own far edge, nor backdrop below it.
        behind = [
            p
            for p, r in zip(plates, border, strict=True)
            if (y0 > row - 0.03 * height if r.kind == REGION_TABLE else not on_table)
        ]
        over = ground.rough[max(0, int(y0 - 0.1 * height)) : y0, x0:x1]
        if over.size == 0 or over.mean() < 0.3:
            continue
        if _is_shadow(region, table_lab) or _is_gap(region, behind, ground.lab):
            continue
        away = abs(region.centre[0] - middle) / width
        rise = (y1 - y0) / max(1, x1 - x0)
        stands = 1.0 if on_table else 0.35
        score = region.area * np.exp(-((away / 0.1) ** 2)) * min(1.0, rise * 6) * stands
        scored.append((score, region))
    if not scored:
        return []
    scored.sort(key=lambda pair: -pair[0])
    best_score, best = scored[0]
    if best_score < 0.0002 * height * width:
        return []
    chosen = [best]
    rest = [r for _, r in scored[1:]]
    grown = True
    while grown:
        grown = False
        x0 = min(r.box[0] for r in chosen)
        x1 = max(r.box[2] for r in chosen)
        y0 = min(r.box[1] for r in chosen)
        y1 = max(r.box[3] for r in chosen)
        for region in rest:
            a0, b0, a1, b1 = region.box
            across = max(a0 - x1, x0 - a1)
            tall_alike = abs(b0 - y0) + abs(b1 - y1) < 0.4 * (y1 - y0)
            strip = across < 0.04 * width and tall_alike and (a1 - a0) < 0.9 * (x1 - x0)
            within = a0 > x0 - 0.02 * width and a1 < x1 + 0.02 * width and y0 <= b0 < y1 + 0.1 * height
            alike = np.linalg.norm((region.lab - best.lab) * (0.3, 1, 1)) < 14
            if alike and (strip or within):
                chosen.append(region)
                rest = [r for r in rest if r is not region]
                grown = True
                break
    return chosen


def _is_gap(region: Region, plates: list, lab: np.ndarray) -> bool:
    """Backdrop or table seen through the piece: the colour carried on from the edge fits."""
    for carried, reach in plates:
        steps = lab[region.mask] - carried[region.mask]
        low, high = np.percentile(steps[:, 0], (10, 90))
        if high - low > 6:  # shaded like something turned, not like ground seen through
            continue
        step = np.median(steps, axis=0)
        near = float(np.median(reach[region.mask])) < 0.25 * max(lab.shape[:2])
        if near and abs(step[0]) < 5 and np.hypot(step[1], step[2]) < 3:
            return True
    return False


def _is_shadow(region: Region, table_lab: np.ndarray | None) -> bool:
    """A darker patch of the table's own hue that lies rather than stands."""
    if table_lab is None:
        return False
    x0, y0, x1, y1 = region.box
    lies = (y1 - y0) < 0.35 * (x1 - x0)
    ratio = region.lab[0] / max(table_lab[0], 1.0)
    hue_close = np.linalg.norm(region.lab[1:] - ratio * table_lab[1:]) < 4
    return lies and hue_close and 0.45 < ratio <= 1.02


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


def _fine_distance(lab: np.ndarray, ground: Ground, regions: list[Region], known: dict) -> tuple[np.ndarray, np.ndarray]:
    """How far each pixel's colour lies from the nearest ground carried on behind it.

    Returns float32 (h, w) in CIELAB units, and whether the table is that ground. On the table a
    pixel that is only darker, with its chroma scaled alike, is a shadow and counts for less.
    """
    height, width = lab.shape[:2]
    reach_limit = 0.16 * max(ground.lab.shape[:2])
    best = np.full((height, width), 200.0, np.float32)
    horizon = cv2.resize(ground.horizon[None, :], (width, 1))[0] * (height / ground.lab.shape[0])
    rows = np.arange(height, dtype=np.float32)[:, None]
    scale = height / ground.lab.shape[0]
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
        distance = _from_plate(lab[fine], cv2.resize(carried[part], size), grain, on_table) + 30 * np.clip(
            (cv2.resize(reach[part], size) - reach_limit) / reach_limit, 0, 4
        )
        if on_table:
            distance += np.clip((horizon[None, x0:x1] - rows[y0:y1]) * 0.5 - 2, 0, 60)
        best[fine] = np.minimum(best[fine], distance)
    best = np.minimum(best, _level_distance(lab, horizon))
    return best.astype(np.float32), rows > horizon[None, :]


def _from_plate(lab: np.ndarray, carried: np.ndarray, grain: float, on_table: bool) -> np.ndarray:
    """CIELAB distance from the ground carried on; a pixel only darker than it counts for less."""
    light, a, b = cv2.split(np.ascontiguousarray(lab))
    want, want_a, want_b = cv2.split(carried)
    chroma = cv2.magnitude(a - want_a, b - want_b)
    ratio = light / cv2.max(want, 1.0)
    if on_table:
        dark = ratio < 0.98
        shade = cv2.magnitude(a - ratio * want_a, b - ratio * want_b)
        chroma = np.where(dark, cv2.min(shade, chroma), chroma)
        weight = np.where(dark & (ratio > 0.3), np.float32(0.22), np.float32(0.75))
    else:
        weight = np.where((ratio < 0.98) & (ratio > 0.75), np.float32(0.45), np.float32(0.75))
    return cv2.magnitude(weight * np.abs(light - want) / np.float32(max(1.0, grain / 2)), 1.6 * chroma)


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


def _container(lab, ground, seeds, standing) -> np.ndarray:
    """Container pixels among those standing: near its wall's colour carried on, within its sides."""
    height, width = standing.shape
    out = np.zeros(standing.shape, bool)
    wall = np.zeros(ground.rough.shape, bool)
    for region in seeds:
        wall |= region.mask
    if not seeds:
        wall = _lowest_part(standing, ground.rough.shape)
        if wall.sum() < 12:
            return out
    carried, reach = plate(ground.lab, wall)
    colours = ground.lab[wall]
    low, high = np.percentile(colours, (2, 98), axis=0).astype(np.float32)
    scale = height / wall.shape[0]
    grow = 0.35 if seeds else 2.5
    # Only the wall's surroundings are worth looking at: as far up and aside as it may be grown.
    x, y, w, h = (int(v * scale) for v in cv2.boundingRect(wall.astype(np.uint8)))
    aside = int(max(w + 8, (0.12 if seeds else 1.0) * w))
    x0, x1 = max(0, x - aside), min(width, x + w + aside)
    y0 = max(0, int(y - grow * max(h, w)))
    part = np.s_[y0:height, x0:x1]
    lab, standing = lab[part], standing[part]
    shape = (x1 - x0, height - y0)

    def fine(raster, how=cv2.INTER_LINEAR):
        """The part of a coarse raster at the picture's size."""
        into = np.float32([[1 / scale, 0, (x0 + 0.5) / scale - 0.5], [0, 1 / scale, (y0 + 0.5) / scale - 0.5]])
        return cv2.warpAffine(raster, into, shape, flags=how | cv2.WARP_INVERSE_MAP, borderMode=cv2.BORDER_REPLICATE)

    fine_wall = fine(wall.astype(np.uint8), cv2.INTER_NEAREST) > 0
    near_range = np.linalg.norm((lab - np.clip(lab, low, high)) * np.float32((0.5, 1.5, 1.5)), axis=2)
    near_plate = np.linalg.norm((lab - fine(carried)) * np.float32((0.4, 1.5, 1.5)), axis=2)
    like = np.minimum(near_range, near_plate) < 7
    columns, rows = np.arange(x0, x1), np.arange(y0, height)[:, None]
    margin = (0.12 if seeds else 1.0) * w
    within = (columns > x - margin) & (columns < x + w + margin)
    reachable = (fine(reach) * scale < grow * max(w, h)) & (rows > y - grow * h)
    cand = standing & ((like & reachable & within[None, :]) | fine_wall)
    # The wall turned away from the light: darker or lighter, its chroma scaled alike.
    wide = 0.9 * w + 4
    beside = (columns > x - wide) & (columns < x + w + wide)
    typical = np.median(colours, axis=0)
    turned = lab[..., 1:] - (lab[..., :1] / max(float(typical[0]), 1.0)) * typical[1:].astype(np.float32)
    turned = np.hypot(turned[..., 0], turned[..., 1]) < 5
    cand |= standing & turned & beside[None, :] & (rows >= y)
    # Everything standing below the wall is foot, stem of an urn, or its dark contact line.
    cand |= standing & (rows > y + 0.75 * h) & within[None, :] & _under(fine_wall)
    kernel = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (5, 5))
    cand = cv2.morphologyEx(cand.astype(np.uint8), cv2.MORPH_CLOSE, kernel)
    cand = cv2.morphologyEx(cand, cv2.MORPH_OPEN, np.ones((3, 3), np.uint8)) > 0
    count, labels = cv2.connectedComponents(cand.astype(np.uint8))
    hit = np.bincount(labels[fine_wall & cand], minlength=count)
    hit[0] = 0
    out[part] = (hit > 0)[labels] & standing
    return out


def _with_edges(lab: np.ndarray, container: np.ndarray, standing: np.ndarray) -> np.ndarray:
    """Give the wall its bright or dark edges: narrow runs of about its own hue between wall and
    ground, below the part that leaves may hang over."""
    if not container.any():
        return container
    out = container.copy()
    rows = np.flatnonzero(container.any(axis=1))
    hue = np.median(lab[container], axis=0)[1:]
    alike = np.hypot(lab[..., 1] - hue[0], lab[..., 2] - hue[1]) < 12
    for row in rows[int(0.15 * len(rows)) :]:
        wall = np.flatnonzero(container[row])
        most = int(0.22 * (wall[-1] - wall[0] + 1)) + 2
        for start, step in ((wall[0] - 1, -1), (wall[-1] + 1, 1)):
            x = start
            while 0 <= x < container.shape[1] and standing[row, x] and alike[row, x] and abs(x - start) <= most:
                x += step
            inside = 0 <= x < container.shape[1]
            if abs(x - start) <= most and not (inside and standing[row, x]):
                low, high = sorted((start, x - step))
                out[row, low : high + 1] = standing[row, low : high + 1]
    return out


def _solid(container: np.ndarray, plant: np.ndarray) -> np.ndarray:
    """Fill the wall between its sides, where a highlight matches the backdrop behind it.

    Only gaps with wall of some breadth on both hands are filled, so a handle keeps its opening.
    """
    out = container.copy()
    for row in np.flatnonzero(container.any(axis=1)):
        line = container[row]
        ends = np.flatnonzero(np.diff(np.concatenate([[0], line.astype(np.int8), [0]])))
        starts, stops = ends[::2], ends[1::2]
        width = stops[-1] - starts[0]
        lengths = stops - starts
        for i in range(len(starts) - 1):
            flanked = min(lengths[: i + 1].max(), lengths[i + 1 :].max()) > 0.12 * width
            if flanked and starts[i + 1] - stops[i] < 0.7 * width:
                out[row, stops[i] : starts[i + 1]] = True
    return out & ~plant


def _lowest_part(standing: np.ndarray, shape: tuple[int, int]) -> np.ndarray:
    """Where no flat wall was seen: the lowest tenth of what stands, at the coarse size."""
    small = cv2.resize(standing.astype(np.uint8), (shape[1], shape[0]), interpolation=cv2.INTER_AREA) > 0
    small = cv2.erode(_largest(small).astype(np.uint8), np.ones((3, 3), np.uint8)) > 0
    rows = np.flatnonzero(small.sum(axis=1) >= 4)
    if len(rows) == 0:
        return np.zeros(shape, bool)
    cut = rows[-1] - 0.1 * (rows[-1] - rows[0])
    return small & (np.arange(shape[0])[:, None] >= cut)


def _under(wall: np.ndarray) -> np.ndarray:
    """Pixels at or below the lowest wall pixel of a neighbouring column."""
    seen = np.maximum.accumulate(wall, axis=0)
    lowest = seen & ~wall
    return cv2.dilate(lowest.astype(np.uint8), np.ones((1, 41), np.uint8)) > 0


def _keep_plant(plant: np.ndarray, container: np.ndarray, scale: float) -> np.ndarray:
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
        main = int(np.argmax(np.where(joined, weight, 0.3 * weight)))
    else:
        main = int(np.argmax(weight))
    return plant & (labels == main)


def _largest(mask: np.ndarray) -> np.ndarray:
    count, labels, stats, _ = cv2.connectedComponentsWithStats(mask.astype(np.uint8), connectivity=8)
    if count < 2:
        return mask
    big = stats[1:, 4] >= 0.03 * stats[1:, 4].max()
    return np.concatenate([[False], big])[labels]
