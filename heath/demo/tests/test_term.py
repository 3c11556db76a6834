from dataclasses import replace
from unittest import mock

from django.test import TestCase

from heath.assessment.models import Correction, Photograph, Piece
from heath.assessment.reading import read
from heath.classes.models import Student
from heath.demo import term
from heath.demo.term import STUDENTS, load
from heath.people.models import User


def shortened(one: term.Set, most: int) -> term.Set:
    """A brief of the term with its first pictures only: the whole term is loaded by the start
    command's own tests.
    """
    return replace(
        one,
        numbers=one.numbers[:most],
        compositions=one.compositions[:1],
        returned=min(one.returned, most),
    )


SHORT = tuple(
    shortened(s, 4 if s is term.RETURNED else 2 if s is term.MARKING else 1) for s in term.TERM
)


@mock.patch.multiple(
    term,
    TERM=SHORT,
    RETURNED=SHORT[0],
    MARKING=SHORT[1],
    WORDS=tuple(w for w in term.WORDS if w[0] < 4),
    PINNED=tuple(p for p in term.PINNED if p[0] < 4),
    COME_IN=term.COME_IN[:3],
)
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
