"""What a scraper reads at /metrics/: counters and timings of this machine's processes, and the
queue as the database has it at that moment (text format of Prometheus, version 0.0.4).
"""

from __future__ import annotations

import os
from collections.abc import Iterator

from django.conf import settings
from django.contrib.auth.decorators import login_not_required
from django.db.models import Count
from django.http import Http404, HttpResponse
from django.utils import timezone
from django.views.decorators.cache import never_cache
from django.views.decorators.http import require_safe
from prometheus_client import CONTENT_TYPE_LATEST, REGISTRY, CollectorRegistry, generate_latest
from prometheus_client.core import GaugeMetricFamily
from prometheus_client.multiprocess import MultiProcessCollector
from prometheus_client.registry import Collector

from heath.assessment.models import Piece
from heath.assessment.tasks import workers_at_work
from heath.operations.waiting import depths, oldest


class Queue(Collector):
    """How much waits, for how long, and who works."""

    def collect(self) -> Iterator[GaugeMetricFamily]:
        """The gauges, each asked of the database now."""
        now = timezone.now()
        depth = GaugeMetricFamily(
            "heath_queue_jobs", "Jobs by queue and state.", labels=("queue", "state")
        )
        for labels, count in depths("todo", "doing", "failed").items():
            depth.add_metric(labels, count)
        yield depth

        waits = GaugeMetricFamily(
            "heath_queue_oldest_seconds",
            "Seconds since the oldest job that is due was asked for.",
            labels=("queue",),
        )
        for queue, first in oldest().items():
            waits.add_metric((queue,), (now - first).total_seconds())
        yield waits

        workers = workers_at_work()
        yield GaugeMetricFamily("heath_workers", "Workers that gave a sign of life.", workers)

        pieces = GaugeMetricFamily("heath_pieces", "Pieces by state.", labels=("state",))
        for row in Piece.objects.values("state").annotate(count=Count("pk")):
            pieces.add_metric((row["state"],), row["count"])
        yield pieces


def registry() -> CollectorRegistry:
    """What is read now: of all processes of this machine where they count together."""
    together = os.environ.get("PROMETHEUS_MULTIPROC_DIR")
    found = CollectorRegistry() if together else REGISTRY
    if together:
        MultiProcessCollector(found)
    return found


@login_not_required
@never_cache
@require_safe
def metrics(request):
    """The figures, for those addresses that may read them; for others there is no such page."""
    if not settings.METRICS or request.META.get("REMOTE_ADDR") not in settings.METRICS_FROM:
        raise Http404
    queue = CollectorRegistry()
    queue.register(Queue())
    return HttpResponse(
        generate_latest(registry()) + generate_latest(queue), content_type=CONTENT_TYPE_LATEST
    )
