"""Reading and writing .mildplan files; docs/file-format.md describes them."""

from __future__ import annotations

import logging
import lzma
import zipfile
import zlib
from contextlib import contextmanager
from dataclasses import dataclass
from typing import TYPE_CHECKING, BinaryIO

from mild_compass.plan.atomic import write_atomically
from mild_compass.plan.coding import decode, encode
from mild_compass.plan.errors import PlanError
from mild_compass.plan.photos import MOST_BYTES, PhotoFolder, give_back, sha256_of

if TYPE_CHECKING:
    from collections.abc import Callable, Iterator
    from pathlib import Path

    from mild_compass.plan.model import Plan

log = logging.getLogger(__name__)
MIMETYPE = b"application/vnd.mild-compass.plan+zip"
MOST_ENTRIES = 5000
# What a damaged archive makes the library raise; a name that is no UTF-8 is a ValueError.
BROKEN = (zipfile.BadZipFile, EOFError, NotImplementedError, RuntimeError, ValueError, zlib.error, lzma.LZMAError)
MOST_PLAN_BYTES = 64 << 20
MOST_PREVIEW_BYTES = 8 << 20


@dataclass(frozen=True, slots=True)
class FileMark:
    """What tells a plan file from one that somebody has written since: its size, time and the sum of its plan."""

    size: int
    time_ns: int
    plan_sum: int


def mark_of(path: Path) -> FileMark | None:
    """The mark of the file that lies there now; None where there is none, or none that can be read."""
    try:
        told = path.stat()
        with zipfile.ZipFile(path) as archive:
            return FileMark(told.st_size, told.st_mtime_ns, archive.getinfo("plan.json").CRC)
    except (OSError, KeyError, zipfile.BadZipFile, NotImplementedError, ValueError):
        return None


def _go_on() -> None:
    """Nobody has called it off."""


def write(
    path: Path, plan: Plan, photos: PhotoFolder, preview_png: bytes | None, check: Callable[[], None] = _go_on
) -> None:
    """Write the plan with all its pictures; the old file stays whole until the new one is complete.

    ``check`` is called between pictures and may raise CalledOff.

    What the plan's own file had lost already when it was opened is left out.

    Raises:
        PlanError: a picture has gone missing or is damaged, or the file cannot be written; nothing was changed.
    """
    names = {digest: name for digest, name in plan.stored().items() if not photos.is_lost(digest)}

    def fill(file: BinaryIO) -> None:
        with zipfile.ZipFile(file, "w", zipfile.ZIP_STORED) as archive:
            archive.writestr("mimetype", MIMETYPE)
            archive.writestr("plan.json", encode(plan), zipfile.ZIP_DEFLATED)
            for digest, name in names.items():
                check()
                _put(archive, photos, digest, name)
            if preview_png:
                archive.writestr("preview.png", preview_png)

    write_atomically(path, fill)
    log.info("wrote %s with %d pictures", path, len(names))


def _put(archive: zipfile.ZipFile, photos: PhotoFolder, digest: str, name: str) -> None:
    """A picture's bytes, compared as they are written."""
    whole, entry = photos.sum_of(digest), f"photos/{digest}"
    try:
        if whole is not None:
            archive.write(photos.file(digest), entry)
    except FileNotFoundError:
        whole = None
    if whole is None or whole != archive.getinfo(entry).CRC:
        raise PlanError(
            f"The photo {name} is missing from the working folder, or damaged there. Nothing was written, and the file "
            f"is as it was; {give_back(name)}, and save again."
        )


def read(path: Path, photos: PhotoFolder, check: Callable[[], None] = _go_on) -> Plan:
    """Read a plan and put its pictures into the folder; ``check`` is called between them and may raise CalledOff.

    A picture that is missing or damaged is noted as lost in the folder; everything else is there.

    Raises:
        PlanError: what is wrong with the file; it is left as it was.
    """
    with _opened(path) as archive:
        plan = decode(_entry(archive, "plan.json", MOST_PLAN_BYTES, path))
        for digest, name in plan.stored().items():
            check()
            data = _picture(archive, digest, path)
            if data is None:
                log.warning("%s has lost the photo %s", path, name)
                photos.lose(digest)
            else:
                photos.put(digest, data, name)
        log.info("read %s with %d pictures", path, len(plan.stored()))
        return plan


def _picture(archive: zipfile.ZipFile, digest: str, path: Path) -> bytes | None:
    """The bytes of a picture; None where they are not there, or not those."""
    entry = f"photos/{digest}"
    if entry not in archive.namelist():
        return None
    try:
        data = _entry(archive, entry, MOST_BYTES, path)
    except BROKEN:
        return None
    return data if sha256_of(data) == digest else None


def lost_words(plan: Plan, photos: PhotoFolder) -> str:
    """What is said of a plan that was opened with pictures missing; nothing where all are there."""
    lost = [name for digest, name in plan.stored().items() if photos.is_lost(digest)]
    if not lost:
        return ""
    named, more = ", ".join(lost[:3]), f" and {len(lost) - 3} more" if len(lost) > 3 else ""
    what = ("The photo", "is", "it") if len(lost) == 1 else ("The photos", "are", "them")
    return (
        f"{what[0]} {named}{more} {what[1]} missing from the plan's file, or damaged there; everything else is here. "
        f"Add {what[2]} once more to give {what[2]} back."
    )


def read_plan(path: Path) -> Plan:
    """The plan alone, without its pictures: what an index needs.

    Raises:
        PlanError: what is wrong with the file; it is left as it was.
    """
    with _opened(path) as archive:
        return decode(_entry(archive, "plan.json", MOST_PLAN_BYTES, path))


def read_preview(path: Path) -> bytes | None:
    """The small picture in a plan file (PNG), or None where it has none.

    Raises:
        PlanError: what is wrong with the file.
    """
    with _opened(path) as archive:
        has_one = "preview.png" in archive.namelist()
        return _entry(archive, "preview.png", MOST_PREVIEW_BYTES, path) if has_one else None


@contextmanager
def _opened(path: Path) -> Iterator[zipfile.ZipFile]:
    """A plan file that does no harm; what goes wrong while it is read becomes a sentence."""
    try:
        with zipfile.ZipFile(path) as archive:
            _require_harmless(archive, path)
            yield archive
    except FileNotFoundError as error:
        raise PlanError(f"There is no file {path.name} in {path.parent}.") from error
    except BROKEN as error:
        raise PlanError(f"{path.name} is not a whole plan file: it is damaged or something else.") from error
    except OSError as error:
        raise PlanError(f"{path.name} could not be read ({error.strerror or error}).") from error


def _require_harmless(archive: zipfile.ZipFile, path: Path) -> None:
    """Refuse archives built to do harm: only names we know, each once, no links."""
    entries = archive.infolist()
    names = [entry.filename for entry in entries]
    if not names or names[0] != "mimetype" or _first(archive, entries[0]) != MIMETYPE:
        raise PlanError(f"{path.name} is not a plan file of this application. It was left as it is.")
    for entry in entries:
        name = entry.filename
        known = name in ("mimetype", "plan.json", "preview.png") or (
            name.startswith("photos/") and len(name) == 71 and name[7:].isalnum()
        )
        is_link = (entry.external_attr >> 16) & 0o170000 == 0o120000
        if not known or is_link:
            raise PlanError(
                f"{path.name} holds a part that does not belong in a plan ({name[:60]}). It was not opened."
            )
    if len(set(names)) != len(names) or len(names) > MOST_ENTRIES:
        raise PlanError(f"{path.name} holds the same part twice, or far too many. It was not opened.")


def _first(archive: zipfile.ZipFile, entry: zipfile.ZipInfo) -> bytes:
    """The beginning of an entry, however much it claims to inflate to."""
    with archive.open(entry) as part:
        return part.read(len(MIMETYPE) + 1)


def _entry(archive: zipfile.ZipFile, name: str, most: int, path: Path) -> bytes:
    try:
        info = archive.getinfo(name)
    except KeyError as error:
        what = "its plan" if name == "plan.json" else "one of its photos"
        raise PlanError(f"{path.name} lacks {what}. The file was left as it is.") from error
    if info.file_size > most:
        raise PlanError(f"A part of {path.name} is too large to be real. It was not opened.")
    with archive.open(info) as part:
        data = part.read(most + 1)
    if len(data) > most:
        raise PlanError(f"A part of {path.name} is too large to be real. It was not opened.")
    return data
