"""Rulers along the edges of the sheet, or of the frame on the photo, in mm or inches from the sheet's corner."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import QLineF, QPointF, QRectF
from PySide6.QtGui import QColor, QFont, QPainter

from mild_compass.craft.sheet_sizes.lengths import MM_PER_INCH, Unit

if TYPE_CHECKING:
    from mild_compass.craft.geometry.lines import Box
    from mild_compass.studio.board.sight import Sight

DEPTH = 17
STEPS_MM = (1, 2, 5, 10, 20, 50, 100, 200, 500)
STEPS_IN = (1 / 16, 1 / 8, 1 / 4, 1 / 2, 1, 2, 4, 8, 16)


def draw_rulers(painter: QPainter, sight: Sight, box: Box, unit: Unit, dark_ground: bool) -> None:
    """Rulers outside the top and left edge of a box in sheet mm."""
    one = 1.0 if unit == "mm" else MM_PER_INCH
    steps = STEPS_MM if unit == "mm" else STEPS_IN
    small = next((step for step in steps if step * one * sight.scale >= 5), steps[-1])
    large = next((step for step in steps if step * one * sight.scale >= 44 and step >= small), steps[-1])
    left, top = sight.to_widget((box.left, box.top)).tolist()
    right, bottom = sight.to_widget((box.right, box.bottom)).tolist()
    _grounds(painter, left, top, right, bottom)
    ink = QColor("#1f1f1f" if not dark_ground else "#222222")
    painter.setPen(ink)
    font = QFont(painter.font())
    font.setPixelSize(10)
    painter.setFont(font)
    painter.drawLines(_ticks(sight, box, small, large, one, left, top))
    for value in _values(box.left, box.right, large, one):
        x = float(sight.to_widget((value * one, 0))[0])
        painter.drawText(QPointF(x + 2, top - 7), f"{value:g}")
    for value in _values(box.top, box.bottom, large, one):
        y = float(sight.to_widget((0, value * one))[1])
        painter.save()
        painter.translate(left - 7, y + 2)
        painter.rotate(-90)
        width = painter.fontMetrics().horizontalAdvance(f"{value:g}")
        painter.drawText(QPointF(-width - 4, 0), f"{value:g}")
        painter.restore()


def _grounds(painter: QPainter, left: float, top: float, right: float, bottom: float) -> None:
    ground = QColor("#dcdcdc")
    painter.fillRect(QRectF(left, top - DEPTH, right - left, DEPTH), ground)
    painter.fillRect(QRectF(left - DEPTH, top, DEPTH, bottom - top), ground)


def _values(start_mm: float, end_mm: float, step: float, one: float) -> list[float]:
    first = np.ceil(start_mm / one / step - 1e-9) * step
    return [abs(round(float(v), 6)) for v in np.arange(first, end_mm / one - 0.2 * step, step)]


def _ticks(sight: Sight, box: Box, small: float, large: float, one: float, left: float, top: float) -> list[QLineF]:
    lines = []
    per_large = max(1, round(large / small))
    for low, high, level in ((box.left, box.right, True), (box.top, box.bottom, False)):
        first = int(np.ceil(low / one / small - 1e-9))
        count = np.arange(first, int(np.floor(high / one / small + 1e-9)) + 1)
        places = count * (small * one * sight.scale) + (sight.dx if level else sight.dy)
        lengths = np.where(count % per_large == 0, DEPTH - 5, 4)
        for at, length in zip(places.tolist(), lengths.tolist(), strict=True):
            lines.append(QLineF(at, top - length, at, top) if level else QLineF(left - length, at, left, at))
    return lines
