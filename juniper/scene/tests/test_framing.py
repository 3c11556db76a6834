import unittest

import cv2
import numpy as np

from juniper.photograph.quality import CORRECT, RETAKE
from juniper.scene.container.datum import given_datum
from juniper.scene.framing import Framing, edge_openness, framing, framing_advice, level_lines
from juniper.scene.parts import Label

CALM = Framing(roll_deg=0.5, looking_down_deg=2.0, cut=(), size=0.8, crowding=0.0)


def drawn(openness=0.2, lean=0.0, half=70, height=180):
    """A cylinder whose foot ellipse has the given openness, leaning by degrees: (picture, container
    mask, datum).
    """
    mask = np.zeros((640, 480), np.uint8)
    base, rim = (240, 560), (240, 560 - height)
    cv2.rectangle(mask, (base[0] - half, rim[1]), (base[0] + half, base[1]), 1, -1)
    cv2.ellipse(mask, base, (half, round(half * openness)), 0, 0, 360, 1, -1)
    turn = cv2.getRotationMatrix2D(base, -lean, 1)
    mask = cv2.warpAffine(mask, turn, (480, 640), flags=cv2.INTER_NEAREST)
    picture = np.where(mask[..., None] > 0, (60, 90, 150), (205, 200, 190)).astype(np.uint8)
    picture = cv2.GaussianBlur(picture, (0, 0), 1.0)

    def at(x, y):
        return tuple(float(v) for v in turn @ [x, y, 1])

    return (
        picture,
        mask > 0,
        given_datum(at(*rim), at(*base), at(rim[0] - half, rim[1]), at(rim[0] + half, rim[1])),
    )


class Openness(unittest.TestCase):
    """A circle seen from an angle is an ellipse whose axes' ratio is the sine of that angle
    (geometry).
    """

    def test_of_drawn_feet(self):
        for openness in (0.1, 0.2, 0.35):
            for lean in (0.0, 5.0):
                _, mask, datum = drawn(openness, lean)
                with self.subTest(openness=openness, lean=lean):
                    self.assertAlmostEqual(edge_openness(mask, datum), openness, delta=0.05)

    def test_nothing_is_said_of_a_speck(self):
        _, mask, datum = drawn()
        small = np.zeros_like(mask)
        small[550:556, 238:244] = True
        self.assertIsNone(edge_openness(small, datum))


class Lines(unittest.TestCase):
    def test_lean_of_a_tables_edge(self):
        for lean in (-7.0, 0.0, 3.0, 12.0):
            picture = np.full((640, 480, 3), 200, np.uint8)
            rise = 240 * np.tan(np.radians(lean))
            cv2.fillPoly(
                picture,
                [
                    np.array(
                        [[0, round(420 - rise)], [480, round(420 + rise)], [480, 640], [0, 640]]
                    )
                ],
                (110, 80, 50),
            )
            self.assertAlmostEqual(level_lines(picture), lean, delta=0.6)

    def test_too_few_lines_say_nothing(self):
        self.assertIsNone(level_lines(np.full((640, 480, 3), 180, np.uint8)))

    def test_stems_are_no_lines(self):
        picture = np.full((640, 480, 3), 200, np.uint8)
        plant = np.zeros((640, 480), bool)
        cv2.line(picture, (200, 60), (260, 520), (30, 90, 30), 5)
        plant[40:540, 180:280] = True
        self.assertIsNotNone(level_lines(picture))
        self.assertIsNone(level_lines(picture, plant))


class Frames(unittest.TestCase):
    def seen(self, plant):
        picture, mask, datum = drawn()
        labels = np.where(mask, Label.CONTAINER, 0).astype(np.uint8)
        labels[plant] = Label.PLANT
        picture[labels == Label.PLANT] = (40, 110, 40)
        return framing(labels, picture, datum)

    def test_size_and_cut(self):
        whole = self.seen(np.s_[60:380, 120:360])
        self.assertEqual(whole.cut, ())
        self.assertAlmostEqual(whole.size, (573 - 60) / 640, delta=0.01)
        self.assertEqual(self.seen(np.s_[0:380, 120:360]).cut, ("top",))
        self.assertEqual(self.seen(np.s_[200:380, 120:480]).cut, ("right",))

    def test_a_scrap_at_the_edge_is_no_part_of_the_piece(self):
        labels_plant = np.zeros((640, 480), bool)
        labels_plant[60:380, 120:360] = True
        labels_plant[0:3, 20:30] = True
        self.assertEqual(self.seen(labels_plant).cut, ())

    def test_advice_names_what_to_do(self):
        self.assertEqual(framing_advice(CALM), ())
        cases = {
            "cut-off": {"cut": ("top",)},
            "small": {"size": 0.2},
            "crowded": {"crowding": 0.05},
            "roll": {"roll_deg": 8.0},
            "above": {"looking_down_deg": 15.0},
            "below": {"looking_down_deg": -9.0, "confidence": 0.3},
        }
        for code, change in cases.items():
            advice = framing_advice(Framing(**{**CALM.__dict__, **change}))
            self.assertEqual([a.code for a in advice], [code])
            self.assertRegex(advice[0].text, r"^[A-Z].*\.$")

    def test_a_little_roll_is_corrected_and_much_is_not(self):
        use = {
            deg: framing_advice(Framing(**{**CALM.__dict__, "roll_deg": deg}))[0].use
            for deg in (6.0, -20.0)
        }
        self.assertEqual(use, {6.0: CORRECT, -20.0: RETAKE})

    def test_from_above_there_is_no_roll(self):
        self.assertEqual(
            framing_advice(
                Framing(**{**CALM.__dict__, "roll_deg": 30.0, "looking_down_deg": 40.0}), "top"
            ),
            (),
        )
