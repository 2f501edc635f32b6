"""The artist's own times against those given: after a few of a kind they take the given ones' place."""

from __future__ import annotations

from dataclasses import dataclass
from statistics import median, quantiles
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from collections.abc import Iterable


LEAST = 3  # of a kind before they are believed
LAST = 9  # older ones do not count any more
LEAST_MIN = 0.5  # a step clicked away was not worked on


@dataclass(frozen=True, slots=True)
class TimedStep:
    """A step that was done: in which medium, of which kind, the minutes it took and those that had been given."""

    medium: str
    kind: str
    minutes: float
    given_min: float


@dataclass(frozen=True, slots=True)
class Pace:
    """How many times the given time the artist takes: the middle one, and between the quartiles; from how many."""

    middle: float = 1.0
    low: float = 1.0
    high: float = 1.0
    count: int = 0

    @property
    def own(self) -> bool:
        """Whether it is the artist's, not merely given."""
        return self.count >= LEAST


GIVEN = Pace()


class OwnTimes:
    """Paces by medium and kind, from the last steps of each; given ones where there are too few."""

    def __init__(self, steps: Iterable[TimedStep] = ()) -> None:
        self.steps = tuple(steps)
        found: dict[tuple[str, str], list[float]] = {}
        for step in self.steps:
            if step.given_min > 0 and step.minutes >= LEAST_MIN:
                found.setdefault((step.medium, step.kind), []).append(step.minutes / step.given_min)
        self._paces = {key: pace_of(ratios) for key, ratios in found.items()}

    def pace(self, medium: str, kind: str) -> Pace:
        """How the artist's time stands to the given one."""
        pace = self._paces.get((medium, kind), GIVEN)
        return pace if pace.own else Pace(count=pace.count)


def pace_of(ratios: list[float]) -> Pace:
    """Median and quartiles of the last ratios of own to given time."""
    last = ratios[-LAST:]
    if len(last) < 2:
        return Pace(last[0], last[0], last[0], 1) if last else GIVEN
    low, _, high = quantiles(last, n=4, method="inclusive")
    return Pace(median(last), low, high, len(last))
