"""Where we look from: the map from sheet mm or photo pixels to the widget."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

if TYPE_CHECKING:
    from numpy.typing import ArrayLike, NDArray

    from mild_compass.craft.geometry.frame_map import FrameMap
    from mild_compass.craft.geometry.lines import Box
    from mild_compass.studio.words import Mode

FARTHEST, CLOSEST = 0.004, 80.0  # widget pixels per unit of the view: pins many sheets away, and single pixels


@dataclass(frozen=True, slots=True)
class Sight:
    """Widget point = scale · view point + shift; the view's own points are turned photo pixels or sheet mm."""

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
        return Sight("sheet", scale, left - frame_map.box.left * scale, top - frame_map.box.top * scale)

    def of_photo(self, frame_map: FrameMap) -> PhotoSight:
        """The same sight as a map from photo pixels, which a turned or flipped viewfinder turns with it."""
        if self.mode == "photo":
            return PhotoSight(frame_map.turn * self.scale, (self.dx, self.dy))
        shift = self.to_widget(frame_map.to_sheet((0.0, 0.0)))
        scale = self.scale * frame_map.mm_per_px
        return PhotoSight(frame_map.turn * scale, (float(shift[0]), float(shift[1])))

    def panned(self, dx: float, dy: float) -> Sight:
        """Shifted by so many widget pixels."""
        return Sight(self.mode, self.scale, self.dx + dx, self.dy + dy)

    def zoomed(self, factor: float, x: float, y: float) -> Sight:
        """Zoomed about a widget point, which stays."""
        scale = min(max(self.scale * factor, FARTHEST), CLOSEST)
        factor = scale / self.scale
        return Sight(self.mode, scale, x - (x - self.dx) * factor, y - (y - self.dy) * factor)


def fitting(mode: Mode, page: Box, width: float, height: float, room: float) -> Sight:
    """The sight that shows a whole page in a widget, with room in pixels on all sides."""
    scale = max(min((width - 2 * room) / page.width, (height - 2 * room) / page.height), 1e-3)
    left, top = (width - scale * page.width) / 2, (height - scale * page.height) / 2
    return Sight(mode, scale, left - scale * page.left, top - scale * page.top)


@dataclass(frozen=True, eq=False, slots=True)
class PhotoSight:
    """Widget point = matrix · photo point + shift."""

    matrix: NDArray[np.float64]
    shift: tuple[float, float]

    @property
    def scale(self) -> float:
        """Widget pixels to a photo pixel, on the whole."""
        return float(np.sqrt(abs(np.linalg.det(self.matrix))))

    def to_widget(self, points: ArrayLike) -> NDArray[np.float64]:
        """Photo points (n, 2) or (2,) to widget pixels."""
        return np.asarray(points, np.float64) @ self.matrix.T + self.shift

    def from_widget(self, points: ArrayLike) -> NDArray[np.float64]:
        """Widget pixels to photo points."""
        return np.asarray((np.asarray(points, np.float64) - self.shift) @ np.linalg.inv(self.matrix).T)
