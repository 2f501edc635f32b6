"""Edits of the perspective: traced edges, their sets, the horizon."""

from __future__ import annotations

from dataclasses import replace
from string import ascii_uppercase
from typing import TYPE_CHECKING

from mild_compass.plan.edits.base import current, named, with_study
from mild_compass.plan.errors import PlanError
from mild_compass.plan.guides import FocalSource, Guide, Light
from mild_compass.plan.model import Plan
from mild_compass.plan.perspective import EdgeSet, Horizon, PerspectivePlan, SetKind, TracedEdge
from mild_compass.plan.study import Study

if TYPE_CHECKING:
    from collections.abc import Callable


def _traced_words(plan: Plan, *_: object) -> str:
    sets = current(plan).perspective.sets
    return "Traced edges: " + ", ".join(f"{len(each.edges)} in set {each.letter}" for each in sets) + "."


def _horizon_words(plan: Plan, *_: object) -> str:
    horizon = current(plan).perspective.horizon
    return "Horizon set by hand." if horizon else "Horizon laid through the vanishing points."


def _changed(plan: Plan, perspective: PerspectivePlan) -> Plan:
    return with_study(plan, replace(current(plan), perspective=perspective))


def _with_set(perspective: PerspectivePlan, changed: EdgeSet) -> PerspectivePlan:
    return replace(
        perspective, sets=tuple(changed if old.letter == changed.letter else old for old in perspective.sets)
    )


def set_of(perspective: PerspectivePlan, letter: str) -> EdgeSet:
    """The set with this letter, or a PlanError.

    Raises:
        PlanError: no set has this letter.
    """
    found = next((each for each in perspective.sets if each.letter == letter), None)
    if found is None:
        raise PlanError(f"There is no set {letter}. Start it first.")
    return found


def next_letter(perspective: PerspectivePlan) -> str:
    """The first letter no set carries yet.

    Raises:
        PlanError: all letters are in use.
    """
    used = {each.letter for each in perspective.sets}
    free = next((letter for letter in ascii_uppercase if letter not in used), None)
    if free is None:
        raise PlanError("All 26 letters are in use. Remove a set before starting another.")
    return free


@named("trace an edge", "perspective", _traced_words)
def trace_edge(plan: Plan, letter: str, edge: TracedEdge) -> Plan:
    """Add a traced edge to a set, starting the set if it is new."""
    perspective = current(plan).perspective
    if all(each.letter != letter for each in perspective.sets):
        return _changed(plan, replace(perspective, sets=(*perspective.sets, EdgeSet(letter, edges=(edge,)))))
    old = set_of(perspective, letter)
    return _changed(plan, _with_set(perspective, replace(old, edges=(*old.edges, edge))))


@named("move an edge", "perspective", _traced_words)
def move_edge(plan: Plan, letter: str, index: int, edge: TracedEdge) -> Plan:
    """Put a traced edge elsewhere."""
    old = set_of(current(plan).perspective, letter)
    edges = (*old.edges[:index], edge, *old.edges[index + 1 :])
    return _changed(plan, _with_set(current(plan).perspective, replace(old, edges=edges)))


@named("remove an edge", "perspective", _traced_words)
def remove_edge(plan: Plan, letter: str, index: int) -> Plan:
    """Remove a traced edge; a set left empty goes with it."""
    perspective = current(plan).perspective
    old = set_of(perspective, letter)
    edges = (*old.edges[:index], *old.edges[index + 1 :])
    if edges:
        return _changed(plan, _with_set(perspective, replace(old, edges=edges)))
    return _changed(plan, replace(perspective, sets=tuple(each for each in perspective.sets if each != old)))


@named("say what a set is")
def set_kind(plan: Plan, letter: str, kind: SetKind) -> Plan:
    """Say whether a set's edges are level, upright or free in the world."""
    old = set_of(current(plan).perspective, letter)
    return _changed(plan, _with_set(current(plan).perspective, replace(old, kind=kind)))


@named("set the horizon", "perspective", _horizon_words)
def set_horizon(plan: Plan, horizon: Horizon | None) -> Plan:
    """Set the horizon by hand, or with None lay it through the vanishing points."""
    return _changed(plan, replace(current(plan).perspective, horizon=horizon))


def _eye_words(plan: Plan, *_: object) -> str:
    return f"Eye height {current(plan).perspective.eye_m:g} m."


@named("set the eye height", "perspective", _eye_words)
def set_eye(plan: Plan, eye_m: float) -> Plan:
    """Say how high the artist's eye was above the ground."""
    return _changed(plan, replace(current(plan).perspective, eye_m=eye_m))


@named("set horizon and eye height", "perspective", _eye_words)
def set_horizon_and_eye(plan: Plan, horizon: Horizon, eye_m: float) -> Plan:
    """Both at once, as two things of known height tell them."""
    return _changed(plan, replace(current(plan).perspective, horizon=horizon, eye_m=eye_m))


@named("choose the focal length")
def set_focal(plan: Plan, source: FocalSource, focal_px: float = 0.0) -> Plan:
    """Choose which focal length counts: found from the edges, told by the photo, or set by hand."""
    return _changed(plan, replace(current(plan).perspective, focal=source, focal_px=focal_px))


@named("take suggested edges", "perspective", _traced_words)
def take_sets(plan: Plan, sets: tuple[tuple[SetKind, tuple[TracedEdge, ...], str], ...]) -> Plan:
    """Add whole sets of edges, each to the set of its letter, or without one under the next free letter."""
    perspective = current(plan).perspective
    for kind, edges, letter in sets:
        old = next((each for each in perspective.sets if each.letter == letter), None)
        if old is None:
            fresh = EdgeSet(next_letter(perspective), kind, edges)
            perspective = replace(perspective, sets=(*perspective.sets, fresh))
        else:
            more = tuple(edge for edge in edges if edge not in old.edges)
            perspective = _with_set(perspective, replace(old, edges=(*old.edges, *more)))
    return _changed(plan, perspective)


def next_guide_id(plan: Plan) -> str:
    """An id no guide of the study carries."""
    used = {guide.id for guide in current(plan).perspective.guides}
    return next(f"g{k}" for k in range(1, len(used) + 2) if f"g{k}" not in used)


@named("add a guide", "perspective", lambda _, guide: f"Added a guide: {guide.name or guide.kind}.", merges=False)
def add_guide(plan: Plan, guide: Guide) -> Plan:
    """Add a guide."""
    perspective = current(plan).perspective
    return _changed(plan, replace(perspective, guides=(*perspective.guides, guide)))


@named("change a guide")
def change_guide(plan: Plan, guide: Guide) -> Plan:
    """Replace the guide of the same id.

    Raises:
        PlanError: no guide has this id.
    """
    perspective = current(plan).perspective
    if all(each.id != guide.id for each in perspective.guides):
        raise PlanError("This guide is not in the plan any more. Nothing was changed.")
    guides = tuple(guide if each.id == guide.id else each for each in perspective.guides)
    return _changed(plan, replace(perspective, guides=guides))


@named("remove a guide", merges=False)
def remove_guide(plan: Plan, guide_id: str) -> Plan:
    """Take a guide off."""
    perspective = current(plan).perspective
    return _changed(
        plan, replace(perspective, guides=tuple(each for each in perspective.guides if each.id != guide_id))
    )


@named("set the light")
def set_light(plan: Plan, light: Light) -> Plan:
    """Say where the light comes from."""
    return _changed(plan, replace(current(plan).perspective, light=light))


@named("set the water")
def set_water(plan: Plan, water_m: float | None) -> Plan:
    """Say how high the water lies, in metres against the ground; None for no water."""
    return _changed(plan, replace(current(plan).perspective, water_m=water_m))


def _lens_words(plan: Plan, *_: object) -> str:
    lens = current(plan).perspective.lens
    return "Straightened the picture." if not lens.plain else "Took the photo as it is, unstraightened."


@named("straighten the picture", "perspective", _lens_words)
def put_straightened(plan: Plan, study_id: str, moved: Callable[[], Study]) -> Plan:
    """Put a study whose lens has been changed and whose marks have all been moved along with the picture.

    It is made when it is put: a reading that offers it costs nothing.

    Raises:
        PlanError: another study is being worked on.
    """
    if study_id != current(plan).id:
        raise PlanError("This study is not being worked on any more. Nothing was changed.")
    return with_study(plan, moved())
