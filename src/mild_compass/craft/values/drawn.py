"""Masses painted flat from their outlines, at any size: what every picture of them is made from."""

from __future__ import annotations

from typing import TYPE_CHECKING

import cv2
import numpy as np
import shapely

from mild_compass.craft.compiled import compiled

if TYPE_CHECKING:
    from collections.abc import Sequence

    from numpy.typing import NDArray

    from mild_compass.craft.values.outlines import MassShapes

    Array = NDArray[np.float64]
    Grey = NDArray[np.float32]
    Numbers = NDArray[np.int64]

EASED_PX, CRISP = 0.9, 2.2  # of a coarse map: how round it is drawn, and how sharp its edges stay


def lighter_than(shapes: MassShapes, count: int) -> tuple[object, ...]:
    """For each value but the darkest the area (shapely) of all that is so light or lighter: painted one over the other
    they leave no seams."""
    found = []
    for value in range(1, count):
        some = shapes.polygons[shapes.values >= value]
        found.append(shapely.coverage_union_all(some) if len(some) else shapely.Polygon())
    return tuple(found)


def rings_of(area: object) -> list[NDArray[np.float64]]:
    """The outlines and holes of an area, each closed."""
    parts = shapely.get_parts(np.array([area], object))
    rings = shapely.get_rings(parts[shapely.get_type_id(parts) == 3])
    points, which = shapely.get_coordinates(rings, return_index=True)
    return np.split(points, np.flatnonzero(np.diff(which)) + 1) if len(points) else []


def painted(shapes: MassShapes, levels: Sequence[float], of: tuple[int, ...], size: tuple[int, int]) -> Grey:
    """A picture (h, w) in ``size`` (width, height) of shapes that lie in pixels of a map ``of`` (h, w), each value at
    its level: every pixel by how much of it each shape covers, to the last digit."""
    found = np.empty(size[::-1], np.float32)
    paint(shapes, levels, of, found, 0.0)
    return found


def paint(
    shapes: MassShapes, levels: Sequence[float], of: tuple[int, ...], picture: NDArray[np.generic], added: float
) -> None:
    """The same into a picture of any kind, with so much added everywhere."""
    height, width = picture.shape
    level = np.append(np.asarray(levels, np.float64)[shapes.values], 0.0)  # OUTSIDE is nought
    lines, scale = shapes.lines, np.array([width / of[1], height / of[0]])
    changes = level[lines.beside[:, 0]] - level[lines.beside[:, 1]]
    _sweep(picture, added, *_in_rows(lines.points * scale, lines.first, changes, height))


@compiled
def _in_rows(points: Array, first: Numbers, changes: Array, rows: int) -> tuple[Numbers, Array]:
    """Lines (m,) cut at the rows of pixels: where each row begins among the pieces, and of each its x at both ends and
    by how much what lies right of it is lighter, times its height (n, 3)."""
    begins = np.zeros(rows + 1, np.int64)
    for line in range(len(changes)):
        for k in range(first[line], first[line + 1] - 1):
            y, to_y = points[k, 1], points[k + 1, 1]
            for row in range(int(min(y, to_y)), _below(y, to_y, rows)):
                begins[row + 1] += 1
    begins = np.cumsum(begins)
    at, pieces = begins.copy(), np.empty((begins[-1], 3))
    for line in range(len(changes)):
        for k in range(first[line], first[line + 1] - 1):
            y, to_y = points[k, 1], points[k + 1, 1]
            for row in range(int(min(y, to_y)), _below(y, to_y, rows)):
                low, high = min(max(y, row), row + 1), min(max(to_y, row), row + 1)
                slope = (points[k + 1, 0] - points[k, 0]) / (to_y - y)
                for end, height in enumerate((low, high)):
                    pieces[at[row], end] = points[k, 0] + slope * (height - y)
                pieces[at[row], 2] = (high - low) * changes[line]  # down, what lies left as one walks is right of it
                at[row] += 1
    return begins, pieces


@compiled
def _below(y: float, to_y: float, rows: int) -> int:
    """The row below the last that a line passes; a level one passes none."""
    return min(int(np.ceil(max(y, to_y))), rows) if y != to_y else 0


@compiled
def _sweep(picture: NDArray[np.generic], added: float, begins: Numbers, pieces: Array) -> None:
    """Paint row by row: each piece changes all that is right of it, and what it crosses by its share."""
    height, width = picture.shape
    change, touched = np.zeros(width + 2), np.zeros(width // 8 * 8 + 16, np.uint8)
    eights = touched.view(np.uint64)
    for row in range(height):
        for k in range(begins[row], begins[row + 1]):
            x, to_x, by = min(pieces[k, 0], pieces[k, 1]), max(pieces[k, 0], pieces[k, 1]), pieces[k, 2]
            pixel, long = int(x), to_x - x
            while True:
                stop = min(to_x, pixel + 1.0)
                part, share = by * (stop - x) / long if long > 0 else by, (x + stop) / 2 - pixel
                change[pixel] += part * (1 - share)
                change[pixel + 1] += part * share
                touched[pixel] = touched[pixel + 1] = 1
                if stop >= to_x:
                    break
                x, pixel = stop, pixel + 1
        touched[width] = 1
        line, total, start = picture[row], added, 0
        while start < width:
            stop = start + 1
            while not touched[stop]:
                stop += 8 if stop & 7 == 0 and eights[stop >> 3] == 0 else 1
            total += change[start]
            change[start], touched[start] = 0, 0
            if stop == start + 1:
                line[start] = picture.dtype.type(total)
            else:
                line[start:stop] = picture.dtype.type(total)
            start = stop
        change[width:], touched[width : width + 2] = 0, 0


def flowing(steps: NDArray[np.uint8], shown: tuple[float, ...], longest_px: int) -> Grey:
    """L* (h, w) of a coarse value map drawn larger, its borders as curves: a first look, in a few milliseconds."""
    times = longest_px / max(steps.shape)
    size = (max(1, round(steps.shape[1] * times)), max(1, round(steps.shape[0] * times)))
    canvas = np.full(size[::-1], shown[0], np.float32)
    for value in range(1, len(shown)):
        lighter = cv2.GaussianBlur((steps >= value).astype(np.float32), (0, 0), EASED_PX)
        large = cv2.resize(lighter, size, interpolation=cv2.INTER_CUBIC)
        edge = np.clip((large - np.float32(0.5)) * np.float32(times * CRISP) + np.float32(0.5), 0, 1)
        canvas += edge * (np.float32(shown[value]) - canvas)
    return canvas
