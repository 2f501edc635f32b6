"""Where things are kept that belong to no plan, after the XDG base directories."""

from __future__ import annotations

from typing import TYPE_CHECKING

from platformdirs import user_cache_path, user_data_path

if TYPE_CHECKING:
    from pathlib import Path

APP = "mild-compass"


def practice_file() -> Path:
    """The answers of the drills."""
    return user_data_path(APP) / "practice.jsonl"


def times_file() -> Path:
    """The artist's own times at the easel."""
    return user_data_path(APP) / "own-times.jsonl"


def index_file() -> Path:
    """The index over all plans; it can be made anew at any time."""
    return user_cache_path(APP) / "plans.sqlite"
