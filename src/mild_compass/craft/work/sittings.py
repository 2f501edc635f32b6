"""The work cut into sittings: where it may be interrupted, when each ends, what the light on the motif allows."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

from mild_compass.plan.work import clock_minutes

if TYPE_CHECKING:
    from collections.abc import Sequence

    from mild_compass.craft.work.order import Placed
    from mild_compass.craft.work.step import WorkStep
    from mild_compass.plan.work import WorkPlan

LEAST_PART_MIN = 10.0  # of a step that is divided: less is not worth setting out for
DAY_MIN = 24 * 60


@dataclass(frozen=True, slots=True)
class Part:
    """A step, or some of it, within a sitting; in minutes from the sitting's beginning."""

    step: WorkStep
    start: float
    end: float
    first: bool = True
    last: bool = True

    @property
    def dry_at(self) -> float:
        """When what it laid is dry."""
        return self.end + (self.step.drying_min if self.last else 0.0)


@dataclass(frozen=True, slots=True)
class SittingPlan:
    """One sitting as planned: its parts, when the hands leave the work, and what is said about stopping there.

    ``over_min`` is how much longer than wished it lasts, because a step cannot be left half-way; ``light`` whether it
    had to stop because the light on the motif was gone.
    """

    number: int
    parts: tuple[Part, ...]
    end: float
    stop: str
    over_min: float = 0.0
    light: bool = False


def cut(steps: Sequence[WorkStep], order: Sequence[Placed], work: WorkPlan) -> tuple[SittingPlan, ...]:
    """Sittings of the wished length, in the given order of steps; between two of them everything dries."""
    return _Cutter(steps, order, work).sittings()


class _Cutter:
    """Goes through the order, and begins another sitting where a step does not fit any more."""

    def __init__(self, steps: Sequence[WorkStep], order: Sequence[Placed], work: WorkPlan) -> None:
        by_key = {step.key: step for step in steps}
        self._line = [by_key[placed.key] for placed in order]
        self._length = work.sitting_min
        self._start = clock_minutes(work.start)
        self._light = clock_minutes(work.light_until) - self._start if work.light_until else None
        self._done: list[SittingPlan] = []
        self._parts: list[Part] = []
        self._now = 0.0

    def sittings(self) -> tuple[SittingPlan, ...]:
        for step in self._line:
            self._place(step)
        if self._parts:
            self._close(last=True)
        return tuple(self._done)

    def _limit(self, step: WorkStep) -> float:
        """Until when a step may be worked on within a sitting."""
        if self._light is not None and step.from_motif:
            return min(self._length, self._light)
        return self._length

    def _ready(self, step: WorkStep) -> float:
        """When a step may begin in the sitting at hand; what was laid in an earlier one is dry."""
        here = {part.step.key: part for part in self._parts}
        waits = [
            (here[need.step].dry_at if need.dry else here[need.step].end) for need in step.needs if need.step in here
        ]
        return max([self._now, *waits])

    def _place(self, step: WorkStep) -> None:
        left, first = step.minutes, True
        while True:
            start, limit = self._ready(step), self._limit(step)
            room = limit - start
            if left <= room or (not self._parts and not step.divisible):
                self._lay(Part(step, start, start + left, first))
                return
            if step.divisible and (room >= LEAST_PART_MIN or not self._parts):
                part = max(room, min(LEAST_PART_MIN, left))
                if part >= left:
                    self._lay(Part(step, start, start + left, first))
                    return
                self._lay(Part(step, start, start + part, first, last=False))
                left, first = left - part, False
            self._close(light=limit < self._length)

    def _lay(self, part: Part) -> None:
        self._parts.append(part)
        self._now = part.end

    def _close(self, last: bool = False, light: bool = False) -> None:
        over = max(0.0, self._now - self._length)
        words = "It is done." if last else self._stop_words()
        self._done.append(SittingPlan(len(self._done) + 1, tuple(self._parts), self._now, words, over, light))
        self._parts, self._now = [], 0.0

    def _stop_words(self) -> str:
        last = self._parts[-1]
        if not last.last:
            return f"Stop here: “{last.step.title}” is half done and can be left off."
        wet = [part for part in self._parts if part.dry_at > self._now]
        if not wet:
            return "Stop here: all edges dry."
        latest = max(wet, key=lambda part: part.dry_at)
        when = clock(self._start + latest.dry_at)
        return f"Stop here: “{latest.step.title}” dries by itself until {when}; leave it lying flat."


def clock(minutes: float) -> str:
    """A time of day from minutes since midnight; on a later day it says so."""
    whole = round(minutes)
    days, rest = divmod(whole, DAY_MIN)
    words = f"{rest // 60}:{rest % 60:02d}"
    return words if not days else f"{words} (+{days} d)"
