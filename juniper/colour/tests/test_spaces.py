import unittest

import colour
import cv2
import numpy as np

from juniper.colour.spaces import (
    ciede2000,
    from_hex,
    lab_from_srgb,
    oklab_from_srgb,
    srgb_from_lab,
    to_hex,
)

# Sharma, Wu & Dalal 2005, "The CIEDE2000 color-difference formula", table 1: all 34 pairs.
SHARMA = """
50 2.6772 -79.7751 50 0 -82.7485 2.0425
50 3.1571 -77.2803 50 0 -82.7485 2.8615
50 2.8361 -74.0200 50 0 -82.7485 3.4412
50 -1.3802 -84.2814 50 0 -82.7485 1.0000
50 -1.1848 -84.8006 50 0 -82.7485 1.0000
50 -0.9009 -85.5211 50 0 -82.7485 1.0000
50 0 0 50 -1 2 2.3669
50 -1 2 50 0 0 2.3669
50 2.4900 -0.0010 50 -2.4900 0.0009 7.1792
50 2.4900 -0.0010 50 -2.4900 0.0010 7.1792
50 2.4900 -0.0010 50 -2.4900 0.0011 7.2195
50 2.4900 -0.0010 50 -2.4900 0.0012 7.2195
50 -0.0010 2.4900 50 0.0009 -2.4900 4.8045
50 -0.0010 2.4900 50 0.0010 -2.4900 4.8045
50 -0.0010 2.4900 50 0.0011 -2.4900 4.7461
50 2.5 0 50 0 -2.5 4.3065
50 2.5 0 73 25 -18 27.1492
50 2.5 0 61 -5 29 22.8977
50 2.5 0 56 -27 -3 31.9030
50 2.5 0 58 24 15 19.4535
50 2.5 0 50 3.1736 0.5854 1.0000
50 2.5 0 50 3.2972 0 1.0000
50 2.5 0 50 1.8634 0.5757 1.0000
50 2.5 0 50 3.2592 0.3350 1.0000
60.2574 -34.0099 36.2677 60.4626 -34.1751 39.4387 1.2644
63.0109 -31.0961 -5.8663 62.8187 -29.7946 -4.0864 1.2630
61.2901 3.7196 -5.3901 61.4292 2.2480 -4.9620 1.8731
35.0831 -44.1164 3.7933 35.0232 -40.0716 1.5901 1.8645
22.7233 20.0904 -46.6940 23.0331 14.9730 -42.5619 2.0373
36.4612 47.8580 18.3852 36.2715 50.5065 21.2231 1.4146
90.8027 -2.0831 1.4410 91.1528 -1.6435 0.0447 1.4441
90.9257 -0.5406 -0.9208 88.6381 -0.8985 -0.7239 1.5381
6.7747 -0.2908 -2.4247 5.8714 -0.0985 -2.2286 0.6377
2.0776 0.0795 -1.1350 0.9033 -0.0636 -0.5514 0.9082
"""


class Spaces(unittest.TestCase):
    def setUp(self):
        self.rgb = np.random.default_rng(3).random((500, 3))

    def test_ciede2000_on_the_published_pairs(self):
        rows = np.array([[float(v) for v in line.split()] for line in SHARMA.strip().splitlines()])
        self.assertEqual(len(rows), 34)
        np.testing.assert_allclose(ciede2000(rows[:, :3], rows[:, 3:6]), rows[:, 6], atol=1e-4)

    def test_ciede2000_agrees_with_the_reference_library(self):
        first, second = lab_from_srgb(self.rgb[:250]), lab_from_srgb(self.rgb[250:])
        np.testing.assert_allclose(
            ciede2000(first, second), colour.delta_E(first, second, method="CIE 2000"), atol=1e-6
        )

    def test_cielab_agrees_with_the_reference_library(self):
        xyz = colour.sRGB_to_XYZ(self.rgb)
        white = colour.CCS_ILLUMINANTS["CIE 1931 2 Degree Standard Observer"]["D65"]
        np.testing.assert_allclose(
            lab_from_srgb(self.rgb), colour.XYZ_to_Lab(xyz, white), atol=0.05
        )

    def test_oklab_agrees_with_the_reference_library(self):
        reference = colour.convert(self.rgb, "sRGB", "Oklab")
        np.testing.assert_allclose(oklab_from_srgb(self.rgb), reference, atol=5e-4)

    def test_oklab_of_white_and_black(self):
        # Ottosson 2020: white is L 1, a and b 0; black is all 0.
        np.testing.assert_allclose(
            oklab_from_srgb([[1.0, 1, 1], [0, 0, 0]]), [[1, 0, 0], [0, 0, 0]], atol=1e-4
        )

    def test_lab_round_trip(self):
        np.testing.assert_allclose(srgb_from_lab(lab_from_srgb(self.rgb)), self.rgb, atol=1e-6)

    def test_the_fast_raster_conversion_is_the_same_space(self):
        # Rasters are converted by OpenCV; single colours by our own exact formulae.
        raster = self.rgb.astype(np.float32).reshape(20, 25, 3)
        fast = cv2.cvtColor(raster, cv2.COLOR_RGB2LAB).reshape(-1, 3)
        self.assertLess(np.abs(fast - lab_from_srgb(self.rgb)).max(), 0.6)

    def test_hex(self):
        self.assertEqual(to_hex(from_hex("#b7431f")), "#b7431f")
        for bad in ("b7431f", "#b7431", "#gg0000"):
            with self.assertRaises(ValueError):
                from_hex(bad)
