"""The photos' own untouched bytes, each in a file named by its SHA-256 (a content-addressed store)."""

from __future__ import annotations

import zlib
from typing import TYPE_CHECKING

from mild_compass.plan.atomic import replace_durably
from mild_compass.plan.errors import PlanError

if TYPE_CHECKING:
    from pathlib import Path

MOST_BYTES = 1 << 30
LOST = ".lost"  # the mark of a photo that its plan file has not got any more


def sha256_of(data: bytes) -> str:
    """The digest that names a photo."""
    from hashlib import sha256  # loads a large library, and an empty window does without it

    return sha256(data).hexdigest()


class PhotoFolder:
    """A folder that holds photos by content; the same photo is stored once."""

    def __init__(self, path: Path) -> None:
        self.path = path
        self._sums: dict[str, int] = {}  # CRC-32 of each as it was put: what writing an archive compares for nothing
        path.mkdir(parents=True, exist_ok=True)

    def add(self, data: bytes, name: str = "The photo") -> str:
        """Store a photo and return its SHA-256; one that is there but damaged, or was lost, is whole again.

        Raises:
            PlanError: there is no room, or the working folder is gone.
        """
        digest = sha256_of(data)
        self.put(digest, data, name)
        return digest

    def put(self, digest: str, data: bytes, name: str = "The photo") -> bool:
        """Store a photo whose SHA-256 has just been made sure of; False where it lies there whole.

        Raises:
            PlanError: there is no room, or the working folder is gone.
        """
        self._sums[digest] = zlib.crc32(data)
        if self._holds(digest, data):
            return False
        try:
            replace_durably(self.file(digest), lambda file: file.write(data))
            self._lost_mark(digest).unlink(missing_ok=True)
        except OSError as error:
            raise PlanError(
                f"{name} could not be stored in the working folder ({error.strerror or error}). "
                "The plan is kept; make room and add it again."
            ) from error
        return True

    def file(self, digest: str) -> Path:
        """Where a photo lies."""
        return self.path / digest

    def read(self, digest: str, name: str) -> bytes:
        """The bytes of a photo, or a PlanError naming it.

        Raises:
            PlanError: the photo is missing from the folder.
        """
        try:
            return self.file(digest).read_bytes()
        except OSError as error:
            raise PlanError(f"The photo {name} is not there any more. The plan is kept; {give_back(name)}.") from error

    def lose(self, digest: str) -> None:
        """Note that the plan's own file has not got this photo, or only damaged: saving goes on without it."""
        self._lost_mark(digest).touch()

    def is_lost(self, digest: str) -> bool:
        """Whether that has been noted, and nobody has given the photo back."""
        return self._lost_mark(digest).exists() and not self.file(digest).exists()

    def sum_of(self, digest: str) -> int | None:
        """The CRC-32 that the whole photo has; None where what lies here is not it."""
        if digest not in self._sums:  # from before a crash
            try:
                data = self.file(digest).read_bytes()
            except OSError:
                return None
            if sha256_of(data) != digest:
                return None
            self._sums[digest] = zlib.crc32(data)
        return self._sums[digest]

    def _holds(self, digest: str, data: bytes) -> bool:
        try:
            file = self.file(digest)
            return file.stat().st_size == len(data) and file.read_bytes() == data
        except OSError:
            return False

    def _lost_mark(self, digest: str) -> Path:
        return self.path / f"{digest}{LOST}"


def give_back(name: str) -> str:
    """What to do where a photo has gone."""
    return f"add {name} once more to give it back"
