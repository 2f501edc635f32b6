"""Pairs of regions of one label across a thin strip: what joining them would save of the energy."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np
import shapely

from mild_compass.craft.memo import Memo
from mild_compass.craft.values.by_hand import filled
from mild_compass.craft.values.merging import without_small
from mild_compass.craft.values.shapes import shapes_of

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from mild_compass.craft.values.masses import Masses

    Array = NDArray[np.float64]

STRIP_MM = 7.0  # a wider gap is a shape of its own
TRIED = 6
OFFERED = 3
LEAST_SHARE = 0.004  # of the picture: crumbs are not worth a bridge
OVER_PX = 1.0  # the bridge reaches so far into both shapes


@dataclass(frozen=True, eq=False, slots=True)
class Join:
    """Two shapes of one value and the strip between them (n, 2), in pixels of the value map; how many shapes there are
    then, and what it costs of the fit, in L*² · px."""

    value: int
    pair: tuple[int, int]
    strip: Array
    shapes: int
    loss: float


_JOINS: Memo[tuple[Join, ...]] = Memo(3)


def joins_of(masses: Masses, smallest_mm2: float) -> tuple[Join, ...]:
    """The joins worth offering, best first: most shapes saved for the least of the picture lost."""
    return _JOINS.of(masses, smallest_mm2, lambda: _found(masses, smallest_mm2))


def _found(masses: Masses, smallest_mm2: float) -> tuple[Join, ...]:
    now = sum(masses.counts)
    smallest_px = smallest_mm2 / masses.mm_per_step_px**2
    found = []
    for first, second in _pairs(masses):
        strip = _strip(masses, first, second)
        if strip is None:
            continue
        value = int(masses.shapes.values[first])
        mask = filled(strip, masses.steps.shape)
        inside = mask & (masses.steps != value)
        if not inside.any():
            continue
        steps = without_small(np.where(mask, np.uint8(value), masses.steps), smallest_px)
        count = len(shapes_of(steps).values)
        if count >= now:
            continue
        values = masses.lightness[inside].astype(np.float64)
        shown = np.array(masses.shown)
        loss = float(((values - shown[value]) ** 2 - (values - shown[masses.steps[inside]]) ** 2).sum())
        found.append(Join(value, (first, second), strip, count, loss))
    found.sort(key=lambda join: (max(join.loss, 0.0) + 1.0) / (now - join.shapes))
    return tuple(found[:OFFERED])


def _pairs(masses: Masses) -> list[tuple[int, int]]:
    """Pairs of shapes of one value that lie near each other and are no crumbs, the nearest first."""
    polygons, values = masses.shapes.polygons, masses.shapes.values
    large = np.flatnonzero(shapely.area(polygons) >= LEAST_SHARE * masses.steps.size)
    reach = STRIP_MM / masses.mm_per_step_px
    one, other = shapely.STRtree(polygons[large]).query(polygons[large], "dwithin", reach)
    one, other = large[one], large[other]
    same = (one < other) & (values[one] == values[other])
    one, other = one[same], other[same]
    apart = shapely.distance(polygons[one], polygons[other])
    order = np.argsort(apart, kind="stable")[:TRIED]
    return [(int(one[k]), int(other[k])) for k in order]


def _strip(masses: Masses, first: int, second: int) -> Array | None:
    """What lies between two shapes where they are nearly as near as they come, as one outline."""
    a, b = masses.shapes.polygons[first], masses.shapes.polygons[second]
    gap = float(shapely.distance(a, b))
    reach = min(1.6 * gap + 1.0, STRIP_MM / masses.mm_per_step_px)
    between = shapely.intersection(shapely.buffer(a, reach), shapely.buffer(b, reach))
    parts = [each for each in shapely.get_parts(between) if shapely.get_type_id(each) == 3]
    touching = [
        each
        for each in parts
        if shapely.intersects(each, shapely.buffer(a, OVER_PX)) and shapely.intersects(each, shapely.buffer(b, OVER_PX))
    ]
    if not touching:
        return None
    largest = max(touching, key=lambda each: float(each.area))
    outline = shapely.simplify(shapely.Polygon(largest.exterior), 0.5)
    points = shapely.get_coordinates(outline)[:-1]
    return points if len(points) >= 3 else None
