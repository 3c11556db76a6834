"""From finding to mark, step by step: worked examples (arithmetic by hand) and properties that hold
for any figures.
"""

import math
import unittest
from dataclasses import replace
from functools import partial
from types import SimpleNamespace

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from juniper.measures import Measured, Missing
from juniper.rules import (
    Band,
    Brief,
    FaultyRuleSet,
    Override,
    judge,
    read_rule_set,
    school,
    write_rule_set,
)
from juniper.rules.document import Award, Cap, RuleSet
from juniper.rules.tests.test_rules import findings as unsure_findings
from juniper.rules.verdict import Ceiling, Line, group_of

RULE = """
[[rule]]
code = "{code}"
title = "{title}"
family = "{family}"
measure = "{measure}"
band = [1.0, 1.5, 2.0, 2.75]
weight = {weight}
taught = "As it is taught."
why = "It reads as one."
below = "Below."
above = "Above."
"""
HEAD = 'slug = "a-school"\nname = "A school"\nversion = "1"\nsource = "common practice"\n'
BRIEF = Brief(container_height_cm=20.0)
BAND = Band(1.0, 1.5, 2.0, 2.75)
findings = partial(unsure_findings, 0.0)


def rules_of(*rows) -> RuleSet:
    """A rule set of (code, family, measure, weight) rows, all with BAND."""
    return read_rule_set(
        HEAD
        + "".join(
            RULE.format(code=c, title=c.title(), family=f, measure=m, weight=w)
            for c, f, m, w in rows
        )
    )


TWO = rules_of(("tall", "proportion", "height_ratio", 3), ("wide", "balance", "width_ratio", 1))


class Lines(unittest.TestCase):
    def line(self, value, uncertainty=0.0):
        return judge(unsure_findings(uncertainty, height_ratio=value), TWO, BRIEF).lines[0]

    def test_score_and_state(self):
        # (2.75 - 2.15) / .75 = .8; (1.1 - 1.0) / .5 = .2.
        for value, score, state in (
            (1.5, 10, "met"),
            (2.0, 10, "met"),
            (2.15, 8, "near"),
            (1.1, 2, "near"),
            (1.0, 0, "missed"),
            (2.75, 0, "missed"),
            (0.2, 0, "missed"),
            (1.4999, 9.998, "near"),
            (2.0001, 9.9987, "near"),
        ):
            line = self.line(value)
            self.assertAlmostEqual(line.score, score, places=3, msg=value)
            self.assertEqual(line.state, state, value)
            self.assertEqual(
                line.advice, "" if state == "met" else "Below." if value < 1.5 else "Above."
            )

    def test_borderline_within_one_standard_uncertainty_of_any_edge(self):
        for edge in BAND.edges:
            for off, said in (
                (0.99, True),
                (-0.99, True),
                (1.01, False),
                (-1.01, False),
                (0.0, True),
            ):
                self.assertEqual(self.line(edge + 0.02 * off, 0.02).borderline, said, (edge, off))
        self.assertFalse(self.line(1.5, 0.0).borderline)

    @given(st.floats(0, 4), st.floats(0.001, 1))
    def test_a_score_lies_between_the_least_and_the_most_of_its_band(self, value, uncertainty):
        line = self.line(value, uncertainty)
        self.assertTrue(0 <= line.score <= 10)
        self.assertAlmostEqual(line.score, 10 * BAND.expected(value, uncertainty), places=6)


class Deviations(unittest.TestCase):
    def test_the_standard_deviation_of_a_score_against_numerical_integration(self):
        for band in (
            BAND,
            Band(0.35, 0.45, 0.55, 0.65),
            Band(0.45, 0.7, math.inf, math.inf),
            Band(-math.inf, -math.inf, 0.2, 0.45),
            Band(1, 1, 2, 2),
        ):
            for mean in (0.1, 0.3, 0.5, 0.9, 1.5, 1.75, 2.4, 3.0):
                for sd in (0.02, 0.08, 0.3):
                    x = np.linspace(mean - 9 * sd, mean + 9 * sd, 60001)
                    density = np.exp(-0.5 * ((x - mean) / sd) ** 2) / (sd * math.sqrt(2 * math.pi))
                    scores = np.array([band.score(v) for v in x])
                    first, second = (
                        np.trapezoid(scores * density, x),
                        np.trapezoid(scores**2 * density, x),
                    )
                    true = math.sqrt(max(0.0, second - first**2))
                    self.assertAlmostEqual(
                        band.deviation(mean, sd), true, places=3, msg=(band, mean, sd)
                    )

    def test_in_the_middle_of_a_narrow_band(self):
        # Band .35 to .65, ideal .45 to .55, value .50 with .08: 3.2 of 10 (by numerical
        # integration).
        self.assertAlmostEqual(
            10 * Band(0.35, 0.45, 0.55, 0.65).deviation(0.50, 0.08), 3.2, delta=0.05
        )
        self.assertEqual(BAND.deviation(1.7, 0.0), 0.0)

    @given(st.floats(-1, 4), st.floats(0.001, 2))
    def test_no_score_between_none_and_all_deviates_by_more_than_half(self, value, sd):
        mean, deviation = BAND.expected(value, sd), BAND.deviation(value, sd)
        self.assertTrue(0 <= deviation <= math.sqrt(mean * (1 - mean)) + 1e-4)


class Groups(unittest.TestCase):
    def group(self, *rows):
        """The mark of a family of (score, weight, cap) rows."""
        lines = []
        for n, (score, weight, cap) in enumerate(rows):
            rule = replace(TWO.rules[0], code=f"r{n}", title=f"Rule {n}", weight=weight, cap=cap)
            state = "not measured" if score is None else "met"
            lines.append(
                Line(rule, Measured("x", "proportion", 1.0, "ratio"), score, state, False, "", "")
            )
        return group_of("proportion", tuple(lines))

    def test_a_weighted_mean_of_what_was_measured(self):
        # (8 x 3 + 4 x 1) / 4 = 7.
        group = self.group((8, 3, None), (4, 1, None), (None, 5, None))
        self.assertEqual(
            (group.score, group.weight, group.capped_by, group.uncapped), (7, 4, "", None)
        )
        self.assertIsNone(self.group((None, 5, None)).score)
        self.assertIsNone(group_of("colour", ()))

    def test_a_cap_holds_below_its_edge_and_not_at_it(self):
        cap = Cap(below=5, at=4)
        for score, whole, title in ((5, 8.75, ""), (4.999, 4, "Rule 0"), (0, 4, "Rule 0")):
            group = self.group((score, 1, cap), (10, 3, None))
            self.assertAlmostEqual(group.score, whole)
            self.assertEqual(group.capped_by, title)
        # Uncapped it would be (4.999 + 30) / 4.
        self.assertAlmostEqual(self.group((4.999, 1, cap), (10, 3, None)).uncapped, 34.999 / 4)

    def test_a_cap_never_raises_and_the_lowest_counts(self):
        self.assertAlmostEqual(self.group((1, 1, Cap(5, 4)), (2, 1, None)).score, 1.5)
        two = self.group((1, 1, Cap(5, 4)), (2, 1, Cap(5, 3)), (10, 9, None))
        self.assertEqual((two.score, two.capped_by), (3, "Rule 1"))
        # at the cap already
        self.assertEqual(self.group((4, 1, Cap(5, 4)), (4, 1, None)).capped_by, "")


class Enough(unittest.TestCase):
    """How much of the weight was measured and answered, and that less than four fifths of it earns
    no award.
    """

    rules = replace(
        rules_of(
            ("tall", "proportion", "height_ratio", 4),
            ("wide", "balance", "width_ratio", 1),
            ("low", "balance", "weight_height", 0),
        ),
        awards=(Award("distinction", 80.0),),
    )

    def verdict(self, *missing, applies=True, **more):
        found = {
            n: 1.7 for n in ("height_ratio", "width_ratio", "weight_height") if n not in missing
        }
        gone = [Missing(n, "balance", "ratio", "it was not seen", applies) for n in missing]
        return judge(findings(**found).joined(*gone), self.rules, BRIEF, **more)

    def test_four_fifths_are_enough_and_less_is_not(self):
        whole = self.verdict()
        self.assertEqual((whole.measured, whole.called_for, whole.award), (5, 5, "distinction"))
        four = self.verdict("width_ratio")
        self.assertEqual(
            (four.measured, four.called_for, four.enough, four.award, round(four.score)),
            (4, 5, True, "distinction", 100),
        )
        one = self.verdict("height_ratio")
        self.assertEqual(
            (one.measured, one.called_for, one.enough, one.award, round(one.score)),
            (1, 5, False, "", 100),
        )
        none = self.verdict("height_ratio", "width_ratio", "weight_height")
        self.assertEqual((none.measured, none.enough, none.award, none.score), (0, False, "", None))

    def test_what_gives_no_occasion_or_is_waived_is_not_called_for(self):
        without = self.verdict("height_ratio", applies=False)
        self.assertEqual(
            (without.measured, without.called_for, without.award), (1, 1, "distinction")
        )
        self.assertEqual(
            (without.lines[0].state, without.lines[0].arithmetic),
            ("does not apply", "Does not apply: it was not seen."),
        )
        waived = self.verdict("height_ratio", overrides=(Override("tall", None, "agreed"),))
        self.assertEqual((waived.measured, waived.called_for, waived.award), (1, 1, "distinction"))

    def test_a_rule_without_weight_is_shown_and_moves_nothing(self):
        shown = judge(
            findings(height_ratio=1.7, width_ratio=1.7, weight_height=9.0), self.rules, BRIEF
        )
        line = shown.lines[2]
        self.assertEqual((line.score, line.state), (0, "missed"))
        self.assertEqual(
            (round(shown.score), shown.measured, shown.called_for, shown.groups[1].score),
            (100, 5, 5, 10),
        )

    def test_a_view_that_the_brief_does_not_ask_for(self):
        rules = rules_of(
            ("deep", "balance", "behind_share", 1), ("tall", "proportion", "height_ratio", 4)
        )
        gone = Missing("behind_share", "balance", "share", "it needs the side view")
        found = findings(height_ratio=1.7).joined(gone)
        self.assertEqual(judge(found, rules, BRIEF).called_for, 4)
        asked = judge(found, rules, replace(BRIEF, views=("front", "side")))
        self.assertEqual((asked.called_for, asked.lines[0].state), (5, "not measured"))


class Traits(unittest.TestCase):
    def test_what_a_brief_says_of_itself(self):
        brief = Brief(
            "fan",
            container_height_cm=20,
            container_width_cm=10,
            scheme="triadic",
            dominant="line",
            vessel="clear",
            material="no flowers",
        )
        self.assertEqual(
            brief.traits,
            {
                "fan",
                "front only",
                "symmetrical",
                "tall container",
                "triadic scheme",
                "dominant line",
                "clear container",
                "no flowers",
            },
        )
        self.assertEqual(
            replace(brief, form="crescent", vessel="basket").traits & {"asymmetrical", "basket"},
            {"asymmetrical", "basket"},
        )

    def test_free_asks_for_neither_kind_of_balance(self):
        self.assertEqual(Brief("free").traits, {"free", "front only"})


class Totals(unittest.TestCase):
    def verdict(self, tall, wide, uncertainty=0.0, **more):
        return judge(
            unsure_findings(uncertainty, height_ratio=tall, width_ratio=wide), TWO, BRIEF, **more
        )

    def test_families_by_the_weight_of_what_counts_in_them(self):
        # (8 x 3 + 2 x 1) / 40.
        self.assertAlmostEqual(self.verdict(2.15, 1.1).score, 65)
        self.assertAlmostEqual(self.verdict(2.15, None).score, 80)
        self.assertIsNone(self.verdict(None, None).score)

    def test_uncertainty_by_weights_in_quadrature_over_families(self):
        one, two = (10 * BAND.deviation(v, 0.1) for v in (2.15, 1.1))
        self.assertAlmostEqual(
            self.verdict(2.15, 1.1, 0.1).uncertainty, 10 * math.hypot(3 * one, two) / 4, places=6
        )
        self.assertEqual(self.verdict(2.15, 1.1).uncertainty, 0)

    def test_within_a_family_uncertainties_add_up(self):
        # Lines of one family rest on the same datum: as they err together they are not summed as if
        # independent.
        rules = rules_of(
            ("tall", "proportion", "height_ratio", 3), ("wide", "proportion", "width_ratio", 1)
        )
        one, two = (10 * BAND.deviation(v, 0.1) for v in (2.15, 1.1))
        verdict = judge(unsure_findings(0.1, height_ratio=2.15, width_ratio=1.1), rules, BRIEF)
        self.assertAlmostEqual(verdict.uncertainty, 10 * (3 * one + two) / 4, places=6)

    def test_a_wrong_scheme_earns_a_quarter_of_what_it_does_not_fit(self):
        rules = read_rule_set(
            HEAD
            + RULE.format(
                code="scheme", title="Scheme", family="colour", measure="scheme", weight=1
            ).replace("[1.0, 1.5, 2.0, 2.75]", "[0.0, 1.0, inf, inf]")
        )
        for name, fit, value in (
            ("analogous", 0.7, 0.7),
            ("triadic", 0.8, 0.05),
            ("triadic", 0.0, 0.25),
        ):
            scheme = SimpleNamespace(
                name=name, fit=fit, under_other_light="", off_degrees=9.0, other="", other_off=0.0
            )
            found = replace(findings(), scheme=scheme)
            line = judge(found, rules, replace(BRIEF, scheme="analogous")).lines[0]
            self.assertAlmostEqual(line.finding.value, value)
            self.assertEqual(line.finding.uncertainty, 0.1)
            self.assertEqual(bool(line.advice), name != "analogous")
        scheme.under_other_light = "analogous"
        self.assertEqual(
            judge(found, rules, replace(BRIEF, scheme="analogous")).lines[0].finding.uncertainty,
            0.25,
        )

    def test_an_instructors_word(self):
        for score, kept, state in (
            (9.95, 9.95, "met"),
            (9.94, 9.94, "near"),
            (0.1, 0.1, "near"),
            (0, 0, "missed"),
            (12, 10, "met"),
            (-3, 0, "missed"),
        ):
            line = self.verdict(
                2.15, 1.1, 0.1, overrides=(Override("tall", score, "by eye"),)
            ).lines[0]
            self.assertEqual(
                (line.score, line.state, line.overridden, line.borderline),
                (kept, state, "by eye", False),
            )
        verdict = self.verdict(
            2.15,
            1.1,
            0.1,
            overrides=(Override("tall", 9, "by eye"), Override("wide", None, "waived")),
        )
        self.assertAlmostEqual(verdict.score, 90)
        self.assertEqual(verdict.uncertainty, 0)  # what a person said is not unsure
        self.assertEqual(
            self.verdict(2.15, 1.1, overrides=(Override("none", 1, "x"),)).score,
            self.verdict(2.15, 1.1).score,
        )

    def test_ceilings_of_a_family_and_of_the_whole(self):
        family = self.verdict(
            2.15,
            1.1,
            ceilings=(Ceiling("proportion", 5, "tilts"), Ceiling("proportion", 6, "other")),
        )
        group = family.groups[0]
        self.assertEqual((group.score, group.capped_by), (5, "tilts"))
        self.assertAlmostEqual(group.uncapped, 8)
        self.assertAlmostEqual(family.score, 42.5)  # (5 x 3 + 2) / 40
        self.assertEqual(
            self.verdict(2.15, 1.1, ceilings=(Ceiling("proportion", 8.001, "at it"),))
            .groups[0]
            .capped_by,
            "",
        )
        whole = self.verdict(
            2.15, 1.1, 0.1, ceilings=(Ceiling("", 40, "late"), Ceiling("", 60, "other"))
        )
        self.assertEqual((whole.score, whole.capped_by, whole.uncertainty), (40, "late", 0))
        self.assertGreater(whole.uncapped, 60)
        self.assertEqual(
            self.verdict(2.15, 1.1, ceilings=(Ceiling("", 65.001, "at it"),)).capped_by, ""
        )

    @given(
        st.lists(st.floats(0.5, 3.0), min_size=2, max_size=2), st.floats(0, 100), st.floats(0, 10)
    )
    def test_a_ceiling_never_raises(self, values, whole, family):
        plain = self.verdict(*values)
        held = self.verdict(
            *values, ceilings=(Ceiling("", whole, "a"), Ceiling("proportion", family, "b"))
        )
        self.assertLessEqual(held.score, plain.score + 1e-9)
        self.assertLessEqual(held.score, whole + 1e-9)


class Safety(unittest.TestCase):
    ASK = """
[[rule]]
code = "food-safe"
title = "Safe near food"
family = "finish"
weight = 1
taught = "Nothing poisonous stands near food."
why = "Someone will taste it."
safety = 5
[rule.check]
ask = "Is every kind edible?"
look = "whole"
[[award]]
name = "pass"
at = 50
"""

    def verdict(self, answer=None, overrides=(), ceilings=()):
        rules = read_rule_set(
            HEAD
            + RULE.format(
                code="tall", title="Tall", family="proportion", measure="height_ratio", weight=3
            )
            + self.ASK
        )
        return judge(
            findings(),
            rules,
            BRIEF,
            overrides,
            {} if answer is None else {"food-safe": answer},
            ceilings,
        )

    def test_unanswered_gives_no_award(self):
        verdict = self.verdict()
        self.assertEqual(
            (verdict.award, verdict.to_answer, verdict.unsafe), ("", ("Is every kind edible?",), "")
        )
        self.assertAlmostEqual(verdict.score, 100)

    def test_a_plain_yes(self):
        verdict = self.verdict(1.0)
        self.assertEqual((verdict.award, verdict.to_answer, verdict.unsafe), ("pass", (), ""))

    def test_no_and_in_part_hold_the_whole(self):
        for answer, uncapped in ((0.0, 75), (0.5, 87.5)):  # (10 x 3 + 0 or 5) / 40
            verdict = self.verdict(answer)
            self.assertEqual(
                (verdict.score, verdict.award, verdict.unsafe), (5, "", "Safe near food")
            )
            self.assertAlmostEqual(verdict.uncapped, uncapped)

    def test_the_instructors_word_stays_final(self):
        self.assertEqual(
            self.verdict(0.0, (Override("food-safe", 10, "labels seen"),)).award, "pass"
        )
        waived = self.verdict(None, (Override("food-safe", None, "not for eating"),))
        self.assertEqual((waived.award, waived.to_answer), ("pass", ()))
        self.assertEqual(self.verdict(0.0, ceilings=(Ceiling("", 2, "late"),)).score, 2)

    def test_safety_belongs_to_a_check(self):
        text = (
            HEAD
            + RULE.format(
                code="tall", title="Tall", family="proportion", measure="height_ratio", weight=3
            )
            + "safety = 0\n"
        )
        with self.assertRaisesRegex(FaultyRuleSet, "belongs to a check"):
            read_rule_set(text)

    def test_food_is_held_at_nought(self):
        rule = next(r for r in school("edible-and-herb-bunch").rules if r.code == "food-safe")
        self.assertEqual(rule.safety, 0)
        self.assertEqual(
            read_rule_set(write_rule_set(school("edible-and-herb-bunch"))),
            school("edible-and-herb-bunch"),
        )


class Awards(unittest.TestCase):
    SET = replace(TWO, awards=(Award("distinction", 80, 5), Award("merit", 70), Award("pass", 50)))

    def test_edges(self):
        for score, least, name in (
            (80, 5, "distinction"),
            (79.99, 10, "merit"),
            (80, 4.99, "merit"),
            (70, 0, "merit"),
            (69.99, 10, "pass"),
            (50, 10, "pass"),
            (49.99, 10, ""),
            (None, 10, ""),
        ):
            self.assertEqual(self.SET.award(score, 50.0, least), name, (score, least))

    def test_none_is_named_below_the_pass_mark(self):
        self.assertEqual(self.SET.award(64.4, 65.0), "")
        self.assertEqual(self.SET.award(64.5, 64.0), "pass")


class Breaches(unittest.TestCase):
    """What breaks the brief holds the whole down (worked by hand)."""

    def verdict(self, tall, side="either", uncertainty=0.0, **more):
        text = RULE.format(
            code="tall", title="Tall", family="proportion", measure="height_ratio", weight=1
        )
        text += f'[rule.breach]\nat = 45\nside = "{side}"\n'
        text += RULE.format(
            code="wide", title="Wide", family="balance", measure="width_ratio", weight=9
        )
        return judge(
            unsure_findings(uncertainty, height_ratio=tall, width_ratio=1.8),
            read_rule_set(HEAD + text),
            BRIEF,
            **more,
        )

    def test_past_the_limit_on_the_side_that_breaks_it(self):
        for tall, side, held in (
            (3.0, "either", True),
            (3.0, "above", True),
            (3.0, "below", False),
            (0.9, "either", True),
            (0.9, "below", True),
            (0.9, "above", False),
            (2.75, "either", False),
            (1.0, "either", False),
        ):
            with self.subTest(tall=tall, side=side):
                verdict = self.verdict(tall, side)
                self.assertEqual(
                    (verdict.score, verdict.breaks), (45, ("Tall",)) if held else (90, ())
                )

    def test_it_is_said_and_what_it_would_be(self):
        verdict = self.verdict(3.0)
        self.assertEqual((verdict.capped_by, verdict.uncapped), ("it breaks the brief: tall", 90))

    def test_within_its_uncertainty_nothing_breaks(self):
        self.assertEqual(self.verdict(2.8, uncertainty=0.06).breaks, ())
        self.assertEqual(self.verdict(2.8, uncertainty=0.04).breaks, ("Tall",))

    def test_an_instructor_may_waive_it(self):
        for score, total in ((None, 100), (6, 96)):
            verdict = self.verdict(3.0, overrides=(Override("tall", score, "as agreed"),))
            self.assertAlmostEqual(verdict.score, total)

    def test_a_check_breaks_it_by_a_plain_no(self):
        for slug, code in (
            ("classical-line-mass", "sides-finished"),
            ("low-table-piece", "sides-finished"),
        ):
            brief = replace(BRIEF, viewpoint="all round")
            for answer, broken in ((0.0, True), (0.5, False), (1.0, False)):
                verdict = judge(
                    unsure_findings(0.02, height_ratio=1.8),
                    school(slug),
                    brief,
                    answers={code: answer},
                )
                self.assertEqual(
                    "All sides finished" in " ".join(verdict.breaks), broken, (slug, answer)
                )

    def test_an_upright_piece_for_a_low_table_does_not_pass(self):
        # Handbook: at or below 30 to 35 cm above the table; the piece of 69 cm that once got 65.
        values = {
            "table_height": 69.0,
            "width_ratio": 2.0,
            "left_weight_share": 0.5,
            "outline_symmetry": 0.9,
            "weight_height": 0.4,
        }
        low = school("low-table-piece")
        verdict = judge(
            findings(**values),
            low,
            replace(BRIEF, viewpoint="seated at a table", form="horizontal"),
        )
        self.assertGreater(verdict.uncapped, 50)
        self.assertEqual((verdict.score, verdict.award), (45, ""))


class Asked(unittest.TestCase):
    """What rests on counting is proposed, and marks only by a person's answer."""

    def line(self, counted, answers=None):
        rules = read_rule_set(
            HEAD
            + RULE.format(code="odd", title="Odd", family="line", measure="odd_counts", weight=1)
        )
        rules = replace(
            rules, rules=(replace(rules.rules[0], band=Band(0, 0.6, math.inf, math.inf)),)
        )
        verdict = judge(findings(odd_counts=counted), rules, BRIEF, answers=answers)
        return verdict, verdict.lines[0]

    def test_unanswered_it_weighs_nothing_and_proposes(self):
        for counted, proposal in ((1.0, "yes"), (0.3, "in part"), (0.0, "no")):
            verdict, line = self.line(counted)
            self.assertEqual(
                (verdict.score, line.score, line.state, line.proposal),
                (None, None, "not measured", proposal),
            )
            self.assertTrue(line.asked)

    def test_the_answer_marks(self):
        for answer, score, state in ((1.0, 100, "met"), (0.5, 50, "near"), (0.0, 0, "missed")):
            verdict, line = self.line(1.0, {"odd": answer})
            self.assertEqual((verdict.score, line.state, line.asked), (score, state, False))

    def test_not_counted_it_can_still_be_answered(self):
        self.assertEqual(self.line(None)[1].proposal, "")
        self.assertEqual(self.line(None, {"odd": 1.0})[0].score, 100)

    def test_only_counting_asks(self):
        self.assertIsNone(rules_of(("tall", "proportion", "height_ratio", 3)).rules[0].asks)


class InDoubt(unittest.TestCase):
    """What doubtful handles alone cost is said."""

    def line(self, value, doubt, confirmed):
        found = findings(height_ratio=value)
        one = replace(
            found["height_ratio"], uncertainty=doubt, confirmed=confirmed, unsure_of="rim"
        )
        return judge(
            found.joined(one), rules_of(("tall", "proportion", "height_ratio", 3)), BRIEF
        ).lines[0]

    def test_it_names_handle_and_both_scores(self):
        line = self.line(1.75, 0.4, 0.01)
        sure, score = 10 * BAND.expected(1.75, 0.01), line.score
        self.assertLess(score, 9)
        self.assertIn(f"{score:.1f} only because the rim is not sure", line.in_doubt)
        self.assertIn(f"it is {sure:.1f} where they stand", line.in_doubt)

    def test_nothing_is_said_where_it_costs_nothing(self):
        self.assertEqual(self.line(1.75, 0.02, 0.01).in_doubt, "")
        # surely missed: doubt lends it marks
        self.assertEqual(self.line(3.2, 0.4, 0.01).in_doubt, "")
        self.assertEqual(self.line(1.75, 0.4, None).in_doubt, "")


if __name__ == "__main__":
    unittest.main()
