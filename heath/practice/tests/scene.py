"""What the tests of eye practice share: a few pictures with their studies, made once."""

from dataclasses import replace

from django.test import TestCase

from heath.practice.models import PracticePicture
from heath.practice.rounds import learner_of_user
from heath.practice.stock import index_of
from heath.testing import school
from juniper.learning.tests.test_exercises import STUDY
from juniper.rules import school as rules_of


def drawn_pictures(count=8) -> list[PracticePicture]:
    """Pictures of the simulated camera without files, whose studies are drawn: each taller than the
    one before.
    """
    out = []
    for n in range(count):
        high = 1.2 + 0.23 * n
        study = replace(
            STUDY,
            top=(200, 300 - 100 * high),
            scheme=("analogous", "triadic")[n % 2],
            faults=("twin tips",) if n % 2 else (),
            values=STUDY.values
            | {
                "governing_ratio": high,
                "height_ratio": high,
                "height_ratio_image": high,
                "heavier_share": 0.5 + 0.02 * n,
                "outline_fill": 0.5 + 0.05 * n,
                "twin_tips": 0.0,
            },
        )
        marks = {
            slug: {"score": 40.0 + 5 * n, "balance": 4.0 + 0.5 * n, "colour": 6.0}
            for slug in ("classical-line-mass",)
        }
        out.append(
            PracticePicture.objects.create(
                number=n,
                study=study.as_document(),
                index=index_of(study),
                marks=marks,
                version="tests",
            )
        )
    return out


class Practising(TestCase):
    """A school, its instructor signed in, and eight pictures to ask about."""

    @classmethod
    def setUpTestData(cls):
        cls.user, cls.brief = school()
        cls.course = cls.brief.course
        cls.pictures = drawn_pictures()
        cls.rules = rules_of("classical-line-mass")

    def setUp(self):
        self.client.force_login(self.user)

    @property
    def learner(self):
        return learner_of_user(self.user)
