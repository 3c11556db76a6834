"""How the installation is, in figures: the page Server and the command `installation` show them."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime, timedelta

from django.db.models import Count, Min
from django.utils import timezone
from procrastinate.contrib.django.models import ProcrastinateEvent, ProcrastinateJob

from heath.assessment.models import Photograph, Piece
from heath.assessment.tasks import MEASURE
from heath.operations.checks import ALL, Outcome, examined, stamp_of_backup
from heath.people.models import School, User
from juniper import VERSION

DAY, HOUR = timedelta(days=1), timedelta(hours=1)


@dataclass(frozen=True)
class Renewal:
    """Photographs that are not marked yet: how many, and how many an older core saw."""

    whole: int
    waiting: int

    @property
    def share(self) -> float:
        """How much is done, in per cent."""
        return 100.0 if not self.whole else 100.0 * (1 - self.waiting / self.whole)


@dataclass(frozen=True)
class State:
    """What the page shows."""

    checks: list[Outcome]
    queue: list[dict]
    pictures_hour: int
    pictures_day: int
    failed: list[dict]
    renewal: Renewal
    backed_up: datetime | None
    schools: int
    people: int
    photographs: int
    core: str = VERSION


def renewal() -> Renewal:
    """How far the pieces that are not marked yet are seen by this core."""
    open_ = Photograph.objects.filter(
        current=True, removed_at=None, piece__state=Piece.State.MARKING
    )
    return Renewal(open_.count(), open_.exclude(core_version=VERSION).count())


def _queue() -> list[dict]:
    rows = list(
        ProcrastinateJob.objects.filter(status__in=("todo", "doing"))
        .values("queue_name", "status")
        .annotate(count=Count("pk"))
        .order_by("queue_name", "status")
    )
    first = dict(
        ProcrastinateEvent.objects.filter(
            type="deferred", job__status="todo", job__scheduled_at=None
        )
        .values_list("job__queue_name")
        .annotate(first=Min("at"))
    )
    names = sorted({row["queue_name"] for row in rows})
    return [
        {
            "name": name,
            **{
                state: sum(
                    r["count"] for r in rows if r["queue_name"] == name and r["status"] == state
                )
                for state in ("todo", "doing")
            },
            "oldest": first.get(name),
        }
        for name in names
    ]


def state() -> State:
    """How everything is now."""
    now = timezone.now()
    seen = ProcrastinateEvent.objects.filter(type="succeeded", job__task_name=MEASURE)
    stamp = stamp_of_backup()
    backed_up = None
    if stamp.exists():
        backed_up = datetime.fromtimestamp(
            stamp.stat().st_mtime, tz=timezone.get_current_timezone()
        )
    failed = (
        ProcrastinateJob.objects.filter(status="failed")
        .values("task_name")
        .annotate(count=Count("pk"))
        .order_by("-count")
    )
    return State(
        checks=examined(ALL),
        queue=_queue(),
        pictures_hour=seen.filter(at__gt=now - HOUR).count(),
        pictures_day=seen.filter(at__gt=now - DAY).count(),
        failed=list(failed),
        renewal=renewal(),
        backed_up=backed_up,
        schools=School.objects.count(),
        people=User.objects.filter(is_active=True).count(),
        photographs=Photograph.objects.filter(current=True).count(),
    )
