"""A loupe at the pointer, so that an edge can be met exactly."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QColor, QPainter, QPainterPath

from mild_compass.studio.board.strokes import casing, pen
from mild_compass.studio.board.view import image_transform

if TYPE_CHECKING:
    from mild_compass.studio.board.board import Board
    from mild_compass.studio.derived.looks import Looks

LOUPE_PX, LOUPE_TIMES = 54, 3.0


def paint_loupe(painter: QPainter, board: Board, looks: Looks | None, at: tuple[float, float]) -> None:
    """The place under the pointer three times as large; nothing where the board shows the sheet."""
    photo = board.photo_sight()
    if looks is None or photo is None or board.mode != "photo":
        return
    x, y = at
    left = x + 26 if x < board.width() - 2 * LOUPE_PX - 40 else x - 26 - 2 * LOUPE_PX
    top = min(max(y - 2 * LOUPE_PX - 20, 8.0), board.height() - 2 * LOUPE_PX - 8)
    target = QRectF(left, top, 2 * LOUPE_PX, 2 * LOUPE_PX)
    image = looks.level("colour", 1.0)
    path = QPainterPath()
    path.addEllipse(target)
    painter.save()
    painter.setClipPath(path)
    painter.fillPath(path, QColor("#777777"))
    middle = target.center()
    painter.translate(middle)
    painter.scale(LOUPE_TIMES, LOUPE_TIMES)
    painter.translate(-x, -y)
    painter.setTransform(image_transform(photo, looks, image), True)
    painter.drawImage(QPointF(0, 0), image)
    painter.resetTransform()
    for line in (casing(1.0), pen("subject", 1.0)):
        painter.setPen(line)
        painter.drawLine(QPointF(middle.x() - 12, middle.y()), QPointF(middle.x() + 12, middle.y()))
        painter.drawLine(QPointF(middle.x(), middle.y() - 12), QPointF(middle.x(), middle.y() + 12))
    painter.restore()
    painter.setPen(casing(1.2, 230))
    painter.drawEllipse(target)
