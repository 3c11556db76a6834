"""Colour in a real browser: colours set right, a white spot clicked, another eye's view, a colour
swapped in a trial, a brief's palette.
"""

from playwright.sync_api import expect

from heath.assessment.models import Correction
from tests.journeys.test_correcting import OnTheBench


class Colour(OnTheBench):
    def setUp(self):
        super().setUp()
        self.page.locator('button[data-lens="colour"]').click()

    def rows(self):
        return self.page.locator("#reading .colours li")

    def test_colours_are_joined_named_and_put_back(self):
        page = self.page
        before = self.rows().count()
        page.get_by_text("Correct the colours").click()
        page.locator("#tint-to-2").select_option("1")
        expect(self.rows()).to_have_count(before - 1)
        self.saved()
        page.locator("#tint-name-1").fill("harbour red")
        page.locator("#tint-name-1").press("Tab")
        expect(self.rows().first).to_contain_text("harbour red")
        page.reload()
        expect(self.rows().first).to_contain_text("harbour red")
        page.keyboard.press("u")
        expect(self.rows().first).not_to_contain_text("harbour red")
        page.keyboard.press("u")
        expect(self.rows()).to_have_count(before)
        self.assertEqual(self.faults, [])

    def test_a_lens_taken_by_key_leads_to_its_reading(self):
        heading = self.page.locator('#reading [data-of="colour"]')
        self.page.keyboard.press("1")
        expect(heading).not_to_be_in_viewport()
        self.page.keyboard.press("4")
        expect(heading).to_be_in_viewport()
        expect(self.page.locator('button[data-lens="colour"]')).to_have_attribute(
            "aria-pressed", "true"
        )

    def test_a_head_is_brushed_as_leaf_by_mouse_and_as_petal_by_keys(self):
        page = self.page
        bloom = max(self.now().scene.blooms, key=lambda b: b.radius)
        foliage = self.now().findings["foliage_share"].value
        veil = page.locator("#layers image.petals")
        page.get_by_role("button", name="Leaves", exact=True).click()
        expect(veil).to_be_visible()
        first = veil.get_attribute("href")
        page.keyboard.down("Shift")
        page.mouse.click(*self.at(*bloom.centre))
        page.keyboard.up("Shift")
        expect(page.locator(".history summary")).to_have_text("1 correction")
        self.saved()
        expect(veil).not_to_have_attribute("href", first)
        self.assertTrue(Correction.objects.get().as_core().alone)
        leaf = self.now().findings["foliage_share"].value
        self.assertGreater(leaf, foliage)
        page.keyboard.press("q")
        expect(page.get_by_role("button", name="Petals", exact=True)).to_have_attribute(
            "aria-pressed", "true"
        )
        photograph = self.piece.photograph
        for key, off in (
            ("Right", bloom.centre[0] - photograph.width / 2),
            ("Down", bloom.centre[1] - photograph.height / 3),
        ):
            way = key if off > 0 else {"Right": "Left", "Down": "Up"}[key]
            far, near = divmod(round(abs(off) / (0.005 * photograph.height)), 6)
            for press in [f"Shift+Arrow{way}"] * far + [f"Arrow{way}"] * near:
                page.keyboard.press(press)
        page.keyboard.press("Space")
        self.saved()
        page.reload()
        expect(page.locator(".history summary")).to_have_text("2 corrections")
        for undone in (1, 2):
            page.keyboard.press("u")
            expect(page.locator(".history li.undone")).to_have_count(undone)
        self.assertAlmostEqual(self.now().findings["foliage_share"].value, foliage)
        self.assertEqual(self.faults, [])

    def test_a_white_spot_is_clicked(self):
        page = self.page
        page.keyboard.press("g")
        page.mouse.click(*self.at(60, 60))
        expect(page.locator(".history summary")).to_have_text("1 correction")
        self.assertEqual(Correction.objects.get().words, "White or grey shown")
        self.assertEqual(self.faults, [])

    def test_the_picture_as_another_eye_sees_it(self):
        page, stand = self.page, self.page.locator(".stand")
        page.get_by_role("button", name="deutan").click()
        self.assertRegex(
            stand.locator("img").evaluate("(e) => getComputedStyle(e).filter"), "deutan"
        )
        page.get_by_role("button", name="you do").click()
        self.assertEqual(stand.locator("img").evaluate("(e) => getComputedStyle(e).filter"), "none")
        self.assertEqual(self.faults, [])

    def test_a_colour_is_swapped_in_a_trial_and_nothing_is_kept(self):
        page = self.page
        page.keyboard.press("y")
        page.get_by_label("becomes").fill("#3763b4")
        page.get_by_role("button", name="Swap", exact=True).click()
        expect(page.locator("#tried-column .tries")).to_contain_text("made blue")
        expect(page.locator("#tried image")).to_be_attached()
        self.assertFalse(Correction.objects.exists())
        self.assertEqual(self.faults, [])

    def test_a_palette_is_saved_and_given_to_the_brief(self):
        page = self.page
        with page.expect_download() as taken:
            page.get_by_role("link", name="palette file (.gpl)").click()
        path = taken.value.path()
        self.go(f"briefs/{self.piece.brief_id}/change/")
        page.get_by_label("Palette file or photograph").set_input_files(
            {"name": "evening.gpl", "mimeType": "text/plain", "buffer": path.read_bytes()}
        )
        page.get_by_role("button", name="Use its colours").click()
        expect(page.locator(".wished li").first).to_be_visible()
        self.go(f"pieces/{self.piece.pk}/")
        expect(page.locator(".missing")).to_have_count(0)
        self.assertEqual(self.faults, [])
