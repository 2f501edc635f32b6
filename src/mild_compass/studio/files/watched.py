"""A folder that photos come into, from a phone or a camera: watched when asked, never by itself.

It is looked at again and again, at the side: what a file system tells of itself differs from one to the next, and says
nothing of a file that grows.
"""

from __future__ import annotations

import os
from dataclasses import dataclass
from pathlib import Path
from time import monotonic
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, QTimer, Signal

from mild_compass.studio.files.photos import PHOTO_SUFFIXES

if TYPE_CHECKING:
    from collections.abc import Callable, Mapping

    from mild_compass.plan.errors import PlanError
    from mild_compass.studio.requests.superseding import LatestWins
    from mild_compass.studio.session import Session

LOOK_MS = 1000
# A file whose format tells its end has come when it does and nothing is added from one look to the next; of others, and
# of those with something behind their end, nothing must be added for so long. Phones pause for some seconds.
QUIET_S = 20.0
TAIL = 64  # bytes at the end of a file, in which some programs leave noughts behind the last mark
ENDS = {".jpg": b"\xff\xd9", ".jpeg": b"\xff\xd9", ".png": b"IEND\xaeB`\x82"}  # ITU-T T.81 B.1.1.3; PNG 11.2.5

Mark = tuple[int, int]  # size and time of a file as it lay there


@dataclass(frozen=True, slots=True)
class Growing:
    """A file as it lay at the last look, and since when."""

    mark: Mark
    since_s: float


@dataclass(frozen=True, slots=True)
class Look:
    """What a look has found: photos that have come, with their marks, and those that may still grow."""

    came: dict[Path, Mark]
    growing: dict[Path, Growing]


def marks_in(folder: Path) -> dict[Path, Mark]:
    """The photos that lie right in a folder, by name, as they lie there.

    Raises:
        OSError: the folder is gone.
    """
    found = {}
    with os.scandir(folder) as entries:
        for entry in entries:
            if Path(entry.name).suffix.lower() in PHOTO_SUFFIXES and entry.is_file():
                told = entry.stat()
                found[Path(entry.path)] = (told.st_size, told.st_mtime_ns)
    return dict(sorted(found.items()))


def look(folder: Path, known: Mapping[Path, Mark], growing: Mapping[Path, Growing], now_s: float) -> Look | None:
    """Look once more, in a worker; None where the folder is gone. What is known and as it was is passed over."""
    try:
        there = marks_in(folder)
    except OSError:
        return None
    came: dict[Path, Mark] = {}
    grows: dict[Path, Growing] = {}
    for path, mark in there.items():
        if known.get(path) == mark:
            continue
        before = growing.get(path)
        same = before is not None and before.mark == mark
        since = before.since_s if before is not None and same else now_s
        if same and mark[0] > 0 and (now_s - since >= QUIET_S or _has_its_end(path)):
            came[path] = mark
        else:
            grows[path] = Growing(mark, since)
    return Look(came, grows)


def _has_its_end(path: Path) -> bool:
    end = ENDS.get(path.suffix.lower())
    if end is None:
        return False
    try:
        with path.open("rb") as file:
            file.seek(-min(TAIL, path.stat().st_size), os.SEEK_END)
            return file.read().rstrip(b"\0").endswith(end)
    except OSError:
        return False


class WatchedFolder(QObject):
    """``came`` is sent with the photos that have come into the folder since; ``changed`` when it begins or ends.

    ``lost`` is sent with a sentence when the folder has gone away. It is watched for the plan it was begun for.
    """

    came = Signal(list)
    changed = Signal()
    lost = Signal(str)

    def __init__(
        self, kind: str, ask: Callable[[], Path | None], session: Session, work: LatestWins, parent: QObject
    ) -> None:
        super().__init__(parent)
        self._kind, self._ask, self._session, self._work = kind, ask, session, work
        self.folder: Path | None = None  # that is watched now
        self._known: dict[Path, Mark] = {}
        self._growing: dict[Path, Growing] = {}
        self._next = QTimer(self, interval=LOOK_MS, singleShot=True)
        self._next.timeout.connect(self._look)
        session.replaced.connect(lambda: self.watch(None))

    def turn(self, on: bool) -> None:
        """Begin with a folder that is asked for, or end."""
        folder = self._ask() if on else None
        if on and folder is None:
            self.changed.emit()
        else:
            self.watch(folder)

    def watch(self, folder: Path | None) -> None:
        """Watch this folder for what comes from now on; None ends that."""
        self._next.stop()
        self._work.drop(self._kind)
        self.folder, self._growing = folder, {}
        if folder is not None:
            try:
                self._known = marks_in(folder)
            except OSError:
                self._known = {}
            self._next.start()
        self.changed.emit()

    def _look(self) -> None:
        if self.folder is not None:
            self._work.latest(
                self._kind,
                self._session.owner().of_plan,
                look,
                *(self.folder, dict(self._known), dict(self._growing), monotonic()),
                then=self._take,
                otherwise=self._refuse,
                aside=True,
            )

    def _take(self, found: Look | None) -> None:
        if found is None:
            self.watch(None)
            self.lost.emit(
                "The watched folder is gone. What has come from it is kept; watch it again when it is there."
            )
            return
        self._known |= found.came
        self._growing = found.growing
        self._next.start()
        if found.came:
            self.came.emit(list(found.came))

    def _refuse(self, error: PlanError) -> None:
        self.watch(None)
        self.lost.emit(str(error))
