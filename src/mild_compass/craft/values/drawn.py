"""Masses painted flat from their outlines, at any size: what every picture of them is made from."""

from __future__ import annotations

from typing import TYPE_CHECKING

import cv2
import numpy as np
import shapely

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from mild_compass.craft.values.outlines import MassShapes

    Grey = NDArray[np.float32]

SHIFT = 6  # binary places of a pixel
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


def painted(areas: tuple[object, ...], shown: tuple[float, ...], of: tuple[int, ...], size: tuple[int, int]) -> Grey:
    """L* (h, w) of masses whose areas lie in pixels of a map ``of`` (h, w), drawn in ``size`` (width, height)."""
    width, height = size
    scale = np.array([width / of[1], height / of[0]])
    canvas = np.full((height, width), shown[0], np.float32)
    for area, value in zip(areas, shown[1:], strict=True):
        covered = coverage(area, scale, size)
        canvas += covered * (np.float32(value) - canvas)
    return canvas


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


def coverage(area: object, scale: NDArray[np.float64], size: tuple[int, int]) -> Grey:
    """How much of each pixel (h, w) an area covers, 0 to 1."""
    rings = [np.round((ring * scale - 0.5) * 2**SHIFT).astype(np.int32).reshape(-1, 1, 2) for ring in rings_of(area)]
    if not rings:
        return np.zeros((size[1], size[0]), np.float32)
    beyond = 4.0
    around = np.array([[-beyond, -beyond], [size[0] + beyond, -beyond], [size[0] + beyond, size[1] + beyond],
                       [-beyond, size[1] + beyond]])  # fmt: skip
    rest = np.round(around * 2**SHIFT).astype(np.int32).reshape(-1, 1, 2)
    # OpenCV fills up to and with the outline, half a pixel too far: the area and what is left are each filled so.
    inside, outside = (np.zeros((size[1], size[0]), np.uint8) for _ in range(2))
    cv2.fillPoly(inside, rings, 255, cv2.LINE_AA, SHIFT)
    cv2.fillPoly(outside, [rest, *rings], 255, cv2.LINE_AA, SHIFT)
    return np.asarray((inside.astype(np.float32) + (255 - outside.astype(np.float32))) / 510, np.float32)
