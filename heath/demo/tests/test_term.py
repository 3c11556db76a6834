from django.test import TestCase

from heath.assessment.models import Correction, Photograph, Piece
from heath.assessment.reading import read
from heath.classes.models import Student
from heath.demo.term import STUDENTS, load
from heath.people.models import User


class Demo(TestCase):
    def test_loaded_twice_nothing_is_doubled(self):
        load()
        models = (User, Student, Piece, Photograph, Correction)
        before = [m.objects.count() for m in models]
        load()
        self.assertEqual([m.objects.count() for m in models], before)
        self.assertEqual(before[1], len(STUDENTS))
        for piece in Piece.objects.filter(state=Piece.State.MARKING):
            self.assertIsNotNone(read(piece).verdict.score)
