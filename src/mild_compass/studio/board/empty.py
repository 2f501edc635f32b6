"""The first page: what this is for, the first thing to do, and a made-up picture of the result."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRect, QRectF, Qt
from PySide6.QtGui import QColor, QFont, QPainter, QPen, QPolygonF

HEADLINE = "Start with a photo"
WORDS = (
    "Drop a photo here, or click to choose one.\n"
    "Then name your sheet of paper, frame the photo with a viewfinder of the same proportion,\n"
    "and print the plan at true size. No photo? Begin with a blank sheet."
)


def paint_first_page(painter: QPainter, area: QRect) -> None:
    """Draw the invitation in the middle of the board."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    middle = QPointF(area.center())
    width = min(330.0, area.width() * 0.6)
    height = width / 1.5
    top = middle.y() - height * 0.72
    _sketch(painter, QRectF(middle.x() - width / 2, top, width, height))
    _write(painter, area, top + height + 22, HEADLINE, WORDS)


def paint_words(painter: QPainter, area: QRect, headline: str, words: str, ink: str = "#f4f4f4") -> None:
    """A headline and what to do, in the middle of an empty page."""
    _write(painter, area, QPointF(area.center()).y() - 60, headline, words, ink)


def _write(painter: QPainter, area: QRect, top: float, headline: str, words: str, ink: str = "#f4f4f4") -> None:
    painter.setPen(QColor(ink))
    font = QFont(painter.font())
    font.setPixelSize(22)
    font.setWeight(QFont.Weight.DemiBold)
    painter.setFont(font)
    painter.drawText(QRectF(area.left(), top, area.width(), 32), Qt.AlignmentFlag.AlignHCenter, headline)
    font.setPixelSize(14)
    font.setWeight(QFont.Weight.Normal)
    painter.setFont(font)
    lines = QRectF(area.left() + 40, top + 38, area.width() - 80, 110)
    painter.drawText(lines, Qt.AlignmentFlag.AlignHCenter | Qt.TextFlag.TextWordWrap, words)


def _sketch(painter: QPainter, box: QRectF) -> None:
    """A shed by the water in three values, under an armature."""
    painter.fillRect(box.adjusted(-12, -12, 12, 12), QColor("#fdfdfb"))
    painter.fillRect(box, QColor("#d9d9d6"))

    def at(x: float, y: float) -> QPointF:
        return QPointF(box.left() + x * box.width(), box.top() + y * box.height())

    def shape(colour: str, *points: tuple[float, float]) -> None:
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(colour))
        painter.drawPolygon(QPolygonF([at(*point) for point in points]))

    shape("#8f8f8c", (0, 0.62), (0.3, 0.5), (0.62, 0.56), (1, 0.44), (1, 0.7), (0, 0.7))
    shape("#aaaaa6", (0, 0.7), (1, 0.66), (1, 1), (0, 1))
    shape("#4a4a48", (0.52, 0.42), (0.66, 0.26), (0.84, 0.4), (0.84, 0.72), (0.52, 0.72))
    shape("#2e2e2d", (0.52, 0.42), (0.66, 0.26), (0.66, 0.72), (0.52, 0.72))
    shape("#5b5b58", (0.52, 0.72), (0.84, 0.72), (0.7, 0.9), (0.46, 0.86))
    painter.setPen(QPen(QColor(168, 60, 34, 200), 1.2))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    for a, b in (
        ((0, 0), (1, 1)),
        ((0, 1), (1, 0)),
        ((0, 0), (0.5, 1)),
        ((0.5, 0), (1, 1)),
        ((0, 1), (0.5, 0)),
        ((0.5, 1), (1, 0)),
    ):
        painter.drawLine(at(*a), at(*b))
    painter.setPen(QPen(QColor(38, 57, 158, 220), 1.4))
    painter.drawLine(at(0, 0.66), at(1, 0.66))
