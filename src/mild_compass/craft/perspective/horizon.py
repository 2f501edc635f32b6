"""The horizon: the line through the points of level sets, or the one the artist has set."""

from __future__ import annotations

from dataclasses import dataclass
from math import atan2, cos, degrees, pi, radians, sin
from typing import TYPE_CHECKING, Literal

import numpy as np
from numpy.typing import NDArray

if TYPE_CHECKING:
    from mild_compass.craft.geometry.frame_map import FrameMap
    from mild_compass.craft.perspective.vanishing import VanishingPoint
    from mild_compass.plan.perspective import Horizon

Array = NDArray[np.float64]


@dataclass(frozen=True, eq=False, slots=True)
class HorizonLine:
    """The line a·x + b·y + c = 0 in photo pixels, where it comes from, and the points (x, y, w) of level edges that are
    known."""

    line: Array
    source: Literal["hand", "one point", "one point and uprights", "points"]
    aims: tuple[Array, ...] = ()

    def y_at(self, x_px: float) -> float:
        """Height of the line above a place across the photo, in pixels."""
        a, b, c = self.line.tolist()
        return float(-(a * x_px + c) / b)

    def is_above(self, x_px: float, y_px: float) -> bool:
        """Whether the line passes above a point of the photo: then something can stand on the ground there."""
        return y_px > self.y_at(x_px)

    def through(self, frame_map: FrameMap) -> Array:
        """Two points (2, 2) of the line on the sheet, in mm, left of the right one."""
        middle = frame_map.to_photo(((frame_map.box.left + frame_map.box.right) / 2, frame_map.box.top))
        step = frame_map.box.width / frame_map.mm_per_px
        xs = (float(middle[0]) - step, float(middle[0]) + step)
        ends = frame_map.to_sheet([[x, self.y_at(x)] for x in xs])
        return ends if ends[0, 0] <= ends[1, 0] else ends[::-1]

    @property
    def tilt_deg(self) -> float:
        """Turn off level in degrees, positive clockwise, in −90…90."""
        a, b, _ = self.line
        angle = atan2(-a, b) if b > 0 else atan2(a, -b)
        return degrees((angle + pi / 2) % pi - pi / 2)


def horizon_line(
    points: list[VanishingPoint], by_hand: Horizon | None, tilt_rad: float | None = None
) -> HorizonLine | None:
    """By hand if set; through one point level, or tilted as the uprights tell; through several the line of least
    weighted squares.

    ``points`` are those of level sets. The weights are the points' variances across the line, so a sharp point
    pulls harder than a vague one; points at infinity give their direction. None while there is nothing to go by.
    """
    if by_hand is not None:
        lean = radians(by_hand.tilt_deg)
        a, b = -sin(lean), cos(lean)
        return HorizonLine(np.array([a, b, -(a * by_hand.x_px + b * by_hand.y_px)]), "hand")
    near = [point for point in points if not point.at_infinity]
    if len(points) < 2:
        if not near:
            return None
        x, y = near[0].homogeneous[:2] / near[0].homogeneous[2]
        a, b = -sin(tilt_rad or 0.0), cos(tilt_rad or 0.0)
        source: Literal["one point", "one point and uprights"] = (
            "one point" if tilt_rad is None else "one point and uprights"
        )
        return HorizonLine(np.array([a, b, -(a * x + b * y)]), source)
    line = _fitted(points)
    # Two points close together, or both straight up, do not make a horizon.
    if abs(line[1]) < 0.5 * np.hypot(line[0], line[1]):
        return None
    return HorizonLine(line, "points")


def _fitted(points: list[VanishingPoint]) -> Array:
    shift, unit = points[0].shift, points[0].unit_px
    to_scaled = np.array([[1 / unit, 0, -shift[0] / unit], [0, 1 / unit, -shift[1] / unit], [0, 0, 1]])
    rows = np.stack([to_scaled @ point.homogeneous for point in points])
    norms = np.linalg.norm(rows, axis=1)
    rows /= norms[:, None]
    spreads = [_spread_in(point, to_scaled, norm) for point, norm in zip(points, norms, strict=True)]
    weights = np.ones(len(points))
    line = np.array([0.0, 1.0, 0.0])
    for _ in range(12):
        _, _, directions = np.linalg.svd(rows * np.sqrt(weights)[:, None])
        line = directions[-1]
        weights = np.array([1 / max(float(line @ spread @ line), 1e-18) for spread in spreads])
        weights /= weights.max()
    line = to_scaled.T @ line
    return np.asarray(line / np.hypot(line[0], line[1]))


def _spread_in(point: VanishingPoint, to_scaled: Array, norm: float) -> Array:
    """Covariance (3, 3) of the point's homogeneous vector in the common coordinates."""
    own = np.array([[point.unit_px, 0, point.shift[0]], [0, point.unit_px, point.shift[1]], [0, 0, 1]])
    change = to_scaled @ own / norm
    return np.asarray(change @ point.tangent.T @ point.spread @ point.tangent @ change.T)
