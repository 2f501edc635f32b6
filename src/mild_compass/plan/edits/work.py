"""Edits of the work on the sheet, and what is written down while it goes on: sittings, steps, times at stations."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

from mild_compass.plan.edits.base import named
from mild_compass.plan.errors import PlanError
from mild_compass.plan.model import StationTime

if TYPE_CHECKING:
    from mild_compass.plan.model import Plan
    from mild_compass.plan.stations import StationName
    from mild_compass.plan.work import Sitting, StepChange, WorkPlan


@named("change the working order")
def change_work(plan: Plan, work: WorkPlan) -> Plan:
    """Other conditions, another length of sitting, other materials."""
    return replace(plan, work=work)


@named("change a step of the working order")
def change_step(plan: Plan, change: StepChange) -> Plan:
    """Set time or drying of a step otherwise, or leave it out; an empty change takes that back."""
    rest = tuple(each for each in plan.work.changes if each.step != change.step)
    empty = change.minutes is None and change.drying_min is None and not change.left_out
    return replace(plan, work=replace(plan.work, changes=rest if empty else (*rest, change)))


@named("delete a sitting", "logbook", lambda *_: "Deleted a sitting.", merges=False)
def delete_sitting(plan: Plan, sitting_id: str) -> Plan:
    """Take a sitting off the record.

    Raises:
        PlanError: it is not there any more.
    """
    rest = tuple(each for each in plan.sittings if each.id != sitting_id)
    if len(rest) == len(plan.sittings):
        raise PlanError("This sitting is not in the plan any more. Nothing was changed.")
    return replace(plan, sittings=rest)


def next_sitting_id(plan: Plan) -> str:
    """An id no sitting of the plan carries."""
    taken = {each.id for each in plan.sittings}
    return next(f"sitting-{k}" for k in range(1, len(taken) + 2) if f"sitting-{k}" not in taken)


def with_sitting(plan: Plan, sitting: Sitting) -> Plan:
    """The plan with a sitting as it stands now; one of the same id is replaced where it stood."""
    if any(each.id == sitting.id for each in plan.sittings):
        return replace(plan, sittings=tuple(sitting if each.id == sitting.id else each for each in plan.sittings))
    return replace(plan, sittings=(*plan.sittings, sitting))


def with_time(plan: Plan, station: StationName, seconds: float) -> Plan:
    """The plan with so much more time at a station."""
    before = next((each.seconds for each in plan.spent if each.station == station), 0.0)
    rest = tuple(each for each in plan.spent if each.station != station)
    return replace(plan, spent=(*rest, StationTime(station, round(before + seconds, 1))))
