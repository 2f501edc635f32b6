"""Outlines of masses as shared borders: neighbours never gap or overlap."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np
import shapely

from mild_compass.craft.values.merging import shapes_of

if TYPE_CHECKING:
    from numpy.typing import NDArray


@dataclass(frozen=True, eq=False, slots=True)
class MassShapes:
    """Polygons that tile the frame (shapely, in pixels of the value map), the value of each, and their borders."""

    polygons: NDArray[np.object_]
    values: NDArray[np.int64]
    borders: tuple[NDArray[np.float64], ...]


def mass_shapes(steps: NDArray[np.uint8], tolerance_px: float) -> MassShapes:
    """Trace a value map (h, w) along pixel sides and simplify every shared border once.

    Borders are chained from junction to junction; shapely's coverage simplification moves both neighbours together.
    Every pixel belongs to exactly one polygon and the areas add up to h·w.
    """
    labels, values = shapes_of(steps)
    rough = _traced(labels)
    owners = labels[tuple(_inside(rough).T)]
    order = np.argsort(owners, kind="stable")
    polygons, owners = rough[order], owners[order]
    if len(polygons) > 1 and tolerance_px > 0:
        polygons = shapely.coverage_simplify(polygons, tolerance_px, simplify_boundary=False)
    return MassShapes(polygons, values[owners], _inner_borders(polygons))


def _sides(labels: NDArray[np.int32]) -> NDArray[np.float64]:
    """Straight runs of pixel sides between different labels, and round the picture, as segments (n, 2, 2).

    A run ends where the border turns or where more than two borders meet.
    """
    padded = np.pad(labels, 1, constant_values=-1)
    level = padded[1:, 1:-1] != padded[:-1, 1:-1]
    upright = padded[1:-1, 1:] != padded[1:-1, :-1]
    degree = np.zeros((labels.shape[0] + 1, labels.shape[1] + 1), np.int8)
    degree[:, :-1] += level
    degree[:, 1:] += level
    degree[:-1] += upright
    degree[1:] += upright
    across = _runs(level, degree == 2)
    down = _runs(upright.T, degree.T == 2)[..., ::-1]
    return np.concatenate([across, down])


def _runs(sides: NDArray[np.bool_], plain: NDArray[np.bool_]) -> NDArray[np.float64]:
    """Runs along the rows: sides (m, n) lie between vertices (m, n + 1), which they pass where these are plain."""
    blank = np.zeros((sides.shape[0], 1), bool)
    before, after = np.hstack([blank, sides]), np.hstack([sides, blank])
    through = before & after & plain
    start_rows, starts = np.nonzero(after & ~through)
    end_rows, stops = np.nonzero(before & ~through)
    return np.stack([np.stack([starts, start_rows], -1), np.stack([stops, end_rows], -1)], 1).astype(np.float64)


def _traced(labels: NDArray[np.int32]) -> NDArray[np.object_]:
    """The faces enclosed by the pixel sides."""
    sides = shapely.linestrings(_sides(labels))
    chains = shapely.line_merge(shapely.multilinestrings(sides))
    return np.asarray(shapely.get_parts(shapely.polygonize(shapely.get_parts(chains))))


def _inside(polygons: NDArray[np.object_]) -> NDArray[np.intp]:
    """Row and column of one pixel inside each face: the one well inside it."""
    points = shapely.get_coordinates(shapely.point_on_surface(polygons))
    return np.asarray(np.floor(points[:, ::-1]), np.intp)


def _inner_borders(polygons: NDArray[np.object_]) -> tuple[NDArray[np.float64], ...]:
    """Every border between two masses once: the segments that two polygons share, chained."""
    rings = shapely.get_rings(polygons)
    points, ring_of = shapely.get_coordinates(rings, return_index=True)
    same_ring = ring_of[1:] == ring_of[:-1]
    segments = np.stack([points[:-1][same_ring], points[1:][same_ring]], 1)
    backwards = (segments[:, 0, 0] > segments[:, 1, 0]) | (
        (segments[:, 0, 0] == segments[:, 1, 0]) & (segments[:, 0, 1] > segments[:, 1, 1])
    )
    segments[backwards] = segments[backwards, ::-1]
    unique, counts = np.unique(segments.reshape(-1, 4), axis=0, return_counts=True)
    shared = unique[counts > 1].reshape(-1, 2, 2)
    if not len(shared):
        return ()
    chains = shapely.get_parts(shapely.line_merge(shapely.multilinestrings(shapely.linestrings(shared))))
    return tuple(shapely.get_coordinates(chain) for chain in chains)
