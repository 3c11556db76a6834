"""Pictures are decoded in a request one at a time, so that the largest never hold all of the site's
threads.
"""

import threading
from contextlib import contextmanager

from juniper.photograph import UnusablePhotograph

# threads of a process that decode or wait to: a third of those that serve (heath.config.serving)
AT_MOST = 4
BUSY = (
    "Other pictures are being read just now, and this one was not taken. Choose it again in a"
    " moment."
)

_places = threading.BoundedSemaphore(AT_MOST)
_turn = threading.Lock()


@contextmanager
def decoding():
    """A turn at decoding; some more may wait for it. Raises UnusablePhotograph at once, with words
    for the person, when as many as may are there.
    """
    if not _places.acquire(blocking=False):
        raise UnusablePhotograph(BUSY)
    try:
        with _turn:
            yield
    finally:
        _places.release()
