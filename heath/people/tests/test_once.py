"""Pressed four times at once, a button has its effect once."""

import threading

from django.db import connections
from django.test import Client, TransactionTestCase
from django.urls import reverse

from heath.briefs.models import Brief
from heath.intake.models import StudentLink
from heath.people.models import Press
from heath.returns.models import ReturnSheet
from heath.rulebook.models import RuleSetVersion
from heath.testing import photographed, school

BRIEF = {
    "name": "Tide line",
    "container": "Bowl",
    "container_height_cm": "9",
    "container_width_cm": "26",
    "viewpoint": "front only",
    "form": "horizontal",
    "rule_set": "classical-line-mass",
    "scheme": "",
    "split": "60 : 30 : 10",
    "most_kinds": "3",
    "pass_mark": "50",
    "views": "front",
}


class PressedFourTimes(TransactionTestCase):
    def setUp(self):
        self.user, self.brief = school()

    def press(self, address, values=None):
        """What the answers of four presses at once lead to."""
        led, ready = [], threading.Barrier(4)

        def one():
            client = Client()
            client.force_login(self.user)
            ready.wait()
            answer = client.post(address, values or {})
            led.append((answer.status_code, getattr(answer, "url", "")))
            connections.close_all()

        threads = [threading.Thread(target=one) for _ in range(4)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        return set(led)

    def test_a_sheet(self):
        piece = photographed(self.brief, self.user)
        self.client.force_login(self.user)
        self.client.post(reverse("accept", args=[piece.pk]))
        led = self.press(reverse("return", args=[piece.pk]))
        self.assertEqual(led, {(302, reverse("sheet", args=[piece.pk]))})
        self.assertEqual(ReturnSheet.objects.count(), 1)

    def test_a_brief(self):
        led = self.press(
            reverse("brief-new"), BRIEF | {"course": self.brief.course_id, "once": "a-key"}
        )
        made = Brief.objects.get(name="Tide line")
        self.assertEqual(led, {(302, reverse("brief", args=[made.pk]))})
        self.assertEqual(made.pieces.count(), 2)

    def test_a_link(self):
        self.press(reverse("student-link", args=[self.brief.pk]), {"do": "make", "once": "a-key"})
        self.assertEqual(StudentLink.objects.count(), 1)

    def test_a_rule_sets_first_copy_even_without_a_key(self):
        led = self.press(reverse("rule-set-copy", args=["classical-line-mass"]))
        self.assertEqual(led, {(302, reverse("draft", args=[RuleSetVersion.objects.get().pk]))})

    def test_a_remark(self):
        piece = photographed(self.brief, self.user)
        self.press(reverse("remark", args=[piece.pk]), {"words": "Well grouped."})
        self.assertEqual(piece.remarks.count(), 1)

    def test_what_was_wrong_may_be_sent_again_and_what_was_changed_counts_as_new(self):
        self.client.force_login(self.user)
        values = BRIEF | {"course": self.brief.course_id, "once": "a-key"}
        self.assertEqual(
            self.client.post(reverse("brief-new"), values | {"name": ""}).status_code, 200
        )
        for name in ("Tide line", "Tide line", "Rope and sail"):
            self.assertEqual(
                self.client.post(reverse("brief-new"), values | {"name": name}).status_code, 302
            )
        self.assertEqual(Brief.objects.filter(name__in=("Tide line", "Rope and sail")).count(), 2)
        self.assertEqual(Press.objects.count(), 2)
