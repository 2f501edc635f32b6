"""The record of what went wrong: one rotating file, and the last messages at hand for whoever is asked to help."""

from __future__ import annotations

import logging
import sys
from collections import deque
from typing import TYPE_CHECKING

from mild_compass import __version__

if TYPE_CHECKING:
    from pathlib import Path

FILE, MOST_BYTES, KEPT = "record.log", 1 << 20, 3
LAST = 200
FORM = "%(asctime)s %(levelname)s %(name)s: %(message)s"
LIBRARIES = ("PySide6-Essentials", "numpy", "opencv-python-headless", "Pillow", "pydantic", "reportlab", "shapely")


class LastMessages(logging.Handler):
    """Keeps the messages written last."""

    def __init__(self, most: int = LAST) -> None:
        super().__init__()
        self.lines: deque[str] = deque(maxlen=most)

    def emit(self, record: logging.LogRecord) -> None:
        """Keep one more."""
        self.lines.append(self.format(record))


_last = LastMessages()


def keep_record(folder: Path) -> Path:
    """Write messages of all rooms into a file in a folder, 1 MB at most, the last three kept; where it lies.

    Where the folder cannot be written to, the messages are only kept in memory.
    """
    from logging.handlers import RotatingFileHandler  # slow to load, and the first window does without it

    root = logging.getLogger("mild_compass")
    root.setLevel(logging.INFO)
    for old in list(root.handlers):
        root.removeHandler(old)
        old.close()
    handlers: list[logging.Handler] = [_last]
    path = folder / FILE
    try:
        folder.mkdir(parents=True, exist_ok=True)
        handlers.append(RotatingFileHandler(path, maxBytes=MOST_BYTES, backupCount=KEPT, encoding="utf-8"))
    except OSError as error:
        print(f"The record cannot be kept in {folder} ({error.strerror}).", file=sys.stderr)
    for handler in handlers:
        handler.setFormatter(logging.Formatter(FORM))
        root.addHandler(handler)
    root.info("Mild Compass %s", __version__)
    return path


def last_messages() -> str:
    """The messages written last, oldest first."""
    return "\n".join(_last.lines)


def versions() -> str:
    """The application's version and those of the libraries it stands on, a line each."""
    python = f"Python {sys.version.split()[0]}"
    return "\n".join([f"Mild Compass {__version__}", python, *(f"{name} {_version(name)}" for name in LIBRARIES)])


def _version(name: str) -> str:
    from importlib.metadata import PackageNotFoundError, version

    try:
        return version(name)
    except PackageNotFoundError:
        return "unknown"
