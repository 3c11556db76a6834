"""The pictures that are asked about: those of the camera's roll, those made on demand, and pieces
that may be shown; each with its study, made anew where the core has changed.
"""

from __future__ import annotations

from collections.abc import Iterable
from threading import RLock
from typing import Any

import numpy as np
from cachetools import LRUCache
from django.core.files.base import ContentFile
from django.db.models import Count, Q

from heath.assessment.models import GIVEN, Piece
from heath.assessment.reading import read
from heath.exemplars.models import Exemplar
from heath.practice.models import Exercise, PracticePicture, PracticeSettings
from juniper import VERSION
from juniper.camera import frames
from juniper.learning import KINDS, Study, suits
from juniper.learning.exercises import DoesNotSuit, ask
from juniper.learning.kinds import COMPARED
from juniper.learning.pictures import SCHOOLS, known_picture
from juniper.learning.study import from_document, study_of
from juniper.rules import KINDS as KINDS_OF_PIECES
from juniper.rules import school as rules_of

# Pictures made on demand that are there at the least; and how many of what there is somebody may
# have seen before more are made, and up to how many more at a time.
LEAST_MADE = 20
SEEN = 0.6
AT_A_TIME = 10
MOST = 2000  # pictures of the simulated camera
PAST = 200  # pieces of a school that are looked over at a time
SINGLE = KINDS_OF_PIECES[0]  # a piece in a vessel
GROUPED = "grouped vessels"  # what the camera calls a piece of several vessels


def index_of(study: Study) -> dict:
    """What a picture is fit for: by rules the kinds that suit it, each with how plain its case is
    and whether it has the fault that is looked for; and its figures that are compared.
    """
    rng = np.random.default_rng(0)
    fits: dict[str, dict] = {}
    for slug in SCHOOLS:
        fits[slug] = {}
        for kind in KINDS:
            rules = rules_of(slug)
            if not suits(kind, study, rules):
                continue
            if kind.pictures > 1:
                fits[slug][kind.code] = [1.0, False]
                continue
            try:
                question = ask(kind, [study], rules, rng)
            except DoesNotSuit:
                continue
            fits[slug][kind.code] = [round(question.strength, 3), kind.fault in study.faults]
    values = {name: study.values[name] for name in set(COMPARED.values()) if name in study.values}
    return {"fits": fits, "values": values}


def _keep(study: Study, marks: dict, **by) -> PracticePicture:
    kept, _ = PracticePicture.objects.update_or_create(
        **by,
        defaults={
            "study": study.as_document(),
            "index": index_of(study),
            "marks": marks,
            "version": VERSION,
        },
    )
    return kept


def keep_made(number: int, jpeg: bytes, labels, truth: dict) -> PracticePicture:
    """Keep a picture of the simulated camera, with its study."""
    known = known_picture(jpeg, labels, truth)
    kept = _keep(known.study, {k: dict(v) for k, v in known.marks.items()}, number=number)
    if not kept.file:
        kept.file.save("picture.jpg", ContentFile(jpeg))
    return kept


def take_in_roll(most: int | None = None) -> int:
    """Keep the fronts of the camera's roll that are not kept yet, up to so many; how many."""
    there = set(PracticePicture.objects.filter(version=VERSION).values_list("number", flat=True))
    single = [f for f in frames("front") if f.truth["form"] != GROUPED]
    missing = [f for f in single if -1 - f.piece not in there][:most]
    for one in missing:
        keep_made(-1 - one.piece, one.jpeg, one.labels, one.truth)
    return len(missing)


def make(number: int) -> PracticePicture:
    """Make the picture of a number, unless it is there; some twenty seconds."""
    from juniper.camera.practice_pieces import picture

    there = PracticePicture.objects.filter(number=number, version=VERSION).first()
    if there:
        return there
    made = picture(number)
    return keep_made(number, made.jpeg, made.labels, made.truth)


def to_make() -> list[int]:
    """The numbers that are to be made next: up to LEAST_MADE, and more where somebody has seen
    most of what there is.
    """
    made = set(
        PracticePicture.objects.filter(number__gte=0, version=VERSION).values_list(
            "number", flat=True
        )
    )
    wanted = LEAST_MADE
    there = PracticePicture.objects.filter(number__isnull=False).count()
    busiest = (
        Exercise.objects.values("round__learner")
        .annotate(seen=Count("pk"))
        .order_by("-seen")
        .values_list("round__learner", flat=True)[:5]
    )
    for learner in busiest:
        if there and len(seen_by(learner)) > SEEN * there:
            wanted = min(MOST, max(wanted, len(made) + AT_A_TIME))
    return [n for n in range(wanted) if n not in made][:AT_A_TIME]


def seen_by(learner: int) -> set[int]:
    """Numbers of the records of pictures that a learner was shown."""
    shown = Exercise.objects.filter(round__learner=learner).values_list("pictures", flat=True)
    return {n for row in shown for n in row}


def may_be_shown(school) -> Q:
    """Which pictures may be shown to people of a school now: those of the simulated camera, its
    exemplars that are allowed, and, if it allows that, marked pieces of archived classes whose
    makers have not withdrawn them.
    """
    own = PracticeSettings.objects.filter(school=school).first()
    alive = Q(
        ~Q(piece__photographs__removed_at__isnull=False),
        school=school,
        piece__brief__deleted_at=None,
        piece__brief__course__deleted_at=None,
    )
    allowed = Q(number__isnull=False) | (
        alive & Q(piece__shown_as__state=Exemplar.State.ALLOWED, piece__state__in=GIVEN)
    )
    if own is not None and own.past_pieces:
        past = alive & Q(piece__brief__course__archived_at__isnull=False, piece__state__in=GIVEN)
        allowed |= past & (
            Q(piece__shown_as=None) | ~Q(piece__shown_as__state=Exemplar.State.WITHDRAWN)
        )
    return allowed


# Studies and indexes of pictures by record and core version: neither changes under one version.
_STUDIES: LRUCache = LRUCache(512)
_INDEXES: LRUCache = LRUCache(4 * MOST)
_LOCK = RLock()


def _cached(kept: LRUCache, field: str, wanted: list[tuple[int, str]], made) -> dict[int, Any]:
    """A field of pictures by record, for (record, version) each: those not kept yet are fetched."""
    with _LOCK:
        found = {key: kept[key] for key in wanted if key in kept}
    missing = [pk for pk, version in wanted if (pk, version) not in found]
    if missing:
        rows = PracticePicture.objects.filter(pk__in=missing).values_list("pk", "version", field)
        fresh = {(pk, version): made(value) for pk, version, value in rows}
        found |= fresh
        with _LOCK:
            kept.update(fresh)
    return {pk: value for (pk, _), value in found.items()}


def studies_of(pictures: list[int]) -> list[Study]:
    """The studies of pictures by the numbers of their records, in their order. Raises KeyError
    where one is gone.
    """
    there = list(PracticePicture.objects.filter(pk__in=pictures).values_list("pk", "version"))
    kept = _cached(_STUDIES, "study", there, from_document)
    return [kept[pk] for pk in pictures]


def indexes(school) -> dict[int, dict]:
    """What the pictures that may be shown to people of a school now are fit for, by record."""
    there = PracticePicture.objects.filter(may_be_shown(school)).order_by("pk")
    return _cached(_INDEXES, "index", list(there.values_list("pk", "version")), dict)


def take_in_pieces(school) -> int:
    """Keep the studies of a school's exemplars and, if it allows that, of pieces of its archived
    classes, AT_A_TIME of them; how many.
    """
    own = PracticeSettings.objects.filter(school=school).first()
    shown = Q(shown_as__state=Exemplar.State.ALLOWED)
    if own is not None and own.past_pieces:
        shown |= Q(brief__course__archived_at__isnull=False)
    pieces = (
        Piece.objects.filter(shown, brief__course__school=school, state__in=GIVEN)
        .filter(brief__deleted_at=None, brief__course__deleted_at=None, brief__second_of=None)
        .filter(mark__photograph__isnull=False, brief__kind=SINGLE)
        .exclude(practice_picture__version=VERSION)
        .select_related("brief", "mark")[:PAST]
    )
    fitting = [piece for piece in pieces if _fits(piece)]
    for piece in fitting[:AT_A_TIME]:
        reading = read(piece)
        study = study_of(reading.at, reading.shown, reading.brief.form)
        _keep(study, {}, piece=piece, school=school)
    return len(fitting[:AT_A_TIME])


def _fits(piece: Piece) -> bool:
    """Whether a piece stands in one vessel, and shows the photograph that it was marked by."""
    shown = piece.photograph
    return (
        len(piece.brief.vessels) < 2
        and shown is not None
        and bool(shown.scene)
        and shown.pk == piece.mark.photograph_id
    )


def take_in_all(schools: Iterable) -> int:
    """Keep what may be shown of some schools; how many."""
    return sum(take_in_pieces(school) for school in schools)
