"""Work done on a second thread while the first goes on: OpenCV and numpy let others run while they
compute.
"""

from __future__ import annotations

import os
from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor
from functools import cache

THREADS = 2  # of each process


@cache
def _pool(process: int) -> ThreadPoolExecutor:
    """One pool to a process: threads do not live on in a forked one."""
    return ThreadPoolExecutor(THREADS, thread_name_prefix="background")


def in_background(work: Callable, *args) -> Future:
    """Begin `work(*args)` on another thread; `.result()` waits for what it returns or raises. The
    work must not itself wait for other work in the background, or all threads may come to wait for
    each other.
    """
    return _pool(os.getpid()).submit(work, *args)
