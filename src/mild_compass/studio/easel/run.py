"""A sitting as it goes on: which step is in hand, how long each has taken, what still dries."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from typing import TYPE_CHECKING

from mild_compass.craft.work.own_times import TimedStep
from mild_compass.plan.times import now
from mild_compass.plan.work import Sitting, SittingStep

if TYPE_CHECKING:
    from collections.abc import Callable, Mapping, Sequence

    from mild_compass.craft.work.order import Need
    from mild_compass.craft.work.step import WorkStep
    from mild_compass.plan.model import Plan

LONGEST_S = 6 * 3600.0  # of one step at a stretch: an easel left open overnight is not work
LONG_AGO = float("-inf")


@dataclass(frozen=True, slots=True)
class Drying:
    """A step that still dries: its title, and the seconds left."""

    title: str
    seconds: float


@dataclass(frozen=True, slots=True)
class Clocks:
    """Seconds that only go on: ``work`` stands while the computer sleeps, ``drying`` does not; ``moment`` is the time
    of day (ISO 8601), which may be set otherwise meanwhile and only tells of what was done in another sitting."""

    work: Callable[[], float]
    drying: Callable[[], float]
    moment: Callable[[], str] = now


class Run:
    """Steps in order, from the first that is not done; the clock starts with it.

    ``before`` are the steps done in earlier sittings, and how many seconds ago each was laid (without an end where that
    is not known, or it was found dry).
    """

    def __init__(
        self, sitting_id: str, study: str, medium: str, started: str, steps: Sequence[WorkStep],
        before: Mapping[str, float], clocks: Clocks,
    ) -> None:  # fmt: skip
        self.steps, self.medium = tuple(steps), medium
        self._id, self._study, self._started, self._clocks = sitting_id, study, started, clocks
        self._before = set(before)
        self._laid = {key: clocks.drying() - ago for key, ago in before.items()}  # on the clock of drying
        self._done: dict[str, str] = {}  # here, and the moment
        self._seconds: dict[str, float] = {}
        self._dry: set[str] = set()  # sooner than reckoned: the artist has said so
        self.paused = False
        self._stretch = 0.0  # seconds that count since the step was taken up
        self._seen = (clocks.work(), clocks.drying())  # up to where time has been reckoned
        self.at = self._first_open(0)

    def _first_open(self, start: int) -> int:
        """The first step from here that is not done; one past the last where all are."""
        for place in range(start, len(self.steps)):
            if not self.is_done(self.steps[place].key):
                return place
        return len(self.steps)

    def is_done(self, key: str) -> bool:
        """Whether a step is ticked, here or in an earlier sitting."""
        return key in self._before or key in self._done

    @property
    def step(self) -> WorkStep | None:
        """The step in hand; None when all is done."""
        return self.steps[self.at] if self.at < len(self.steps) else None

    @property
    def following(self) -> WorkStep | None:
        """The one after it."""
        place = self._first_open(self.at + 1)
        return self.steps[place] if place < len(self.steps) else None

    def pause(self, on: bool) -> None:
        """Let the clock of the step stand, or go on."""
        self._reckon()
        self.paused, self._stretch = on, 0.0

    def elapsed(self) -> float:
        """Seconds on the step in hand, in this sitting."""
        self._reckon()
        return self._seconds.get(self.step.key, 0.0) if self.step is not None else 0.0

    def _reckon(self) -> None:
        """Write what has gone by since the last look onto the step in hand: to wait, or to be asleep, is no work."""
        work, drying = self._clocks.work(), self._clocks.drying()
        (work_before, drying_before), self._seen = self._seen, (work, drying)
        step = self.step
        if step is None or self.paused:
            return
        waited = max(0.0, self._dry_at(step) - drying_before)
        gone = min(work - work_before, drying - drying_before - waited, LONGEST_S - self._stretch)
        self._stretch += max(0.0, gone)
        self._seconds[step.key] = self._seconds.get(step.key, 0.0) + max(0.0, gone)

    def go_on(self) -> WorkStep | None:
        """Tick the step in hand and take up the next; the one that was ticked, or None where all was done."""
        self._reckon()
        step = self.step
        if step is None:
            return None
        self._done[step.key] = self._clocks.moment()
        self._laid[step.key] = self._clocks.drying()
        self._dry.discard(step.key)  # it has been laid anew
        self.at = self._first_open(self.at + 1)
        self.paused, self._stretch = False, 0.0
        return step

    def go_back(self) -> WorkStep | None:
        """Take up the step before again, not done after all; None where there is none."""
        self._reckon()
        if self.at == 0:
            return None
        self.at -= 1
        step = self.steps[self.at]
        self._done.pop(step.key, None)
        self._laid.pop(step.key, None)
        self._before.discard(step.key)
        self.paused, self._stretch = False, 0.0
        return step

    def drying(self) -> tuple[Drying, ...]:
        """What is done and not dry yet, the soonest first."""
        now_s = self._clocks.drying()
        left = [
            Drying(step.title, self._laid[step.key] + 60 * step.drying_min - now_s)
            for step in self.steps
            if step.key in self._laid and step.drying_min and step.key not in self._dry
        ]
        return tuple(sorted((each for each in left if each.seconds > 0), key=lambda each: each.seconds))

    def wait(self, step: WorkStep | None) -> float:
        """Seconds until a step may begin, by what it needs to be dry."""
        return 0.0 if step is None else max(0.0, self._dry_at(step) - self._clocks.drying())

    def say_dry(self) -> None:
        """What the step in hand waits for is dry already; its own time begins now."""
        self._reckon()
        if self.step is not None:
            self._dry |= {need.step for need in self.step.needs}

    @property
    def laid(self) -> dict[str, float]:
        """When what is done was laid, on the clock of drying; long ago where the artist has found it dry."""
        return {key: LONG_AGO if key in self._dry else at for key, at in self._laid.items()}

    def _dry_at(self, step: WorkStep) -> float:
        """When all that a step needs is dry, on the clock of drying."""
        return max((self._need_dry_at(need) for need in step.needs if need.dry), default=LONG_AGO)

    def _need_dry_at(self, need: Need) -> float:
        if need.step not in self._laid or need.step in self._dry:
            return LONG_AGO
        laid = next(step for step in self.steps if step.key == need.step)
        return self._laid[need.step] + 60 * laid.drying_min

    def sitting(self, ended: str = "") -> Sitting:
        """The sitting as it stands, for the plan."""
        self._reckon()
        steps = []
        for step in self.steps:
            seconds, laid = self._seconds.get(step.key, 0.0), self._done.get(step.key, "")
            if laid or seconds > 0:
                times = (round(seconds / 60, 2), step.given_min, bool(laid), laid, bool(laid) and step.key in self._dry)
                steps.append(SittingStep(step.key, step.title, step.kind, *times))
        return Sitting(self._id, self._study, self._started, ended, tuple(steps), self.medium)

    def mark(self, step: WorkStep) -> str:
        """What tells this doing of a step from any other."""
        return f"{self._started} {step.key}"

    def timed(self, step: WorkStep) -> TimedStep:
        """A step that was done here."""
        return TimedStep(self.medium, step.kind, round(self._seconds.get(step.key, 0.0) / 60, 2), step.given_min)


def done_before(plan: Plan, study: str, moment: str) -> dict[str, float]:
    """The steps ticked in earlier sittings of a study, and how many seconds before a moment each was laid.

    Where the clock has been set back since, no time has gone by.
    """
    return {
        step.step: float("inf") if step.said_dry else _seconds_between(step.laid, moment)
        for sitting in plan.sittings
        if sitting.study == study
        for step in sitting.steps
        if step.done
    }


def _seconds_between(laid: str, moment: str) -> float:
    try:
        gone = datetime.fromisoformat(moment) - datetime.fromisoformat(laid)
    except (ValueError, TypeError):  # not noted, or without its zone
        return float("inf")
    return max(0.0, gone.total_seconds())
