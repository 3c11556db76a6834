"""The demo: an evening course at an invented coastal college that makes pieces for the foyer of a
maritime museum. All people and places are made up. Loading again adds nothing twice."""

from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import transaction

from heath.bench.accepting import accept_marks
from heath.briefs.models import Brief
from heath.classes.models import Course, Student
from heath.intake.adding import add_photograph, see_photograph
from heath.intake.arriving import receive
from heath.intake.links import make_link
from heath.intake.models import Piece
from heath.people.models import School, User
from heath.returns.issuing import issue_sheet
from heath.shelf.adding import add_container
from juniper.photobooth import Shot, frame, take
from juniper.photobooth.containers import SHELF
from juniper.photobooth.roll import EMPTY

CARD = "K7Q2M9XA"  # on the card that stands beside empty containers; no piece has it
PASSWORD = "heather-and-thyme"
STUDENTS = (
    "Ailsa Thornbury", "Benedikt Quayle", "Chidera Lund", "Dafydd Marrow", "Eluned Saltway", "Fionnuala Drift",
    "Gethin Osei", "Hanneke Strand", "Imogen Wrack", "Joaquim Fairlead", "Kirsi Brackwater", "Lorcan Teal",
    "Mirela Combe", "Nuala Ferrant", "Oskar Pellow", "Priya Landfall", "Quentin Sallow", "Rhiannon Skerry",
    "Solveig Hythe", "Tomasz Groyne", "Ulrike Marram", "Vikram Spindrift", "Wren Halyard", "Xanthe Coble",
    "Yusuf Thrift", "Zofia Ebbing", "Anselm Cutter", "Brigid Samphire", "Cosimo Leadbetter", "Delphine Rudder",
)  # fmt: skip
BRIEFS = (
    # name, container, form, viewpoint, scheme, views, pieces of the roll that were photographed and measured
    ("Foyer column, front of house", "tall cylinder", "symmetrical triangle", "front only", "analogous", ["front"], (30, 20, 33)),
    ("Jar for the figurehead niche", "ginger jar", "crescent", "front only", "analogous", ["front"], (34, 8)),
    ("Open evening, own vessel", "flared vase", "symmetrical triangle", "all round", "", ["front", "side", "back"], ()),
)
# What has come in for the last brief and is looked at when the workers start: (student's place, piece of the roll, view,
# file name or '' for one with the student's name, options of the shot).
COME_IN = (
    (0, 2, "front", "IMG_2207.jpg", {}), (0, 2, "side", "IMG_2208.jpg", {}), (0, 2, "back", "IMG_2209.jpg", {}),
    (1, 1, "front", "IMG_2214.heic", {"kind": "HEIC", "profile": "Display P3"}), (2, 0, "front", "IMG_2215.jpg", {"orientation": 6}),
    (3, 12, "front", "", {}), (4, 14, "front", "IMG_2219.jpg", {"kelvin": 3000.0}), (5, 16, "front", "IMG_2220.jpg", {"blur": 4.0}),
    (6, 21, "front", "IMG_2222.jpg", {"crop": (0.0, 0.25, 0.0, 0.0)}), (7, 22, "front", "", {}), (8, 24, "front", "DSC_0031.jpg", {}),
    (9, 26, "front", "DSC_0032.jpg", {}), (10, 35, "front", "IMG_2230.jpg", {"roll_deg": 7.0}),
)  # fmt: skip


def load():
    """Load the demo data."""
    college, _ = School.objects.get_or_create(name="Saltmarsh College")
    maren = _person(college, "maren", "Maren", "Hollis")
    _person(college, "ossian", "Ossian", "Brandt")
    course, _ = Course.objects.get_or_create(school=college, name="Evening course, museum foyer", term="Autumn 2026")
    Student.objects.bulk_create([Student(course=course, name=n) for n in STUDENTS], ignore_conflicts=True)
    _shelf(college, maren)
    for name, container, form, viewpoint, scheme, views, numbers in BRIEFS:
        shape, stands = SHELF[container], college.containers.get(name=container.capitalize())
        brief, _ = Brief.objects.get_or_create(
            course=course,
            name=name,
            defaults={
                "stands": stands,
                "container": container.capitalize(),
                "container_height_cm": shape.height_cm,
                "container_width_cm": round(shape.widest_cm, 1),
                "form": form,
                "viewpoint": viewpoint,
                "scheme": scheme,
                "views": views,
                "pass_mark": 50,
            },
        )
        brief.give_pieces()
        for number, piece in zip(numbers, brief.pieces.order_by("student__name"), strict=False):
            _photograph(piece, number, maren)
    _come_in(brief, maren)
    _first_returned(maren)


def _shelf(college, by):
    """The college's containers, each photographed empty with a card beside it and measured with a rule."""
    if college.containers.exists():
        return
    for place, shape in enumerate(SHELF.values()):
        one = add_container(college, take(frame(place, EMPTY), Shot(code=CARD)).data, f"{shape.name}.jpg", by)
        one.height_cm, one.width_cm, one.by_card = shape.height_cm, round(shape.widest_cm, 1), False
        one.save()


def _come_in(brief, by):
    """An evening's pictures have been dropped on the last brief: with cards, with names, with neither, well and badly taken."""
    if brief.arrivals.exists():
        return
    make_link(brief, by)
    pieces = list(brief.pieces.order_by("student__name"))
    for place, number, view, name, options in COME_IN:
        piece = pieces[place]
        picture = take(frame(number, view), Shot(code=piece.code, place=True, **options))
        name = name or f"{piece.student.name} {view}.jpg"  # noqa: PLW2901
        receive(brief, SimpleUploadedFile(name, picture.data), user=by)
    first = take(frame(COME_IN[0][1]), Shot(code=pieces[0].code, place=True))
    receive(brief, SimpleUploadedFile("IMG_2207 (1).jpg", first.data), user=by)
    receive(brief, SimpleUploadedFile("IMG_2231.jpg", first.data[: len(first.data) // 2]), user=by)


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
    picture = take(frame(number), Shot(code=piece.code, place=True))
    with transaction.atomic():
        photograph, _ = add_photograph(piece, picture.data, f"piece-{number + 1}.jpg", by)
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
