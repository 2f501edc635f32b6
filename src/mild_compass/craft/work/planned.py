"""The working order of a sheet: its steps in order, its sittings, and what is said about them."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

from mild_compass.craft.cautions import LABEL, cautions_of_materials, outdoors
from mild_compass.craft.work.sittings import SittingPlan, clock

if TYPE_CHECKING:
    from mild_compass.craft.values.medium import MediumWork
    from mild_compass.craft.work.order import Placed
    from mild_compass.craft.work.step import WorkStep


@dataclass(frozen=True, eq=False, slots=True)
class WorkingOrder:
    """Everything about the work on one sheet; ``work`` is the way of working its pictures come from, if there is one.

    ``placed`` is the order done at one go, ``sittings`` the same cut up.
    """

    steps: tuple[WorkStep, ...]
    placed: tuple[Placed, ...]
    sittings: tuple[SittingPlan, ...]
    work: MediumWork | None
    start: int
    light_until: str = ""
    materials: tuple[str, ...] = ()

    def step(self, key: str) -> WorkStep:
        """The step of this mark."""
        return next(step for step in self.steps if step.key == key)

    @property
    def in_order(self) -> tuple[WorkStep, ...]:
        """The steps as they are done."""
        return tuple(self.step(placed.key) for placed in self.placed)

    @property
    def hands_min(self) -> float:
        """With the hands on the work."""
        return sum(step.minutes for step in self.steps)

    @property
    def range_min(self) -> tuple[float, float]:
        """The hands' time if all goes as fast, or as slow, as it mostly did."""
        return sum(step.low_min for step in self.steps), sum(step.high_min for step in self.steps)

    @property
    def end_min(self) -> float:
        """At one go, waiting in it."""
        return self.placed[-1].end if self.placed else 0.0

    @property
    def own(self) -> int:
        """How many steps go by the artist's own times."""
        return sum((step.low_min, step.high_min) != (step.minutes, step.minutes) for step in self.steps)

    @property
    def cautions(self) -> tuple[str, ...]:
        """Of all steps and materials, each once, the label last."""
        found = [caution for step in self.in_order for caution in step.cautions]
        if self.light_until:
            found += outdoors()
        found += [each for each in cautions_of_materials(self.materials) if each != LABEL]
        return (*dict.fromkeys(found), LABEL) if found else ()

    def clock(self, minutes: float) -> str:
        """A time of day so many minutes after the sitting's beginning."""
        return clock(self.start + minutes)

    def meanwhile(self, key: str) -> tuple[str, ...]:
        """What is done while a step dries, by title."""
        here = next(placed for placed in self.placed if placed.key == key)
        dry = here.end + self.step(key).drying_min
        return tuple(
            self.step(other.key).title for other in self.placed if here.end <= other.start < dry and other.key != key
        )


def hours(minutes: float) -> str:
    """Minutes in words: 45 min, 2 h 05 min."""
    whole = round(minutes)
    if whole < 60:
        return f"{whole} min"
    return f"{whole // 60} h {whole % 60:02d} min" if whole % 60 else f"{whole // 60} h"
