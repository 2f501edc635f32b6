"""Where we look from: the map from sheet mm or photo pixels to the widget."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, Literal

import numpy as np

if TYPE_CHECKING:
    from numpy.typing import ArrayLike, NDArray

    from mild_compass.craft.geometry.frame_map import FrameMap

Mode = Literal["photo", "sheet"]
FARTHEST, CLOSEST = 0.004, 80.0  # widget pixels per unit of the view: pins many sheets away, and single pixels


@dataclass(frozen=True, slots=True)
class Sight:
    """Widget point = scale · view point + shift; the view's own points are photo pixels or sheet mm."""

    mode: Mode
    scale: float
    dx: float
    dy: float

    def to_widget(self, points: ArrayLike) -> NDArray[np.float64]:
        """View points (n, 2) or (2,) to widget pixels."""
        return np.asarray(points, np.float64) * self.scale + (self.dx, self.dy)

    def from_widget(self, points: ArrayLike) -> NDArray[np.float64]:
        """Widget pixels to view points."""
        return (np.asarray(points, np.float64) - (self.dx, self.dy)) / self.scale

    def of_sheet(self, frame_map: FrameMap) -> Sight:
        """The same sight as a map from sheet mm."""
        if self.mode == "sheet":
            return self
        scale = self.scale / frame_map.mm_per_px
        left, top = self.to_widget((frame_map.left_px, frame_map.top_px))
        return Sight("sheet", scale, left - frame_map.margin_mm * scale, top - frame_map.margin_mm * scale)

    def of_photo(self, frame_map: FrameMap) -> Sight:
        """The same sight as a map from photo pixels."""
        if self.mode == "photo":
            return self
        scale = self.scale * frame_map.mm_per_px
        dx, dy = self.to_widget(frame_map.to_sheet((0.0, 0.0)))
        return Sight("photo", scale, float(dx), float(dy))

    def panned(self, dx: float, dy: float) -> Sight:
        """Shifted by so many widget pixels."""
        return Sight(self.mode, self.scale, self.dx + dx, self.dy + dy)

    def zoomed(self, factor: float, x: float, y: float) -> Sight:
        """Zoomed about a widget point, which stays."""
        scale = min(max(self.scale * factor, FARTHEST), CLOSEST)
        factor = scale / self.scale
        return Sight(self.mode, scale, x - (x - self.dx) * factor, y - (y - self.dy) * factor)


def fitting(mode: Mode, size: tuple[float, float], width: float, height: float, room: float) -> Sight:
    """The sight that shows a whole page of this size in a widget, with room in pixels on all sides."""
    scale = max(min((width - 2 * room) / size[0], (height - 2 * room) / size[1]), 1e-3)
    return Sight(mode, scale, (width - scale * size[0]) / 2, (height - scale * size[1]) / 2)
