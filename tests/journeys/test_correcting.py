"""Correcting what was seen, in a real browser: by mouse, by keys, over a reload, and undone one by
one.
"""

import re

from playwright.sync_api import expect

from heath.assessment.models import Correction, Piece
from heath.assessment.reading import read
from heath.briefs.models import Brief
from heath.classes.models import Course, Student
from heath.people.models import School, User
from heath.testing import photographed
from tests.journeys.test_first_light import InTheBrowser


class OnTheBench(InTheBrowser):
    """A piece on the bench, its instructor signed in."""

    def setUp(self):
        super().setUp()
        course = Course.objects.create(
            school=School.objects.get(), name="Tuesday class", term="Autumn"
        )
        Student.objects.create(course=course, name="Ada Shore")
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
        self.piece = photographed(brief, User.objects.get())
        self.sign_in()
        self.go(f"pieces/{self.piece.pk}/")
        self.page.keyboard.press(".")  # the whole photograph: places near its edges are pressed
        expect(self.page.locator(".rail")).to_contain_text("Piece")

    def saved(self):
        expect(self.page.locator("#saved")).to_have_text(re.compile(r"^All saved \d"))

    def at(self, x, y):
        """Place on screen of a place in the photograph."""
        box = self.page.locator(".stand img").bounding_box()
        photograph = self.piece.photograph
        return (
            box["x"] + x / photograph.width * box["width"],
            box["y"] + y / photograph.height * box["height"],
        )

    def now(self):
        return read(Piece.objects.get(pk=self.piece.pk))


class Correcting(OnTheBench):
    def blooms(self, count):
        expect(self.page.locator("#layers .bloom")).to_have_count(count)

    def test_a_stroke_by_mouse_and_taken_back_by_key(self):
        page, before = self.page, self.now().findings
        page.get_by_role("button", name="Plant", exact=True).click()
        expect(page.locator("#layers .plant-outline")).to_be_visible()
        x, y = before.top
        page.mouse.move(*self.at(x - 30, y - 70))
        page.mouse.down()
        page.mouse.move(*self.at(x + 30, y - 70), steps=5)
        page.mouse.up()
        expect(page.locator(".history summary")).to_have_text("1 correction")
        self.saved()
        self.assertLess(self.now().findings.top[1], before.top[1] - 55)
        page.reload()
        expect(page.locator(".history summary")).to_have_text("1 correction")
        page.keyboard.press("u")
        expect(page.locator(".history li.undone")).to_have_count(1)
        self.assertEqual(self.now().findings.top, before.top)
        self.assertEqual(self.faults, [])

    def test_the_container_in_one_drag_and_by_keys(self):
        page, before = self.page, self.now().datum
        page.keyboard.press("j")
        page.mouse.move(*self.at(*before.rim_left))
        page.mouse.down()
        page.mouse.move(*self.at(before.rim_right[0], before.base[1]), steps=6)
        page.mouse.up()
        expect(page.locator(".history summary")).to_have_text("1 correction")
        expect(page.locator("#reading .heed-note").first).to_contain_text("Handles put by hand")
        expect(page.locator(".handle.moved")).to_have_count(4)
        self.saved()
        self.assertLess(abs(self.now().datum.base[1] - before.base[1]), 0.04 * before.height)
        page.reload()
        expect(page.locator(".handle.moved")).to_have_count(4)
        page.keyboard.press("u")
        expect(page.locator(".history li.undone")).to_have_count(1)
        page.keyboard.press("j")
        for key in (
            "ArrowUp",
            "Space",
            "Shift+ArrowDown",
            "Shift+ArrowDown",
            "Shift+ArrowRight",
            "Space",
        ):
            page.keyboard.press(key)
        expect(page.locator(".history summary")).to_have_text("2 corrections")
        self.saved()
        self.assertEqual(self.now().hands, 4)
        self.assertEqual(self.faults, [])

    def test_two_quick_presses_undo_two(self):
        page = self.page
        page.keyboard.press("o")
        page.locator("#layers .bloom").first.focus()
        for count, key in enumerate(("f", "m"), 1):
            page.keyboard.press(key)
            expect(page.locator(".history summary")).to_have_text(
                re.compile(rf"^\s*{count} correction")
            )
        page.keyboard.press("u")
        page.keyboard.press("u")
        expect(page.locator(".history li.undone")).to_have_count(2)
        self.assertEqual(Correction.objects.filter(undone=False).count(), 0)
        self.assertEqual(self.faults, [])

    def test_a_dab_by_keys_alone(self):
        page = self.page
        page.keyboard.press("b")
        for key in ("Shift+ArrowUp", "Shift+ArrowUp", "Shift+ArrowRight", "ArrowLeft"):
            page.keyboard.press(key)
        expect(page.locator(".loupe")).to_be_visible()
        page.keyboard.press("Space")
        expect(page.locator(".history summary")).to_have_text("1 correction")
        self.saved()
        photograph, (x, y) = self.piece.photograph, Correction.objects.get().as_core().points[0]
        unit = photograph.height / 1000
        self.assertAlmostEqual(x, photograph.width / 2 + 25 * unit, delta=0.5)
        self.assertAlmostEqual(y, photograph.height / 3 - 60 * unit, delta=0.5)
        self.assertEqual(self.faults, [])

    def test_blooms_by_keys_and_one_undone_from_the_list(self):
        page, count = self.page, len(self.now().scene.blooms)
        page.keyboard.press("o")
        page.locator("#layers .bloom").first.focus()
        expect(page.locator(".bloom-acts")).to_be_visible()
        for key, left in (("s", 1), ("j", 0), ("Delete", -1)):
            page.keyboard.press(key)
            self.blooms(count + left)
            self.saved()
            if key == "j":
                page.locator("#layers .bloom").first.focus()
        page.locator("#layers .bloom").nth(1).focus()
        page.keyboard.press("l")
        expect(page.locator(".history summary")).to_have_text("4 corrections")
        page.locator(".history summary").click()
        page.locator(".history li", has_text="taken out").get_by_role("button", name="Undo").click()
        self.blooms(count)
        expect(
            page.locator(".history li", has_text="taken out").get_by_role("button")
        ).to_have_text("Put back")
        self.assertEqual(Correction.objects.filter(undone=False).count(), 3)
        self.assertEqual(self.faults, [])

    def test_a_bloom_drawn_where_none_was_seen(self):
        page, count = self.page, len(self.now().scene.blooms)
        page.keyboard.press("o")
        page.mouse.move(*self.at(90, 90))
        page.mouse.down()
        page.mouse.move(*self.at(130, 90), steps=4)
        page.mouse.up()
        self.blooms(count + 1)
        made = Correction.objects.get().as_core()
        self.assertAlmostEqual(made.radius, 40, delta=3)
        self.assertAlmostEqual(made.at[0], 90, delta=3)
        # What is chosen is what was added: a key acts on it.
        page.keyboard.press("Delete")
        self.blooms(count)
        self.assertEqual(self.faults, [])

    def test_a_bloom_and_a_stem_by_keys_alone(self):
        page, before = self.page, self.now()
        # The tool's own button may keep the focus.
        page.get_by_role("button", name="Blooms", exact=True).focus()
        page.keyboard.press("Enter")
        for _ in range(3):
            page.keyboard.press("Shift+ArrowUp")
        page.keyboard.press("Space")
        self.blooms(len(before.scene.blooms) + 1)
        self.saved()
        photograph, bloom = self.piece.photograph, Correction.objects.get().as_core()
        unit = photograph.height / 1000
        self.assertAlmostEqual(bloom.at[1], photograph.height / 3 - 90 * unit, delta=0.5)
        page.keyboard.press("t")
        for key in (
            "Shift+ArrowLeft",
            "Space",
            "Shift+ArrowDown",
            "Shift+ArrowDown",
            "Shift+ArrowRight",
            "Space",
        ):
            page.keyboard.press(key)
        expect(page.locator("#layers .stem")).to_have_count(len(before.stems) + 1)
        self.saved()
        stem = self.now().stems[-1]
        self.assertAlmostEqual(stem.foot[1] - stem.tip[1], 60 * unit, delta=0.5)
        self.assertAlmostEqual(stem.foot[0] - stem.tip[0], 30 * unit, delta=0.5)
        self.assertEqual(self.faults, [])

    def test_like_blooms_are_counted_and_shown_together(self):
        page, groups = self.page, self.now().groups
        row = page.locator(".groups button").first
        expect(row).to_contain_text(f"{len(groups[0].blooms)} {groups[0].blooms[0].hue}")
        row.click()
        expect(page.locator("#layers .bloom.picked")).to_have_count(len(groups[0].blooms))
        row.click()
        expect(page.locator("#layers .bloom.picked")).to_have_count(0)
        self.assertEqual(sum(len(g.blooms) for g in groups), len(self.now().scene.blooms))
        self.assertEqual(self.faults, [])

    def test_a_stem_drawn_bent_and_taken_out(self):
        page, count = self.page, len(self.now().stems)
        page.keyboard.press("t")
        page.mouse.move(*self.at(120, 200))
        page.mouse.down()
        page.mouse.move(*self.at(300, 500), steps=5)
        page.mouse.up()
        expect(page.locator("#layers .stem")).to_have_count(count + 1)
        self.saved()
        new = page.locator('#layers .stem [data-end="bend"]').last.bounding_box()
        page.mouse.move(new["x"] + new["width"] / 2, new["y"] + new["height"] / 2)
        page.mouse.down()
        page.mouse.move(new["x"] + 40, new["y"] + 5, steps=4)
        page.mouse.up()
        expect(page.locator(".history summary")).to_have_text("2 corrections")
        self.saved()
        drawn = self.now().stems[-1]
        self.assertAlmostEqual(drawn.tip[0], 120, delta=3)
        self.assertGreater(abs(drawn.bend[0] - 210), 20)
        page.locator("#layers .stem").last.focus()
        page.keyboard.press("Delete")
        expect(page.locator("#layers .stem")).to_have_count(count)
        self.assertEqual(self.faults, [])

    def test_what_the_net_lost_is_sent_when_the_page_opens_again(self):
        page, before = self.page, self.now().findings
        page.keyboard.press("b")
        self.context.route("**/change/", lambda route: route.abort())
        x, y = before.top
        page.mouse.move(*self.at(x, y - 70))
        page.mouse.down()
        page.mouse.up()
        expect(page.locator("#saved")).to_have_text("Not saved yet; trying again")
        self.context.unroute("**/change/")
        page.reload()
        expect(page.locator(".history summary")).to_have_text("1 correction")
        self.saved()
        self.assertEqual(Correction.objects.count(), 1)

    def test_the_loupe_shows_the_place_in_hand(self):
        page = self.page
        handle = page.locator('[data-handle="rim"]').bounding_box()
        page.mouse.move(handle["x"] + handle["width"] / 2, handle["y"] + handle["height"] / 2)
        page.mouse.down()
        page.mouse.move(handle["x"] + 60, handle["y"] + 40, steps=4)
        expect(page.locator(".loupe")).to_be_visible()
        box = [float(v) for v in page.locator(".loupe").get_attribute("viewBox").split()]
        rim = page.locator('[data-handle="rim"]').get_attribute("transform")
        held = [float(v) for v in re.findall(r"[\d.]+", rim)[:2]]
        self.assertAlmostEqual(box[0] + box[2] / 2, held[0], delta=1)
        self.assertAlmostEqual(box[1] + box[3] / 2, held[1], delta=1)
        page.mouse.up()
        expect(page.locator(".loupe")).to_be_hidden()
        self.saved()
        self.assertEqual(self.faults, [])
