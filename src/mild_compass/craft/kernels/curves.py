"""Chains of crack edges as curves: corners, local regression, corner cutting, simplification: the Python side of
curves.c.

A run is places (n, 2) from ``first[k]`` to ``first[k + 1]``, with the points half a step before and behind it (m, 2, 2)
and whether it closes (m,)."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from mild_compass.craft.kernels.library import COUNT, DOUBLES, FLAGS, NUMBERS, REAL, kernel

if TYPE_CHECKING:
    from numpy.typing import NDArray

    Array = NDArray[np.float64]
    Flags = NDArray[np.bool_]
    Numbers = NDArray[np.int64]

_RUNS = (DOUBLES, NUMBERS, COUNT, DOUBLES, FLAGS)
_find_corners = kernel(
    "find_corners",
    *_RUNS,
    *(COUNT, COUNT, COUNT, REAL, REAL, REAL),
    *(NUMBERS, DOUBLES, DOUBLES, DOUBLES, DOUBLES),
    returns=COUNT,
)
_suppress_weaker = kernel(
    "suppress_weaker", NUMBERS, DOUBLES, NUMBERS, NUMBERS, NUMBERS, NUMBERS, COUNT, NUMBERS, FLAGS, COUNT, FLAGS
)
_smooth_runs = kernel("smooth_runs", *_RUNS, NUMBERS, DOUBLES, COUNT, DOUBLES, COUNT, DOUBLES, returns=COUNT)
_hold_near = kernel("hold_near", DOUBLES, DOUBLES, COUNT, REAL)
_assemble_lines = kernel(
    "assemble_lines",
    *(DOUBLES, NUMBERS, COUNT, DOUBLES, FLAGS, FLAGS, NUMBERS, DOUBLES, COUNT, DOUBLES, FLAGS, NUMBERS),
    returns=COUNT,
)
_cut_corners = kernel("cut_corners", DOUBLES, FLAGS, NUMBERS, COUNT, REAL, DOUBLES, FLAGS, NUMBERS, returns=COUNT)
_simplify_lines = kernel("simplify_lines", DOUBLES, NUMBERS, COUNT, REAL, FLAGS, returns=COUNT)


def corners(
    places: Array,
    first: Numbers,
    ends: Array,
    closed: Flags,
    looks: tuple[int, int, int],
    limits: tuple[float, float, float],
) -> tuple[Numbers, Array, Array, Array, Array]:
    """Places before which two straight lines meet that turn: which, by how many degrees, how far off straight the one
    behind is (px), and the lines behind and ahead, each a place and a way (n, 4).

    ``looks`` are the sides of a long and of a short line and those skipped at the corner; ``limits`` how far off
    straight a line may be (px), the greatest cosine of a turn, and the share of it that the short lines must see."""
    n = len(places)
    which, turns, misses = np.empty(n, np.int64), np.empty(n), np.empty(n)
    back, on = np.empty((n, 4)), np.empty((n, 4))
    count = _find_corners(places, first, len(closed), ends, closed, *looks, *limits, which, turns, misses, back, on)
    return which[:count], turns[:count], misses[:count], back[:count], on[:count]


def strongest(first: Numbers, closed: Flags, which: Numbers, strength: Array, apart: int) -> Numbers:
    """Non-maximum suppression along runs: those of greatest strength among places (n,), rising, none within so many
    places of a stronger one, in their order."""
    run_of = np.searchsorted(first, which, "right") - 1
    low, high = np.searchsorted(run_of, run_of, "left"), np.searchsorted(run_of, run_of, "right")
    kept = np.zeros(len(which), np.bool_)
    order = np.argsort(-strength, kind="stable")
    _suppress_weaker(order, strength, which, run_of, low, high, len(which), first, closed, apart, kept)
    return np.flatnonzero(kept)


def smoothed(
    places: Array, first: Numbers, ends: Array, closed: Flags, before: Numbers, corner: Array, weight: Array
) -> Array:
    """The places (n, 2) averaged with those round them, weight (2·reach + 1,), in the pieces between corners: corner c
    lies before place ``before[c]`` (rising) at ``corner[c]``."""
    found = np.empty((len(places), 2))
    _smooth_runs(
        *(places, first, len(closed), ends, closed, before, corner, len(before), weight, len(weight) // 2, found)
    )
    return found


def held_near(points: Array, middles: Array, most: float) -> Array:
    """Points (n, 2) no further than so much from their middles (n, 2)."""
    found = points.copy()
    _hold_near(found, middles, len(points), most)
    return found


def assembled(
    places: Array, first: Numbers, ends: Array, inner: Flags, curved: Flags, before: Numbers, corner: Array
) -> tuple[Array, Flags, Numbers]:
    """The points (n, 2) of all lines, whether each is held fast, and the line it is of: a border's ends, its places,
    and in those that are ``curved`` its corners; of the picture's own edge its ends and the picture's corners."""
    room = len(places) + len(corner) + 2 * len(inner) + 4
    points, fast, which = np.empty((room, 2)), np.empty(room, np.bool_), np.empty(room, np.int64)
    count = _assemble_lines(
        *(places, first, len(inner), ends, inner, curved, before, corner, len(corner), points, fast, which)
    )
    return points[:count], fast[:count], which[:count]


def with_corners_cut(points: Array, fast: Flags, which: Numbers, sharp_cosine: float) -> tuple[Array, Flags, Numbers]:
    """Lines, one after another, with the points at which they turn more sharply than that cut off, but for those held
    fast, as their ends are."""
    n = len(points)
    made, held, of = np.empty((2 * n, 2)), np.empty(2 * n, np.bool_), np.empty(2 * n, np.int64)
    count = _cut_corners(points, fast, which, n, sharp_cosine, made, held, of)
    return made[:count], held[:count], of[:count]


def simplified(points: Array, which: Numbers, most: float) -> tuple[Array, Numbers]:
    """Lines, one after another, without the points that lie no further than so much off the line between the two that
    stay."""
    stays = np.empty(len(points), np.bool_)
    _simplify_lines(points, which, len(points), most, stays)
    return points[stays], which[stays]
