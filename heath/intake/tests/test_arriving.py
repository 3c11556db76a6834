import io
import zipfile
from datetime import timedelta
from unittest import mock

from django.conf import settings
from django.core.files.storage import default_storage
from django.core.files.uploadedfile import SimpleUploadedFile
from django.core.signing import Signer
from django.db import transaction
from django.test import TransactionTestCase, override_settings
from django.urls import reverse
from django.utils import timezone
from procrastinate.contrib.django.models import ProcrastinateJob

from heath.assessment.models import Photograph, Piece
from heath.assessment.photographs import add_photograph, remove_photograph, see_photograph
from heath.intake.arriving import receive, sort_arrival, sort_by_hand, try_again
from heath.intake.links import SALT, link_of, make_link, token, withdraw
from heath.intake.models import Arrival
from heath.testing import SchoolTestCase, picture, printed, school
from juniper.camera import Shot, frame, take


def arrive(brief, data, name="IMG_0001.jpg", **more):
    """Send a picture and look at it, as the worker does."""
    arrival = receive(brief, SimpleUploadedFile(name, data), **more)
    sort_arrival(arrival.pk)
    return Arrival.objects.get(pk=arrival.pk)


class Sorting(SchoolTestCase):
    def setUp(self):
        super().setUp()
        self.first, self.second = self.brief.pieces.order_by("student__sorting")

    def test_by_its_card(self):
        with self.captureOnCommitCallbacks(execute=True):
            done = arrive(self.brief, picture(10, code=self.second.code).data)
        self.assertEqual((done.state, done.matched, done.piece), ("sorted", "card", self.second))
        self.assertEqual(done.photograph.card["code"], self.second.code)
        self.assertEqual(Piece.objects.get(pk=self.second.pk).state, Piece.State.MEASURING)
        # what was sent, with its place and all, is kept no longer
        self.assertEqual(done.file.name, "")

    def test_the_card_counts_for_more_than_the_name(self):
        self.assertEqual(
            arrive(self.brief, picture(10, code=self.second.code).data, "Ada Shore.jpg").piece,
            self.second,
        )

    def test_a_card_of_another_brief_is_not_guessed_away(self):
        stranger = self.other_brief.pieces.first()
        done = arrive(self.brief, picture(10, code=stranger.code).data, "Ada Shore.jpg")
        self.assertEqual((done.state, done.piece), ("unmatched", None))

    def test_by_its_name_and_view(self):
        done = arrive(self.brief, picture().data, "shore_side.jpg")
        self.assertEqual((done.matched, done.view, done.photograph.view), ("name", "side", "side"))
        # the front is what is measured
        self.assertEqual(Piece.objects.get(pk=self.first.pk).state, Piece.State.WAITING)

    def test_several_views_are_looked_at_in_the_order_they_came_in(self):
        self.brief.views = ["front", "side"]
        self.brief.save()
        for name in ("Ada Shore 1.jpg", "Ada Shore 2.jpg", "Ada Shore side.jpg"):
            receive(self.brief, SimpleUploadedFile(name, picture().data))
        locks = [
            j.lock
            for j in ProcrastinateJob.objects.filter(task_name="intake.look_at_arrival").order_by(
                "pk"
            )
        ]
        self.assertEqual(locks[0], locks[1])  # never at the same time, so never the wrong way round
        self.assertIn(str(self.brief.pk), locks[0])
        self.assertIsNone(locks[2])  # it says itself which it is

    def test_by_what_the_student_wrote(self):
        done = arrive(
            self.brief,
            picture().data,
            said=f"{self.second.code[:4]}-{self.second.code[4:].lower()}",
        )
        self.assertEqual((done.matched, done.piece), ("said", self.second))

    def test_by_hand(self):
        done = arrive(self.brief, picture().data)
        self.assertEqual(done.state, "unmatched")
        page = self.client.get(reverse("intake", args=[self.brief.pk]))
        self.assertContains(page, "Whose piece is it?")
        self.assertEqual(
            self.client.get(reverse("arrival-picture", args=[done.pk])).status_code, 200
        )
        self.client.post(
            reverse("arrival-sort", args=[done.pk]),
            {"do": "sort", "piece": self.first.pk, "view": "front"},
        )
        sort_arrival(done.pk)
        done.refresh_from_db()
        self.assertEqual((done.state, done.matched, done.piece), ("sorted", "hand", self.first))
        again = sort_by_hand(done, self.second, "front")
        self.assertEqual(again.piece, self.first)

    def test_views_are_filled_in_the_order_the_brief_asks(self):
        self.brief.views = ["front", "side", "back"]
        self.brief.save()
        for number, view in ((0, "front"), (0, "side"), (0, "back")):
            data = take(frame(number, view), Shot(code=self.first.code)).data
            self.assertEqual(arrive(self.brief, data).view, view)
        self.assertEqual(arrive(self.brief, picture(1, code=self.first.code).data).view, "front")
        self.assertEqual(self.first.photographs.filter(current=True).count(), 3)

    def test_the_same_picture_is_not_taken_twice(self):
        data = picture(10, code=self.first.code).data
        arrive(self.brief, data)
        again = arrive(self.brief, data, "copy.jpg")
        self.assertEqual((again.state, again.piece), ("duplicate", self.first))
        self.assertEqual(Photograph.objects.count(), 1)

    def test_what_cannot_be_used_says_why_and_can_be_tried_again(self):
        whole = picture().data
        for data, words in ((whole[: len(whole) // 2], "cut short"), (b"text", "not a photograph")):
            done = arrive(self.brief, data)
            self.assertEqual(done.state, "failed")
            self.assertIn(words, done.reason)
        try_again(done)
        self.assertEqual(Arrival.objects.get(pk=done.pk).state, "waiting")
        sort_arrival(done.pk)
        self.assertEqual(Arrival.objects.get(pk=done.pk).state, "failed")
        with mock.patch("heath.assessment.photographs.LARGEST_BYTES", 1000):
            self.assertIn(
                "MB is the most", receive(self.brief, SimpleUploadedFile("big.jpg", whole)).reason
            )
        page = self.client.get(reverse("intake", args=[self.brief.pk]))
        self.assertContains(page, "Cannot be used")

    def test_advice_is_shown_at_once_and_after_measuring(self):
        done = arrive(
            self.brief,
            picture(10, code=self.first.code, blur=5.0, crop=(0.0, 0.3, 0.0, 0.0)).data,
            "Ada Shore.jpg",
        )
        self.assertIn("blur", [a["code"] for a in done.advice])
        see_photograph(done.photograph)
        kept = Photograph.objects.get(pk=done.photograph.pk)
        self.assertLessEqual({"blur", "cut-off"}, {a["code"] for a in kept.advice})
        self.assertIn("retake", {a["use"] for a in kept.advice})
        self.assertContains(self.client.get(reverse("intake", args=[self.brief.pk])), "Take again.")

    def test_a_view_taken_out_leaves_the_marks_on_the_others(self):
        front, _ = add_photograph(self.first, picture().data, "a.jpg", self.user)
        side, _ = add_photograph(
            self.first, take(frame(0, "side")).data, "b.jpg", self.user, "side"
        )
        see_photograph(front)
        front.corrections.create(gesture="abcdef1", handle="rim", x=1, y=2, made_by=self.user)
        self.client.post(reverse("photograph-remove", args=[side.pk]))
        piece = Piece.objects.get(pk=self.first.pk)
        self.assertEqual(
            (piece.photograph, piece.view("side"), piece.state), (front, None, Piece.State.MARKING)
        )
        self.assertEqual(front.corrections.count(), 1)
        remove_photograph(front)
        self.assertEqual(Piece.objects.get(pk=self.first.pk).state, Piece.State.WAITING)
        back, _ = add_photograph(piece, picture().data, "a.jpg", self.user)
        self.assertEqual((back.pk, back.corrections.count()), (front.pk, 1))

    def test_other_schools_see_nothing_of_it(self):
        done = arrive(self.brief, picture().data)
        self.client.force_login(self.stranger)
        for name, pk in (("intake", self.brief.pk), ("arrival-picture", done.pk)):
            self.assertEqual(self.client.get(reverse(name, args=[pk])).status_code, 404)
        for name, pk in (
            ("arrive", self.brief.pk),
            ("arrival-sort", done.pk),
            ("student-link", self.brief.pk),
            ("handout", self.brief.pk),
        ):
            self.assertEqual(self.client.post(reverse(name, args=[pk])).status_code, 404)
        self.assertEqual(
            self.client.post(reverse("cards", args=[self.brief.pk, "a4"])).status_code, 404
        )


class StudentsLink(SchoolTestCase):
    def setUp(self):
        super().setUp()
        self.client.logout()
        self.link = make_link(self.brief, self.user)
        self.address = reverse("student-add", args=[token(self.link)])

    def send(self, data, client=None, **more):
        return (client or self.client).post(
            self.address, {"photographs": SimpleUploadedFile("me.jpg", data), **more}, follow=True
        )

    def test_a_phone_adds_pictures_and_sees_its_own_only(self):
        self.assertContains(self.client.get(self.address), self.brief.name)
        self.send(picture().data, said="Ada Shore")
        arrival = Arrival.objects.get()
        self.assertEqual((arrival.link, arrival.said), (self.link, "Ada Shore"))
        sort_arrival(arrival.pk)
        self.assertContains(self.client.get(self.address), "With your instructor")
        mine = reverse("student-picture", args=[token(self.link), arrival.pk])
        self.assertEqual(self.client.get(mine).status_code, 200)
        other = self.client_class()
        page = other.get(self.address)
        self.assertNotContains(page, "With your instructor")
        self.assertNotContains(page, "Ada Shore")
        self.assertNotContains(page, "Bo Strand")
        self.assertEqual(other.get(mine).status_code, 404)
        # The link opens nothing else.
        for name, pk in (
            ("brief", self.brief.pk),
            ("intake", self.brief.pk),
            ("photograph", arrival.photograph_id or 1),
        ):
            self.assertEqual(self.client.get(reverse(name, args=[pk])).status_code, 302)

    def test_printed_links_survive_a_change_of_the_sites_key(self):
        text = token(self.link)
        with override_settings(SECRET_KEY="another" * 10):
            self.assertEqual(link_of(text), self.link)

    def test_a_link_that_was_signed_by_an_older_release_holds_with_the_old_key(self):
        text = Signer(salt=SALT).sign(self.link.pk)
        self.assertEqual(link_of(text), self.link)
        with override_settings(SECRET_KEY="another" * 10):
            self.assertIsNone(link_of(text))
        with override_settings(
            SECRET_KEY="another" * 10, SECRET_KEY_FALLBACKS=[settings.SECRET_KEY]
        ):
            self.assertEqual(link_of(text), self.link)

    def test_secret_expiring_withdrawable(self):
        self.assertEqual(link_of(token(self.link)), self.link)
        for wrong in (f"{self.link.pk}:nonsense", str(self.link.pk), token(self.link)[:-1] + "_"):
            self.assertEqual(self.client.get(reverse("student-add", args=[wrong])).status_code, 404)
        self.link.closes_at = timezone.now() - timedelta(minutes=1)
        self.link.save()
        self.assertContains(self.send(picture().data), "has ended", status_code=410)
        fresh = make_link(self.brief, self.user)
        address = reverse("student-add", args=[token(fresh)])
        self.assertEqual(self.client.get(address).status_code, 200)
        withdraw(self.brief)
        self.assertContains(self.client.get(address), "withdrawn", status_code=410)
        self.assertFalse(Arrival.objects.exists())

    def test_it_ends_when_the_brief_closes(self):
        self.brief.closes_at = timezone.now() + timedelta(days=3)
        self.brief.save()
        self.assertEqual(make_link(self.brief, self.user).closes_at, self.brief.closes_at)

    def test_nothing_or_too_much_at_once(self):
        self.assertContains(
            self.client.post(self.address), "Choose the pictures again", status_code=422
        )
        many = [SimpleUploadedFile(f"{n}.jpg", b"x") for n in range(13)]
        self.assertContains(
            self.client.post(self.address, {"photographs": many}), "12 at once", status_code=422
        )

    def test_printed_matter(self):
        self.client.force_login(self.user)
        for name, args in (
            ("cards", [self.brief.pk, "a4"]),
            ("cards", [self.brief.pk, "a5"]),
            ("handout", [self.brief.pk]),
        ):
            paper = printed(self.client.post(reverse(name, args=args)))
            self.assertTrue(paper.startswith(b"%PDF"))
        wrong = self.client.post(reverse("cards", args=[self.brief.pk, "a0"]))
        self.assertEqual(wrong.status_code, 404)


class Interrupted(TransactionTestCase):
    """A worker that dies in the middle loses nothing and repeats nothing that shows."""

    def test_dying_at_any_moment(self):
        user, brief = school()
        piece = brief.pieces.first()
        data = picture(10, code=piece.code).data
        for moment in (
            "heath.intake.arriving.read_with_copies",
            "juniper.photograph.decode.Copies.made",
            "heath.assessment.photographs.update_state",
            "heath.intake.arriving._hand_on",
        ):
            arrival = receive(brief, SimpleUploadedFile("a.jpg", data), user=user)
            with mock.patch(moment, side_effect=SystemExit), self.assertRaises(SystemExit):
                sort_arrival(arrival.pk)
            arrival.refresh_from_db()
            self.assertEqual((arrival.state, bool(arrival.file)), ("waiting", True), moment)
            self.assertFalse(Photograph.objects.exists())
            arrival.delete()
        arrival = receive(brief, SimpleUploadedFile("a.jpg", data), user=user)
        sort_arrival(arrival.pk)
        sort_arrival(arrival.pk)
        self.assertEqual(Photograph.objects.count(), 1)
        own = {"photograph_id": Photograph.objects.get().pk}
        measuring = ProcrastinateJob.objects.filter(
            task_name="assessment.measure_photograph", args=own
        )
        self.assertEqual(measuring.count(), 1)

    def test_two_workers_at_one_picture(self):
        _, brief = school()
        arrival = receive(
            brief, SimpleUploadedFile("a.jpg", picture(10, code=brief.pieces.first().code).data)
        )
        with transaction.atomic():
            Arrival.objects.select_for_update().get(pk=arrival.pk)
            from concurrent.futures import ThreadPoolExecutor

            from django.db import connection

            def other():
                try:
                    sort_arrival(arrival.pk)
                finally:
                    connection.close()

            with ThreadPoolExecutor(1) as pool:
                pool.submit(other).result(timeout=20)
        self.assertEqual(Arrival.objects.get(pk=arrival.pk).state, "waiting")


class NothingHostile(SchoolTestCase):
    def test_names_are_made_harmless(self):
        done = receive(self.brief, SimpleUploadedFile("x<script>alert(1)</script>.jpg", b"no"))
        self.assertNotIn("<", done.name)
        self.assertTrue(default_storage.exists(done.file.name))
        self.assertNotIn("script", done.file.name)

    def test_an_archive_is_no_photograph(self):
        out = io.BytesIO()
        with zipfile.ZipFile(out, "w") as z:
            z.writestr("a.jpg", picture().data)
        self.assertEqual(arrive(self.brief, out.getvalue(), "evening.zip").state, "failed")
