"""Background work of the installation: ended sessions and old attempts to sign in go once a day."""

from datetime import timedelta

from axes.models import AccessAttempt, AccessFailureLog, AccessLog
from django.core.management import call_command
from django.utils import timezone
from procrastinate.contrib.django import app

ATTEMPTS_KEPT = timedelta(days=30)


def clear() -> None:
    """Remove sessions that ended, and attempts to sign in of more than a month ago."""
    call_command("clearsessions")
    for model in (AccessAttempt, AccessFailureLog, AccessLog):
        model.objects.filter(attempt_time__lt=timezone.now() - ATTEMPTS_KEPT).delete()


@app.periodic(cron="7 4 * * *")
@app.task(name="operations.clear_old", queueing_lock="clear-old")
def clear_old(timestamp: int):
    """Once a day."""
    clear()
