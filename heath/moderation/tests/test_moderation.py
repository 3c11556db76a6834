"""Second markings: who gets which pieces, what they do not see, agreement and settling."""

from datetime import timedelta

from django.urls import reverse
from django.utils import timezone

from heath.assessment.models import Mark, MarkChange, Photograph, Piece
from heath.bench.accepting import accept_marks, confirm_handles
from heath.briefs.models import Brief
from heath.classes.models import Student
from heath.moderation.agreement import agreement_of
from heath.moderation.models import Round, SecondMark, Settlement
from heath.moderation.rounds import NothingToMark, set_round
from heath.moderation.settling import NotSettled, settle
from heath.people.models import Role, User
from heath.records.gradebook import book_of
from heath.returns.issuing import issue_sheet
from heath.testing import SchoolTestCase, given_mark, photographed


class Markers(SchoolTestCase):
    @classmethod
    def setUpTestData(cls):
        super().setUpTestData()
        cls.course = cls.brief.course
        cls.oz = cls.person("oz", Role.ASSISTANT)
        cls.una = cls.person("una", Role.INSTRUCTOR)
        cls.moderator = cls.person("max", Role.MODERATOR)
        Student.objects.bulk_create(
            [Student(course=cls.course, name=f"Cy Reef {n:02d}") for n in range(10)]
        )
        cls.brief.give_pieces()
        cls.pieces = list(cls.brief.pieces.order_by("student__sorting"))

    @classmethod
    def person(cls, name, role):
        return User.objects.create_user(
            name, password=None, school=cls.user.school, role=role, first_name=name.capitalize()
        )

    def mark_all(self, by=None, base=40.0, **rules):
        for n, piece in enumerate(self.pieces):
            given_mark(piece, by or self.user, base + 4 * n, **(rules or {"rim_cover": 5.0}))

    def mark_second(self, lean=-5.0, **rules):
        for second in SecondMark.objects.filter(copy__mark=None):
            mark = second.first.mark.score + lean
            given_mark(second.copy, second.marker, mark, **(rules or {"rim_cover": 4.0}))


class Rounds(Markers):
    def test_a_share_spread_over_high_and_low_marks(self):
        self.mark_all()
        made = set_round(self.brief, [self.oz], 1 / 3, 0, 7, self.moderator)
        marks = sorted(s.first.mark.score for s in made.seconds.all())
        self.assertEqual(len(marks), 4)
        # one of each quarter of the twelve marks 40, 44 .. 84
        for n, mark in enumerate(marks):
            self.assertIn(mark, [40 + 4 * k for k in range(3 * n, 3 * n + 3)])

    def test_nobody_gets_their_own_pieces_but_those_that_are_to_come_back(self):
        self.mark_all(by=self.oz)
        with self.assertRaises(NothingToMark):
            set_round(self.brief, [self.oz], 1.0, 0, 7, self.moderator)
        made = set_round(self.brief, [self.oz, self.una], 0.5, 2, 7, self.moderator)
        self.assertEqual(made.seconds.filter(marker=self.una, again=False).count(), 6)
        back = made.seconds.filter(marker=self.oz)
        self.assertEqual([s.again for s in back], [True, True])
        # nothing is drawn a second time
        again = set_round(self.brief, [self.una], 1.0, 0, 8, self.moderator)
        self.assertEqual(again.seconds.count(), 4)
        with self.assertRaises(NothingToMark):
            set_round(self.brief, [self.una], 1.0, 0, 9, self.moderator)

    def test_only_its_marker_sees_a_second_marking(self):
        self.mark_all()
        set_round(self.brief, [self.oz], 0.5, 0, 7, self.moderator)
        copy = SecondMark.objects.first().copy
        addresses = [
            reverse("brief", args=[copy.brief_id]),
            reverse("line-up", args=[copy.brief_id]),
            reverse("photograph-copy", args=[copy.photographs.get().pk, "screen"]),
        ]
        for person in (self.user, self.moderator, self.una, self.stranger):
            self.client.force_login(person)
            for address in addresses:
                self.assertEqual(self.client.get(address).status_code, 404, address)
            self.assertNotContains(self.client.get(reverse("term")), "Second marking")
        self.client.force_login(self.oz)
        wall = self.client.get(addresses[0])
        self.assertContains(wall, f"Piece {copy.code[:4]}")
        self.assertNotContains(wall, copy.student.name)

    def test_its_marker_finds_it_on_the_term_page_until_it_is_done(self):
        self.mark_all()
        set_round(self.brief, [self.oz], 0.5, 0, 7, self.moderator)
        self.client.force_login(self.oz)
        page = self.client.get(reverse("term"))
        self.assertContains(page, "6 to mark: Second marking: Column")
        second = SecondMark.objects.first().copy.brief
        wall = self.client.get(reverse("brief", args=[second.pk]))
        self.assertNotContains(wall, reverse("intake", args=[second.pk]))
        self.assertNotContains(wall, reverse("returning", args=[second.pk]))
        self.mark_second()
        self.assertNotContains(self.client.get(reverse("term")), "Second marking")

    def test_what_belongs_to_the_class_is_not_done_with_a_second_marking(self):
        self.mark_all()
        set_round(self.brief, [self.una], 0.5, 0, 7, self.moderator)
        copy = SecondMark.objects.first().copy
        self.client.force_login(self.una)
        for name, pk in (
            ("returning", copy.brief_id),
            ("intake", copy.brief_id),
            ("plan", copy.brief_id),
            ("brief-change", copy.brief_id),
            ("brief-marks", copy.brief_id),
            ("sheet", copy.pk),
        ):
            args = [pk, "csv"] if name == "brief-marks" else [pk]
            self.assertEqual(self.client.get(reverse(name, args=args)).status_code, 404, name)
        for name, pk in (("return", copy.pk), ("brief-names", copy.brief_id)):
            self.assertEqual(self.client.post(reverse(name, args=[pk])).status_code, 404, name)

    def test_records_and_lists_know_nothing_of_it(self):
        self.mark_all()
        set_round(self.brief, [self.oz], 1.0, 0, 7, self.moderator)
        self.mark_second()
        self.assertEqual(len(book_of(self.course).columns), 1)
        self.assertEqual(self.course.briefs.count(), 1)
        page = self.client.get(reverse("student-record", args=[self.pieces[0].student_id]))
        self.assertNotContains(page, "Second marking")
        self.client.force_login(self.moderator)
        self.assertNotContains(self.client.get(reverse("briefs")), "Second marking")

    def test_the_page_sets_it_and_says_what_is_wrong(self):
        self.client.force_login(self.moderator)
        address = reverse("second-marking", args=[self.course.pk])
        told = {"brief": self.brief.pk, "markers": [self.oz.pk], "share": 50, "again": 0, "seed": 3}
        answer = self.client.post(address, told)
        self.assertContains(answer, "none is marked yet", status_code=422)
        self.mark_all()
        for wrong, words in (
            ({"share": 120}, "from 0 to 100"),
            ({"share": 0}, "nobody marks anything"),
            ({"markers": []}, "Choose somebody"),
            ({"markers": [self.stranger.pk]}, "not one of the available choices"),
            ({"brief": self.other_brief.pk}, "not one of the available choices"),
        ):
            self.assertContains(self.client.post(address, told | wrong), words, status_code=422)
        self.assertEqual(self.client.post(address, told).status_code, 302)
        self.assertEqual(Round.objects.get().seconds.count(), 6)

    def test_files_that_are_shared_stay_as_long_as_one_piece_has_them(self):
        piece = photographed(self.brief, self.user)
        confirm_handles(piece.photograph, self.user)
        accept_marks(piece, self.user)
        set_round(self.brief, [self.oz], 1.0, 0, 7, self.moderator)
        photograph = piece.photograph
        storage, name = photograph.screen.storage, photograph.screen.name
        with self.captureOnCommitCallbacks(execute=True):
            Brief.every.filter(second_of=self.brief).delete()
        self.assertTrue(storage.exists(name))
        with self.captureOnCommitCallbacks(execute=True):
            Photograph.objects.get(pk=photograph.pk).delete()
        self.assertFalse(storage.exists(name))

    def test_a_copy_is_marked_on_the_bench_and_the_first_mark_stays(self):
        piece = photographed(self.brief, self.user)
        confirm_handles(piece.photograph, self.user)
        first = accept_marks(Piece.objects.get(pk=piece.pk), self.user)
        set_round(self.brief, [self.oz], 1.0, 0, 7, self.moderator)
        copy = SecondMark.objects.get().copy
        self.client.force_login(self.oz)
        bench = self.client.get(reverse("bench", args=[copy.pk]))
        self.assertEqual(bench.status_code, 200)
        self.assertFalse(copy.photographs.get().corrections.exists())
        said = {"rule": "rim-softened", "score": "2", "reason": "Bare.", "seen": "0"}
        self.client.post(reverse("override", args=[copy.pk]), said)
        self.client.post(reverse("confirm", args=[copy.pk]), {"seen": "1"})
        self.client.post(reverse("accept", args=[copy.pk]), {"seen": "2"})
        second = Mark.objects.get(piece=copy)
        self.assertLess(second.score, first.score)
        self.assertEqual(Mark.objects.get(pk=first.pk).score, first.score)
        self.client.force_login(self.moderator)
        page = self.client.get(reverse("second-mark", args=[SecondMark.objects.get().pk]))
        self.assertSays(page, "“Bare.”")


class Agreements(Markers):
    def test_severity_and_the_rule_in_dispute_come_out_as_put_in(self):
        self.mark_all(rim_cover=8.0, height_ratio=7.0)
        set_round(self.brief, [self.oz], 1.0, 0, 7, self.moderator)
        self.mark_second(-6.0, rim_cover=4.0, height_ratio=7.0)
        found = agreement_of(self.course)
        (between,) = found.between
        self.assertEqual(between.pieces, 12)
        self.assertEqual(set(between.names), {"Oz", "ruth"})
        self.assertAlmostEqual(abs(between.limits.mean), 6)
        self.assertAlmostEqual(between.intraclass.consistent, 1)
        self.assertIsNone(between.drift)  # all of one evening
        self.assertLess(between.intraclass.absolute, 1)
        self.assertEqual([name for name, _ in found.leans], ["Oz", "ruth"])  # the strictest first
        self.assertAlmostEqual(found.leans[0][1].lean, -3)
        self.assertEqual([r.title for r in found.rules if r.agreement.in_dispute], ["Rim cover"])
        self.client.force_login(self.moderator)
        page = self.client.get(reverse("agreement", args=[self.course.pk]))
        self.assertSays(page, "talk this rule over")
        self.assertSays(page, "gives 3.0 ± 0.0 less than the mean marker")

    def test_drift_over_the_term(self):
        self.mark_all()
        made = set_round(self.brief, [self.oz], 1.0, 0, 7, self.moderator)
        start = timezone.now() - timedelta(days=90)
        for n, second in enumerate(made.seconds.order_by("pk")):
            mark = second.first.mark.score - 2 - 0.5 * n
            given_mark(second.copy, self.oz, mark, start + timedelta(days=7 * n), rim_cover=4.0)
        (between,) = agreement_of(self.course).between
        towards = 1 if between.names[1] == "Oz" else -1
        self.assertAlmostEqual(between.drift.slope * towards, -0.5, places=6)
        self.assertTrue(between.drift.sure)

    def test_own_pieces_again_speak_of_steadiness_and_not_of_severity(self):
        self.mark_all(by=self.oz)
        set_round(self.brief, [self.oz], 0.0, 5, 7, self.moderator)
        self.mark_second(3.0)
        found = agreement_of(self.course)
        self.assertEqual((found.between, found.leans), ((), ()))
        self.assertEqual((found.again[0].name, found.again[0].limits.mean), ("Oz", 3.0))

    def test_half_marked_is_said_and_an_assistant_may_not_look(self):
        self.mark_all()
        set_round(self.brief, [self.oz], 0.5, 0, 7, self.moderator)
        self.client.force_login(self.moderator)
        page = reverse("agreement", args=[self.course.pk])
        self.assertSays(self.client.get(page), "6 pieces wait for a second mark")
        self.assertSays(self.client.get(page), "Oz: 0 of 6 marked")
        for person in (self.oz, self.una):
            self.client.force_login(person)
            self.assertEqual(self.client.get(page).status_code, 403)


class Settling(Markers):
    def setUp(self):
        super().setUp()
        self.client.force_login(self.moderator)
        given_mark(self.pieces[0], self.user, 60.0, rim_cover=6.0)
        set_round(self.brief, [self.oz], 1.0, 0, 7, self.moderator)
        self.second = SecondMark.objects.get()
        given_mark(self.second.copy, self.oz, 80.0, rim_cover=8.0)
        self.piece = Piece.objects.get(pk=self.pieces[0].pk)

    def settled(self, mark=72.0, seen=0, reason="Rim seen again together"):
        return settle(self.second, mark, reason, self.moderator, seen)

    def test_the_settled_mark_is_in_force_everywhere_and_both_are_kept(self):
        given_at = self.piece.mark.accepted_at
        self.settled()
        mark = Mark.objects.get(piece=self.piece)
        self.assertEqual((mark.score, mark.verdict["award"]), (72.0, "merit"))
        self.assertEqual(mark.accepted_at, given_at)
        kept = Settlement.objects.get()
        self.assertEqual((kept.first_mark, kept.second_mark), (60.0, 80.0))
        self.assertEqual(kept.first_verdict["score"], 60.0)
        self.assertEqual(Mark.objects.get(piece=self.second.copy).score, 80.0)
        self.assertEqual(MarkChange.objects.get().new, 72.0)
        line = next(x for x in book_of(self.course).lines if x.student == self.piece.student)
        self.assertEqual(line.mark, 72.0)
        # agreement is of what the two gave, not of what was settled
        self.assertEqual(agreement_of(self.course).pairs[0].marks, (60.0, 80.0))

    def test_two_who_settle_at_once(self):
        self.settled(72.0)
        with self.assertRaisesMessage(NotSettled, "Max settled this piece meanwhile, at 72"):
            self.settled(65.0, seen=0)
        self.assertEqual(Mark.objects.get(piece=self.piece).score, 72.0)
        self.settled(65.0, seen=1)
        kept = Settlement.objects.order_by("pk").last()
        self.assertEqual((kept.first_mark, kept.mark), (60.0, 65.0))

    def test_a_locked_brief_is_not_settled(self):
        Brief.objects.filter(pk=self.brief.pk).update(locked_at=timezone.now())
        with self.assertRaisesMessage(NotSettled, "locked"):
            self.settled()

    def test_the_award_needs_what_the_rules_ask_of_the_lowest_family(self):
        # "distinction" from 80 on asks for 5 of ten in each family (classical-line-mass).
        Mark.objects.filter(piece=self.piece).update(
            verdict=self.piece.mark.verdict | {"families": {"finish": 4.0}}
        )
        self.settled(85.0)
        self.assertEqual(Mark.objects.get(piece=self.piece).verdict["award"], "merit")

    def test_no_award_where_too_little_was_measured(self):
        Mark.objects.filter(piece=self.piece).update(
            verdict=self.piece.mark.verdict | {"measured": 7.0, "called_for": 10.0}
        )
        self.settled(85.0)
        self.assertEqual(Mark.objects.get(piece=self.piece).verdict["award"], "")

    def test_a_returned_piece_gets_a_further_sheet_that_says_why(self):
        other = photographed(self.brief, self.user)  # the first piece, with a real picture
        Settlement.objects.all().delete()
        confirm_handles(other.photograph, self.user)
        accept_marks(Piece.objects.get(pk=other.pk), self.user)
        issue_sheet(Piece.objects.get(pk=other.pk), self.user)
        self.settled(72.0)
        piece = Piece.objects.get(pk=other.pk)
        self.assertEqual(piece.state, Piece.State.MARKED)
        sheet = issue_sheet(piece, self.user)
        self.assertEqual((sheet.version, sheet.figures["score"]), (2, 72))
        self.assertEqual(sheet.figures["award"], "merit")
        self.assertIn("settled between two markers: Rim seen", sheet.figures["changed"])
        page = self.client.get(reverse("own-sheet", args=[sheet.key]))
        self.assertSays(page, "Settled between two markers: Rim seen again together.")
        self.assertNotContains(page, "of 100 ±")
        # given anew by its marker, the mark is that again
        accept_marks(Piece.objects.get(pk=other.pk), self.user)
        self.assertNotIn("settled", Mark.objects.get(piece=other).verdict)

    def test_a_reason_is_asked_for_and_what_was_typed_stays(self):
        photographed(self.brief, self.user)
        copy = self.second.copy
        Photograph.objects.filter(piece=copy).delete()
        like = Photograph.objects.filter(piece=self.piece).first()
        like.pk, like._state.adding, like.piece = None, True, copy
        like.save()
        Piece.objects.filter(pk__in=[copy.pk, self.piece.pk]).update(state=Piece.State.MARKED)
        Mark.objects.get_or_create(
            piece=copy, defaults={"photograph": like, "score": 80.0, "verdict": {"lines": []}}
        )
        address = reverse("second-mark", args=[self.second.pk])
        answer = self.client.post(address, {"mark": "71.5", "reason": "", "seen": "0"})
        self.assertContains(answer, "Write the reason", status_code=422)
        self.assertContains(answer, 'value="71.5"', status_code=422)
        self.client.post(address, {"mark": "71.5", "reason": "Talked over", "seen": "0"})
        self.assertEqual(Mark.objects.get(piece=self.piece).score, 71.5)
        answer = self.client.post(address, {"mark": "60", "reason": "Too late", "seen": "0"})
        self.assertContains(answer, "settled this piece meanwhile", status_code=422)
