"""How pieces stand, kept for the wall where they are compared."""

from __future__ import annotations

from hashlib import blake2b

import cv2
import numpy as np

from heath.assessment.models import Piece, PieceSnapshot
from heath.assessment.reading import Reading, read
from juniper import VERSION
from juniper.scene.parts import Label

UNIT = 1000.0  # of the container's height
FINE = 3.0  # of these units: how far a simplified outline may lie from the true one
LEAST = 60.0  # of them squared: a smaller speck is left out


def key_of(piece: Piece) -> str:
    """A digest of what a snapshot depends on: the photographs in force, what people did,
    the brief, the rules in force.
    """
    rules = piece.brief.rules
    rasters = sorted(p.raster.name for p in piece.photographs.all() if p.current)
    facts = (
        VERSION,
        rasters,
        piece.revision,
        piece.brief.as_core(piece.dominant),
        rules.slug,
        rules.version,
    )
    return blake2b(repr(facts).encode(), digest_size=20).hexdigest()


def keep_snapshot(piece: Piece, reading: Reading | None = None) -> PieceSnapshot:
    """Keep how a piece stands; `reading` where it was read already, of its front view."""
    reading = reading or read(piece)
    labels = reading.raster
    datum, scale = reading.datum, labels.scale
    paths, reach = [], []
    for label in (Label.PLANT, Label.CONTAINER):
        path, points = _path((labels.labels == label).astype(np.uint8), scale, datum)
        paths.append(path)
        reach.append(points)
    every = np.vstack(reach) if any(len(r) for r in reach) else np.zeros((1, 2))
    up, right = datum.up, datum.right
    turn = UNIT / datum.height
    # Photograph pixels to the wall: right and down from the rim point.
    a, b = right[0] * turn, -up[0] * turn
    c, d = right[1] * turn, -up[1] * turn
    e, f = -(datum.rim[0] * a + datum.rim[1] * c), -(datum.rim[0] * b + datum.rim[1] * d)
    return PieceSnapshot.objects.update_or_create(
        piece=piece,
        defaults={
            "photograph": reading.photograph,
            "key": key_of(piece),
            "score": reading.verdict.score,
            "measures": {
                n: round(x.value, 4) for n, x in reading.findings.by_name.items() if x.measured
            },
            "plant": paths[0],
            "vessel": paths[1],
            "container_cm": reading.brief.container_height_cm,
            "left": float(every[:, 0].min()),
            "right": float(every[:, 0].max()),
            "top": float(every[:, 1].min()),
            "bottom": float(every[:, 1].max()),
            "upright": f"matrix({a:.5g} {b:.5g} {c:.5g} {d:.5g} {e:.5g} {f:.5g})",
        },
    )[0]


def _path(mask: np.ndarray, scale: float, datum) -> tuple[str, np.ndarray]:
    """Outline of a mask (uint8 h x w) as an SVG path on the wall, and its points (n, 2) there:
    right and down from the rim point.
    """
    edges, _ = cv2.findContours(mask, cv2.RETR_CCOMP, cv2.CHAIN_APPROX_SIMPLE)
    parts, points = [], [np.zeros((0, 2))]
    for edge in edges:
        step = (edge.reshape(-1, 2) + 0.5) / scale - np.asarray(datum.rim)
        at = np.column_stack([step @ datum.right, -(step @ datum.up)]) * (UNIT / datum.height)
        line = cv2.approxPolyDP(at.astype(np.float32), FINE, True).reshape(-1, 2)
        if len(line) > 2 and cv2.contourArea(line.astype(np.float32)) >= LEAST:
            parts.append("M" + "L".join(f"{x:.0f} {y:.0f}" for x, y in line) + "Z")
            points.append(line)
    return "".join(parts), np.vstack(points)
