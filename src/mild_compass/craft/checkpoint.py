"""Long computations that can be called off: they look between two steps whether anybody still waits for them."""

from __future__ import annotations

from contextlib import contextmanager
from threading import local
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from collections.abc import Callable, Iterator

_HERE = local()  # each thread is about one thing


class OvertakenError(Exception):
    """Nobody waits for this any more."""


@contextmanager
def stopped_when(overtaken: Callable[[], bool]) -> Iterator[None]:
    """What is computed in here ends at its next checkpoint with an OvertakenError when ``overtaken`` says so."""
    before = getattr(_HERE, "overtaken", None)
    _HERE.overtaken = overtaken
    try:
        yield
    finally:
        _HERE.overtaken = before


def checkpoint() -> None:
    """Between two steps of some milliseconds: go on, unless nobody waits for this any more."""
    overtaken = getattr(_HERE, "overtaken", None)
    if overtaken is not None and overtaken():
        raise OvertakenError
