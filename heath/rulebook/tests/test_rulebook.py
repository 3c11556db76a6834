import json
import re

from django.core.files.uploadedfile import SimpleUploadedFile
from django.urls import reverse
from django.utils.html import escape

from heath.assessment.models import Mark, Piece
from heath.bench.accepting import accept_marks
from heath.briefs.models import Brief
from heath.rulebook.examples import KEPT
from heath.rulebook.models import RuleSetVersion
from heath.rulebook.sets import differences
from heath.testing import SchoolTestCase, done, photographed
from juniper import VERSION
from juniper.measures import DEFINITIONS
from juniper.rules import read_rule_set, school, school_slugs, write_rule_set


class Reading(SchoolTestCase):
    def test_a_schools_page_says_what_it_does_not_judge_and_where_it_differs(self):
        for slug in school_slugs():
            page = self.client.get(reverse("rule-set", args=[slug]))
            one = school(slug)
            self.assertTrue(one.not_judged and one.differs, slug)
            self.assertContains(page, "What this school does not judge")
            for said in (*(n.what for n in one.not_judged), *(d.says for d in one.differs)):
                self.assertContains(page, escape(said))
            for other in one.differs:
                self.assertContains(page, reverse("rule-set", args=[other.slug]))
        self.assertContains(
            self.client.get(reverse("rule-set", args=["classical-line-mass"])),
            "<b>shown</b>",
            html=True,
        )

    def test_every_school_is_read_and_given_out(self):
        self.assertContains(self.client.get(reverse("rulebook")), "Garden style")
        for slug in school_slugs():
            page = self.client.get(reverse("rule-set", args=[slug]))
            for rule in school(slug).rules:
                self.assertContains(page, f'id="{rule.code}"')
            answer = self.client.get(reverse("rule-set-document", args=[slug]))
            self.assertEqual(read_rule_set(answer.content.decode()), school(slug))

    def test_two_schools_side_by_side(self):
        page = self.client.get(
            reverse("compare"), {"left": "classical-line-mass", "right": "garden-style"}
        )
        # foliage: handbook of the trade, section 3
        self.assertContains(page, "30\u00a0% to 50\u00a0% (limits 10\u00a0% and 70\u00a0%)")
        self.assertContains(page, "not taught")
        self.assertEqual(
            self.client.get(
                reverse("compare"), {"left": "classical-line-mass", "right": "none"}
            ).status_code,
            404,
        )

    def test_how_each_measure_is_made(self):
        page = self.client.get(reverse("measures"))
        for name, definition in DEFINITIONS.items():
            self.assertContains(page, f'id="{name}"')
            self.assertContains(page, escape(definition.how))

    def test_the_kept_examples_are_of_this_core(self):
        # manage.py draw_measures draws them anew.
        kept = json.loads(KEPT.read_text())
        self.assertEqual(kept["core"], VERSION)
        self.assertEqual(set(kept["measures"]), set(DEFINITIONS))

    def test_only_for_people_who_signed_in(self):
        self.client.logout()
        for name, args in (
            ("rulebook", []),
            ("rule-set", ["garden-style"]),
            ("measures", []),
            ("compare", []),
        ):
            self.assertEqual(self.client.get(reverse(name, args=args)).status_code, 302, name)


class Versions(SchoolTestCase):
    @classmethod
    def setUpTestData(cls):
        super().setUpTestData()
        cls.piece = photographed(cls.brief, cls.user)
        accept_marks(cls.piece, cls.user)

    def draft(self):
        self.client.post(reverse("rule-set-copy", args=["classical-line-mass"]))
        return RuleSetVersion.objects.get(released_at__isnull=True)

    def change(self, draft, **what):
        return self.client.post(reverse("draft-change", args=[draft.pk]), what)

    def band(self, draft, code="visible-height"):
        return next(
            r.band for r in RuleSetVersion.objects.get(pk=draft.pk).rule_set.rules if r.code == code
        )

    def test_a_copy_is_edited_and_given_back_when_asked_for_again(self):
        draft = self.draft()
        self.change(draft, code="visible-height", edge=["1", "1.4", "2.2", "3"])
        self.assertEqual((self.band(draft).low, self.band(draft).high_limit), (1.4, 3.0))
        self.change(draft, code="bloom-scale", edge=["", "", "0.4", "0.6"])
        self.assertEqual(self.band(draft, "bloom-scale").low, float("-inf"))
        self.assertEqual(self.draft(), draft)
        self.assertEqual(school("classical-line-mass").rules[0].band.low, 1.5)

    def test_what_makes_no_band_is_said_and_not_kept(self):
        draft = self.draft()
        for typed, words in (
            ({"edge": ["1", "2.5", "2", "3"]}, "must rise"),
            ({"edge": ["1", "x", "2", "3"]}, "Write a number"),
            ({"edge": ["1", "", "2", "3"]}, "Write a number"),
            ({"edge": ["1", "nan", "2", "3"]}, "An edge is a number"),
            ({"edge": ["1", "2"]}, "four edges"),
            ({"weight": "-1"}, "20 at most"),
        ):
            with self.subTest(typed):
                self.assertContains(self.change(draft, code="visible-height", **typed), words)
        self.assertEqual(self.band(draft).low, 1.5)

    def test_a_sentence_that_says_other_figures_than_its_band_is_named_and_can_be_written_anew(
        self,
    ):
        draft = self.draft()
        said = "does not agree with the band"
        self.assertNotContains(self.client.get(reverse("draft", args=[draft.pk])), said)
        self.assertContains(
            self.change(draft, code="visible-height", edge=["2", "2.5", "3", "4"]), said
        )
        page = self.change(
            draft,
            code="visible-height",
            taught="The flowers stand  2.5 to 3 times the container's larger dimension.",
        )
        self.assertNotContains(page, said)
        draft.refresh_from_db()
        self.assertEqual(
            draft.rule_set.rules[0].taught,
            "The flowers stand 2.5 to 3 times the container's larger dimension.",
        )
        self.assertContains(
            self.change(draft, code="visible-height", taught="No."), "5 letters at least"
        )

    def test_what_breaks_the_brief_is_said(self):
        page = self.client.get(reverse("rule-set", args=["classical-line-mass"]))
        self.assertContains(
            page,
            "This rule can hold the whole mark: when the value is certainly past the upper limit of"
            " its band, the mark is at most 45.",
        )
        self.assertContains(page, "when the answer is no, the mark is at most 45.")

    def test_the_preview_keeps_caps_so_that_an_unchanged_copy_changes_nothing(self):
        Mark.objects.all().delete()
        Piece.objects.filter(pk=self.piece.pk).update(state=Piece.State.MARKING)
        self.piece.caps.create(family="", at=20, reason="late", made_by=self.user)
        accept_marks(Piece.objects.get(pk=self.piece.pk), self.user)
        effect = self.previewed(self.draft()).context["effects"][0]
        self.assertEqual((effect.old, effect.new), (20, 20))

    def test_before_release_it_shows_what_it_would_have_done(self):
        draft = self.draft()
        self.change(draft, code="visible-height", edge=["0.01", "0.02", "0.03", "0.04"])
        self.change(draft, code="visible-height", weight="20")
        before = Mark.objects.get().score
        page = self.previewed(draft)
        effect = page.context["effects"][0]
        self.assertEqual((effect.piece, effect.old), (self.piece.pk, before))
        self.assertLess(effect.new, before - 10)
        self.assertContains(page, self.piece.student.name)
        self.assertEqual(Mark.objects.get().score, before)
        # What was worked out for the draft as it was says nothing of it as it is now.
        self.change(draft, code="visible-height", weight="3")
        again = self.client.get(page.request["PATH_INFO"], {"made": page.made})
        self.assertContains(again, "are not yet held against the draft as it is now")

    def previewed(self, draft):
        """The release page, once the pieces were held against the draft."""
        job = done(self.client.post(reverse("draft-preview", args=[draft.pk])))
        page = self.client.get(job.to)
        page.made = job.secret
        return page

    def test_a_released_version_never_changes_and_a_mark_keeps_its_own(self):
        draft = self.draft()
        before = Mark.objects.get()
        self.client.post(reverse("draft-release", args=[draft.pk]), {"brief": [self.brief.pk]})
        brief = Brief.objects.get(pk=self.brief.pk)
        self.assertEqual((brief.rule_set, brief.rule_set_version), ("classical-line-mass-own", 1))
        self.assertEqual(brief.rules.name, "Classical line-mass, our own")
        text = RuleSetVersion.objects.get().text
        self.assertContains(
            self.change(draft, code="visible-height", weight="9"), "never changes", status_code=200
        )
        self.client.post(reverse("draft-discard", args=[draft.pk]))
        self.assertEqual(RuleSetVersion.objects.get().text, text)
        after = Mark.objects.get()
        self.assertEqual(
            (after.rule_set, after.rule_set_version), (before.rule_set, before.rule_set_version)
        )

    def test_the_next_version_leaves_briefs_at_theirs_until_they_take_it_up(self):
        first = self.draft()
        self.client.post(reverse("draft-release", args=[first.pk]), {"brief": [self.brief.pk]})
        self.client.post(reverse("rule-set-copy", args=["classical-line-mass-own"]))
        second = RuleSetVersion.objects.get(released_at__isnull=True)
        self.change(second, code="visible-height", weight="1")
        self.client.post(
            reverse("draft-release", args=[second.pk]), {"why": "Height counts for less here."}
        )
        self.assertEqual(
            (second.number, Brief.objects.get(pk=self.brief.pk).rules.version), (2, "1")
        )
        self.client.post(reverse("version-back", args=[first.pk]))
        third = RuleSetVersion.objects.get(released_at__isnull=True)
        self.assertEqual(
            (third.number, third.rule_set.rules[0].weight), (3, first.rule_set.rules[0].weight)
        )
        # A draft that waits is lost neither by going back nor by a document brought along.
        page = self.client.post(reverse("version-back", args=[second.pk]), follow=True)
        self.assertContains(page, "A draft of version 3 waits")
        self.assertContains(
            self.client.post(reverse("rulebook"), {"text": second.text}), "A draft of version 3"
        )
        self.assertEqual(RuleSetVersion.objects.get(pk=third.pk).text, third.text)

    def test_a_document_brought_along_is_given_back_the_same(self):
        text = "# our rules\n" + write_rule_set(school("garden-style")).replace(
            'slug = "garden-style"', 'slug = "heath-style"'
        )
        file = SimpleUploadedFile("rules.toml", text.encode())
        self.client.post(reverse("rulebook"), {"document": file})
        draft = RuleSetVersion.objects.get()
        self.assertEqual((draft.slug, draft.number), ("heath-style", 1))
        given = self.client.get(
            reverse("rule-set-document", args=["heath-style"]), {"version": 1}
        ).content.decode()
        # Its own words stay; only the version is numbered here.
        self.assertEqual(
            given, text.replace(f'version = "{school("garden-style").version}"', 'version = "1"')
        )

    def test_a_faulty_document_is_told_its_line_and_not_lost(self):
        text = (
            write_rule_set(school("garden-style"))
            .replace('slug = "garden-style"', 'slug = "heath-style"')
            .replace("weight = 3", "weight = -3", 1)
        )
        page = self.client.post(reverse("rulebook"), {"text": text})
        line = text.split("\n").index("weight = -3") + 1
        self.assertContains(page, f"Line {line}: &#x27;weight&#x27;")
        self.assertContains(page, "weight = -3")
        self.assertContains(
            self.client.post(reverse("rulebook"), {"text": write_rule_set(school("garden-style"))}),
            "belongs to a school that ships",
        )
        self.assertEqual(RuleSetVersion.objects.count(), 0)

    def test_nobody_from_another_school(self):
        draft = self.draft()
        self.client.force_login(self.stranger)
        for name in ("draft", "draft-release"):
            self.assertEqual(self.client.get(reverse(name, args=[draft.pk])).status_code, 404)
        for name in (
            "draft-change",
            "draft-release",
            "draft-discard",
            "draft-preview",
            "version-back",
        ):
            self.assertEqual(self.client.post(reverse(name, args=[draft.pk])).status_code, 404)
        self.assertEqual(
            self.client.get(
                reverse("rule-set-document", args=[draft.slug]), {"version": 1}
            ).status_code,
            404,
        )
        self.assertNotContains(self.client.get(reverse("rulebook")), "our own")


class OnTheBench(SchoolTestCase):
    @classmethod
    def setUpTestData(cls):
        super().setUpTestData()
        cls.piece = photographed(cls.brief, cls.user)

    def test_a_check_is_answered_and_taken_back(self):
        url = reverse("answer", args=[self.piece.pk])
        for sound in ("stems-in-water", "water-clean", "condition"):
            self.client.post(url, {"rule": sound, "answer": "yes"})
        page = self.client.post(url, {"rule": "holding-hidden", "answer": "no"})
        self.assertContains(page, "held at 4.0 by “<bdi>Holding material hidden</bdi>”")
        self.assertEqual(self.piece.answers.get(rule="holding-hidden").made_by, self.user)
        self.client.post(url, {"rule": "holding-hidden", "answer": ""})
        self.assertFalse(self.piece.answers.filter(rule="holding-hidden").exists())
        self.assertEqual(
            self.client.post(url, {"rule": "visible-height", "answer": "yes"}).status_code, 400
        )

    def test_a_declared_principle_changes_which_rules_count(self):
        page = self.client.post(reverse("declare", args=[self.piece.pk]), {"dominant": "line"})
        self.assertNotContains(page, 'id="line-focal-height"')
        self.assertEqual(Piece.objects.get(pk=self.piece.pk).dominant, "line")
        self.assertEqual(
            self.client.post(
                reverse("declare", args=[self.piece.pk]), {"dominant": "wit"}
            ).status_code,
            400,
        )

    def test_what_a_rule_rests_on_is_drawn(self):
        page = self.client.get(reverse("evidence", args=[self.piece.pk, "form"]))
        self.assertContains(page, "fitted to the piece")
        self.assertEqual(
            self.client.get(reverse("evidence", args=[self.piece.pk, "none"])).status_code, 404
        )


class Releases(SchoolTestCase):
    def setUp(self):
        super().setUp()
        self.client.post(reverse("rule-set-copy", args=["classical-line-mass"]))
        self.draft = RuleSetVersion.objects.get()

    def change(self, **sent):
        return self.client.post(
            reverse("draft-change", args=[self.draft.pk]), {"code": "visible-height"} | sent
        )

    def release(self, **sent):
        return self.client.post(reverse("draft-release", args=[self.draft.pk]), sent)

    def rule(self):
        rules = RuleSetVersion.objects.get().rule_set.rules
        return next(r for r in rules if r.code == "visible-height")

    def test_every_sentence_of_a_rule_can_be_changed(self):
        for name, words in (
            ("taught", "The flowers stand one to three times the container."),
            ("why", "Our urns are taller."),
            ("above", "Take {cm} off, down to {high}."),
            ("below", "It is {cm} short of {low}."),
        ):
            self.change(**{name: words})
            self.assertEqual(getattr(self.rule(), name), words)
        answer = self.change(above="Take {inches} off.")
        self.assertContains(answer, "{inches} is not known")
        self.assertEqual(self.rule().above, "Take {cm} off, down to {high}.")
        self.assertContains(self.change(why="so"), "5 letters at least")

    def test_a_release_shows_what_changes_and_asks_why(self):
        self.assertEqual(differences(self.draft), [])
        self.change(edge=["1", "1.4", "2.1", "2.6"])
        self.change(weight="7")
        page = self.client.get(reverse("draft-release", args=[self.draft.pk]))
        said = [(c.what, c.new) for c in page.context["changes"]]
        self.assertEqual(said, [("band", "1.4 to 2.1 (limits 1 and 2.6)"), ("weight", "7")])
        self.assertContains(page, "Why it changes")
        refused = self.release(why=" so ")
        self.assertContains(refused, "Say in a sentence why", status_code=422)
        self.assertIsNone(RuleSetVersion.objects.get().released_at)
        self.release(why="Our urns are taller.")
        self.assertEqual(RuleSetVersion.objects.get().why, "Our urns are taller.")
        for name, args in (("rulebook", []), ("rule-set", ["classical-line-mass-own"])):
            self.assertContains(self.client.get(reverse(name, args=args)), "Our urns are taller.")

    def test_an_unchanged_copy_is_released_without_a_reason(self):
        self.assertRedirects(self.release(), reverse("rulebook"))

    def test_a_school_is_never_compared_with_itself(self):
        answer = self.client.get(
            reverse("compare"), {"left": "layered-round", "right": "layered-round"}, follow=True
        )
        self.assertContains(answer, "was chosen twice")
        page = self.client.get(reverse("rulebook")).content.decode()
        chosen = re.findall(r'value="([a-z-]+)" selected', page)
        self.assertEqual(len(chosen), len(set(chosen)))

    def test_what_counts_in_a_school_is_drawn_and_said_and_makes_a_hundred(self):
        page = self.client.get(reverse("rulebook")).content.decode()
        for said in re.findall(r'class="weights"[^>]*aria-label="([^"]+)"', page):
            self.assertAlmostEqual(sum(map(float, re.findall(r"(\d+) %", said))), 100, delta=2)
