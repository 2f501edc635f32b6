"""Equal steps going back, halves and parts in depth, edge ticks: what the cross-ratio keeps."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

if TYPE_CHECKING:
    from numpy.typing import ArrayLike, NDArray

    Array = NDArray[np.float64]


def equally_spaced(vanishing: float, first: float, second: float, count: int) -> Array:
    """Positions (count,) along a line of equal steps in depth, from the first two and the line's vanishing point.

    p_k = v + (p0 − v) / (1 + k·((p0 − v)/(p1 − v) − 1)): the cross-ratio of any four is that of equal steps. Steps
    that would lie behind the eye are NaN.
    """
    start, step = first - vanishing, second - vanishing
    ratio = start / step - 1
    depth = 1 + np.arange(count) * ratio
    return np.where(depth > 1e-12, vanishing + start / np.where(depth > 1e-12, depth, 1.0), np.nan)


def spaced_points(first: ArrayLike, second: ArrayLike, vanishing: ArrayLike, count: int) -> Array:
    """Photo points (count, 2) of equal steps on the ground, through the first two toward (x, y, w)."""
    a, b = np.asarray(first, np.float64), np.asarray(second, np.float64)
    return _along(a, b, np.asarray(vanishing, np.float64), 1.0, np.arange(count, dtype=np.float64))


def parted_points(first: ArrayLike, last: ArrayLike, vanishing: ArrayLike, parts: int) -> Array:
    """The inner marks (parts − 1, 2) that part a stretch going back into equal parts; two for halves by diagonals."""
    a, b = np.asarray(first, np.float64), np.asarray(last, np.float64)
    return _along(a, b, np.asarray(vanishing, np.float64), float(parts), np.arange(1, parts, dtype=np.float64))


def _along(a: Array, b: Array, vanishing: Array, span: float, steps: Array) -> Array:
    """Points at numbers of steps from a, where b is ``span`` steps away, on the line toward (x, y, w).

    In homogeneous coordinates a point t of the way is a + t·λ·v: λ is fitted to b. Also right at infinity.
    """
    direction = vanishing[:2] - vanishing[2] * a
    length = float(np.hypot(*direction))
    if length == 0:
        return np.full((len(steps), 2), np.nan)
    unit = direction / length
    place = float((b - a) @ unit)  # b's place along the line; what lies beside it is not of the line
    shrink, reach = vanishing[2] / length, place
    # Along the line x(t) = t·m / (1 + t·m·s): solve m from x(span) = reach, with s the line's own shrinking.
    rest = 1 - reach * shrink
    if abs(rest) < 1e-12:
        return np.full((len(steps), 2), np.nan)
    pace = reach / rest / span
    depth = 1 + steps * pace * shrink
    x = np.where(depth > 1e-9, steps * pace / np.where(depth > 1e-9, depth, 1.0), np.nan)
    return np.asarray(a + x[:, None] * unit)


def edge_ticks(
    left_mm: float, right_mm: float, horizon_left_mm: float, horizon_right_mm: float, vanishing_mm: ArrayLike,
    spacing_mm: float, top_mm: float, bottom_mm: float,
) -> tuple[Array, Array]:  # fmt: skip
    """Heights of matching ticks on the left and the right edge: lines through two of one number meet at the point.

    The left edge (or the one nearer to the point, whichever is taken as first) is parted evenly from the horizon, the
    other in the ratio of the two edges' distances to the point (Rex Vicat Cole, Perspective for Artists, 1921, from
    memory). Only ticks that lie on the sheet on both sides are given, numbered from the horizon upward and downward.
    """
    x, _, w = np.asarray(vanishing_mm, np.float64)
    far_left, far_right = (x - w * left_mm), (x - w * right_mm)
    if far_left == 0 or far_right == 0:
        return np.zeros(0), np.zeros(0)
    times = far_right / far_left
    most = int(np.ceil((bottom_mm - top_mm) / spacing_mm)) + 1
    steps = np.arange(-most, most + 1) * spacing_mm
    if abs(times) > 1:  # the coarser edge gets the even spacing
        steps = steps / abs(times)
    left = horizon_left_mm + steps
    right = horizon_right_mm + steps * times
    on = (left >= top_mm) & (left <= bottom_mm) & (right >= top_mm) & (right <= bottom_mm)
    return left[on], right[on]
