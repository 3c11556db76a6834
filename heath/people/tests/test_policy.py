from django.apps import apps
from django.test import SimpleTestCase

from heath.people.policy import PATHS

HELD_BY_OTHERS = {
    "people.Press",
    "people.School",
    "assessment.Correction",
    "assessment.MarkChange",
    "assessment.MarkLine",
    "moderation.Round",
    "moderation.Settlement",
    "records.Attendance",
    "records.Gradebook",
    "records.Lesson",
    "records.MarkCorrection",
    "records.Note",
    "records.RecordLink",
    "records.Weight",
    "bench.Phrase",
    "bench.Presence",
    "assessment.PieceSnapshot",
}


class Policy(SimpleTestCase):
    def test_every_model_has_a_way_to_its_school(self):
        own = {m._meta.label for m in apps.get_models() if m.__module__.startswith("heath.")}
        self.assertEqual(own - set(PATHS), HELD_BY_OTHERS)
