"""A plan opened for as long as a command needs it."""

from __future__ import annotations

import tempfile
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING

from mild_compass.plan import archive
from mild_compass.plan.errors import PlanError
from mild_compass.plan.photos import PhotoFolder

if TYPE_CHECKING:
    from collections.abc import Iterator

    from mild_compass.plan.model import Plan


@contextmanager
def opened(path: Path, to: str = "") -> Iterator[tuple[Plan, PhotoFolder]]:
    """A plan with its photos, which lie in a folder meanwhile; ``to`` says what for, where that needs a study.

    Raises:
        PlanError: the plan cannot be read, or holds no study although one is needed.
    """
    with tempfile.TemporaryDirectory() as folder:
        photos = PhotoFolder(Path(folder))
        plan = archive.read(path, photos)
        if to and plan.study is None:
            raise PlanError(f"{path.name} holds no study yet, so there is nothing to {to}.")
        yield plan, photos
