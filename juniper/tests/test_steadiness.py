"""Small changes of a picture: where they put a point, and what spreads they make of figures known
beforehand.
"""

import math
import unittest
from dataclasses import replace
from unittest import mock

import cv2
import numpy as np

from juniper.assessment import Analysis, PieceView
from juniper.measures import surface_of
from juniper.measures.seeing import SEEING, Seeing
from juniper.measures.tests.test_measures import DATUM, TRIANGLE, raster
from juniper.photograph import Photograph
from juniper.rules import Brief
from juniper.scene import Label, NothingFound, Scene
from juniper.scene.container.pose import Pose
from juniper.steadiness import (
    CHANGES,
    Again,
    Change,
    changed,
    datum_under,
    findings_again,
    placed,
    seen_again,
    steadied,
)


def photograph(spot=(300, 170)) -> Photograph:
    """A grey picture of 520 pixels, half the size of the whole, with one white disc of 9 pixels."""
    pixels = np.full((520, 520, 3), 60, np.uint8)
    cv2.circle(pixels, spot, 9, (255, 255, 255), -1)
    return Photograph(pixels=pixels, width=1040, height=1040, scale=0.5, format="JPEG", focal=0.9)


def middle(pixels: np.ndarray) -> tuple[float, float]:
    """Middle of what is white, from the corner of the first pixel."""
    light = np.clip(pixels.astype(float).mean(axis=2) - 120, 0, None)
    ys, xs = np.mgrid[: light.shape[0], : light.shape[1]] + 0.5
    return float((xs * light).sum() / light.sum()), float((ys * light).sum() / light.sum())


class Changes(unittest.TestCase):
    def test_each_carries_a_point_where_the_picture_shows_it(self):
        picture = photograph()
        x, y = middle(picture.pixels)
        for change in (*CHANGES, Change(degrees=5, crop=0.1, scale=0.7, mirrored=True), Change()):
            with self.subTest(change=change):
                other, matrix = changed(picture, change)
                at = placed(matrix, (x / 0.5, y / 0.5))
                shown = middle(other.pixels)
                self.assertLess(math.dist((at[0] * other.scale, at[1] * other.scale), shown), 0.35)

    def test_sizes_are_those_of_crop_and_scale(self):
        other, _ = changed(photograph(), Change(scale=0.5, crop=0.1))
        self.assertEqual(other.pixels.shape[:2], (234, 234))  # 520 x .9 x .5
        self.assertEqual((other.width, other.height), (468, 468))

    def test_a_crop_makes_the_told_focal_length_longer_and_the_usual_one_stays(self):
        self.assertAlmostEqual(
            changed(replace(photograph(), focal=0.72), Change(crop=0.1))[0].focal, 0.8
        )
        self.assertEqual(changed(photograph(), Change(crop=0.1))[0].focal, 0.9)

    def test_light_is_changed_by_its_factor_in_linear_light(self):
        other, _ = changed(photograph(), Change(light=1.21))
        self.assertAlmostEqual(float(other.pixels[5, 5, 0]), 60 * 1.21 ** (1 / 2.2), delta=1)
        warm, _ = changed(photograph(), Change(warm=1.2))
        red, green, blue = (float(v) for v in warm.pixels[5, 5])
        self.assertEqual(green, 60)
        self.assertAlmostEqual((red / blue) ** 2.2, 1.2, delta=0.1)

    def test_a_mirrored_datum_changes_its_rim_ends_and_comes_back(self):
        _, matrix = changed(photograph(), Change(mirrored=True, scale=0.8))
        there = datum_under(DATUM, matrix)
        self.assertLess(there.rim_left[0], there.rim_right[0])
        self.assertAlmostEqual(there.height, 0.8 * DATUM.height)
        self.assertAlmostEqual(there.spread.rim, 0.8 * DATUM.spread.rim)
        again = datum_under(there, cv2.invertAffineTransform(matrix))
        for name in ("rim", "base", "rim_left", "rim_right"):
            self.assertLess(math.dist(getattr(again, name), getattr(DATUM, name)), 1e-6)


class Spreads(unittest.TestCase):
    """Pieces seen again as drawn: the triangle of the measures' own tests, its peak at one height
    and another.
    """

    SCENE = Scene(DATUM, None, (), (), 520, 520, pose=None)
    SAME = np.array([[1.0, 0, 0], [0, 1.0, 0]])
    TURNED = np.array([[-1.0, 0, 520], [0, 1.0, 0]])

    def analysis(self, scene=None):
        picture = raster()
        whole = replace(photograph(), scale=1.0, width=520, height=520)
        return Analysis(whole, scene or self.SCENE, picture, surface_of(picture), ())

    def again(self, polygon=TRIANGLE, matrix=None):
        picture = raster(polygon)
        if matrix is not None:
            picture = replace(
                picture,
                labels=np.ascontiguousarray(picture.labels[:, ::-1]),
                flowers=np.ascontiguousarray(picture.flowers[:, ::-1]),
            )
        return Again(self.SCENE, picture, self.SAME if matrix is None else matrix)

    def test_the_standard_deviation_of_what_was_measured(self):
        # Heights of 240, 240, 220 and 260 pixels over 180: sd (n - 1) of the ratios is 16.33 / 180.
        tops = (60, 80, 40)
        again = tuple(self.again(np.array([[140, 300], [300, top], [400, 300]])) for top in tops)
        unsteady = dict(steadied(self.analysis(), Brief(form=""), again).scene.unsteady)
        self.assertAlmostEqual(
            unsteady["height_ratio"], np.std([240, 240, 220, 260], ddof=1) / 180, delta=0.003
        )
        self.assertLess(unsteady["width_ratio"], 0.01)

    def test_a_mirrored_picture_is_turned_back_to_its_viewers_sides(self):
        own = self.analysis().measured(Brief(form=""))["left_area_share"].value
        view = self.analysis().as_view()
        found = findings_again(view, self.again(matrix=self.TURNED), Brief(form=""))
        # the axis lies on a column of pixels
        self.assertAlmostEqual(found["left_area_share"].value, own, delta=0.012)

    def test_of_two_pictures_no_spread_is_told(self):
        self.assertEqual(
            steadied(self.analysis(), Brief(form=""), (self.again(),)).scene.unsteady, ()
        )

    def test_the_spread_makes_the_uncertainty_larger(self):
        view = self.analysis().as_view()
        calm, loose = (
            Analysis(
                self.analysis().photograph,
                replace(self.SCENE, unsteady=(("height_ratio", sd),)),
                view.raster,
                view.surface,
                (),
            ).measured()["height_ratio"]
            for sd in (0.0, 0.1)
        )
        times = SEEING["height_ratio"].times
        self.assertAlmostEqual(loose.uncertainty**2 - calm.uncertainty**2, (times * 0.1) ** 2)

    def test_the_camera_is_carried_along(self):
        posed = replace(self.SCENE, pose=Pose(0.1, 0.01, 900.0, 0.1, (260.0, 260.0)))
        one = Again(posed, raster(), np.array([[0.5, 0, 10], [0, 0.5, 20]]))
        base = PieceView("front", posed, raster(), surface_of(raster()), DATUM, None, ())
        half = raster()
        labels = cv2.resize(half.labels, None, fx=0.5, fy=0.5, interpolation=cv2.INTER_NEAREST)
        moved = np.zeros_like(half.labels)
        moved[20 : 20 + labels.shape[0], 10 : 10 + labels.shape[1]] = labels
        one = replace(
            one, raster=replace(half, labels=moved, flowers=(moved == Label.PLANT).astype(np.uint8))
        )
        found, own = (
            findings_again(base, one, Brief(form="")),
            Analysis(None, posed, half, base.surface, ()).measured(Brief(form="")),
        )
        self.assertAlmostEqual(found["height_ratio"].value, own["height_ratio"].value, delta=0.03)


class Floors(unittest.TestCase):
    def test_spread_and_floor_in_quadrature(self):
        self.assertAlmostEqual(Seeing(2, 0.3, 0.1).uncertainty(5.0, 0.2), 0.5)  # 3-4-5
        self.assertAlmostEqual(Seeing(2, 0.06, 0.1, relative=True).uncertainty(-5.0, 0.2), 0.5)
        self.assertAlmostEqual(Seeing(2, 0.0, 0.1).uncertainty(5.0, None), 0.2)


class SeenAgain(unittest.TestCase):
    def test_what_was_known_of_the_piece_is_known_again(self):
        known = {"vessels": 5, "kind": "several vessels", "fall": 1.5}
        with mock.patch("juniper.steadiness.see", side_effect=NothingFound("none")) as looked:
            self.assertEqual(seen_again(photograph(), view="side", **known), ())
        self.assertEqual(looked.call_count, len(CHANGES))
        for call in looked.call_args_list:
            self.assertEqual({n: call.kwargs[n] for n in known}, known)
            self.assertEqual(call.kwargs["view"], "side")


if __name__ == "__main__":
    unittest.main()
