"""What the workers do for briefs: the handlers of its jobs are known to them through this."""

from procrastinate.contrib.django import app

from heath.briefs import palette, releasing
from heath.briefs.models import Brief
from heath.classes.models import Course
from heath.people.keeping import past_return

__all__ = ["clear_deleted", "palette", "releasing"]


@app.periodic(cron="23 3 * * *")
@app.task(name="briefs.clear_deleted", queueing_lock="briefs-clear-deleted")
def clear_deleted(timestamp: int):
    """Remove for good, once a night, briefs and classes whose time to be brought back is over."""
    for model in (Brief, Course):
        for one in past_return(model):
            one.delete()
