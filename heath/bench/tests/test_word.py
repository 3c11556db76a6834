import re

from django.urls import reverse

from heath.assessment.models import Cap, MarkChange, Override, Remark
from heath.bench.models import Phrase
from heath.people.models import User
from heath.testing import SchoolTestCase, photographed


class Word(SchoolTestCase):
    """The instructor's word: caps, remarks, phrases, what a mark was and became, two markers on one
    piece.
    """

    @classmethod
    def setUpTestData(cls):
        super().setUpTestData()
        cls.piece = photographed(cls.brief, cls.user)
        cls.colleague = User.objects.create_user(
            "tam",
            "Tam",
            password="a-long-password",
            school=cls.user.school,
            first_name="Tam",
            role="instructor",
        )

    def post(self, name, **values):
        return self.client.post(reverse(name, args=[self.piece.pk]), values)

    def score(self):
        page = self.client.get(reverse("reading", args=[self.piece.pk])).content.decode()
        return float(re.search(r'id="score">([\d.]+)<', page)[1])

    def test_a_cap_holds_the_whole_or_a_family_until_it_is_taken_back(self):
        was = self.score()
        self.assertContains(
            self.post("cap", family="", at="20", reason="The vase leaks."), "The vase leaks."
        )
        self.assertEqual(self.score(), 20)
        self.post("cap", family="", back="1")
        self.assertEqual(self.score(), was)
        self.post("cap", family="proportion", at="0", reason="Too tall to stand.")
        self.assertLess(self.score(), was)
        self.assertEqual(Cap.objects.filter(taken_back=False).count(), 1)
        for wrong in (
            {"at": "x", "reason": "a"},
            {"at": "11", "reason": "a"},
            {"at": "5", "reason": " "},
        ):
            self.assertContains(self.post("cap", family="colour", **wrong), "fault")
        self.assertEqual(self.post("cap", family="scent", at="1", reason="a").status_code, 400)

    def test_undoing_a_word_brings_back_the_one_it_replaced(self):
        for score in ("8", "3"):
            self.post("override", rule="visible-height", score=score, reason="Airy on purpose.")
        self.post("cap", family="", at="40", reason="The vase leaks.")
        self.post("cap", family="", at="20", reason="It leaks a lot.")
        self.assertEqual(self.score(), 20)
        self.post("undo")
        self.assertEqual(self.score(), 40)
        self.post("undo")
        self.assertEqual(Override.objects.get(taken_back=False).score, 3)
        self.post("undo")
        self.assertEqual(Override.objects.get(taken_back=False).score, 8)
        self.post("undo")
        self.assertFalse(Override.objects.filter(taken_back=False).exists())

    def test_remarks_are_pinned_read_on_the_sheet_and_taken_back(self):
        self.post("remark", words="This stem is bruised.", x="400", y="300")
        page = self.post("remark", words="A pleasure to look at.")
        self.assertContains(page, "This stem is bruised.")
        self.assertContains(page, 'class="pin"')
        self.assertEqual(self.post("remark", words="out", x="99999", y="1").status_code, 400)
        self.assertContains(self.post("remark", words="  "), "Write what the student should read")
        self.post("accept")
        self.post("return")
        sheet = self.piece.sheets.get().figures
        self.assertEqual(
            [r["words"] for r in sheet["remarks"]],
            ["This stem is bruised.", "A pleasure to look at."],
        )
        self.assertEqual(len(sheet["pins"]), 1)
        self.post("reopen")
        self.post("remark", back=str(Remark.objects.first().pk))
        self.assertEqual(Remark.objects.filter(taken_back=False).count(), 1)

    def test_own_phrases_come_back_the_latest_first(self):
        self.post("override", rule="visible-height", score="8", reason="Airy on purpose.")
        self.post("remark", words="Cut lower next time.")
        self.post("override", rule="visible-height", score="7", reason="Airy on purpose.")
        self.assertEqual(
            [(p.words, p.used) for p in Phrase.objects.all()],
            [("Airy on purpose.", 2), ("Cut lower next time.", 1)],
        )
        self.assertContains(
            self.client.get(reverse("bench", args=[self.piece.pk])),
            'data-phrase="Airy on purpose."',
        )
        self.client.force_login(self.colleague)
        self.assertNotContains(
            self.client.get(reverse("bench", args=[self.piece.pk])),
            'data-phrase="Airy on purpose."',
        )

    def test_a_mark_given_anew_keeps_what_it_was_and_why(self):
        self.post("accept")
        self.post("accept")
        self.post("reopen")
        self.post("cap", family="", at="12", reason="Not its own work.")
        self.post("accept")
        first, second = MarkChange.objects.all()
        self.assertIsNone(first.old)
        self.assertEqual((second.old, second.new, second.why), (first.new, 12, "Not its own work."))
        self.assertEqual(second.made_by, self.user)

    def test_nothing_of_a_colleague_is_overwritten_unseen(self):
        seen = self.piece.revision
        self.client.force_login(self.colleague)
        self.post("override", rule="visible-height", score="2", reason="Mine.", seen=str(seen))
        self.client.force_login(self.user)
        crossed = self.post(
            "override", rule="visible-height", score="9", reason="Yours.", seen=str(seen)
        )
        self.assertContains(crossed, "Tam changed this piece at")
        self.assertContains(crossed, "Yours.")
        self.assertEqual(Override.objects.get(taken_back=False).score, 2)
        self.post("override", rule="visible-height", score="9", reason="Yours.", seen=str(seen + 1))
        self.assertEqual(Override.objects.get(taken_back=False).score, 9)
        self.assertEqual(Override.objects.count(), 2)

    def test_both_are_told_of_each_other(self):
        self.assertNotContains(self.post("here", seen="0"), "open as well")
        self.client.force_login(self.colleague)
        self.assertContains(self.post("here", seen="0"), "this piece open too")
        self.post("override", rule="visible-height", score="2", reason="Mine.")
        self.client.force_login(self.user)
        told = self.post("here", seen="0")
        self.assertContains(told, "Tam")
        self.assertContains(told, "Show the change")

    def test_undo_takes_the_latest_back_whatever_it_was(self):
        self.post("move", handle="rim", gesture="abcdef123456", x="450", y="500", rests="1")
        self.post("override", rule="visible-height", score="2", reason="Mine.")
        self.post("remark", words="Here.", x="4", y="4")
        for left, named in (((1, 1, 0), "remark"), ((1, 0, 0), "word"), ((0, 0, 0), "move")):
            self.assertContains(
                self.client.get(reverse("reading", args=[self.piece.pk])), f"Undo the last {named}"
            )
            self.post("undo")
            standing = self.piece.photograph.corrections.filter(undone=False).count()
            self.assertEqual(
                (
                    standing,
                    Override.objects.filter(taken_back=False).count(),
                    Remark.objects.filter(taken_back=False).count(),
                ),
                left,
            )

    def test_few_queries_on_the_bench(self):
        with self.assertNumQueries(15):
            self.client.get(reverse("bench", args=[self.piece.pk]))

    def test_overlays(self):
        for what, words in (
            ("found", "before any correction"),
            ("form", "taught band"),
            ("exemplar", "no exemplar yet"),
        ):
            self.assertContains(
                self.client.get(reverse("overlay", args=[self.piece.pk, what])), words
            )
        self.post("exemplar")
        self.assertContains(
            self.client.get(reverse("overlay", args=[self.piece.pk, "exemplar"])),
            "This piece is the exemplar",
        )
        self.post("exemplar")
        self.brief.refresh_from_db()
        self.assertIsNone(self.brief.exemplar)

    def test_figures_in_inches_and_words_as_they_were_typed(self):
        self.client.post(reverse("settings"), {"inches": "1", "surround": "mid"})
        page = self.client.get(reverse("bench", args=[self.piece.pk])).content.decode()
        self.assertRegex(page, r"\d in\b")
        self.assertNotRegex(page, r"\d cm\b")
        for family in ("", "proportion"):
            self.assertContains(
                self.post("cap", family=family, at="0", reason="Over 30 cm it tips."),
                "Over 30 cm it tips.",  # a person's own words stay as typed
            )
