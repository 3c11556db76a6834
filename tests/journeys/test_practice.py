"""Eye practice in a real browser: by thumb on a phone, with a reload in the middle, and by keyboard
alone at a desk.
"""

import re

import numpy as np
from playwright.sync_api import expect

from heath.people.models import School, User
from heath.practice.models import ClassRound, Exercise, PracticePicture
from heath.practice.rounds import learner_of_user, present
from heath.practice.tests.scene import drawn_pictures
from juniper.learning import KIND, ask
from juniper.rules import school as rules_of
from tests.journeys.test_first_light import InTheBrowser

PHONE = {"width": 390, "height": 844}


class Practising(InTheBrowser):
    def setUp(self):
        super().setUp()
        drawn_pictures()
        self.pictures = list(PracticePicture.objects.order_by("number"))

    def tearDown(self):
        # pictures that are on their way are let come before the database is emptied
        self.page.wait_for_load_state("networkidle")
        super().tearDown()

    def asks(self, practice_round, code, *numbers):
        """Have the waiting exercise of a round ask a kind of some pictures."""
        studies = [self.pictures[n].as_study for n in numbers]
        rules = rules_of("classical-line-mass")
        question = ask(KIND[code], studies, rules, np.random.default_rng(0))
        Exercise.objects.filter(round=practice_round, answered_at=None).update(
            kind=code,
            pictures=[self.pictures[n].pk for n in numbers],
            question=question.as_document(),
        )

    def place(self, x, y):
        """Where a place of the picture lies on the screen."""
        return self.page.evaluate(
            """([x, y]) => {
              const svg = document.querySelector(".eye-stage svg");
              const p = new DOMPoint(x, y).matrixTransform(svg.getScreenCTM());
              return [p.x, p.y];
            }""",
            [x, y],
        )

    def said(self, words):
        expect(self.page.locator(".eye-words")).to_contain_text(re.compile(words))


class ByThumb(Practising):
    def test_a_class_s_round_on_a_phone(self):
        course = School.objects.get().courses.create(name="Tuesday class", term="Autumn")
        found = ClassRound.objects.create(course=course, name="Heights", skills=["height"], count=5)
        page = self.page
        page.set_viewport_size(PHONE)
        self.go(f"look/{found.key}/")
        page.get_by_label("Your name").fill("Ada Shore")
        page.get_by_role("button", name="Start").click()
        expect(page.locator("#eye")).to_be_visible()
        sitting = found.rounds.get()
        self.asks(sitting, "reach", 2)
        page.reload()
        expect(page.locator("h1")).to_contain_text("container heights over the rim")
        # the rim lies at 300 and the container is 100 high: dragged to 1.4 containers over it
        page.mouse.move(*self.place(200, 60))
        page.mouse.down()
        page.mouse.move(*self.place(200, 160), steps=4)
        page.mouse.up()
        page.reload()  # what was dragged is still there
        line = page.locator(".eye-handle")
        self.assertAlmostEqual(float(line.get_attribute("data-y")), 160, delta=3)
        page.get_by_role("button", name="Answer").click()
        times = Exercise.objects.get(round=sitting, place=1).question["given"]["times"]
        words = page.locator(".eye-words")
        expect(words).to_contain_text("container heights below")
        off = float(re.search(r"lies (\d\.\d\d)", words.inner_text())[1])
        self.assertAlmostEqual(off, times - 1.4, delta=0.05)
        expect(page.locator(".eye-truth .mk-line")).to_have_count(1)
        page.get_by_text("See it on three other pieces").click()
        expect(page.locator(".eye-three figure")).to_have_count(3)
        self.assertLessEqual(page.evaluate("document.documentElement.scrollWidth"), 390)
        page.get_by_role("link", name="Next").click()
        expect(page.locator(".eye-ask")).to_contain_text("2 of 5")


class ByKeyboard(Practising):
    def test_each_way_of_answering(self):
        self.sign_in()
        page = self.page
        self.go("practice/")
        page.get_by_role("button", name="Start a round of ten").click()
        expect(page.locator("#eye")).to_be_visible()
        sitting = learner_of_user(User.objects.get(username="ruth")).rounds.get()

        def asked(code, *numbers):
            present(sitting)
            self.asks(sitting, code, *numbers)
            page.goto(re.sub(r"/\d+/$", f"/{sitting.pk}/", page.url))
            expect(page.locator("#eye")).to_have_attribute("data-answered", "no")

        asked("axis", 3)
        for _ in range(3):
            page.keyboard.press("Shift+ArrowRight")
        page.keyboard.press("Enter")
        self.said("to the left of the axis")
        asked("share", 3)
        page.keyboard.press("Tab")
        page.get_by_label("Share on the left, per cent").focus()
        for _ in range(5):
            page.keyboard.press("ArrowLeft")
        page.keyboard.press("Enter")
        self.said("The left carries 45.% of the weight; you said 45")
        asked("hole", 3)
        page.keyboard.press("n")
        self.said("Right: there is none")
        asked("scheme", 2)
        page.keyboard.press("2")
        self.said("Right: the scheme is analogous")
        asked("higher", 1, 5)
        page.keyboard.press("2")
        self.said("Right: A stands 1.43 container heights over its rim, B 2.35")
        asked("order", 4, 3, 2, 1, 0)
        for key in "12345":
            page.keyboard.press(key)
        page.keyboard.press("Enter")
        self.said("All in order")
        asked("cut", 7)
        tip, end = page.locator(".eye-handle").all()
        top = 300 - 100 * (1.2 + 0.23 * 7)
        self.move(tip, 200, top)
        self.move(end, 200, 300 - 175)
        page.keyboard.press("Enter")
        self.said("Right: the stem then ends in the band")
        page.keyboard.press("Enter")
        expect(page.locator(".eye-ask")).to_contain_text("8 of 10")

    def move(self, handle, x, y):
        """Bring a handle near a place by arrow keys."""
        handle.focus()
        for axis, to, keys in (
            ("data-x", x, ("ArrowLeft", "ArrowRight")),
            ("data-y", y, ("ArrowUp", "ArrowDown")),
        ):
            for _ in range(80):
                at = float(handle.get_attribute(axis))
                if abs(to - at) < 4:
                    break
                far = "Shift+" if abs(to - at) > 25 else ""
                self.page.keyboard.press(far + keys[to > at])
