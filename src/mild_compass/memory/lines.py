"""Lines of JSON that a crash cannot spoil: each record is one line, written whole and flushed before it counts."""

from __future__ import annotations

import json
import os
from typing import TYPE_CHECKING, Any

from mild_compass.plan.errors import PlanError

if TYPE_CHECKING:
    from pathlib import Path


class LineFile:
    """Records in a file, added at its end; what cannot be read is passed over, and never written over."""

    def __init__(self, path: Path) -> None:
        self.path = path

    def add(self, record: dict[str, Any]) -> None:
        """Write one record.

        Raises:
            PlanError: the disk does not let it be written.
        """
        data = json.dumps(record, ensure_ascii=False, separators=(",", ":")).encode() + b"\n"
        try:
            self.path.parent.mkdir(parents=True, exist_ok=True)
            descriptor = os.open(self.path, os.O_RDWR | os.O_CREAT | os.O_APPEND, 0o600)
            try:
                if _is_torn(descriptor):
                    data = b"\n" + data  # the line before was cut off by a crash: it must not spoil this one
                os.write(descriptor, data)
                os.fsync(descriptor)
            finally:
                os.close(descriptor)
        except OSError as error:
            raise PlanError(
                f"{self.path.name} cannot be written ({error.strerror or error}). What was kept before is still there; "
                "make room on the disk and go on."
            ) from error

    def records(self) -> list[dict[str, Any]]:
        """All whole records in order; none where there is no file."""
        try:
            data = self.path.read_bytes()
        except OSError:
            return []
        found = []
        for line in data.splitlines():
            try:
                record = json.loads(line)
            except (ValueError, RecursionError):
                continue
            if isinstance(record, dict):
                found.append(record)
        return found


def _is_torn(descriptor: int) -> bool:
    size = os.fstat(descriptor).st_size
    return size > 0 and os.pread(descriptor, 1, size - 1) != b"\n"
