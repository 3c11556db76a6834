"""Who may do what: a sweep over every address by every role, signing in, and the people's page."""

import re
from unittest import mock

from django.core import mail
from django.test import override_settings
from django.urls import NoReverseMatch, get_resolver, reverse
from django.urls.resolvers import URLResolver

from heath.people.models import Role, School, User
from heath.people.policy import CHANGES, PAGES, needed
from heath.testing import SchoolTestCase

# What a stranger may ask for; each guards itself by a signed link or a password.
OPEN = {
    "sign-in",
    "forgotten",
    "password_reset_done",
    "password_reset_confirm",
    "password_reset_complete",
    "student-add",
    "student-sent",
    "student-picture",
    "student-take-back",
    "student-plan",
    "student-plan-pdf",
    "own-sheet",
    "own-pdf",
    "own-svg",
    "own-care",
    "own-care-pdf",
    "own-picture",
    "own-record",
    "own-permission",
    "own-practice",
    "own-record-picture",
    "job",
    "job-file",
    "timer",
    "timer-worker",
    "health-live",
    "health-ready",
    "metrics",
    "own-stored",
    "student-stored",
    "eye",
    "eye-start",
    "eye-round",
    "eye-answer",
    "eye-others",
    "eye-ahead",
    "eye-picture",
    "eye-join",
}


def addresses(resolver=None):
    """(name, view, address with made-up parts) of every address of the site."""
    for entry in (resolver or get_resolver()).url_patterns:
        if isinstance(entry, URLResolver):
            yield from addresses(entry)
        elif entry.name:
            values = {k: _example(k, entry) for k in entry.pattern.regex.groupindex}
            try:
                yield entry.name, entry.callback, reverse(entry.name, kwargs=values)
            except NoReverseMatch as error:
                raise AssertionError(f"{entry.name} needs an example: {error}") from error


def _example(part, entry):
    told = {
        "pk": 999_999,
        "place": 999_999,
        "suffix": None,
        "what": None,
        "slug": "no-such",
        "name": "start",
        "rule": "no-such",
        "text": "1:x",
        "key": "no-such",
        "code": "no-such",
        "layout": "students",
        "secret": "no-such-secret-no-such",
        "size": "thumb",
        "sheet": "a4",
        "uidb64": "MQ",
        "token": "set-password",
    }[part]
    if told is not None:
        return told
    return re.search(rf"\(\?P<{part}>(\w+)", entry.pattern.regex.pattern)[1]


class Sweep(SchoolTestCase):
    def signed_in(self, role):
        self.client.force_login(
            User.objects.create_user(f"a-{role}", password=None, school=self.user.school, role=role)
        )

    def refused(self, method, address):
        answer = getattr(self.client, method)(address)
        return answer.status_code in (403, 405) and "people/refused.html" in [
            t.name for t in answer.templates
        ]

    def test_every_address_by_every_role(self):
        count = 0
        for role in Role:
            self.signed_in(role)
            for name, _view, address in addresses():
                if name in OPEN or name == "sign-out":
                    continue
                for method in ("get", "post"):
                    least = needed(name, method.upper())
                    allowed = least is not None and role.rank >= Role(least).rank
                    with self.subTest(role=role, method=method, address=address):
                        self.assertEqual(self.refused(method, address), not allowed)
                    count += 1
                if name in ("password", "sign-out-everywhere"):
                    self.signed_in_again(role)
        self.assertGreater(count, 400)

    def signed_in_again(self, role):
        self.client.force_login(User.objects.get(username=f"a-{role}"))

    def test_strangers_are_sent_to_sign_in(self):
        self.client.logout()
        for name, _view, address in addresses():
            answer = self.client.get(address)
            with self.subTest(name):
                if name not in OPEN:
                    self.assertEqual(answer.status_code, 302)
                    self.assertTrue(answer.url.startswith("/sign-in/"))

    def test_no_name_of_the_policy_is_out_of_date(self):
        names = {name for name, _, _ in addresses()}
        self.assertEqual((set(CHANGES) | set(PAGES)) - names, set())

    def test_what_is_the_instructors_and_what_the_owners(self):
        # The roles as the users wish them.
        for name in (
            "draft-release",
            "container-remove",
            "materials-remove",
            "photograph-remove",
            "brief-names",
            "student-link",
            "return",
            "return-all",
            "sheet-withdraw",
            "course",
        ):
            self.assertEqual(CHANGES[name], Role.INSTRUCTOR, name)
        for name in (
            "accept",
            "answer",
            "change",
            "move",
            "override",
            "remark",
            "arrival-sort",
            "photograph-add",
        ):
            self.assertEqual(CHANGES[name], Role.ASSISTANT, name)
        self.assertEqual((CHANGES["people"], CHANGES["person"], PAGES["people"]), (Role.OWNER,) * 3)

    def test_somebody_without_a_school_gets_a_sentence(self):
        self.client.force_login(User.objects.create_user("lost", password=None))
        for address in ("/", "/briefs/", "/containers/", "/people/", "/rulebook/"):
            self.assertContains(
                self.client.get(address), "You belong to no school yet", status_code=403
            )
        self.assertEqual(self.client.get("/password/").status_code, 200)


@override_settings(AXES_ENABLED=True, AXES_FAILURE_LIMIT=4)
class SigningIn(SchoolTestCase):
    def setUp(self):
        pass

    def attempt(self, username="ruth", password="wrong", **more):
        return self.client.post("/sign-in/", {"username": username, "password": password}, **more)

    def test_attempts_on_a_name_are_held_up_from_any_address(self):
        with self.assertLogs("axes", "WARNING"):
            for i in range(4):
                self.attempt(REMOTE_ADDR=f"10.0.0.{i}")
            answer = self.attempt(password="a-long-password", REMOTE_ADDR="10.0.1.1")
        self.assertContains(answer, "Wait ten minutes", status_code=429)
        self.assertNotIn("_auth_user_id", self.client.session)

    def test_attempts_from_an_address_are_held_up_for_any_name(self):
        with self.assertLogs("axes", "WARNING"):
            for i in range(4):
                self.attempt(username=f"name{i}", REMOTE_ADDR="10.0.0.9")
            self.assertEqual(
                self.attempt(password="a-long-password", REMOTE_ADDR="10.0.0.9").status_code, 429
            )
        self.assertEqual(
            self.attempt(password="a-long-password", REMOTE_ADDR="10.0.0.8").status_code, 302
        )

    def test_a_few_wrong_attempts_are_forgiven(self):
        for _ in range(2):
            self.assertContains(self.attempt(), "do not belong together")
        self.assertEqual(self.attempt(password="a-long-password").status_code, 302)


class Passwords(SchoolTestCase):
    def change(self, new):
        return self.client.post(
            "/password/",
            {"old_password": "a-long-password", "new_password1": new, "new_password2": new},
        )

    def test_changed_and_other_devices_signed_out(self):
        other = self.client_class()
        other.force_login(self.user)
        self.assertContains(self.change("ruth"), "too short", status_code=200)
        self.assertRedirects(self.change("heron-and-tide"), "/password/changed/")
        self.assertEqual(self.client.get("/").status_code, 200)
        self.assertEqual(other.get("/").status_code, 302)

    def test_ones_own_name_is_no_password(self):
        self.user.first_name = "Wilhelmina"
        self.user.save()
        self.assertContains(self.change("wilhelmina1"), "too similar")

    def test_signed_out_everywhere_but_here(self):
        other = self.client_class()
        other.force_login(self.user)
        self.client.post("/sign-out-everywhere/")
        self.assertEqual(self.client.get("/").status_code, 200)
        self.assertEqual(other.get("/").status_code, 302)

    def test_forgotten(self):
        self.client.logout()
        User.objects.filter(pk=self.user.pk).update(email="ruth@cliffend.example")
        for address, letters in (("nobody@cliffend.example", 0), ("ruth@cliffend.example", 1)):
            self.assertRedirects(
                self.client.post("/forgotten/", {"email": address}), "/forgotten/sent/"
            )
            self.assertEqual(len(mail.outbox), letters)
        link = re.search(r"http://testserver(/\S+)", mail.outbox[0].body)[1]
        page = self.client.get(link, follow=True)
        new = {"new_password1": "heron-and-tide", "new_password2": "heron-and-tide"}
        self.assertRedirects(self.client.post(page.redirect_chain[-1][0], new), "/forgotten/done/")
        signed = self.client.post("/sign-in/", {"username": "ruth", "password": "heron-and-tide"})
        self.assertEqual(signed.status_code, 302)
        self.assertContains(
            self.client_class().get(link, follow=True), "used before, or is too old"
        )


class People(SchoolTestCase):
    NEW = {
        "username": "tam",
        "first_name": "Tam",
        "last_name": "Reed",
        "email": "tam@cliffend.example",
        "role": "assistant",
    }

    def test_somebody_is_added_and_sets_a_password_by_letter(self):
        self.client.post("/people/", self.NEW)
        tam = User.objects.get(username="tam")
        self.assertEqual((tam.school, tam.role), (self.user.school, "assistant"))
        self.assertEqual(mail.outbox[0].to, ["tam@cliffend.example"])
        self.assertIn("You sign in as tam.", mail.outbox[0].body)
        self.assertContains(self.client.get("/people/"), "Tam Reed")
        self.assertContains(
            self.client.post("/people/", self.NEW), "already exists", status_code=422
        )

    def test_kept_out_at_once_and_let_in_again(self):
        self.client.post("/people/", self.NEW)
        tam = User.objects.get(username="tam")
        other = self.client_class()
        other.force_login(tam)
        self.assertEqual(other.get("/").status_code, 200)
        self.client.post(f"/people/{tam.pk}/", {"do": "disable"})
        self.assertEqual(other.get("/").status_code, 302)
        self.client.post(f"/people/{tam.pk}/", {"do": "enable"})
        other.force_login(tam)
        self.client.post(f"/people/{tam.pk}/", {"do": "end"})
        self.assertEqual(other.get("/").status_code, 302)
        self.client.post(f"/people/{tam.pk}/", {"do": "instructor"})
        self.assertEqual(User.objects.get(pk=tam.pk).role, "instructor")

    def test_the_last_owner_stays(self):
        for what in ("disable", "assistant", "instructor"):
            answer = self.client.post(f"/people/{self.user.pk}/", {"do": what}, follow=True)
            self.assertContains(answer, "A school needs an owner")
        self.user.refresh_from_db()
        self.assertEqual((self.user.is_active, self.user.role), (True, "owner"))

    def test_people_of_another_school_are_not_found(self):
        self.assertEqual(
            self.client.post(f"/people/{self.stranger.pk}/", {"do": "disable"}).status_code, 404
        )
        self.assertNotContains(self.client.get("/people/"), "stranger")
        self.assertEqual(School.objects.count(), 2)
        with mock.patch("heath.people.views.messages"):
            self.assertEqual(self.client.post("/people/abc/").status_code, 404)


class TwoSchools(SchoolTestCase):
    """Somebody who belongs to two schools sees one at a time."""

    def setUp(self):
        super().setUp()
        self.stranger.email = "stranger@reef.test"
        self.stranger.save()

    def invite(self, **told):
        values = {"username": "new", "first_name": "Una", "last_name": "Reef", "role": "moderator"}
        return self.client.post(reverse("people"), values | told)

    def test_one_who_has_an_account_is_taken_in_and_changes_schools(self):
        self.invite(email="Stranger@reef.test")
        one = User.objects.get(pk=self.stranger.pk)
        self.assertEqual((one.school, one.role), (self.stranger.school, Role.OWNER))
        self.assertFalse(User.objects.filter(username="new").exists())
        self.client.force_login(one)
        brief = reverse("brief", args=[self.brief.pk])
        self.assertEqual(self.client.get(brief).status_code, 404)
        self.assertContains(self.client.get(reverse("settings")), "Cliffend College, as moderator")
        self.client.post(reverse("school-change"), {"school": self.user.school_id})
        self.assertEqual(self.client.get(brief).status_code, 200)
        self.assertEqual(self.client.get(reverse("people")).status_code, 403)  # no owner here
        other = reverse("brief", args=[self.other_brief.pk])
        self.assertEqual(self.client.get(other).status_code, 404)
        self.client.post(reverse("school-change"), {"school": self.stranger.school_id})
        self.assertEqual(User.objects.get(pk=one.pk).role, Role.OWNER)

    def test_a_school_that_one_does_not_belong_to_is_not_there(self):
        answer = self.client.post(reverse("school-change"), {"school": self.stranger.school_id})
        self.assertEqual(answer.status_code, 404)

    def test_access_ends_at_one_school_alone(self):
        self.invite(email="stranger@reef.test")
        one = User.objects.get(pk=self.stranger.pk)
        self.client.force_login(one)
        self.client.post(reverse("school-change"), {"school": self.user.school_id})
        self.client.force_login(self.user)
        self.client.post(reverse("person", args=[one.pk]), {"do": "disable"})
        one.refresh_from_db()
        self.assertEqual((one.is_active, one.school), (True, self.stranger.school))
        self.client.force_login(one)
        answer = self.client.post(reverse("school-change"), {"school": self.user.school_id})
        self.assertEqual(answer.status_code, 404)
        self.client.force_login(self.user)
        self.client.post(reverse("person", args=[one.pk]), {"do": "enable"})
        self.client.post(reverse("person", args=[one.pk]), {"do": "instructor"})
        own = one.memberships.get(school=self.user.school)
        self.assertEqual((own.has_access, own.role), (True, Role.INSTRUCTOR))
        one.refresh_from_db()
        self.assertEqual(one.role, Role.OWNER)  # of the school they work in

    def test_what_the_moderators_and_the_owners_is(self):
        for name in ("second-mark", "second-marking"):
            self.assertEqual(CHANGES[name], Role.MODERATOR)
        for name in ("bundles", "bundle-take-in", "people", "school-settings"):
            self.assertEqual(CHANGES[name], Role.OWNER)
