from functools import cache

from django.core.files.uploadedfile import SimpleUploadedFile
from django.urls import reverse

from heath.briefs.models import Brief
from heath.shelf.adding import add_container, name_from
from heath.shelf.models import Container
from heath.testing import SchoolTestCase, done, photographed
from juniper.camera import Shot, frame, take
from juniper.camera.containers import SHELF
from juniper.camera.roll import EMPTY


@cache
def empty(name, **shot):
    """A photograph of an empty container, taken once."""
    return take(frame(list(SHELF).index(name), EMPTY), Shot(**shot)).data


class Shelf(SchoolTestCase):
    def send(self, *pictures):
        files = [SimpleUploadedFile(name, data) for name, data in pictures]
        answer = self.client.post(reverse("shelf"), {"pictures": files})
        return answer if answer.status_code == 200 else self.client.get(done(answer).to)

    def test_one_photograph_sets_a_container_on_the_shelf(self):
        answer = self.send(("ginger jar.jpg", empty("ginger jar", code="K7Q2M9XA")))
        one = Container.objects.get()
        self.assertEqual((one.school, one.name), (self.user.school, "Ginger jar"))
        # 21 cm high in the traced scene, read by the card.
        self.assertAlmostEqual(float(one.height_cm), 21, delta=0.6)
        self.assertIsNotNone(one.container_shape)
        self.assertContains(answer, "read from the reference card")
        self.assertContains(self.client.get(reverse("shelf")), "Ginger jar")
        copy = self.client.get(reverse("container-picture", args=[one.pk]))
        self.assertEqual(copy["Content-Type"], "image/jpeg")

    def test_without_a_card_the_size_is_asked_for(self):
        answer = self.send(("IMG_0042.jpg", empty("bottle")))
        one = Container.objects.get()
        self.assertEqual((one.name, one.measured), ("Container 1", False))
        self.assertContains(answer, "Measure the container")
        page = reverse("container", args=[one.pk])
        self.assertContains(
            self.client.post(page, {"name": "Bottle", "height_cm": "tall", "width_cm": "10"}),
            "number of centimetres",
        )
        self.client.post(page, {"name": "Bottle", "height_cm": "27", "width_cm": "10"})
        one.refresh_from_db()
        self.assertEqual((one.name, float(one.height_cm)), ("Bottle", 27))
        self.assertIsNotNone(one.container_shape)

    def test_sizes_that_the_picture_does_not_bear_out_are_told(self):
        one = add_container(self.user.school, empty("bottle"), "bottle.jpg", self.user)
        answer = self.client.post(
            reverse("container", args=[one.pk]),
            {"name": "Bottle", "height_cm": "12", "width_cm": "10"},
            follow=True,
        )
        self.assertContains(answer, "does not agree with these sizes")
        one.refresh_from_db()
        self.assertIsNone(one.container_shape)

    def test_pictures_that_show_no_container_are_refused_by_name(self):
        answer = self.send(
            ("piece.jpg", take(frame(0), Shot()).data),
            ("notes.txt", b"no picture"),
            ("jug.jpg", empty("jug")),
        )
        self.assertContains(answer, "piece.jpg: There is something above the container")
        self.assertContains(answer, "notes.txt: ")
        self.assertEqual(list(Container.objects.values_list("name", flat=True)), ["Jug"])
        self.assertContains(self.client.post(reverse("shelf")), "choose a photograph")

    def test_another_schools_shelf_is_not_seen(self):
        one = add_container(self.user.school, empty("jug"), "jug.jpg", self.user)
        self.client.force_login(self.stranger)
        self.assertNotContains(self.client.get(reverse("shelf")), "Jug")
        for name in ("container", "container-picture"):
            self.assertEqual(self.client.get(reverse(name, args=[one.pk])).status_code, 404)
        self.assertEqual(
            self.client.post(reverse("container-remove", args=[one.pk])).status_code, 404
        )
        self.assertTrue(Container.objects.filter(pk=one.pk).exists())

    def test_taken_off_the_shelf_briefs_keep_their_sizes(self):
        one = add_container(self.user.school, empty("jug"), "jug.jpg", self.user)
        Brief.objects.filter(pk=self.brief.pk).update(shelf_container=one)
        self.client.post(reverse("container-remove", args=[one.pk]))
        self.brief.refresh_from_db()
        self.assertEqual(
            (self.brief.shelf_container, self.brief.container), (None, "Tall cylinder")
        )

    def test_names_from_file_names(self):
        for filename, name in (
            ("tall-vase_2.jpg", "Tall vase 2"),
            ("IMG_2201.heic", "Container 1"),
            ("12.jpg", "Container 1"),
        ):
            self.assertEqual(name_from(filename, self.user.school), name)


class InABrief(SchoolTestCase):
    def setUp(self):
        super().setUp()
        self.vase = add_container(
            self.user.school, empty("flared vase", code="K7Q2M9XA"), "flared vase.jpg", self.user
        )

    def test_the_form_offers_the_schools_own_with_their_sizes_and_draws_them(self):
        theirs = add_container(self.stranger.school, empty("jug"), "jug.jpg", self.stranger)
        page = self.client.get(reverse("brief-new"))
        self.assertContains(page, f'data-container_height_cm="{float(self.vase.height_cm):g}"')
        self.assertNotContains(page, f'<option value="{theirs.pk}" data-container')
        values = {
            "shelf_container": self.vase.pk,
            "container_height_cm": "21",
            "container_width_cm": "17.2",
            "form": "round",
            "rule_set": "classical-line-mass",
        }
        shaped = self.client.post(reverse("brief-new"), values, headers={"HX-Request": "true"})
        plain = self.client.post(
            reverse("brief-new"),
            values | {"shelf_container": theirs.pk},
            headers={"HX-Request": "true"},
        )
        self.assertGreater(shaped.content.count(b"L"), plain.content.count(b"L") + 60)

    def test_a_piece_is_seen_again_when_its_container_is_known(self):
        piece = photographed(self.brief, self.user, 12)
        before = piece.photograph.core_scene().datum
        form = {
            "name": self.brief.name,
            "course": self.brief.course_id,
            "shelf_container": self.vase.pk,
            "container": "Flared vase",
            "container_height_cm": "25",
            "container_width_cm": "14",
            "viewpoint": "front only",
            "form": "vertical",
            "rule_set": "classical-line-mass",
            "scheme": "",
            "pass_mark": "50",
        }
        self.client.post(reverse("brief-change", args=[self.brief.pk]), form)
        from procrastinate.contrib.django.models import ProcrastinateJob

        jobs = ProcrastinateJob.objects.filter(
            task_name="assessment.measure_photograph", args__photograph_id=piece.photograph.pk
        )
        self.assertEqual(jobs.count(), 2)  # when it was added, and now
        from heath.assessment.photographs import see_photograph

        see_photograph(type(piece).objects.get(pk=piece.pk).photograph)
        after = type(piece).objects.get(pk=piece.pk).photograph.core_scene().datum
        self.assertFalse(after.needs_check)
        # The truth of the traced scene: flowers hide the vase's rim.
        truth = frame(12).truth["container"]
        self.assertAlmostEqual(
            after.rim[1], truth["rim"][1], delta=0.04 * (truth["base"][1] - truth["rim"][1])
        )
        # The shape makes the hidden rim surer than the picture alone.
        self.assertLess(after.spread.rim, before.spread.rim)
