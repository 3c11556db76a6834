"""Background work of eye practice: pictures are kept ready, after everything that people wait
for.
"""

from django.db import transaction
from procrastinate.contrib.django import app
from procrastinate.exceptions import AlreadyEnqueued

from heath.people.models import School
from heath.practice.stock import make, take_in_all, take_in_roll, to_make

LAST = -10  # less than the usual priority of 0: what people wait for goes first
QUEUE = "practice"  # of its own: who waits for photographs alone may leave it out
ALONE = "practice"  # one worker at a time makes pictures, another is left for people
ROLL_AT_A_TIME = 6  # pictures of the roll, some three seconds


def _once(task, lock: str, **given) -> None:
    """Ask for a task that nobody has asked for yet."""
    try:
        with transaction.atomic():
            task.configure(lock=ALONE, queueing_lock=lock).defer(**given)
    except AlreadyEnqueued:
        pass


@app.periodic(cron="*/5 * * * *")
@app.task(name="practice.stock", queueing_lock="practice-stock", queue=QUEUE, priority=LAST)
def stock(timestamp: int):
    """See every five minutes that there are pictures enough."""
    more = take_in_roll(ROLL_AT_A_TIME)
    take_in_all(School.objects.all())
    if more == ROLL_AT_A_TIME:
        _once(fill, "practice-fill")
        return
    for number in to_make()[:1]:
        _once(make_one, f"practice-{number}", number=number)


@app.task(name="practice.fill", queue=QUEUE, priority=LAST)
def fill():
    """Go on with the roll, a few pictures at a time."""
    if take_in_roll(ROLL_AT_A_TIME) == ROLL_AT_A_TIME:
        _once(fill, "practice-fill")


@app.task(name="practice.make", queue=QUEUE, priority=LAST)
def make_one(number: int):
    """Make one picture, and ask for the next that is wanted."""
    make(number)
    for following in to_make()[:1]:
        _once(make_one, f"practice-{following}", number=following)
