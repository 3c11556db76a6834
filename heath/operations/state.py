"""How the installation is, in figures: the page Server and the command `installation` show them."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime, timedelta

from django.db.models import Count
from django.utils import timezone
from procrastinate.contrib.django.models import ProcrastinateEvent, ProcrastinateJob

from heath.assessment.models import Photograph, Piece
from heath.assessment.tasks import MEASURE
from heath.operations.checks import ALL, Outcome, examined, stamp_of_backup
from heath.operations.waiting import depths, oldest
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
    found, first = depths("todo", "doing"), oldest()
    return [
        {
            "name": name,
            "todo": found.get((name, "todo"), 0),
            "doing": found.get((name, "doing"), 0),
            "oldest": first.get(name),
        }
        for name in sorted({queue for queue, _ in found})
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
