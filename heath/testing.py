"""What the site's tests share: a school with people, a class, a brief, and a simulated
photograph.
"""

import io
from functools import cache
from types import SimpleNamespace

from django.test import TestCase
from pypdf import PdfReader

from heath.assessment.mark_lines import keep_lines
from heath.assessment.models import Mark, Photograph, Piece
from heath.assessment.photographs import add_photograph, see_photograph
from heath.briefs.models import Brief
from heath.classes.models import Course, Student
from heath.intake.arriving import sort_arrival
from heath.intake.models import Arrival
from heath.jobs.models import Job
from heath.jobs.work import run
from heath.people.models import Role, School, User
from juniper import VERSION
from juniper.camera import Shot, frame, take
from juniper.measures.catalogue import DEFINITIONS


@cache
def picture(number=30, **shot):
    """A simulated photograph, taken once."""
    return take(frame(number), Shot(**shot))


def school(name="Cliffend College", username="ruth"):
    """A school with an instructor, a class of two students and a brief: (user, brief)."""
    place = School.objects.create(name=name)
    user = User.objects.create_user(
        username, password="a-long-password", school=place, role=Role.OWNER
    )
    course = Course.objects.create(school=place, name="Tuesday class", term="Autumn")
    for student in ("Ada Shore", "Bo Strand"):
        Student.objects.create(course=course, name=student)
    brief = Brief.objects.create(
        course=course,
        name="Column",
        container="Tall cylinder",
        container_height_cm=24,
        container_width_cm="10.4",
        viewpoint="front only",
        form="symmetrical triangle",
        scheme="analogous",
        pass_mark=50,
    )
    brief.give_pieces()
    return user, brief


def photographed(brief, user, number=30):
    """The first piece of a brief with a photograph that has been measured."""
    piece = brief.pieces.order_by("student__sorting").first()
    photograph, _ = add_photograph(piece, picture(number).data, "piece.jpg", user)
    see_photograph(photograph)
    return type(piece).objects.get(pk=piece.pk)


class SchoolTestCase(TestCase):
    """A signed-in instructor, and another school's instructor who must see nothing of it."""

    @classmethod
    def setUpTestData(cls):
        cls.user, cls.brief = school()
        cls.stranger, cls.other_brief = school("Far Harbour School", "stranger")

    def assertSays(self, answer, text, status_code=200):
        """The page says a text, however its lines are broken."""
        self.assertEqual(answer.status_code, status_code)
        self.assertIn(text, " ".join(answer.content.decode().split()))

    def setUp(self):
        self.client.force_login(self.user)


def done(answer):
    """The job that an answer leads to, after it was done as a worker does it."""
    job = Job.objects.get(secret=answer.url.rstrip("/").rpartition("/")[2])
    run(job.pk)
    job.refresh_from_db()
    return job


def printed(answer) -> bytes:
    """The file that a job made, to which an answer leads."""
    with done(answer).file.open("rb") as file:
        return file.read()


def text_of(paper: bytes) -> str:
    """The words of a PDF."""
    return "\n".join(page.extract_text() for page in PdfReader(io.BytesIO(paper)).pages)


def job(attempts):
    """What a task is told of its job."""
    return SimpleNamespace(job=SimpleNamespace(attempts=attempts, id=7, priority=0))


def look_at_arrivals() -> None:
    """Look at every picture that waits, as a worker does."""
    for arrival in Arrival.objects.filter(state=Arrival.State.WAITING):
        sort_arrival(arrival.pk)


def given_mark(piece, user, score, at=None, **rules) -> Mark:
    """A mark given to a piece without a picture being looked at; `rules` are marks of ten by the
    rule's measure, each of weight 1 and with a band from 1 to 2.
    """
    photograph = Photograph.objects.create(
        piece=piece, width=30, height=40, digest=f"{piece.pk}", full="f", screen="s"
    )
    lines = [
        {
            "rule": name.replace("_", "-"),
            "title": name.replace("_", " ").capitalize(),
            "family": DEFINITIONS[name].family if name in DEFINITIONS else "finish",
            "measure": name if name in DEFINITIONS else "",
            "value": 1.0 + mark / 10,
            "uncertainty": 0.05,
            "band": [0.5, 1.0, 2.0, None],
            "score": mark,
            "weight": 1.0,
            "state": "met" if mark >= 9.95 else "near",
            "borderline": False,
            "advice": "",
            "overridden": "",
        }
        for name, mark in rules.items()
    ]
    first = min(lines, key=lambda x: x["score"], default=None)
    mark = Mark.objects.create(
        piece=piece,
        photograph=photograph,
        rule_set="classical-line-mass",
        rule_set_version="6",
        core_version=VERSION,
        score=score,
        verdict={
            "score": score,
            "award": "merit" if score >= 65 else "pass",
            "families": {x["family"]: x["score"] for x in lines},
            "lines": lines,
            "next_cut": "Cut a little." if first else "",
            "next_cut_rule": first["rule"] if first else "",
            "uncertainty": 2.0,
        },
        accepted_by=user,
    )
    if at is not None:
        Mark.objects.filter(pk=mark.pk).update(accepted_at=at)
        Photograph.objects.filter(pk=photograph.pk).update(added_at=at)
    keep_lines(mark)
    piece.state = Piece.State.MARKED
    piece.save(update_fields=["state"])
    return mark
