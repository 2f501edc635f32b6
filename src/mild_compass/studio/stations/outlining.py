"""What an instrument is that draws round things: a trail on the board, a click told apart from an outline."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import Qt

from mild_compass.studio.board.board import near
from mild_compass.studio.board.marks import paint_lasso
from mild_compass.studio.board.strokes import cased_line, pen
from mild_compass.studio.stations.instrument import Instrument

if TYPE_CHECKING:
    from collections.abc import Sequence

    from PySide6.QtGui import QPainter

    from mild_compass.craft.drawing import Dash
    from mild_compass.studio.board.sight import PhotoSight
    from mild_compass.studio.board.tool import BoardPoint
    from mild_compass.studio.desk import Desk

Points = tuple[tuple[float, float], ...]


class OutliningInstrument(Instrument):
    """Draws round something with the pressed button; each kind says what a click does, and what an outline."""

    cursor = Qt.CursorShape.CrossCursor
    step_px = 3.0  # from one place of the trail to the next
    click_px = 6.0  # a trail that goes no further from where it began is a click

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk)
        self._trail: list[BoardPoint] = []

    def clicked(self, at: BoardPoint) -> None:
        """A place was pointed at."""

    def drawn(self, trail: list[BoardPoint]) -> None:
        """Something was drawn round; the places in their order."""

    def press(self, at: BoardPoint) -> bool:
        self._trail = [at]
        return True

    def drag(self, at: BoardPoint) -> None:
        if self._trail and not near(self._trail[-1].widget, at.widget, self.step_px):
            self._trail.append(at)
            self.desk.board.update()

    def release(self, at: BoardPoint) -> None:
        trail, self._trail = [*self._trail, at], []
        if all(near(trail[0].widget, each.widget, self.click_px) for each in trail):
            self.clicked(trail[0])
        else:
            self.drawn(trail)

    def cancel(self) -> None:
        self._trail = []
        super().cancel()

    def paint_trail(self, painter: QPainter, photo: PhotoSight, closed: bool = True) -> None:
        """What has been drawn so far."""
        if self._trail:
            paint_lasso(painter, np.asarray(photo.to_widget([each.photo_px for each in self._trail])), closed=closed)

    def paint_outline(
        self, painter: QPainter, photo: PhotoSight, points: Sequence[tuple[float, float]], chosen: bool, dash: Dash
    ) -> None:
        """One that has been drawn, in pixels of the photo."""
        spots = photo.to_widget(np.array([*points, points[0]]))
        cased_line(painter, np.asarray(spots), pen("subject", 2.0 if chosen else 1.0, dash))


def points_of(trail: list[BoardPoint]) -> Points:
    """The places of a trail in pixels of the photo."""
    return tuple(each.photo_px for each in trail)
