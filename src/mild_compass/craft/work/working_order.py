"""The working order of this sheet: steps, their order, the sittings, and what is said about them."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

from mild_compass.craft.cautions import LABEL, cautions_of_materials, outdoors
from mild_compass.craft.geometry.frame_map import FrameMap
from mild_compass.craft.kept import Kept
from mild_compass.craft.values.edges import edges_of
from mild_compass.craft.values.medium import medium_work
from mild_compass.craft.work.order import Placed, Task, in_order
from mild_compass.craft.work.sittings import SittingPlan, clock, cut
from mild_compass.craft.work.steps import WorkStep, work_steps
from mild_compass.plan.work import clock_minutes

if TYPE_CHECKING:
    from mild_compass.craft.values.medium import MediumWork
    from mild_compass.craft.work.own_times import OwnTimes
    from mild_compass.craft.worked import Worked


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


_ORDERS: Kept[WorkingOrder] = Kept(4)


def order_of(worked: Worked) -> WorkingOrder:
    """The working order of a worked study by the artist's own times, kept until something it follows from changes."""
    study, plan, own = worked.study, worked.plan, worked.own
    rest = (
        *(worked.measured, study.medium, study.values.edges, study.frame, study.rings, study.sheet.method),
        *(plan.paper, plan.work, own.steps if own is not None else ()),
    )
    return _ORDERS.of(worked.masses or study, rest, lambda: working_order(worked, own))


def with_order(worked: Worked | None) -> Worked | None:
    """A worked study with its working order."""
    return replace(worked, order=order_of(worked)) if worked is not None else None


def working_order(worked: Worked, own: OwnTimes | None = None) -> WorkingOrder:
    """The working order of a worked study; without masses only what belongs to the drawing."""
    work = way_of_working(worked)
    steps = work_steps(worked, work, own)
    placed = in_order([Task(step.key, step.minutes, step.drying_min, step.needs) for step in steps])
    plan = worked.plan.work
    sittings = cut(steps, placed, plan)
    return WorkingOrder(steps, placed, sittings, work, clock_minutes(plan.start), plan.light_until, plan.materials)


def way_of_working(worked: Worked) -> MediumWork | None:
    """The steps of the medium for the study's masses; None while there are none."""
    if worked.masses is None:
        return None
    study, plan = worked.study, worked.plan
    edges = edges_of(worked.masses, study.values.edges, FrameMap.of(study.frame, plan.paper)) if worked.measured else ()
    return medium_work(worked.masses, study.medium, edges)


def hours(minutes: float) -> str:
    """Minutes in words: 45 min, 2 h 05 min."""
    whole = round(minutes)
    if whole < 60:
        return f"{whole} min"
    return f"{whole // 60} h {whole % 60:02d} min" if whole % 60 else f"{whole // 60} h"
