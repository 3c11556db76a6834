"""Counters and timings of this process, read together with those of the machine's other processes
at /metrics/ (heath.operations.metrics).
"""

from prometheus_client import Counter, Histogram

# Upper bounds in seconds: .5 for pages and .3 for moves are what is aimed at.
REQUEST_BUCKETS = (0.02, 0.05, 0.1, 0.2, 0.3, 0.5, 1.0, 2.0, 5.0, 15.0)
PICTURE_BUCKETS = (0.5, 1.0, 2.0, 4.0, 8.0, 16.0, 32.0, 64.0)

REQUEST_SECONDS = Histogram(
    "heath_request_seconds",
    "Time a request took, in seconds.",
    ("route", "method", "status"),
    buckets=REQUEST_BUCKETS,
)
PICTURE_SECONDS = Histogram(
    "heath_picture_seconds",
    "Time a photograph took to be seen, in seconds.",
    buckets=PICTURE_BUCKETS,
)
PICTURE_FAILURES = Counter(
    "heath_picture_failures", "Photographs that could not be seen, by the reason.", ("reason",)
)
