"""Lines of the artist's own: dropped through a crossing by a click, or drawn from crossing to crossing."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import QPointF, Qt

from mild_compass.craft.armature.constructions import crossings
from mild_compass.craft.armature.marks import drawn_lines
from mild_compass.plan.edits.armature import add_own_lines, remove_own_line
from mild_compass.plan.errors import PlanError
from mild_compass.plan.structure import OwnLine
from mild_compass.studio.board.board import near
from mild_compass.studio.board.strokes import cased_line, pen
from mild_compass.studio.desk import Desk
from mild_compass.studio.stations.instrument import Instrument
from mild_compass.studio.widgets import Choice, Names, button, form, soft

if TYPE_CHECKING:
    from PySide6.QtGui import QPainter
    from PySide6.QtWidgets import QWidget

    from mild_compass.studio.board.sight import PhotoSight, Sight
    from mild_compass.studio.board.tool import BoardPoint

DROPS = [("both lines", ("upright", "level")), ("an upright", ("upright",)), ("a level", ("level",))]
KIND_WORDS = {"own": "line", "upright": "upright", "level": "level"}


class OwnLinesInstrument(Instrument):
    """A click on a crossing drops lines through it; a drag draws a line between two places, held by crossings."""

    name = "own lines"
    words = "Drop and draw lines"
    icon = "drop"
    tells = ("engage", "weak")
    hint = "Click a crossing to drop an upright and a level through it. Drag from crossing to crossing for a line."
    cursor = Qt.CursorShape.CrossCursor

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk)
        self._from: tuple[float, float] | None = None
        self._to: tuple[float, float] | None = None
        self._hover: tuple[float, float] | None = None
        self._chosen = -1

    def options(self) -> QWidget:
        self._drop = Choice(DROPS, "What a click drops")
        self._list = Names("Own lines", 5)
        self._list.chosen.connect(self._choose)
        self._remove = button("Remove this line", self.delete)
        self._none = soft("None yet. They move and stretch with the frame.")
        return form(("A click drops", self._drop), self._none, self._list, self._remove)

    def refresh(self) -> None:
        own = self.desk.study.structure.own
        self._chosen = min(self._chosen, len(own) - 1)
        self._list.show_names([f"{k + 1}  {self._words(line)}" for k, line in enumerate(own)], self._chosen)
        self._none.setVisible(not own)
        self._list.setVisible(bool(own))
        self._remove.setEnabled(self._chosen >= 0)

    def _words(self, line: OwnLine) -> str:
        box, length = self.desk.frame_map.box, self.desk.length
        if line.kind == "upright":
            return f"upright, {length(line.x0 * box.width)} from the left"
        if line.kind == "level":
            return f"level, {length(line.y0 * box.height)} from the top"
        wide, high = (line.x1 - line.x0) * box.width, (line.y1 - line.y0) * box.height
        return f"line, {length(float(np.hypot(wide, high)))}"

    def _choose(self, row: int) -> None:
        self._chosen = row
        self._remove.setEnabled(row >= 0)
        self.desk.board.update()

    # -- on the board -----------------------------------------------------------------------------------------

    def _held(self, at: BoardPoint) -> tuple[float, float]:
        """The place as shares of the frame, at a crossing or corner when one is near."""
        box = self.desk.frame_map.box
        frame = np.array([[[0, 0], [1, 0]], [[1, 0], [1, 1]], [[1, 1], [0, 1]], [[0, 1], [0, 0]]], np.float64)
        edges = frame * (box.width, box.height) + box[:2]
        points = crossings(np.concatenate([drawn_lines(self.desk.study, box), edges]))
        x, y = at.sheet_mm
        reach = at.reach_px * self.desk.frame_map.mm_per_px
        off = np.hypot(*(points - (x, y)).T)
        if len(points) and off.min() <= reach:
            x, y = points[off.argmin()].tolist()
        return (x - box.left) / box.width, (y - box.top) / box.height

    def press(self, at: BoardPoint) -> bool:
        self._from = self._to = self._held(at)
        self._pressed_at = at.widget
        return True

    def drag(self, at: BoardPoint) -> None:
        self._to = self._held(at)

    def hover(self, at: BoardPoint) -> Qt.CursorShape:
        self._hover = self._held(at)
        return self.cursor

    def release(self, at: BoardPoint) -> None:
        start, end = self._from, self._held(at)
        self._from = self._to = None
        assert start is not None
        try:
            if near(self._pressed_at, at.widget, 6):
                lines = self._dropped(*start)
            else:
                lines = (OwnLine(*start, *end),)
        except PlanError as error:
            self.desk.say(str(error))
            return
        if self.commit(add_own_lines(lines)):
            self._chosen = len(self.desk.study.structure.own) - 1
            self.refresh()

    def _dropped(self, x: float, y: float) -> tuple[OwnLine, ...]:
        if not (0 <= x <= 1 and 0 <= y <= 1):
            raise PlanError("That is outside the viewfinder. Click a crossing inside it.")
        wanted = self._drop.value
        upright = (OwnLine(x, 0.0, x, 1.0, "upright"),) if "upright" in wanted else ()
        level = (OwnLine(0.0, y, 1.0, y, "level"),) if "level" in wanted else ()
        return (*upright, *level)

    def cancel(self) -> None:
        self._from = self._to = None
        super().cancel()

    def delete(self) -> None:
        if 0 <= self._chosen < len(self.desk.study.structure.own):
            self.commit(remove_own_line(self._chosen))

    def tag(self) -> str | None:
        at = self._to or self._hover
        if at is None:
            return None
        box, length = self.desk.frame_map.box, self.desk.length
        return f"{length(at[0] * box.width)} from the left · {length(at[1] * box.height)} from the top"

    def paint(self, painter: QPainter, photo: PhotoSight, sheet: Sight) -> None:
        box, own = self.desk.frame_map.box, self.desk.study.structure.own
        if 0 <= self._chosen < len(own):
            line = own[self._chosen]
            ends = np.array([[line.x0, line.y0], [line.x1, line.y1]]) * (box.width, box.height) + box[:2]
            cased_line(painter, sheet.to_widget(ends), pen("subject", 2.4))
        if self._from is not None and self._to is not None:
            ends = np.array([self._from, self._to]) * (box.width, box.height) + box[:2]
            cased_line(painter, sheet.to_widget(ends), pen("armature", 1.8))
        at = self._to or self._hover
        if at is not None:
            x, y = sheet.to_widget((box.left + at[0] * box.width, box.top + at[1] * box.height)).tolist()
            painter.setPen(pen("armature", 1.6))
            painter.drawEllipse(QPointF(x, y), 5, 5)
