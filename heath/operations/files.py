"""The stored photographs as a tree of files on this machine, wherever they lie."""

from __future__ import annotations

import os
import shutil
from collections.abc import Iterator
from pathlib import Path

from django.conf import settings
from django.core.files.storage import FileSystemStorage, default_storage, storages

PIECE = 1_000_000  # bytes that are copied at a time


def on_disk() -> bool:
    """Whether photographs lie in a folder, and not in a bucket."""
    return isinstance(storages["default"], FileSystemStorage)


def names(under: str = "") -> Iterator[str]:
    """Every stored file."""
    folders, files = default_storage.listdir(under)
    for name in files:
        if name:
            yield f"{under}/{name}" if under else name
    for folder in folders:
        if folder:
            yield from names(f"{under}/{folder}" if under else folder)


def empty() -> bool:
    """Whether nothing is stored."""
    if on_disk():
        media = Path(settings.MEDIA_ROOT)
        return not media.exists() or not any(media.iterdir())
    return next(names(), None) is None


def linked(source: Path, target: Path) -> None:
    """A tree of the same files, without copying them where that can be; files that go meanwhile
    are left out.
    """
    for folder, _, files in os.walk(source):
        there = target / Path(folder).relative_to(source)
        there.mkdir(parents=True, exist_ok=True)
        for name in files:
            one = there / name
            if one.exists():
                continue
            try:
                os.link(Path(folder) / name, one)
            except FileNotFoundError:
                continue
            except OSError:
                shutil.copy2(Path(folder) / name, one)


def gathered(target: Path) -> None:
    """Lay every stored file under a folder. Of a bucket only what is new is fetched: what came
    before is kept beside, and what is gone from the bucket goes there as well.
    """
    if on_disk():
        linked(Path(settings.MEDIA_ROOT), target)
        return
    mirror = Path(settings.DATA) / "storage-mirror"
    mirror.mkdir(parents=True, exist_ok=True, mode=0o700)
    there = set(names())
    for path in [p for p in mirror.rglob("*") if p.is_file()]:
        if path.relative_to(mirror).as_posix() not in there:
            path.unlink()
    for name in there:
        one = mirror / name
        if not one.exists():
            _fetched(name, one)
    linked(mirror, target)


def _fetched(name: str, to: Path) -> None:
    to.parent.mkdir(parents=True, exist_ok=True)
    part = to.with_name(to.name + ".part")
    try:
        with default_storage.open(name) as source, part.open("wb") as out:
            shutil.copyfileobj(source, out, PIECE)
    except FileNotFoundError:  # removed meanwhile
        part.unlink(missing_ok=True)
        return
    part.rename(to)


def put_back(source: Path) -> None:
    """Store every file of a folder under its own name; the folder is used up."""
    media = Path(settings.MEDIA_ROOT)
    if on_disk():
        if media.exists():
            media.rmdir()
        if source.is_dir():
            source.rename(media)
        else:
            media.mkdir(parents=True)
        return
    for path in sorted(p for p in source.rglob("*") if p.is_file()):
        with path.open("rb") as file:
            default_storage.save(path.relative_to(source).as_posix(), file)  # type: ignore[arg-type]
