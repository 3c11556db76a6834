"""The demo: an evening course at an invented coastal college that makes pieces for the foyer of a
maritime museum. All people and places are made up. Loading again adds nothing twice."""

from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, replace
from datetime import timedelta
from multiprocessing import get_context
from typing import Any

from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import transaction
from django.utils import timezone

from heath.assessment.models import Piece, View
from heath.assessment.photographs import add_photograph, see_photograph
from heath.assessment.reading import read
from heath.bench.accepting import accept_marks, confirm_handles
from heath.bench.changing import remember
from heath.briefs.models import Brief
from heath.classes.models import Course, Student
from heath.demo.practising import load_practice
from heath.intake.arriving import receive
from heath.intake.links import make_link
from heath.people.models import Role, School, User
from heath.planner.models import Plan, Workshop
from heath.returns.issuing import issue_sheet
from heath.shelf.adding import add_container
from juniper.camera import Shot, frame, take
from juniper.camera.capture import of_the_roll
from juniper.camera.compositions import COUNTER
from juniper.camera.containers import SHELF
from juniper.camera.roll import EMPTY, STAGES
from juniper.rules import KINDS
from juniper.rules.verdict import ANSWERS

CARD = "K7Q2M9XA"  # on the card that stands beside empty containers; no piece has it
PASSWORD = "heather-and-thyme"
STUDENTS = (
    "Ailsa Thornbury",
    "Benedikt Quayle",
    "Chidera Lund",
    "Dafydd Marrow",
    "Eluned Saltway",
    "Fionnuala Drift",
    "Gethin Osei",
    "Hanneke Strand",
    "Imogen Wrack",
    "Joaquim Fairlead",
    "Kirsi Brackwater",
    "Lorcan Teal",
    "Mirela Combe",
    "Nuala Ferrant",
    "Oskar Pellow",
    "Priya Landfall",
)


@dataclass(frozen=True)
class Set:
    """A brief of the term: how it is set, and the pieces of the roll that were photographed for it,
    or its compositions by name, in the students' order.
    """

    name: str
    container: str
    height_cm: float
    width_cm: float
    form: str
    viewpoint: str
    school: str
    scheme: str = ""
    views: tuple[str, ...] = ("front",)
    numbers: tuple[int, ...] = ()
    returned: int = 0
    marked: int = 0
    kind: str = KINDS[0]
    compositions: tuple[str, ...] = ()


RETURNED = Set(
    "Front of house, own vessel",
    "Own vessel",
    23.0,
    11.0,
    "symmetrical triangle",
    "front only",
    "classical-line-mass",
    "analogous",
    numbers=(0, 1, 12, 13, 15, 16, 20, 22, 33, 2, 7, 24, 30, 9, 32, 8),
    returned=16,
)
MARKING = Set(
    "Rounds for the figurehead niche",
    "Own vessel",
    21.0,
    16.0,
    "round",
    "all round",
    "layered-round",
    views=("front", "back"),
    numbers=(10, 34, 29, 14, 21, 6),
    returned=1,
    marked=1,
)
WAITING = Set(
    "Tide-line trays for the long window",
    "Shallow tray",
    5.5,
    28.0,
    "three-stem",
    "front only",
    "three-stem-thirds",
    "monochromatic",
)
COLUMNS = Set(
    "Columns for the staircase",
    "Tall cylinder",
    24.0,
    10.4,
    "symmetrical triangle",
    "front only",
    "classical-line-mass",
    "analogous",
    numbers=(0,),
)
BOWLS = Set(
    "Low bowls for the captains' table",
    "Low bowl",
    9.5,
    26.4,
    "horizontal",
    "seated at a table",
    "low-table-piece",
    "analogous",
    numbers=(3,),
)
COUNTER_TOP = Set(
    "Singles for the ticket counter",
    "5 vessels",
    25.0,
    9.2,
    "free",
    "front only",
    "grouped-vessels",
    kind="several vessels",
    compositions=("counter-0", "counter-1", "counter-2", "counter-3", "counter-5"),
)
STEP_BY_STEP = Set(
    "Foliage first, for the stairwell",
    "Own vessel",
    24.0,
    10.4,
    "symmetrical triangle",
    "front only",
    "classical-line-mass",
    views=("front", *STAGES),
    numbers=(0, 12, 13),
)
TERM = (RETURNED, MARKING, WAITING, COLUMNS, BOWLS, COUNTER_TOP, STEP_BY_STEP)
# What is planned for three of them: lines of the recipe (material, role, colour), how full, where
# it will stand.
PLANNED = {
    COLUMNS.name: (
        (
            ("antirrhinum", "line", "orange"),
            ("helianthus", "focal", "yellow"),
            ("carnation", "mass", "orange"),
            ("solidago", "filler", "yellow"),
            ("achillea", "filler", "yellow"),
            ("hypericum", "filler", "red"),
            ("eucalyptus", "foliage", "silver"),
            ("ruscus", "foliage", "green"),
            ("hedera", "foliage", "green"),
        ),
        "usual",
        ["electrics"],
    ),
    BOWLS.name: (
        (
            ("antirrhinum", "line", "yellow"),
            ("rose-spray", "mass", "orange"),
            ("calendula", "mass", "orange"),
            ("convallaria", "filler", "white"),
            ("alchemilla", "filler", "lime"),
            ("rosemary", "foliage", "green"),
            ("mint", "foliage", "green"),
        ),
        "thrifty",
        ["food", "flame"],
    ),
    WAITING.name: (
        (
            ("prunus", "line", "rose"),
            ("camellia", "focal", "rose"),
            ("tulip", "mass", "rose"),
            ("aspidistra", "foliage", "green"),
        ),
        "usual",
        [],
    ),
}
# lessons that are planned, on the next Thursday evening: minutes, people, transport, minutes on the
# way
LESSONS = {WAITING.name: (150, 2, "driven", 15)}
PRICES = """# Harbour market, Thursday
Snapdragon, 10, £8.50
Sunflower, 5, £6.00
Carnation, 20, £9.00
Goldenrod, 10, £6.50
Yarrow, 10, £6.00
Tutsan berries, 10, £9.50
Eucalyptus, 5, £5.50
Italian ruscus, 10, £7.50
Tulip, 10, £4.50
Spray rose, 10, £11.00
Pot marigold, 10, £5.50
Lady's mantle, 10, £7.00
Rosemary, 10, £5.00
Cast-iron leaf, 10, £9.00
Cherry blossom, 10, £14.00
"""
# What has come in for the brief that is being marked and is looked at when the workers start:
# (student's place, piece of the roll, view, file name or '' for one with the student's name,
# options of the shot).
COME_IN: tuple[tuple[int, int, str, str, dict[str, Any]], ...] = (
    (0, 10, "back", "IMG_2207.jpg", {}),
    (6, 5, "front", "IMG_2214.heic", {"kind": "HEIC", "profile": "Display P3"}),
    (7, 19, "front", "IMG_2215.jpg", {"orientation": 6}),
    (8, 23, "front", "", {}),
    (9, 25, "front", "IMG_2219.jpg", {"kelvin": 3000.0}),
    (10, 18, "front", "IMG_2220.jpg", {"blur": 4.0}),
    (13, 0, "empty", "IMG_2232.jpg", {}),
    (11, 35, "front", "IMG_2222.jpg", {"crop": (0.0, 0.25, 0.0, 0.0)}),
    (12, 31, "front", "IMG_2230.jpg", {"roll_deg": 7.0}),
)
WORDS = (
    # place of the student in the returned brief, rule, score or None to waive, reason
    (1, "rim-softened", 9.0, "The glazed rim is meant to be seen here."),
    (3, "no-twin-tips", 6.0, "The second tip was broken on the way in."),
    (11, "wished-scheme", None, "White and green was agreed for the chapel corner."),
)
PINNED = (
    (0, 0.50, 0.22, "Your tallest stem sits true over the rim: keep that."),
    (2, 0.36, 0.45, "Set one of these opposite, a hand lower."),
    (6, 0.50, 0.12, "Cut here first, then look again."),
)


def load(small: bool = False):
    """Load the demo data; a `small` one has one piece to a brief, or two."""
    term = tuple(_cut_down(one) for one in TERM) if small else TERM
    college, _ = School.objects.get_or_create(name="Saltmarsh College")
    maren = _person(college, "maren", "Maren", "Hollis", Role.OWNER)
    if not maren.is_superuser:  # looks after the server as well
        maren.is_superuser = True
        maren.save(update_fields=["is_superuser"])
    ossian = _person(college, "ossian", "Ossian", "Brandt", Role.ASSISTANT)
    course, _ = Course.objects.get_or_create(
        school=college, name="Evening course, museum foyer", term="Autumn 2026"
    )
    Student.objects.bulk_create(
        [Student(course=course, name=n) for n in STUDENTS], ignore_conflicts=True
    )
    _shelf(college, maren)
    briefs = [_set(course, one) for one in term]
    with ProcessPoolExecutor(1, mp_context=get_context("spawn")) as camera:
        for brief, one in zip(briefs, term, strict=True):
            _photographed(brief, one, maren, camera)
    _come_in(briefs[1], maren, COME_IN[:2] if small else COME_IN)
    for brief in briefs:
        _plan(brief, maren)
    if not briefs[2].links.exists():
        make_link(briefs[2], maren)
    for brief, one, by in zip(briefs[:2], term[:2], (ossian, maren), strict=True):
        _marked(brief, one, by)
    load_practice(course, maren, ossian, small)


def _cut_down(one: Set) -> Set:
    """A brief of the term with few pieces, every kind of picture among them."""
    return replace(
        one,
        numbers=one.numbers[: 1 if len(one.views) > 2 else 2],
        compositions=one.compositions[:1],
        returned=min(one.returned, 1),
    )


def _set(course, one: Set) -> Brief:
    """One brief of the term, with a piece for each student."""
    shelf_container = course.school.containers.filter(name=one.container).first()
    brief, _ = Brief.objects.get_or_create(
        course=course,
        name=one.name,
        defaults={
            "shelf_container": shelf_container,
            "container": one.container,
            "container_height_cm": one.height_cm,
            "container_width_cm": one.width_cm,
            "form": one.form,
            "viewpoint": one.viewpoint,
            "rule_set": one.school,
            "scheme": one.scheme,
            "views": list(one.views),
            "pass_mark": 50,
            "kind": one.kind,
            "vessels": _vessels() if one.compositions else [],
            "support": "table",
        },
    )
    brief.give_pieces()
    return brief


def _vessels() -> list[dict]:
    """The vessels of the ticket counter, as a brief sets them out."""
    return [
        {
            "name": c.name,
            "shelf": None,
            "height_cm": c.height_cm,
            "width_cm": round(c.widest_cm, 1),
            "clear": c.material == "glass",
            "colour": glaze,
            "x_cm": x,
            "y_cm": max(0.0, y + 4),
        }
        for c, glaze, x, y in COUNTER
    ]


def _plan(brief, by) -> None:
    """What is planned for a brief, and the price list of the school."""
    lines, variant, near = PLANNED.get(brief.name, ((), "", []))
    if not lines or hasattr(brief, "plan"):
        return
    brief.near = near
    brief.save(update_fields=["near"])
    items = [
        {"slug": slug, "role": role, "colour": colour, "stems": None}
        for slug, role, colour in lines
    ]
    Plan.objects.create(
        brief=brief, items=items, variant=variant, changed_by=by, **_lesson(brief.name)
    )
    Workshop.objects.get_or_create(school=brief.course.school, defaults={"prices": PRICES})


def _lesson(name: str) -> dict:
    """The lesson that is planned for a brief, as the fields of its plan."""
    if name not in LESSONS:
        return {}
    minutes, people, transport, way = LESSONS[name]
    today = timezone.localtime()
    evening = (today + timedelta(days=(3 - today.weekday()) % 7 or 7)).replace(
        hour=18, minute=30, second=0, microsecond=0
    )
    return {
        "lesson_at": evening,
        "lesson_minutes": minutes,
        "people": people,
        "transport": transport,
        "way_minutes": way,
    }


def _photographed(brief, one: Set, by, camera) -> None:
    """The simulated photographs of a brief, measured here so that the bench is ready at the first
    sign-in; the camera takes the next while one is measured.
    """
    pieces = list(brief.pieces.order_by("student__sorting"))
    if any(p.photographs.exists() for p in pieces):
        return
    shots = list(_shots(one, pieces))
    if not shots:
        return
    taken = camera.map(of_the_roll, *zip(*(shot for _, _, shot in shots), strict=True))
    for (piece, view, shot), data in zip(shots, taken, strict=True):
        with transaction.atomic():
            photograph, _ = add_photograph(piece, data, f"{shot[0]}-{view}.jpg", by, view)
        see_photograph(photograph)


def _shots(one: Set, pieces):
    """Each picture of a brief: its piece, its view, and what is taken (a piece of the roll or a
    composition, the view, the code on its card).
    """
    for name, piece in zip(one.compositions, pieces, strict=False):
        yield piece, View.FRONT, (name, "front", piece.code)
    stages = [v for v in one.views if v in STAGES]
    for number, piece in zip(one.numbers, pieces, strict=False):
        for view in ("front", *stages):
            yield piece, view, (number, view, piece.code)


def _answered(piece, place: int, by) -> None:
    """What is asked of a piece is answered as an instructor would: as it is proposed, else yes, and
    now and then in part.
    """
    said = {word: value for value, word in ANSWERS.items()}
    asked = [line for line in read(piece).verdict.lines if line.asked]
    for number, line in enumerate(asked):
        usual = "in part" if (3 * place + number) % 11 == 0 else "yes"
        piece.answers.create(rule=line.rule.code, value=said[line.proposal or usual], made_by=by)


def _marked(brief, one: Set, by) -> None:
    """The first pieces of a brief are marked, with words of the instructor's, and the first of
    these returned.
    """
    pieces = list(brief.pieces.order_by("student__sorting").prefetch_related("photographs"))
    if any(p.state in (Piece.State.MARKED, Piece.State.RETURNED) for p in pieces):
        return
    if one.name == RETURNED.name:
        for place, rule, score, reason in WORDS:
            pieces[place].overrides.create(rule=rule, score=score, reason=reason, made_by=by)
            remember(by, reason)
        for place, across, down, words in PINNED:
            if place >= len(one.numbers):
                break
            photo = pieces[place].photograph
            spot = {"photograph": photo, "x": across * photo.width, "y": down * photo.height}
            pieces[place].remarks.create(words=words, made_by=by, **spot)
            remember(by, words)
        brief.exemplar = pieces[0]
        brief.save(update_fields=["exemplar"])
    for place, piece in enumerate(pieces[: one.returned + one.marked]):
        _answered(piece, place, by)
        if read(piece).to_check:
            confirm_handles(piece.photograph, by)
        accept_marks(piece, by)
        if place < one.returned:
            issue_sheet(piece, by)


def _shelf(college, by):
    """The college's containers, each photographed empty with a card beside it and measured with a
    rule.
    """
    if college.containers.exists():
        return
    for place, shape in enumerate(SHELF.values()):
        one = add_container(
            college, take(frame(place, EMPTY), Shot(code=CARD)).data, f"{shape.name}.jpg", by
        )
        one.height_cm, one.width_cm, one.by_card = shape.height_cm, round(shape.widest_cm, 1), False
        one.save()


def _come_in(brief, by, pictures):
    """An evening's pictures have been dropped on the last brief: with cards, with names, with
    neither, well and badly taken.
    """
    if brief.arrivals.exists():
        return
    pieces = list(brief.pieces.order_by("student__sorting"))
    for place, number, view, name, options in pictures:
        piece = pieces[place]
        picture = take(frame(number, view), Shot(code=piece.code, place=True, **options))
        name = name or f"{piece.student.name} {view}.jpg"  # noqa: PLW2901
        receive(brief, SimpleUploadedFile(name, picture.data), user=by)
    first = take(frame(COME_IN[0][1], COME_IN[0][2]), Shot(code=pieces[0].code, place=True))
    receive(brief, SimpleUploadedFile("IMG_2207 (1).jpg", first.data), user=by)
    receive(brief, SimpleUploadedFile("IMG_2231.jpg", first.data[: len(first.data) // 2]), user=by)


def _person(college, username, first, last, role):
    person, made = User.objects.get_or_create(
        username=username,
        defaults={
            "school": college,
            "first_name": first,
            "last_name": last,
            "role": role,
            "email": f"{username}@saltmarsh.example",
        },
    )
    if made:
        person.set_password(PASSWORD)
        person.save()
    return person
