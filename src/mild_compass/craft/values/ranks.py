"""Lightest and darkest regions in rank order, by the mean L* of what lies well inside them."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise
from typing import TYPE_CHECKING

import cv2
import numpy as np
import shapely

from mild_compass.craft.memo import Memo

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from mild_compass.craft.values.masses import Masses
    from mild_compass.craft.worked import Worked

RANKED = 3
LEAST_SHARE = 0.0012  # of the picture: smaller shapes are sparks, not lights
ALIKE = 2.5  # L*: nearer than that two shapes are of one value to the eye
NEAR_RING = 1.25  # times a ring's size: a shape whose middle lies within has its name


@dataclass(frozen=True, eq=False, slots=True)
class Ranked:
    """A shape: its number, its mean L*, its middle on the sheet in mm and its outline (n, 2)."""

    shape: int
    lightness: float
    middle_mm: tuple[float, float]
    outline_mm: NDArray[np.float64]


_MEANS: Memo[NDArray[np.float64]] = Memo(3)


def mean_lightness(masses: Masses) -> NDArray[np.float64]:
    """The mean L* of each shape (n,), of what lies well inside its outline; that of its value where it is too thin."""
    return _MEANS.of(masses, None, lambda: _means(masses))


def _means(masses: Masses) -> NDArray[np.float64]:
    found = []
    for polygon, value in zip(masses.shapes.polygons, masses.shapes.values.tolist(), strict=True):
        inside = shapely.buffer(polygon, -1.0)
        mask = np.zeros(masses.steps.shape, np.uint8)
        rings = [shapely.get_coordinates(ring) for ring in shapely.get_rings(inside)] if not inside.is_empty else []
        if rings:
            cv2.fillPoly(mask, [np.round(ring - 0.5).astype(np.int32).reshape(-1, 1, 2) for ring in rings], 1)
        found.append(float(masses.lightness[mask > 0].mean()) if mask.any() else float(masses.shown[value]))
    return np.array(found)


def ranked(masses: Masses, worked: Worked, lightest: bool) -> list[Ranked]:
    """The lightest or the darkest shapes, in order, without sparks."""
    lightness = mean_lightness(masses)
    areas = shapely.area(masses.shapes.polygons) / masses.steps.size
    order = np.argsort(-lightness if lightest else lightness, kind="stable")
    chosen = [k for k in order.tolist() if areas[k] >= LEAST_SHARE][:RANKED]
    box, (height, width) = worked.frame_map.box, masses.steps.shape
    scale = np.array([box.width / width, box.height / height])
    found = []
    for k in chosen:
        polygon = masses.shapes.polygons[k]
        x, y = (shapely.get_coordinates(shapely.point_on_surface(polygon))[0] * scale + box[:2]).tolist()
        outline = shapely.get_coordinates(shapely.get_exterior_ring(polygon)) * scale + box[:2]
        found.append(Ranked(k, float(lightness[k]), (x, y), outline))
    return found


def name_near(worked: Worked, place_mm: tuple[float, float]) -> str:
    """What lies at a place of the sheet by its ring, or where it lies."""
    best, least = "", NEAR_RING
    for ring in worked.study.rings:
        if not ring.name:
            continue
        x, y = worked.frame_map.to_sheet((ring.x_px, ring.y_px)).tolist()
        across = max(ring.radius_x_px * worked.frame_map.mm_per_px, 1e-6)
        down = max(ring.radius_y_px * worked.frame_map.mm_per_px, 1e-6)
        away = float(np.hypot((place_mm[0] - x) / across, (place_mm[1] - y) / down))
        if away < least:
            best, least = ring.name, away
    return best or where_in(worked, place_mm)


def where_in(worked: Worked, place_mm: tuple[float, float]) -> str:
    """In which ninth of the picture a place lies, in words."""
    box = worked.frame_map.box
    across, down = (place_mm[0] - box.left) / box.width, (place_mm[1] - box.top) / box.height
    row = ("top", "", "bottom")[min(int(3 * max(down, 0)), 2)]
    column = ("left", "", "right")[min(int(3 * max(across, 0)), 2)]
    return f"the {' '.join(word for word in (row, column) if word) or 'middle'}"


def competing(some: list[Ranked]) -> list[tuple[Ranked, Ranked]]:
    """Neighbours in the order that are of one value to the eye."""
    return [(a, b) for a, b in pairwise(some) if abs(a.lightness - b.lightness) < ALIKE]
