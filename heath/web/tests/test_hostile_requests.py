"""Hostile requests to every address, by every parameter that its place reads: words come back,
never a fault of ours.
"""

import inspect
import random
import re
from collections import Counter

from django.contrib.auth import SESSION_KEY
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import connection, transaction
from django.urls import reverse

from heath.assessment.models import Remark
from heath.intake.links import make_link, token
from heath.people.tests.test_roles import addresses
from heath.rulebook.sets import RULE_SETS
from heath.testing import SchoolTestCase, photographed
from juniper.rules import school

SEED = 26
EACH = 1  # requests to an address by each method
NASTY = (
    "",
    " ",
    "²",
    "٣",
    "9" * 5000,
    "9" * 19,
    "-1",
    "0",
    "1e400",
    "nan",
    "inf",
    "-inf",
    "abc",
    "a" * 300,
    "é" * 70_000,
    "\ud800",
    "\r",
    "=1+1",
    "{value:>40000000}",
    "[" * 5000,
    '{"a":' * 2000,
    "[]",
    "{}",
    "null",
    "[1,2,",
    '"\\u0000"',
    '[{"act": "\\u0000"}]',
    "0001-01-01",
    "9999-12-31T23:59",
    "2026-02-31",
    "../../etc/passwd",
    "%00",
    "<script>",
    "1,2,3",
    "1;drop",
    "true",
    "1" * 200 + ".5",
    '{"act": "cut", "at": [1e999, 0], "cm": "x"}',
    '[{"act": "cut", "at": [1, 1], "cm": 1e308}]',
    '{"points": [[0, 0], [1e9, 1e9]], "radius": 1e9, "plant": true}',
)
FILES = (
    b"",
    b"\0" * 100,
    b"\xff\xd8\xff\xe0 broken",
    b"%PDF-1.7",
    b"a,b\r\r\0,\n",
    "é".encode("utf-16"),
    b"[" * 20_000,
    b"a." * 5000,
)


def parameters(view) -> list[str]:
    """Names that the module of a view, and its forms, read from requests."""
    module = inspect.getmodule(inspect.unwrap(getattr(view, "view_class", view)))
    text = inspect.getsource(module)
    names = re.findall(r"""(?:GET|POST|sent|FILES)(?:\.get|\.getlist)?[(\[]["'](\w+)["']""", text)
    names += re.findall(r"""for n(?:ame)? in \(([^)]*)\)""", text) and re.findall(
        r'"(\w+)"', " ".join(re.findall(r"""for n(?:ame)? in \(([^)]*)\)""", text))
    )
    for form in re.findall(r"(\w+Form)\(", text):
        names += list(getattr(getattr(module, form, None), "base_fields", {}))
    return sorted({*names, "next", "once", "page", "view", "code"})


class Hostile(SchoolTestCase):
    @classmethod
    def setUpTestData(cls):
        super().setUpTestData()
        cls.piece = photographed(cls.brief, cls.user)
        cls.link = make_link(cls.brief, cls.user)
        cls.draft = RULE_SETS.draft_of(cls.user.school, school("classical-line-mass"), cls.user)

    def lively(self, name: str, address: str) -> str:
        """The address with numbers of records that exist."""
        remark = Remark.objects.filter(piece=self.piece).first() or self.piece
        for place, pk in (
            ("pieces", self.piece.pk),
            ("briefs", self.brief.pk),
            ("photographs", self.piece.photograph.pk),
            ("drafts", self.draft.pk),
            ("versions", self.draft.pk),
            ("classes", self.brief.course_id),
            ("people", self.stranger.pk),
            ("remarks", remark.pk),
        ):
            address = address.replace(f"/{place}/999999", f"/{place}/{pk}")
        if name.startswith("student-"):
            address = address.replace("1:x", token(self.link))
        return address.replace(
            "no-such", "classical-line-mass" if "rulebook" in address else "visible-height"
        )

    def test_every_address_by_every_parameter(self):
        rng, faults, answers = random.Random(SEED), Counter(), Counter()
        self.client.raise_request_exception = False
        for name, view, address in addresses():
            lively, names = self.lively(name, address), parameters(view)
            for method in ("get", "post"):
                for _ in range(EACH):
                    values = {
                        n: rng.choice(NASTY)
                        for n in rng.sample(names, min(len(names), rng.randint(1, 5)))
                    }
                    if method == "post" and rng.random() < 0.3:
                        file = SimpleUploadedFile(
                            rng.choice(("a.jpg", "x" * 300 + ".svg", "a\0.toml")), rng.choice(FILES)
                        )
                        values[
                            rng.choice(
                                ("file", "photographs", "photograph", "pictures", "document")
                            )
                        ] = file
                    headers = {"HX-Request": "true"} if rng.random() < 0.3 else {}
                    status = self.asked(method, lively, values, headers)
                    answers[status] += 1
                    if status >= 500:
                        faults[f"{method} {name} {sorted(values)}"] += 1
        self.assertEqual(dict(faults), {})
        self.assertGreater(answers.total(), 225)
        # not all of it was turned away at the door
        self.assertGreater(answers[200] + answers[302], 37)

    def asked(self, method, address, values, headers) -> int:
        """The status of one request, whose effects are taken back."""
        if SESSION_KEY not in self.client.session:  # a request may have signed it out
            self.client.force_login(self.user)
        try:
            with transaction.atomic():
                answer = getattr(self.client, method)(address, _sendable(values), headers=headers)
                transaction.set_rollback(True)
                return answer.status_code
        except UnicodeEncodeError:
            return 0
        finally:
            self.assertTrue(connection.is_usable())

    def test_addresses_with_odd_parts(self):
        self.client.raise_request_exception = False
        for address in (
            f"/pieces/{'9' * 5000}/",
            f"/pieces/{'9' * 30}/",
            "/own/a%00b/",
            "/add/a%00b/",
            "/add/1:%ED%A0%80/",
            f"/rulebook/{'a' * 300}/",
            f"/photographs/{self.piece.photograph.pk}-delete.jpg",
            f"/photographs/{self.piece.photograph.pk}-piece.jpg",
            f"/photographs/{self.piece.photograph.pk}-raster.jpg",
            "/?%00=%00",
            "/briefs/?page=" + "9" * 5000,
            "/briefs/?words=%00",
        ):
            with self.subTest(address[:40]):
                self.assertIn(self.client.get(address).status_code, (200, 302, 400, 404))

    def test_nul_is_told_in_words(self):
        answer = self.client.post(reverse("remark", args=[self.piece.pk]), {"words": "a\0b"})
        self.assertContains(answer, "a character that cannot be kept", status_code=400)
        text = token(self.link)
        self.client.logout()
        answer = self.client.post(reverse("student-add", args=[text]), {"said": "a\0b"})
        self.assertContains(answer, "a character that cannot be kept", status_code=400)


def _sendable(values: dict) -> dict:
    return {
        n: v.encode("utf-8", "replace").decode() if isinstance(v, str) else v
        for n, v in values.items()
    }
