import threading
import unittest

from juniper.background import in_background


class Aside(unittest.TestCase):
    def test_work_goes_on_elsewhere_and_comes_back(self):
        here = threading.get_ident()
        self.assertNotEqual(in_background(threading.get_ident).result(), here)
        self.assertEqual(in_background(pow, 2, 10).result(), 1024)

    def test_what_it_raises_is_raised_where_it_is_waited_for(self):
        failed = in_background(int, "x")
        with self.assertRaises(ValueError):
            failed.result()

    def test_more_than_there_are_threads(self):
        self.assertEqual(
            [f.result() for f in [in_background(divmod, n, 7) for n in range(40)]],
            [divmod(n, 7) for n in range(40)],
        )
