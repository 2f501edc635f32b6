"""Drawings looked at: ``check``."""

from __future__ import annotations

import json
import tempfile
from pathlib import Path
from typing import TYPE_CHECKING

from mild_compass.output.check_report import check_photo
from mild_compass.plan.photos import PhotoFolder

if TYPE_CHECKING:
    from collections.abc import Sequence


def check(plan: Path, drawing: Path, corners: Sequence[tuple[float, float]], as_json: bool) -> None:
    """Print what is off in a photo of the drawing.

    Args:
        corners: of the sheet, in pixels of the upright photo, from its top left clockwise; none to have them found.
    """
    with tempfile.TemporaryDirectory() as folder:
        checked, words = check_photo(plan, drawing, PhotoFolder(Path(folder)), tuple(corners))
    print(json.dumps(checked.as_json(), indent=1) if as_json else "\n".join(words))
