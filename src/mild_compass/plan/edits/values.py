"""Edits of the values."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

from mild_compass.plan.edits.base import current, named, with_study

if TYPE_CHECKING:
    from mild_compass.plan.model import Plan
    from mild_compass.plan.tones import DetailArea, EdgeChange, MassChange, MediumPlan, Plane, Pull, ValuePlan


def _words(plan: Plan, *_: object) -> str:
    values = current(plan).values
    how = {"even": "even thresholds", "found": "thresholds from the picture", "by hand": "thresholds by hand"}
    marks = f" at L* {', '.join(f'{mark:.0f}' for mark in values.thresholds)}" if values.method == "by hand" else ""
    detail = f", detail {values.detail:.0f} % where it counts" if values.detail else ""
    return (
        f"{values.count} values, {how[values.method]}{marks}, simplicity {values.simple:.0f} of 100{detail}, "
        f"smallest shape {values.smallest_mm2:g} mm²."
    )


def next_mass_id(plan: Plan) -> str:
    """An id no changed shape of the study carries."""
    taken = {each.id for each in current(plan).values.changes}
    return next(f"mass-{k}" for k in range(1, len(taken) + 2) if f"mass-{k}" not in taken)


def _changed_words(_: Plan, change: MassChange) -> str:
    where = "a shape" if change.kind == "shape" else "an area"
    return f"By hand: {where} becomes value {change.value + 1} of {change.of}."


@named("change a mass", "values", _changed_words, merges=False)
def change_mass(plan: Plan, change: MassChange) -> Plan:
    """Give a shape or an area another value."""
    values = current(plan).values
    return _with_values(plan, replace(values, changes=(*values.changes, change)))


@named("take back a changed mass")
def remove_mass_change(plan: Plan, change_id: str) -> Plan:
    """Let the picture decide again what was changed by hand."""
    values = current(plan).values
    return _with_values(plan, replace(values, changes=tuple(each for each in values.changes if each.id != change_id)))


def next_value_id(plan: Plan, kind: str) -> str:
    """An id that no mark of this kind ("detail", "edge" or "plane") of the study carries."""
    values = current(plan).values
    taken = {each.id for each in values.areas} | {each.id for each in values.edges}
    taken |= {each.id for each in values.planes}
    return next(f"{kind}-{k}" for k in range(1, len(taken) + 2) if f"{kind}-{k}" not in taken)


def _detail_words(_: Plan, area: DetailArea) -> str:
    return "Hold the detail in an area." if area.kind == "hold" else "Let the detail go in an area."


@named("mark where detail counts", "values", _detail_words, merges=False)
def mark_detail(plan: Plan, area: DetailArea) -> Plan:
    """Keep small shapes in an area, or only big ones."""
    values = current(plan).values
    return _with_values(plan, replace(values, areas=(*values.areas, area)))


@named("take back an area of detail")
def remove_detail(plan: Plan, area_id: str) -> Plan:
    """Let detail count there as everywhere."""
    values = current(plan).values
    return _with_values(plan, replace(values, areas=tuple(each for each in values.areas if each.id != area_id)))


@named("change an edge", "values", lambda _, change: f"An edge is to be {change.kind}.", merges=False)
def change_edge(plan: Plan, change: EdgeChange) -> Plan:
    """Want a border hard, soft or lost, whatever the photo says; a change at the same place is replaced."""
    values = current(plan).values
    others = tuple(each for each in values.edges if each.id != change.id)
    return _with_values(plan, replace(values, edges=(*others, change)))


@named("take back a changed edge")
def remove_edge_change(plan: Plan, change_id: str) -> Plan:
    """Let the photo decide again how hard a border is."""
    values = current(plan).values
    return _with_values(plan, replace(values, edges=tuple(each for each in values.edges if each.id != change_id)))


@named("set a plane", "values", lambda _, plane: f"Strokes on {plane.name or 'a plane'}: {plane.way}.")
def set_plane(plan: Plan, plane: Plane) -> Plan:
    """Say which way the strokes run on a plane, a new one or one that is there."""
    values = current(plan).values
    known = [each.id for each in values.planes]
    planes = (
        tuple(plane if each.id == plane.id else each for each in values.planes)
        if plane.id in known
        else (*values.planes, plane)
    )
    return _with_values(plan, replace(values, planes=planes))


@named("remove a plane")
def remove_plane(plan: Plan, plane_id: str) -> Plan:
    """Take a plane away."""
    values = current(plan).values
    return _with_values(plan, replace(values, planes=tuple(each for each in values.planes if each.id != plane_id)))


def _with_values(plan: Plan, values: ValuePlan) -> Plan:
    return with_study(plan, replace(current(plan), values=values))


@named("set the focus", "values", lambda *_: "Set where the eye should end.")
def set_focus(plan: Plan, focus: tuple[float, float] | None) -> Plan:
    """Say where the eye should end, or with None that it is open."""
    study = current(plan)
    return with_study(plan, replace(study, reads=replace(study.reads, focus=focus)))


@named("mark what pulls")
def set_pulls(plan: Plan, pulls: tuple[Pull, ...]) -> Plan:
    """Mark faces, figures, pointed shapes and warm colours."""
    study = current(plan)
    return with_study(plan, replace(study, reads=replace(study.reads, pulls=pulls)))


def _medium_words(plan: Plan, *_: object) -> str:
    medium = current(plan).medium
    paper = f" on paper of L* {medium.paper_value:.0f}" if medium.paper_value is not None else ""
    return f"Way of working: {medium.medium}{paper}."


@named("choose the way of working", "values", _medium_words)
def change_medium(plan: Plan, medium: MediumPlan) -> Plan:
    """Choose the medium, and the tone of a toned paper."""
    return with_study(plan, replace(current(plan), medium=medium))


@named("change the values", "values", _words)
def change_values(plan: Plan, values: ValuePlan) -> Plan:
    """Change the number of values, the thresholds or the smallest shape."""
    return with_study(plan, replace(current(plan), values=values))
