"""Edits of the armature."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

from mild_compass.plan.edits.base import current, named, with_study
from mild_compass.plan.errors import PlanError
from mild_compass.plan.structure import MOST_LINES

if TYPE_CHECKING:
    from mild_compass.plan.model import Plan
    from mild_compass.plan.pictures import Point
    from mild_compass.plan.structure import BigLine, Construction, KeyPoint, LineStyle, OwnLine, Structure, ThemeEnd
    from mild_compass.plan.study import School

# What each school draws; "no grid" looks first and judges with the 14 lines afterwards.
SCHOOL_ARMATURE: dict[School, tuple[Construction, ...]] = {
    "thirds": ("thirds",),
    "armature": ("fourteen",),
    "dynamic symmetry": ("reciprocals",),
    "quarters and cross": ("quarters",),
    "no grid": (),
}


def _words(plan: Plan, *_: object) -> str:
    chosen = current(plan).armature
    return f"Armature: {', '.join(chosen) if chosen else 'none'}."


def _changed(plan: Plan, **changes: object) -> Plan:
    study = current(plan)
    structure: Structure = replace(study.structure, **changes)  # type: ignore[arg-type]
    return with_study(plan, replace(study, structure=structure))


@named("choose armature", "armature", _words)
def choose_armature(plan: Plan, constructions: tuple[Construction, ...]) -> Plan:
    """Choose the constructions drawn in the frame."""
    return with_study(plan, replace(current(plan), armature=constructions))


@named("follow a school", "armature", lambda plan, *_: f"Follows the school: {current(plan).school}.")
def follow_school(plan: Plan, school: School) -> Plan:
    """Choose a school: what it draws, and which readings speak."""
    return with_study(plan, replace(current(plan), school=school, armature=SCHOOL_ARMATURE[school]))


@named("change how a line is drawn")
def style_construction(plan: Plan, style: LineStyle) -> Plan:
    """Choose ink and weight of a construction."""
    rest = tuple(each for each in current(plan).structure.styles if each.construction != style.construction)
    return _changed(plan, styles=(*rest, style))


@named("place the themes")
def place_themes(plan: Plan, end: ThemeEnd, nested: int) -> Plan:
    """Choose at which end themes and the rabatment lie, and how deep themes are nested."""
    return _changed(plan, theme_end=end, nested=nested)


@named("add a line to the armature", merges=False)
def add_own_lines(plan: Plan, lines: tuple[OwnLine, ...]) -> Plan:
    """Add lines of the artist's own; those that are there already are passed over."""
    own = current(plan).structure.own
    return _changed(plan, own=(*own, *(line for line in lines if line not in own)))


@named("remove a line of the armature", merges=False)
def remove_own_line(plan: Plan, index: int) -> Plan:
    """Take a line of the artist's own off."""
    own = current(plan).structure.own
    return _changed(plan, own=(*own[:index], *own[index + 1 :]))


@named("trace a big line", merges=False)
def add_big_line(plan: Plan, line: BigLine) -> Plan:
    """Add a traced line to the picture's big lines."""
    return _changed(plan, lines=(*current(plan).structure.lines, line))


@named("take found lines", "armature", lambda plan, *_: f"{len(current(plan).structure.lines)} big lines.")
def take_found_lines(plan: Plan, found: tuple[BigLine, ...]) -> Plan:
    """Take lines found in the picture; lines that carry a name stay.

    Raises:
        PlanError: nothing was found.
    """
    kept = tuple(line for line in current(plan).structure.lines if line.name)
    if not found:
        raise PlanError("No long straight edge was found in this picture. Trace the big lines by hand.")
    return _changed(plan, lines=(*kept, *found)[:MOST_LINES])


@named("change a big line")
def change_big_line(plan: Plan, index: int, line: BigLine | None) -> Plan:
    """Replace a big line, or with None take it off."""
    lines = current(plan).structure.lines
    put = () if line is None else (line,)
    return _changed(plan, lines=(*lines[:index], *put, *lines[index + 1 :]))


@named("mark a key point", merges=False)
def add_key_point(plan: Plan, point: KeyPoint) -> Plan:
    """Mark a place the picture hangs on."""
    return _changed(plan, points=(*current(plan).structure.points, point))


@named("change a key point")
def change_key_point(plan: Plan, index: int, point: KeyPoint | None) -> Plan:
    """Replace a key point, or with None take it off."""
    points = current(plan).structure.points
    put = () if point is None else (point,)
    return _changed(plan, points=(*points[:index], *put, *points[index + 1 :]))


@named("clear the big lines", merges=False)
def clear_lines(plan: Plan) -> Plan:
    """Take all big lines and key points off."""
    return _changed(plan, lines=(), points=())


@named("set the tolerance")
def set_tolerance(plan: Plan, near_share: float, angle_deg: float) -> Plan:
    """Set within what a line locks: a share of the frame's diagonal, and degrees."""
    return _changed(plan, near_share=near_share, angle_deg=angle_deg)


@named("draw the eye's path", "armature", lambda *_: "Drew how the eye should travel.")
def draw_eye_path(plan: Plan, points: tuple[Point, ...]) -> Plan:
    """Draw the eye's path, from entry to rest; an empty one takes it off."""
    return _changed(plan, eye_path=points)
