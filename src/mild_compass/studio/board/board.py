"""The board: the view that hands work on. Pans, zooms, and passes pointer and keys to the instrument in hand."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import QEvent, QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QFont, QKeyEvent, QMouseEvent, QPainter, QPainterPath, QPen, QWheelEvent
from PySide6.QtWidgets import QLineEdit, QWidget

from mild_compass.studio.board.fingers import Fingers
from mild_compass.studio.board.tool import BoardPoint
from mild_compass.studio.board.view import StudyView

if TYPE_CHECKING:
    from mild_compass.studio.board.sight import Sight
    from mild_compass.studio.board.tool import Tool
    from mild_compass.studio.derived.computed import Computed

REACH_PX = 12.0
NUDGES_MM = {
    Qt.KeyboardModifier.NoModifier: 1.0,
    Qt.KeyboardModifier.ShiftModifier: 10.0,
    Qt.KeyboardModifier.ControlModifier: 0.1,
}
ARROWS = {Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, -1), Qt.Key.Key_Down: (0, 1)}


class _TagEntry(QLineEdit):
    """The small field at the tag; it keeps its keys, so that Enter does not open it again."""

    def keyPressEvent(self, event: QKeyEvent) -> None:
        super().keyPressEvent(event)
        event.accept()


class Board(StudyView):
    """Everything happens here, directly on the picture."""

    wants_photos = Signal()
    swapped = Signal()

    def __init__(self, computed: Computed, parent: QWidget | None = None) -> None:
        super().__init__(computed, "photo", parent)
        self.with_rulers = True
        self.room = 26.0
        self.instrument: Tool | None = None
        self._panning_from: QPointF | None = None
        self._space = False
        self._pressed = False
        self._pointer: QPointF | None = None
        self._entry = _TagEntry(self)
        self._entry.setFixedWidth(110)
        self._entry.setAccessibleName("Type a value for the chosen mark")
        self._entry.hide()
        self._entry.returnPressed.connect(self._entered)
        self._fingers = Fingers(self)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Board")
        self.setAccessibleDescription("The photo or the sheet. Arrow keys nudge, Enter types a value, F fits.")

    def take_up(self, instrument: Tool | None) -> None:
        """Put an instrument in hand; the gesture of the old one is dropped."""
        if self.instrument is not None and self._pressed:
            self.instrument.cancel()
        self._pressed = False
        self._entry.hide()
        if self.instrument is not None and self.instrument is not instrument:
            self.instrument.put_away()
        self.instrument = instrument
        self.setCursor(instrument.cursor if instrument else Qt.CursorShape.ArrowCursor)
        self.update()

    def point_at(self, position: QPointF, shift: bool = False) -> BoardPoint | None:
        """The pointer's place, or None without a photo."""
        photo, sheet = self.photo_sight(), self.sheet_sight()
        if photo is None or sheet is None:
            return None
        at = (position.x(), position.y())
        on_photo, on_sheet = photo.from_widget(at), sheet.from_widget(at)
        return BoardPoint(
            at,
            (float(on_photo[0]), float(on_photo[1])),
            (float(on_sheet[0]), float(on_sheet[1])),
            REACH_PX / photo.scale,
            shift,
        )

    # -- pointer ----------------------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.setFocus(Qt.FocusReason.MouseFocusReason)
        self._entry.hide()
        if self.study is None:
            self.wants_photos.emit()
            return
        middle = event.button() == Qt.MouseButton.MiddleButton
        if middle or self._space:
            self._panning_from = event.position()
            self.setCursor(Qt.CursorShape.ClosedHandCursor)
            return
        at = self._at(event)
        if event.button() != Qt.MouseButton.LeftButton or self.instrument is None or at is None:
            return
        if self.instrument.press(at):
            self._pressed = True
        else:
            self._panning_from = event.position()
        self.update()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        self._pointer = event.position()
        at = self._at(event)
        self.pointed.emit(at.sheet_mm if at else None)
        if self._panning_from is not None:
            step = event.position() - self._panning_from
            self._panning_from = event.position()
            self.set_sight(self.sight.panned(step.x(), step.y()))
        elif at is not None and self.instrument is not None:
            if self._pressed:
                self.instrument.drag(at)
            else:
                self.setCursor(self.instrument.hover(at))
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._panning_from is not None:
            self._panning_from = None
            self.setCursor(self.instrument.cursor if self.instrument else Qt.CursorShape.ArrowCursor)
        elif self._pressed and self.instrument is not None:
            self._pressed = False
            at = self._at(event)
            if at is not None:
                self.instrument.release(at)
            self.update()

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        self.mousePressEvent(event)

    # -- fingers ----------------------------------------------------------------------------------------------

    def drop(self) -> None:
        """Drop what the hand was about to do."""
        self._panning_from = None
        if self._pressed and self.instrument is not None:
            self._pressed = False
            self.instrument.cancel()
        self.update()

    def pinch(self, factor: float, about: QPointF, moved: QPointF) -> None:
        """Move the paper and zoom about a point of the board."""
        self.set_sight(self.sight.panned(moved.x(), moved.y()).zoomed(factor, about.x(), about.y()))

    def rest(self) -> None:
        """A finger that rests on a mark asks for its value, as Enter does."""
        self.drop()
        self._open_entry()

    def leaveEvent(self, event: QEvent) -> None:
        self._pointer = None
        self.pointed.emit(None)
        self.update()

    def wheelEvent(self, event: QWheelEvent) -> None:
        at = event.position()
        self.zoom(1.0015 ** event.angleDelta().y(), at.x(), at.y())
        event.accept()

    def zoom(self, factor: float, x: float | None = None, y: float | None = None) -> None:
        """Zoom about a point of the board, or about its middle."""
        self.set_sight(
            self.sight.zoomed(factor, self.width() / 2 if x is None else x, self.height() / 2 if y is None else y)
        )

    def _at(self, event: QMouseEvent) -> BoardPoint | None:
        return self.point_at(event.position(), bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier))

    # -- keys -------------------------------------------------------------------------------------------------

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Space:
            self._space = True
            self.setCursor(Qt.CursorShape.OpenHandCursor)
        elif not self._instrument_key(event):
            super().keyPressEvent(event)

    def keyReleaseEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Space and not event.isAutoRepeat():
            self._space = False
            self.setCursor(self.instrument.cursor if self.instrument else Qt.CursorShape.ArrowCursor)
        else:
            super().keyReleaseEvent(event)

    def focusNextPrevChild(self, forward: bool) -> bool:
        """Tab changes board and companion over; Shift+Tab leaves the board as everywhere."""
        if forward:
            self.swapped.emit()
            return True
        return super().focusNextPrevChild(forward)

    def _instrument_key(self, event: QKeyEvent) -> bool:
        if self.instrument is None or self.study is None:
            return False
        key = Qt.Key(event.key())
        if key in ARROWS:
            modifiers = event.modifiers() & ~Qt.KeyboardModifier.KeypadModifier
            step = NUDGES_MM.get(modifiers, 1.0)
            self.instrument.nudge(ARROWS[key][0] * step, ARROWS[key][1] * step)
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            return self._open_entry()
        elif key in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace):
            self.instrument.delete()
        elif key == Qt.Key.Key_H and not self._pressed:
            self.instrument.as_the_hand_drew()
        elif key == Qt.Key.Key_Escape and self._pressed:
            self._pressed = False
            self.instrument.cancel()
        else:
            return False
        self.update()
        return True

    def _open_entry(self) -> bool:
        """Type-to-set: a small field at the tag."""
        value = self.instrument.typed_value() if self.instrument else None
        if value is None:
            return False
        at = self._tag_place()
        self._entry.move(round(min(at.x(), self.width() - 120)), round(min(at.y(), self.height() - 34)))
        self._entry.setText(value)
        self._entry.selectAll()
        self._entry.show()
        self._entry.setFocus(Qt.FocusReason.ShortcutFocusReason)
        return True

    def _entered(self) -> None:
        if self.instrument is not None and self.instrument.set_typed(self._entry.text()):
            self._entry.hide()
            self.setFocus(Qt.FocusReason.OtherFocusReason)
        self.update()

    def close_entry(self) -> bool:
        """Put the small field away; False when it was not open."""
        if self._entry.isHidden():
            return False
        self._entry.hide()
        self.setFocus(Qt.FocusReason.OtherFocusReason)
        return True

    # -- marks ------------------------------------------------------------------------------------------------

    def paint_marks(self, painter: QPainter, sheet: Sight) -> None:
        if self.instrument is None:
            return
        photo = self.photo_sight()
        assert photo is not None
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self.instrument.paint(painter, photo, sheet)
        words = self.instrument.tag()
        if words and (self._pressed or self._pointer is not None):
            self._paint_tag(painter, words)

    def _tag_place(self) -> QPointF:
        middle = QPointF(self.width() / 2, self.height() / 2)
        return (self._pointer or middle) + QPointF(16, 18)

    def _paint_tag(self, painter: QPainter, words: str) -> None:
        font = QFont(painter.font())
        font.setPixelSize(12)
        painter.setFont(font)
        size = painter.fontMetrics().boundingRect(words)
        at = self._tag_place()
        x = min(at.x(), self.width() - size.width() - 20)
        y = min(at.y(), self.height() - 28)
        ground = QRectF(x, y, size.width() + 14, 21)
        path = QPainterPath()
        path.addRoundedRect(ground, 4, 4)
        painter.fillPath(path, QColor(250, 250, 248, 235))
        painter.setPen(QPen(QColor("#6a6a6a"), 0.8))
        painter.drawPath(path)
        painter.setPen(QColor("#1c1c1c"))
        painter.drawText(QPointF(x + 7, y + 15), words)

    def paint_empty(self, painter: QPainter) -> None:
        from mild_compass.studio.board.empty import paint_first_page

        paint_first_page(painter, self.rect())


def handle(painter: QPainter, x: float, y: float, chosen: bool = False) -> None:
    """A handle: a small lozenge with a casing."""
    size = 6.0 if chosen else 5.0
    path = QPainterPath()
    path.moveTo(x, y - size)
    path.lineTo(x + size, y)
    path.lineTo(x, y + size)
    path.lineTo(x - size, y)
    path.closeSubpath()
    painter.setPen(QPen(QColor("#1c1c1c"), 1.0))
    painter.setBrush(QColor("#a2391f" if chosen else "#fbfbf8"))
    painter.drawPath(path)
    painter.setBrush(Qt.BrushStyle.NoBrush)


def near(a: tuple[float, float], b: tuple[float, float], reach: float) -> bool:
    """Whether two points are within reach of each other."""
    return bool(np.hypot(a[0] - b[0], a[1] - b[1]) <= reach)
