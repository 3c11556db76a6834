import unittest

import cv2
import numpy as np

from juniper.camera import room
from juniper.camera.arranging import COLOURS, FORMS, arrange
from juniper.camera.containers import SHELF, built
from juniper.camera.random_pieces import Lesson, random_piece
from juniper.scene.petals import LEAF, PETAL, STEP, STRIDE, WALL
from juniper.training.petal_lessons import SIDE, Book, recoloured


def drawn() -> Lesson:
    """A lesson drawn with discs: leaves, a red bloom over a yellow one, a grey container."""
    labels, blooms = np.zeros((400, 300), np.uint8), np.zeros((400, 300), np.int32)
    picture = np.full((400, 300, 3), (200, 198, 190), np.uint8)
    for colour, label, bloom, (x, y, r) in (
        ((60, 100, 50), 3, 0, (150, 150, 100)),
        ((230, 190, 40), 3, 1, (120, 130, 30)),
        ((180, 30, 40), 3, 2, (160, 130, 26)),
    ):
        cv2.circle(picture, (x, y), r, colour, -1)
        cv2.circle(labels, (x, y), r, label, -1)
        cv2.circle(blooms, (x, y), r, bloom, -1)
    picture[250:380, 110:190], labels[250:380, 110:190], blooms[250:380, 110:190] = (
        (110, 112, 115),
        2,
        0,
    )
    return Lesson(picture, labels, blooms)


class Pieces(unittest.TestCase):
    def test_containers_are_of_any_shape_and_stand_as_high_and_wide_as_they_say(self):
        shapes = [random_piece(n).shape for n in range(60)]
        self.assertEqual({s.material for s in shapes}, {"glaze", "matt", "metal", "glass"})
        self.assertTrue(
            any(s.bands for s in shapes)
            and any(s.oval < 1 for s in shapes)
            and any(s.depth_cm for s in shapes)
        )
        for shape in shapes[:20]:
            corners = built(shape, "#808080", np.random.default_rng(0))[0][1].corners
            self.assertAlmostEqual(np.ptp(corners[:, 2]), shape.height_cm, delta=0.2)
            deep = shape.depth_cm or shape.oval * np.ptp(corners[:, 0])
            self.assertAlmostEqual(np.ptp(corners[:, 1]), deep, delta=6.5 if shape.handle else 0.1)

    def test_what_stands_behind_keeps_behind(self):
        for seed in range(8):
            corners = room.jumble(np.random.default_rng(seed)).corners
            self.assertGreater(corners[:, 1].min(), 10)
            self.assertLess(corners[:, 1].max(), room.WALL_AT + 1)

    def test_any_form_container_and_colour_comes_up_and_can_be_arranged(self):
        pieces = [random_piece(n) for n in range(160)]
        self.assertEqual({p.form for p in pieces}, set(FORMS))
        self.assertEqual({p.container for p in pieces}, set(SHELF))
        self.assertEqual({c for p in pieces for _, c in (p.focal, *p.mass)}, set(COLOURS))
        self.assertEqual(pieces[7], random_piece(7))
        for number in (0, 5, 11):
            done = arrange(random_piece(number), number)
            self.assertTrue(any(item.hue for item in done.items))


class Pages(unittest.TestCase):
    def setUp(self):
        self.lesson = drawn()
        self.book = Book([self.lesson], np.random.default_rng(4))

    def test_each_petal_points_to_the_middle_of_its_whole_bloom(self):
        seen = 0
        for _ in range(12):
            page = self.book.page()
            self.assertEqual(page.picture.shape, (3, SIDE, SIDE))
            petal = page.weight > 0
            self.assertTrue((page.parts[petal] == PETAL).all())
            y, x = np.nonzero(petal)
            ends = np.column_stack(
                [x + STEP * page.toward[0][petal], y + STEP * page.toward[1][petal]]
            )
            # All petals of the page point to two places at most: the middles of the two blooms.
            self.assertLessEqual(len(np.unique(np.round(ends, 1), axis=0)), 2)
            seen += bool(petal.any())
            inside = ends[(ends > 1).all(axis=1) & (ends < SIDE / STRIDE - 2).all(axis=1)]
            for px, py in np.unique(np.round(inside).astype(int), axis=0):
                self.assertGreater(page.middle[py, px], 0.9)
        self.assertGreater(seen, 6)

    def test_leaf_and_wall_are_told(self):
        parts = np.concatenate([self.book.page().parts.ravel() for _ in range(12)])
        self.assertTrue({LEAF, WALL, PETAL, 0} <= set(np.unique(parts)))

    def test_recoloured_flowers_keep_their_light_and_shade(self):
        shaded = self.lesson.picture.copy()
        shaded[:130] = (shaded[:130] * 0.7).astype(np.uint8)
        hues = set()
        for seed in range(40):
            rng = np.random.default_rng(seed)
            lab = cv2.cvtColor(
                recoloured(shaded, self.lesson.labels, self.lesson.blooms, rng).astype(np.float32),
                cv2.COLOR_RGB2LAB,
            )
            own = self.lesson.blooms == 2
            upper, lower = own.copy(), own.copy()
            upper[130:], lower[:130] = False, False
            self.assertLess(np.median(lab[upper][:, 0]), np.median(lab[lower][:, 0]))
            hues.add(
                int(np.degrees(np.arctan2(lab[lower][:, 2].mean(), lab[lower][:, 1].mean())) // 40)
            )
        self.assertGreater(len(hues), 5)
