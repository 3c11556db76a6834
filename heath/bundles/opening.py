"""Opening a bundle that somebody brings: every part of it is distrusted, and it is refused as a
whole with the reason.
"""

from __future__ import annotations

import json
import stat
from pathlib import Path, PurePosixPath
from zipfile import BadZipFile, ZipFile, ZipInfo

import bagit
from pydantic import ValidationError

from heath.bundles import schema
from heath.rulebook.versions import DocumentKind
from juniper.photograph import UnusablePhotograph, read_photograph

LARGEST = 8_000_000_000  # bytes of a bundle unpacked
MOST_FILES = 100_000
LONGEST_NAME = 240  # letters of a path inside
DEEPEST = 6  # folders
DOCUMENT = 60_000_000  # bytes of term.json, 20 MB of a piece's file
PIECE = 20_000_000
TEXT = 400_000  # bytes of a rule set
PICTURE = 60_000_000  # bytes of a picture
CHUNK = 1 << 20
SQUEEZED = 200  # times that a file may grow when it is unpacked: JSON shrinks to a twentieth
RASTER = b"\x89PNG\r\n\x1a\n"


class BundleRefused(ValueError):
    """A bundle that is not taken in; the message says why and what to do."""


def unpack(archive: Path, folder: Path) -> Path:
    """Unpack a bundle into an empty folder and check that it is whole.

    Args:
        archive: the ZIP that was brought.
        folder: where to.

    Returns:
        The bag's folder.

    Raises:
        BundleRefused: it is no ZIP, holds paths that lead elsewhere, grows too large, or its
            checksums do not match.
    """
    try:
        with ZipFile(archive) as file:
            entries = _checked(file.infolist())
            for entry in entries:
                _write(file, entry, folder)
    except (BadZipFile, NotImplementedError, RuntimeError, EOFError, OSError) as error:
        if isinstance(error, OSError) and error.errno is not None:
            raise BundleRefused("The bundle cannot be unpacked: is the disk full?") from error
        raise BundleRefused(
            "This is not a whole ZIP file: it is damaged or was not sent to its end. Make the"
            " bundle anew."
        ) from error
    roots = {PurePosixPath(e.filename).parts[0] for e in entries}
    root = folder / roots.pop()
    return _bag(root)


def _checked(entries: list[ZipInfo]) -> list[ZipInfo]:
    """The files of an archive, all in one folder, with harmless names and sizes."""
    files = [e for e in entries if not e.is_dir()]
    if not files or len(entries) > MOST_FILES:
        raise BundleRefused(
            f"A bundle holds between 1 and {MOST_FILES:,} files. This one does not."
        )
    names = set()
    for entry in files:
        name = entry.filename
        parts = PurePosixPath(name).parts
        harmless = (
            2 <= len(parts) <= DEEPEST
            and len(name) <= LONGEST_NAME
            and not name.startswith("/")
            and "\\" not in name
            and "\0" not in name
            and ":" not in name
            and not {".", ".."} & set(name.split("/"))
            and name.casefold() not in names
            and not stat.S_ISLNK(entry.external_attr >> 16)
        )
        if not harmless:
            raise BundleRefused(f"The bundle holds a file that may not be in one: “{name[:80]}”.")
        names.add(name.casefold())
        if entry.file_size > max(entry.compress_size, 1) * SQUEEZED + CHUNK:
            raise BundleRefused(f"“{name[:80]}” grows too much when it is unpacked.")
    if sum(e.file_size for e in files) > LARGEST:
        raise BundleRefused(
            f"The bundle holds more than {LARGEST // 1_000_000_000} GB. Make one of each class."
        )
    if len({PurePosixPath(e.filename).parts[0] for e in files}) != 1:
        raise BundleRefused("A bundle has one folder at its top. This one has several.")
    return files


def _write(file: ZipFile, entry: ZipInfo, folder: Path) -> None:
    """Unpack one file, and no more of it than it says."""
    path = folder / entry.filename
    path.parent.mkdir(parents=True, exist_ok=True)
    left = entry.file_size
    with file.open(entry) as source, path.open("xb") as target:
        while chunk := source.read(CHUNK):
            left -= len(chunk)
            if left < 0:
                raise BundleRefused(f"“{entry.filename[:80]}” is larger than it says.")
            target.write(chunk)


def _bag(root: Path) -> Path:
    """A folder whose checksums match, as a bag (RFC 8493)."""
    try:
        bag = bagit.Bag(str(root))
        if "sha256" not in bag.algorithms:
            raise BundleRefused("The bundle has no SHA-256 checksums.")
        bag.validate()
    except bagit.BagValidationError as error:
        details = [str(d) for d in getattr(error, "details", [])[:3]]
        told = "; ".join(details) or str(error)
        raise BundleRefused(
            f"The bundle is damaged or something is missing: {told[:300]}. Make it anew."
        ) from error
    except (bagit.BagError, ValueError, OSError) as error:
        if isinstance(error, BundleRefused):
            raise
        raise BundleRefused(
            "This ZIP is not a bundle of Juniper Heath: it has no bagit.txt with checksums."
        ) from error
    return root / "data"


def read_term(data: Path) -> schema.TermOf:
    """term.json of an unpacked bundle.

    Raises:
        BundleRefused: there is none, it is of a newer version, or it says something that cannot be.
    """
    value = _json(data / "term.json", DOCUMENT)
    if not isinstance(value, dict) or value.get("format") != schema.FORMAT:
        raise BundleRefused(
            "This bundle was not made by Juniper Heath: term.json is of another kind."
        )
    version = value.get("version")
    if isinstance(version, int) and version > schema.VERSION:
        raise BundleRefused(
            f"This bundle is of version {version}, and this site reads up to version"
            f" {schema.VERSION}. Bring the site up to date first."
        )
    return _as(schema.TermOf, value, "term.json")


def read_piece(data: Path, number: int) -> schema.PieceOf:
    """A piece's file of an unpacked bundle. Raises BundleRefused."""
    name = f"pieces/{number}.json"
    piece = _as(schema.PieceOf, _json(data / name, PIECE), name)
    if piece.id != number:
        raise BundleRefused(f"{name} speaks of another piece.")
    return piece


def _as(kind, value, name: str):
    try:
        return kind.model_validate(value)
    except ValidationError as error:
        first = error.errors()[0]
        where = ".".join(str(x) for x in first["loc"])
        raise BundleRefused(
            f"{name} does not say what it should: {where[:120]}: {first['msg'][:120]}."
        ) from error


def _json(path: Path, most: int):
    if not path.is_file():
        raise BundleRefused(f"The bundle has no {path.name}.")
    if path.stat().st_size > most:
        raise BundleRefused(f"{path.name} is too large.")
    try:
        return json.loads(path.read_text(encoding="utf-8"), parse_constant=_no_number)
    except (ValueError, RecursionError) as error:
        raise BundleRefused(f"{path.name} is not JSON.") from error


def _no_number(text: str):
    raise ValueError(text)


def picture(data: Path, name: str) -> Path:
    """A photograph of an unpacked bundle. Raises BundleRefused where it is none."""
    path = _inside(data, name, PICTURE)
    try:
        found = read_photograph(path.read_bytes(), judge=False)
    except UnusablePhotograph as error:
        raise BundleRefused(f"{name} is not a photograph: {error}") from error
    if found.format != "JPEG":
        raise BundleRefused(f"{name} is not a JPEG.")
    return path


def raster(data: Path, name: str) -> Path:
    """A label raster of an unpacked bundle. Raises BundleRefused where it is none."""
    path = _inside(data, name, PICTURE)
    with path.open("rb") as file:
        if file.read(len(RASTER)) != RASTER:
            raise BundleRefused(f"{name} is not a PNG.")
    return path


def own_document(data: Path, name: str, kind: DocumentKind):
    """A rule set or pattern of an unpacked bundle: (its text, the document). Raises
    BundleRefused.
    """
    text = _inside(data, name, TEXT).read_text(encoding="utf-8", errors="replace")
    try:
        return text, kind.read(text)
    except kind.faulty as error:
        raise BundleRefused(f"{name} is not a {kind.noun}: {error}") from error


def _inside(data: Path, name: str, most: int) -> Path:
    """A file of the bundle by the name that a document gives it."""
    path = data / name
    if (
        ".." in name.split("/")
        or not path.is_file()
        or data.resolve() not in path.resolve().parents
    ):
        raise BundleRefused(f"The bundle has no {name[:80]}.")
    if path.stat().st_size > most:
        raise BundleRefused(f"{name} is too large.")
    return path
