"""The demo: an evening course at an invented coastal college that makes pieces for the foyer of a
maritime museum. All people and places are made up. Loading again adds nothing twice."""

from django.db import transaction

from heath.bench.accepting import accept_marks
from heath.briefs.models import Brief
from heath.classes.models import Course, Student
from heath.intake.adding import add_photograph, see_photograph
from heath.intake.models import Piece
from heath.people.models import School, User
from heath.returns.issuing import issue_sheet
from juniper.photobooth import PIECES, take
from juniper.photobooth.pieces import VESSELS

PASSWORD = "heather-and-thyme"
STUDENTS = (
    "Ailsa Thornbury", "Benedikt Quayle", "Chidera Lund", "Dafydd Marrow", "Eluned Saltway", "Fionnuala Drift",
    "Gethin Osei", "Hanneke Strand", "Imogen Wrack", "Joaquim Fairlead", "Kirsi Brackwater", "Lorcan Teal",
    "Mirela Combe", "Nuala Ferrant", "Oskar Pellow", "Priya Landfall",
)  # fmt: skip
BRIEFS = (
    # name, vessel, form, viewpoint, scheme, numbers of the pieces that were photographed
    ("Foyer column, front of house", "tall cylinder", "symmetrical triangle", "front only", "analogous", (0, 5, 8)),
    ("Jar for the figurehead niche", "ginger jar", "crescent", "front only", "analogous", (7, 3)),
    ("Chart room side table", "flared vase", "right-angle L", "front only", "complementary", ()),
)


def load():
    """Load the demo data."""
    college, _ = School.objects.get_or_create(name="Saltmarsh College")
    maren = _person(college, "maren", "Maren", "Hollis")
    _person(college, "ossian", "Ossian", "Brandt")
    course, _ = Course.objects.get_or_create(school=college, name="Evening course, museum foyer", term="Autumn 2026")
    Student.objects.bulk_create([Student(course=course, name=n) for n in STUDENTS], ignore_conflicts=True)
    for name, vessel, form, viewpoint, scheme, numbers in BRIEFS:
        shape = VESSELS[vessel]
        brief, _ = Brief.objects.get_or_create(
            course=course,
            name=name,
            defaults={
                "container": vessel.capitalize(),
                "container_height_cm": shape.height_cm,
                "container_width_cm": round(shape.width_cm, 1),
                "form": form,
                "viewpoint": viewpoint,
                "scheme": scheme,
                "pass_mark": 50,
            },
        )
        brief.give_pieces()
        for number, piece in zip(numbers, brief.pieces.order_by("student__name"), strict=False):
            _photograph(piece, number, maren)
    _first_returned(maren)


def _person(college, username, first, last):
    person, made = User.objects.get_or_create(
        username=username, defaults={"school": college, "first_name": first, "last_name": last}
    )
    if made:
        person.set_password(PASSWORD)
        person.save()
    return person


def _photograph(piece, number, by):
    """One simulated photograph, measured here so that the bench is ready at the first sign-in."""
    if piece.photographs.exists():
        return
    picture = take(number)
    with transaction.atomic():
        photograph, _ = add_photograph(piece, picture.jpeg, f"{PIECES[number].vessel}.jpg", by)
    see_photograph(photograph)


def _first_returned(by):
    """One piece of the first brief is marked and returned already, with a word of the instructor's."""
    piece = Piece.objects.filter(brief__name=BRIEFS[0][0], state=Piece.State.MARKING).order_by("student__name").last()
    if piece is None or piece.brief.pieces.filter(state=Piece.State.RETURNED).exists():
        return
    piece.overrides.create(
        rule="rim-softened", score=9.0, old_score=None, reason="The glazed rim is meant to be seen here.", made_by=by
    )
    accept_marks(piece, by)
    issue_sheet(piece, by)
