"""The map between photo pixels and millimetres on the sheet: a similarity given by frame and paper."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import ArrayLike, NDArray

if TYPE_CHECKING:
    from mild_compass.plan.model import Frame, Paper

Points = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class FrameMap:
    """Sheet point in mm = scale · (photo point − frame corner) + margin."""

    mm_per_px: float
    left_px: float
    top_px: float
    margin_mm: float

    @classmethod
    def of(cls, frame: Frame, paper: Paper) -> FrameMap:
        """The map that lays the frame on the picture area."""
        return cls(paper.picture_width_mm / frame.width_px, frame.x_px, frame.y_px, paper.margin_mm)

    def to_sheet(self, points_px: ArrayLike) -> Points:
        """Photo points (n, 2) or (2,) in pixels to sheet points in mm."""
        points = np.asarray(points_px, np.float64)
        return (points - (self.left_px, self.top_px)) * self.mm_per_px + self.margin_mm

    def to_photo(self, points_mm: ArrayLike) -> Points:
        """Sheet points (n, 2) or (2,) in mm to photo points in pixels."""
        points = np.asarray(points_mm, np.float64)
        return (points - self.margin_mm) / self.mm_per_px + (self.left_px, self.top_px)
