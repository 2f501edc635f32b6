"""Runs of pixel sides drawn as curves: corners of the thing stay, everything else flows.

Between fixed points (ends and corners) each place moves to a local quadratic's, fitted with Gaussian weights (W. S.
Cleveland, J. Am. Stat. Assoc. 74, 1979): so straight stays straight and a round thing keeps its size.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from mild_compass.craft.compiled import compiled

if TYPE_CHECKING:
    from numpy.typing import NDArray

    Array = NDArray[np.float64]
    Flags = NDArray[np.bool_]
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
    which, turn, miss, back, on = _sharp(runs.places, runs.first, runs.ends, runs.closed, long, short, most_miss)
    vertex = (runs.places[which] + runs.places[before_each(runs, which)]) / 2
    met = _meeting(back, on)
    off = np.hypot(*(met - vertex).T)
    # The sides of a corner meet on the border; those of a curve meet outside it. Pixels round only acute ones off.
    real = off <= np.where(turn > 90, 2 * max(rounding_px / 2, BESIDE_PX), BESIDE_PX)
    best = _strongest(runs.first, runs.closed, which, np.where(real, turn - miss - off, 0.0), long * 2 // 3)
    least = np.minimum(1.0, rounding_px / 2 / np.maximum(off[best], 1e-9))[:, None]
    return Corners(which[best], vertex[best] + least * (met - vertex)[best])


@compiled
def _sharp(
    places: Array, first: Numbers, ends: Array, closed: Flags, long: int, short: int, most_miss: float
) -> tuple[Numbers, Array, Array, Array, Array]:
    """Places before which two straight lines meet that turn: which, by how many degrees, how far off straight the one
    behind is, and the lines behind and ahead, each a place and a way (n, 4)."""
    which, turns, misses = np.empty(len(places), np.int64), np.empty(len(places)), np.empty(len(places))
    back, on, count = np.empty((len(places), 4)), np.empty((len(places), 4)), 0
    reach, most_cos = long + SKIPPED, np.cos(np.radians(CORNER_DEG))
    for run in range(len(closed)):
        spots = _padded(places[first[run] : first[run + 1]], ends[run], closed[run], reach)
        size = first[run + 1] - first[run]
        lines, shorter = _lines(spots, long), _lines(spots, short)
        for k in range(size):
            if not closed[run] and not reach <= k <= size - reach:
                continue
            far = k + reach + SKIPPED
            straight = max(lines[4, k], lines[4, far]) < most_miss
            if not straight or lines[2, k] * lines[2, far] + lines[3, k] * lines[3, far] >= most_cos:
                continue
            turn = _angle(lines[:, k], lines[:, far])
            if _angle(shorter[:, k + long - short], shorter[:, far]) > SHARPNESS * turn:
                which[count], turns[count], misses[count] = first[run] + k, turn, lines[4, k]
                back[count], on[count] = lines[:4, k], lines[:4, far]
                count += 1
    return which[:count], turns[:count], misses[:count], back[:count], on[:count]


@compiled
def _lines(spots: Array, long: int) -> Array:
    """Lines (5, n) fitted to so many spots (2, ..) from each on: middle, unit way, and how far off it they are."""
    count = spots.shape[1] - long + 1
    x, y, xx, yy, xy = np.zeros(count), np.zeros(count), np.zeros(count), np.zeros(count), np.zeros(count)
    for j in range(long):
        for k in range(count):
            x[k] += spots[0, j + k]
            y[k] += spots[1, j + k]
    x /= long
    y /= long
    for j in range(long):
        for k in range(count):
            off_x, off_y = spots[0, j + k] - x[k], spots[1, j + k] - y[k]
            xx[k] += off_x * off_x
            yy[k] += off_y * off_y
            xy[k] += off_x * off_y
    lines = np.empty((5, count))
    lines[0], lines[1] = x, y
    for k in range(count):
        apart = np.sqrt((xx[k] - yy[k]) ** 2 + 4 * xy[k] ** 2)
        # Half the angle whose cosine that is; where the spots lie all round any way will do.
        cos = (xx[k] - yy[k]) / apart if apart > 0 else 1.0
        way_x, way_y = np.sqrt(max(0.5 + 0.5 * cos, 0.0)), np.sqrt(max(0.5 - 0.5 * cos, 0.0))
        way_y = -way_y if xy[k] < 0 else way_y
        along = way_x * (spots[0, k + long - 1] - spots[0, k]) + way_y * (spots[1, k + long - 1] - spots[1, k])
        lines[2, k], lines[3, k] = (way_x, way_y) if along >= 0 else (-way_x, -way_y)
        lines[4, k] = np.sqrt(max((xx[k] + yy[k] - apart) / (2 * long), 0.0))
    return lines


@compiled
def _angle(one: Array, other: Array) -> float:
    """Degrees between the ways of two lines."""
    return float(np.degrees(np.arccos(min(1.0, max(-1.0, one[2] * other[2] + one[3] * other[3])))))


@compiled
def _padded(places: Array, ends: Array, closed: bool, reach: int) -> Array:
    """A run (2, n) with places put before and behind it, so that one may look that far beyond its ends: round and round
    where it closes; turned about the end where not, so that it is held there and comes in straight."""
    size = len(places)
    spots = np.empty((2, size + 2 * reach))
    for axis in range(2):
        for k in range(size):
            spots[axis, reach + k] = places[k, axis]
        for k in range(reach):
            if closed:
                spots[axis, k] = places[(k - reach) % size, axis]
                spots[axis, reach + size + k] = places[k % size, axis]
            else:
                spots[axis, k] = 2 * ends[0, axis] - places[min(reach - 1 - k, size - 1), axis]
                spots[axis, reach + size + k] = 2 * ends[1, axis] - places[max(size - 1 - k, 0), axis]
    return spots


def before_each(runs: Runs, which: Numbers) -> Numbers:
    """The place before each, round and round where a run closes."""
    run = np.searchsorted(runs.first, which, side="right") - 1
    at_start = which == runs.first[run]
    return np.where(at_start, np.where(runs.closed[run], runs.first[run + 1] - 1, which), which - 1)


@compiled
def _strongest(first: Numbers, closed: Flags, which: Numbers, strength: Array, apart: int) -> Numbers:
    """Those of greatest strength among places, none within so many places of a stronger one, in their order."""
    run_of = np.searchsorted(first, which, "right") - 1
    kept, places = np.zeros(len(which), np.bool_), np.arange(len(which))
    for k in np.argsort(-strength, kind="mergesort"):
        if strength[k] <= 0:
            break
        run = run_of[k]
        size = first[run + 1] - first[run] if closed[run] else 1 << 40
        free = True
        for other in places[np.searchsorted(run_of, run, "left") : np.searchsorted(run_of, run, "right")]:
            gap = abs(which[k] - which[other])
            free = free and not (kept[other] and min(gap, size - gap) < apart)
        kept[k] = free
    return places[kept]


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
    return _weighed(runs.places, runs.first, runs.ends, runs.closed, corners.before, corners.points, weight)


@compiled
def _weighed(
    places: Array, first: Numbers, ends: Array, closed: Flags, before: Numbers, corner: Array, weight: Array
) -> Array:
    """The places (n, 2) averaged with those round them, weight (2·reach + 1,), in the pieces between corners."""
    found, at = np.empty((len(places), 2)), 0
    for run in range(len(closed)):
        start, stop = first[run], first[run + 1]
        one = at
        while at < len(before) and before[at] < stop:
            at += 1
        if one == at:
            found[start:stop] = _eased(places[start:stop], ends[run], closed[run], weight)
            continue
        # A closed run is cut open at its first corner, which ends the last piece too.
        rolled = np.concatenate((places[before[one] : stop], places[start : before[one]]))
        own, begin = (rolled, before[one]) if closed[run] else (places[start:stop], start)
        eased, between = np.empty_like(own), np.empty((2, 2))
        count = at - one + (0 if closed[run] else 1)
        for piece in range(count):
            low = one + piece - (0 if closed[run] else 1)
            between[0] = corner[low] if low >= one else ends[run, 0]
            between[1] = corner[low + 1] if low + 1 < at else (corner[one] if closed[run] else ends[run, 1])
            left = before[low] - begin if low >= one else 0
            right = before[low + 1] - begin if low + 1 < at else stop - start
            eased[left:right] = _eased(own[left:right], between, False, weight)
        found[begin:stop] = eased[: stop - begin]
        found[start:begin] = eased[stop - begin :]
    return found


@compiled
def _eased(places: Array, ends: Array, closed: bool, weight: Array) -> Array:
    """The places (n, 2) of one piece averaged with those round them."""
    spots, found = _padded(places, ends, closed, len(weight) // 2), np.zeros((2, len(places)))
    for axis in range(2):
        for j in range(len(weight)):
            for k in range(len(places)):
                found[axis, k] += weight[j] * spots[axis, k + j]
    return found.T
