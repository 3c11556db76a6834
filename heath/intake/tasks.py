"""Background work of intake: pictures that have arrived."""

from procrastinate.contrib.django import app

from heath.assessment.tasks import RETRY, patiently
from heath.intake.arriving import LOOK, give_up_arrival, let_originals_go, sort_arrival


@app.task(name=LOOK, retry=RETRY, pass_context=True)
def look_at_arrival(context, arrival_id: int, waits: int = 0):
    """Look at a picture that has arrived."""
    patiently(
        context,
        look_at_arrival,
        lambda: sort_arrival(arrival_id),
        lambda words: give_up_arrival(arrival_id, words),
        waits,
        arrival_id=arrival_id,
    )


@app.periodic(cron="17 3 * * *")
@app.task(name="intake.let_originals_go", queueing_lock="let-originals-go")
def originals(timestamp: int):
    """Remove, once a day, pictures as sent that nobody sorted."""
    let_originals_go()
