"""A study moved along with its picture when that is straightened: every mark stays on what it marks."""

from __future__ import annotations

from dataclasses import replace
from math import atan2, degrees, radians, tan
from typing import TYPE_CHECKING, TypeVar

import numpy as np

from mild_compass.craft.perspective.lens import keystone, original_points, straightened_points
from mild_compass.craft.perspective.worked import centre_of, work_out
from mild_compass.plan.edits.perspective import put_straightened
from mild_compass.plan.errors import PlanError
from mild_compass.plan.guides import Lens
from mild_compass.plan.model import Departure, Horizon, KeepArea, Ring, TracedEdge
from mild_compass.plan.sheet import BlockShape, Datum, MeasuredLength, MeasuredPoint
from mild_compass.plan.structure import BigLine, KeyPoint
from mild_compass.plan.tones import Pull

if TYPE_CHECKING:
    from collections.abc import Iterable

    from mild_compass.plan.edits.base import Edit
    from mild_compass.plan.model import Ground, Point, Study
    from mild_compass.plan.sheet import MeasurePlan


Edge = TypeVar("Edge", TracedEdge, BigLine, MeasuredLength)
Thing = TypeVar("Thing", Ring, KeyPoint, Departure, Pull, Datum, MeasuredPoint, BlockShape)
REACH_PX = 500.0  # either side, for the direction of a line


class _Mover:
    """Takes points from one straightening of a photo to another."""

    def __init__(self, old: Lens, new: Lens, photo: Ground) -> None:
        self._old, self._new, self._centre = old, new, centre_of(photo)

    def points(self, points: Iterable[Point]) -> tuple[Point, ...]:
        given = np.array(list(points), np.float64).reshape(-1, 2)
        if not len(given):
            return ()
        taken = original_points(given, self._old, self._centre)
        moved = straightened_points(taken, self._new, self._centre)
        return tuple((float(x), float(y)) for x, y in moved)


def straightened(study: Study, photo: Ground, lens: Lens) -> Edit:
    """The edit that gives a study another lens and moves all its marks along; the frame stays where it is."""
    move = _Mover(study.perspective.lens, lens, photo)
    old, structure = study.perspective, study.structure
    perspective = replace(
        old,
        lens=lens,
        sets=tuple(replace(each, edges=_edges(each.edges, move)) for each in old.sets),
        guides=tuple(replace(guide, points=move.points(guide.points)) for guide in old.guides),
        horizon=None if old.horizon is None else _horizon(old.horizon, move),
    )
    structure = replace(
        structure,
        lines=_edges(structure.lines, move),
        points=_places(structure.points, move),
        eye_path=move.points(structure.eye_path),
    )
    departures = _places(study.departures, move)
    reads, changes = study.reads, study.values.changes
    focus = move.points([reads.focus])[0] if reads.focus is not None else None
    return put_straightened(
        replace(
            study,
            perspective=perspective,
            structure=structure,
            rings=_places(study.rings, move),
            reads=replace(reads, focus=focus, pulls=_places(reads.pulls, move)),
            values=replace(
                study.values, changes=tuple(replace(each, points=move.points(each.points)) for each in changes)
            ),
            keep=tuple(_keep(area, move) for area in study.keep),
            measures=_measures(study.measures, move),
            shapes=_places(study.shapes, move),
            departures=tuple(
                each if each.kind == "borrow" else replace(each, points=move.points(each.points)) for each in departures
            ),
        )
    )


def _measures(plan: MeasurePlan, move: _Mover) -> MeasurePlan:
    symmetry = plan.symmetry
    if symmetry is not None:
        first, last = move.points(symmetry.axis)
        symmetry = replace(symmetry, axis=(first, last), outline=move.points(symmetry.outline))
    return replace(
        plan,
        datums=_places(plan.datums, move),
        points=_places(plan.points, move),
        lengths=_edges(plan.lengths, move),
        negatives=tuple(replace(each, points=move.points(each.points)) for each in plan.negatives),
        symmetry=symmetry,
    )


def _edges(edges: tuple[Edge, ...], move: _Mover) -> tuple[Edge, ...]:
    """Things with two ends, moved along."""
    starts = move.points([(each.x0_px, each.y0_px) for each in edges])
    finishes = move.points([(each.x1_px, each.y1_px) for each in edges])
    return tuple(
        replace(each, x0_px=a[0], y0_px=a[1], x1_px=b[0], y1_px=b[1])
        for each, a, b in zip(edges, starts, finishes, strict=True)
    )


def _places(things: tuple[Thing, ...], move: _Mover) -> tuple[Thing, ...]:
    """Things with one place, moved along; their size stays."""
    places = move.points([(each.x_px, each.y_px) for each in things])
    return tuple(replace(each, x_px=x, y_px=y) for each, (x, y) in zip(things, places, strict=True))


def _keep(area: KeepArea, move: _Mover) -> KeepArea:
    corners = move.points([(x, y) for x in (area.left_px, area.right_px) for y in (area.top_px, area.bottom_px)])
    xs, ys = zip(*corners, strict=True)
    return replace(area, left_px=min(xs), top_px=min(ys), right_px=max(xs), bottom_px=max(ys))


def _horizon(horizon: Horizon, move: _Mover) -> Horizon:
    rise = REACH_PX * tan(radians(horizon.tilt_deg))
    (x0, y0), (x1, y1) = move.points(
        [(horizon.x_px - REACH_PX, horizon.y_px - rise), (horizon.x_px + REACH_PX, horizon.y_px + rise)]
    )
    tilt = degrees(atan2(y1 - y0, x1 - x0))
    return Horizon((y0 + y1) / 2, max(-45.0, min(45.0, tilt)), (x0 + x1) / 2)


def uprights_lens(study: Study, photo: Ground) -> Lens:
    """The lens that makes the traced uprights upright; a PlanError says what is missing.

    Raises:
        PlanError: no uprights are traced, or they do not tell the lens.
    """
    worked = work_out(study.perspective, photo)
    kinds = {each.letter: each.kind for each in study.perspective.sets}
    upright = next((point for point in worked.points if kinds[point.letter] == "upright"), None)
    if upright is None:
        raise PlanError("Trace two uprights first, as a set of their own, and say that the set is upright.")
    lens = study.perspective.lens
    focal = worked.focals[0].px if worked.focals else max(photo.width_px, photo.height_px) * 0.78
    turn = keystone(upright.homogeneous, focal, centre_of(photo))
    if lens.turn != (0.0, 0.0, 0.0):
        turn = _after(lens.turn, turn)
    if max(map(abs, turn)) > 0.7:
        raise PlanError(
            "These uprights lean so much that straightening them would tear the picture. It stays as it is."
        )
    return Lens(lens.k1, turn, focal if lens.plain else lens.focal_px)


def _after(first: tuple[float, float, float], second: tuple[float, float, float]) -> tuple[float, float, float]:
    """One rotation after another, as a rotation vector."""
    import cv2

    both = cv2.Rodrigues(np.array(second))[0] @ cv2.Rodrigues(np.array(first))[0]
    x, y, z = cv2.Rodrigues(both)[0].ravel().tolist()
    return x, y, z
