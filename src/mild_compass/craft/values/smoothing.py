"""Crack chains smoothed by local quadratic regression (LOESS) between corners that stay.

Between fixed points (ends and corners) each place moves to a local quadratic's, fitted with Gaussian weights (W. S.
Cleveland, J. Am. Stat. Assoc. 74, 1979): so straight stays straight and a round thing keeps its size.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from mild_compass.craft.kernels import curves

if TYPE_CHECKING:
    from numpy.typing import NDArray

    Array = NDArray[np.float64]
    Numbers = NDArray[np.int64]

SPREAD_OF_ROUNDING = 1.0  # the Gaussian's spread, of how round is asked for
SPREADS_PX = (1.2, 12.0)
LONG_LOOK, SHORT_LOOK = 9, 5  # sides either way by which a corner is told from a curve
CORNER_DEG = 42.0
SHARPNESS = 0.8  # of the long look's turn, what the short one must see: a curve turns by half
STRAIGHT_PX = 0.3  # sides of a corner are no further off straight
BESIDE_PX = 0.9  # the two sides of a corner meet no further from the border
SKIPPED = 1  # sides next to a corner, which the pixels have rounded


@dataclass(frozen=True, eq=False, slots=True)
class Runs:
    """Runs of places (n, 2), one after another: run k from ``first[k]`` to ``first[k + 1]``, with the points that lie
    half a step before and behind it (m, 2, 2), and whether it closes."""

    places: Array
    first: Numbers
    ends: Array
    closed: NDArray[np.bool_]


@dataclass(frozen=True, eq=False, slots=True)
class Corners:
    """Where corners lie: before which place, and the point itself."""

    before: Numbers
    points: Array


def corners_of(runs: Runs, rounding_px: float) -> Corners:
    """Corners of runs of pixel sides, by two straight lines that meet."""
    stretch = max(1.0, rounding_px / 4)
    long, short = round(LONG_LOOK * stretch), round(SHORT_LOOK * stretch)
    most_miss = float(STRAIGHT_PX * np.sqrt(stretch))
    which, turn, miss, back, on = curves.corners(
        *(runs.places, runs.first, runs.ends, runs.closed, (long, short, SKIPPED)),
        (most_miss, float(np.cos(np.radians(CORNER_DEG))), SHARPNESS),
    )
    vertex = (runs.places[which] + runs.places[before_each(runs, which)]) / 2
    met = _meeting(back, on)
    off = np.hypot(*(met - vertex).T)
    # The sides of a corner meet on the border; those of a curve meet outside it. Pixels round only acute ones off.
    real = off <= np.where(turn > 90, 2 * max(rounding_px / 2, BESIDE_PX), BESIDE_PX)
    best = curves.strongest(runs.first, runs.closed, which, np.where(real, turn - miss - off, 0.0), long * 2 // 3)
    least = np.minimum(1.0, rounding_px / 2 / np.maximum(off[best], 1e-9))[:, None]
    return Corners(which[best], vertex[best] + least * (met - vertex)[best])


def before_each(runs: Runs, which: Numbers) -> Numbers:
    """The place before each, round and round where a run closes."""
    run = np.searchsorted(runs.first, which, side="right") - 1
    at_start = which == runs.first[run]
    return np.where(at_start, np.where(runs.closed[run], runs.first[run + 1] - 1, which), which - 1)


def _meeting(one: Array, other: Array) -> Array:
    """Where pairs of lines (n, 4) meet (n, 2); far away where they are parallel."""
    (a, u), (b, v) = (one[:, :2], one[:, 2:]), (other[:, :2], other[:, 2:])
    cross = u[:, 0] * v[:, 1] - u[:, 1] * v[:, 0]
    safe = np.where(np.abs(cross) < 1e-6, 1e-6, cross)
    gap = b - a
    share = (gap[:, 0] * v[:, 1] - gap[:, 1] * v[:, 0]) / safe
    return np.asarray(a + share[:, None] * u)


def smoothed(runs: Runs, corners: Corners, rounding_px: float) -> Array:
    """The places (n, 2) of runs, moved to where a curve would lie; ends and corners are fixed."""
    spread = float(np.clip(SPREAD_OF_ROUNDING * rounding_px, *SPREADS_PX))
    reach = int(np.ceil(3 * spread))
    offsets = np.arange(-reach, reach + 1)
    weight = (1.5 - 0.5 * (offsets / spread) ** 2) * np.exp(-0.5 * (offsets / spread) ** 2)
    weight /= weight.sum()
    places, first, ends, closed = runs.places, runs.first, runs.ends, runs.closed
    return curves.smoothed(places, first, ends, closed, corners.before, corners.points, weight)
