import io
import unittest

import numpy as np
from PIL import Image

from juniper.photobooth import PIECES, take
from juniper.photobooth.pieces import VESSELS
from juniper.scene import CONTAINER, PLANT


class Camera(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.pictures = [take(n) for n in (0, 3, 4, 6)]

    def test_the_same_number_is_the_same_picture(self):
        self.assertEqual(take(0).jpeg, self.pictures[0].jpeg)
        self.assertNotEqual(take(0, seed=5).jpeg, self.pictures[0].jpeg)

    def test_picture_and_labels_are_of_one_size(self):
        for picture in self.pictures:
            image = Image.open(io.BytesIO(picture.jpeg))
            self.assertEqual(image.size, (picture.labels.shape[1], picture.labels.shape[0]))
            self.assertLess(len(picture.jpeg), 400_000)

    def test_truth_is_what_the_labels_show(self):
        for picture in self.pictures:
            c = picture.truth["container"]
            rim, base = np.array(c["rim"]), np.array(c["base"])
            up = (rim - base) / np.linalg.norm(rim - base)
            ys, xs = np.nonzero(picture.labels == PLANT)
            along = (np.column_stack([xs, ys]) - rim) @ up
            self.assertAlmostEqual(
                picture.truth["findings"]["height_ratio"], along.max() / np.linalg.norm(rim - base), delta=0.01
            )
            # The middle of the container's own axis is container or plant in front of it.
            x, y = np.round(0.5 * (rim + base)).astype(int)
            self.assertEqual(picture.labels[y, x], CONTAINER)

    def test_container_is_drawn_to_its_proportions(self):
        c = self.pictures[0].truth["container"]
        vessel = VESSELS[PIECES[0].vessel]
        pixels = np.linalg.norm(np.subtract(c["rim"], c["base"]))
        rim = np.linalg.norm(np.subtract(c["rim_left"], c["rim_right"]))
        self.assertAlmostEqual(rim / pixels, 2 * vessel.profile[-1] / vessel.height_cm, places=2)

    def test_named_faults_are_there(self):
        tall, squat = self.pictures[1].truth, self.pictures[2].truth
        self.assertEqual((tall["flaws"], squat["flaws"]), (["too tall"], ["too squat"]))
        self.assertGreater(tall["findings"]["height_ratio"], 2.75)
        self.assertLess(squat["findings"]["height_ratio"], 1.25)

    def test_the_roll_goes_through_the_truth(self):
        c = self.pictures[3].truth["container"]
        lean = np.degrees(np.arctan2(c["rim"][0] - c["base"][0], c["base"][1] - c["rim"][1]))
        self.assertAlmostEqual(abs(lean), abs(PIECES[6].roll), delta=0.1)
