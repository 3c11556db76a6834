"""Plots: where things stand, and that nothing is said by the drawing alone."""

import math
import re
import unittest
from xml.etree import ElementTree

from hypothesis import given
from hypothesis import strategies as st

from heath.drawing.plots import (
    MARKS,
    Axis,
    Dot,
    Level,
    Row,
    Step,
    axis_over,
    bars,
    course,
    nice_ticks,
    scatter,
    strip,
    table_of,
)


def shapes(plot, tag):
    """The attributes of a plot's shapes of one kind, in order."""
    return [dict(e.attrib) for e in ElementTree.fromstring(plot.svg).iter(tag)]


class Ticks(unittest.TestCase):
    def test_steps_are_one_two_or_five(self):
        # Heckbert, "Nice numbers for graph labels", Graphics Gems (1990).
        self.assertEqual(nice_ticks(0, 10), (0, 5, 10))
        self.assertEqual(nice_ticks(-3, 5), (-2, 0, 2, 4))
        self.assertEqual(nice_ticks(0.0013, 0.0042), (0.002, 0.003, 0.004))
        self.assertEqual(nice_ticks(4, 4), (4,))

    def test_one_tick_alone_tells_no_scale(self):
        # steps of .5 would leave .5 alone between these ends
        self.assertEqual(nice_ticks(0.13, 0.95), (0.2, 0.4, 0.6, 0.8))

    @given(low=st.floats(-1e6, 1e6), span=st.floats(1e-3, 1e6))
    def test_ticks_lie_inside_and_are_few(self, low, span):
        ticks = nice_ticks(low, low + span)
        self.assertLessEqual(len(ticks), 8)
        for tick in ticks:
            self.assertGreaterEqual(tick, low - 1e-6 * span - 1e-6)
            self.assertLessEqual(tick, low + span + 1e-6 * span + 1e-6)

    def test_a_scale_has_room_on_both_sides(self):
        axis = axis_over([10.0, 20.0])
        self.assertAlmostEqual(axis.low, 9.2)
        self.assertAlmostEqual(axis.high, 20.8)
        self.assertEqual(axis.place(99.0, 0, 100), 100)  # beyond the scale at its end


class Strip(unittest.TestCase):
    def test_alike_marks_stand_over_one_another(self):
        plot = strip("Marks", [Row("Column", tuple(Dot(70.0, f"p{n}") for n in range(3)))], MARKS)
        dots = shapes(plot, "circle") or shapes(plot, "{http://www.w3.org/2000/svg}circle")
        self.assertEqual(len({d["cx"] for d in dots}), 1)
        heights = sorted(float(d["cy"]) for d in dots)
        self.assertAlmostEqual(heights[1] - heights[0], 6.4)

    def test_a_higher_mark_stands_further_right_and_the_band_between_its_edges(self):
        row = Row("Height", (Dot(1.0, "a"), Dot(2.0, "b")), (1.0, 1.5, 2.0, math.inf))
        plot = strip("Height", [row], Axis(0.0, 4.0, ()))
        left, right = (float(d["cx"]) for d in shapes(plot, "circle"))
        self.assertLess(left, right)
        limit, ideal = shapes(plot, "rect")
        start, end = (float(ideal["x"]), float(ideal["x"]) + float(ideal["width"]))
        self.assertLess(float(limit["x"]), start)
        self.assertAlmostEqual(right, end, delta=6.4)  # the dot at 2 stands at the band's upper end
        # a side without end reaches to the end of the scale
        self.assertAlmostEqual(float(limit["x"]) + float(limit["width"]), 606, delta=0.1)

    def test_names_are_escaped_and_dots_lead_on(self):
        plot = strip("<x>", [Row("<b>", (Dot(5.0, '"5"', "/pieces/1/"),))], MARKS)
        self.assertIn("&lt;b&gt;", plot.svg)
        self.assertEqual(shapes(plot, "a")[0]["href"], "/pieces/1/")
        self.assertNotIn("<b>", table_of(plot))

    def test_the_table_says_all_that_is_drawn(self):
        row = Row("Column", (Dot(70.0, "Ada: 70"), Dot(60.0, "Bo: 60")))
        self.assertIn("Ada: 70; Bo: 60", table_of(strip("Marks", [row], MARKS)))


class Course(unittest.TestCase):
    STEPS = (Step(60.0, "first: 60", 4.0), Step(None, "second: no mark"), Step(80.0, "third: 80"))

    def test_what_was_not_measured_is_a_gap_and_no_nought(self):
        plot = course("Marks", self.STEPS, MARKS)
        self.assertEqual(len(shapes(plot, "circle")), 2)
        self.assertIn(">–</text>", plot.svg)
        self.assertIn("second: no mark", table_of(plot))

    def test_more_is_higher(self):
        first, second = (
            float(d["cy"]) for d in shapes(course("Marks", self.STEPS, MARKS), "circle")
        )
        self.assertGreater(first, second)

    def test_bars_are_filled_where_the_rule_is_held(self):
        plot = bars("Rim", (Step(10.0, "a"), Step(9.0, "b"), Step(8.9, "c"), Step(0.0, "d")), 10.0)
        self.assertEqual(
            [b["class"] for b in shapes(plot, "rect")], ["held", "held", "missed", "missed"]
        )
        tall = [float(b["height"]) for b in shapes(plot, "rect")]
        self.assertAlmostEqual(tall[0] / tall[2], 10 / 8.9, places=2)


class Scatter(unittest.TestCase):
    def test_level_lines_and_slope(self):
        plot = scatter(
            "Differences",
            [(60.0, Dot(-4.0, "Ada")), (80.0, Dot(2.0, "Bo"))],
            Axis(50.0, 90.0, ((60.0, "60"),), "mean"),
            Axis(-10.0, 10.0, ((0.0, "0"),), "difference"),
            (Level(0.0, "none", reach=2.0, dashed=True),),
            (-8.0, 8.0),
        )
        low, high = (float(d["cy"]) for d in shapes(plot, "circle"))
        self.assertGreater(low, high)
        self.assertIn('stroke-dasharray="5 3"', plot.svg)
        # the shaded interval of 2 on either side is a fifth of the scale of 20
        shade = shapes(plot, "rect")[0]
        self.assertAlmostEqual(float(shade["height"]), 0.2 * (226 - 20), places=1)
        slope = re.findall(r'd="M44.0 ([\d.]+)L464.0 ([\d.]+)"[^>]*stroke-width="1.6"', plot.svg)
        self.assertGreater(float(slope[0][0]), float(slope[0][1]))
        self.assertIn("<td>−4.0</td>".replace("−", "-"), table_of(plot))
