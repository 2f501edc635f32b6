"""The map between photo pixels and millimetres on the sheet, given by frame and paper.

It goes by way of *turned photo pixels*: the photo turned, flipped and stretched about its own middle until the frame
stands upright in it. From there to the sheet it is a similarity.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from math import cos, radians, sin, sqrt
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import ArrayLike, NDArray

from mild_compass.craft.geometry.lines import Box, picture_box

if TYPE_CHECKING:
    from mild_compass.plan.paper import Paper
    from mild_compass.plan.study import Frame

Points = NDArray[np.float64]
UNTURNED = np.eye(2)  # the identity


@dataclass(frozen=True, eq=False, slots=True)
class FrameMap:
    """Sheet point in mm = scale · (turn · photo point − corner of the frame) + corner of ``box``.

    ``turn`` (2, 2) takes photo pixels to turned photo pixels, in which the frame's corner is (left_px, top_px);
    ``box`` is what the frame fills on the sheet.
    """

    mm_per_px: float
    left_px: float
    top_px: float
    box: Box
    turn: Points

    @classmethod
    def of(cls, frame: Frame, paper: Paper) -> FrameMap:
        """The map that lays the frame on the picture area."""
        return _laid(frame, paper)

    def turned(self, points_px: ArrayLike) -> Points:
        """Photo points (n, 2) or (2,) to turned photo points."""
        points = np.asarray(points_px, np.float64)
        return points if self.turn is UNTURNED else points @ self.turn.T

    def unturned(self, points_px: ArrayLike) -> Points:
        """Turned photo points to photo points."""
        points = np.asarray(points_px, np.float64)
        return points if self.turn is UNTURNED else points @ np.linalg.inv(self.turn).T

    def to_sheet(self, points_px: ArrayLike) -> Points:
        """Photo points (n, 2) or (2,) in pixels to sheet points in mm."""
        return (self.turned(points_px) - (self.left_px, self.top_px)) * self.mm_per_px + self.box[:2]

    def to_photo(self, points_mm: ArrayLike) -> Points:
        """Sheet points (n, 2) or (2,) in mm to photo points in pixels."""
        points = np.asarray(points_mm, np.float64)
        return self.unturned((points - self.box[:2]) / self.mm_per_px + (self.left_px, self.top_px))

    def to_share(self, points_px: ArrayLike) -> Points:
        """Photo points to shares of the frame, 0-1 from its left and from its top."""
        left, top, right, bottom = self.box
        return (self.to_sheet(points_px) - (left, top)) / (right - left, bottom - top)

    def matrix(self) -> Points:
        """The map as a matrix (3, 3) on homogeneous photo points."""
        found = np.eye(3)
        found[:2, :2] = self.turn * self.mm_per_px
        found[:2, 2] = self.to_sheet((0.0, 0.0))
        return found

    def ellipse_bounds(self, x: float, y: float, radius_x: float, radius_y: float) -> Box:
        """Bounds on the sheet, in mm, of an ellipse on the photo with level axes, given in pixels."""
        middle = self.to_sheet((x, y))
        reach = np.hypot(self.turn[:, 0] * radius_x, self.turn[:, 1] * radius_y) * self.mm_per_px
        return Box(*(middle - reach).tolist(), *(middle + reach).tolist())


def _turn(frame: Frame, across: float, down: float) -> Points:
    angle = radians(frame.turn_deg)
    back = np.array([[cos(angle), sin(angle)], [-sin(angle), cos(angle)]])
    side = -1.0 if frame.flipped else 1.0
    return np.asarray(np.diag([across * side, down]) @ back)


@lru_cache(maxsize=16)
def _laid(frame: Frame, paper: Paper) -> FrameMap:
    """Kept, for one picture asks for it many times."""
    box = picture_box(paper, frame)
    across = (box.right - box.left) / frame.width_px
    down = (box.bottom - box.top) / frame.height_px
    scale = sqrt(across * down)
    turn = UNTURNED if frame.plain else _turn(frame, across / scale, down / scale)
    middle = turn @ frame.middle
    half = np.array([frame.width_px * across, frame.height_px * down]) / scale / 2
    return FrameMap(scale, float(middle[0] - half[0]), float(middle[1] - half[1]), box, turn)
