"""Simple shapes for the block-in: their lines, and the one that fits a mass best."""

from __future__ import annotations

from math import cos, radians, sin
from typing import TYPE_CHECKING

import cv2
import numpy as np

from mild_compass.plan.sheet import BlockShape

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from mild_compass.plan.sheet import ShapeKind

    Array = NDArray[np.float64]

# Vitruvius, De architectura III.1: the face from chin to hairline is a tenth of the body's height and the head an
# eighth, and chin to nostrils, nostrils to brows, brows to hairline are a third of the face each.
FACE_SHARE = 0.8
TRIANGLE_TURNS = np.arange(0, 360, 5)
ELLIPSE_SIDES = 72  # off by less than a thousandth of its radius


def outline_of(shape: BlockShape) -> list[Array]:
    """Its lines in photo pixels, the outline first; guides bring their divisions."""
    size = (shape.half_width_px, shape.half_height_px)
    turn = radians(shape.turn_deg)
    back = np.array([[cos(turn), sin(turn)], [-sin(turn), cos(turn)]])
    return [np.asarray(line * size @ back + (shape.x_px, shape.y_px)) for line in _plain(shape)]


def _plain(shape: BlockShape) -> list[Array]:
    """Its lines with a half width and a half height of one."""
    if shape.kind == "line":
        return [np.array([[-1.0, 0.0], [1.0, 0.0]])]
    if shape.kind == "triangle":
        return [np.array([[0.0, -1.0], [1.0, 1.0], [-1.0, 1.0], [0.0, -1.0]])]
    if shape.kind == "box":
        return [_box()]
    if shape.kind == "figure":
        levels = np.arange(1, int(np.ceil(shape.heads))) / shape.heads * 2 - 1
        return [_box(), *(_level(float(y)) for y in levels), np.array([[0.0, -1.0], [0.0, 1.0]])]
    angle = np.linspace(0, 2 * np.pi, ELLIPSE_SIDES + 1)
    oval = np.stack([np.cos(angle), np.sin(angle)], 1)
    if shape.kind == "oval":
        return [oval]
    thirds = [1 - 2 * FACE_SHARE * k / 3 for k in (1, 2, 3)]
    return [oval, np.array([[0.0, -1.0], [0.0, 1.0]]), *(_level(y, float(np.sqrt(1 - y * y))) for y in (0.0, *thirds))]


def _box() -> Array:
    return np.array([[-1.0, -1.0], [1.0, -1.0], [1.0, 1.0], [-1.0, 1.0], [-1.0, -1.0]])


def _level(y: float, reach: float = 1.0) -> Array:
    return np.array([[-reach, y], [reach, y]])


def fitted_shape(kind: ShapeKind, points_px: Array, area_px2: float) -> BlockShape:
    """The shape that fits a mass, given as photo points (n, 2) evenly spread over it and its area in square pixels.

    An oval has the mass's own second moments and is no longer than it, a box is the smallest turned rectangle round it,
    a line lies along its length; of triangles with two equal sides that take in as much as the mass does the one that
    overlaps it most.
    """
    middle = points_px.mean(0)
    spread = np.cov((points_px - middle).T) if len(points_px) > 2 else np.eye(2)
    sizes, ways = np.linalg.eigh(spread)
    turn = float(np.degrees(np.arctan2(ways[1, 1], ways[0, 1])))
    turn = (turn + 90) % 180 - 90
    # A rectangle's moments ask for an oval longer than itself; it should not reach beyond the mass.
    reach = np.ptp((points_px - middle) @ ways, axis=0) / 2
    half_width, half_height = np.minimum(2 * np.sqrt(np.maximum(sizes, 0.25)), np.maximum(reach, 0.5))[::-1]
    x, y = middle.tolist()
    oval = BlockShape("oval", x, y, float(half_width), float(half_height), turn)
    if kind == "line":
        along = (points_px - middle) @ ways[:, 1]
        x, y = (middle + (along.min() + along.max()) / 2 * ways[:, 1]).tolist()
        return BlockShape("line", x, y, max(float(np.ptp(along)) / 2, 1.0), 0.0, turn)
    if kind == "triangle":
        return _fitted_triangle(points_px - middle, middle, area_px2)
    if kind in ("figure", "head"):
        return _upright(points_px, kind)
    return oval if kind == "oval" else _smallest_box(points_px)


def _smallest_box(points_px: Array) -> BlockShape:
    """Its width is the side that lies nearer to level."""
    corners = cv2.boxPoints(cv2.minAreaRect(points_px.astype(np.float32))).astype(np.float64)
    sides = (corners[1] - corners[0], corners[2] - corners[1])
    wide, high = sorted(sides, key=lambda side: abs(side[1]) - abs(side[0]))
    turn = (float(np.degrees(np.arctan2(wide[1], wide[0]))) + 90) % 180 - 90
    half_width, half_height = (max(float(np.hypot(*side)) / 2, 0.5) for side in (wide, high))
    x, y = corners.mean(0).tolist()
    return BlockShape("box", x, y, half_width, half_height, turn)


def _upright(points_px: Array, kind: ShapeKind) -> BlockShape:
    """A proportion guide stands upright round the whole mass."""
    low, high = points_px.min(0), points_px.max(0)
    half_width, half_height = np.maximum((high - low) / 2, 0.5).tolist()
    x, y = ((low + high) / 2).tolist()
    return BlockShape(kind, x, y, half_width, half_height)


def _fitted_triangle(points: Array, middle: Array, area_px2: float) -> BlockShape:
    """Tried every five degrees, for points told from their own middle."""
    points = points[:: max(1, len(points) // 3000)]
    x, y = middle.tolist()
    best, best_overlap = BlockShape("triangle", x, y, 1.0, 1.0), -1.0
    for turn in TRIANGLE_TURNS:
        angle = radians(float(turn))
        local = points @ np.array([[cos(angle), -sin(angle)], [sin(angle), cos(angle)]])
        low, high = np.percentile(local[:, 1], [0.5, 99.5])
        height = max(float(high - low), 1.0)
        half = max(area_px2 / height, 0.5)
        for side in np.percentile(local[:, 0], [40, 50, 60]):
            depth = (local[:, 1] - low) / height
            inside = (depth >= 0) & (depth <= 1) & (np.abs(local[:, 0] - side) <= half * depth)
            overlap = float(inside.mean())
            if overlap > best_overlap:
                centre = np.array([side, (low + high) / 2]) @ np.array(
                    [[cos(angle), sin(angle)], [-sin(angle), cos(angle)]]
                )
                best_overlap = overlap
                x, y = (middle + centre).tolist()
                best = BlockShape("triangle", x, y, half, height / 2, float(turn))
    return best
