"""Label maps rasterised from their outlines, at any size: what every picture of the masses is made from."""

from __future__ import annotations

from typing import TYPE_CHECKING

import cv2
import numpy as np
import shapely

from mild_compass.craft.kernels import raster

if TYPE_CHECKING:
    from collections.abc import Sequence

    from numpy.typing import NDArray

    from mild_compass.craft.values.outlines import MassShapes

    Array = NDArray[np.float64]
    Grey = NDArray[np.float32]

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
    shapes: MassShapes, levels: Sequence[float], of: tuple[int, ...], picture: raster.Painted, added: float
) -> None:
    """The same into a picture of floats or bytes, with so much added everywhere."""
    height, width = picture.shape
    level = np.append(np.asarray(levels, np.float64)[shapes.values], 0.0)  # OUTSIDE is nought
    lines, scale = shapes.lines, np.array([width / of[1], height / of[0]])
    changes = level[lines.beside[:, 0]] - level[lines.beside[:, 1]]
    raster.sweep(picture, added, *raster.cut_at_rows(lines.points * scale, lines.first, changes, height))


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
