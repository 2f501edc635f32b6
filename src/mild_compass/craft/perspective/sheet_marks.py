"""What the perspective leaves on paper: the board for sheet and pins, ticks along two edges, the cone of vision."""

from __future__ import annotations

from dataclasses import dataclass
from math import radians, tan
from typing import TYPE_CHECKING

import numpy as np

from mild_compass.craft.perspective.spacing import edge_ticks
from mild_compass.craft.perspective.worked import homogeneous_on_sheet

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from mild_compass.craft.geometry.frame_map import FrameMap
    from mild_compass.craft.perspective.worked import WorkedPerspective
    from mild_compass.plan.paper import Paper

    Array = NDArray[np.float64]

CONE_DEG = 60.0  # common practice, no published source
PIN_ROOM_MM = 20.0  # of board beyond a pin
TICK_MM = 3.0
FARTHEST_PIN_MM = 1500.0  # beyond that no board is laid out, and ticks along the edges take the pin's place
TICK_SPACING_MM = 20.0


@dataclass(frozen=True, slots=True)
class BoardSize:
    """The smallest board that holds the sheet and every pin, and what it reaches beyond the sheet's edges, in mm."""

    width_mm: float
    height_mm: float
    left_mm: float
    top_mm: float
    right_mm: float
    bottom_mm: float


def points_on_sheet(worked: WorkedPerspective, frame_map: FrameMap) -> dict[str, tuple[float, float]]:
    """Every finite point by its letter, in sheet mm."""
    found = {}
    for point in worked.aims:
        if not point.at_infinity:
            x, y, w = homogeneous_on_sheet(point, frame_map)
            found[point.letter] = (float(x / w), float(y / w))
    return found


def board_size(worked: WorkedPerspective, frame_map: FrameMap, paper: Paper) -> BoardSize | None:
    """None when no point lies off the sheet, or all that do are too far for a pin."""
    off = {
        letter: (x, y)
        for letter, (x, y) in points_on_sheet(worked, frame_map).items()
        if not (0 <= x <= paper.width_mm and 0 <= y <= paper.height_mm) and pin_reach(x, y, paper) <= FARTHEST_PIN_MM
    }
    if not off:
        return None
    xs, ys = zip(*off.values(), strict=True)
    left, right = max(0.0, -min(xs) + PIN_ROOM_MM), max(0.0, max(xs) - paper.width_mm + PIN_ROOM_MM)
    top, bottom = max(0.0, -min(ys) + PIN_ROOM_MM), max(0.0, max(ys) - paper.height_mm + PIN_ROOM_MM)
    left, right = (side if side > PIN_ROOM_MM else 0.0 for side in (left, right))
    top, bottom = (side if side > PIN_ROOM_MM else 0.0 for side in (top, bottom))
    return BoardSize(paper.width_mm + left + right, paper.height_mm + top + bottom, left, top, right, bottom)


def pin_reach(x_mm: float, y_mm: float, paper: Paper) -> float:
    """How far a point lies from the sheet, in mm; nothing on it."""
    return float(np.hypot(max(0.0, -x_mm, x_mm - paper.width_mm), max(0.0, -y_mm, y_mm - paper.height_mm)))


def ticks_on_sheet(worked: WorkedPerspective, frame_map: FrameMap) -> dict[str, list[tuple[Array, Array]]]:
    """By letter of every point right or left of the picture: matching places on both upright sides, in mm.

    A line through both places of one pair runs to the point.
    """
    horizon, box, found = worked.horizon, frame_map.box, {}
    if horizon is None:
        return {}
    line = horizon.through(frame_map)
    slope = (line[1, 1] - line[0, 1]) / (line[1, 0] - line[0, 0])
    at_left = float(line[0, 1] + slope * (box.left - line[0, 0]))
    at_right = float(line[0, 1] + slope * (box.right - line[0, 0]))
    for point in worked.aims:
        mm = homogeneous_on_sheet(point, frame_map)
        if point.at_infinity or box.left <= mm[0] / mm[2] <= box.right:
            continue
        x, y = float(mm[0] / mm[2]), float(mm[1] / mm[2])
        # Measured from the line through the point that is nearest to the horizon: the horizon through the point itself.
        low, high = at_left, at_right
        shift = y - (at_left + slope * (x - box.left))
        left, right = edge_ticks(
            box.left, box.right, low + shift, high + shift, (x, y, 1.0), TICK_SPACING_MM, box.top, box.bottom
        )
        found[point.letter] = [
            (np.array([box.left, a]), np.array([box.right, b])) for a, b in zip(left, right, strict=True)
        ]
    return found


def cone_px(worked: WorkedPerspective) -> tuple[tuple[float, float], float] | None:
    """Middle and radius of the 60 degree cone of vision in photo pixels; None while the camera is not known."""
    camera = worked.camera
    if camera is None:
        return None
    return camera.centre_px, camera.focal.px * tan(radians(CONE_DEG / 2))
