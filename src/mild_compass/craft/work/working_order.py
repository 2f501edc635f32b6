"""The working order made: from the way of working, the masses, the transfer and the conditions."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

from mild_compass.craft.geometry.frame_map import FrameMap
from mild_compass.craft.memo import Memo
from mild_compass.craft.values.edges import edges_of
from mild_compass.craft.values.medium import medium_work
from mild_compass.craft.work.order import Task, in_order
from mild_compass.craft.work.planned import WorkingOrder
from mild_compass.craft.work.sittings import cut
from mild_compass.craft.work.steps import work_steps
from mild_compass.plan.work import clock_minutes

if TYPE_CHECKING:
    from mild_compass.craft.values.medium import MediumWork
    from mild_compass.craft.work.own_times import OwnTimes
    from mild_compass.craft.worked import Worked


_ORDERS: Memo[WorkingOrder] = Memo(4)


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
