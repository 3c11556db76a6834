"""What a person and a school set for themselves."""

from datetime import UTC, datetime
from unittest import mock

from django.urls import reverse

from heath.briefs.models import Brief
from heath.people.models import Role, School, User
from heath.testing import SchoolTestCase


class Settings(SchoolTestCase):
    def own(self, **values):
        usual = {"first_name": "Ruth", "last_name": "Teal", "email": "ruth@x.test"}
        return self.client.post(
            reverse("settings"), usual | {"inches": "", "surround": "mid"} | values
        )

    def school(self, **values):
        usual = {"name": "Cliffend College", "time_zone": "", "south": "", "inches": ""}
        return self.client.post(reverse("school-settings"), usual | values)

    def test_a_persons_name_unit_and_grey(self):
        self.own(inches="1", surround="dark")
        user = User.objects.get(pk=self.user.pk)
        self.assertEqual((user.shown_name, user.inches, user.surround), ("Ruth Teal", True, "dark"))
        self.assertContains(self.client.get(reverse("term")), 'data-surround="dark"')

    def test_what_is_wrong_is_said_and_kept(self):
        answer = self.own(email="no address", surround="pink")
        self.assertContains(answer, "no address", status_code=422)
        self.assertEqual(User.objects.get(pk=self.user.pk).surround, "mid")

    def test_the_schools_time_zone_is_that_of_its_pages(self):
        self.school(time_zone="Pacific/Auckland")
        self.brief.locked_at = datetime(2026, 7, 1, 10, 30, tzinfo=UTC)
        self.brief.save()
        page = self.client.get(reverse("returning", args=[self.brief.pk]))
        self.assertContains(page, "1 July, 22:30")  # twelve hours ahead in their winter
        self.assertEqual(self.school(time_zone="Atlantis/Reef").status_code, 422)

    def test_new_briefs_begin_with_hidden_names_where_the_school_says_so(self):
        self.school(hides_names="on", south="1")
        school = School.objects.get(pk=self.user.school_id)
        self.assertTrue(school.hides_names and school.south)
        self.client.post(
            reverse("brief-new"),
            {
                "name": "Bowls",
                "course": self.brief.course_id,
                "container": "Bowl",
                "container_height_cm": "10",
                "container_width_cm": "20",
                "viewpoint": "front only",
                "form": "horizontal",
                "rule_set": "low-table-piece",
                "pass_mark": "50",
            },
        )
        self.assertTrue(Brief.objects.get(name="Bowls").names_hidden)

    def test_the_schools_are_the_owners_alone(self):
        self.user.role = Role.INSTRUCTOR
        self.user.save()
        self.assertNotContains(self.client.get(reverse("settings")), "Time zone")
        self.assertEqual(self.school(name="Mine").status_code, 403)

    def test_signing_in_names_the_one_school(self):
        self.client.logout()
        page = self.client.get(reverse("sign-in"))
        self.assertContains(page, "heather-and-thyme")  # the demo's made-up sign-ins
        with mock.patch("heath.people.views.School.objects.all", return_value=[self.user.school]):
            self.assertEqual(
                self.client.get(reverse("sign-in")).context["school_name"], "Cliffend College"
            )
