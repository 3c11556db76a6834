from dataclasses import replace
from unittest.mock import patch

import numpy as np
from procrastinate.contrib.django.models import ProcrastinateJob

from heath.assessment import tasks
from heath.assessment.models import Correction
from heath.testing import SchoolTestCase, photographed
from juniper.scene import NoCutOut, Scene


class StandInEngine:
    """A second engine that calls everything the piece, or that cannot run."""

    def __init__(self, fault=""):
        self.fault, self.asked = fault, 0

    def foreground(self, pixels):
        self.asked += 1
        if self.fault:
            raise NoCutOut(self.fault)
        return np.ones(pixels.shape[:2], np.float32)


class LookedAtTwice(SchoolTestCase):
    def doubtful(self):
        """A piece whose picture is doubted, as one of clear glass before a pale wall may be."""
        piece = photographed(self.brief, self.user, 15)
        scene = piece.photograph.core_scene()
        piece.photograph.keep_scene(
            replace(
                scene, datum=replace(scene.datum, confidence=0.3, doubts=("the rim is hidden",))
            )
        )
        piece.photograph.save(update_fields=["scene"])
        return piece

    def jobs(self):
        return ProcrastinateJob.objects.filter(task_name="assessment.look_twice")

    def test_only_a_doubtful_picture_and_only_with_an_engine(self):
        piece, clear = self.doubtful(), photographed(self.other_brief, self.stranger, 30)
        with patch.object(tasks, "installed_cutout", return_value=None):
            tasks.measure(piece.photograph.pk)
        self.assertEqual(self.jobs().count(), 0)
        with patch.object(tasks, "installed_cutout", return_value=StandInEngine()):
            tasks.measure(clear.photograph.pk)
            self.assertEqual(self.jobs().count(), 0)
            with patch.object(Scene, "doubtful", True):
                tasks.measure(piece.photograph.pk)
        job = self.jobs().get()
        self.assertEqual(job.args, {"photograph_id": piece.photograph.pk})
        self.assertLess(job.priority, 0)

    def test_the_outlines_maker_is_recorded(self):
        piece = self.doubtful()
        with patch.object(tasks, "installed_cutout", return_value=StandInEngine()):
            tasks.look_twice(piece.photograph.pk)
        piece.photograph.refresh_from_db()
        scene = piece.photograph.core_scene()
        self.assertEqual(scene.engine, "network with foreground")
        piece.photograph.keep_scene(
            replace(
                scene, datum=replace(scene.datum, confidence=0.3, doubts=("the rim is hidden",))
            )
        )
        piece.photograph.save(update_fields=["scene"])
        self.assertContains(
            self.client.get(f"/pieces/{piece.pk}/"), "A second method helped with the outline"
        )

    def test_what_a_person_works_on_is_left_alone(self):
        piece = self.doubtful()
        Correction.objects.create(
            photograph=piece.photograph,
            gesture="abcdefgh",
            handle="rim",
            x=10,
            y=10,
            made_by=self.user,
        )
        engine = StandInEngine()
        with patch.object(tasks, "installed_cutout", return_value=engine):
            tasks.look_twice(piece.photograph.pk)
        self.assertEqual(engine.asked, 0)

    def test_an_engine_that_fails_changes_nothing(self):
        piece = self.doubtful()
        with (
            patch.object(tasks, "installed_cutout", return_value=StandInEngine("no model")),
            self.assertLogs("heath.assessment.tasks", "WARNING"),
        ):
            tasks.look_twice(piece.photograph.pk)
        piece.photograph.refresh_from_db()
        self.assertEqual(piece.photograph.core_scene().engine, "network")
        self.assertEqual(piece.photograph.fault, "")
