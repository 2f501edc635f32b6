"""Outlines of masses as shared curves: neighbours have the same border to the bit, so nothing gaps or overlaps."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np
import shapely

from mild_compass.craft.checkpoint import checkpoint
from mild_compass.craft.values.curves import Curves
from mild_compass.craft.values.shapes import shapes_of
from mild_compass.craft.values.tracing import OUTSIDE, Chains, Crossing, chains_of_labels, strokes_of

if TYPE_CHECKING:
    from numpy.typing import NDArray

    Array = NDArray[np.float64]
    Numbers = NDArray[np.int64]

HOLDS = (1.0, 0.5, 0.2, 0.0)  # how much of its curve a border keeps that would cross another, and again


@dataclass(frozen=True, eq=False, slots=True)
class Lines:
    """Lines one after another: line k holds points (n, 2) from ``first[k]`` to ``first[k + 1]``, and has ``beside[k]``
    (m, 2) to its left and right, OUTSIDE beyond the picture."""

    points: Array
    first: Numbers
    beside: Numbers


@dataclass(frozen=True, eq=False, slots=True)
class MassShapes:
    """Polygons that tile the frame (shapely, in pixels of the value map), the value of each, and their borders once:
    with the numbers (m, 2) of the polygons to the left and right of each. ``lines`` are the same and those at the
    picture's edge."""

    polygons: NDArray[np.object_]
    values: NDArray[np.int64]
    borders: tuple[Array, ...]
    beside: Numbers
    lines: Lines


def mass_shapes(steps: NDArray[np.uint8], rounding_px: float, crossing: Crossing | None = None) -> MassShapes:
    """Trace a value map (h, w) along pixel sides and draw every shared border once, as a curve.

    ``crossing`` tells where between two pixels the picture itself passes from the one value to the other.

    A border leaves the pixels' by at most half of ``rounding_px``; with 0 it stays on them. Every pixel belongs to
    exactly one polygon and the areas add up to h·w.
    """
    labels, values = shapes_of(steps)
    chains = chains_of_labels(labels, crossing if rounding_px > 0 else None)
    size = (labels.shape[1], labels.shape[0])
    curves = Curves(chains, strokes_of(chains, size), rounding_px)
    checkpoint()
    lines, faces, owner = _settled(chains, curves, len(values))
    polygons = np.empty(len(values), object)
    polygons[owner] = faces
    points, first = shapely.get_coordinates(lines), np.cumsum([0, *shapely.get_num_coordinates(lines)])
    beside = np.stack([chains.left, chains.right], 1)
    inner = np.flatnonzero((beside != OUTSIDE).all(1))
    borders = tuple(points[first[k] : first[k + 1]] for k in inner.tolist())
    return MassShapes(polygons, values, borders, beside[inner], Lines(points, first, beside))


def _settled(chains: Chains, curves: Curves, count: int) -> tuple[NDArray[np.object_], NDArray[np.object_], Numbers]:
    """The borders, the faces between them and whose these are; what would cross is held nearer to its pixels."""
    last = len(HOLDS) - 1
    held = np.full(len(chains), 0 if curves.round else last, np.int64)
    while True:
        lines = curves.lines(np.array(HOLDS)[held])
        wrong = _crossing(lines)
        if not len(wrong):
            faces, owner, wrong = _faces(chains, lines)
            if not len(wrong) and len(faces) == count:
                return lines, faces, owner
        if not len(wrong) or (held[wrong] == last).all():
            if (held == last).all():
                raise AssertionError("pixel borders do not close")
            wrong = np.arange(len(chains))
        held[wrong] = np.minimum(held[wrong] + 1, last)


def _crossing(lines: NDArray[np.object_]) -> Numbers:
    """Lines that cross themselves or another."""
    wrong = np.flatnonzero(~shapely.is_simple(lines))
    one, other = shapely.STRtree(lines).query(lines)
    once = one < other
    one, other = one[once], other[once]
    across = shapely.crosses(lines[one], lines[other])
    one, other = one[across], other[across]
    # Of two rings that hang on one junction it is also said that they cross there.
    rings = shapely.is_closed(lines)
    start = shapely.get_point(lines, 0)
    hang = rings[one] & rings[other] & shapely.equals(start[one], start[other])
    return np.unique(np.concatenate([wrong, one[~hang], other[~hang]])).astype(np.int64)


def _faces(chains: Chains, lines: NDArray[np.object_]) -> tuple[NDArray[np.object_], Numbers, Numbers]:
    """The polygons between lines, the label of each, and the lines on whose one side two labels would lie."""
    faces = np.asarray(shapely.get_parts(shapely.polygonize(lines)))
    points, which = shapely.get_coordinates(lines, return_index=True)
    same = which[1:] == which[:-1]
    start, end, of = points[:-1][same], points[1:][same], which[:-1][same]
    told = np.concatenate([_mixed(start, end), _mixed(end, start)])
    order = np.argsort(told)
    labels = np.concatenate([chains.left[of], chains.right[of]])
    # Rings run with their face to the left as one sees it, y down, like the chains: shells clockwise in numbers.
    rings, face_of = shapely.get_rings(faces, return_index=True)
    shell = np.concatenate([[True], face_of[1:] != face_of[:-1]])
    turned = shapely.is_ccw(rings) == shell
    rings = np.where(turned, shapely.reverse(rings), rings)
    around, ring_of = shapely.get_coordinates(rings, return_index=True)
    inside = ring_of[1:] == ring_of[:-1]
    wanted = _mixed(around[:-1][inside], around[1:][inside])
    found = order[np.minimum(np.searchsorted(told, wanted, sorter=order), len(order) - 1)]
    face = face_of[ring_of[:-1][inside]]
    label = labels[found]
    first = np.concatenate([[True], face[1:] != face[:-1]])
    owner = label[first].astype(np.int64)
    wrong = np.unique(np.concatenate([of, of])[found[label != owner[face]]])
    return faces, owner, wrong.astype(np.int64)


def _mixed(start: Array, end: Array) -> NDArray[np.uint64]:
    """One number for each directed segment, from the bits of its four coordinates."""
    found = np.zeros(len(start), np.uint64)
    factors = (0x9E3779B97F4A7C15, 0xC2B2AE3D27D4EB4F, 0x165667B19E3779F9, 0x27D4EB2F165667C5)
    with np.errstate(over="ignore"):
        for value, factor in zip((start[:, 0], start[:, 1], end[:, 0], end[:, 1]), factors, strict=True):
            bits = np.ascontiguousarray(value + 0.0).view(np.uint64)
            found = (found ^ bits ^ (bits >> np.uint64(29))) * np.uint64(factor)
    return found
