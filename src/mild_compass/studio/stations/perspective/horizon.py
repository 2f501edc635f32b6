"""The horizon: set, dragged, levelled, tilted, or laid through the points."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt

from mild_compass.craft.viewfinder.moves import turned_to
from mild_compass.craft.worked import height_at_middle
from mild_compass.plan.edits.perspective import set_horizon
from mild_compass.plan.edits.viewfinder import move_frame
from mild_compass.plan.perspective import Horizon
from mild_compass.plan.study import TURN_DEG
from mild_compass.studio.board.board import handle
from mild_compass.studio.board.strokes import cased_line, pen
from mild_compass.studio.desk import Desk
from mild_compass.studio.stations.instrument import Instrument
from mild_compass.studio.stations.perspective.strings import paint_strings
from mild_compass.studio.widgets import LengthEntry, button, form, number_entry, soft

if TYPE_CHECKING:
    from PySide6.QtGui import QPainter
    from PySide6.QtWidgets import QWidget

    from mild_compass.studio.board.sight import PhotoSight, Sight
    from mild_compass.studio.board.tool import BoardPoint


class HorizonInstrument(Instrument):
    """Sets the horizon at the artist's eye level."""

    name = "horizon"
    words = "Horizon"
    icon = "horizon"
    tells = ("horizon", "eye", "heights", "heads")
    hint = "Drag the line to your eye level, or lay it through the points of the level edges."
    cursor = Qt.CursorShape.SizeVerCursor

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk)
        self._held = False

    def options(self) -> QWidget:
        self._height = LengthEntry("Horizon below the top of the sheet", lambda: self.desk.computed.unit)
        self._height.chosen.connect(self._set_height)
        self._through = button("Lay it through the points", lambda: self.commit(set_horizon(None)))
        self._tilt = number_entry("Tilt of the horizon, clockwise", "°")
        self._tilt.chosen.connect(self._set_tilt)
        self._level = button("Level the photo", self._level_photo, tip="Turn the viewfinder until the horizon is level")
        self._source = soft("")
        return form(("Below the top", self._height), ("Tilt", self._tilt), self._through, self._level, self._source)

    def refresh(self) -> None:
        height = self._height_mm()
        by_hand = self.desk.study.perspective.horizon is not None
        self._height.show_value(height if height is not None else 0.0)
        self._through.setEnabled(by_hand)
        tilt = self._tilt_deg()
        self._tilt.show_value(round(tilt, 2))
        self._tilt.setEnabled(height is not None)
        self._level.setEnabled(height is not None and abs(tilt - self.desk.study.frame.turn_deg) > 0.05)
        words = "Set by hand." if by_hand else "Through the points of the level sets."
        self._source.setText(words if height is not None else "Not set yet: drag on the picture at your eye level.")

    def _tilt_deg(self) -> float:
        worked = self.desk.computed.perspective()
        return worked.horizon.tilt_deg if worked is not None and worked.horizon is not None else 0.0

    def _set_tilt(self, tilt_deg: float) -> None:
        if abs(tilt_deg) > TURN_DEG:
            self._tilt.refuse("Between −45 and 45°. The horizon stays as it was.")
            return
        self.commit(set_horizon(replace(self._now(), tilt_deg=tilt_deg)))

    def _now(self) -> Horizon:
        """The horizon as one set by hand: through the middle of the photo, as it lies."""
        worked = self.desk.computed.perspective()
        photo = self.desk.ground
        middle = photo.width_px / 2
        if worked is None or worked.horizon is None:
            return Horizon(photo.height_px / 2, 0.0, middle)
        return Horizon(worked.horizon.y_at(middle), worked.horizon.tilt_deg, middle)

    def _level_photo(self) -> None:
        """The viewfinder turns, so that the horizon comes out level on the sheet."""
        photo = self.desk.ground
        tilt = min(max(self._tilt_deg(), -TURN_DEG), TURN_DEG)
        self.commit(move_frame(turned_to(self.desk.study.frame, tilt, photo)))

    def _height_mm(self) -> float | None:
        worked, frame_map = self.desk.computed.perspective(), self.desk.board.frame_map
        if worked is None or worked.horizon is None or frame_map is None:
            return None
        return height_at_middle(worked.horizon, frame_map)

    def _set_height(self, height_mm: float) -> None:
        frame_map = self.desk.board.frame_map
        if abs(height_mm) > 5000:
            self._height.refuse("That is further than any board reaches. The horizon stays as it was.")
        elif frame_map is not None:
            middle = (frame_map.box.left + frame_map.box.right) / 2
            x, y = frame_map.to_photo((middle, height_mm)).tolist()
            self.commit(set_horizon(Horizon(y, self._tilt_deg(), x)))

    def press(self, at: BoardPoint) -> bool:
        self._held = True
        self.drag(at)
        return True

    def drag(self, at: BoardPoint) -> None:
        self.desk.session.preview(set_horizon(Horizon(at.photo_px[1], self._tilt_deg(), at.photo_px[0])))

    def release(self, at: BoardPoint) -> None:
        self._held = False
        self.commit(set_horizon(Horizon(at.photo_px[1], self._tilt_deg(), at.photo_px[0])))

    def cancel(self) -> None:
        self._held = False
        super().cancel()

    def nudge(self, dx_mm: float, dy_mm: float) -> None:
        height = self._height_mm()
        if height is not None and dy_mm:
            self._set_height(height + dy_mm)

    def typed_value(self) -> str | None:
        height = self._height_mm()
        return None if height is None else self.desk.length(height)

    def set_typed(self, text: str) -> bool:
        return self.accepted(self._height.type_in(text))

    def tag(self) -> str | None:
        height = self._height_mm()
        if not self._held or height is None:
            return None
        box = self.desk.frame_map.box
        share = 100 * (height - box.top) / box.height
        return f"{self.desk.length(height)} below the top · {share:.0f} % down"

    def paint(self, painter: QPainter, photo: PhotoSight, sheet: Sight) -> None:
        paint_strings(painter, self.desk, photo, None)
        worked = self.desk.computed.perspective()
        if worked is None or worked.horizon is None:
            return
        width = self.desk.board.width()
        left, right = photo.from_widget([[0.0, 0.0], [float(width), 0.0]])[:, 0]
        line = photo.to_widget([[left, worked.horizon.y_at(left)], [right, worked.horizon.y_at(right)]])
        cased_line(painter, line, pen("perspective", 1.8))
        x, y = line.mean(0).tolist()
        handle(painter, x, y, self._held)
