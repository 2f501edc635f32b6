"""Runs of traced lines that are straight, drawn straight, and to the vanishing points that they run to anyway."""

from __future__ import annotations

from itertools import pairwise
from typing import TYPE_CHECKING

import numpy as np
import shapely

if TYPE_CHECKING:
    from collections.abc import Sequence

    from numpy.typing import NDArray

    Array = NDArray[np.float64]

LEAST_SHARE = 0.035  # of the diagonal: a shorter run is not worth a ruler
MEETING = 1.5  # times the tolerance: ends of lines nearer than that are one corner


def straightened(lines: list[Array], aims: Sequence[Array], tolerance: float, diagonal: float) -> list[Array]:
    """Lines (n, 2) with their long straight runs as single strokes.

    A run is straight that leaves a line no further than the tolerance; where it passes a point (x, y, w) of ``aims``
    within that at its ends it is turned to it. Ends that meet stay together.
    """
    found = []
    for line in lines:
        kept = _corners(line, tolerance)
        made = [line[:1].copy()]
        for first, last in pairwise(kept):
            start, end = line[first], line[last]
            if float(np.hypot(*(end - start))) >= LEAST_SHARE * diagonal:
                a, b = _aimed(start, end, aims, tolerance)
                made[-1][-1] = _between(made[-1][-1], a, first == 0)
                made.append(b[None])
            else:
                made.append(line[first + 1 : last + 1].copy())
        found.append(np.concatenate(made))
    return _met(found, MEETING * tolerance)


def _corners(line: Array, tolerance: float) -> list[int]:
    """The numbers of the points between which a line is straight within a tolerance."""
    kept = shapely.get_coordinates(shapely.simplify(shapely.LineString(line), tolerance, preserve_topology=False))
    numbers, at = [], 0
    for point in kept:
        while not (line[at] == point).all():
            at += 1
        numbers.append(at)
        at = min(at + 1, len(line) - 1)
    return numbers


def _between(before: Array, here: Array, is_end: bool) -> Array:
    """Where two runs of one line meet: half way between where each would have it."""
    return here if is_end else (before + here) / 2


def _aimed(start: Array, end: Array, aims: Sequence[Array], tolerance: float) -> tuple[Array, Array]:
    """A straight run turned about its middle to the point that it passes nearest, where that is within tolerance."""
    middle, way = (start + end) / 2, (end - start) / 2
    half = float(np.hypot(*way))
    best, least = None, tolerance
    for aim in aims:
        toward = aim[:2] - aim[2] * middle
        size = float(np.hypot(*toward))
        if size < 1e-9:
            continue
        off = abs(way[0] * toward[1] - way[1] * toward[0]) / size
        if off < least:
            best, least = toward / size * np.sign(toward @ way), off
    return (start, end) if best is None else (middle - half * best, middle + half * best)


def _met(lines: list[Array], reach: float) -> list[Array]:
    """Ends of lines that lie near each other moved to their common middle."""
    if len(lines) < 2:
        return lines
    ends = np.array([line[k] for line in lines for k in (0, -1)])
    one, other = shapely.STRtree(shapely.points(ends)).query(shapely.points(ends), "dwithin", reach)
    for k in range(len(ends)):
        near = other[one == k]
        if len(near) > 1:
            lines[k // 2][0 if k % 2 == 0 else -1] = ends[near].mean(0)
    return lines
