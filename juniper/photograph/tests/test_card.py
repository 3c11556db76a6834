import io
import re
import unittest

import cv2
import numpy as np
from PIL import Image

from juniper.camera import Shot, frame, take
from juniper.colour.spaces import linear_from_srgb
from juniper.evaluation.quality_trials import card_case
from juniper.photograph import find_card, read_photograph
from juniper.photograph.card import STANDING_CM
from juniper.photograph.card_layout import (
    LAYOUTS,
    card_reflectance,
    card_svg,
    grey_value,
    layout_of,
)
from juniper.photograph.code import LETTERS, code_of, new_code, payload, shown, typed_code


class Code(unittest.TestCase):
    def test_there_and_back(self):
        for _ in range(50):
            code = new_code()
            self.assertEqual(code_of(payload(code)), code)
            self.assertEqual(typed_code(shown(code).lower()), code)

    def test_letters_taken_for_others_are_understood(self):
        # Crockford's base 32: I and L are read as 1, O as 0 (published with the alphabet).
        self.assertEqual(typed_code("io l2-3456"), "10123456")
        self.assertIsNone(typed_code("UUUUUUUU"))
        self.assertIsNone(typed_code("short"))

    def test_any_one_wrong_letter_is_noticed(self):
        text = payload("K7Q2M9XA")
        for i in range(2, len(text)):
            for letter in LETTERS:
                if letter != text[i]:
                    self.assertIsNone(code_of(text[:i] + letter + text[i + 1 :]))

    def test_other_symbols_are_none_of_ours(self):
        for text in (
            "",
            "https://example.org",
            "JH",
            "JHK7Q2M9XA",
            payload("K7Q2M9XA") + "0",
            payload("K7Q2M9XA").lower(),
        ):
            self.assertIsNone(code_of(text))


class Layout(unittest.TestCase):
    def test_sizes_are_those_of_paper(self):
        # ISO 216: A6 is 105 x 148 mm, A5 148 x 210 mm.
        self.assertEqual((LAYOUTS["A6"].width, LAYOUTS["A6"].height), (105, 148))
        self.assertAlmostEqual(LAYOUTS["A5"].height, 210, delta=0.1)
        self.assertLessEqual(LAYOUTS["A5"].width, 149.1)

    def test_nothing_overlaps_or_leaves_the_card(self):
        for card in LAYOUTS.values():
            boxes = (
                [(x, y, s, s) for x, y, s in card.markers.values()]
                + [(*card.qr, card.qr[2])]
                + card.greys
            )
            for i, (x, y, w, h) in enumerate(boxes):
                self.assertTrue(x >= 0 and x + w <= card.width and y >= 0 and y + h <= card.height)
                for ox, oy, ow, oh in boxes[:i]:
                    apart = (
                        x + w <= ox + 1e-6
                        or ox + ow <= x + 1e-6
                        or y + h <= oy + 1e-6
                        or oy + oh <= y + 1e-6
                    )
                    self.assertTrue(apart, (card.name, i))
            self.assertTrue(all(layout_of(n) is card for n in card.markers))
        self.assertIsNone(layout_of(17))

    def test_a_centimetre_of_the_scale_is_a_centimetre(self):
        for size in LAYOUTS:
            svg = card_svg("K7Q2M9XA", "A <brief>", "A & B", size)
            self.assertIn("A &lt;brief&gt;", svg)
            self.assertIn("K7Q2 M9XA", svg)
            long = [
                float(m)
                for m in re.findall(
                    r"M([\d.]+) [\d.]+v-" + ("4.50" if size == "A6" else "6.40"), svg
                )
            ]
            np.testing.assert_allclose(np.diff(long[:8]), 10.0, atol=0.02)

    def test_grey_levels(self):
        # sRGB of neutral L*: 53.585 is level 128 (CIE 15 and IEC 61966-2-1, as tabulated).
        self.assertEqual([grey_value(v) for v in (0, 53.585, 100)], [0, 128, 255])


class Finding(unittest.TestCase):
    def flat(self, code="K7Q2M9XA", size="A6", gain=(1.0, 1.0, 1.0)):
        """The card straight on, printed on a grey wall, with some margin."""
        sheet = card_reflectance(code, size, 6)[..., None] * 0.86 * np.array(gain)
        out = np.full((sheet.shape[0] + 300, sheet.shape[1] + 300, 3), 0.2 * np.array(gain))
        out[150:-150, 150:-150] = sheet
        level = np.where(out <= 0.0031308, 12.92 * out, 1.055 * out ** (1 / 2.4) - 0.055)
        return np.clip(np.round(level * 255), 0, 255).astype(np.uint8)

    def test_straight_on(self):
        for size in LAYOUTS:
            card = find_card(self.flat(size=size))
            self.assertEqual((card.size, card.code, card.markers), (size, "K7Q2M9XA", 4))
            self.assertAlmostEqual(card.px_per_cm, 60.0, delta=0.3)
            self.assertAlmostEqual(card.roll_deg, 0.0, delta=0.2)
            np.testing.assert_allclose(card.corners[0], (150, 150), atol=1.5)

    def test_gains_undo_a_cast(self):
        card = find_card(self.flat(gain=(1.0, 0.8, 0.5)))
        np.testing.assert_allclose(card.white.gains, (1.0, 1.25, 2.0), rtol=0.03)

    def test_perspective_is_undone(self):
        picture = self.flat()
        h, w = picture.shape[:2]
        corners = np.array([[0, 0], [w, 0], [w, h], [0, h]], np.float32)
        askew = np.array([[40, 60], [w - 120, 10], [w - 90, h - 30], [10, h - 150]], np.float32)
        turn = cv2.getPerspectiveTransform(corners, askew)
        card = find_card(cv2.warpPerspective(picture, turn, (w, h), borderValue=(80, 80, 80)))
        places = np.array(
            [[[150 + 60 * 2.0, 150 + 60 * 3.0], [150 + 60 * 9.0, 150 + 60 * 12.0]]], np.float64
        )
        seen = cv2.perspectiveTransform(places, turn)[0]
        np.testing.assert_allclose(card.on_card(seen), [(2.0, 3.0), (9.0, 12.0)], atol=0.03)

    def test_a_partly_hidden_card_gives_what_it_can(self):
        whole = self.flat()
        upper = whole.copy()
        upper[150 + 540 :] = 90  # greys and lower markers gone
        card = find_card(upper)
        self.assertEqual((card.code, card.markers, card.white), ("K7Q2M9XA", 2, None))
        self.assertAlmostEqual(card.px_per_cm, 60.0, delta=1.2)
        lower = whole.copy()
        lower[: 150 + 560] = 90  # the symbol gone
        card = find_card(lower)
        self.assertEqual((card.code, card.markers), (None, 2))
        self.assertIsNotNone(card.white)
        symbol = np.full_like(whole, 200)
        symbol[310:700, 300:630] = whole[310:700, 300:630]
        card = find_card(symbol)
        self.assertEqual((card.code, card.px_per_cm, card.plane), ("K7Q2M9XA", None, None))

    def test_where_there_is_none_none_is_found(self):
        rng = np.random.default_rng(3)
        self.assertIsNone(find_card(rng.integers(0, 255, (600, 500, 3)).astype(np.uint8)))
        for number in range(22, 32, 2):
            pixels = np.asarray(Image.open(io.BytesIO(frame(number).jpeg)))
            self.assertIsNone(find_card(pixels), number)

    def test_depth_of_the_piece_is_in_the_uncertainty(self):
        # Handbook of the trade, section 8: a card at distance z that stands dz before the piece
        # reads long by dz/z.
        near, far = take(frame(17), Shot(code="K7Q2M9XA")), take(frame(20), Shot(code="K7Q2M9XA"))
        for picture in (near, far):
            pixels = np.asarray(Image.open(io.BytesIO(picture.data)))
            focal = picture.truth["camera"]["focal_px"] / max(pixels.shape)
            card = find_card(pixels, focal=focal)
            distance = picture.truth["camera"]["focal_px"] / picture.truth["card"]["px_per_cm"]
            self.assertAlmostEqual(card.scale_uncertainty, STANDING_CM / distance, delta=0.004)


class Trials(unittest.TestCase):
    """A few of the trials that `bin/trials card` and `bin/trials identity` make in full."""

    def test_scale_and_greys(self):
        for kind, most in (
            ("traced", 0.02),
            ("facing", 0.01),
            ("turned 20", 0.025),
            ("A5 facing", 0.01),
        ):
            trial = card_case((kind, 1))
            self.assertEqual(trial.identity, "right", kind)
            self.assertLess(abs(trial.scale_error), most, kind)
        self.assertLess(card_case(("cast", 1)).neutral, 3.0)

    def test_identity_is_right_or_missing_never_wrong(self):
        found = [card_case(("rough", seed)).identity for seed in range(4)]
        self.assertNotIn("wrong", found)
        self.assertIn("right", found)

    def test_the_photograph_is_corrected_by_it(self):
        warm = read_photograph(take(frame(10), Shot(code="K7Q2M9XA", kelvin=3200)).data)
        day = read_photograph(take(frame(10), Shot(code="K7Q2M9XA")).data)
        bare = read_photograph(take(frame(10), Shot(kelvin=3200)).data)
        plant = (
            cv2.resize(frame(10).labels, day.pixels.shape[1::-1], interpolation=cv2.INTER_NEAREST)
            == 3
        )

        def hue(photo):
            mean = linear_from_srgb(photo.pixels[plant] / 255).mean(0)
            return np.log(mean / mean.sum())

        off = np.abs(hue(warm) - hue(day)).max(), np.abs(hue(bare) - hue(day)).max()
        self.assertLess(off[0], 0.3 * off[1])
        # The card itself is painted out, so that it is taken for nothing else.
        x, y = (np.array(day.card.corners).mean(0) * day.scale).astype(int)
        self.assertGreater(day.pixels[y, x].min(), 60)
