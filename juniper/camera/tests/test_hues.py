import unittest

import numpy as np

from juniper.assessment import analyse
from juniper.camera import Shot, take
from juniper.camera.card_placing import NoRoom, with_card
from juniper.camera.roll import FOLDER, frame, frame_at
from juniper.colour import Swatch, from_hex, lab_from_srgb
from juniper.evaluation.colour_trials import CODE, coloured, held, summary, true_colours

TRUTH = {
    "blooms": [
        {"albedo_hex": "#b02020", "hue": "red", "mean_hex": "#a02525", "visible_px": 600},
        {"albedo_hex": "#b02020", "hue": "red", "mean_hex": "#a02525", "visible_px": 100},
        {"albedo_hex": "#f1efe8", "hue": "white", "mean_hex": "#c8c6c0", "visible_px": 300},
    ],
    "findings": {"foliage_share": 0.4},
    "scheme": "monochromatic",
}


def read(*colours, foliage=0.43, scheme="monochromatic"):
    """What was read, with flowers of (hex, step, share)."""
    return (
        tuple(
            Swatch("flower", tuple(lab_from_srgb(from_hex(h))), h, hue, share)
            for h, hue, share in colours
        ),
        foliage,
        scheme,
    )


class Held(unittest.TestCase):
    def test_shares_are_of_all_visible_blooms(self):
        self.assertEqual(
            [(hue, round(share, 3)) for _, hue, share, _ in true_colours(TRUTH)],
            [("red", 0.7), ("white", 0.3)],
        )

    def test_two_shades_of_one_colour_count_for_it_whatever_they_are_called(self):
        row = held(
            "a",
            TRUTH,
            *read(
                ("#a02525", "red", 0.4), ("#98301f", "red-orange", 0.36), ("#c8c6c0", "white", 0.24)
            ),
        )
        np.testing.assert_allclose(row.differences, 0, atol=1e-6)
        np.testing.assert_allclose(row.shares, (0.06, -0.06), atol=1e-9)
        self.assertAlmostEqual(row.foliage, 0.03)

    def test_a_colour_that_was_not_found_lacks_all_of_its_share(self):
        row = held("a", TRUTH, *read(("#a02525", "red", 1.0), scheme="analogous"))
        np.testing.assert_allclose(row.shares, (0.3, -0.3), atol=1e-9)
        self.assertGreater(row.differences[1], 8)
        told = summary([row])
        self.assertEqual(
            (told["within_8"], told["share_within_5"], told["schemes_right"]), (0.5, 0.0, 0)
        )


class Cast(unittest.TestCase):
    """Under another light a card corrects every picture, those traced without one, too."""

    def test_a_card_is_stood_beside_a_piece_that_has_none(self):
        self.assertEqual(with_card(frame_at(FOLDER / "00-front.jpg")).truth, frame(0).truth)
        self.assertNotIn("card", frame(22).truth)
        taken = take(with_card(frame(22)), Shot(code=CODE, kelvin=4000.0))
        self.assertEqual(analyse(taken.data).scene.light, "card")

    def test_what_has_no_room_for_one_is_left_out(self):
        self.assertRaises(NoRoom, with_card, frame(27))
        self.assertIsNone(coloured(FOLDER / "27-front.jpg", 4000.0))
