"""Areas that must be inside the viewfinder."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt

from mild_compass.plan.edits.viewfinder import add_keep, change_keep
from mild_compass.plan.study import KeepArea
from mild_compass.studio.board.board import near
from mild_compass.studio.board.marks import paint_keep
from mild_compass.studio.desk import Desk
from mild_compass.studio.stations.instrument import Instrument
from mild_compass.studio.widgets import Entry, Names, button, form, soft

if TYPE_CHECKING:
    from PySide6.QtGui import QPainter
    from PySide6.QtWidgets import QWidget

    from mild_compass.studio.board.sight import PhotoSight, Sight
    from mild_compass.studio.board.tool import BoardPoint


class KeepInstrument(Instrument):
    """Marks what must not be cut off, by rectangles."""

    name = "keep"
    words = "Keep inside"
    icon = "keep"
    tells = ("spare", "bare_", "edge")
    hint = "Drag a rectangle round what must not be cut off. Found frames hold to it, and a reading warns."
    cursor = Qt.CursorShape.CrossCursor

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk)
        self._from: BoardPoint | None = None
        self._to: BoardPoint | None = None
        self._chosen = 0

    def options(self) -> QWidget:
        self._list = Names("Areas to keep inside", 3)
        self._list.chosen.connect(self._choose)
        self._name = Entry("What is kept", lambda text: text.strip() or "this", str)
        self._name.chosen.connect(self._rename)
        self._remove = button("Take it off", self.delete)
        self._none = soft("None yet.")
        return form(self._none, self._list, ("It is", self._name), self._remove)

    def refresh(self) -> None:
        areas = self.desk.study.keep
        self._chosen = min(self._chosen, max(0, len(areas) - 1))
        self._list.show_names([area.name for area in areas], self._chosen if areas else -1)
        self._none.setVisible(not areas)
        self._list.setVisible(len(areas) > 1)
        self._name.setEnabled(bool(areas))
        self._remove.setEnabled(bool(areas))
        self._name.show_value(areas[self._chosen].name if areas else "")

    def _choose(self, row: int) -> None:
        if row >= 0:
            self._chosen = row
            self.refresh()
            self.desk.board.update()

    def _rename(self, name: str) -> None:
        areas = self.desk.study.keep
        if areas:
            self.commit(change_keep(self._chosen, replace(areas[self._chosen], name=name[:40])))

    def press(self, at: BoardPoint) -> bool:
        self._from = self._to = at
        return True

    def drag(self, at: BoardPoint) -> None:
        self._to = at

    def release(self, at: BoardPoint) -> None:
        start, self._from = self._from, None
        assert start is not None
        if near(start.photo_px, at.photo_px, at.reach_px / 2):
            self._choose_at(at)
            return
        area = _area(start, at)
        if area is None:
            self.desk.say("Drag from one corner of the area to the opposite one.")
            return
        if self.commit(add_keep(area)):
            self._chosen = len(self.desk.study.keep) - 1
            self.refresh()

    def _choose_at(self, at: BoardPoint) -> None:
        x, y = at.photo_px
        for index, area in enumerate(self.desk.study.keep):
            if area.left_px <= x <= area.right_px and area.top_px <= y <= area.bottom_px:
                self._choose(index)
                return
        self.desk.say("Drag from one corner of the area to the opposite one.")

    def cancel(self) -> None:
        self._from = None
        super().cancel()

    def delete(self) -> None:
        if self.desk.study.keep:
            self.commit(change_keep(self._chosen, None))

    def tag(self) -> str | None:
        area = _area(self._from, self._to) if self._from and self._to else None
        if area is None:
            return None
        size = self.desk.frame_map.mm_per_px
        width, height = (area.right_px - area.left_px) * size, (area.bottom_px - area.top_px) * size
        return f"{self.desk.length(width)} × {self.desk.length(height)} on the sheet"

    def paint(self, painter: QPainter, photo: PhotoSight, sheet: Sight) -> None:
        for index, area in enumerate(self.desk.study.keep):
            paint_keep(painter, area, photo, index == self._chosen)
        draft = _area(self._from, self._to) if self._from and self._to else None
        if draft is not None:
            paint_keep(painter, draft, photo, True)


def _area(start: BoardPoint, end: BoardPoint) -> KeepArea | None:
    """The rectangle between two points of the board, or None where it has no size."""
    (x0, y0), (x1, y1) = start.photo_px, end.photo_px
    if min(abs(x1 - x0), abs(y1 - y0)) < 1:
        return None
    return KeepArea(min(x0, x1), min(y0, y1), max(x0, x1), max(y0, y1))
