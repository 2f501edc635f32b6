"""Marks of the viewfinder station on the board: rings, areas to keep, planned changes."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QColor

from mild_compass.plan.departure_kinds import kind_of
from mild_compass.studio.board.placing import placed
from mild_compass.studio.board.strokes import cased_line, casing, pen
from mild_compass.studio.painting import polygon

if TYPE_CHECKING:
    from numpy.typing import NDArray
    from PySide6.QtGui import QPainter

    from mild_compass.plan.study import Departure, KeepArea, Ring, Study
    from mild_compass.studio.board.sight import PhotoSight


def paint_wishes(painter: QPainter, study: Study, photo: PhotoSight) -> None:
    """What a frame should hold, quietly and without words: rings and areas to keep."""
    for ring in study.rings:
        paint_ring(painter, ring, photo)
    for area in study.keep:
        paint_keep(painter, area, photo, named=False)


def paint_ring(
    painter: QPainter, ring: Ring, photo: PhotoSight, number: int | None = None, chosen: bool = False
) -> None:
    """The ring with its casing and centre, and its place in the order when there are several."""
    angle = np.linspace(0, 2 * np.pi, 65)
    outline = np.array([ring.x_px, ring.y_px]) + np.stack(
        [ring.radius_x_px * np.cos(angle), ring.radius_y_px * np.sin(angle)], -1
    )
    cased_line(painter, photo.to_widget(outline), pen("subject", 2.4 if chosen else 1.6, "dashed"))
    x, y = photo.to_widget((ring.x_px, ring.y_px)).tolist()
    for line in (casing(1.6), pen("subject", 1.6)):
        painter.setPen(line)
        painter.drawLine(QPointF(x - 4, y), QPointF(x + 4, y))
        painter.drawLine(QPointF(x, y - 4), QPointF(x, y + 4))
    if number is not None:
        paint_word(painter, f"{number + 1} {ring.name}", x + 8, y - 6)


def paint_keep(painter: QPainter, area: KeepArea, photo: PhotoSight, chosen: bool = False, named: bool = True) -> None:
    """An area to keep: corners only, so that the picture is seen."""
    a, b, c, d = area.left_px, area.top_px, area.right_px, area.bottom_px
    points = photo.to_widget([(a, b), (c, b), (c, d), (a, d)])
    line = pen("measure", 2.4 if chosen else 1.6)
    for k in range(4):
        corner, before, after = points[k], points[k - 1], points[(k + 1) % 4]
        arms = np.stack([_toward(corner, before), corner, _toward(corner, after)])
        cased_line(painter, arms, line)
    if named:
        paint_word(painter, f"keep {area.name}", float(points[:, 0].min()) + 2, float(points[:, 1].min()) - 4)


def _toward(corner: NDArray[np.float64], other: NDArray[np.float64]) -> NDArray[np.float64]:
    step = other - corner
    length = float(np.hypot(*step))
    return np.asarray(corner + step * min(0.4, 16 / max(length, 1e-9)))


def paint_departure(painter: QPainter, departure: Departure, photo: PhotoSight, chosen: bool = False) -> None:
    """Outline or line of a planned change; what was dropped is dotted and pale."""
    dropped = departure.outcome == "dropped"
    points = photo.to_widget(departure.placed())
    if not kind_of(departure.kind).is_line:
        points = np.concatenate([points, points[:1]])
    cased_line(painter, points, pen("subject", 2.2 if chosen else 1.3, "dotted" if dropped else "dashed"))
    if kind_of(departure.kind).is_line:
        cased_line(painter, points[[0, -1]], pen("subject", 1.3))
    if chosen or departure.name:
        top = points[points[:, 1].argmin()]
        paint_word(painter, departure.name or departure.kind, float(top[0]) + 3, float(top[1]) - 5)


def paint_word(painter: QPainter, words: str, x: float, y: float, ink: str = "#1c1c1c") -> None:
    """A word on a pale ground, its base line at a point of the widget or beside it, where nothing else stands."""
    font = painter.font()
    font.setPixelSize(11)
    painter.setFont(font)
    width, rise = painter.fontMetrics().horizontalAdvance(words), painter.fontMetrics().ascent()
    ground = QRectF(x - 3, y - rise, width + 6, rise + 4)
    moved = placed(painter, ground)
    painter.fillRect(ground.translated(moved), QColor(250, 250, 248, 200))
    painter.setPen(QColor(ink))
    painter.drawText(QPointF(x, y) + moved, words)


def paint_lasso(painter: QPainter, points: NDArray[np.float64], closed: bool) -> None:
    """An outline on its way, in widget pixels."""
    if len(points) < 2:
        return
    line = pen("subject", 1.6)
    cased_line(painter, points, line)
    if closed and len(points) > 2:
        painter.setPen(pen("subject", 1.0, "dotted"))
        painter.drawPolyline(polygon(points[[-1, 0]]))
