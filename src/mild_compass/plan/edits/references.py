"""Edits of the references: add, use, keep or set aside, remove."""

from __future__ import annotations

from dataclasses import replace
from math import hypot, radians, tan

from mild_compass.plan.edits.base import current, named, next_study, with_study
from mild_compass.plan.errors import PlanError
from mild_compass.plan.framing import largest_frame
from mild_compass.plan.model import Plan
from mild_compass.plan.paper import Paper
from mild_compass.plan.perspective import Horizon, PerspectivePlan
from mild_compass.plan.pictures import BLANK, Ground, Reference, Standing
from mild_compass.plan.sheet import BLANK_LAYERS, MeasurePlan
from mild_compass.plan.study import Frame, Study
from mild_compass.plan.tones import ReadsPlan


def _in_use(plan: Plan, *_: object) -> str:
    return f"Worked from the photo {plan.ground(current(plan)).name}."


def _judged(plan: Plan, reference_id: str, standing: Standing, reason: str) -> str:
    what = "Kept" if standing == "kept" else "Set aside"
    return f"{what} {plan.reference(reference_id).name}" + (f": {reason.strip()}." if reason.strip() else ".")


@named("add photo", "references", lambda _, photo: f"Added the photo {photo.name}.", merges=False)
def add_reference(plan: Plan, reference: Reference) -> Plan:
    """Add a photo; the first one opens the first study. A photo already there, by content, is refused.

    Raises:
        PlanError: the photo is in the plan already.
    """
    twin = next((old for old in plan.references if old.sha256 == reference.sha256), None)
    if twin:
        raise PlanError(f"This photo is already in the plan, as {twin.name}. Nothing was added.")
    grown = replace(plan, references=(*plan.references, reference))
    if plan.studies:
        return grown
    paper = _laid_as(plan.paper, reference) if plan.paper.lay == "as the photo" else plan.paper
    study = Study("study-1", "A", reference.id, largest_frame(reference, paper))
    return replace(grown, paper=paper, studies=(study,), current_study=study.id)


def _laid_as(paper: Paper, photo: Ground) -> Paper:
    """The sheet turned so that it lies as the photo does: across or upright."""
    across = photo.width_px > photo.height_px
    if paper.across == across or paper.width_mm == paper.height_mm:
        return paper
    return replace(paper, width_mm=paper.height_mm, height_mm=paper.width_mm)


BLANK_EYE_LEVEL = 0.4  # down the picture: at half height it would be stiff (common practice, no published source)
CONE_DEG = 60.0  # of vision: outside it round things look stretched (common practice, no published source)


@named("begin with a blank sheet", "references", lambda plan, *_: f"Began study {current(plan).name} on a blank sheet.")
def begin_blank(plan: Plan) -> Plan:
    """Begin a study on a blank sheet, with an eye level and a view of its own, and work on it."""
    number, name = next_study(plan)
    study = Study(f"study-{number}", name, BLANK, Frame(0.0, 0.0, 1.0, 1.0))
    ground = plan.ground(study)
    horizon = Horizon(BLANK_EYE_LEVEL * ground.height_px, x_px=ground.width_px / 2)
    farthest_px = hypot(ground.width_px / 2, (1 - BLANK_EYE_LEVEL) * ground.height_px)
    focal_px = farthest_px / tan(radians(CONE_DEG / 2))  # the corners lie just on the cone
    study = replace(
        study,
        frame=largest_frame(ground, plan.paper),
        perspective=PerspectivePlan(horizon=horizon, focal="hand", focal_px=focal_px),
        sheet=replace(study.sheet, layers=BLANK_LAYERS),
    )
    return replace(plan, studies=(*plan.studies, study), current_study=study.id)


@named("use photo", "references", _in_use)
def use_reference(plan: Plan, reference_id: str) -> Plan:
    """Work the current study from another photo; marks that lie on the old photo are taken off."""
    study = current(plan)
    if study.ground == reference_id:
        return plan
    reference = plan.reference(reference_id)
    fresh = replace(
        study,
        ground=reference_id,
        frame=largest_frame(reference, plan.paper),
        rings=(),
        keep=(),
        departures=(),
        structure=replace(study.structure, lines=(), points=(), eye_path=()),
        perspective=PerspectivePlan(),
        stage=replace(study.stage, screens=()) if study.stage is not None else None,
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
    """Remove a photo that no study uses.

    Raises:
        PlanError: a study uses the photo.
    """
    users = [
        study.name
        for study in plan.studies
        if study.ground == reference_id
        or any(each.source == reference_id for each in study.departures)
        or any(each.source == reference_id for each in (study.stage.things if study.stage else ()))
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
