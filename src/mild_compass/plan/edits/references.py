"""Edits of the references: add, use, keep or set aside, remove."""

from __future__ import annotations

from dataclasses import replace

from mild_compass.plan.edits.base import current, named, with_study
from mild_compass.plan.errors import PlanError
from mild_compass.plan.framing import largest_frame
from mild_compass.plan.model import PerspectivePlan, Plan, Reference, Standing, Study
from mild_compass.plan.sheet import MeasurePlan
from mild_compass.plan.tones import ReadsPlan


def _in_use(plan: Plan, *_: object) -> str:
    return f"Worked from the photo {plan.reference(current(plan).reference).name}."


def _judged(plan: Plan, reference_id: str, standing: Standing, reason: str) -> str:
    what = "Kept" if standing == "kept" else "Set aside"
    return f"{what} {plan.reference(reference_id).name}" + (f": {reason.strip()}." if reason.strip() else ".")


@named("add photo", "references", lambda _, photo: f"Added the photo {photo.name}.", merges=False)
def add_reference(plan: Plan, reference: Reference) -> Plan:
    """Add a photo; the first one opens the first study. A photo already there, by content, is refused."""
    twin = next((old for old in plan.references if old.sha256 == reference.sha256), None)
    if twin:
        raise PlanError(f"This photo is already in the plan, as {twin.name}. Nothing was added.")
    grown = replace(plan, references=(*plan.references, reference))
    if plan.studies:
        return grown
    study = Study("study-1", "A", reference.id, largest_frame(reference, plan.paper))
    return replace(grown, studies=(study,), current_study=study.id)


@named("use photo", "references", _in_use)
def use_reference(plan: Plan, reference_id: str) -> Plan:
    """Work the current study from another photo; marks that lie on the old photo are taken off."""
    study = current(plan)
    if study.reference == reference_id:
        return plan
    reference = plan.reference(reference_id)
    fresh = replace(
        study,
        reference=reference_id,
        frame=largest_frame(reference, plan.paper),
        rings=(),
        keep=(),
        departures=(),
        structure=replace(study.structure, lines=(), points=(), eye_path=()),
        perspective=PerspectivePlan(),
        values=replace(study.values, changes=()),
        reads=ReadsPlan(),
        measures=MeasurePlan(tolerance_mm=study.measures.tolerance_mm),
        shapes=(),
    )
    return with_study(plan, fresh)


@named("keep or set aside", "references", _judged, merges=False)
def judge_reference(plan: Plan, reference_id: str, standing: Standing, reason: str) -> Plan:
    """Keep a photo or set it aside, with the reason."""
    return replace(
        plan,
        references=tuple(
            replace(reference, standing=standing, reason=reason.strip()) if reference.id == reference_id else reference
            for reference in plan.references
        ),
    )


@named("remove photo", "references", lambda plan, *_: f"Removed a photo; {len(plan.references)} left.")
def remove_reference(plan: Plan, reference_id: str) -> Plan:
    """Remove a photo that no study uses."""
    users = [
        study.name
        for study in plan.studies
        if study.reference == reference_id or any(each.source == reference_id for each in study.departures)
    ]
    if users:
        name = plan.reference(reference_id).name
        raise PlanError(f"{name} is used by study {', '.join(users)}. It is kept; let the study use another first.")
    return replace(plan, references=tuple(old for old in plan.references if old.id != reference_id))


def _drawn(plan: Plan, reference_id: str, words: str) -> str:
    return f"What drew me to {plan.reference(reference_id).name}: {words.strip()}."


@named("say what drew you", "references", _drawn)
def say_what_drew(plan: Plan, reference_id: str, words: str) -> Plan:
    """Note what drew the artist to a photo."""
    return replace(
        plan,
        references=tuple(
            replace(reference, drew_me=words.strip()) if reference.id == reference_id else reference
            for reference in plan.references
        ),
    )


@named("order the photos", "references", lambda plan, *_: f"First in order: {plan.references[0].name}.")
def put_reference(plan: Plan, reference_id: str, place: int) -> Plan:
    """Put a photo at a place in the order of preference, 0 the first."""
    moving = plan.reference(reference_id)
    rest = [reference for reference in plan.references if reference.id != reference_id]
    place = min(max(place, 0), len(rest))
    return replace(plan, references=(*rest[:place], moving, *rest[place:]))
