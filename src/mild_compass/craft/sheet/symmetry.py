"""A symmetrical thing: how far its outline reaches to both sides of its axis, level by level."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np
import shapely

from mild_compass.craft.sheet.measure import lean_words

if TYPE_CHECKING:
    from mild_compass.craft.geometry.frame_map import FrameMap
    from mild_compass.plan.sheet import Symmetry

LEVELS = 9


@dataclass(frozen=True, slots=True)
class SideRow:
    """At a place along the axis: how far the outline reaches to the left and to the right of it, in mm."""

    along_mm: float
    left_mm: float
    right_mm: float
    line_mm: tuple[tuple[float, float], tuple[float, float]]

    @property
    def off_mm(self) -> float:
        """By how much the right side is wider."""
        return self.right_mm - self.left_mm


@dataclass(frozen=True, slots=True)
class Sides:
    """How the axis leans, and the rows from its upper end down."""

    lean: str
    rows: tuple[SideRow, ...]

    @property
    def worst(self) -> SideRow | None:
        """Where the sides differ most."""
        return max(self.rows, key=lambda row: abs(row.off_mm), default=None)

    @property
    def mean_off_mm(self) -> float:
        """By how much the right side is wider on the whole."""
        return sum(row.off_mm for row in self.rows) / len(self.rows) if self.rows else 0.0


def compared_sides(symmetry: Symmetry, frame_map: FrameMap) -> Sides:
    """Both sides of the outline at LEVELS places along the axis; left and right as the axis is seen upright."""
    axis = frame_map.to_sheet(symmetry.axis)
    top, foot = sorted(axis.tolist(), key=lambda point: (point[1], point[0]))
    way = np.array(foot) - top
    lean = lean_words(*way.tolist())
    if not symmetry.outline:
        return Sides(lean, ())
    way = way / np.hypot(*way)
    right = np.array([way[1], -way[0]])
    outline = frame_map.to_sheet(symmetry.outline)
    shape = shapely.make_valid(shapely.Polygon(outline))
    along = (outline - top) @ way
    reach = float(np.abs(outline - top).sum())
    rows = []
    for share in (np.arange(LEVELS) + 0.5) / LEVELS:
        at = float(along.min() + share * np.ptp(along))
        middle = top + at * way
        row = _row(shape, middle, right, reach, at)
        if row is not None:
            rows.append(row)
    return Sides(lean, tuple(rows))


def _row(shape: shapely.Geometry, middle: np.ndarray, right: np.ndarray, reach: float, at: float) -> SideRow | None:
    cut = shapely.intersection(shape, shapely.LineString([middle - reach * right, middle + reach * right]))
    if cut.is_empty:
        return None
    places = (shapely.get_coordinates(cut) - middle) @ right
    low, high = float(places.min()), float(places.max())
    (x0, y0), (x1, y1) = (middle + low * right).tolist(), (middle + high * right).tolist()
    return SideRow(at, -low, high, ((x0, y0), (x1, y1)))
