"""Databases of every release, each with a school, a measured and marked piece, a remark and printed
links, brought to this release. A release's dump is made when it is released (CONTRIBUTING.md); all
of them were made with the same secret key, and hold made-up people.
"""

import gzip
import json
import os
import subprocess
import unittest
from pathlib import Path

from tests.house.installation import MADE, PASSWORD, installation

RELEASES = Path(__file__).with_name("releases")
KEY = "k" * 60  # what the dumps' links were signed with
# the students' link as it was printed: signed with the key until 0.9, a secret of its own since
SIGNED = "1:ceO1834b5WlM8dDKw3Opeq6LAhJ3uzROC01h9f28RQo"
PRINTED = dict.fromkeys(("0.7.0", "0.8.0", "0.9.2"), SIGNED)
HELD = """
import json
from django.conf import settings
from django.core.management import call_command
from django.test import Client
call_command("migrate", verbosity=0)
settings.ALLOWED_HOSTS = ["testserver"]
from django.urls import reverse
from heath.assessment.models import Mark, Piece, Photograph, Remark
from heath.intake.links import link_of
from heath.people.models import User
from heath.records.models import RecordLink
from heath.returns.models import ReturnSheet
client = Client()
client.force_login(User.objects.get(username="ruth"))
piece = Mark.objects.get().piece
print("HELD", json.dumps({
    "people": sorted(User.objects.values_list("username", "role")),
    "pieces": Piece.objects.count(),
    "mark": round(Mark.objects.get().score, 1),
    "remarks": list(Remark.objects.values_list("words", flat=True)),
    "seen": Photograph.objects.get().scene is not None,
    "link": str(link_of("%s").brief),
    "sheets": sorted(ReturnSheet.objects.values_list("key", flat=True)),
    "records": sorted(RecordLink.objects.values_list("key", flat=True)),
    "pages": [client.get(a).status_code for a in (
        reverse("term"), reverse("people"), reverse("briefs"),
        reverse("gradebook", args=[piece.brief.course_id]))],
}))
"""
SAME = {
    "people": [["ruth", "owner"]],
    "pieces": 2,
    "remarks": ["This stem is bruised."],
    "seen": True,
    "link": "Column",
    "pages": [200, 200, 200, 200],
}
OWN = {
    "0.7.0": {"mark": 45.0, "sheets": ["_rJ9MzmTEA5tgOWL1eVT3Q"], "records": []},
    "0.8.0": {
        "mark": 77.6,
        "sheets": ["CuSV0mGCaPIBx6zUAKwTzg"],
        "records": ["f3LjCaqWlUE48MkLdCkevw"],
    },
    "0.9.2": {
        "mark": 66.8,
        "sheets": ["KhPDnae3rgNA7aEpEpDm-w"],
        "records": ["cm2JJf2B9CoMX1xYq3w5BA"],
    },
}


class FromEveryRelease(unittest.TestCase):
    def upgraded(self, release):
        """What is held after a release's database was brought to this one."""
        house, name = installation(), f"from_{release.replace('.', '_')}"
        house.database(name)
        done = subprocess.run(
            ["psql", "-q", "-v", "ON_ERROR_STOP=1", "-d", name],
            input=gzip.decompress((RELEASES / f"{release}.sql.gz").read_bytes()),
            env=os.environ | {
                "PGHOST": "127.0.0.1", "PGPORT": str(house.cluster.port), "PGUSER": "heath",
                "PGPASSWORD": PASSWORD,
            },
            capture_output=True, check=False,
        )  # fmt: skip
        self.assertEqual(done.returncode, 0, done.stderr[-300:])
        house.data(name).mkdir()
        (house.data(name) / "static").symlink_to(house.data(MADE) / "static")
        said = house.manage(name, "shell", "-c", HELD % PRINTED[release], HEATH_SECRET_KEY=KEY)
        return json.loads(said.split("HELD ")[1])

    def test_nothing_is_lost_and_printed_links_hold(self):
        for release, own in OWN.items():
            with self.subTest(release):
                self.assertEqual(self.upgraded(release), SAME | own)

    def test_every_dump_is_tried(self):
        dumps = {p.name.removesuffix(".sql.gz") for p in RELEASES.glob("*.gz")}
        self.assertEqual((dumps, dumps), (set(OWN), set(PRINTED)))


if __name__ == "__main__":
    unittest.main()
