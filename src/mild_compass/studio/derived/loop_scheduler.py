"""Cooperative scheduling of work of some milliseconds on the interface's thread, one at a time while something is
dragged."""

from __future__ import annotations

from time import monotonic
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from collections.abc import Callable

    from mild_compass.studio.session import Session

TURN_S = 0.02
PACE_MS = 90


class LoopScheduler:
    """Between two such things the event loop gets round once, so that the hand is followed."""

    pace_ms = PACE_MS
    wait_ms = round(1000 * TURN_S)

    def __init__(self, session: Session) -> None:
        self._session = session
        self._last = 0.0

    def run(self, task: Callable[[], None]) -> bool:
        """Run something; during a drag only when nothing such has just been run. False when it has to wait."""
        if self._session.in_gesture and monotonic() - self._last < TURN_S:
            return False
        task()
        self._last = monotonic()
        return True
