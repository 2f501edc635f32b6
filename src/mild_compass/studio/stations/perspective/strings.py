"""Threads from edges to their points, pins with their tags, arrows to points out of sight."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QColor, QPainter, QPainterPath

from mild_compass.craft.geometry.lines import Box, clipped
from mild_compass.craft.perspective.worked import homogeneous_on_sheet
from mild_compass.studio.board.marks import paint_word
from mild_compass.studio.board.strokes import casing, pen
from mild_compass.studio.painting import polygon

if TYPE_CHECKING:
    from mild_compass.craft.perspective.vanishing import VanishingPoint
    from mild_compass.studio.board.sight import PhotoSight
    from mild_compass.studio.desk import Desk

POINT_INK = "#26399e"


def paint_strings(painter: QPainter, desk: Desk, photo: PhotoSight, letter: str | None) -> None:
    """Threads from the edges to their points, the 95 % ellipse, and arrows to points out of sight."""
    worked = desk.computed.perspective()
    frame_map = desk.board.frame_map
    if worked is None or frame_map is None:
        return
    area = Box(0, 0, desk.board.width(), desk.board.height())
    for each in desk.study.perspective.sets:
        point = worked.point(each.letter)
        if point is None:
            continue
        strong = letter in (None, each.letter)
        _paint_threads(painter, desk, photo, each.letter, point, area, strong)
        at = point.point_px
        if at is None:
            continue
        outline = point.ellipse_px()
        if outline is not None:
            painter.setPen(pen("perspective", 1.0, "dotted"))
            painter.drawPolyline(polygon(photo.to_widget(outline)))
        x, y = photo.to_widget(at).tolist()
        mm = homogeneous_on_sheet(point, frame_map)
        words = _pin_tag(desk, each.letter, float(mm[0] / mm[2]), float(mm[1] / mm[2]))
        if area.left <= x <= area.right and area.top <= y <= area.bottom:
            _paint_pin(painter, x, y, words)
        else:
            _paint_arrow(painter, desk, (x, y), words)


def _paint_threads(
    painter: QPainter, desk: Desk, photo: PhotoSight, letter: str, point: VanishingPoint, area: Box, strong: bool
) -> None:
    line = pen("perspective", 0.8, "dashed", 190 if strong else 90)
    edges = next(each.edges for each in desk.study.perspective.sets if each.letter == letter)
    x, y, w = point.homogeneous
    for edge in edges:
        middle = np.array([(edge.x0_px + edge.x1_px) / 2, (edge.y0_px + edge.y1_px) / 2])
        toward = np.array([x - w * middle[0], y - w * middle[1]])
        length = float(np.hypot(*toward))
        if length == 0:
            continue
        start = photo.to_widget(middle)
        far = photo.to_widget(point.point_px) if point.point_px is not None else start + toward / length * 1e5
        part = clipped(start, far, area)
        if part is not None:
            if strong:
                painter.setPen(casing(0.8, 90))
                painter.drawPolyline(polygon(part))
            painter.setPen(line)
            painter.drawPolyline(polygon(part))


def _pin_tag(desk: Desk, letter: str, x_mm: float, y_mm: float) -> str:
    """The point's letter, and how far from the paper's nearest edge it lies."""
    paper = desk.plan.paper
    off = max(-x_mm, x_mm - paper.width_mm, -y_mm, y_mm - paper.height_mm)
    return f"{letter}  {desk.length(off)} off the paper" if off > 0 else letter


def _paint_pin(painter: QPainter, x: float, y: float, words: str) -> None:
    """A pin's head with its tag."""
    painter.setPen(casing(0.6, 230))
    painter.setBrush(QColor(POINT_INK))
    painter.drawEllipse(QPointF(x, y), 4.5, 4.5)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    paint_word(painter, words, x + 12, y - 9, POINT_INK)


def _paint_arrow(painter: QPainter, desk: Desk, target: tuple[float, float], words: str) -> None:
    """A small arrow at the board's edge pointing to a pin out of sight, with its tag."""
    board = desk.board
    middle = np.array([board.width() / 2, board.height() / 2])
    inner = Box(26, 26, board.width() - 26, board.height() - 26)
    part = clipped(middle, target, inner)
    if part is None:
        return
    tip, way = part[1], np.array(target) - middle
    way /= np.hypot(*way)
    across = np.array([-way[1], way[0]])
    path = QPainterPath(QPointF(*(tip + 9 * way)))
    path.lineTo(QPointF(*(tip + 6 * across)))
    path.lineTo(QPointF(*(tip - 6 * across)))
    path.closeSubpath()
    painter.fillPath(path, QColor(POINT_INK))
    painter.setPen(casing(0.2))
    painter.drawPath(path)
    width = painter.fontMetrics().horizontalAdvance(words)
    below = tip[1] < board.height() / 2
    paint_word(painter, words, tip[0] - width / 2, tip[1] + (25 if below else -17), POINT_INK)
