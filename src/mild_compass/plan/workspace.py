"""A working folder per open plan: its photos, and a journal from which a crash is recovered.

Layout: ``photos/`` by SHA-256, ``journal.json`` with the plan after the latest edit and the path it was
opened from, ``owner`` with the process that holds it (locked while that process lives).
"""

from __future__ import annotations

import fcntl
import json
import logging
import os
import shutil
import tempfile
import time
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING

from mild_compass.plan.atomic import write_bytes_atomically
from mild_compass.plan.coding import decode, encode_quickly
from mild_compass.plan.errors import PlanError
from mild_compass.plan.photos import PhotoFolder

if TYPE_CHECKING:
    from mild_compass.plan.model import Plan

log = logging.getLogger(__name__)
SET_ASIDE = "set-aside-"
BEGUN = "begun-"  # of a folder that is not locked yet: nobody but who makes it looks at it
ABANDONED_S = 3600.0  # a folder still begun after so long was left by a crash


@dataclass(frozen=True)
class Leftover:
    """Work found in a folder whose owner is gone."""

    folder: Path
    plan: Plan
    saved_as: Path | None


class Workspace:
    """The folder of one open plan, held by a lock for as long as this process lives."""

    def __init__(self, folder: Path, owner: int = -1) -> None:
        """Take up a folder, ``owner`` being a handle on its lock where it is held already.

        Raises:
            PlanError: another window holds it, or has just done away with it.
        """
        self.folder = folder
        self._owner = owner if owner >= 0 else _locked(folder)
        if self._owner < 0:
            raise PlanError("This work has just been taken up in another window. It is safe there.")
        self.photos = PhotoFolder(folder / "photos")

    @classmethod
    def fresh(cls, root: Path) -> Workspace:
        """A new empty workspace under root; it gets its name once it is locked, so that nobody clears it away."""
        root.mkdir(parents=True, exist_ok=True)
        begun = Path(tempfile.mkdtemp(prefix=BEGUN, dir=root))
        owner = _locked(begun, os.O_CREAT)
        return cls(begun.rename(begun.with_name(f"plan-{begun.name.removeprefix(BEGUN)}")), owner)

    def keep(self, plan: Plan, saved_as: Path | None, number: int = 0) -> None:
        """Write the plan to the journal, as its write of this number; a PlanError says why where it cannot be."""
        document = {"number": number, "saved_as": str(saved_as) if saved_as else None, "plan": encode_quickly(plan)}
        text = json.dumps(document)
        write_bytes_atomically(self.folder / "journal.json", text.encode())

    def forget_journal(self) -> None:
        """Take the journal away: everything is saved."""
        (self.folder / "journal.json").unlink(missing_ok=True)

    def close(self) -> None:
        """Let go of the folder and remove it; a second time does nothing."""
        if self._owner >= 0:
            # Removed while it is still locked, so that nobody else takes it up half gone.
            shutil.rmtree(self.folder, ignore_errors=True)
            os.close(self._owner)
            self._owner = -1

    def leave(self) -> None:
        """Let go of the folder and keep it, so that the work in it is offered at the next start."""
        if self._owner >= 0:
            os.close(self._owner)
            self._owner = -1


class Claim:
    """A mark that a plan file is open in this process; others can see it for as long as the process lives."""

    def __init__(self, root: Path, file: Path) -> None:
        from hashlib import sha256  # loads a large library, and an empty window does without it

        name = sha256(str(file.resolve()).encode(errors="surrogateescape")).hexdigest()[:24]
        root.mkdir(parents=True, exist_ok=True)
        self._path = root / f"claim-{name}"
        self._handle = -1
        while self._handle < 0:
            self._handle, self.alone = _claimed(self._path)

    def release(self) -> None:
        """Take the mark off; the last one to hold it removes its file."""
        if self.alone:
            self._path.unlink(missing_ok=True)
        os.close(self._handle)


def _claimed(path: Path) -> tuple[int, bool]:
    """A handle on a claim's file and whether it is held alone; -1 when the file went while it was being opened."""
    handle = os.open(path, os.O_RDWR | os.O_CREAT, 0o600)
    try:
        fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except OSError:
        return handle, False
    try:
        same = path.stat().st_ino == os.fstat(handle).st_ino
    except FileNotFoundError:
        same = False
    if not same:
        os.close(handle)
        return -1, False
    return handle, True


def leftovers(root: Path) -> list[Leftover]:
    """Unsaved work whose owner is gone, newest first.

    Folders and marks with nothing to offer are removed; what is there but not understood is set aside, never deleted.
    """
    found = []
    folders = sorted(root.glob("plan-*"), key=_changed_at, reverse=True)
    for folder in folders:
        owner = _locked(folder, os.O_CREAT)
        if owner < 0:
            continue
        leftover = _read_journal(folder)
        if leftover is not None:
            found.append(leftover)
        elif (folder / "journal.json").exists():
            _set_aside(folder)
        else:
            shutil.rmtree(folder, ignore_errors=True)  # while it is locked, so that nobody takes it up half gone
        os.close(owner)
    for folder in root.glob(f"{BEGUN}*"):
        if 0 < _changed_at(folder) < time.time() - ABANDONED_S:
            shutil.rmtree(folder, ignore_errors=True)
    for mark in root.glob("claim-*"):
        handle, alone = _claimed(mark)
        if handle >= 0:
            if alone:
                mark.unlink(missing_ok=True)
            os.close(handle)
    return found


def _changed_at(folder: Path) -> float:
    try:
        return folder.stat().st_mtime
    except OSError:  # another window has just taken it
        return 0.0


def _set_aside(folder: Path) -> None:
    """Keep work that this version does not understand where nothing clears it away."""
    target = folder.with_name(f"{SET_ASIDE}{folder.name}")
    try:
        folder.rename(target)
    except OSError as error:
        log.warning("%s could not be set aside: %s", folder, error)
    else:
        log.warning("the work in %s is not understood; it was set aside as %s", folder, target)


def set_aside(root: Path) -> list[Path]:
    """Folders with work that was not understood, for the artist to be told of."""
    return sorted(root.glob(f"{SET_ASIDE}*"))


def _locked(folder: Path, make: int = 0) -> int:
    """A handle that holds the folder's lock; -1 where another process holds it, or the folder has gone."""
    try:
        handle = os.open(folder / "owner", os.O_RDWR | make, 0o600)
    except OSError:
        return -1
    try:
        fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
        (folder / "owner").stat()  # it may have been taken away before the lock was free
    except OSError:
        os.close(handle)
        return -1
    return handle


def _read_journal(folder: Path) -> Leftover | None:
    try:
        document = json.loads((folder / "journal.json").read_text())
        saved_as = document["saved_as"]
        return Leftover(folder, decode(document["plan"]), Path(saved_as) if saved_as else None)
    except (OSError, ValueError, KeyError, TypeError, RecursionError, PlanError):
        return None
