"""Edits of the paper and of the viewfinder."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

from mild_compass.plan.edits.base import current, named, with_study
from mild_compass.plan.errors import PlanError
from mild_compass.plan.framing import fitted, require_fitting

if TYPE_CHECKING:
    from mild_compass.plan.model import Frame, Paper, Plan, Ring, Thread


def _paper_words(plan: Plan, *_: object) -> str:
    paper = plan.paper
    return f"Paper: {paper.name}, {paper.width_mm:g} × {paper.height_mm:g} mm, margin {paper.margin_mm:g} mm."


def _frame_words(plan: Plan, *_: object) -> str:
    study = current(plan)
    photo = plan.reference(study.reference)
    share = study.frame.width_px * study.frame.height_px / (photo.width_px * photo.height_px)
    return f"Framed {photo.name}: {100 * share:.0f} % of the photo kept."


@named("choose paper", "viewfinder", _paper_words)
def choose_paper(plan: Plan, paper: Paper) -> Plan:
    """Change the sheet; every study's frame is fitted to the new proportion about its own centre."""
    studies = tuple(
        replace(study, frame=fitted(study.frame, plan.reference(study.reference), paper)) for study in plan.studies
    )
    return replace(plan, paper=paper, studies=studies)


@named("move viewfinder", "viewfinder", _frame_words)
def move_frame(plan: Plan, frame: Frame) -> Plan:
    """Place the viewfinder; it must keep the picture area's ratio and stay on the photo."""
    study = current(plan)
    return with_study(plan, replace(study, frame=require_fitting(frame, plan.reference(study.reference), plan.paper)))


@named("choose threads")
def choose_threads(plan: Plan, threads: tuple[Thread, ...]) -> Plan:
    """Choose the threads stretched across the viewfinder."""
    return with_study(plan, replace(current(plan), threads=threads))


@named("ring the subject", "viewfinder", lambda _, ring: f"Ringed the {ring.name}.")
def ring_subject(plan: Plan, ring: Ring) -> Plan:
    """Ring the subject; the ring's centre must lie on the photo."""
    study = current(plan)
    photo = plan.reference(study.reference)
    if not (0 <= ring.x_px <= photo.width_px and 0 <= ring.y_px <= photo.height_px):
        raise PlanError("The ring lies off the photo. Nothing was changed; draw it on the photo.")
    return with_study(plan, replace(study, rings=(ring,)))


@named("remove the ring")
def remove_ring(plan: Plan) -> Plan:
    """Take the ring off."""
    return with_study(plan, replace(current(plan), rings=()))
