"""Drawing a Drawing: every line with a hairline casing, so that it reads on light and on dark."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFont, QPainter, QPen

from mild_compass.studio.board.placing import taken
from mild_compass.studio.painting import polygon
from mild_compass.studio.theme.palette import CASING, INKS

if TYPE_CHECKING:
    from collections.abc import Iterable

    import numpy as np
    from numpy.typing import NDArray

    from mild_compass.craft.drawing import Dash, Drawing, Ink, Label, Layer, Stroke
    from mild_compass.studio.board.sight import Sight

DASHES: dict[Dash, list[float]] = {"solid": [], "dashed": [7, 4], "dotted": [1.5, 3], "dash-dot": [9, 3, 1.5, 3]}


def pen(ink: Ink, width: float, dash: Dash = "solid", alpha: int = 255) -> QPen:
    """A pen in one of the construction inks."""
    colour = QColor(INKS[ink])
    colour.setAlpha(alpha)
    made = QPen(colour, width)
    if DASHES[dash]:
        made.setDashPattern([each / width for each in DASHES[dash]])
    made.setCapStyle(Qt.PenCapStyle.FlatCap)
    return made


def casing(width: float, alpha: int = 150) -> QPen:
    """The pale pen drawn under a line."""
    colour = QColor(CASING)
    colour.setAlpha(alpha)
    return QPen(colour, width + 1.8)


def cased_line(painter: QPainter, points: NDArray[np.float64], line: QPen) -> None:
    """A polyline with its casing."""
    shape = polygon(points)
    painter.setPen(casing(line.widthF()))
    painter.drawPolyline(shape)
    painter.setPen(line)
    painter.drawPolyline(shape)


def draw_layers(painter: QPainter, drawing: Drawing, sight: Sight, skip: Iterable[str] = ()) -> None:
    """All layers of a drawing but those to skip; sight maps sheet mm to the widget."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing, True)
    left_out = set(skip)
    for layer in drawing.layers:
        if layer.name not in left_out:
            _draw_layer(painter, layer, sight)


def _draw_layer(painter: QPainter, layer: Layer, sight: Sight) -> None:
    pale = layer.name in ("masses", "grid", "threads")
    for shape, line in _batches(layer.strokes, sight):
        painter.setPen(casing(line.widthF(), 110 if pale else 150))
        painter.drawLines(shape)
        painter.setPen(line)
        painter.drawLines(shape)
    # All casings come first: that of one line is not to cut through another.
    curves = [
        (polygon(sight.to_widget(mark.points_mm)), pen(mark.ink, _width(mark), mark.dash))
        for mark in layer.strokes
        if len(mark.points_mm) > 2
    ]
    for curve, line in curves:
        painter.setPen(casing(line.widthF()))
        painter.drawPolyline(curve)
    for curve, line in curves:
        painter.setPen(line)
        painter.drawPolyline(curve)
    for label in layer.labels:
        draw_label(painter, label, sight)


def _batches(strokes: tuple[Stroke, ...], sight: Sight) -> list[tuple[list[QLineF], QPen]]:
    """Straight strokes gathered by pen, so that hundreds of them are two calls."""
    found: dict[tuple[Ink, float, Dash], list[QLineF]] = {}
    for mark in strokes:
        if len(mark.points_mm) == 2:
            (x0, y0), (x1, y1) = sight.to_widget(mark.points_mm).tolist()
            found.setdefault((mark.ink, _width(mark), mark.dash), []).append(QLineF(x0, y0, x1, y1))
    return [(lines, pen(*key)) for key, lines in found.items()]


def _width(mark: Stroke) -> float:
    """Weight on screen: from the weight on paper, never so thin that it is lost."""
    return 0.7 + 1.5 * mark.width_mm


def draw_label(painter: QPainter, label: Label, sight: Sight) -> None:
    """Words of a drawing at a size that can be read, on a pale ground; left out where they would be crumbs."""
    height = label.size_mm * sight.scale * 1.35
    if height < 5:
        return
    x, y = sight.to_widget((label.x_mm, label.y_mm)).tolist()
    font = QFont(painter.font())
    font.setPixelSize(round(min(max(height, 9), 20)))
    painter.setFont(font)
    width = painter.fontMetrics().horizontalAdvance(label.text)
    left = x - {"left": 0.0, "middle": 0.5, "right": 1.0}[label.anchor] * width
    rise = painter.fontMetrics().ascent()
    ground = QColor(CASING)
    ground.setAlpha(150)
    covered = QRectF(left - 2, y - rise + 1, width + 4, rise + 2)
    moved = taken(painter, covered)
    painter.fillRect(covered.translated(moved), ground)
    painter.setPen(QColor(INKS[label.ink]))
    painter.drawText(QPointF(left, y) + moved, label.text)
