"""Runs of pixel sides drawn as curves: corners of the thing stay, everything else flows.

Between fixed points (ends and corners) each place moves to a local quadratic's, fitted with Gaussian weights (W. S.
Cleveland, J. Am. Stat. Assoc. 74, 1979): so straight stays straight and a round thing keeps its size.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

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
    spots = _padded(runs, long + SKIPPED)
    back_long, on_long = spots.lines(long)
    back_short, on_short = spots.lines(short)
    turn = _angle(back_long.way, on_long.way)
    near = _angle(back_short.way, on_short.way)
    inside = back_long.whole & on_long.whole
    straight = np.maximum(back_long.miss, on_long.miss) < STRAIGHT_PX * np.sqrt(stretch)
    sharp = inside & straight & (near > SHARPNESS * turn) & (turn > CORNER_DEG)
    which = np.flatnonzero(sharp)
    vertex = (runs.places[which] + runs.places[before_each(runs, which)]) / 2
    met = _meeting(back_long.at(which), on_long.at(which))
    off = np.hypot(*(met - vertex).T)
    # The sides of a corner meet on the border; those of a curve meet outside it. Pixels round only acute ones off.
    acute = turn[which] > 90
    real = off <= np.where(acute, 2 * max(rounding_px / 2, BESIDE_PX), BESIDE_PX)
    strength = np.zeros(len(turn))
    strength[which[real]] = turn[which[real]] - back_long.miss[which[real]] - off[real]
    best = _strongest(runs, strength, long)
    chosen = np.searchsorted(which, best)
    least = np.minimum(1.0, rounding_px / 2 / np.maximum(off[chosen], 1e-9))[:, None]
    return Corners(best, vertex[chosen] + least * (met - vertex)[chosen])


@dataclass(frozen=True, eq=False, slots=True)
class _Line:
    """Lines fitted to places beside each place: middle, unit way, misfit, and whether all of them lie in the run."""

    middle: Array
    way: Array
    miss: Array
    whole: NDArray[np.bool_]

    def at(self, which: Numbers) -> tuple[Array, Array]:
        return self.middle[which], self.way[which]


@dataclass(frozen=True, eq=False, slots=True)
class _Padded:
    """Runs with places put before and behind each, so that one may look that far beyond its ends: round and round where
    it closes, turned about the end where not. ``at`` tells where each place is among them, ``near_end`` how far it is
    from its run's ends."""

    spots: Array
    at: Numbers
    near_end: tuple[Numbers, Numbers]

    def lines(self, long: int) -> tuple[_Line, _Line]:
        """Lines through so many places behind each and as many ahead of it, without those next to it."""
        centred = self.spots - self.spots.mean(0)  # sums of large squares would leave little of the small differences
        x, y = centred.T
        mx, my, xx, yy, xy = (_sums(each, long) / long for each in (x, y, x * x, y * y, x * y))
        xx, yy, xy = xx - mx**2, yy - my**2, xy - mx * my
        apart = np.hypot(xx - yy, 2 * xy)
        angle = 0.5 * np.arctan2(2 * xy, xx - yy)
        way = np.stack([np.cos(angle), np.sin(angle)], 1)
        way *= np.where((way * (self.spots[long - 1 :] - self.spots[: len(way)])).sum(1) < 0, -1.0, 1.0)[:, None]
        miss = np.sqrt(np.maximum((xx + yy - apart) / 2, 0))
        middle = np.stack([mx, my], 1) + self.spots.mean(0)
        behind, ahead = self.near_end
        found = []
        for start, whole in ((-long - SKIPPED, behind - long - SKIPPED >= 0), (SKIPPED, ahead - long - SKIPPED >= 0)):
            at = self.at + start
            found.append(_Line(middle[at], way[at], miss[at], whole))
        return found[0], found[1]

    def weighed(self, weight: Array) -> Array:
        """The places (n, 2) averaged with those round them, weight (2·reach + 1,)."""
        reach = len(weight) // 2
        both = [np.convolve(values, weight[::-1], "valid")[self.at - reach] for values in self.spots.T]
        return np.stack(both, 1)


def _sums(values: Array, long: int) -> Array:
    """The sum of so many values from each on."""
    total = np.concatenate([[0.0], np.cumsum(values)])
    return np.asarray(total[long:] - total[:-long])


def _padded(runs: Runs, reach: int) -> _Padded:
    count = np.diff(runs.first)
    longer = count + 2 * reach
    begins = np.cumsum(longer) - longer
    of = np.repeat(np.arange(len(count)), longer)
    here = np.arange(longer.sum()) - begins[of] - reach
    start, size, closed = runs.first[:-1][of], count[of], runs.closed[of]
    low, high = (here < 0) & ~closed, (here >= size) & ~closed
    inside = np.where(low, -1 - here, np.where(high, 2 * size - 1 - here, here))
    spots = runs.places[start + np.where(closed, here % size, np.clip(inside, 0, size - 1))]
    # Beyond a fixed end the run goes on turned about it, so that it is held there and comes in straight.
    spots[low] = 2 * runs.ends[of[low], 0] - spots[low]
    spots[high] = 2 * runs.ends[of[high], 1] - spots[high]
    inner = (here >= 0) & (here < size)
    far = np.int64(1) << 40
    behind = np.where(closed, far, here)[inner]
    ahead = np.where(closed, far, size - here)[inner]
    return _Padded(spots, np.flatnonzero(inner), (behind, ahead))


def before_each(runs: Runs, which: Numbers) -> Numbers:
    """The place before each, round and round where a run closes."""
    run = np.searchsorted(runs.first, which, side="right") - 1
    at_start = which == runs.first[run]
    return np.where(at_start, np.where(runs.closed[run], runs.first[run + 1] - 1, which), which - 1)


def _angle(a: Array, b: Array) -> Array:
    return np.asarray(np.degrees(np.arccos(np.clip((a * b).sum(1), -1, 1))))


def _strongest(runs: Runs, strength: Array, apart: int) -> Numbers:
    """Places of greatest strength, none within so many places of a stronger one."""
    kept: list[int] = []
    run_of = np.repeat(np.arange(len(runs.closed)), np.diff(runs.first))
    count = np.diff(runs.first)
    for k in np.argsort(-strength, kind="stable").tolist():
        if strength[k] <= 0:
            break
        run = int(run_of[k])
        gaps = (abs(k - other) for other in kept if run_of[other] == run)
        size = int(count[run]) if runs.closed[run] else 1 << 40
        if all(min(gap, size - gap) >= apart * 2 // 3 for gap in gaps):
            kept.append(k)
    return np.array(sorted(kept), np.int64)


def _meeting(one: tuple[Array, Array], other: tuple[Array, Array]) -> Array:
    """Where pairs of lines meet (n, 2); far away where they are parallel."""
    (a, u), (b, v) = one, other
    cross = u[:, 0] * v[:, 1] - u[:, 1] * v[:, 0]
    safe = np.where(np.abs(cross) < 1e-6, 1e-6, cross)
    gap = b - a
    share = (gap[:, 0] * v[:, 1] - gap[:, 1] * v[:, 0]) / safe
    return np.asarray(a + share[:, None] * u)


def smoothed(runs: Runs, rounding_px: float) -> Array:
    """The places (n, 2) of runs, moved to where a curve would lie; ends are fixed."""
    spread = float(np.clip(SPREAD_OF_ROUNDING * rounding_px, *SPREADS_PX))
    reach = int(np.ceil(3 * spread))
    offsets = np.arange(-reach, reach + 1)
    weight = (1.5 - 0.5 * (offsets / spread) ** 2) * np.exp(-0.5 * (offsets / spread) ** 2)
    weight /= weight.sum()
    return _padded(runs, reach).weighed(weight)
