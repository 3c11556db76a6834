"""The whole evening: a class's pictures in, marked, lined up, returned, the class's PDF made; and
what each piece cost.
"""

import gzip
import io
import os
import re
import tempfile
import time
from pathlib import Path

from django.urls import reverse
from playwright.sync_api import expect
from pypdf import PdfReader

from heath.assessment.models import Mark, Photograph, Piece
from heath.briefs.models import Brief
from heath.classes.models import Course
from heath.people.models import School, User
from heath.planner.models import Plan
from heath.returns.models import Bundle, ReturnSheet
from juniper.camera import Shot, frame, frames, take
from tests.journeys.test_first_light import InTheBrowser, work_off

MOST_ACTIONS = 5  # of a clear piece
WEIGHT = 350_000  # bytes of the bench besides the photograph
RULES = ["wcag2a", "wcag2aa", "wcag21aa", "wcag22aa"]  # Deque's, for WCAG 2.2 A and AA
AXE = Path(__file__).resolve().parents[1] / "vendor" / "axe.min.js"
PUPILS = int(os.environ.get("PUPILS", "6"))  # 30 make a whole evening
FIRST = ("Ada", "Bo", "Cai", "Dee", "Eve", "Finn")
LAST = ("Marram", "Shore", "Strand", "Reef", "Tide")


class Evening(InTheBrowser):
    def setUp(self):
        super().setUp()
        school = School.objects.get()
        self.user = User.objects.get(username="ruth")
        course = Course.objects.create(school=school, name="Tuesday class", term="Autumn")
        names = [f"{first} {last}" for last in LAST for first in FIRST][:PUPILS]
        course.students.bulk_create(
            course.students.model(course=course, name=name) for name in names
        )
        self.brief = Brief.objects.create(
            course=course,
            name="Own vessel",
            container="Own vessel",
            container_height_cm=23,
            container_width_cm=11,
            viewpoint="front only",
            form="symmetrical triangle",
            scheme="",
            pass_mark=50,
        )
        self.brief.give_pieces()
        self.truths = {}

    def path(self, name, *args):
        return reverse(name, args=args).lstrip("/")

    def saved(self):
        expect(self.page.locator("#saved")).to_have_text(re.compile(r"^All saved"))

    def bring_in(self):
        """All pictures dropped at once; each finds its student by the reference card beside it, or
        by its file's name.
        """
        page = self.page
        pieces = list(self.brief.pieces.order_by("student__sorting"))
        fronts = [f.piece for f in frames("front")][:PUPILS]
        with tempfile.TemporaryDirectory() as folder:
            paths = []
            for piece, number in zip(pieces, fronts, strict=True):
                picture = take(frame(number), Shot(code=piece.code, place=True))
                self.truths[piece.pk] = picture.truth["container"]
                # Where no card stands in the picture the file bears the student's name.
                named = "IMG" if "card" in picture.truth else piece.student.name
                paths.append(Path(folder) / f"{named}_{2000 + number}.jpg")
                paths[-1].write_bytes(picture.data)
            self.go(self.path("intake", self.brief.pk))
            page.locator("input[type=file][multiple]").first.set_input_files(paths)
            deadline = time.monotonic() + 60
            while self.brief.arrivals.count() < PUPILS and time.monotonic() < deadline:
                page.wait_for_timeout(200)
        work_off()
        work_off()
        self.assertEqual(self.brief.pieces.filter(state=Piece.State.MARKING).count(), PUPILS)

    def put(self, name, to):
        """Drag a handle to a place of the photograph."""
        page = self.page
        box = page.locator(f'[data-handle="{name}"]').bounding_box()
        x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
        here = page.evaluate(
            """([name, x, y]) => {
              const m = document.getElementById("layers").getScreenCTM();
              const handle = document.querySelector(`[data-handle=${name}]`);
              const h = handle.transform.baseVal.getItem(0).matrix;
              return [m.a * (x - h.e), m.d * (y - h.f)];
            }""",
            [name, *to],
        )
        page.mouse.move(x, y)
        page.mouse.down()
        page.mouse.move(x + here[0], y + here[1], steps=3)
        page.mouse.up()
        self.saved()

    def mark_all(self):
        """(student, doubtful, actions, seconds waited) of each piece, in the order of the bench."""
        page, rows = self.page, []
        first = self.brief.pieces.order_by("student__sorting").first()
        self.go(self.path("bench", first.pk))
        while True:
            began = time.monotonic()
            page.wait_for_load_state("load")  # keys are heard once the scripts have started
            expect(page.locator("#score")).to_have_text(re.compile(r"^\d+$"))
            number = int(page.locator(".bench").get_attribute("data-piece"))
            doubtful = page.locator(".heed-note").first.inner_text().startswith("Check")
            name = page.locator(".bench-line .here").inner_text()
            actions = 0
            if doubtful:
                truth = self.truths[number]
                for handle in ("rim", "base", "rim_left", "rim_right"):
                    self.put(handle, truth[handle])
                    actions += 1
                if page.locator(".total.unsure").count():
                    # a handle that lay right did not move: the rest is confirmed
                    page.keyboard.press("s")
                    actions += 1
                expect(page.locator(".total.unsure")).to_have_count(0)
            page.keyboard.press("0")  # a look at all lenses
            page.keyboard.press("a")
            actions += 2
            left = PUPILS - len(rows) - 1
            if left:
                page.wait_for_url(
                    lambda url, n=number: f"/pieces/{n}/" not in url, wait_until="commit"
                )
            else:
                expect(page.locator("#reading b", has_text=re.compile("^marked$"))).to_be_visible()
            rows.append((name, doubtful, actions, time.monotonic() - began))
            if not left:
                return rows

    def test_a_class_in_one_evening(self):
        self.sign_in()
        self.bring_in()
        rows = self.mark_all()
        print("\nstudent              actions   seconds of waiting")
        for name, doubtful, actions, seconds in rows:
            print(
                f"{name:20} {actions:4d}     "
                f" {seconds:5.1f}{'   to be checked' if doubtful else ''}"
            )
        self.assertEqual(Mark.objects.count(), PUPILS)
        self.assertLessEqual(
            max(actions for _, doubtful, actions, _ in rows if not doubtful), MOST_ACTIONS
        )
        self.measure_the_bench()
        self.compare()
        self.return_all()
        self.every_place_is_open_to_all()
        self.assertEqual(self.faults, [])

    def served(self, name, size):
        """Bytes of a resource on its first way to a browser. Tests serve styles and scripts as they
        are written, the site compressed, and what the browser has kept already it counts as
        nothing.
        """
        if "/static/" not in name:
            return size
        body = self.page.request.get(name).body()
        return min(len(body), len(gzip.compress(body, 9)))

    def measure_the_bench(self):
        page = self.page
        piece = self.brief.pieces.first()
        self.go(self.path("bench", piece.pk))
        page.wait_for_load_state("networkidle")
        weights = page.evaluate(
            "() => ['resource', 'navigation'].flatMap((kind) => performance.getEntriesByType(kind))"
            ".map((e) => [e.name, e.encodedBodySize])"
        )
        own = {
            name: self.served(name, size)
            for name, size in weights
            if ".jpg" not in name and "/ready/" not in name
        }
        print(f"bench besides the photograph: {sum(own.values()) / 1000:.0f} KB")
        heaviest = sorted(
            ((size, name.rsplit("/", 1)[-1]) for name, size in own.items()), reverse=True
        )[:8]
        self.assertLess(sum(own.values()), WEIGHT, heaviest)

    def compare(self):
        """The wall: ordered by a measure, two laid over one another, scrolled from end to end."""
        page = self.page
        self.go(self.path("line-up", self.brief.pk))
        expect(page.locator(".hung")).to_have_count(PUPILS)
        page.select_option("select[name=by]", "governing_ratio")
        page.check("input[name=group]")
        expect(page.locator(".wall-group").first).to_be_visible()
        figures = [float(t) for t in page.locator(".hung-mark > b:first-child").all_text_contents()]
        self.assertEqual(len(figures), PUPILS)
        inside = page.locator(".wall-group").all_text_contents()
        self.assertTrue(any("in the band" in text for text in inside))
        late = page.evaluate("""
            async () => {
              const wall = document.querySelector(".wall"), gaps = [];
              let last = performance.now();
              for (let x = 0; x < wall.scrollWidth; x += 40) {
                wall.scrollLeft = x;
                await new Promise(requestAnimationFrame);
                gaps.push(performance.now() - last);
                last = performance.now();
              }
              gaps.sort((a, b) => a - b);
              const at = (share) => gaps[Math.floor(gaps.length * share)];
              return [gaps.length, at(0.5), at(0.95)];
            }
        """)
        print(
            f"wall of {PUPILS} scrolled in {late[0]} frames: median {late[1]:.0f} ms, 95th"
            f" percentile {late[2]:.0f} ms"
        )
        page.locator(".hung").nth(0).get_by_text("Lay over another").click()
        page.locator(".hung").nth(1).get_by_text("Lay over the first").click()
        expect(page.locator(".pair")).to_contain_text("Dark")

    def return_all(self):
        page = self.page
        self.go(self.path("returning", self.brief.pk))
        page.get_by_role("button", name=f"Return {PUPILS} marked pieces").click()
        expect(page.locator("#bundle")).to_contain_text("being prepared")
        work_off()
        link = page.locator("#bundle a")
        expect(link).to_be_visible(timeout=30_000)
        self.assertEqual(Bundle.objects.get().done, PUPILS)
        document = PdfReader(
            io.BytesIO(page.request.get(self.live_server_url + link.get_attribute("href")).body())
        )
        text = [p.extract_text() for p in document.pages]
        for sheet in ReturnSheet.objects.all():
            self.assertTrue(
                any(sheet.figures["student"] in t for t in text), sheet.figures["student"]
            )
        # The student's own page, without an account, shows nobody else.
        piece = self.brief.pieces.order_by("student__sorting").first()
        self.go(self.path("sheet", piece.pk))
        own = page.locator(".address a").get_attribute("href")
        stranger = self.browser.new_context(viewport={"width": 390, "height": 844})
        phone = stranger.new_page()
        phone.goto(own)
        expect(phone.locator("h1")).to_have_text("Ada Marram")
        self.assertTrue(phone.evaluate("() => document.documentElement.scrollWidth <= innerWidth"))
        for other in ("Ada Shore", "Bo Strand"):
            self.assertNotIn(other, phone.content())
        self.assertIn("<image", phone.request.get(own + "marked-up.svg").text())
        self.assertEqual(
            phone.request.get(self.live_server_url + "/" + self.path("sheet", piece.pk)).url.split(
                "?"
            )[0][-9:],
            "/sign-in/",
        )
        self.looked_at_by_axe(phone, "student's page")
        # Withdrawn, the address says so for good; returned again the sheet has another.
        page.get_by_role("button", name="Withdraw the sheet").click()
        expect(page.get_by_role("button", name="Return it again")).to_be_visible()
        self.assertEqual(phone.goto(own).status, 410)
        page.get_by_role("button", name="Return it again").click()
        expect(page.locator(".address a")).not_to_have_attribute("href", own)
        self.assertEqual(phone.goto(own).status, 410)
        phone.goto(page.locator(".address a").get_attribute("href"))
        expect(phone.locator("article")).to_contain_text("Sheet 2 of")
        stranger.close()

    def every_place_is_open_to_all(self):
        """axe-core finds nothing serious on any page."""
        piece = self.brief.pieces.first()
        items = [
            {"slug": s, "role": r, "colour": "white", "stems": None}
            for s, r in (("lilac", "mass"), ("convallaria", "filler"))
        ]
        Plan.objects.create(brief=self.brief, items=items)
        Brief.objects.filter(pk=self.brief.pk).update(near=["food"])
        places = {
            "term": self.path("term"),
            "all briefs": self.path("briefs"),
            "classes": self.path("classes"),
            "wall": self.path("brief", self.brief.pk),
            "return": self.path("returning", self.brief.pk),
            "settings": self.path("settings"),
            "people": self.path("people"),
            "help": self.path("help", "bench"),
            "class": self.path("course", self.brief.course_id),
            "new class": self.path("course-new"),
            "brief": self.path("brief-change", self.brief.pk),
            "new brief": self.path("brief-new"),
            "plan": self.path("plan", self.brief.pk),
            "materials": self.path("materials"),
            "recipe": self.path("recipe", self.brief.pk) + "?instead=lilac",
            "lesson": self.path("lesson-plan", self.brief.pk),
            "aftercare": self.path("care", self.brief.pk),
            "timer": self.path("timer") + "?t=Gerbera:10",
            "conditioning": (
                self.path("conditioning", self.brief.pk) + "?have=lilac:12&have=tulip:30&people=2"
            ),
            "photographs": self.path("intake", self.brief.pk),
            "bench": self.path("bench", piece.pk),
            "line-up": self.path("line-up", self.brief.pk) + "?group=1&by=mark",
            "sheet": self.path("sheet", piece.pk),
            "shelf": self.path("shelf"),
            "rulebook": self.path("rulebook"),
            "rule set": self.path("rule-set", "classical-line-mass"),
            "measures": self.path("measures"),
        }
        for name, path in places.items():
            self.go(path)
            self.page.wait_for_load_state("networkidle")
            for theme in ("day", "evening"):
                self.page.evaluate("(t) => { document.documentElement.dataset.theme = t; }", theme)
                # in the evening the same page in other colours
                what = RULES if theme == "day" else ["color-contrast"]
                self.looked_at_by_axe(self.page, f"{name}, {theme}", what)

    def looked_at_by_axe(self, page, name, what=RULES):
        if not page.evaluate("() => !!window.axe"):
            page.evaluate(AXE.read_text() + ";0")
        run = "(w) => axe.run(document, { runOnly: w, resultTypes: ['violations'] })"
        found = page.evaluate(run, what)
        serious = [
            (v["id"], v["impact"], [n["html"][:160] for n in v["nodes"]][:4])
            for v in found["violations"]
            if v["impact"] in ("serious", "critical")
        ]
        with self.subTest(name):
            self.assertEqual(serious, [])


class ByKeys(InTheBrowser):
    def test_a_piece_is_marked_by_the_keyboard_alone(self):
        from heath.testing import photographed

        course = Course.objects.create(
            school=School.objects.get(), name="Tuesday class", term="Autumn"
        )
        course.students.create(name="Ada Shore")
        brief = Brief.objects.create(
            course=course,
            name="Column",
            container="Cylinder",
            container_height_cm=24,
            container_width_cm=10,
        )
        brief.give_pieces()
        piece = photographed(brief, User.objects.get())
        page, keys = self.page, self.page.keyboard
        self.go()
        for text in ("ruth", "a-long-password"):
            keys.type(text)
            keys.press("Tab")
        keys.press("Enter")
        expect(page.locator("h1")).to_have_text("This term")
        self.tab_to("Mark Ada Shore")
        keys.press("Enter")
        expect(page.locator("#score")).to_have_text(re.compile(r"^\d+$"))
        expect(page.locator(".stand")).to_have_attribute("style", re.compile("transform"))
        keys.press("h")
        expect(page.locator('[data-handle="rim"]')).to_be_focused()
        keys.press("Shift+ArrowDown")
        keys.press("Shift+ArrowDown")
        expect(page.locator("#saved")).to_have_text(re.compile(r"^All saved \d"))
        self.assertEqual(Photograph.objects.get().corrections.count(), 1)
        keys.down("k")
        expect(page.locator(".keys")).to_be_visible()
        page.wait_for_timeout(400)
        keys.up("k")
        expect(page.locator(".keys")).to_be_hidden()
        keys.press("c")
        keys.press("ArrowRight")
        keys.press("ArrowUp")
        keys.press(" ")
        expect(page.locator(".remark-form input[name=words]")).to_be_focused()
        keys.type("Give it air.")
        keys.press("Enter")
        expect(page.locator(".remarks")).to_contain_text("Give it air.")
        expect(page.locator(".pin")).to_have_count(1)
        self.tab_to("Height to container", within="summary")
        keys.press("Enter")
        self.tab_to("", within="details[open] input[name=score]", others=40)
        keys.type("7")
        keys.press("Tab")
        keys.press("Alt+1")
        expect(page.locator("details[open] input[name=reason]").first).to_have_value("Give it air.")
        keys.press("Enter")
        expect(page.locator("#reading")).to_contain_text("Your mark: 7.0 of 10")
        page.evaluate("() => document.activeElement.blur()")
        keys.press("v")
        expect(page.locator("#laid")).to_have_attribute(
            "aria-label", re.compile("before any correction")
        )
        keys.press("v")
        keys.press("a")
        expect(page.locator("#reading b", has_text=re.compile("^marked$"))).to_be_visible()
        self.assertEqual(Mark.objects.get().piece, piece)
        self.assertEqual(self.faults, [])

    def test_what_a_colleague_changed_is_told_on_the_page(self):
        from heath.bench.changing import record_change
        from heath.testing import photographed

        school = School.objects.get()
        course = Course.objects.create(school=school, name="Tuesday class", term="Autumn")
        course.students.create(name="Ada Shore")
        brief = Brief.objects.create(
            course=course,
            name="Column",
            container="Cylinder",
            container_height_cm=24,
            container_width_cm=10,
        )
        brief.give_pieces()
        piece = photographed(brief, User.objects.get())
        self.sign_in()
        self.go(reverse("bench", args=[piece.pk]).lstrip("/"))
        expect(self.page.locator("#score")).to_have_text(re.compile(r"^\d+$"))
        self.page.wait_for_load_state("networkidle")
        expect(self.page.locator("#others")).to_have_text("")
        record_change(
            piece,
            User.objects.create_user(
                "tam",
                password="a-long-password",
                school=school,
                first_name="Tam",
                role="instructor",
            ),
        )
        expect(self.page.locator("#others")).to_contain_text(
            "Tam changed this piece", timeout=60_000
        )  # the page asks every 20 s

    def tab_to(self, words, within="a, button, [tabindex], summary", others=80):
        """Press Tab until the focus is on something of that name; fail when it never comes."""
        for _ in range(others):
            self.page.keyboard.press("Tab")
            on = self.page.evaluate(
                "(within) => { const e = document.activeElement; return e && e.matches(within) ?"
                " (e.getAttribute('aria-label') || e.innerText || '') : null; }",
                within,
            )
            if on is not None and on.startswith(words):
                return
        self.fail(f"The focus never came to “{words or within}”.")
