"""A folder that photos come into, from a phone or a camera: watched when asked, never by itself."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QFileSystemWatcher, QObject, QTimer, Signal

from mild_compass.studio.files.photos import photos_in

if TYPE_CHECKING:
    from collections.abc import Callable

SETTLE_MS = 1500  # a photo that is still being written is not read yet


class WatchedFolder(QObject):
    """``came`` is sent with the photos that have come into the folder since; ``changed`` when it begins or ends.

    ``lost`` is sent with a sentence when the folder has gone away."""

    came = Signal(list)
    changed = Signal()
    lost = Signal(str)

    def __init__(self, ask: Callable[[], Path | None], parent: QObject) -> None:
        super().__init__(parent)
        self._ask = ask
        self._watcher: QFileSystemWatcher | None = None
        self._known: set[Path] = set()
        self._growing: dict[Path, int] = {}
        self._settle = QTimer(self, singleShot=True, interval=SETTLE_MS)
        self._settle.timeout.connect(self._look)

    @property
    def folder(self) -> Path | None:
        """The folder that is watched now."""
        folders = self._watcher.directories() if self._watcher is not None else []
        return Path(folders[0]) if folders else None

    def turn(self, on: bool) -> None:
        """Begin with a folder that is asked for, or end."""
        folder = self._ask() if on else None
        if on and folder is None:
            self.changed.emit()
        else:
            self.watch(folder)

    def watch(self, folder: Path | None) -> None:
        """Watch this folder for what comes from now on; None ends that."""
        if self._watcher is not None:
            self._watcher.deleteLater()
            self._watcher = None
            self._settle.stop()
        if folder is not None:
            self._known = set(photos_in(folder))
            self._growing = {}
            self._watcher = QFileSystemWatcher([str(folder)], self)
            self._watcher.directoryChanged.connect(lambda _: self._settle.start())
        self.changed.emit()

    def _look(self) -> None:
        """What lies there as large as it lay at the look before has come; the rest is looked at again."""
        folder = self.folder
        if folder is None:  # it has been deleted, or the phone unplugged: Qt has let it go
            self.watch(None)
            self.lost.emit(
                "The watched folder is gone. What has come from it is kept; watch it again when it is there."
            )
            return
        there = photos_in(folder)
        self._known &= set(there)
        sizes = {path: _size_of(path) for path in there if path not in self._known}
        whole = [path for path, size in sizes.items() if size > 0 and self._growing.get(path) == size]
        self._known |= set(whole)
        self._growing = {path: size for path, size in sizes.items() if path not in self._known}
        if self._growing:
            self._settle.start()
        if whole:
            self.came.emit(whole)


def _size_of(path: Path) -> int:
    try:
        return path.stat().st_size
    except OSError:
        return 0
