"""The time, as the logbook writes it."""

from __future__ import annotations

from datetime import datetime


def now() -> str:
    """The present moment to the second, with its zone (ISO 8601)."""
    return datetime.now().astimezone().isoformat(timespec="seconds")
