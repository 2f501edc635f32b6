"""From version 5 to 6: corners, pairs, refusals and ticks of a photo of the drawing; those there are have none."""

from __future__ import annotations

from typing import Any


def migrate(document: dict[str, Any]) -> dict[str, Any]:
    """The document of version 5 as one of version 6."""
    return {**document, "version": 6}
