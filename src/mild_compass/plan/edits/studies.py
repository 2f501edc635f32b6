"""Edits of the plan's name and of its studies: keep a copy, choose, rename, delete."""

from __future__ import annotations

from dataclasses import replace
from string import ascii_uppercase
from typing import TYPE_CHECKING

from mild_compass.plan.edits.base import current, named, with_study
from mild_compass.plan.errors import PlanError

if TYPE_CHECKING:
    from mild_compass.plan.model import Plan


@named("rename plan")
def rename_plan(plan: Plan, name: str) -> Plan:
    """Give the plan a name."""
    if not name.strip():
        raise PlanError("A plan needs a name. The old one is kept.")
    return replace(plan, name=name.strip())


@named("keep study", "viewfinder", lambda plan, *_: f"Kept the study and went on with study {current(plan).name}.")
def keep_study(plan: Plan) -> Plan:
    """Keep the current study as it is and go on with a copy."""
    study = current(plan)
    numbers = {int(old.id.rsplit("-", 1)[1]) for old in plan.studies if old.id.rsplit("-", 1)[1].isdigit()}
    number = max(numbers, default=0) + 1
    names = {old.name for old in plan.studies}
    name = next((letter for letter in ascii_uppercase if letter not in names), f"Study {number}")
    copy = replace(study, id=f"study-{number}", name=name)
    return replace(plan, studies=(*plan.studies, copy), current_study=copy.id)


@named("choose study")
def choose_study(plan: Plan, study_id: str) -> Plan:
    """Work on another study."""
    return replace(plan, current_study=study_id)


@named("rename study")
def rename_study(plan: Plan, name: str) -> Plan:
    """Give the current study a name."""
    if not name.strip():
        raise PlanError("A study needs a name. The old one is kept.")
    return with_study(plan, replace(current(plan), name=name.strip()))


@named("delete study", "viewfinder", lambda plan, *_: f"Deleted a study; {len(plan.studies)} left.")
def delete_study(plan: Plan) -> Plan:
    """Delete the current study unless it is the only one."""
    study = current(plan)
    rest = tuple(old for old in plan.studies if old.id != study.id)
    if not rest:
        raise PlanError("This is the only study. It is kept; make another before deleting it.")
    return replace(plan, studies=rest, current_study=rest[-1].id)


def neighbour(plan: Plan, step: int) -> str | None:
    """Id of the study before (-1) or after (+1) the current one, going round."""
    ids = [study.id for study in plan.studies]
    return ids[(ids.index(plan.current_study) + step) % len(ids)] if len(ids) > 1 else None
