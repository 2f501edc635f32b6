"""A demo plan made step by step, as the application would have recorded it: every step at its time, in order."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import TYPE_CHECKING

from mild_compass.plan.edits.logbook import add_note

if TYPE_CHECKING:
    from collections.abc import Iterable

    from mild_compass.plan.edits.base import Edit
    from mild_compass.plan.model import Plan
    from mild_compass.plan.stations import StationName


@dataclass(frozen=True, slots=True)
class Note:
    """A note of the artist, written where it stands among the steps."""

    text: str
    station: StationName


class Clock:
    """The time of each step, so many minutes after the one before."""

    def __init__(self, start: str, minutes: int) -> None:
        self._next, self._step = datetime.fromisoformat(start), timedelta(minutes=minutes)

    def told(self, plan: Plan, steps: Iterable[Edit | Note]) -> Plan:
        """The plan after the steps; the clock goes on with each."""
        for step in steps:
            time = self._next.isoformat(timespec="seconds")
            edit = add_note(step.text, step.station, time) if isinstance(step, Note) else step
            plan = edit.apply(plan, time)
            self._next += self._step
        return plan
