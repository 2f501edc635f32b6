"""One module per step from an older format version to the next; readers of old versions stay for ever.

A step lives in a module named after the version it starts from (``from_1.py``) with a function
``migrate(document) -> document`` and is listed in STEPS.
"""

from __future__ import annotations

import logging
from typing import TYPE_CHECKING, Any

from mild_compass.plan.errors import PlanError
from mild_compass.plan.migrations import from_1, from_2, from_3, from_4, from_5, from_6

if TYPE_CHECKING:
    from collections.abc import Callable

log = logging.getLogger(__name__)
VERSION = 7
STEPS: dict[int, Callable[[dict[str, Any]], dict[str, Any]]] = {
    1: from_1.migrate,
    2: from_2.migrate,
    3: from_3.migrate,
    4: from_4.migrate,
    5: from_5.migrate,
    6: from_6.migrate,
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
        document = STEPS[version](document)
        version = document["version"]
    return document
