"""Hidden lines when the hand has let go: only what has to do with the things that changed is worked out anew.

What one thing hides of another stays as it is while both stand where they stood and the eye does too. The stretches
found last are kept by the thing whose edge it is, the edge's place among that thing's, and the thing that hides it.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

import numpy as np

from mild_compass.craft.stage.hidden import (
    Hiders,
    Meetings,
    Parts,
    Stretches,
    before_the_eye,
    faces_before_the_eye,
    hidden_stretches,
    meetings,
    split,
)
from mild_compass.craft.stage.scene import joined_edges, straight_edges
from mild_compass.craft.stage.screens import with_screens

if TYPE_CHECKING:
    from collections.abc import Hashable

    from numpy.typing import NDArray

    from mild_compass.craft.stage.scene import Edges, Faces, Scene
    from mild_compass.plan.stage import Stage, Thing

    Array = NDArray[np.float64]
    Numbers = NDArray[np.intp]
    Flags = NDArray[np.bool_]


@dataclass(frozen=True, eq=False, slots=True)
class _Before:
    """What was found last: of which things, seen how; ``owners`` and ``ranks`` of the edges of its stretches."""

    things: tuple[Thing, ...]
    seen_as: Hashable
    meetings: Meetings
    stretches: Stretches
    owners: Numbers
    ranks: Numbers


class _Last:
    found: _Before | None = None


def updated_visibility(stage: Stage, scene: Scene, seen_as: Hashable) -> tuple[Edges, Parts]:
    """All edges of a stage, with those where things go through one another, and which parts of them are seen.

    ``seen_as`` is what the picture depends on besides the things: while it is the same, and most things are, what was
    found last is used again.
    """
    faces = faces_before_the_eye(scene.faces)
    before = _Last.found
    now = _places_before(stage, before, seen_as)
    changed = np.append(now < 0, False)  # the last is nobody's: screens
    met = _met(faces, before, now, changed)
    own = before_the_eye(scene.edges)
    shared = before_the_eye(straight_edges(met.ends, met.first))
    hiding = Hiders.of(with_screens(stage, scene, faces))
    of_own = _stretches(own, hiding, before, now, changed)
    of_shared = hidden_stretches(shared, hiding)
    of_shared = replace(of_shared, edges=of_shared.edges + len(own))
    owners, ranks = own.things[of_own.edges], _ranks(own.things)[of_own.edges]
    _Last.found = _Before(stage.things, seen_as, met, of_own, owners, ranks)
    edges = joined_edges(own, shared)
    return edges, split(edges, [of_own, of_shared], scene.up, scene.camera.eye_m)


def forget() -> None:
    """Begin anew."""
    _Last.found = None


def _places_before(stage: Stage, before: _Before | None, seen_as: Hashable) -> Numbers:
    """Where each thing was listed before, if it has not changed since; else -1."""
    if before is None or before.seen_as != seen_as:
        return np.full(len(stage.things), -1)
    known = {id(thing): place for place, thing in enumerate(before.things)}
    return np.array([known.get(id(thing), -1) for thing in stage.things], np.intp)


def _now_of(now: Numbers, count: int) -> Numbers:
    """Of each of the things before, where it is listed now, -1 where it is not; the last is nobody's and stays so."""
    found = np.full(count + 1, -1)
    found[now[now >= 0]] = np.flatnonzero(now >= 0)
    return found


def _met(faces: Faces, before: _Before | None, now: Numbers, changed: Flags) -> Meetings:
    if before is None or changed[:-1].all():
        return meetings(faces)
    anew = meetings(faces, changed)
    old, listed = before.meetings, _now_of(now, len(before.things))
    first, second = listed[old.first], listed[old.second]
    kept = (first >= 0) & (second >= 0)
    return Meetings(
        np.concatenate([anew.ends, old.ends[kept]]),
        np.concatenate([anew.first, np.minimum(first, second)[kept]]),
        np.concatenate([anew.second, np.maximum(first, second)[kept]]),
    )


def _stretches(own: Edges, hiding: Hiders, before: _Before | None, now: Numbers, changed: Flags) -> Stretches:
    if before is None or changed[:-1].all():
        return hidden_stretches(own, hiding)
    moved = changed[own.things]
    listed = _now_of(now, len(before.things))
    owner, by = listed[before.owners], listed[before.stretches.by]
    kept = (owner >= 0) & ((by >= 0) | (before.stretches.by < 0))
    order = np.argsort(own.things, kind="stable")
    starts = np.searchsorted(own.things[order], np.arange(len(now)))
    again = Stretches(
        order[starts[owner[kept]] + before.ranks[kept]],
        before.stretches.low[kept],
        before.stretches.high[kept],
        by[kept],
    )
    found = [again]
    for edges, hiders in ((moved, hiding), (~moved, hiding.part(changed[hiding.faces.things]))):
        part = hidden_stretches(own.part(edges), hiders)
        found.append(replace(part, edges=np.flatnonzero(edges)[part.edges]))
    return Stretches(*(np.concatenate([getattr(each, name) for each in found]) for name in Stretches.__slots__))


def _ranks(things: Numbers) -> Numbers:
    """The place of each edge among those of its thing."""
    order = np.argsort(things, kind="stable")
    listed = things[order]
    found = np.empty(len(things), np.intp)
    found[order] = np.arange(len(things)) - np.searchsorted(listed, listed)
    return found
