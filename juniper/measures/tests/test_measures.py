import math
import unittest
from dataclasses import replace

import cv2
import numpy as np
from shapely import Polygon, affinity

from juniper.colour.heaviness import visual_weight
from juniper.measures import View, balance, focal, lines, measure, outline, proportion, surface_of
from juniper.measures.measuring import _with_centimetres
from juniper.measures.seeing import SEEING
from juniper.scene import Bloom, Label, Raster, Scene, given_datum
from juniper.scene.container.datum import HANDLES, HandleUncertainty
from juniper.scene.container.pose import Pose

TRIANGLE = np.array([[140, 300], [300, 60], [400, 300]])


def raster(polygon=TRIANGLE, light=50) -> Raster:
    labels = np.zeros((520, 520), np.uint8)
    labels[300:481, 240:301] = Label.CONTAINER
    cv2.fillPoly(labels, [np.asarray(polygon, np.int32)], Label.PLANT)
    return Raster(
        labels,
        (labels == Label.PLANT).astype(np.uint8),
        np.full(labels.shape, light, np.uint8),
        1.0,
    )


DATUM = given_datum((270.5, 300.5), (270.5, 480.5), (240.5, 300.5), (300.5, 300.5))


def view(polygon=TRIANGLE, focal_at=(270.5, 260.5), **options) -> View:
    return View(surface_of(raster(polygon, **options)), DATUM, focal_at)


class Proportion(unittest.TestCase):
    """Against lengths known by construction; heights to a pixel's half."""

    def test_heights(self):
        self.assertAlmostEqual(proportion.height_ratio(view()), 240 / 180, delta=0.01)
        self.assertAlmostEqual(proportion.plant_share(view()), 240 / 420, delta=0.005)
        self.assertAlmostEqual(proportion.spread(view()), 261 / 240, delta=0.01)
        self.assertAlmostEqual(proportion.width_ratio(view()), 261 / 61, delta=0.1)

    def test_a_bunch_is_drawn_as_dome_and_stems(self):
        scene = Scene(DATUM, None, (), (), 520, 520, tied=True)
        found = measure(surface_of(raster()), scene, DATUM, None)
        for kind, labels in (
            ("one vessel", {"plant", "container"}),
            ("hand-tied", {"dome", "stems"}),
            ("on an edge", {"plant", "fall"}),
        ):
            marks = found.in_words_of(kind)["height_ratio"].evidence
            self.assertEqual({m.label for m in marks if m.kind == "bracket"}, labels)
        said = " ".join(m.says for m in found.in_words_of("hand-tied")["height_ratio"].evidence)
        self.assertIn("above the tie", said)
        self.assertNotIn("ontainer", said)

    def test_governing_dimension_of_a_low_vessel_is_its_width(self):
        wide = given_datum((270.5, 300.5), (270.5, 340.5), (100.5, 300.5), (440.5, 300.5))
        low = View(surface_of(raster()), wide, None)
        self.assertAlmostEqual(proportion.governing_ratio(low), 240 / 340, delta=0.01)

    def test_every_measure_uses_the_axis_not_the_pictures_upright(self):
        turned = raster()
        turn = cv2.getRotationMatrix2D((260, 260), 4.0, 1)
        labels = cv2.warpAffine(turned.labels, turn, (520, 520), flags=cv2.INTER_NEAREST)
        points = [
            tuple(turn @ (*p, 1)) for p in (DATUM.rim, DATUM.base, DATUM.rim_left, DATUM.rim_right)
        ]
        rolled = View(surface_of(replace(turned, labels=labels)), given_datum(*points), None)
        self.assertAlmostEqual(
            proportion.height_ratio(rolled), proportion.height_ratio(view()), delta=0.015
        )
        self.assertAlmostEqual(
            balance.left_area_share(rolled), balance.left_area_share(view()), delta=0.01
        )


class ContainerWidth(unittest.TestCase):
    """The container is 61 pixels wide and its rim 60, by construction."""

    def wide(self, *blocks):
        labels = raster().labels
        for top, bottom, left, right in blocks:
            labels[top:bottom, left:right] = Label.CONTAINER
        return View(surface_of(replace(raster(), labels=labels)), DATUM, None).container_width

    def test_its_own_width(self):
        self.assertAlmostEqual(self.wide(), 61, delta=0.6)

    def test_specks_apart_make_it_no_wider(self):
        self.assertAlmostEqual(self.wide((100, 110, 60, 80), (420, 430, 420, 440)), 61, delta=0.6)

    def test_what_is_taken_for_it_over_the_rim_or_under_the_foot_does_not_either(self):
        self.assertAlmostEqual(self.wide((250, 296, 100, 270), (481, 520, 60, 480)), 61, delta=0.6)

    def test_a_shadow_across_one_slice_does_not_count(self):
        self.assertAlmostEqual(self.wide((400, 404, 240, 420)), 61, delta=0.6)

    def test_a_belly_does(self):
        self.assertAlmostEqual(self.wide((360, 420, 200, 341)), 141, delta=0.6)

    def test_it_is_never_less_than_its_rim(self):
        labels = raster().labels
        labels[labels == Label.CONTAINER] = 0
        bare = View(surface_of(replace(raster(), labels=labels)), DATUM, None)
        self.assertEqual(bare.container_width, 60)


class Clearance(unittest.TestCase):
    """How far the tallest stands over the rest, of a body with one narrow head over it: lengths by
    construction.
    """

    def test_it_begins_where_the_body_ends(self):
        for over in (30, 61, 97, 140):
            with self.subTest(over=over):
                top = 300 - 100 - over
                piece = np.array(
                    [
                        [180, 300],
                        [180, 200],
                        [262, 200],
                        [262, top],
                        [280, top],
                        [280, 200],
                        [360, 200],
                        [360, 300],
                    ]
                )
                # One row of pixels of two hundred, and half a pixel of the top.
                self.assertAlmostEqual(
                    lines.clearance(view(piece)), over / (100.5 + over), delta=0.008
                )

    def test_a_piece_as_broad_at_the_top_clears_nothing(self):
        self.assertAlmostEqual(
            lines.clearance(view(np.array([[180, 300], [180, 100], [360, 100], [360, 300]]))),
            0,
            delta=0.005,
        )


class Fill(unittest.TestCase):
    """Plant area over the closed outline's, counted by hand on stripes narrower than the
    closing.
    """

    def test_thin_stripes_fill_their_share(self):
        labels = raster().labels
        labels[labels == Label.PLANT] = 0
        for x in range(150, 391, 6):  # three of six columns are plant
            labels[100:300, x : x + 3] = Label.PLANT
        found = surface_of(replace(raster(), labels=labels, flowers=np.zeros_like(labels)))
        self.assertAlmostEqual(found.fill, 0.5, delta=0.012)

    def test_a_full_piece_is_full(self):
        self.assertAlmostEqual(
            view(np.array([[180, 300], [180, 101], [361, 101], [361, 300]])).surface.fill,
            1.0,
            delta=0.01,
        )


class Foot(unittest.TestCase):
    def test_a_vessel_that_flares_stands_on_its_foot_alone(self):
        labels = raster().labels
        labels[labels == Label.CONTAINER] = 0
        cv2.fillPoly(
            labels, [np.array([[210, 300], [330, 300], [280, 480], [260, 480]])], Label.CONTAINER
        )
        flared = View(surface_of(replace(raster(), labels=labels)), DATUM, None)
        # A trapezium 121 wide at the top and 21 at the table, a fiftieth up: 10.5 + .02 x 50 half.
        self.assertAlmostEqual(balance.half_foot(flared), 11.5, delta=0.6)

    def test_the_offset_is_over_half_the_foot(self):
        piece = view()
        self.assertAlmostEqual(
            balance.weight_offset(piece), abs(piece.centre[1]) / 30.0, delta=0.01
        )


class Balance(unittest.TestCase):
    """Against shapely's areas, centroids and intersections of the same polygons."""

    def setUp(self):
        self.shape = Polygon(TRIANGLE)

    def test_left_share(self):
        left = (
            self.shape.intersection(Polygon([(0, 0), (270.5, 0), (270.5, 520), (0, 520)])).area
            / self.shape.area
        )
        self.assertAlmostEqual(balance.left_area_share(view()), left, delta=0.01)
        # even lightness: weight is area
        self.assertAlmostEqual(balance.left_weight_share(view()), left, delta=0.01)

    def test_centre_of_weight(self):
        along, side = view().centre
        self.assertAlmostEqual(along, 300.5 - self.shape.centroid.y, delta=1.5)
        self.assertAlmostEqual(side, self.shape.centroid.x - 270.5, delta=1.5)

    def test_moments_balance_when_the_centre_lies_on_the_axis(self):
        # Left and right moments are equal exactly when the centroid is on the axis (statics).
        even = np.array([[150, 300], [270, 60], [391, 300]])
        self.assertAlmostEqual(balance.moment_ratio(view(even)), 1.0, delta=0.03)
        left, right = balance.moments(view())
        self.assertAlmostEqual(
            (right - left) / view().weight.sum(), self.shape.centroid.x - 270.5, delta=1.5
        )

    def test_mirrored_overlap(self):
        mirrored = affinity.scale(self.shape, xfact=-1, origin=(270.5, 0))
        want = self.shape.intersection(mirrored).area / self.shape.union(mirrored).area
        self.assertAlmostEqual(balance.outline_symmetry(view()), want, delta=0.03)

    def test_visual_weight_follows_the_published_scale(self):
        # Ou et al. 2004 (from memory): heavy-light = -2.1 + 0.05 (100 - L*); white is lightest.
        self.assertAlmostEqual(float(visual_weight(100)), 1.0)
        self.assertAlmostEqual(float(visual_weight(0)), 2.25)
        self.assertTrue((np.diff(visual_weight(np.arange(101))) < 0).all())

    def test_a_dark_side_weighs_more_than_its_area(self):
        picture = raster()
        picture.light[:, :270] = 10
        dark = View(surface_of(picture), DATUM, None)
        self.assertGreater(balance.left_weight_share(dark), balance.left_area_share(dark) + 0.05)


class Focal(unittest.TestCase):
    def test_height_and_offset(self):
        seen = view(focal_at=(290.5, 240.5))
        self.assertAlmostEqual(focal.focal_height(seen), 60 / 240, delta=0.01)
        self.assertAlmostEqual(focal.focal_offset(seen), 20 / 130.5, delta=0.01)

    def test_dominance_is_over_the_next_kind(self):
        chief = Bloom((300, 250), 30, "#b81f28", "red", 1, "focal")
        like = Bloom((330, 250), 29, "#b81f28", "red", 1, "focal")
        other = Bloom((200, 200), 20, "#f2c21c", "yellow", 2)
        ratio, first, second = focal.focal_dominance((301, 251), (chief, like, other))
        self.assertAlmostEqual(ratio, 1.5)
        self.assertIs(first, chief)
        self.assertIs(second, other)
        self.assertIsNone(focal.focal_dominance((301, 251), (chief, like)))
        # One more of its kind outside the group leaves the eye undecided.
        again = Bloom((200, 100), 28, "#b81f28", "red", 1, "mass")
        self.assertLess(focal.focal_dominance((301, 251), (chief, like, other, again))[0], 1.1)

    def test_a_focal_point_with_a_rival_is_in_doubt(self):
        chief = Bloom((300, 250), 30, "#b81f28", "red", 1, "focal")
        for radius, word in ((20, ""), (28, "1.07 times"), (33, "broader")):
            rival = Bloom((100, 150), radius, "#f2c21c", "yellow", 2)
            found = focal.focal_doubt((300, 250), (chief, rival))
            self.assertIn(word, found)
            self.assertEqual(bool(word), bool(found))
        # at 1.25 times the next one the doubt ends
        for radius, unsure in ((24.01, True), (23.99, False)):
            rival = Bloom((100, 150), radius, "#f2c21c", "yellow", 2)
            self.assertEqual(bool(focal.focal_doubt((300, 250), (chief, rival))), unsure)
        self.assertIn("No focal point", focal.focal_doubt(None, (chief,)))
        self.assertEqual(focal.focal_doubt(None, ()), "")


class Arithmetic(unittest.TestCase):
    def test_lengths_are_told_in_pixels_and_centimetres(self):
        self.assertEqual(
            _with_centimetres("84 px from the axis ÷ half of plant width 300 px", 0.1),
            "84 px (8.4 cm) from the axis ÷ half of plant width 300 px (30.0 cm)",
        )
        self.assertEqual(_with_centimetres("250 px = 25.0 cm", 0.1), "250 px = 25.0 cm")
        self.assertEqual(
            _with_centimetres("weight left 36003 ÷ all 82746", 0.1), "weight left 36003 ÷ all 82746"
        )


class Outline(unittest.TestCase):
    def test_twin_tips(self):
        def tips(*heights):
            points = [(130, 300)]
            for i, h in enumerate(heights):
                points += [(170 + 80 * i, 300 - h), (205 + 80 * i, 220)]
            return np.array([*points, (420, 300)])

        self.assertEqual(len(outline.twin_tips(view(tips(220, 100, 218)))), 1)
        self.assertEqual(len(outline.twin_tips(view(tips(150, 220, 150)))), 0)
        self.assertEqual(len(outline.twin_tips(view(tips(220, 100, 190)))), 0)

    def test_a_hole_is_measured_and_drawn(self):
        picture = raster()
        cv2.circle(picture.labels, (300, 200), 7, 0, -1)
        surface = surface_of(picture)
        want = np.pi * 7**2 / Polygon(TRIANGLE).area
        self.assertAlmostEqual(surface.hole, want, delta=0.4 * want)
        self.assertLess(np.abs(surface.hole_outline.mean(0) - (300, 200)).max(), 4)
        self.assertEqual(surface_of(raster()).hole, 0)

    def test_rim_cover(self):
        picture = raster()
        picture.labels[290:312, 240:301] = Label.CONTAINER
        picture.labels[296:312, 240:270] = Label.PLANT
        self.assertAlmostEqual(
            outline.rim_cover(View(surface_of(picture), DATUM, None)), 0.5, delta=0.04
        )


class Uncertainty(unittest.TestCase):
    def setUp(self):
        self.surface = surface_of(raster())
        # Seen without any spread: of the height ratio only what the datum does is left.
        steady = tuple((name, 0.0) for name in SEEING)
        self.scene = Scene(DATUM, (270.5, 260.5), (), (), 520, 520, unsteady=steady)

    def test_ratio_error_is_first_order(self):
        # JCGM 100:2008: for h/c with rim shift r, (h-r)/(c+r): dm = (1/c + h/c^2) r.
        datum = replace(DATUM, spread=HandleUncertainty(rim=3, base=0, across=0))
        got = measure(self.surface, self.scene, datum, None)["height_ratio"].uncertainty
        # of which seven tenths hold (juniper.measures.seeing)
        want = 0.7 * 3 * (1 / 180 + 240 / 180**2)
        self.assertAlmostEqual(got, want, delta=0.1 * want)

    def test_base_error(self):
        datum = replace(DATUM, spread=HandleUncertainty(rim=0, base=5, across=0))
        got = measure(self.surface, self.scene, datum, None)["height_ratio"].uncertainty
        self.assertAlmostEqual(
            got, math.hypot(0.7 * 5 * 240 / 180**2, 240 / 180 / 240), delta=0.001
        )  # a pixel of the outline beside

    def test_both_ends_in_quadrature(self):
        one, two, both = (
            measure(self.surface, self.scene, replace(DATUM, spread=spread), None)[
                "height_ratio"
            ].uncertainty
            for spread in (
                HandleUncertainty(rim=3, base=0, across=0),
                HandleUncertainty(rim=0, base=5, across=0),
                HandleUncertainty(rim=3, base=5, across=0),
            )
        )
        edge = 240 / 180 / 240
        self.assertAlmostEqual(both**2, one**2 + two**2 - edge**2, places=6)

    def test_confirmed_handles_are_as_sure_as_a_hand(self):
        # The hand puts a handle to one pixel here: of 8 pixels an eighth is left.
        datum = replace(DATUM, spread=HandleUncertainty(rim=8, base=0, across=0), put=frozenset())
        found = measure(self.surface, self.scene, datum, None)["height_ratio"]
        hand = measure(
            self.surface,
            self.scene,
            replace(datum, spread=HandleUncertainty(rim=1, base=0, across=0)),
            None,
        )["height_ratio"]
        self.assertAlmostEqual(found.confirmed, hand.uncertainty, places=4)
        self.assertEqual(found.unsure_of, "rim")
        self.assertIsNone(
            measure(self.surface, self.scene, datum.moved(**_places(datum)), None)[
                "height_ratio"
            ].confirmed
        )

    def test_which_handle_it_rests_on(self):
        for spread, name in (
            (HandleUncertainty(5, 1, 0), "rim"),
            (HandleUncertainty(1, 9, 0), "foot"),
        ):
            datum = replace(DATUM, spread=spread, put=frozenset())
            self.assertEqual(
                measure(self.surface, self.scene, datum, None)["height_ratio"].unsure_of, name
            )
        datum = replace(DATUM, spread=HandleUncertainty(0.1, 0.1, 6), put=frozenset())
        self.assertEqual(
            measure(self.surface, self.scene, datum, None)["left_area_share"].unsure_of, "axis"
        )

    def test_the_focal_point_is_sure_once_it_is_put(self):
        scene = replace(self.scene, unsteady=())
        found, put = (
            measure(self.surface, scene, DATUM, (270.5, 260.5), focal_put=p)["focal_height"]
            for p in (False, True)
        )
        self.assertEqual(found.unsure_of, "focal point")
        self.assertAlmostEqual(found.confirmed, put.uncertainty, places=6)
        # .05 of plant height as a floor, and twice the usual spread of .0008.
        self.assertAlmostEqual(
            found.uncertainty**2 - put.uncertainty**2, 0.05**2 + (2 * 0.0008) ** 2, places=7
        )

    def test_a_doubtful_datum_is_told(self):
        for confidence, put, told in (
            (0.4, frozenset(), True),
            (0.7, frozenset(), False),
            (0.4, frozenset({"rim"}), True),
            (0.4, HANDLES, False),
        ):
            datum = replace(DATUM, confidence=confidence, put=put, source="automatic")
            self.assertEqual(measure(self.surface, self.scene, datum, None).needs_check, told)

    def test_nothing_above_the_rim_is_said_not_scored(self):
        high = given_datum((270.5, 20.5), (270.5, 480.5), (240.5, 20.5), (300.5, 20.5))
        found = measure(self.surface, self.scene, high, None)
        self.assertFalse(found["height_ratio"].measured)
        self.assertIn("rim handle", found["height_ratio"].reason)

    def test_centimetres_come_from_the_container(self):
        found = measure(self.surface, self.scene, DATUM, None, container_height_cm=18.0)
        self.assertAlmostEqual(found.cm_per_px, 0.1, places=3)
        self.assertRegex(found["height_ratio"].arithmetic, r"24\.[01] cm")


def _places(datum):
    return {name: getattr(datum, name) for name in HANDLES}


class FromAbove(unittest.TestCase):
    """A camera that looks down: measures are made on the upright plane through the axis."""

    def test_heights_are_the_pieces_own_and_what_the_picture_shows_is_told_beside(self):
        scene = Scene(
            DATUM,
            None,
            (),
            (),
            520,
            520,
            pose=Pose(np.radians(12), np.radians(2), 800.0, 0.1, (270.0, 360.0)),
        )
        plain, tilted = (
            measure(surface_of(raster()), s, DATUM, None)
            for s in (Scene(DATUM, None, (), (), 520, 520), scene)
        )
        self.assertEqual(tilted["height_ratio_image"].value, plain["height_ratio"].value)
        self.assertLess(tilted["height_ratio"].value, plain["height_ratio"].value)
        # What is not known of the camera is part of the uncertainty.
        self.assertGreater(tilted["height_ratio"].uncertainty, plain["height_ratio"].uncertainty)

    def test_places_on_the_plane_and_back(self):
        scene = Scene(
            DATUM,
            None,
            (),
            (),
            520,
            520,
            pose=Pose(np.radians(12), 0.0, 800.0, 0.0, (270.0, 360.0)),
        )
        view = View(surface_of(raster()), DATUM, None, pose=scene.pose)
        for point in ((300.0, 100.0), (150.0, 420.0)):
            along, side = view.place(np.array([point]))
            np.testing.assert_allclose(view.at(float(along[0]), float(side[0])), point, atol=1e-6)
        self.assertAlmostEqual(
            float(view.place(np.array([DATUM.base]))[0][0]), -view.container_height
        )
