"""From version 6 to 7: the work on the sheet, sittings, what came out, answers, times; a plan there has none."""

from __future__ import annotations

from typing import Any


def migrate(document: dict[str, Any]) -> dict[str, Any]:
    """The document of version 6 as one of version 7."""
    return {**document, "version": 7}
