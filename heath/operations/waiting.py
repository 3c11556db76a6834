"""What waits in the queue, as the database has it now: the page Server and the figures ask here."""

from datetime import datetime

from django.db.models import Count, Min
from procrastinate.contrib.django.models import ProcrastinateEvent, ProcrastinateJob


def depths(*states: str) -> dict[tuple[str, str], int]:
    """How many jobs there are, by (queue, state), of these states."""
    jobs = ProcrastinateJob.objects.filter(status__in=states)
    rows = jobs.values_list("queue_name", "status").annotate(count=Count("pk"))
    return {(queue, state): count for queue, state, count in rows}


def oldest() -> dict[str, datetime]:
    """When the oldest job that is due was asked for, by queue."""
    due = ProcrastinateEvent.objects.filter(
        type="deferred", job__status="todo", job__scheduled_at=None
    )
    return dict(due.values_list("job__queue_name").annotate(first=Min("at")))
