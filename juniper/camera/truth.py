"""The exact truth of a traced picture: container, plant, blooms, stems, colours and areas."""

from __future__ import annotations

import numpy as np

from juniper.camera.arranging import Arrangement, Beside
from juniper.camera.mesh import about_z
from juniper.camera.roll import TURNS

PLANT, CONTAINER = 3, 2
FLOWERS = ("focal", "mass", "line", "accent", "main", "second", "third")
VISIBLE_PX = 40


def _point(values) -> list[float]:
    return [round(float(v), 1) for v in values]


def truth_of(
    done: Arrangement, view: str, camera, labels, items, petal, picture, card, card_depth
) -> dict:
    """Truth as a document; pixels of the picture, x right and y down.

    `labels` and `items` (h, w) are the label and item number met by each pixel's ray, `petal`
    whether it is flower; `card` the corners (4, 2) of the reference card in the picture, or None,
    and `card_depth` its distance in cm.
    """
    piece, c = done.piece, done.container
    turn = about_z(TURNS[view])
    half = c.rim_cm if view in ("front", "back") or c.depth_cm is None else c.depth_cm / 2
    rim, base = camera.pixel(_spots(c, half))[:2]
    up = (rim - base) / np.linalg.norm(rim - base)
    ys, xs = np.nonzero(labels == PLANT)
    points = np.column_stack([xs, ys]) + 0.5
    along, across = (points - rim) @ up, (points - rim) @ np.array([-up[1], up[0]])
    container = np.column_stack(np.nonzero(labels == CONTAINER)[::-1]) + 0.5
    pot_across = (container - rim) @ np.array([-up[1], up[0]])
    flower_ids = [n for n, item in enumerate(done.items) if item.hue]
    on_flower = np.isin(items[ys, xs], flower_ids) & petal[ys, xs]
    blooms = _blooms(done, np.where(petal, items, -1), labels, picture)
    palette: dict[str, int] = {}
    for b in blooms:
        if b["role"] != "filler":
            palette[b["albedo_hex"]] = palette.get(b["albedo_hex"], 0) + b["visible_px"]
    total = sum(palette.values()) or 1
    hues = {b["albedo_hex"]: b["hue"] for b in blooms}
    doc = {
        **_setting(done, view, camera, labels, half),
        "plant": {
            "top": _point(points[along.argmax()]),
            "left": _point(points[across.argmin()]),
            "right": _point(points[across.argmax()]),
            "area_px": len(points),
            "height_above_rim_cm": round(_top(done, turn), 2),
        },
        "findings": {
            "height_ratio": round(float(along.max() / np.linalg.norm(rim - base)), 4),
            "width_ratio": (
                round(float(np.ptp(across) / max(1.0, np.ptp(pot_across))), 4)
                if len(pot_across)
                else None
            ),
            "spread": round(float(np.ptp(across) / max(1.0, along.max())), 4),
            "left_area_share": round(float((across < 0).mean()), 4),
            "foliage_share": round(float(1 - on_flower.mean()), 4),
        },
        "blooms": blooms,
        "palette": [
            {"albedo_hex": h, "hue": hues[h], "share": round(n / total, 4)}
            for h, n in palette.items()
        ],
        "scheme": piece.scheme,
        "form": piece.form,
        "flaws": list(piece.faults),
        "stems": _stems(done, turn, camera),
        "backdrop": piece.wall,
        "clutter": piece.clutter,
        "table": piece.table,
    }
    doc |= _card(done, camera, card, card_depth)
    if done.spots:
        doc["spots"] = {
            fault: [_point(p) for p in camera.pixel(np.array(places) @ turn.T)]
            for fault, places in done.spots.items()
        }
    if done.bound and done.stand is not None:
        half, deep = done.stand
        doc["edge"] = [_point(p) for p in camera.pixel([[-half, -deep, 0], [half, -deep, 0]])]
    if done.others:
        doc["other_containers"] = [
            {"kind": o.container.name, "x_cm": o.x, "y_cm": o.y} for o in done.others
        ]
        doc["vessels"] = _vessels(done, turn, camera, items, labels)
    return doc


def _vessels(done: Arrangement, turn, camera, items, labels) -> list[dict]:
    """Every vessel of a composition, from the left: its datum, and the height of what stands in it
    over its own height, as the picture shows it.
    """
    out = []
    for n, v in enumerate([Beside(done.container, 0.0, 0.0), *done.others]):
        place = turn @ [v.x, v.y, 0.0]
        rim, base, left, right = camera.pixel(_spots(v.container, v.container.rim_cm) + place)
        own = [i for i, item in enumerate(done.items) if item.vessel == n]
        ys, xs = np.nonzero(np.isin(items, own) & (labels == PLANT))
        up = (rim - base) / np.linalg.norm(rim - base)
        along = (np.column_stack([xs, ys]) + 0.5 - rim) @ up
        seen = bool(len(along)) and float(along.max()) > 0
        top = (xs[along.argmax()] + 0.5, ys[along.argmax()] + 0.5) if seen else None
        out.append(
            {
                "kind": v.container.name,
                "height_cm": v.container.height_cm,
                "x_cm": round(v.x, 2),
                "y_cm": round(v.y, 2),
                "clear": v.container.material == "glass",
                "glaze": v.glaze or done.piece.glaze,
                "main": n == 0,
                "rim": _point(rim),
                "base": _point(base),
                "rim_left": _point(left),
                "rim_right": _point(right),
                "top": _point(top) if top else None,
                "height_ratio": (
                    round(float(along.max() / np.linalg.norm(rim - base)), 4) if seen else 0.0
                ),
                "hues": sorted({done.items[i].hue for i in own if done.items[i].hue}),
            }
        )
    return sorted(out, key=lambda o: o["base"][0])


def truth_of_empty(done: Arrangement, camera, labels, card, card_depth) -> dict:
    """Truth of a container by itself, as truth_of tells it of a piece."""
    doc = _setting(done, "empty", camera, labels, done.container.rim_cm)
    return (
        doc
        | {"blooms": [], "stems": [], "backdrop": done.piece.wall, "table": done.piece.table}
        | _card(done, camera, card, card_depth)
    )


def _spots(c, half: float) -> np.ndarray:
    return np.array(
        [[0, 0, c.height_cm], [0, 0, 0], [-half, 0, c.height_cm], [half, 0, c.height_cm]], float
    )


def _setting(done: Arrangement, view: str, camera, labels, half: float) -> dict:
    c = done.container
    rim, base, rim_left, rim_right = camera.pixel(_spots(c, half))
    return {
        "image": {"width": labels.shape[1], "height": labels.shape[0]},
        "view": view,
        "camera": {
            "position": _point(camera.eye),
            "target": _point(camera.target),
            "focal_px": round(float(camera.focal), 2),
            "pitch_deg": round(float(np.degrees(np.arcsin(camera.axes[2][2]))), 3),
            "roll_deg": 0.0,
        },
        "container": {
            "kind": c.name,
            "height_cm": c.height_cm,
            "rim_width_cm": round(2 * half, 2),
            "max_width_cm": round(c.widest_cm, 2),
            "albedo_hex": done.piece.glaze,
            "clear": c.material == "glass",
            "rim": _point(rim),
            "base": _point(base),
            "rim_left": _point(rim_left),
            "rim_right": _point(rim_right),
        },
    }


def _card(done: Arrangement, camera, card, depth) -> dict:
    if card is None:
        return {}
    return {
        "card": {
            "corners": [_point(p) for p in card],
            "yaw_deg": done.piece.card_yaw,
            "before_axis_cm": 2.0,
            "px_per_cm": round(camera.focal / depth, 4),
        }
    }


def _top(done: Arrangement, turn) -> float:
    high = [
        mesh.corners[:, 2].max()
        for item in done.items
        for _, mesh in item.parts
        if len(mesh.corners)
    ]
    return float(max(high) - done.container.height_cm)


def _blooms(done: Arrangement, items, labels, picture) -> list[dict]:
    out = []
    for n, item in enumerate(done.items):
        if not item.hue:
            continue
        seen = (items == n) & (labels == PLANT)
        count = int(seen.sum())
        if count < VISIBLE_PX:
            continue
        ys, xs = np.nonzero(seen)
        mean = picture[seen].mean(0)
        out.append(
            {
                "id": n,
                "kind": item.kind,
                "role": item.role,
                "hue": item.hue,
                "albedo_hex": item.colour,
                "centre": _point((xs.mean() + 0.5, ys.mean() + 0.5)),
                "radius": round(float(np.sqrt(count / np.pi)), 1),
                "visible_px": count,
                "mean_hex": "#" + "".join(f"{int(v):02x}" for v in mean),
                "full_box": _point((xs.min(), ys.min(), xs.max() + 1, ys.max() + 1)),
            }
        )
    return out


def _stems(done: Arrangement, turn, camera) -> list[dict]:
    out = []
    for item in done.items:
        if item.role in ("line", "main", "second", "third") or (
            item.role == "foliage" and item.tip[2] > done.container.height_cm + 0.6 * done.plant_cm
        ):
            way = item.tip - np.array([0, 0, done.container.height_cm])
            lean = np.degrees(np.arctan2((turn @ way)[0], way[2]))
            out.append(
                {
                    "kind": item.kind,
                    "role": item.role,
                    "tip": _point(camera.pixel(turn @ item.tip)[0]),
                    "length_cm": round(float(np.linalg.norm(way)), 1),
                    "lean_deg": round(float(lean), 1),
                }
            )
    return out
