"""Outlines of a label map as a planar subdivision with shared edges: nothing gaps or overlaps."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np
import shapely

from mild_compass.craft.checkpoint import checkpoint
from mild_compass.craft.kernels.subdivision import crossing_lines
from mild_compass.craft.values.curves import Curves
from mild_compass.craft.values.faces import faces_of
from mild_compass.craft.values.shapes import shapes_of
from mild_compass.craft.values.tracing import OUTSIDE, Chains, LevelCrossing, chains_of_labels, strokes_of

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

    @property
    def inner(self) -> Numbers:
        """The lines that are borders between two shapes, not the picture's edge."""
        return np.flatnonzero((self.beside != OUTSIDE).all(1))

    def borders(self, points: Array) -> tuple[Array, ...]:
        """Points (n, 2) for the lines' own, those of each border."""
        return tuple(points[self.first[k] : self.first[k + 1]] for k in self.inner.tolist())


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


def mass_shapes(steps: NDArray[np.uint8], rounding_px: float, crossing: LevelCrossing | None = None) -> MassShapes:
    """Trace a value map (h, w) along pixel sides and draw every shared border once, as a curve.

    ``crossing`` tells where between two pixels the picture itself passes from the one value to the other.

    A border leaves the pixels' by at most half of ``rounding_px``; with 0 it stays on them. Every pixel belongs to
    exactly one polygon and the areas add up to h·w.
    """
    shapes = shapes_of(steps)
    labels, values = shapes.labels(), shapes.values
    chains = chains_of_labels(labels, crossing if rounding_px > 0 else None)
    size = (labels.shape[1], labels.shape[0])
    checkpoint()
    curves = Curves(chains, strokes_of(chains, size), rounding_px)
    checkpoint()
    points, first, polygons = _settled(chains, curves, len(values))
    lines = Lines(points, first, np.stack([chains.left, chains.right], 1))
    return MassShapes(polygons, values, lines.borders(points), lines.beside[lines.inner], lines)


def _settled(chains: Chains, curves: Curves, count: int) -> tuple[Array, Numbers, NDArray[np.object_]]:
    """The points of the borders, where each begins, and the faces between them; what would cross is held nearer to its
    pixels."""
    last = len(HOLDS) - 1
    held = np.full(len(chains), 0 if curves.rounding_px > 0 else last, np.int64)
    while True:
        points, first = curves.lines(np.array(HOLDS)[held])
        checkpoint()
        wrong = np.flatnonzero(crossing_lines(points, first))
        if not len(wrong):
            faces, unsure = faces_of(chains, points, first, count, curves.rounding_px)
            unsure[unsure] = ~shapely.is_valid(faces[unsure])
            if not unsure.any():
                return points, first, faces
            bad = np.flatnonzero(unsure)
            wrong = np.flatnonzero(np.isin(chains.left, bad) | np.isin(chains.right, bad))
        if (held[wrong] == last).all():
            if (held == last).all():
                raise AssertionError("pixel borders do not close")
            wrong = np.arange(len(chains))
        held[wrong] = np.minimum(held[wrong] + 1, last)
