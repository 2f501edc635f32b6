"""The eye's path, drawn by the artist as a soft curve: where it enters, turns and rests."""

from __future__ import annotations

from math import hypot
from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import QPointF, Qt

from mild_compass.craft.armature.eye_path import smoothed_path
from mild_compass.plan.edits.armature import draw_eye_path
from mild_compass.studio.board.strokes import cased_line, casing, pen
from mild_compass.studio.stations.outlining import OutliningInstrument, points_of
from mild_compass.studio.widgets import button, form, soft

if TYPE_CHECKING:
    from PySide6.QtGui import QPainter
    from PySide6.QtWidgets import QWidget

    from mild_compass.craft.armature.eye_path import EyePath
    from mild_compass.studio.board.sight import PhotoSight, Sight
    from mild_compass.studio.board.tool import BoardPoint


class EyePathInstrument(OutliningInstrument):
    """Drag the way the eye should go, from where it enters to where it rests."""

    name = "eye path"
    words = "Eye path"
    icon = "path"
    tells = ("path",)
    hint = "Draw how the eye should travel, from where it enters to where it rests. The line is softened for you."
    step_px, click_px = 5.0, 15.0

    def options(self) -> QWidget:
        self._state = soft("")
        self._remove = button("Take it off", self.delete)
        return form(self._state, self._remove)

    def refresh(self) -> None:
        path = self._path()
        self._remove.setEnabled(path is not None)
        if path is None:
            self._state.setText("Not drawn yet.")
        else:
            turns = len(path.turns)
            told = self.desk.length(path.length_mm)
            self._state.setText(
                f"{told} from entry to rest, {turns} turn{'s' * (turns != 1)}. Draw again to change it."
            )

    def _path(self) -> EyePath | None:
        points = self.desk.study.structure.eye_path
        if not points:
            return None
        box = self.desk.frame_map.box
        return smoothed_path(self.desk.frame_map.to_sheet(np.array(points)), hypot(box.width, box.height))

    def clicked(self, at: BoardPoint) -> None:
        self.desk.say("Draw the path from where the eye enters to where it rests; that was a click.")

    def drawn(self, trail: list[BoardPoint]) -> None:
        self.commit(draw_eye_path(tuple((round(x, 1), round(y, 1)) for x, y in points_of(trail))))

    def delete(self) -> None:
        self.commit(draw_eye_path(()))

    def paint(self, painter: QPainter, photo: PhotoSight, sheet: Sight) -> None:
        if len(self._trail) > 1:
            cased_line(painter, photo.to_widget([each.photo_px for each in self._trail]), pen("subject", 1.6))
            return
        path = self._path()
        if path is not None:
            paint_path(painter, path, sheet)


def paint_path(painter: QPainter, path: EyePath, sheet: Sight) -> None:
    """The curve with an open ring at its entry, dots at its turns and a full ring where it rests."""
    points = sheet.to_widget(path.points)
    cased_line(painter, points, pen("subject", 2.2))
    colour = pen("subject", 1.6)
    for index, filled, size in ((0, False, 6.0), *((k, True, 3.5) for k in path.turns), (len(points) - 1, True, 6.5)):
        x, y = points[index].tolist()
        painter.setPen(casing(1.6))
        painter.drawEllipse(QPointF(x, y), size, size)
        painter.setPen(colour)
        painter.setBrush(colour.color() if filled else Qt.GlobalColor.white)
        painter.drawEllipse(QPointF(x, y), size, size)
    painter.setBrush(Qt.BrushStyle.NoBrush)
