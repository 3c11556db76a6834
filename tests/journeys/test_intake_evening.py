"""An evening's phone pictures of every kind through the real page (test_evening brings thirty in at
once), and a student's phone at the link.
"""

import tempfile
import time
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

from playwright.sync_api import expect

from heath.assessment.models import Photograph
from heath.briefs.models import Brief
from heath.classes.models import Course, Student
from heath.intake.links import make_link, token
from heath.intake.models import Arrival
from heath.people.models import School, User
from juniper.camera import Shot, frame, take, with_fault
from tests.journeys.test_first_light import InTheBrowser, work_off

# Pictures of the roll; from 22 on they show no card.
NUMBERS = (0, 1, 2, 3, 7, 11, 12, 15, 22, 23, 26, 29)
SIDEWAYS, HEIC, CUT_OFF, UNNAMED = 3, 7, 12, 22


def evening(pieces) -> list[tuple[str, bytes]]:
    """The pictures: most with their card, some with the student's name, one with neither, one of
    them HEIC, one stored sideways, one cut off at the top.
    """
    out = []
    for n, piece in zip(NUMBERS, pieces, strict=True):
        one = frame(n)
        shot = Shot(code=piece.code, place=True)
        if n == SIDEWAYS:
            shot = Shot(code=piece.code, orientation=6)
        if n == HEIC:
            shot = Shot(code=piece.code, kind="HEIC", profile="Display P3")
        if n == CUT_OFF:
            shot = with_fault(shot, "cut off", 0.5, one)
        name = f"IMG_{2300 + n}." + ("heic" if n == HEIC else "jpg")
        if "card" not in one.truth and n != UNNAMED:
            name = f"{piece.student.name}.jpg"
        out.append((name, take(one, shot).data))
    return out


class Evening(InTheBrowser):
    def setUp(self):
        super().setUp()
        self.user = User.objects.get(username="ruth")
        course = Course.objects.create(
            school=School.objects.get(), name="Thursday class", term="Autumn"
        )
        names = [
            f"{first} {last}"
            for last in ("Skerry", "Marram", "Hythe")
            for first in ("Ailsa", "Bram", "Cerys", "Greta")
        ]
        Student.objects.bulk_create([Student(course=course, name=n) for n in names])
        self.brief = Brief.objects.create(
            course=course,
            name="Foyer evening",
            container="Own vessel",
            container_height_cm=24,
            container_width_cm=14,
        )
        self.brief.give_pieces()

    def test_pictures_of_every_kind_through_the_page(self):
        page = self.page
        with ThreadPoolExecutor(1) as pool:
            pictures = pool.submit(
                lambda: evening(list(self.brief.pieces.select_related("student").order_by("pk")))
            ).result()
        self.sign_in()
        self.go(f"briefs/{self.brief.pk}/photographs/")
        with tempfile.TemporaryDirectory() as folder:
            paths = []
            for name, data in pictures:
                path = Path(folder) / name
                path.write_bytes(data)
                paths.append(str(path))
            page.set_input_files("input[type=file]", paths)
            expect(page.locator(".sending")).to_have_text(
                f"All {len(NUMBERS)} sent.", timeout=120_000
            )
        expect(page.locator(".progress-line")).to_contain_text(f"of {len(NUMBERS)}")
        began = time.monotonic()
        work_off()
        print(
            f"\n{len(NUMBERS)} pictures looked at and measured by one worker in"
            f" {time.monotonic() - began:.0f} s"
        )
        page.reload()
        expect(page.locator(".to-sort li")).to_have_count(1)
        states = dict(Arrival.objects.values_list("name", "state"))
        self.assertEqual(sorted(states.values()), ["sorted"] * (len(NUMBERS) - 1) + ["unmatched"])
        for name, _ in pictures:
            if states[name] == "sorted":
                self.assertEqual(
                    Arrival.objects.get(name=name).piece.pk, self.owner(pictures, name), name
                )
        sideways = Photograph.objects.get(arrivals__name=pictures[NUMBERS.index(SIDEWAYS)][0])
        self.assertGreater(sideways.height, sideways.width)
        cut = Photograph.objects.get(arrivals__name=pictures[NUMBERS.index(CUT_OFF)][0])
        self.assertIn("cut-off", [a["code"] for a in cut.advice])

        # The one without card or name is given to its student by hand.
        row = page.locator(".to-sort li")
        row.locator("select[name=piece]").select_option(
            label=self.brief.pieces.order_by("pk")[NUMBERS.index(UNNAMED)].student.name
        )
        row.get_by_role("button", name="This one").click()
        expect(page.locator(".to-sort")).to_have_count(0)
        work_off()
        page.reload()
        expect(page.locator(".pieces-wall > li")).to_have_count(len(NUMBERS))
        self.assertEqual(
            Photograph.objects.filter(current=True, view="front").count(), len(NUMBERS)
        )
        self.assertFalse(Photograph.objects.filter(scene=None, fault="").exists())

        # The same picture dropped once more is noticed.
        page.set_input_files(
            "input[type=file]",
            {"name": "again.jpg", "mimeType": "image/jpeg", "buffer": pictures[0][1]},
        )
        expect(page.locator(".sending")).to_have_text("All 1 sent.")
        work_off()
        page.reload()
        expect(page.locator("#board")).to_contain_text("were not added twice: again.jpg")
        self.assertEqual(self.faults, [])

    def owner(self, pictures, name):
        place = [n for n, _ in pictures].index(name)
        return self.brief.pieces.order_by("pk")[place].pk

    def test_a_students_phone(self):
        link = make_link(self.brief, self.user)
        phone = self.browser.new_context(
            viewport={"width": 390, "height": 844}, is_mobile=True, has_touch=True
        )
        page = phone.new_page()
        page.goto(f"{self.live_server_url}/add/{token(link)}/")
        page.fill("#said", "Greta Marram")
        page.reload()  # what was typed is kept
        expect(page.locator("#said")).to_have_value("Greta Marram")
        self.assertLessEqual(page.evaluate("document.documentElement.scrollWidth"), 390)
        page.set_input_files(
            "input[type=file]",
            [
                {"name": "a.jpg", "mimeType": "image/jpeg", "buffer": take(frame(30)).data},
                {
                    "name": "b.jpg",
                    "mimeType": "image/jpeg",
                    "buffer": take(frame(20), Shot(blur=5.0)).data,
                },
            ],
        )
        expect(page.locator(".sending")).to_have_text("All 2 sent.")
        work_off()
        expect(page.locator(".sent-list li")).to_have_count(2)
        expect(page.locator(".sent-list")).to_contain_text("With your instructor")
        expect(page.locator(".sent-list")).to_contain_text("The picture is blurred")
        expect(page.locator("main")).not_to_contain_text("Ailsa")
        # A line that drops: the picture is sent once it is back.
        page.route(
            "**/add/**",
            lambda route: route.abort() if route.request.method == "POST" else route.continue_(),
        )
        page.set_input_files(
            "input[type=file]",
            {"name": "c.jpg", "mimeType": "image/jpeg", "buffer": take(frame(10)).data},
        )
        page.wait_for_timeout(500)
        page.unroute("**/add/**")
        expect(page.locator(".sending")).to_have_text("All 1 sent.")
        self.assertEqual(Arrival.objects.filter(link=link).count(), 3)
        phone.close()
