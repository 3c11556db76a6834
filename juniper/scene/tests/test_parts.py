import unittest
from dataclasses import replace

import cv2
import numpy as np

from juniper.camera import frame, take
from juniper.colour import Swatch
from juniper.photograph import read_photograph
from juniper.scene import Label, see
from juniper.scene.blooms import (
    Bloom,
    find_blooms,
    focal_point,
    give_roles,
    like_blooms,
    tell_apart,
)
from juniper.scene.container.datum import given_datum
from juniper.scene.material import flower_mask, petal_odds
from juniper.scene.petals import LEAF, PETAL, PetalProbabilities, frame_of, petal_probabilities
from juniper.scene.segment.ground import BACKDROP, TABLE, plate, read_ground


def room(slope=0.0, height=480, width=360) -> np.ndarray:
    """A wall with falling light over a brown table whose far edge may tilt; CIELAB."""
    y, x = np.mgrid[0:height, 0:width].astype(np.float32)
    lab = np.zeros((height, width, 3), np.float32)
    lab[..., 0] = 76 - 0.02 * x - 0.01 * y
    edge = 340 + slope * (x - width / 2)
    table = y > edge
    lab[table] = (52, 9, 20)
    return lab + np.random.default_rng(1).normal(0, 0.4, lab.shape).astype(np.float32)


class Ground(unittest.TestCase):
    def test_wall_and_table_are_told_apart(self):
        ground = read_ground(room())
        kinds = [r.kind for r in sorted(ground.regions, key=lambda r: -r.area)][:2]
        self.assertEqual(kinds, [BACKDROP, TABLE])
        self.assertTrue(ground.found_table)

    def test_the_tables_far_edge_keeps_its_tilt(self):
        for slope in (-0.04, 0.0, 0.03):
            horizon = read_ground(room(slope)).horizon
            self.assertAlmostEqual((horizon[-1] - horizon[0]) / 360, slope, delta=0.012)

    def test_ground_carried_on_follows_the_fall_of_light(self):
        lab = room()
        mask = np.zeros(lab.shape[:2], bool)
        mask[:330] = True
        mask[100:220, 120:240] = False
        carried, reach = plate(lab, mask)
        inside = np.s_[110:210, 130:230]
        self.assertLess(np.abs(carried[inside] - lab[inside]).mean(axis=(0, 1)).max(), 1.0)
        self.assertGreater(reach[160, 180], 40)
        self.assertEqual(reach[20, 20], 0)


def told(discs, shape=(600, 400)) -> PetalProbabilities:
    """A look that knows discs (x, y, radius, colour) for blooms, on a grid of half the picture's
    size.
    """
    h, w = shape[0] // 2, shape[1] // 2
    y, x = np.mgrid[0:h, 0:w].astype(np.float32)
    parts = np.full((6, h, w), 0.02, np.float32)
    parts[LEAF] = 0.5
    middle, toward = np.zeros((h, w), np.float32), np.zeros((2, h, w), np.float32)
    for at_x, at_y, radius, _ in discs:
        cx, cy, r = at_x / 2 - 0.5, at_y / 2 - 0.5, radius / 2
        inside = (x - cx) ** 2 + (y - cy) ** 2 <= r**2
        parts[PETAL][inside], parts[LEAF][inside] = 0.9, 0.05
        middle = np.maximum(
            middle, np.exp(-((x - cx) ** 2 + (y - cy) ** 2) / (2 * max(1.3, 0.28 * r) ** 2))
        )
        toward[0][inside], toward[1][inside] = (cx - x)[inside], (cy - y)[inside]
    return PetalProbabilities(parts, middle, toward, 0.0, 0.0, 2.0)


class Looking(unittest.TestCase):
    def test_a_plane_is_laid_where_it_was_seen(self):
        plane = np.zeros((40, 30), np.float32)
        plane[10:20, 5:15] = 1
        look = PetalProbabilities(
            np.zeros((6, 40, 30)), plane, np.zeros((2, 40, 30)), 50.0, 80.0, 3.0
        )
        laid = look.onto(plane, (240, 180), cv2.INTER_NEAREST)
        rows, columns = np.nonzero(laid > 0.5)
        self.assertEqual((rows.min(), rows.max() + 1), (80 + 30, 80 + 60))
        self.assertEqual((columns.min(), columns.max() + 1), (50 + 15, 50 + 45))

    def test_the_frame_holds_the_piece_and_a_small_change_leaves_it(self):
        mask = np.zeros((800, 600), bool)
        mask[200:700, 150:420] = True
        left, top, right, bottom = frame_of(mask)
        self.assertTrue(left < 150 and top < 200 and right > 420 and bottom > 700)
        mask[195:200, 150:420] = True
        self.assertEqual(frame_of(mask), (left, top, right, bottom))
        mask[:] = True
        self.assertEqual(frame_of(mask), (0, 0, 600, 800))

    def test_the_same_is_looked_at_once(self):
        pixels = read_photograph(take(frame(0)).data).pixels
        first = petal_probabilities(pixels, (100, 50, 500, 700))
        self.assertIs(petal_probabilities(pixels.copy(), (100, 50, 500, 700)), first)
        self.assertIsNot(petal_probabilities(pixels, (100, 50, 500, 701)), first)
        np.testing.assert_allclose(first.parts.sum(axis=0), 1, atol=1e-4)


def petals_of(look, plant, pixels):
    return flower_mask(plant, petal_odds(look, plant, pixels))


class Material(unittest.TestCase):
    def test_petals_are_where_they_were_seen_and_nowhere_off_the_plant(self):
        plant = np.zeros((600, 400), bool)
        plant[:, 150:] = True
        petals = petals_of(
            told([(150, 250, 40, 1)]), plant, np.full((*plant.shape, 3), 128, np.uint8)
        )
        self.assertTrue(petals[250, 170])
        self.assertFalse(petals[250, 130] or petals[400, 300])

    def test_what_is_finer_than_what_was_seen_is_told_by_its_colour(self):
        # White flowers among green leaves; the look has what lies between petals for petals, as it
        # is blurred.
        pixels = np.full((600, 400, 3), (60, 110, 50), np.uint8)
        plant = np.ones((600, 400), bool)
        y, x = np.mgrid[0:600, 0:400]
        white = ((x - 150) ** 2 + (y - 250) ** 2 < 35**2) | (
            (x - 280) ** 2 + (y - 400) ** 2 < 40**2
        )
        gaps = white & (x % 12 < 2)
        pixels[white & ~gaps] = (235, 232, 225)
        pixels = np.clip(
            pixels + np.random.default_rng(4).normal(0, 4, pixels.shape), 0, 255
        ).astype(np.uint8)
        look = told([(150, 250, 35, 1), (280, 400, 40, 1)])
        blurred = look.parts[PETAL] > 0.8
        look.parts[PETAL][blurred], look.parts[LEAF] = 0.62, np.where(blurred, 0.3, 0.9)
        petals = petals_of(look, plant, pixels)
        truly = white & ~gaps
        self.assertGreater((petals & truly).sum() / (petals | truly).sum(), 0.95)
        self.assertGreater(
            (petals_of(look, plant, np.full_like(pixels, 128)) & gaps).sum() / gaps.sum(), 0.9
        )

    def test_the_share_of_foliage_on_the_roll(self):
        # White, green and violet flowers; the truth of the traced scene.
        for number in (0, 16, 32):
            picture = take(frame(number))
            _, raster = see(read_photograph(picture.data))
            plant = raster.labels == Label.PLANT
            share = 1 - (raster.flowers > 0).sum() / plant.sum()
            with self.subTest(number):
                self.assertAlmostEqual(
                    share, picture.truth["findings"]["foliage_share"], delta=0.12
                )


class Blooms(unittest.TestCase):
    palette = (
        Swatch("flower", (40, 60, 30), "#b81f28", "red", 0.7),
        Swatch("flower", (80, 5, 80), "#f2c21c", "yellow", 0.3),
    )
    datum = given_datum((200, 380), (200, 560), (170, 380), (230, 380))

    def found(self, *discs):
        raster = np.zeros((600, 400), np.uint8)
        for x, y, radius, colour in discs:
            cv2.circle(raster, (x, y), radius, colour, -1)
        return find_blooms(tell_apart(told(discs), raster > 0), raster, self.palette)

    def test_single_blooms_are_where_they_are_and_as_large(self):
        blooms = self.found((120, 200, 30, 1), (260, 260, 20, 2))
        self.assertEqual(len(blooms), 2)
        for bloom, (x, y, radius) in zip(
            sorted(blooms, key=lambda b: -b.radius), ((120, 200, 30), (260, 260, 20)), strict=True
        ):
            self.assertLess(np.hypot(bloom.centre[0] - x, bloom.centre[1] - y), 1.5)
            self.assertAlmostEqual(bloom.radius, radius, delta=1.2)

    def test_touching_blooms_are_told_apart(self):
        self.assertEqual(len(self.found((150, 250, 30, 1), (205, 250, 30, 1))), 2)

    def test_specks_are_no_blooms(self):
        self.assertEqual(len(self.found((150, 250, 40, 1), (300, 100, 1, 2))), 1)
        self.assertEqual(self.found(), ())

    def test_roles_and_the_focal_point(self):
        blooms = self.found(
            (200, 330, 40, 1), (120, 120, 22, 2), (290, 150, 20, 2), (300, 300, 11, 2)
        )
        roles = {round(b.radius / 10): b.role for b in give_roles(blooms, self.datum, 330.0)}
        self.assertEqual(roles, {4: "focal", 2: "mass", 1: "filler"})
        x, y = focal_point(give_roles(blooms, self.datum, 330.0))
        self.assertLess(np.hypot(x - 200, y - 330), 3)
        self.assertIsNone(focal_point(()))

    def test_like_blooms_are_of_one_colour_and_breadth(self):
        def bloom(radius, swatch=1, slender=1.0):
            return Bloom((0.0, 0.0), radius, "#b7431f", "red-orange", swatch, slender=slender)

        groups = like_blooms(
            tuple(bloom(r) for r in (8, 9, 40, 42, 11, 10)) + (bloom(9, 2), bloom(9, 1, 4.0))
        )
        self.assertEqual(
            [sorted(b.radius for b in g) for g in groups], [[40, 42], [8, 9, 10, 11], [9], [9]]
        )

    def test_three_alike_lead_as_one(self):
        blooms = self.found(
            (165, 330, 24, 1), (235, 330, 24, 1), (200, 290, 24, 1), (200, 90, 27, 2)
        )
        x, y = focal_point(give_roles(blooms, self.datum, 330.0))
        self.assertLess(np.hypot(x - 200, y - 317), 6)

    def test_a_colour_that_rules_by_size_leads_wherever_it_sits(self):
        datum = given_datum((200, 300), (200, 400), (170, 300), (230, 300))
        low = [Bloom((150 + 25 * i, 270), 14, "#3763b4", "blue", 1) for i in range(5)]
        high = Bloom((200, 150), 18, "#f2c81f", "yellow", 2)
        roles = give_roles((*low, high), datum, 200.0)
        self.assertEqual([b.role for b in roles].index("focal"), 5)
        # Broader by little, it stays below that the eye settles.
        roles = give_roles((*low, replace(high, radius=15.5)), datum, 200.0)
        self.assertEqual(roles[5].role, "mass")

    def test_a_focal_group_is_three_at_most(self):
        datum = given_datum((200, 300), (200, 400), (170, 300), (230, 300))
        alike = tuple(
            Bloom((160 + 20 * i, 270 - 5 * (i % 2)), 14 + i % 3, "#cf5a78", "red", 1)
            for i in range(6)
        )
        self.assertEqual(sum(b.role == "focal" for b in give_roles(alike, datum, 200.0)), 3)
