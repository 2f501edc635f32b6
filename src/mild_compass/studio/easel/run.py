"""A sitting as it goes on: which step is in hand, how long each has taken, what still dries."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

from mild_compass.craft.work.order import Need
from mild_compass.craft.work.own_times import TimedStep
from mild_compass.plan.work import Sitting, SittingStep

if TYPE_CHECKING:
    from collections.abc import Callable, Sequence

    from mild_compass.craft.work.step import WorkStep
    from mild_compass.plan.model import Plan

LONGEST_S = 6 * 3600.0  # of one step at a stretch: an easel left open overnight is not work


@dataclass(frozen=True, slots=True)
class Drying:
    """A step that still dries: its title, and the seconds left."""

    title: str
    seconds: float


class Run:
    """Steps in order; ``clock`` tells seconds that only go on, and starts with the step in hand."""

    def __init__(
        self, sitting_id: str, study: str, medium: str, started: str, steps: Sequence[WorkStep], done: set[str],
        clock: Callable[[], float],
    ) -> None:  # fmt: skip
        self.steps, self.medium = tuple(steps), medium
        self._id, self._study, self._started, self._clock = sitting_id, study, started, clock
        self._before = set(done)  # in earlier sittings
        self._done: dict[str, float] = {}  # here, and when
        self._seconds: dict[str, float] = {}
        self._dry: set[str] = set()  # sooner than reckoned: the artist has said so
        self._since: float | None = clock()
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

    @property
    def paused(self) -> bool:
        """Whether the clock of the step stands."""
        return self._since is None

    def pause(self, on: bool) -> None:
        """Let the clock of the step stand, or go on."""
        self._settle()
        self._since = None if on else self._clock()

    def elapsed(self) -> float:
        """Seconds on the step in hand, in this sitting."""
        step = self.step
        if step is None:
            return 0.0
        return self._seconds.get(step.key, 0.0) + self._running()

    def _running(self) -> float:
        """Since the step was taken up, or since what it waits for is dry: to wait is no work."""
        step = self.step
        if self._since is None or step is None:
            return 0.0
        begun = max([self._since, *(self._dry_at(need) for need in step.needs if need.dry)])
        return min(max(0.0, self._clock() - begun), LONGEST_S)

    def _settle(self) -> None:
        """Write what has run since onto the step in hand."""
        step = self.step
        if step is not None:
            self._seconds[step.key] = self._seconds.get(step.key, 0.0) + self._running()
        if self._since is not None:
            self._since = self._clock()

    def go_on(self) -> WorkStep | None:
        """Tick the step in hand and take up the next; the one that was ticked, or None where all was done."""
        step = self.step
        if step is None:
            return None
        self._settle()
        self._done[step.key] = self._clock()
        self.at = self._first_open(self.at + 1)
        self._since = self._clock()
        return step

    def go_back(self) -> WorkStep | None:
        """Take up the step before again, not done after all; None where there is none."""
        if self.at == 0:
            return None
        self._settle()
        self.at -= 1
        step = self.steps[self.at]
        self._done.pop(step.key, None)
        self._before.discard(step.key)
        self._since = self._clock()
        return step

    def drying(self) -> tuple[Drying, ...]:
        """What was done here and is not dry yet, the soonest first."""
        now = self._clock()
        left = [
            Drying(step.title, self._done[step.key] + 60 * step.drying_min - now)
            for step in self.steps
            if step.key in self._done and step.drying_min and step.key not in self._dry
        ]
        return tuple(sorted((each for each in left if each.seconds > 0), key=lambda each: each.seconds))

    def wait(self, step: WorkStep | None) -> float:
        """Seconds until a step may begin, by what it needs to be dry."""
        if step is None:
            return 0.0
        return max([0.0, *(self._dry_at(need) - self._clock() for need in step.needs if need.dry)])

    def say_dry(self) -> None:
        """What the step in hand waits for is dry already; its own time begins now."""
        step = self.step
        if step is not None:
            self._dry |= {need.step for need in step.needs}
            self._since = self._clock() if self._since is not None else None

    def _dry_at(self, need: Need) -> float:
        """When what a step needs is dry; long ago where it was done in an earlier sitting."""
        if need.step not in self._done or need.step in self._dry:
            return float("-inf")
        before = next(step for step in self.steps if step.key == need.step)
        return self._done[need.step] + 60 * before.drying_min

    def sitting(self, ended: str = "") -> Sitting:
        """The sitting as it stands, for the plan."""
        here = self.step
        steps = []
        for step in self.steps:
            seconds = self._seconds.get(step.key, 0.0) + (self._running() if here is step else 0.0)
            if step.key in self._done or seconds > 0:
                minutes = round(seconds / 60, 2)
                steps.append(
                    SittingStep(step.key, step.title, step.kind, minutes, step.given_min, step.key in self._done)
                )
        return Sitting(self._id, self._study, self._started, ended, tuple(steps), self.medium)

    def mark(self, step: WorkStep) -> str:
        """What tells this doing of a step from any other."""
        return f"{self._started} {step.key}"

    def timed(self, step: WorkStep) -> TimedStep:
        """A step that was done here."""
        return TimedStep(self.medium, step.kind, round(self._seconds.get(step.key, 0.0) / 60, 2), step.given_min)


def done_before(plan: Plan, study: str) -> set[str]:
    """The steps ticked in earlier sittings of a study."""
    return {step.step for sitting in plan.sittings if sitting.study == study for step in sitting.steps if step.done}
