"""The value scale: dark to light, the picture's distribution over it, and the thresholds as draggable marks."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import (
    QBrush,
    QColor,
    QKeyEvent,
    QLinearGradient,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPolygonF,
)
from PySide6.QtWidgets import QSizePolicy, QWidget

from mild_compass.studio.board.board import handle
from mild_compass.studio.board.still import Still

if TYPE_CHECKING:
    from numpy.typing import NDArray

LEAST_APART = 1.0
EDGE = 8.0


class ValueScale(QWidget):
    """Thresholds in L* along a grey ramp; dragging a mark sends them, letting go sends them once more as settled."""

    moved = Signal(object)
    settled = Signal(object)

    def __init__(self) -> None:
        super().__init__()
        self._marks: tuple[float, ...] = ()
        self._steps: tuple[float, ...] = ()
        self._distribution: NDArray[np.float64] | None = None
        self._held: int | None = None
        self._chosen = 0
        self._still = Still()
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setAccessibleName("Value scale")
        self.setAccessibleDescription("Left and right move the chosen threshold, up and down choose another.")
        self.setToolTip("Drag a mark to move a threshold")

    def sizeHint(self) -> QSize:
        return QSize(200, 104)

    def show_values(
        self, marks: tuple[float, ...], steps: tuple[float, ...], distribution: NDArray[np.float64] | None
    ) -> None:
        """Show thresholds, the L* each value is drawn with, and how the picture is spread over the scale."""
        if self._held is None:
            self._marks = marks
        self._steps, self._distribution = steps, distribution
        self._chosen = min(self._chosen, max(len(marks) - 1, 0))
        self.update()

    def _x(self, value: float) -> float:
        return EDGE + value / 100 * (self.width() - 2 * EDGE)

    def _value(self, x: float) -> float:
        return 100 * (x - EDGE) / (self.width() - 2 * EDGE)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        bar = QRectF(EDGE, 54, self.width() - 2 * EDGE, 18)
        ink = self.palette().windowText().color()
        spread = None if self._distribution is None else self._distribution.tobytes()
        self._still.show(painter, self, (spread, ink.rgba()), lambda on: self._paint_still(on, bar, ink))
        self._paint_steps(painter, bar)
        painter.setPen(QPen(ink, 0.8))
        painter.drawRect(bar)
        font = painter.font()
        font.setPixelSize(11)
        painter.setFont(font)
        for index, mark in enumerate(self._marks):
            x = self._x(mark)
            painter.setPen(QPen(ink, 1.0))
            painter.drawLine(QPointF(x, 14), QPointF(x, bar.bottom() + 5))
            handle(painter, x, bar.bottom() + 8, index == self._chosen and (self._held is not None or self.hasFocus()))
            words = f"{mark:.0f}"
            width = painter.fontMetrics().horizontalAdvance(words)
            painter.setPen(ink)
            painter.drawText(QPointF(min(max(x - width / 2, 0), self.width() - width), self.height() - 6), words)
        painter.end()

    def _paint_still(self, painter: QPainter, bar: QRectF, ink: QColor) -> None:
        """How the picture is spread over the smooth ramp."""
        from mild_compass.craft.picture.tone import grey_of_lightness

        self._paint_distribution(painter, bar, ink)
        ramp = QLinearGradient(bar.topLeft(), bar.topRight())
        for k in range(11):
            grey = int(grey_of_lightness(np.array(10.0 * k)))
            ramp.setColorAt(k / 10, QColor(grey, grey, grey))
        painter.fillRect(bar, QBrush(ramp))

    def _paint_steps(self, painter: QPainter, bar: QRectF) -> None:
        """In the lower half of the ramp the few values it becomes."""
        from mild_compass.craft.picture.tone import grey_of_lightness

        edges = (0.0, *self._marks, 100.0)
        if len(self._steps) == len(edges) - 1:
            for low, high, step in zip(edges, edges[1:], self._steps, strict=False):
                grey = int(grey_of_lightness(np.array(step)))
                part = QRectF(self._x(low), bar.center().y(), self._x(high) - self._x(low), bar.height() / 2)
                painter.fillRect(part, QColor(grey, grey, grey))

    def _paint_distribution(self, painter: QPainter, bar: QRectF, ink: QColor) -> None:
        if self._distribution is None:
            return
        heights = np.sqrt(self._distribution / max(float(self._distribution.max()), 1e-12)) * 46
        points = [QPointF(bar.left(), bar.top())]
        points += [QPointF(self._x(k + 0.5), bar.top() - float(height)) for k, height in enumerate(heights)]
        points.append(QPointF(bar.right(), bar.top()))
        soft = QColor(ink)
        soft.setAlpha(70)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(soft)
        painter.drawPolygon(QPolygonF(points))
        painter.setBrush(Qt.BrushStyle.NoBrush)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if not self._marks or event.button() != Qt.MouseButton.LeftButton:
            return
        distances = [abs(self._x(mark) - event.position().x()) for mark in self._marks]
        nearest = int(np.argmin(distances))
        if distances[nearest] <= 14:
            self._held = self._chosen = nearest
            self.update()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._held is not None:
            self._marks = self._with(self._held, self._value(event.position().x()))
            self.moved.emit(self._marks)
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._held is not None:
            self._held = None
            self.settled.emit(self._marks)
            self.update()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        step = {Qt.Key.Key_Left: -1.0, Qt.Key.Key_Right: 1.0}.get(Qt.Key(event.key()))
        turn = {Qt.Key.Key_Up: 1, Qt.Key.Key_Down: -1}.get(Qt.Key(event.key()))
        if step is not None and self._marks:
            self._marks = self._with(self._chosen, self._marks[self._chosen] + step)
            self.settled.emit(self._marks)
        elif turn is not None and self._marks:
            self._chosen = (self._chosen + turn) % len(self._marks)
            self.update()
        else:
            super().keyPressEvent(event)

    def _with(self, index: int, value: float) -> tuple[float, ...]:
        """The marks with one moved, kept between its neighbours."""
        edges = (0.0, *self._marks, 100.0)
        value = min(max(round(value, 1), edges[index] + LEAST_APART), edges[index + 2] - LEAST_APART)
        return (*self._marks[:index], value, *self._marks[index + 1 :])
