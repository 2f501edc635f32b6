"""The merging of shapes too small to be drawn."""

from __future__ import annotations

import heapq
from typing import TYPE_CHECKING

import numpy as np

from mild_compass.craft.compiled import compiled
from mild_compass.craft.values.neighbours import NONE, around, join, neighbours_of
from mild_compass.craft.values.shapes import shapes_of

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from mild_compass.craft.values.neighbours import Lengths, Neighbours, Numbers


def without_small(steps: NDArray[np.uint8], smallest_px: float) -> NDArray[np.uint8]:
    """The value map with every shape under a size given to the neighbour that shares most border.

    Ties go to the nearer value, then to the darker. The smallest shape goes first; a shape that has grown by
    taking in another is judged anew. Deterministic.
    """
    shapes = shapes_of(steps)
    if len(shapes.values) < 2:
        return steps
    owner = _merged(shapes.areas(), shapes.values, *shapes.borders(), float(smallest_px))
    return shapes.filled(shapes.values[owner].astype(np.uint8))


@compiled
def _merged(
    areas: Numbers, values: Numbers, one: Numbers, other: Numbers, lengths: Lengths, smallest_px: float
) -> Numbers:
    """Which shape each shape ends up in."""
    owner, shapes = np.arange(len(areas)), neighbours_of(one, other, lengths, len(areas))
    queue = [(areas[k], k) for k in range(len(areas)) if areas[k] < smallest_px]
    heapq.heapify(queue)
    while queue:
        area, gone = heapq.heappop(queue)
        if owner[gone] != gone or area != areas[gone] or shapes.first[gone] == NONE:
            continue
        beside = shapes.beyond[around(shapes, gone)]
        kept = _taker(shapes, values, gone)
        # The grown shape will touch shapes of its own value, all of them neighbours of the small one: they are one.
        for each in np.append(beside[(values[beside] == values[kept]) & (beside != kept)], gone)[::-1]:
            join(shapes, each, kept)
            owner[each] = kept
            areas[kept] += areas[each]
        if areas[kept] < smallest_px:
            heapq.heappush(queue, (areas[kept], kept))
    for k in range(len(owner)):
        while owner[owner[k]] != owner[k]:
            owner[k] = owner[owner[k]]
    return owner


@compiled
def _taker(shapes: Neighbours, values: Numbers, gone: int) -> int:
    """The neighbour that shares most border with a shape; of equal ones the nearer value, then the darker."""
    kept, best = NONE, (0.0, 0, 0, 0)
    for half in around(shapes, gone):
        beyond = shapes.beyond[half]
        told = (-shapes.length[half], abs(values[beyond] - values[gone]), values[beyond], beyond)
        if kept == NONE or told < best:
            kept, best = beyond, told
    return kept
