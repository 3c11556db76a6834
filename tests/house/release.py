"""Makes the dump of a release for tests/house/test_upgrade.py: `python -m tests.house.release` once
the release is checked out. Prints what the test must find in it.
"""

import gzip
import os
import subprocess
import sys

from juniper import VERSION
from tests.house.installation import PASSWORD, installation
from tests.house.test_upgrade import KEY, RELEASES

FILL = """
from heath.testing import photographed, school
from heath.bench.accepting import accept_marks, confirm_handles
from heath.intake.links import make_link, token
from heath.records.models import RecordLink
from heath.returns.issuing import issue_sheet
user, brief = school()
piece = photographed(brief, user)
piece.remarks.create(words="This stem is bruised.", made_by=user)
confirm_handles(piece.photograph, user)
mark = accept_marks(piece, user)
sheet = issue_sheet(type(piece).objects.get(pk=piece.pk), user)
record = RecordLink.objects.create(student=piece.student)
print("FOUND", token(make_link(brief, user)), mark.score, sheet.key, record.key)
"""


def main() -> int:
    """Make the dump of the release that is checked out."""
    house, name = installation(), "release"
    house.database(name)
    house.manage(name, "migrate", "--verbosity=0", HEATH_SECRET_KEY=KEY)
    said = house.manage(name, "shell", "-c", FILL, HEATH_SECRET_KEY=KEY)
    dump = subprocess.run(
        ["pg_dump", "--no-owner", "--inserts", name],
        env=os.environ | {
            "PGHOST": "127.0.0.1", "PGPORT": str(house.cluster.port), "PGUSER": "heath",
            "PGPASSWORD": PASSWORD,
        },
        capture_output=True, check=True,
    ).stdout  # fmt: skip
    path = RELEASES / f"{VERSION}.sql.gz"
    path.write_bytes(gzip.compress(dump, mtime=0))
    print(f"{path.name}, {path.stat().st_size} bytes;", said.split("FOUND ")[1])
    return 0


if __name__ == "__main__":
    sys.exit(main())
