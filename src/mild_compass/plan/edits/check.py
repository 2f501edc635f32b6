"""Edits of the check: photos of the drawing, their corners, pairs clicked by hand, what is refused and what mended."""

from __future__ import annotations

from dataclasses import replace
from math import hypot
from typing import TYPE_CHECKING

from mild_compass.plan.edits.base import named
from mild_compass.plan.errors import PlanError

if TYPE_CHECKING:
    from mild_compass.plan.model import Plan
    from mild_compass.plan.pictures import DrawingStage, DrawnPair, OwnDrawing, Point

SAME_MM = 4.0  # places nearer than that are one


@named("add a drawing", "check", lambda _, drawing: f"Kept a photo of the drawing: {drawing.name}.", merges=False)
def add_drawing(plan: Plan, drawing: OwnDrawing) -> Plan:
    """Keep a photo of the artist's own work and check it; one already there, by content, is refused.

    Raises:
        PlanError: the drawing is in the plan already.
    """
    twin = next((old for old in plan.drawings if old.sha256 == drawing.sha256), None)
    if twin:
        raise PlanError(f"This photo of the drawing is already in the plan, as {twin.name}. Nothing was added.")
    return replace(plan, drawings=(*plan.drawings, drawing), current_drawing=drawing.id)


def next_drawing_id(plan: Plan) -> str:
    """An id no drawing of the plan carries."""
    taken = {each.id for each in plan.drawings}
    return next(f"drawing-{k}" for k in range(1, len(taken) + 2) if f"drawing-{k}" not in taken)


@named("choose a drawing")
def choose_drawing(plan: Plan, drawing_id: str) -> Plan:
    """Check another photo of the drawing."""
    return replace(plan, current_drawing=_drawing(plan, drawing_id).id)


@named("remove a drawing", "check", lambda *_: "Removed a photo of the drawing.", merges=False)
def remove_drawing(plan: Plan, drawing_id: str) -> Plan:
    """Take a photo of the drawing out of the plan."""
    rest = tuple(each for each in plan.drawings if each.id != _drawing(plan, drawing_id).id)
    return replace(plan, drawings=rest, current_drawing="")


@named("say how far the drawing has come")
def set_stage(plan: Plan, drawing_id: str, stage: DrawingStage) -> Plan:
    """How far the work had come when the photo was taken."""
    return _with(plan, replace(_drawing(plan, drawing_id), stage=stage))


@named("move a corner of the sheet")
def set_corners(plan: Plan, drawing_id: str, corners_px: tuple[Point, ...]) -> Plan:
    """Put the four corners on by hand, or with none have them found again."""
    return _with(plan, replace(_drawing(plan, drawing_id), corners_px=corners_px))


@named("set a pair")
def set_pair(plan: Plan, drawing_id: str, pair: DrawnPair) -> Plan:
    """A place of the plan and where it was drawn; it takes the place of an earlier pair there."""
    drawing = _drawing(plan, drawing_id)
    rest = tuple(each for each in drawing.pairs if not _near(each.plan_mm, pair.plan_mm))
    refused = tuple(each for each in drawing.refused if not _near(each, pair.plan_mm))
    return _with(plan, replace(drawing, pairs=(*rest, pair), refused=refused))


@named("refuse a match")
def refuse(plan: Plan, drawing_id: str, plan_mm: Point) -> Plan:
    """What was found at a place of the plan is something else; a pair set there is taken off."""
    drawing = _drawing(plan, drawing_id)
    pairs = tuple(each for each in drawing.pairs if not _near(each.plan_mm, plan_mm))
    if len(pairs) != len(drawing.pairs):
        return _with(plan, replace(drawing, pairs=pairs))
    rest = tuple(each for each in drawing.refused if not _near(each, plan_mm))
    return _with(plan, replace(drawing, refused=(*rest, plan_mm)))


@named("let all matches count")
def refuse_none(plan: Plan, drawing_id: str) -> Plan:
    """Take back what was refused and the pairs set by hand."""
    return _with(plan, replace(_drawing(plan, drawing_id), refused=(), pairs=()))


@named("tick as mended", "check", lambda *told: f"Mended on the drawing: {told[-1]}.", merges=False)
def mend(plan: Plan, drawing_id: str, plan_mm: Point, what: str) -> Plan:
    """Tick what has been put right on the paper; ``what`` is told in the logbook."""
    del what
    drawing = _drawing(plan, drawing_id)
    rest = tuple(each for each in drawing.mended if not _near(each, plan_mm))
    return _with(plan, replace(drawing, mended=(*rest, plan_mm)))


@named("take the tick off")
def unmend(plan: Plan, drawing_id: str, plan_mm: Point) -> Plan:
    """It is off after all."""
    drawing = _drawing(plan, drawing_id)
    return _with(plan, replace(drawing, mended=tuple(each for each in drawing.mended if not _near(each, plan_mm))))


def _near(one: Point, other: Point) -> bool:
    return hypot(one[0] - other[0], one[1] - other[1]) < SAME_MM


def _drawing(plan: Plan, drawing_id: str) -> OwnDrawing:
    found = next((each for each in plan.drawings if each.id == drawing_id), None)
    if found is None:
        raise PlanError("This photo of the drawing is not in the plan any more. Nothing was changed.")
    return found


def _with(plan: Plan, drawing: OwnDrawing) -> Plan:
    return replace(plan, drawings=tuple(drawing if each.id == drawing.id else each for each in plan.drawings))
