"""What is sent by strangers or fails in work: it ends in words, and displaces nobody's work."""

import io
from functools import partial
from unittest import mock

import numpy as np
from botocore.exceptions import EndpointConnectionError
from django.core.files.uploadedfile import SimpleUploadedFile
from django.urls import reverse
from django.utils import timezone
from PIL import Image
from procrastinate.contrib.django.models import ProcrastinateJob

from heath.assessment import tasks as assessment_tasks
from heath.assessment.models import Photograph, Piece
from heath.assessment.tasks import GIVEN_UP, GONE, MOST_LOOKS, MOST_TRIES, MOST_WAITS, tried
from heath.intake import arriving, quotas, tasks
from heath.intake.arriving import receive
from heath.intake.links import make_link, token
from heath.intake.models import Arrival
from heath.intake.tests.test_arriving import arrive
from heath.testing import SchoolTestCase, job, look_at_arrivals, photographed, picture


class GivenUp(SchoolTestCase):
    def test_what_fails_in_work_is_tried_again_and_then_called_so(self):
        arrival = receive(self.brief, SimpleUploadedFile("a.jpg", picture().data))
        with mock.patch.object(tasks, "sort_arrival", side_effect=MemoryError):
            for attempts in range(MOST_TRIES - 1):
                with self.assertRaises(MemoryError):
                    tasks.look_at_arrival(job(attempts), arrival.pk)
            with self.assertLogs("heath.assessment.tasks", "ERROR"):
                tasks.look_at_arrival(job(MOST_TRIES - 1), arrival.pk)
        arrival.refresh_from_db()
        self.assertEqual((arrival.state, arrival.reason), (Arrival.State.FAILED, GIVEN_UP))
        page = self.client.get(reverse("intake", args=[self.brief.pk]))
        self.assertContains(page, "could not be measured")
        self.assertNotContains(page, "load delay:1200ms")  # nothing is waited for any more
        self.client.post(reverse("arrival-sort", args=[arrival.pk]), {"do": "aside"})
        arrival.refresh_from_db()
        self.assertEqual(arrival.state, Arrival.State.DROPPED)

    def test_what_takes_its_workers_down_is_not_begun_again(self):
        done = []
        with self.assertLogs("heath.assessment.tasks", "ERROR"):
            tried(job(MOST_TRIES), lambda: done.append("begun"), done.append)
        self.assertEqual(done, [GIVEN_UP])

    def test_a_file_that_cannot_be_read_is_left_to_another_worker(self):
        piece = photographed(self.brief, self.user, 30)
        pk = piece.photograph.pk
        Photograph.objects.filter(pk=pk).update(scene=None)
        Piece.objects.filter(pk=piece.pk).update(state=Piece.State.MEASURING)
        with mock.patch.object(assessment_tasks, "see_photograph", side_effect=FileNotFoundError):
            with self.assertLogs("heath.assessment.tasks", "WARNING"):
                assessment_tasks.measure_photograph(job(0), pk, waits=3)
            (again,) = ProcrastinateJob.objects.filter(args__waits=4)
            self.assertEqual(again.args, {"photograph_id": pk, "waits": 4})
            ahead = (again.scheduled_at - timezone.now()).total_seconds()
            self.assertAlmostEqual(ahead, 8, delta=2)
            self.assertEqual(Piece.objects.get(pk=piece.pk).state, Piece.State.MEASURING)
            assessment_tasks.measure_photograph(job(0), pk, waits=MOST_LOOKS)
        piece = Piece.objects.get(pk=piece.pk)
        self.assertEqual((piece.state, piece.photograph.fault), (Piece.State.FAILED, GONE))

    def test_a_worker_that_sees_no_files_rests_while_others_are_there(self):
        piece = photographed(self.brief, self.user, 30)
        look = partial(assessment_tasks.measure_photograph, job(0), piece.photograph.pk)
        rests = []
        with (
            mock.patch.object(assessment_tasks.time, "sleep", rests.append),
            mock.patch.object(assessment_tasks, "workers_at_work", return_value=2),
        ):
            with mock.patch.object(
                assessment_tasks, "see_photograph", side_effect=FileNotFoundError
            ):
                for waits in range(4):
                    look(waits=waits)
            look()  # this one is read
            with mock.patch.object(
                assessment_tasks, "see_photograph", side_effect=FileNotFoundError
            ):
                look()
        self.assertEqual(rests, [5.0, 10.0, 20.0, 20.0, 5.0])
        assessment_tasks._misses.clear()

    def test_storage_that_is_away_is_waited_for(self):
        piece = photographed(self.brief, self.user, 30)
        away = EndpointConnectionError(endpoint_url="http://storage")
        for waits, left in ((MOST_LOOKS, 1), (MOST_WAITS, 0)):
            ProcrastinateJob.objects.all().delete()
            with mock.patch.object(assessment_tasks, "see_photograph", side_effect=away):
                assessment_tasks.measure_photograph(job(0), piece.photograph.pk, waits=waits)
            self.assertEqual(ProcrastinateJob.objects.filter(args__waits=waits + 1).count(), left)

    def test_a_photograph_that_cannot_be_measured(self):
        piece = photographed(self.brief, self.user, 30)
        piece.photograph.scene = None
        piece.photograph.save()
        Piece.objects.filter(pk=piece.pk).update(state=Piece.State.MEASURING)
        with (
            mock.patch.object(assessment_tasks, "see_photograph", side_effect=MemoryError),
            self.assertLogs("heath.assessment.tasks", "ERROR"),
        ):
            assessment_tasks.measure_photograph(job(MOST_TRIES - 1), piece.photograph.pk)
        piece = Piece.objects.get(pk=piece.pk)
        self.assertEqual((piece.state, piece.photograph.fault), (Piece.State.FAILED, GIVEN_UP))

    def test_one_that_was_seen_before_stays_as_it_was(self):
        piece = photographed(self.brief, self.user, 30)
        with (
            mock.patch.object(assessment_tasks, "see_photograph", side_effect=MemoryError),
            self.assertLogs("heath.assessment.tasks", "ERROR"),
        ):
            assessment_tasks.measure_photograph(job(MOST_TRIES - 1), piece.photograph.pk)
        self.assertEqual(Piece.objects.get(pk=piece.pk).photograph.fault, "")

    def test_odd_pictures_that_match_nobody(self):
        for size, words in (((1200, 900), "unmatched"), ((240, 4800), "failed")):
            out = io.BytesIO()
            Image.fromarray(np.full(size[::-1], 40_000, np.uint16)).save(out, "PNG")
            self.assertEqual(arrive(self.brief, out.getvalue(), f"{size}.png").state, words)


class NobodyDisplaced(SchoolTestCase):
    def test_a_name_displaces_no_photograph(self):
        piece = photographed(self.brief, self.user, 30)
        held, name = piece.photograph.pk, piece.student.name
        for more in ({"said": name}, {"name": f"{name}.jpg"}, {"said": piece.code}):
            done = arrive(self.brief, picture(11).data, **more)
            self.assertEqual((done.state, done.piece), ("unmatched", None), more)
            self.assertIn("has a photograph of this view already", done.reason)
            self.assertEqual(Piece.objects.get(pk=piece.pk).photograph.pk, held)
            self.assertContains(
                self.client.get(reverse("intake", args=[self.brief.pk])),
                "Sort it if it should replace",
            )
            done.delete()

    def test_a_name_opens_no_mark_again_from_any_side(self):
        piece = photographed(self.brief, self.user, 30)
        Piece.objects.filter(pk=piece.pk).update(state=Piece.State.RETURNED)
        done = arrive(self.brief, picture(11).data, f"{piece.student.name} side.jpg")
        self.assertEqual(done.state, "unmatched")
        self.assertIn("marked already", done.reason)
        self.assertEqual(Piece.objects.get(pk=piece.pk).state, Piece.State.RETURNED)

    def test_another_side_is_taken_by_name(self):
        piece = photographed(self.brief, self.user, 30)
        done = arrive(self.brief, picture(11).data, f"{piece.student.name} side.jpg")
        self.assertEqual((done.state, done.piece, done.view), ("sorted", piece, "side"))

    def test_the_instructor_sorts_it_all_the_same(self):
        piece = photographed(self.brief, self.user, 30)
        done = arrive(self.brief, picture(11).data, f"{piece.student.name}.jpg")
        arriving.sort_by_hand(done, piece, "front")
        look_at_arrivals()
        done.refresh_from_db()
        self.assertEqual((done.state, done.piece), ("sorted", piece))


class Quotas(SchoolTestCase):
    def send(self, text, name="IMG_0009.jpg"):
        data = SimpleUploadedFile(name, picture(12).data)
        return self.client.post(
            reverse("student-add", args=[text]), {"photographs": data}, headers={"X-Each": "1"}
        )

    def test_a_link_takes_no_more_than_its_bytes(self):
        text = token(make_link(self.brief, self.user))
        self.assertEqual(self.send(text).status_code, 204)
        self.assertEqual(Arrival.objects.get().size, len(picture(12).data))
        with mock.patch.object(quotas, "LINK_BYTES", 1000):
            answer = self.send(text)
        self.assertEqual(answer.status_code, 422)
        self.assertIn("taken as much as it can", answer.content.decode())
        self.assertEqual(Arrival.objects.count(), 1)

    def test_a_school_holds_no_more_than_is_set_for_it(self):
        piece = photographed(self.brief, self.user, 30)
        self.assertGreater(quotas.held(self.brief.course.school), 50_000)
        self.assertEqual(quotas.held(self.other_brief.course.school), 0)
        with self.settings(SCHOOL_GB=0):
            arrival = receive(self.brief, SimpleUploadedFile("a.jpg", picture(12).data))
            self.assertEqual((arrival.state, arrival.file.name), (Arrival.State.FAILED, ""))
            self.assertIn("fill the 0 GB", arrival.reason)
            page = self.client.post(
                reverse("photograph-add", args=[piece.pk]),
                {"photograph": SimpleUploadedFile("a.jpg", picture(12).data)},
                follow=True,
            )
            self.assertContains(page, "fill the 0 GB")
