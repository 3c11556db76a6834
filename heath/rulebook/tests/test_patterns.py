"""Patterns in the rulebook: read, copied, edited, released, brought in and taken out."""

from django.core.files.uploadedfile import SimpleUploadedFile
from django.urls import reverse

from heath.briefs.models import Brief
from heath.rulebook.models import PatternVersion
from heath.testing import SchoolTestCase
from juniper.patterns import pattern_slugs, read_pattern, shipped_pattern
from juniper.patterns.document import SHIPPED


class Patterns(SchoolTestCase):
    def draft(self) -> PatternVersion:
        self.client.post(reverse("pattern-copy", args=["right-angle-l"]))
        return PatternVersion.objects.get()

    def test_every_pattern_is_shown_with_its_order(self):
        page = self.client.get(reverse("patterns"))
        for slug in pattern_slugs():
            self.assertContains(page, shipped_pattern(slug).name)
            self.assertEqual(self.client.get(reverse("pattern", args=[slug])).status_code, 200)
        page = self.client.get(reverse("pattern", args=["right-angle-l"]))
        self.assertSays(page, "Left of the middle of the rim, cut to")
        self.assertNotContains(page, "{where}")

    def test_a_document_is_given_as_it_ships(self):
        answer = self.client.get(reverse("pattern-document", args=["rings"]))
        self.assertEqual(answer.content, (SHIPPED / "rings.toml").read_bytes())

    def test_our_own_is_edited_released_and_built_after(self):
        draft = self.draft()
        self.assertEqual((draft.slug, draft.number), ("right-angle-l-own", 1))
        self.assertEqual(self.draft().pk, draft.pk)
        text = draft.text.replace("{where}, cut to {cut}", "Upright at the left end, cut to {cut}")
        address = reverse("pattern-draft", args=[draft.pk])
        self.client.post(address, {"text": text, "release": "1", "why": "shorter words"})
        draft.refresh_from_db()
        self.assertTrue(draft.released_at)
        self.assertEqual(draft.why, "shorter words")
        self.brief.pattern, self.brief.pattern_version = draft.slug, 1
        self.brief.form = "right-angle L"
        self.brief.save()
        page = self.client.get(reverse("plan", args=[self.brief.pk]))
        self.assertContains(page, "Upright at the left end, cut to")
        self.client.post(reverse("pattern-copy", args=[draft.slug]))
        self.assertEqual(PatternVersion.objects.get(released_at=None).number, 2)
        again = Brief.objects.get(pk=self.brief.pk)
        self.assertEqual(again.pattern_in_force.version, "1")

    def test_what_is_wrong_is_told_and_nothing_lost(self):
        draft = self.draft()
        text = draft.text.replace('role = "foliage"', 'role = "leafy"', 1)
        page = self.client.post(reverse("pattern-draft", args=[draft.pk]), {"text": text})
        self.assertContains(page, "leafy", status_code=422)
        self.assertContains(page, "Line ", status_code=422)
        draft.refresh_from_db()
        self.assertNotIn("leafy", draft.text)

    def test_a_document_is_brought_in(self):
        text = self.draft().text.replace("right-angle-l-own", "corner-by-the-door")
        PatternVersion.objects.all().delete()
        sent = SimpleUploadedFile("corner.toml", text.encode())
        self.client.post(reverse("patterns"), {"document": sent})
        self.assertEqual(read_pattern(PatternVersion.objects.get().text).slug, "corner-by-the-door")
        shipped = (SHIPPED / "rings.toml").read_text()
        page = self.client.post(reverse("patterns"), {"text": shipped})
        self.assertSays(page, "belongs to a pattern that ships with the product")

    def test_a_draft_is_thrown_away_and_another_school_sees_none(self):
        draft = self.draft()
        self.client.force_login(self.stranger)
        self.assertEqual(
            self.client.get(reverse("pattern-draft", args=[draft.pk])).status_code, 404
        )
        self.client.force_login(self.user)
        self.client.post(reverse("pattern-discard", args=[draft.pk]))
        self.assertFalse(PatternVersion.objects.exists())
