import unittest

import cv2
import numpy as np

from juniper.colour import Swatch, from_hex, lab_from_srgb
from juniper.scene.blooms import find_blooms, focal_point, give_roles
from juniper.scene.datum import given_datum
from juniper.scene.ground import BACKDROP, TABLE, plate, read_ground
from juniper.scene.material import flower_mask


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


class Material(unittest.TestCase):
    def test_petals_and_leaves(self):
        colours = {
            "#b81f28": True,
            "#f2c21c": True,
            "#6a3898": True,
            "#3b68b6": True,
            "#3d6b35": False,
            "#2f5a30": False,
            "#6b8a62": False,
        }
        raster = np.zeros((40, 40 * len(colours), 3), np.float32)
        for i, text in enumerate(colours):
            raster[:, 40 * i : 40 * i + 40] = lab_from_srgb(from_hex(text))
        petals = flower_mask(raster, np.ones(raster.shape[:2], bool))
        for i, (text, is_petal) in enumerate(colours.items()):
            self.assertEqual(bool(petals[20, 40 * i + 20]), is_petal, text)

    def test_nothing_outside_the_plant(self):
        raster = np.full((30, 30, 3), (50, 60, 30), np.float32)
        plant = np.zeros((30, 30), bool)
        plant[5:20, 5:20] = True
        self.assertFalse(flower_mask(raster, plant)[~plant].any())


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
        return find_blooms(raster, self.palette)

    def test_single_blooms_are_where_they_are_and_as_large(self):
        blooms = self.found((120, 200, 30, 1), (260, 260, 20, 2))
        self.assertEqual(len(blooms), 2)
        for bloom, (x, y, radius) in zip(sorted(blooms, key=lambda b: -b.radius), ((120, 200, 30), (260, 260, 20)), strict=True):
            self.assertLess(np.hypot(bloom.centre[0] - x, bloom.centre[1] - y), 1.5)
            self.assertAlmostEqual(bloom.radius, radius, delta=1.2)

    def test_touching_blooms_are_told_apart(self):
        self.assertEqual(len(self.found((150, 250, 30, 1), (205, 250, 30, 1))), 2)

    def test_specks_are_no_blooms(self):
        self.assertEqual(len(self.found((150, 250, 40, 1), (300, 100, 1, 2))), 1)
        self.assertEqual(self.found(), ())

    def test_roles_and_the_focal_point(self):
        blooms = self.found((200, 330, 40, 1), (120, 120, 22, 2), (290, 150, 20, 2), (300, 300, 11, 2))
        roles = {round(b.radius / 10): b.role for b in give_roles(blooms, self.datum, 330.0)}
        self.assertEqual(roles, {4: "focal", 2: "mass", 1: "filler"})
        x, y = focal_point(give_roles(blooms, self.datum, 330.0))
        self.assertLess(np.hypot(x - 200, y - 330), 3)
        self.assertIsNone(focal_point(()))

    def test_three_alike_lead_as_one(self):
        blooms = self.found((165, 330, 24, 1), (235, 330, 24, 1), (200, 290, 24, 1), (200, 90, 27, 2))
        x, y = focal_point(give_roles(blooms, self.datum, 330.0))
        self.assertLess(np.hypot(x - 200, y - 317), 6)
