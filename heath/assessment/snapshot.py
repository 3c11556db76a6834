"""How pieces stand, kept for the wall where they are compared."""

from __future__ import annotations

from hashlib import blake2b

import cv2
import numpy as np
from django.db import transaction
from procrastinate.contrib.django import app
from procrastinate.exceptions import AlreadyEnqueued

from heath.assessment.models import Flag, Piece, PieceSnapshot
from heath.assessment.reading import Reading, read
from juniper import VERSION
from juniper.measures.finding import Measured
from juniper.rules.faults import chief_fault
from juniper.scene import Datum
from juniper.scene.parts import Label

KEEP = "assessment.keep_snapshot"  # the task that keeps a snapshot in the background
SETTLE = 10  # seconds after a change
UNIT = 1000.0  # of the container's height
FINE = 3.0  # of these units: how far a simplified outline may lie from the true one
KEPT = 2  # of what a snapshot holds: a further field makes it a further number
LEAST = 60.0  # of them squared: a smaller speck is left out


def key_of(piece: Piece) -> str:
    """A digest of what a snapshot depends on: the photographs in force, what people did,
    the brief, the rules in force.
    """
    rules = piece.brief.rules
    rasters = sorted(p.raster.name for p in piece.photographs.all() if p.current)
    facts = (KEPT, VERSION, rasters, piece.revision, piece.core_brief, rules.slug, rules.version)
    return blake2b(repr(facts).encode(), digest_size=20).hexdigest()


def snapshot_of(piece: Piece, reading: Reading | None = None) -> PieceSnapshot:
    """How a piece stands now, not kept yet; `reading` where it was read already, of its front
    view.
    """
    reading = reading or read(piece)
    labels, datum, verdict = reading.raster, reading.datum, reading.verdict
    (plant, plant_points), (vessel, vessel_points) = (
        _path((labels.labels == label).astype(np.uint8), labels.scale, datum)
        for label in (Label.PLANT, Label.CONTAINER)
    )
    every = np.vstack([np.zeros((1, 2)), plant_points, vessel_points])
    if len(every) > 1:
        every = every[1:]
    return PieceSnapshot(
        piece=piece,
        photograph=reading.photograph,
        key=key_of(piece),
        score=verdict.score,
        uncertainty=verdict.uncertainty,
        fault=chief_fault(verdict)[:60],
        flags=flags_of(reading),
        measures={
            n: round(x.value, 4)
            for n, x in reading.findings.by_name.items()
            if isinstance(x, Measured)
        },
        plant=plant,
        vessel=vessel,
        container_cm=reading.brief.container_height_cm,
        left=float(every[:, 0].min()),
        right=float(every[:, 0].max()),
        top=float(every[:, 1].min()),
        bottom=float(every[:, 1].max()),
        upright=_upright(datum),
    )


def flags_of(reading: Reading) -> list[str]:
    """Why a marker should look at a piece before its mark is trusted, the gravest first."""
    verdict = reading.verdict
    raised = {
        Flag.SAFETY: bool(verdict.unsafe),
        Flag.QUESTION: bool(verdict.to_answer),
        Flag.HANDLES: reading.to_check,
        Flag.SHORT: not verdict.enough,
    }
    return [str(flag) for flag, up in raised.items() if up]


def _upright(datum: Datum) -> str:
    """What turns the photograph's pixels to the wall's units, right and down from the rim point, as
    an SVG transform.
    """
    turn = UNIT / datum.height
    a, b = datum.right[0] * turn, -datum.up[0] * turn
    c, d = datum.right[1] * turn, -datum.up[1] * turn
    e, f = -(datum.rim[0] * a + datum.rim[1] * c), -(datum.rim[0] * b + datum.rim[1] * d)
    return f"matrix({a:.5g} {b:.5g} {c:.5g} {d:.5g} {e:.5g} {f:.5g})"


def keep_snapshot(piece: Piece, reading: Reading | None = None) -> PieceSnapshot:
    """Keep how a piece stands in the place of what was kept before; see snapshot_of()."""
    now = snapshot_of(piece, reading)
    values = {f.name: getattr(now, f.name) for f in PieceSnapshot._meta.fields if not f.primary_key}
    del values["piece"]
    return PieceSnapshot.objects.update_or_create(piece=piece, defaults=values)[0]


def keep_later(*pieces: int) -> None:
    """Have it kept in the background how pieces (by number) stand, once nobody has changed them
    for some seconds.
    """
    for piece in pieces:
        try:
            with transaction.atomic():
                app.configure_task(
                    KEEP, queueing_lock=f"snapshot {piece}", schedule_in={"seconds": SETTLE}
                ).defer(piece_id=piece)
        except AlreadyEnqueued:
            continue


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
