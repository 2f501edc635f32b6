"""Equal steps going back, halves and parts in depth, edge ticks: what the cross-ratio keeps."""

from __future__ import annotations

from math import hypot, nan
from typing import TYPE_CHECKING

import numpy as np

if TYPE_CHECKING:
    from collections.abc import Sequence

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


def spaced_points(first: Sequence[float], second: Sequence[float], vanishing: Sequence[float], count: int) -> Array:
    """Photo points (count, 2) of equal steps on the ground, through the first two toward (x, y, w)."""
    return _along(first, second, vanishing, 1.0, range(count))


def spaced_by_three(first: Sequence[float], second: Sequence[float], third: Sequence[float], count: int) -> Array:
    """Photo points (count, 2) of equal steps through three given ones, whatever the horizon; NaN where they cannot be.

    The steps' own vanishing point follows from the cross-ratio of the three: 1/x1 and 1/x2 are linear in the pace.
    """
    (ax, ay), (cx, cy) = first, third
    length = hypot(cx - ax, cy - ay)
    if length == 0:
        return np.full((count, 2), np.nan)
    unit_x, unit_y = (cx - ax) / length, (cy - ay) / length
    near = (second[0] - ax) * unit_x + (second[1] - ay) * unit_y
    if near <= 0 or near >= length:
        return np.full((count, 2), np.nan)
    shrink = 2 / length - 1 / near  # of x(t) = t·m / (1 + t·m·s)
    vanishing = (ax * shrink + unit_x, ay * shrink + unit_y, shrink)
    return _along(first, (ax + near * unit_x, ay + near * unit_y), vanishing, 1.0, range(count))


def posts_toward(feet: Sequence[Sequence[float]], vanishing: ArrayLike, count: int) -> Array:
    """Photo points (count, 2) of equal steps toward a known point (x, y, w), by two feet or more set down by hand.

    On a line to its point, one over what is left to it grows evenly with equal steps (the cross-ratio); line, start and
    step are fitted to all feet by least squares, so that none is taken as exact. Steps behind the eye are NaN.
    """
    points = np.asarray(feet, np.float64)
    x, y, w = np.asarray(vanishing, np.float64)
    middle = points.mean(0)
    toward = np.array([x - w * middle[0], y - w * middle[1]])
    size = float(np.hypot(*toward))
    if size == 0:
        return np.full((count, 2), np.nan)
    way, shrink = toward / size, w / size
    steps = np.arange(len(points))
    # Along the line from the middle, s from it: what is left to the point is (1 − s·shrink) / shrink.
    along = (points - middle) @ way
    rest = 1 - along * shrink
    if (rest <= 1e-9).any():
        return np.full((count, 2), np.nan)
    even = along / rest  # grows evenly, also where the point is endlessly far
    weight = rest**4  # an error of the foot across is one of it times 1 / rest²
    terms = np.stack([np.ones(len(points)), steps], 1)
    start, pace = np.linalg.solve(terms.T @ (terms * weight[:, None]), terms.T @ (weight * even))
    at = start + pace * np.arange(count)
    left = 1 + at * shrink
    place = np.where(left > 1e-9, at / np.where(left > 1e-9, left, 1.0), np.nan)
    return np.asarray(middle + place[:, None] * way)


def parted_points(first: Sequence[float], last: Sequence[float], vanishing: Sequence[float], parts: int) -> Array:
    """The inner marks (parts − 1, 2) that part a stretch going back into equal parts; two for halves by diagonals."""
    return _along(first, last, vanishing, float(parts), range(1, parts))


def _along(
    first: Sequence[float], last: Sequence[float], vanishing: Sequence[float], span: float, steps: range
) -> Array:
    """Points at numbers of steps from the first, where the last is ``span`` steps away, on the line toward (x, y, w).

    In homogeneous coordinates a point t of the way is a + t·λ·v: λ is fitted to the last. Also right at infinity.
    Plain numbers, since it is done for every post at every move of the horizon.
    """
    (ax, ay), (bx, by), (vx, vy, w) = first, last, vanishing
    along_x, along_y = vx - w * ax, vy - w * ay
    length = hypot(along_x, along_y)
    if length == 0:
        return np.full((len(steps), 2), np.nan)
    unit_x, unit_y, shrink = along_x / length, along_y / length, w / length
    reach = (bx - ax) * unit_x + (by - ay) * unit_y  # what lies beside the line is not of the line
    # Along the line x(t) = t·m / (1 + t·m·s): solve m from x(span) = reach, with s the line's own shrinking.
    rest = 1 - reach * shrink
    if abs(rest) < 1e-12:
        return np.full((len(steps), 2), np.nan)
    pace = reach / rest / span
    depths = [1 + step * pace * shrink for step in steps]
    far = [step * pace / depth if depth > 1e-9 else nan for step, depth in zip(steps, depths, strict=True)]
    return np.array([(ax + x * unit_x, ay + x * unit_y) for x in far], np.float64).reshape(-1, 2)


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
