"""From version 2 to 3: a study may have a stage; those there are have none."""

from __future__ import annotations

from typing import Any


def migrate(document: dict[str, Any]) -> dict[str, Any]:
    """The document of version 2 as one of version 3."""
    return {**document, "version": 3}
