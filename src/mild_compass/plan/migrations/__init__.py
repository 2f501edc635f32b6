"""One module per step from an older format version to the next; readers of old versions stay for ever.

A step lives in a module named after the version it starts from (``from_1.py``) with a function
``migrate(document) -> document`` and is listed in STEPS; a version that only added something is a row of ADDED.
"""

from __future__ import annotations

import logging
from typing import TYPE_CHECKING, Any

from mild_compass.plan.errors import PlanError
from mild_compass.plan.migrations import from_1, from_7

if TYPE_CHECKING:
    from collections.abc import Callable

log = logging.getLogger(__name__)
VERSION = 8
STEPS: dict[int, Callable[[dict[str, Any]], dict[str, Any]]] = {1: from_1.migrate, 7: from_7.migrate}
# What the others have only added has a value by itself where a plan lacks it: what the version after each began with.
ADDED = {
    2: "a stage",
    3: "outlines before a stage, clear paper in a cut-out",
    4: "how simple masses are, where detail counts, edges and planes",
    5: "corners, pairs, refusals and ticks of a photo of the drawing",
    6: "the work on the sheet, sittings, what came out, answers, times",
}


def migrated(document: dict[str, Any]) -> dict[str, Any]:
    """The document brought up to the present version, or a PlanError.

    Raises:
        PlanError: the document does not tell its version, or has a newer one.
    """
    version = document.get("version")
    if not isinstance(version, int) or version < 1 or "plan" not in document:
        raise PlanError("The plan does not say which version it is. The file was left as it is.")
    if version > VERSION:
        raise PlanError(
            f"The plan was saved by a newer Mild Compass (format {version}; this one reads up to {VERSION}). "
            "The file was left as it is; open it with the newer version."
        )
    if version < VERSION:
        log.info("bringing a plan of version %d up to %d", version, VERSION)
    while version < VERSION:
        step = STEPS.get(version)
        document = step(document) if step else document
        version += 1
    return {**document, "version": version}
