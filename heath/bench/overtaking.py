"""Handles on their way take turns: as many are measured at once as there are cores for it, and one
that a newer place of the same gesture has overtaken is not measured at all.
"""

import itertools
import threading
from collections import OrderedDict
from contextlib import contextmanager

# measured at once by a process: more would only take its one interpreter from one another
AT_ONCE = 1
GESTURES = 500  # whose newest place is remembered; each is over after some seconds


class Turns:
    """Turns of one process."""

    def __init__(self, at_once: int = AT_ONCE):
        self._gate = threading.BoundedSemaphore(at_once)
        self._numbers = itertools.count()
        self._newest: OrderedDict[str, int] = OrderedDict()
        self._lock = threading.Lock()

    @contextmanager
    def turn(self, gesture: str):
        """Wait for a turn; what is given tells whether the place is still the newest of its
        gesture.
        """
        with self._lock:
            number = next(self._numbers)
            self._newest[gesture] = number
            self._newest.move_to_end(gesture)
            while len(self._newest) > GESTURES:
                self._newest.popitem(last=False)
        with self._gate:
            yield self._newest.get(gesture, number) == number


TURNS = Turns()
