"""The one way from a photograph to a mark, and advice that has been tried before it is given."""

import math
import re
import unittest
from dataclasses import replace
from unittest import mock

from juniper import VERSION
from juniper.assessment import (
    PieceView,
    Word,
    analyse,
    assess,
    brief_by_card,
    measured_view,
    view_of,
)
from juniper.camera import frame
from juniper.measures import surface_of, warm_start
from juniper.photograph import decode, read_with_copies
from juniper.rules import (
    FORMS,
    Band,
    Brief,
    Ceiling,
    Override,
    judge,
    read_rule_set,
    school,
    school_slugs,
)
from juniper.rules.advice import ADVICE
from juniper.rules.tests.test_pinned import HEAD, RULE
from juniper.scene import StemChange
from juniper.scene.tests.test_trying import TIP, piece

BRIEF = Brief(form="", container_height_cm=25.0, container_width_cm=20.0)
PICTURES = (6, 33)  # of the roll: glass, with twin tips


def a_view(name="front", **changed) -> PieceView:
    """The drawn piece of the trials' tests: a container of 100 pixels, a stem of 200."""
    trial = piece()
    parts = {
        "scene": trial.scene,
        "raster": trial.raster,
        "datum": trial.datum,
        "focal": trial.focal,
        "stems": trial.stems,
    } | changed
    return PieceView(
        name,
        parts["scene"],
        parts["raster"],
        surface_of(parts["raster"]),
        parts["datum"],
        parts["focal"],
        parts["stems"],
    )


def rules_of(*rows, bands=()):
    text = "".join(
        RULE.format(code=code, title=title, family="proportion", measure=measure, weight=weight)
        for code, title, measure, weight in rows
    )
    rules = read_rule_set(HEAD + text)
    return replace(
        rules,
        rules=tuple(
            replace(r, band=b) if b else r
            for r, b in zip(rules.rules, bands or [None] * len(rules.rules), strict=True)
        ),
    )


SHORT, CLEAR = Band(0.5, 1.0, 1.5, 2.0), Band(0.55, 0.75, math.inf, math.inf)
TALL = rules_of(("tall", "Tall", "height_ratio", 3), bands=[SHORT])


def tall_and_clear(tall: float, clear: float):
    """A rule that wants the piece shorter, and one that wants its top to stand clear, by their
    weights.
    """
    rows = (("tall", "Tall", "height_ratio", tall), ("clear", "Stands clear", "clearance", clear))
    return rules_of(*rows, bands=[SHORT, CLEAR])


class Reading(unittest.TestCase):
    def test_a_photograph_is_decoded_and_its_card_searched_once(self):
        data = frame(12).jpeg
        for way in (analyse, read_with_copies):
            with (
                mock.patch.object(decode, "_load", wraps=decode._load) as loaded,
                mock.patch.object(decode, "find_card", wraps=decode.find_card) as searched,
            ):
                way(data)
            self.assertEqual((loaded.call_count, searched.call_count), (1, 1), way)

    def test_the_same_bytes_give_the_same_marks(self):
        marks = [
            assess(
                (analyse(frame(12).jpeg).as_view(),), BRIEF, school("classical-line-mass")
            ).verdict
            for _ in range(2)
        ]
        self.assertEqual(marks[0], marks[1])

    def test_it_says_by_which_core(self):
        self.assertEqual(analyse(frame(12).jpeg).version, VERSION)


class Views(unittest.TestCase):
    def test_handles_and_stems_put_by_hand_lie_over_what_was_found(self):
        trial = piece()
        drawn = StemChange(
            "draw", None, tip=(260.0, 150.0), bend=(230.0, 225.0), foot=(205.0, 300.0)
        )
        view = view_of(
            trial.scene,
            trial.raster,
            surface_of(trial.raster),
            handles={"rim": (200.0, 310.0), "focal": (1.0, 2.0)},
            changes=(drawn,),
            stems=trial.stems,
        )
        self.assertEqual(
            (view.datum.rim, view.datum.base, view.focal, view.focal_put),
            ((200.0, 310.0), trial.datum.base, (1.0, 2.0), True),
        )
        self.assertEqual(len(view.stems), 2)
        bare = view_of(trial.scene, trial.raster, surface_of(trial.raster), stems=trial.stems)
        self.assertEqual(
            (bare.datum, bare.focal, bare.focal_put), (trial.scene.datum, trial.scene.focal, False)
        )

    def test_one_view_is_measured_and_judged(self):
        view, rules = a_view(), school("classical-line-mass")
        done = assess((view,), BRIEF, rules)
        found = measured_view(view, BRIEF)
        self.assertEqual(done.findings.by_name, found.by_name)
        self.assertEqual(done.verdict.lines, judge(found, rules, BRIEF).lines)

    def test_the_side_tells_the_depth_and_the_back_what_is_worse(self):
        rules, view = school("classical-line-mass"), a_view()
        self.assertFalse(assess((view,), BRIEF, rules).findings["behind_share"].measured)
        self.assertTrue(
            assess((view, a_view("side")), BRIEF, rules).findings["behind_share"].measured
        )
        bare = piece().raster
        labels = bare.labels.copy()
        labels[240:300, 205:] = 0  # the back has a hole on its right
        back = a_view("back", raster=replace(bare, labels=labels))
        for viewpoint, seen in (("front only", "front"), ("all round", "back")):
            done = assess((view, back), replace(BRIEF, viewpoint=viewpoint), rules)
            self.assertEqual(done.findings["left_weight_share"].view, seen)

    def test_an_unchanged_copy_of_the_rules_changes_nothing(self):
        word = Word(
            (Override("visible-height", 3.0, "as seen"),),
            {"condition": 1.0},
            (Ceiling("", 20.0, "late"), Ceiling("finish", 2.0, "wire")),
        )
        done = assess((a_view(),), BRIEF, school("classical-line-mass"), word)
        again = done.under(replace(school("classical-line-mass"), version="99"))
        self.assertEqual((done.verdict.score, again.verdict.score), (20.0, 20.0))
        self.assertEqual(again.verdict.lines, done.verdict.lines)
        self.assertEqual(again.verdict.next_cut, done.verdict.next_cut)


class OwnVessel(unittest.TestCase):
    def test_the_card_tells_another_container_off(self):
        brief = Brief(container_height_cm=24.0, container_width_cm=12.0)
        for pixels, per_cm, high, wide in (
            (360.0, 10.0, 36.0, 18.0),  # half as high again
            (264.0, 10.0, 24.0, 12.0),  # a tenth: the same one
            (265.0, 10.0, 26.5, 13.2),
            (360.0, None, 24.0, 12.0),
            (5000.0, 10.0, 24.0, 12.0),  # five metres are no vase
        ):
            with self.subTest(pixels=pixels, per_cm=per_cm):
                told = brief_by_card(brief, pixels, per_cm)
                self.assertEqual((told.container_height_cm, told.container_width_cm), (high, wide))

    def test_of_a_container_without_a_size_nothing_is_told(self):
        self.assertEqual(brief_by_card(Brief(), 100.0, 10.0), Brief())


class Tried(unittest.TestCase):
    """A stem of 200 pixels over a container of 100, which is 25 cm high: 50 cm stand over the
    rim.
    """

    def assessed(self, rules, **changed):
        return assess((a_view(**changed),), BRIEF, rules)

    def test_the_cut_gives_what_it_promises(self):
        done = self.assessed(TALL)
        cut = done.verdict.next_cut
        self.assertAlmostEqual(cut.cm, 12.5)  # 2.0 less 1.5 of 25 cm
        self.assertGreater(cut.gain, 50)
        self.assertAlmostEqual(cut.ghost, 1.5)
        self.assertEqual(cut.worse, ())
        self.assertEqual(cut.cuts, ((done.findings.top, 12.5),))

    def test_what_it_makes_worse_is_named(self):
        cut = self.assessed(tall_and_clear(6, 1)).verdict.next_cut
        self.assertEqual(len(cut.worse), 1)
        self.assertRegex(cut.text, r"these score lower: stands clear \(\d+\.\d to \d+\.\d\)\.")
        self.assertGreater(cut.gain, 0)

    def test_a_cut_that_lowers_the_mark_is_not_advised(self):
        cut = self.assessed(tall_and_clear(1, 6)).verdict.next_cut
        self.assertIsNone(cut.cm)
        self.assertIn("Leave the height", cut.text)
        self.assertLess(cut.gain, 0)

    def test_nothing_is_tried_while_a_handle_moves(self):
        view = a_view()
        start = warm_start(view.surface, view.scene, view.datum, view.focal, BRIEF.form)
        moving = assess((view,), BRIEF, TALL, start=start)
        self.assertIsNone(moving.verdict.next_cut.gain)
        # where the handle has not moved yet, every value is that of the resting piece
        rests = measured_view(view, BRIEF)
        for name, found in moving.own[view.name].by_name.items():
            self.assertEqual(
                getattr(found, "value", None), getattr(rests.by_name[name], "value", None), name
            )

    def test_a_leaning_stem_is_cut_along_itself(self):
        trial = piece()
        # 80 aside over 200: 21.8 degrees
        stem = replace(trial.stems[0], foot=(120.0, 300.0), bend=(160.0, 200.0))
        done = self.assessed(TALL, stems=(stem,))
        self.assertAlmostEqual(done.findings.lean, math.degrees(math.atan2(80, 200)), delta=0.1)
        self.assertAlmostEqual(done.verdict.next_cut.cm, 13.5)  # 12.5 / cos 21.8 degrees = 13.46
        self.assertEqual(TIP, trial.stems[0].tip)


class Sweep(unittest.TestCase):
    """No impossible advice comes out, whatever the school, the form and the picture."""

    def test_every_school_and_form_on_pictures_of_the_roll(self):
        for number in PICTURES:
            seen = analyse(frame(number).jpeg)
            view = seen.as_view()
            for form in FORMS:
                brief = Brief(
                    form=form,
                    container_height_cm=24.0,
                    container_width_cm=14.0,
                    viewpoint="front only",
                )
                found = measured_view(view, brief)
                for slug in school_slugs():
                    with self.subTest(picture=number, form=form, school=slug):
                        self.sound(judge(found, school(slug), brief), found, seen)

    def sound(self, verdict, found, seen):
        texts = [verdict.next_cut.text, *(x.advice for x in verdict.lines)]
        for text in texts:
            self.assertNotRegex(text, r"[{}]|nan|inf\b|[-−]\d[.\d]* cm")
            for length in re.findall(r"(\d+\.\d) cm", text):
                self.assertLessEqual(float(length), ADVICE.longest)
        if found.needs_check:
            self.assertIsNone(verdict.next_cut.cm)
        for line in verdict.lines:
            added = line.addition
            if added is None:
                continue
            heavy = "left" if found["left_weight_share"].value > 0.5 else "right"
            if line.rule.measure in ("left_weight_share", "heavier_share"):
                leads = (
                    line.rule.measure == "heavier_share" and line.finding.value < line.rule.band.low
                )
                self.assertEqual(added.side == heavy, leads)
            for x, y in added.places:
                self.assertTrue(
                    0 <= x <= seen.photograph.width and 0 <= y <= seen.photograph.height
                )


if __name__ == "__main__":
    unittest.main()
