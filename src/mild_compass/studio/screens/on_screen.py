"""The sheet on a whole screen: at its true size, to lay the paper against; or on a wall, its corners dragged to the
canvas's."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import (
    QColor,
    QFont,
    QImage,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPolygonF,
    QTransform,
)
from PySide6.QtWidgets import QWidget

from mild_compass.studio.painting import polygon
from mild_compass.studio.settings.screens import BAR_MM

if TYPE_CHECKING:
    from numpy.typing import ArrayLike, NDArray
    from PySide6.QtGui import QResizeEvent

    from mild_compass.craft.drawing import Drawing
    from mild_compass.craft.geometry.lines import Box

REACH_PX, HANDLE_PX, ROOM = 28, 9, 0.08
PATTERN_MM = 50.0
TRUE_HELP = "Drag or arrows: move   ·   L lines only   ·   I black for white   ·   Esc: leave"
WALL_HELP = (
    "Drag the corners to the canvas's   ·   T test pattern   ·   L lines only   ·   I black for white   ·   Esc: leave"
)


class OnScreen(QWidget):
    """With ``px_per_mm`` the sheet has its true size and is moved; without, its four corners are dragged."""

    def __init__(
        self, parent: QWidget, drawing: Drawing, box: Box, photo: QImage | None, px_per_mm: float | None = None
    ) -> None:
        super().__init__(parent, Qt.WindowType.Window)  # it goes with the window
        self.setWindowTitle("On the screen" if px_per_mm else "On the wall")
        self.setAccessibleName(self.windowTitle())
        self._drawing, self._box, self._photo, self._px_per_mm = drawing, box, photo, px_per_mm
        self.lines_only, self.inverted, self.pattern, self.helps = photo is None, False, False, True
        self.corners: list[tuple[float, float]] = []
        self.chosen = 0
        self._held: int | None = None
        self._last = QPointF()

    def begin(self) -> None:
        """Take over the screen."""
        self.showFullScreen()
        self.activateWindow()
        self.setFocus()

    # -- where the sheet lies ---------------------------------------------------------------------------------

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.corners = self._laid_out()

    def _laid_out(self) -> list[tuple[float, float]]:
        """The sheet in the middle: at its true size, or as large as leaves room round it."""
        wide, high = self._drawing.width_mm, self._drawing.height_mm
        scale = self._px_per_mm or (1 - 2 * ROOM) * min(self.width() / wide, self.height() / high)
        left, top = (self.width() - wide * scale) / 2, (self.height() - high * scale) / 2
        right, bottom = left + wide * scale, top + high * scale
        return [(left, top), (right, top), (right, bottom), (left, bottom)]

    @property
    def matrix(self) -> QTransform:
        """From mm on the sheet to pixels of the screen: a homography by the four corners."""
        wide, high = self._drawing.width_mm, self._drawing.height_mm
        sheet = QPolygonF([QPointF(0, 0), QPointF(wide, 0), QPointF(wide, high), QPointF(0, high)])
        found = QTransform()
        QTransform.quadToQuad(sheet, QPolygonF([QPointF(*corner) for corner in self.corners]), found)
        return found

    def to_widget(self, points: ArrayLike) -> NDArray[np.float64]:
        """Sheet mm (n, 2) or (2,) to pixels."""
        matrix = self.matrix
        flat = np.asarray(points, np.float64).reshape(-1, 2)
        mapped = [matrix.map(QPointF(x, y)) for x, y in flat.tolist()]
        return np.array([(each.x(), each.y()) for each in mapped]).reshape(np.shape(points))

    # -- painting ---------------------------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        ground, ink = ("#000000", "#ffffff") if self.inverted else ("#ffffff", "#000000")
        painter.fillRect(self.rect(), QColor("#3a3a3a" if self._px_per_mm and not self.inverted else ground))
        sheet = QPolygonF([QPointF(*corner) for corner in self.corners])
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(ground))
        painter.drawPolygon(sheet)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        if self._photo is not None and not self.lines_only and not self.pattern:
            painter.save()
            painter.setTransform(self.matrix)
            box = self._box
            painter.drawImage(QRectF(box.left, box.top, box.width, box.height), self._photo)
            painter.restore()
        if self.pattern:
            self._paint_pattern(painter, QColor(ink))
        else:
            self._paint_lines(painter, QColor(ink))
        painter.setPen(QPen(QColor(ink), 1))
        painter.drawPolygon(sheet)
        if self._px_per_mm is None:
            self._paint_corners(painter, QColor(ink))
        else:
            self._paint_bar(painter, self._px_per_mm)
        if self.helps:
            self._paint_help(painter)
        painter.end()

    def _paint_lines(self, painter: QPainter, ink: QColor) -> None:
        """Plain lines in one ink: on a wall colours are lost."""
        scale = abs(self.to_widget((100.0, 0.0))[0] - self.to_widget((0.0, 0.0))[0]) / 100
        matrix = self.matrix
        for layer in self._drawing.layers:
            for mark in layer.strokes:
                painter.setPen(QPen(ink, max(1.0, mark.width_mm * scale * 1.4)))
                painter.drawPolyline(matrix.map(polygon(mark.points_mm)))

    def _paint_pattern(self, painter: QPainter, ink: QColor) -> None:
        """Squares of 50 mm, both diagonals and a circle: straight lines and equal squares say that it is set right."""
        wide, high = self._drawing.width_mm, self._drawing.height_mm
        matrix = self.matrix
        lines = [((x, 0.0), (x, high)) for x in np.arange(0, wide + 0.1, PATTERN_MM)]
        lines += [((0.0, y), (wide, y)) for y in np.arange(0, high + 0.1, PATTERN_MM)]
        lines += [((0.0, 0.0), (wide, high)), ((0.0, high), (wide, 0.0))]
        painter.setPen(QPen(ink, 1.5))
        for start, end in lines:
            painter.drawLine(matrix.map(QPointF(*start)), matrix.map(QPointF(*end)))
        turn = np.linspace(0, 2 * np.pi, 73)
        radius = min(wide, high) / 2
        ring = np.stack([wide / 2 + radius * np.cos(turn), high / 2 + radius * np.sin(turn)], -1)
        painter.drawPolyline(matrix.map(polygon(ring)))

    def _paint_corners(self, painter: QPainter, ink: QColor) -> None:
        for place, corner in enumerate(self.corners):
            painter.setPen(QPen(QColor("#a2391f") if place == self.chosen else ink, 2.5))
            painter.drawEllipse(QPointF(*corner), HANDLE_PX, HANDLE_PX)

    def _paint_bar(self, painter: QPainter, px_per_mm: float) -> None:
        """100 mm, to be measured with a ruler on the glass."""
        left, y = 40.0, self.height() - 60.0
        right = left + BAR_MM * px_per_mm
        # On a ground of its own: the sheet below may be light or dark.
        painter.fillRect(QRectF(left - 14, y - 34, right - left + 28, 50), QColor(38, 38, 38, 220))
        painter.setPen(QPen(QColor("#f2f2f0"), 2))
        painter.drawLine(QPointF(left, y), QPointF(right, y))
        for x in (left, right):
            painter.drawLine(QPointF(x, y - 8), QPointF(x, y + 8))
        painter.drawText(QPointF(left, y - 14), "100 mm: measure it on the glass")

    def _paint_help(self, painter: QPainter) -> None:
        font = QFont(painter.font())
        font.setPixelSize(15)
        painter.setFont(font)
        words = TRUE_HELP if self._px_per_mm else WALL_HELP
        wide = painter.fontMetrics().horizontalAdvance(words) + 32
        ground = QRectF((self.width() - wide) / 2, self.height() - 40, wide, 30)
        painter.fillRect(ground, QColor(38, 38, 38, 220))
        painter.setPen(QColor("#f2f2f0"))
        painter.drawText(ground, Qt.AlignmentFlag.AlignCenter, words)

    # -- hand and keys ----------------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent) -> None:
        at = self._last = event.position()
        self.helps = False
        if self._px_per_mm is not None:
            self._held = -1
        else:
            far = [((x - at.x()) ** 2 + (y - at.y()) ** 2) ** 0.5 for x, y in self.corners]
            nearest = int(np.argmin(far))
            self._held = nearest if far[nearest] <= REACH_PX else None
            if self._held is not None:
                self.chosen = nearest
        self.update()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._held is None:
            return
        step = event.position() - self._last
        self._last = event.position()
        self._move(range(4) if self._held < 0 else (self._held,), step.x(), step.y())

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self._held = None

    def _move(self, places: range | tuple[int, ...], dx: float, dy: float) -> None:
        """Move corners, but never so that the sheet would turn inside out."""
        moved = [(x + dx, y + dy) if place in places else (x, y) for place, (x, y) in enumerate(self.corners)]
        if _is_convex(moved):
            self.corners = moved
            self.update()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key = event.key()
        steps = {
            Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, -1), Qt.Key.Key_Down: (0, 1)
        }  # fmt: skip
        if key == Qt.Key.Key_Escape:
            self.close()
        elif key == Qt.Key.Key_L and self._photo is not None:
            self.lines_only = not self.lines_only
        elif key == Qt.Key.Key_I:
            self.inverted = not self.inverted
        elif key == Qt.Key.Key_T and self._px_per_mm is None:
            self.pattern = not self.pattern
        elif key == Qt.Key.Key_Tab and self._px_per_mm is None:
            self.chosen = (self.chosen + 1) % 4
        elif key in steps:
            far = 10 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 1
            dx, dy = steps[Qt.Key(key)]
            self._move(range(4) if self._px_per_mm else (self.chosen,), far * dx, far * dy)
        else:
            super().keyPressEvent(event)
        self.update()

    def closeEvent(self, event: object) -> None:
        self.deleteLater()


def _is_convex(corners: list[tuple[float, float]]) -> bool:
    """Whether the four still go round the same way, with some area."""
    turns = []
    for place, (x, y) in enumerate(corners):
        (x1, y1), (x2, y2) = corners[(place + 1) % 4], corners[(place + 2) % 4]
        turns.append((x1 - x) * (y2 - y1) - (y1 - y) * (x2 - x1))
    return all(turn > 1 for turn in turns)
