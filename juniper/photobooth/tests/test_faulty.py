import json
import tempfile
import unittest
from pathlib import Path

from juniper.photobooth import Shot, frame, take
from juniper.photobooth.faulty import Judged, judged, table


class Faults(unittest.TestCase):
    def test_counts_are_of_the_pictures_in_which_the_rule_could_be_judged(self):
        rows = [
            Judged("a", frozenset({"twin tips"}), frozenset({"twin tips"}), frozenset({"twin tips", "gap"})),
            Judged("b", frozenset({"twin tips"}), frozenset(), frozenset({"twin tips"})),
            Judged("c", frozenset({"twin tips"}), frozenset(), frozenset()),
            Judged("d", frozenset(), frozenset({"twin tips"}), frozenset({"twin tips"})),
            Judged("e", frozenset(), frozenset({"gap"}), frozenset({"twin tips", "gap"})),
        ]
        (count,) = table(rows)  # no piece was made with a gap
        self.assertEqual((count.fault, count.made, count.named, count.without, count.wrongly), ("twin tips", 2, 1, 2, 1))

    def test_named_faults_of_the_roll(self):
        # Piece 13 was made with twin tips, 20 too tall, 33 with a stray accent as well; 2 with none.
        for number, wanted in ((13, {"twin tips"}), (20, {"too tall"}), (33, {"twin tips", "stray accent"}), (2, set())):
            with self.subTest(number), tempfile.TemporaryDirectory() as folder:
                picture = take(frame(number), Shot())
                path = Path(folder) / "piece.jpg"
                path.write_bytes(picture.data)
                path.with_suffix(".json").write_text(json.dumps(picture.truth))
                found = judged(path)
                self.assertEqual(found.named, wanted)
                self.assertLessEqual(wanted, found.made | {"too tall"})
