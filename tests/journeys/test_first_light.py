"""The main job in a real browser: from sign-in to the return sheet's PDF."""

import io
import os
import re
import tempfile
import time
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

from django.contrib.staticfiles.testing import StaticLiveServerTestCase
from playwright.sync_api import expect, sync_playwright
from procrastinate.contrib.django import app
from psycopg_pool import PoolTimeout
from pypdf import PdfReader

from heath.assessment.models import Correction, Photograph
from heath.people.models import School, User
from heath.testing import picture

PATIENCE = 60_000  # ms: a machine that is busy with other tests is no fault
expect.set_options(timeout=PATIENCE)
CHROMIUM = "/usr/bin/chromium"
SWITCHES = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
]


def work_off():
    """Run the background work that waits, as the worker does, and come back. In a thread of its
    own, since the browser's event loop holds this one."""
    with ThreadPoolExecutor(1) as pool:
        try:
            pool.submit(_work).result()
        except PoolTimeout:  # no connection within 30 s: the machine is busy with other tests
            pool.submit(_work).result()


def _work():
    with app.replace_connector(app.connector.get_worker_connector()) as worker:
        # How steadily each picture is seen is found out later, and nobody waits for it.
        worker.run_worker(
            queues=["default"], wait=False, install_signal_handlers=False, listen_notify=False
        )


class InTheBrowser(StaticLiveServerTestCase):
    """A browser, a school with one instructor, and the way in."""

    @classmethod
    def setUpClass(cls):
        # Playwright's own event loop must not make Django think it is in one.
        os.environ["DJANGO_ALLOW_ASYNC_UNSAFE"] = "true"
        super().setUpClass()
        cls.playwright = sync_playwright().start()
        cls.browser = cls.playwright.chromium.launch(executable_path=CHROMIUM, args=SWITCHES)

    @classmethod
    def tearDownClass(cls):
        cls.browser.close()
        cls.playwright.stop()
        super().tearDownClass()
        os.environ.pop("DJANGO_ALLOW_ASYNC_UNSAFE", None)

    def setUp(self):
        school = School.objects.create(name="Cliffend College")
        User.objects.create_user("ruth", password="a-long-password", school=school, role="owner")
        self.faults = []
        self.context = self.browser.new_context(viewport={"width": 1280, "height": 800})
        self.page = self.context.new_page()
        self.page.on("pageerror", lambda error: self.faults.append(str(error)))
        self.page.on("console", lambda m: self.faults.append(m.text) if m.type == "error" else None)
        self.page.set_default_timeout(PATIENCE)

    def tearDown(self):
        self.context.close()

    def go(self, path=""):
        self.page.goto(self.live_server_url + "/" + path)

    def sign_in(self):
        self.go()
        self.page.fill("#id_username", "ruth")
        self.page.fill("#id_password", "a-long-password")
        self.page.click("button.primary")
        expect(self.page.locator("h1")).to_have_text("This term")

    def paper(self, words):
        """The PDF that a button makes: pressed, laid out by a worker, opened."""
        before = self.page.url
        self.page.get_by_role("button", name=words).click()
        expect(self.page.locator("#job")).to_contain_text("being prepared")
        where = self.page.url
        self.page.goto("about:blank")  # or the page would lead to the paper once it is ready
        work_off()
        answer = self.page.request.get(where + "file/")
        self.page.goto(before)
        return answer.body()


class FirstLight(InTheBrowser):
    def to_the_bench(self):
        """Class, brief and photograph by hand, as on a first evening."""
        page = self.page
        self.sign_in()
        page.click("text=Make the first class")
        page.fill("#id_name", "Tuesday class")
        page.fill("#id_students", "Ada Shore\nBo Strand")
        page.click("text=Make the class")
        page.click("text=Set a brief")
        page.fill("#id_name", "Column for the foyer")
        page.fill("#id_container", "Tall cylinder")
        page.fill("#id_container_height_cm", "24")
        page.fill("#id_container_width_cm", "10.6")
        expect(page.locator("#target svg")).to_contain_text("48.0 cm")
        page.reload()  # what was typed is kept
        expect(page.locator("#id_container")).to_have_value("Tall cylinder")
        page.check("input[name=views][value=back]")
        page.reload()
        expect(page.locator("input[name=views][value=back]")).to_be_checked()
        expect(page.locator("input[name=views]:checked")).to_have_count(2)
        page.uncheck("input[name=views][value=back]")
        page.select_option("#id_form", "symmetrical triangle")
        page.click("button.primary")
        page.wait_for_url(re.compile(r"/briefs/\d+/$"))  # its scripts are there then
        with tempfile.NamedTemporaryFile(suffix=".txt") as wrong:
            wrong.write(b"no picture")
            wrong.flush()
            page.locator(".hung", has_text="Ada Shore").locator("input[type=file]").set_input_files(
                wrong.name
            )
            expect(page.locator(".hung", has_text="Ada Shore")).to_contain_text("being read")
            work_off()
            expect(page.locator(".hung", has_text="Ada Shore")).to_contain_text("not a photograph")
        photo = Path(tempfile.gettempdir()) / f"piece-{os.getpid()}.jpg"
        photo.write_bytes(picture().data)
        try:
            page.locator(".hung", has_text="Ada Shore").locator("input[type=file]").set_input_files(
                photo
            )
            expect(page.locator(".hung", has_text="Ada Shore")).to_contain_text("being read")
            work_off()
            page.locator(".hung", has_text="Ada Shore").get_by_role(
                "link", name="Mark", exact=True
            ).click()
            page.wait_for_url(re.compile(r"/pieces/\d+/"))  # its scripts are there then
        finally:
            photo.unlink()
        expect(page.locator("#score")).to_have_text(re.compile(r"^\d+$"))

    def ratio(self):
        return float(self.page.locator('[data-measure="governing_ratio"]').inner_text())

    def saved(self):
        expect(self.page.locator("#saved")).to_have_text(re.compile(r"^All saved \d"))

    def test_from_sign_in_to_the_pdf(self):
        page = self.page
        self.to_the_bench()
        before, score = self.ratio(), page.locator("#score").inner_text()

        # The rim handle is dragged: the number that changes is the one the drag should give.
        handle = page.locator('[data-handle="rim"]')
        box = handle.bounding_box()
        x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
        scale = page.evaluate("document.getElementById('layers').getScreenCTM().d")
        places = dict(
            (row.split(",")[0], [float(v) for v in row.split(",")[1:3]])
            for row in page.locator("#places").get_attribute("data-places").split(";")
            if row
        )
        page.mouse.move(x, y)
        page.mouse.down()
        page.mouse.move(x, y - 40, steps=6)
        page.mouse.up()
        self.saved()
        pot = places["base"][1] - places["rim"][1]
        up = 40 / scale
        self.assertAlmostEqual(self.ratio(), (before * pot - up) / (pot + up), delta=0.06)
        self.assertNotEqual(page.locator("#score").inner_text(), score)
        self.assertEqual(Correction.objects.count(), 1)

        # By key, and undone by key.
        dragged = self.ratio()
        handle.focus()
        late = []
        page.route(
            "**/pieces/*/reading/**", lambda route: late.append((route, route.fetch())), times=1
        )
        for _ in range(6):
            page.keyboard.press("Shift+ArrowDown")
        self.saved()
        self.assertGreater(self.ratio(), dragged)
        for _ in range(100):
            if not late:
                page.wait_for_timeout(50)
        self.assertTrue(late, "the column was not read anew")
        page.keyboard.press("u")
        expect(page.locator('[data-measure="governing_ratio"]')).to_have_text(f"{dragged:.2f}")
        # The column as it was read before is answered after the undoing, and not shown.
        (route, answer), *_ = late
        route.fulfill(response=answer)
        page.wait_for_timeout(300)
        self.assertAlmostEqual(self.ratio(), dragged)
        page.reload()
        self.assertAlmostEqual(self.ratio(), dragged)

        # The instructor's word on one line.
        page.click("#line-no-bare-stem summary")
        line = page.locator("#line-no-bare-stem")
        line.locator("[name=score]").fill("8")
        line.get_by_role("button", name="Set").click()
        expect(line).to_contain_text("Write a short reason")
        line.locator("[name=reason]").fill("bare on purpose, line is the idea")
        line.get_by_role("button", name="Set").click()
        expect(line).to_contain_text("Your mark: 8.0 of 10")

        # Accepted, returned, on screen and on paper.
        page.keyboard.press("a")
        page.get_by_role("button", name="Make the return sheet").click()
        expect(page.locator("h1")).to_have_text("Ada Shore")
        expect(page.locator("article")).to_contain_text("bare on purpose")
        text = PdfReader(io.BytesIO(self.paper("Open as PDF"))).pages[0].extract_text()
        self.assertIn("Next cut", text)
        self.assertRegex(text, r"\d\.\d cm")
        self.assertEqual(self.faults, [])

    def test_a_reload_in_mid_drag_loses_nothing(self):
        page = self.page
        self.to_the_bench()
        box = page.locator('[data-handle="rim"]').bounding_box()
        x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
        page.mouse.move(x, y)
        page.mouse.down()
        page.mouse.move(x, y + 45, steps=9)
        shown = page.locator('[data-handle="rim"]').evaluate(
            "h => h.transform.baseVal.getItem(0).matrix.f"
        )
        page.reload()
        page.mouse.up()
        # Whether the last answer came before the reload or the move was sent once more after it.
        deadline = time.monotonic() + 10
        while abs(Correction.objects.latest("pk").y - shown) > 1.5 and time.monotonic() < deadline:
            page.wait_for_timeout(100)
        self.assertAlmostEqual(Correction.objects.latest("pk").y, shown, delta=1.5)
        page.reload()
        kept = page.locator('[data-handle="rim"]').evaluate(
            "h => h.transform.baseVal.getItem(0).matrix.f"
        )
        self.assertAlmostEqual(kept, shown, delta=1.5)

    def test_a_lost_answer_is_tried_again(self):
        page = self.page
        self.to_the_bench()
        page.route("**/move/", lambda route: route.abort())
        page.locator('[data-handle="rim"]').focus()
        page.keyboard.press("Shift+ArrowDown")
        expect(page.locator("#saved")).to_contain_text("Not saved yet")
        page.unroute("**/move/")
        self.saved()
        self.assertEqual(Correction.objects.count(), 1)

    def test_every_step_of_a_handle_is_drawn_and_saved(self):
        """Says how long a step took; speed itself is for `bin/bench`."""
        page = self.page
        self.to_the_bench()
        page.locator('[data-handle="rim"]').focus()
        times = []
        for _ in range(4):
            taken = page.evaluate("""
                async () => {
                  const seen = new Promise((done) => {
                    const drawn = () => requestAnimationFrame(() => done());
                    document.body.addEventListener("htmx:afterSettle", drawn, { once: true });
                  });
                  const handle = document.querySelector('[data-handle="rim"]');
                  const down = new KeyboardEvent("keydown", { key: "ArrowDown", bubbles: true });
                  const start = performance.now();
                  handle.dispatchEvent(down);
                  await seen;
                  return performance.now() - start;
                }
            """)
            times.append(taken)
            self.saved()
        print(f"\na moved handle on screen: median {sorted(times)[len(times) // 2]:.0f} ms")
        self.assertEqual(len(times), 4)
        self.assertEqual(Photograph.objects.count(), 1)
