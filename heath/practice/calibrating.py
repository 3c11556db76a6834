"""Markers mark known pieces before an evening, and see how they lean."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import timedelta
from itertools import pairwise

import numpy as np
from django.db import transaction
from django.utils import timezone

from heath.people.models import School, User
from heath.practice.models import Calibration, CalibrationMark, PracticePicture
from juniper.agreement import limits_of_agreement
from juniper.measures.catalogue import FAMILIES

PIECES = 10
TEN = 10.0  # points of 100 that one of a family's ten is
SHOWN_FOR = timedelta(days=42)  # in moderation
PLAIN = 1.5  # points of 100 under which no lean is spoken of, whatever its interval


class NoPieces(Exception):
    """There are too few known pieces yet."""


@dataclass(frozen=True)
class FamilyLean:
    """By how many points of 100 a marker gives more (above 0) or less than is known, in a family of
    rules or (`family` "") over all of them, with half the 95 % interval.
    """

    family: str
    by: float
    reach: float

    @property
    def size(self) -> int:
        """How far, in whole points."""
        return round(abs(self.by))

    @property
    def signed(self) -> str:
        """The lean with its sign."""
        return f"{self.by:+.1f}".replace("-", "−")

    @property
    def sure(self) -> bool:
        """Whether it is beyond chance, and large enough to be spoken of."""
        return abs(self.by) > self.reach and abs(self.by) >= PLAIN


def begin(user: User, slug: str) -> Calibration:
    """Draw known pieces for a marker, poor, middling and good ones alike, none of the last time if
    that can be. Raises NoPieces.
    """
    last = Calibration.objects.filter(user=user).first()
    rows = [
        (marks[slug]["score"], pk)
        for pk, marks in PracticePicture.objects.filter(number__isnull=False).values_list(
            "pk", "marks"
        )
        if slug in marks
    ]
    fresh = [r for r in rows if last is None or r[1] not in last.pictures]
    pool = sorted(fresh if len(fresh) >= PIECES else rows)
    if len(pool) < PIECES:
        raise NoPieces
    rng = np.random.default_rng()
    drawn = [int(rng.choice([pk for _, pk in part])) for part in _parts(pool)]
    rng.shuffle(drawn)
    return Calibration.objects.create(user=user, school=user.school, rules=slug, pictures=drawn)


def _parts(pool: list) -> list[list]:
    """A sorted row in as many parts as there are pieces to draw, of one length."""
    edges = [round(n * len(pool) / PIECES) for n in range(PIECES + 1)]
    return [pool[a:b] for a, b in pairwise(edges)]


def families_of(calibration: Calibration, place: int) -> list[str]:
    """The families in which the piece at a place has a known mark."""
    known = _known(calibration, place)
    return [f for f in FAMILIES if f in known]


def _known(calibration: Calibration, place: int) -> Mapping[str, float]:
    picture = PracticePicture.objects.get(pk=calibration.pictures[place - 1])
    return picture.marks[calibration.rules]


def present(calibration: Calibration) -> int | None:
    """The place of the piece that waits for marks, from 1; None where all are marked."""
    done = set(calibration.given.values_list("place", flat=True))
    return next((n for n in range(1, len(calibration.pictures) + 1) if n not in done), None)


@transaction.atomic
def give(calibration: Calibration, place: int, marks: Mapping[str, float]) -> None:
    """Keep a marker's marks of a piece (of ten, by family); the first given stay. The leans are
    worked out with the last.
    """
    calibration = Calibration.objects.select_for_update().get(pk=calibration.pk)
    known = _known(calibration, place)
    CalibrationMark.objects.get_or_create(
        calibration=calibration,
        place=place,
        defaults={"marks": dict(marks), "known": {f: known[f] for f in marks if f in known}},
    )
    if present(calibration) is None and calibration.finished_at is None:
        calibration.finished_at = timezone.now()
        calibration.leans = {
            lean.family: [lean.by, lean.reach] for lean in _worked_out(calibration)
        }
        calibration.save(update_fields=["finished_at", "leans"])


def _worked_out(calibration: Calibration) -> list[FamilyLean]:
    rows = list(calibration.given.all())
    out = []
    for family in ("", *FAMILIES):
        given, known = [], []
        for row in rows:
            own = [f for f in row.known if f in row.marks and family in ("", f)]
            if own:
                given.append(TEN * sum(row.marks[f] for f in own) / len(own))
                known.append(TEN * sum(row.known[f] for f in own) / len(own))
        if len(given) >= 3:
            limits = limits_of_agreement(known, given)
            out.append(FamilyLean(family, round(limits.mean, 2), round(limits.mean_reach, 2)))
    return out


def leans_of(calibration: Calibration) -> list[FamilyLean]:
    """The leans of a finished calibration, the whole first, then by family."""
    return [FamilyLean(f, *calibration.leans[f]) for f in ("", *FAMILIES) if f in calibration.leans]


def recent(school: School) -> list[Calibration]:
    """The latest finished calibration of each marker of a school, the newest first."""
    latest: dict[int, Calibration] = {}
    for one in Calibration.objects.filter(
        school=school, finished_at__gt=timezone.now() - SHOWN_FOR
    ).select_related("user"):
        latest.setdefault(one.user_id, one)
    return list(latest.values())
