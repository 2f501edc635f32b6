"""Edits of the perspective: traced edges, their sets, the horizon."""

from __future__ import annotations

from dataclasses import replace
from string import ascii_uppercase

from mild_compass.plan.edits.base import current, named, with_study
from mild_compass.plan.errors import PlanError
from mild_compass.plan.model import EdgeSet, Horizon, PerspectivePlan, Plan, SetKind, TracedEdge


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
    """The set with this letter, or a PlanError."""
    found = next((each for each in perspective.sets if each.letter == letter), None)
    if found is None:
        raise PlanError(f"There is no set {letter}. Start it first.")
    return found


def next_letter(perspective: PerspectivePlan) -> str:
    """The first letter no set carries yet."""
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
