import io
import unittest
import warnings

import numpy as np
from PIL import Image, ImageCms

from juniper.camera import Shot, frame, take
from juniper.camera.capture import cast_matrix, display_p3_profile
from juniper.colour.spaces import linear_from_srgb

with warnings.catch_warnings():
    warnings.simplefilter("ignore")
    import colour


class Light(unittest.TestCase):
    """Against the colour-science library."""

    def test_white_under_a_light_is_that_lights_colour(self):
        for kelvin in (3000, 4000, 5000, 8000, 12000):
            rgb = cast_matrix(kelvin) @ np.ones(3)
            xyz = colour.RGB_COLOURSPACES["sRGB"].matrix_RGB_to_XYZ @ rgb
            xy = xyz[:2] / xyz.sum()
            # Kang et al. 2002 as the library has it.
            np.testing.assert_allclose(xy, colour.temperature.CCT_to_xy_Kang2002(kelvin), atol=2e-3)

    def test_daylight_changes_nothing(self):
        np.testing.assert_array_equal(cast_matrix(6504), np.eye(3))

    def test_bradford(self):
        # Published: Bradford adaptation of a colour keeps the library's result for the same two
        # whites.
        kelvin = 3200
        white = colour.xy_to_XYZ(colour.temperature.CCT_to_xy_Kang2002(kelvin))
        d65 = colour.xy_to_XYZ(colour.CCS_ILLUMINANTS["CIE 1931 2 Degree Standard Observer"]["D65"])
        m = colour.adaptation.matrix_chromatic_adaptation_VonKries(d65, white, transform="Bradford")
        space = colour.RGB_COLOURSPACES["sRGB"]
        for rgb in ([0.6, 0.2, 0.1], [0.1, 0.3, 0.5]):
            wanted = space.matrix_XYZ_to_RGB @ m @ (space.matrix_RGB_to_XYZ @ np.array(rgb))
            np.testing.assert_allclose(cast_matrix(kelvin) @ rgb, wanted, atol=4e-3)


class DisplayP3(unittest.TestCase):
    def test_the_profile_is_read_by_the_colour_engine_as_display_p3(self):
        profile = ImageCms.ImageCmsProfile(io.BytesIO(display_p3_profile()))
        self.assertIn("Display P3", ImageCms.getProfileDescription(profile))
        colours = np.array(
            [[[200, 40, 30], [30, 160, 60], [40, 60, 200], [230, 200, 40], [128, 128, 128]]],
            np.uint8,
        )
        back = ImageCms.profileToProfile(
            Image.fromarray(colours), profile, ImageCms.createProfile("sRGB"), outputMode="RGB"
        )
        p3 = colour.RGB_COLOURSPACES["Display P3"]
        linear = colour.RGB_to_RGB(
            linear_from_srgb(colours / 255), p3, colour.RGB_COLOURSPACES["sRGB"]
        )
        wanted = (
            np.clip(
                np.where(
                    linear <= 0.0031308,
                    12.92 * linear,
                    1.055 * np.maximum(linear, 1e-9) ** (1 / 2.4) - 0.055,
                ),
                0,
                1,
            )
            * 255
        )
        np.testing.assert_allclose(np.asarray(back), wanted, atol=2.5)

    def test_a_picture_in_it_is_taken_for_the_same_picture(self):
        from juniper.photograph import read_photograph

        plain = read_photograph(take(frame(10)).data).pixels.astype(int)
        wide = read_photograph(take(frame(10), Shot(profile="Display P3")).data).pixels.astype(int)
        self.assertLess(np.abs(plain - wide).mean(), 2.0)
