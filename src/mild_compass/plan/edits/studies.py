"""Edits of the plan's name and of its studies: keep a copy, choose, rename, delete."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

from mild_compass.plan.edits.base import current, named, next_study, with_study
from mild_compass.plan.errors import PlanError

if TYPE_CHECKING:
    from mild_compass.plan.model import Plan
    from mild_compass.plan.study import Study


@named("rename plan")
def rename_plan(plan: Plan, name: str) -> Plan:
    """Give the plan a name.

    Raises:
        PlanError: the name is empty.
    """
    if not name.strip():
        raise PlanError("A plan needs a name. The old one is kept.")
    return replace(plan, name=name.strip())


@named("keep study", "viewfinder", lambda plan, *_: f"Kept the study and went on with study {current(plan).name}.")
def keep_study(plan: Plan) -> Plan:
    """Keep the current study as it is and go on with a copy."""
    copy = _copy(plan, current(plan))
    return replace(plan, studies=(*plan.studies, copy), current_study=copy.id)


@named("choose study")
def choose_study(plan: Plan, study_id: str) -> Plan:
    """Work on another study."""
    return replace(plan, current_study=study_id)


@named("rename study")
def rename_study(plan: Plan, name: str, study_id: str = "") -> Plan:
    """Give a study a name, the current one unless told.

    Raises:
        PlanError: the name is empty.
    """
    if not name.strip():
        raise PlanError("A study needs a name. The old one is kept.")
    study = _study(plan, study_id) if study_id else current(plan)
    return with_study(plan, replace(study, name=name.strip()))


@named("duplicate study", "viewfinder", lambda plan, *_: f"Made study {plan.studies[-1].name}, a copy.", merges=False)
def duplicate_study(plan: Plan, study_id: str) -> Plan:
    """Put a copy of a study behind the others; the one being worked on stays the same."""
    return replace(plan, studies=(*plan.studies, _copy(plan, _study(plan, study_id))))


def _chosen_words(plan: Plan, study_id: str, reason: str) -> str:
    return f"Chose study {_study(plan, study_id).name} for the sheet: {reason.strip()}."


@named("choose the study for the sheet", "viewfinder", _chosen_words, merges=False)
def choose_for_sheet(plan: Plan, study_id: str, reason: str) -> Plan:
    """Choose one study, with the reason, and work on it; an earlier choice is taken back.

    Raises:
        PlanError: no reason is given.
    """
    if not reason.strip():
        raise PlanError("Say in a few words why this one. Nothing was chosen yet.")
    studies = tuple(
        replace(study, chosen_because=reason.strip() if study.id == study_id else "") for study in plan.studies
    )
    return replace(plan, studies=studies, current_study=_study(plan, study_id).id)


@named("delete study", "viewfinder", lambda plan, *_: f"Deleted a study; {len(plan.studies)} left.")
def delete_study(plan: Plan, study_id: str = "") -> Plan:
    """Delete a study, the current one unless told, unless it is the only one.

    Raises:
        PlanError: it is the only study.
    """
    study = _study(plan, study_id) if study_id else current(plan)
    rest = tuple(old for old in plan.studies if old.id != study.id)
    if not rest:
        raise PlanError("This is the only study. It is kept; make another before deleting it.")
    stays = plan.current_study if plan.current_study != study.id else rest[-1].id
    return replace(plan, studies=rest, current_study=stays)


def _study(plan: Plan, study_id: str) -> Study:
    found = next((study for study in plan.studies if study.id == study_id), None)
    if found is None:
        raise PlanError("This study is not in the plan any more. Nothing was done.")
    return found


def _copy(plan: Plan, study: Study) -> Study:
    """A copy with the next free id and letter."""
    number, name = next_study(plan)
    return replace(study, id=f"study-{number}", name=name, chosen_because="")


def neighbour(plan: Plan, step: int) -> str | None:
    """Id of the study before (-1) or after (+1) the current one, going round."""
    ids = [study.id for study in plan.studies]
    return ids[(ids.index(plan.current_study) + step) % len(ids)] if len(ids) > 1 else None
