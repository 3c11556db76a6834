"""Turns of handles on their way."""

import threading
import time

from django.test import SimpleTestCase

from heath.bench.overtaking import GESTURES, Turns


class Overtaking(SimpleTestCase):
    def test_what_waits_and_is_overtaken_is_told_so(self):
        turns, told, started = Turns(), {}, threading.Event()

        def move(name, gesture, wait=None):
            with turns.turn(gesture) as newest:
                told[name] = newest
                started.set()
                if wait:
                    wait.wait()

        held = threading.Event()
        threads = [threading.Thread(target=move, args=("first", "a", held))]
        threads[0].start()
        started.wait()
        for name, gesture in (("second", "a"), ("other", "b"), ("third", "a")):
            threads.append(threading.Thread(target=move, args=(name, gesture)))
            threads[-1].start()
            time.sleep(0.05)
        held.set()
        for thread in threads:
            thread.join()
        self.assertEqual(told, {"first": True, "second": False, "other": True, "third": True})

    def test_no_more_gestures_are_remembered_than_matter(self):
        turns = Turns()
        for n in range(3 * GESTURES):
            with turns.turn(f"gesture-{n}") as newest:
                self.assertTrue(newest)
        self.assertEqual(len(turns._newest), GESTURES)
