"""The photo of the drawing as it was taken, with the sheet's four corners to be dragged under a loupe."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QMouseEvent, QPainter, QPainterPath, QPaintEvent
from PySide6.QtWidgets import QWidget

from mild_compass.studio.board.empty import paint_words
from mild_compass.studio.board.marks import paint_word
from mild_compass.studio.board.strokes import cased_line, casing, pen

if TYPE_CHECKING:
    from PySide6.QtGui import QKeyEvent

    from mild_compass.plan.pictures import Point
    from mild_compass.studio.derived.checks import DrawnCheck
    from mild_compass.studio.pages.parts import Parts

EDGE, REACH = 28.0, 18.0
LOUPE_PX, LOUPE_TIMES = 66.0, 4.0
INSET = 0.15  # of the photo: where the marks wait when no sheet was found
ARROWS = {Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, -1), Qt.Key.Key_Down: (0, 1)}


class CornersPage(QWidget):
    """``dragged`` is sent with all four corners, in pixels of the photo, when one has been let go."""

    dragged = Signal(object)

    def __init__(self, parts: Parts) -> None:
        super().__init__()
        self._session, self._computed = parts.session, parts.computed
        self.surround = "#777777"
        self._held: int | None = None
        self._moved: list[Point] | None = None
        self.chosen = 0
        parts.computed.changed.connect(self.refresh)
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Corners of the sheet in the photo")
        self.setAccessibleDescription("Space chooses the next corner, arrow keys move it by a pixel of the photo.")
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)

    @property
    def settled(self) -> bool:
        """Whether the photo is there."""
        return self._computed.checks.now.settled

    @property
    def _made(self) -> DrawnCheck | None:
        return self._computed.drawing_check

    @property
    def corners(self) -> tuple[Point, ...]:
        """The corners as shown: held, by hand, found, or waiting; none without a photo."""
        made, drawing = self._made, self._session.plan.drawing
        if self._moved is not None:
            return tuple(self._moved)
        if drawing is None or made is None:
            return ()
        if drawing.corners_px:
            return drawing.corners_px
        if made.checked.corners_px:
            return made.checked.corners_px
        w, h = made.photo_px
        return (
            (INSET * w, INSET * h),
            ((1 - INSET) * w, INSET * h),
            ((1 - INSET) * w, (1 - INSET) * h),
            (INSET * w, (1 - INSET) * h),
        )

    def refresh(self) -> None:
        """Follow the plan while the page is seen."""
        if self.isVisible():
            self.update()

    def showEvent(self, event: object) -> None:
        self.refresh()

    # -- where things are -----------------------------------------------------------------------------------------

    def _place(self) -> QRectF:
        made = self._made
        assert made is not None
        w, h = made.photo_px
        scale = min((self.width() - 2 * EDGE) / w, (self.height() - 2 * EDGE) / h)
        return QRectF((self.width() - w * scale) / 2, (self.height() - h * scale) / 2, w * scale, h * scale)

    def to_widget(self, point: Point) -> QPointF:
        """A place of the photo on this page."""
        made = self._made
        assert made is not None
        place = self._place()
        return QPointF(
            place.left() + point[0] / made.photo_px[0] * place.width(),
            place.top() + point[1] / made.photo_px[1] * place.height(),
        )

    def _to_photo(self, at: QPointF) -> Point:
        made = self._made
        assert made is not None
        place = self._place()
        return (
            (at.x() - place.left()) / place.width() * made.photo_px[0],
            (at.y() - place.top()) / place.height() * made.photo_px[1],
        )

    # -- the hand -------------------------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if self._made is None or event.button() != Qt.MouseButton.LeftButton:
            return
        for number, corner in enumerate(self.corners):
            if (self.to_widget(corner) - event.position()).manhattanLength() < REACH * 1.4:
                self._held = self.chosen = number
                self._moved = list(self.corners)
                self.update()
                return

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._held is not None and self._moved is not None:
            self._moved[self._held] = self._to_photo(event.position())
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        moved, self._held, self._moved = self._moved, None, None
        if moved is not None:
            self._send(moved)
        self.update()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Space and self.corners:
            self.chosen = (self.chosen + 1) % 4
            self.update()
            return
        step = ARROWS.get(Qt.Key(event.key()))
        corners = self.corners
        if step is None or not corners:
            super().keyPressEvent(event)
            return
        size = 10 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 1
        moved = list(corners)
        x, y = moved[self.chosen]
        moved[self.chosen] = (x + step[0] * size, y + step[1] * size)
        self._send(moved)

    def _send(self, corners: list[Point]) -> None:
        self.dragged.emit(tuple((round(x, 1), round(y, 1)) for x, y in corners))

    # -- painting -------------------------------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHints(QPainter.RenderHint.SmoothPixmapTransform | QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), QColor(self.surround))
        made = self._made
        if self._session.plan.drawing is None:
            paint_words(
                painter, self.rect(), "Corners of the sheet", "Add a photo of your drawing first, under “The drawing”."
            )
        elif made is None:
            paint_words(painter, self.rect(), "The corners are being looked for …", "")
        else:
            painter.drawImage(self._place(), made.photo)
            self._paint_corners(painter)
        painter.end()

    def _paint_corners(self, painter: QPainter) -> None:
        corners = [self.to_widget(corner) for corner in self.corners]
        outline = np.array([(p.x(), p.y()) for p in (*corners, corners[0])])
        cased_line(painter, outline, pen("perspective", 1.4))
        for number, at in enumerate(corners):
            line = pen("subject", 2.4 if number == self.chosen else 1.6)
            for each in (casing(line.widthF()), line):
                painter.setPen(each)
                painter.drawEllipse(at, 8, 8)
                painter.drawLine(at - QPointF(3, 0), at + QPointF(3, 0))
                painter.drawLine(at - QPointF(0, 3), at + QPointF(0, 3))
            paint_word(painter, str(number + 1), at.x() + 12, at.y() - 8)
        shown = self._held if self._held is not None else self.chosen
        self._paint_loupe(painter, corners[shown])

    def _paint_loupe(self, painter: QPainter, at: QPointF) -> None:
        """The chosen corner several times as large, off the hand."""
        made = self._made
        assert made is not None
        x = at.x() + 110 if at.x() < self.width() / 2 else at.x() - 110
        y = min(max(at.y() + (90 if at.y() < self.height() / 2 else -90), LOUPE_PX + 6), self.height() - LOUPE_PX - 6)
        middle = QPointF(min(max(x, LOUPE_PX + 6), self.width() - LOUPE_PX - 6), y)
        path = QPainterPath()
        path.addEllipse(middle, LOUPE_PX, LOUPE_PX)
        painter.save()
        painter.setClipPath(path)
        painter.fillPath(path, QColor(self.surround))
        painter.translate(middle)
        painter.scale(LOUPE_TIMES, LOUPE_TIMES)
        painter.translate(-at.x(), -at.y())
        painter.drawImage(self._place(), made.photo)
        painter.restore()
        for line in (casing(1.0), pen("subject", 1.0)):
            painter.setPen(line)
            painter.drawLine(middle - QPointF(14, 0), middle + QPointF(14, 0))
            painter.drawLine(middle - QPointF(0, 14), middle + QPointF(0, 14))
        painter.setPen(casing(1.6, 230))
        painter.drawEllipse(middle, LOUPE_PX, LOUPE_PX)
