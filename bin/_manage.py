"""One of manage.py's commands, with the installation's database: bin/_manage.py COMMAND ..."""

from __future__ import annotations

import subprocess
import sys

from _processes import ROOT
from _serve import attended

if __name__ == "__main__":
    words = [sys.executable, "-W", "ignore", "manage.py", *sys.argv[1:]]
    sys.exit(attended(lambda _, environment: subprocess.call(words, cwd=ROOT, env=environment)))
