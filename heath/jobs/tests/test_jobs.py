from datetime import timedelta
from unittest import mock

from django.core.files.base import ContentFile
from django.urls import reverse
from django.utils import timezone
from procrastinate.contrib.django.models import ProcrastinateJob

from heath.jobs import work
from heath.jobs.models import Job
from heath.testing import SchoolTestCase


class Jobs(SchoolTestCase):
    """Work that is done in the background: asked for, waited for, given to those who asked."""

    def setUp(self):
        super().setUp()
        handlers = mock.patch.dict(work.HANDLERS, {"count": self.count, "fail": self.fail_in_words})
        handlers.start()
        self.addCleanup(handlers.stop)

    def count(self, job):
        for number in range(job.given["to"]):
            job.progress(number, job.given["to"])
        job.name = "counted.pdf"
        job.file.save(job.name, ContentFile(job.sent.read() + b" counted"), save=False)

    def fail_in_words(self, job):
        raise work.NotDone("Choose another number.") if job.given else RuntimeError("a secret")

    def start(self, kind="count", user="own", **given):
        asked_by = self.user if user == "own" else user
        return work.start(kind, self.user.school, asked_by, "To count", given, b"one", "/briefs/")

    def page(self, job, **headers):
        return self.client.get(reverse("job", args=[job.secret]), headers=headers)

    def test_it_is_asked_for_done_once_and_given_out(self):
        job = self.start(to=3)
        self.assertEqual(ProcrastinateJob.objects.filter(task_name="jobs.run").count(), 1)
        self.assertContains(self.page(job), "It is being prepared")
        file = reverse("job-file", args=[job.secret])
        self.assertEqual(self.client.get(file).status_code, 404)
        work.run(job.pk)
        work.run(job.pk)  # a worker that takes it up again changes nothing
        job.refresh_from_db()
        self.assertEqual((job.done, job.total, job.fault, job.sent.name), (2, 3, "", ""))
        self.assertContains(self.page(job), "Open counted.pdf")
        leads = self.page(job, **{"HX-Request": "true"})
        self.assertEqual(leads["HX-Redirect"], file)
        given = self.client.get(file)
        self.assertEqual(given["Content-Type"], "application/pdf")
        self.assertEqual(b"".join(given.streaming_content), b"one counted")

    def test_how_far_it_is(self):
        job = self.start(to=3)
        job.progress(1, 3)
        self.assertContains(self.page(job), "1 of 3 done")

    def test_what_cannot_be_done_says_why_and_leads_back(self):
        job = self.start("fail", why="a number")
        work.run(job.pk)
        page = self.page(job)
        self.assertContains(page, "Choose another number.")
        self.assertContains(page, 'href="/briefs/"')
        broken = self.start("fail")
        with self.assertLogs("heath.jobs.work", "ERROR"):
            work.run(broken.pk)
        self.assertContains(self.page(broken), "Try once more")
        self.assertNotContains(self.page(broken), "a secret")

    def test_it_belongs_to_its_school_or_to_whoever_has_its_address(self):
        own, anybodys = self.start(to=1), self.start(user=None, to=1)
        for job in (own, anybodys):
            work.run(job.pk)
        self.client.force_login(self.stranger)
        self.assertEqual(self.page(own).status_code, 404)
        self.client.logout()
        self.assertEqual(self.page(own).status_code, 404)
        self.assertEqual(self.client.get(reverse("job-file", args=[own.secret])).status_code, 404)
        self.assertEqual(self.page(anybodys).status_code, 200)
        self.assertEqual(self.client.get(reverse("job", args=["x" * 22])).status_code, 404)

    def test_what_is_a_day_old_is_removed(self):
        old, new = self.start(to=1), self.start(to=1)
        work.run(old.pk)
        Job.objects.filter(pk=old.pk).update(asked_at=timezone.now() - timedelta(hours=25))
        self.assertEqual(work.clear_old(), 1)
        self.assertEqual(list(Job.objects.all()), [new])
