"""Writing a file so that a crash at any moment leaves the old or the new one whole."""

from __future__ import annotations

import os
import tempfile
from pathlib import Path
from typing import TYPE_CHECKING, BinaryIO

from mild_compass.plan.errors import PlanError

if TYPE_CHECKING:
    from collections.abc import Callable


def _umask() -> int:
    """The rights new files are not to have; the system tells only when it is set, which holds for all threads."""
    mask = os.umask(0o077)
    os.umask(mask)
    return mask


UMASK = _umask()  # read once, while there is one thread


def write_atomically(path: Path, write: Callable[[BinaryIO], None]) -> None:
    """Write beside the target, flush to disk, rename over it; a PlanError says why when it cannot be done.

    Raises:
        PlanError: the file cannot be written; what was there before is kept.
    """
    try:
        path = _real_target(path)
        replace_durably(path, write)
    except OSError as error:
        reason = error.strerror or str(error)
        raise PlanError(
            f"{path.name} could not be written to {path.parent} ({reason}). What was there before is kept; "
            "choose another place or make room, and save again."
        ) from error


def replace_durably(path: Path, write: Callable[[BinaryIO], object]) -> None:
    """The same with the system's own errors; whatever happens no part of a file is left behind.

    Raises:
        OSError: the file cannot be written; what was there before is kept.
    """
    handle, name = tempfile.mkstemp(prefix=f".{path.name}.", suffix=".part", dir=path.parent)
    part = Path(name)
    try:
        with os.fdopen(handle, "wb") as file:
            write(file)
            file.flush()
            os.fsync(file.fileno())
        part.chmod(path.stat().st_mode & 0o777 if path.exists() else 0o666 & ~UMASK)
        part.replace(path)
        _sync_folder(path.parent)
    finally:
        part.unlink(missing_ok=True)


def _real_target(path: Path) -> Path:
    """Where a link leads; only a plain file, or a place where there is none yet, is written to.

    Raises:
        PlanError: something else is there, as a device or a folder.
    """
    target = path.resolve() if path.is_symlink() else path
    if target.exists() and not target.is_file():
        raise PlanError(f"{path.name} is not a plain file but a folder or a device. Nothing was written to it.")
    return target


def write_bytes_atomically(path: Path, data: bytes) -> None:
    """The same for bytes that are at hand."""

    def fill(file: BinaryIO) -> None:
        file.write(data)

    write_atomically(path, fill)


def _sync_folder(folder: Path) -> None:
    handle = os.open(folder, os.O_RDONLY)
    try:
        os.fsync(handle)
    finally:
        os.close(handle)
