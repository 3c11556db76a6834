"""Background work on photographs. Each task may be run again without harm: a worker that dies in
the middle leaves nothing half done.
"""

import logging
import time
from collections import deque
from collections.abc import Callable
from datetime import timedelta

from botocore.exceptions import BotoCoreError, ClientError
from django.db import transaction
from django.utils import timezone
from procrastinate import RetryStrategy
from procrastinate.contrib.django import app
from procrastinate.contrib.django.models import ProcrastinateWorker
from procrastinate.exceptions import AlreadyEnqueued

from heath.assessment.models import Photograph, Piece, View
from heath.assessment.photographs import MEASURE, give_up_photograph, look_again, see_photograph
from heath.assessment.snapshot import KEEP, keep_snapshot
from heath.web.metrics import PICTURE_FAILURES, PICTURE_SECONDS
from juniper import VERSION
from juniper.scene import NoCutOut, installed_cutout

log = logging.getLogger(__name__)
# priorities of a second look, and of how steady it is: new pictures come first
LATER, LATEST = -10, -20
STEADILY = "steadily"  # a queue of its own, so that a school may give it a worker of its own
MOST_RENEWED = 40  # photographs of an older core that are looked at anew at once
MOST_TRIES = 4
RETRY = RetryStrategy(max_attempts=MOST_TRIES, wait=2, linear_wait=4)
# A file that this worker cannot read is left to another, or to the time when storage is back.
UNREADABLE = (OSError, BotoCoreError, ClientError)
MOST_WAITS = 40  # tries, of which the later ones are a minute apart: over half an hour
MOST_LOOKS = 8  # for a file that is not there: some three minutes
LONGEST_WAIT = 60  # seconds
# A worker that sees no files stands back, so that others come first; less than a worker is given to
# end its work (bin/serve).
FIRST_REST, LONGEST_REST = 5.0, 20.0  # seconds
BEAT = timedelta(minutes=2)  # a worker that was silent for longer is taken for gone
GIVEN_UP = (
    f"The picture could not be measured, although it was tried {MOST_TRIES} times. Save it again"
    " as JPEG and add it again."
)
UNREAD = (
    "The file of this picture could not be read for half an hour. Add the picture again, and tell"
    " the person who runs the site."
)
GONE = "The file of this picture is not there any more. Add the picture again."


def tried(context, work: Callable[[], None], give_up: Callable[[str], None]) -> None:
    """Do some work on a picture, or give it up with words when this is its last try and it fails,
    or when its earlier tries took their workers down. The job's own count of tries is kept outside
    the work's transaction.
    """
    before = context.job.attempts
    if before >= MOST_TRIES:
        log.error("job %s was tried %s times and took its workers down", context.job.id, before)
        give_up(GIVEN_UP)
        return
    try:
        work()
    except Exception:
        if before + 1 < MOST_TRIES:
            raise
        log.exception("job %s is given up", context.job.id)
        PICTURE_FAILURES.labels(reason="error").inc()
        give_up(GIVEN_UP)


# what this process could not read since it last read a file; more than four make no difference
_misses: deque[dict[str, int]] = deque(maxlen=4)


def workers_at_work() -> int:
    """How many workers there are, on all machines."""
    return ProcrastinateWorker.objects.filter(last_heartbeat__gt=timezone.now() - BEAT).count()


def patiently(
    context,
    task,
    work: Callable[[], None],
    give_up: Callable[[str], None],
    waits: int,
    **arguments: int,
) -> None:
    """Do some work that reads a file, as tried(). A file that this worker cannot read is left to
    another, or to the time when storage is back: the task is asked for once more, with the same
    `arguments` and how often that was done already (`waits`), and is given up after so many times.
    The worker then rests, the longer the more it could not read, if others are there to come first.
    """

    def reading() -> None:
        try:
            work()
            _misses.clear()
        except UNREADABLE as error:
            gone = isinstance(error, FileNotFoundError)
            if waits >= (MOST_LOOKS if gone else MOST_WAITS):
                PICTURE_FAILURES.labels(reason="unreadable").inc()
                give_up(GONE if gone else UNREAD)
                return
            log.warning("a file of %s cannot be read: %s", task.name, type(error).__name__)
            later = {"seconds": min(LONGEST_WAIT, 2**waits)}
            task.configure(priority=context.job.priority, schedule_in=later).defer(
                waits=waits + 1, **arguments
            )
            if gone and workers_at_work() > 1:
                _misses.append(arguments)
                time.sleep(min(LONGEST_REST, FIRST_REST * 2 ** (len(_misses) - 1)))

    tried(context, reading, give_up)


@app.task(name=MEASURE, aliases=["intake.measure_photograph"], retry=RETRY, pass_context=True)
def measure_photograph(context, photograph_id: int, waits: int = 0):
    """Measure one photograph; one that was removed meanwhile is no fault."""
    patiently(
        context,
        measure_photograph,
        lambda: measure(photograph_id),
        lambda words: give_up_photograph(photograph_id, words),
        waits,
        photograph_id=photograph_id,
    )


def measure(photograph_id: int):
    """See a photograph and keep what stands on it; a doubtful one is looked at twice where the
    second engine is set up.
    """
    photograph = Photograph.objects.filter(pk=photograph_id, removed_at=None).first()
    if photograph is None:
        return
    began = time.monotonic()
    doubtful = see_photograph(photograph)
    PICTURE_SECONDS.observe(time.monotonic() - began)
    piece = Piece.objects.get(pk=photograph.piece_id)
    if piece.state == Piece.State.MARKING:
        keep_snapshot(piece)  # so that the line-up need not wait for it
    if doubtful and installed_cutout() is not None:
        look_twice.configure(priority=LATER).defer(photograph_id=photograph_id)
    if photograph.view == View.FRONT and piece.state == Piece.State.MARKING:
        look_steadily.configure(priority=LATEST).defer(photograph_id=photograph_id)


@app.task(name="assessment.look_twice", aliases=["intake.look_twice"], retry=RETRY)
def look_twice(photograph_id: int):
    """See a doubtful photograph with the second engine, unless somebody works on it already;
    without the engine nothing is done.
    """
    photograph = Photograph.objects.filter(pk=photograph_id, current=True, fault="").first()
    cutout = installed_cutout()
    if (
        photograph is None
        or cutout is None
        or photograph.corrections.exists()
        or photograph.piece.state != Piece.State.MARKING
    ):
        return
    try:
        see_photograph(photograph, cutout)
    except NoCutOut as error:
        log.warning("The second engine could not be used: %s", error)


@app.task(
    name="assessment.look_steadily",
    aliases=["intake.look_steadily"],
    queue=STEADILY,
    retry=RETRY,
    pass_context=True,
)
def look_steadily(context, photograph_id: int, waits: int = 0):
    """Find out how steadily a photograph is seen, unless its mark is given already or somebody
    works on it.
    """
    patiently(
        context,
        look_steadily,
        lambda: _looked_steadily(photograph_id),
        lambda words: log.warning("how steadily a photograph is seen is not known: %s", words),
        waits,
        photograph_id=photograph_id,
    )


def _looked_steadily(photograph_id: int) -> None:
    photograph = Photograph.objects.filter(pk=photograph_id, current=True, fault="").first()
    if (
        photograph is None
        or not photograph.scene
        or photograph.piece.state != Piece.State.MARKING
        or photograph.corrections.exists()
    ):
        return
    look_again(photograph)
    keep_snapshot(Piece.objects.get(pk=photograph.piece_id))


def renew_old() -> int:
    """Set photographs that an older core looked at, and whose mark is not given, to be looked at
    anew; how many. What people put right stays over it.
    """
    old = Photograph.objects.filter(
        current=True, removed_at=None, piece__state=Piece.State.MARKING
    ).exclude(core_version=VERSION)
    chosen = list(old.order_by("-pk").values_list("pk", flat=True)[:MOST_RENEWED])
    for pk in chosen:
        try:
            with transaction.atomic():
                measure_photograph.configure(priority=LATER, queueing_lock=f"renew {pk}").defer(
                    photograph_id=pk
                )
        except AlreadyEnqueued:
            continue
    return len(chosen)


@app.periodic(cron="*/5 * * * *")
@app.task(name="assessment.renew_old", aliases=["intake.renew_old"], queueing_lock="renew-old")
def renew(timestamp: int):
    """Look anew at what an older core saw."""
    renew_old()


def see_again(brief):
    """Have the photographs of a brief that are not marked yet looked at anew; what people corrected
    stays over what is found.
    """
    open_ = (Piece.State.MEASURING, Piece.State.FAILED, Piece.State.MARKING)
    for photograph in Photograph.objects.filter(
        piece__brief=brief, piece__state__in=open_, current=True
    ):
        measure_photograph.defer(photograph_id=photograph.pk)


@app.periodic(cron="*/1 * * * *")
@app.task(
    name="assessment.take_up_dropped_work",
    aliases=["intake.take_up_dropped_work"],
    queueing_lock="take-up",
    pass_context=True,
)
async def take_up_dropped_work(context, timestamp: int):
    """Hand on what a worker that died had in its hands."""
    for job in await app.job_manager.get_stalled_jobs():
        await app.job_manager.retry_job(job)


@app.task(name=KEEP, retry=RETRY)
def keep_snapshot_of(piece_id: int):
    """Keep how a piece stands, so that the line-up need not read it."""
    piece = Piece.objects.filter(pk=piece_id).first()
    if piece is not None and piece.photograph is not None and piece.photograph.scene:
        keep_snapshot(piece)
