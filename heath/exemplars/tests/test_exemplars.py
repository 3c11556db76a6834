"""The exemplar shelf: only what its maker allows, and for no longer."""

from django.urls import reverse

from heath.assessment.models import Piece
from heath.bench.accepting import accept_marks, confirm_handles
from heath.briefs.models import Brief
from heath.drawing.evidence import card_cover
from heath.exemplars.models import Exemplar
from heath.people.models import Role, User
from heath.records.models import RecordLink
from heath.returns.issuing import issue_sheet
from heath.testing import SchoolTestCase, given_mark, photographed


class Shelf(SchoolTestCase):
    @classmethod
    def setUpTestData(cls):
        super().setUpTestData()
        cls.piece, cls.other = cls.brief.pieces.order_by("student__sorting")
        given_mark(cls.piece, cls.user, 84.0, rim_cover=9.5, height_ratio=4.0)

    def offer(self, **told):
        values = {"rules": ["rim-cover"], "state": "allowed", "said": "signed form of 3 May"}
        return self.client.post(reverse("exemplar-offer", args=[self.piece.pk]), values | told)

    def test_on_the_shelf_by_rule_and_award_without_a_name(self):
        self.offer(words="See the rim.")
        page = self.client.get(reverse("exemplars"))
        self.assertContains(page, "See the rim.")
        self.assertNotContains(page, self.piece.student.name)
        for asked, shown in (
            ({"rule": "rim-cover"}, True),
            ({"award": "merit"}, True),
            ({"rule": "height-ratio"}, False),
            ({"award": "distinction"}, False),
        ):
            page = self.client.get(reverse("exemplars"), asked)
            self.assertEqual("See the rim." in page.content.decode(), shown, asked)

    def test_what_is_not_held_cannot_be_shown_and_a_permission_needs_words(self):
        for told, words in (
            ({"rules": ["height-ratio"]}, "not one of the available choices"),
            ({"rules": []}, "Choose a rule"),
            ({"said": ""}, "Write how the student allowed it"),
        ):
            self.assertContains(self.offer(**told), words, status_code=422)
        self.assertFalse(Exemplar.objects.exists())

    def test_asked_allowed_and_withdrawn_by_the_student(self):
        self.offer(state="asked", said="")
        self.assertNotContains(self.client.get(reverse("exemplars")), "<b>84</b>")
        Brief.objects.filter(pk=self.brief.pk).update(exemplar=self.piece)
        link = RecordLink.objects.create(student=self.piece.student)
        own = reverse("own-record", args=[link.key])
        answer = reverse("own-permission", args=[link.key, self.piece.pk])
        self.client.logout()
        self.assertSays(self.client.get(own), "May your piece <b>Column</b> be shown")
        self.client.post(answer, {"do": "allow"})
        self.assertSays(self.client.get(own), "is shown to other students")
        self.client.force_login(self.user)
        self.assertContains(self.client.get(reverse("exemplars")), "<b>84</b>")
        self.client.post(answer, {"do": "withdraw"})
        self.assertNotContains(self.client.get(reverse("exemplars")), "<b>84</b>")
        self.brief.refresh_from_db()
        self.assertIsNone(self.brief.exemplar)
        # no other piece, and none once the link is withdrawn
        other = reverse("own-permission", args=[link.key, self.other.pk])
        self.assertEqual(self.client.post(other, {"do": "allow"}).status_code, 404)
        RecordLink.objects.update(withdrawn_at=link.made_at)
        self.assertEqual(self.client.post(answer, {"do": "allow"}).status_code, 404)

    def test_asked_again_after_a_withdrawal(self):
        self.offer()
        one = Exemplar.objects.get()
        self.client.post(reverse("exemplar-change", args=[one.pk]), {"do": "withdraw"})
        self.assertContains(self.client.get(reverse("exemplars")), "withdrawn since")
        self.offer(state="asked", said="")
        self.assertEqual(Exemplar.objects.get().state, "asked")
        self.client.post(reverse("exemplar-change", args=[one.pk]), {"do": "remove"})
        self.assertFalse(Exemplar.objects.exists())

    def test_not_before_the_mark_nor_while_names_are_hidden_nor_by_others(self):
        offer = reverse("exemplar-offer", args=[self.other.pk])
        self.assertEqual(self.client.get(offer).url, reverse("bench", args=[self.other.pk]))
        Brief.objects.filter(pk=self.brief.pk).update(names_hidden=True)
        self.assertEqual(self.offer().url, reverse("bench", args=[self.piece.pk]))
        self.assertFalse(Exemplar.objects.exists())
        self.client.force_login(
            User.objects.create_user(
                "oz", password=None, school=self.user.school, role=Role.ASSISTANT
            )
        )
        self.assertEqual(self.offer().status_code, 403)
        self.client.force_login(self.stranger)
        self.assertEqual(self.offer().status_code, 404)


class Beside(SchoolTestCase):
    def test_both_with_what_the_rule_rests_on_and_the_exemplars_card_covered(self):
        piece = photographed(self.brief, self.user)
        confirm_handles(piece.photograph, self.user)
        accept_marks(Piece.objects.get(pk=piece.pk), self.user)
        issue_sheet(Piece.objects.get(pk=piece.pk), self.user)
        like = self.brief.pieces.exclude(pk=piece.pk).get()
        photograph = piece.photographs.get()
        photograph.pk, photograph._state.adding, photograph.piece = None, True, like
        photograph.save()
        Piece.objects.filter(pk=like.pk).update(state="marking")
        address = reverse("exemplar-beside", args=[like.pk])
        page = self.client.get(address, {"rule": "visible-height"})
        self.assertContains(page, "No exemplar on the shelf shows this rule")
        Exemplar.objects.create(piece=piece, rules=["visible-height"], state="allowed")
        page = self.client.get(address, {"rule": "visible-height"})
        self.assertContains(page, "Height to container: <b>", count=2)
        self.assertContains(page, 'class="mark mk-bracket"')
        self.assertContains(page, piece.student.name, count=0)
        if photograph.card:
            self.assertContains(page, "<polygon", count=1)
        self.client.force_login(self.stranger)
        self.assertEqual(self.client.get(address).status_code, 404)

    def test_the_cover_is_a_little_larger_than_the_card(self):
        class Taken:
            card = {"corners": [[0, 0], [100, 0], [100, 200], [0, 200]]}

        self.assertEqual(card_cover(Taken()), "-5,-10 105,-10 105,210 -5,210")
        Taken.card = None
        self.assertEqual(card_cover(Taken()), "")
