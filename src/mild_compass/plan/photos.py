"""The photos' own untouched bytes, each in a file named by its SHA-256."""

from __future__ import annotations

from typing import TYPE_CHECKING

from mild_compass.plan.errors import PlanError

if TYPE_CHECKING:
    from pathlib import Path

MOST_BYTES = 1 << 30


class PhotoFolder:
    """A folder that holds photos by content; the same photo is stored once."""

    def __init__(self, path: Path) -> None:
        self.path = path
        path.mkdir(parents=True, exist_ok=True)

    def add(self, data: bytes) -> str:
        """Store a photo and return its SHA-256."""
        from hashlib import sha256  # loads a large library, and an empty window does without it

        digest = sha256(data).hexdigest()
        self.put(digest, data)
        return digest

    def put(self, digest: str, data: bytes) -> None:
        """Store a photo whose SHA-256 has just been made sure of."""
        target = self.file(digest)
        if not target.exists():
            part = target.with_suffix(".part")
            part.write_bytes(data)
            part.replace(target)

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
            raise PlanError(
                f"The photo {name} has gone missing from the working folder. The plan is kept; "
                "open the plan's file again, or add the photo once more."
            ) from error
