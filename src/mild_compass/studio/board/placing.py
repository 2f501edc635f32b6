"""Words on a view find a place of their own: not on one another, not on the rulers, not beyond the edge."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, QRectF
from PySide6.QtWidgets import QWidget

if TYPE_CHECKING:
    from PySide6.QtGui import QPainter

APART = 2.0  # pixels between words
# Where else words may stand, in their own widths and heights from where they would stand.
ELSEWHERE = (
    *((0, 0), (0, 1), (0, -1), (-1, 0), (-1, 1), (-1, -1), (0, 2), (0, -2)),
    *((1, 0), (1, 1), (1, -1), (-1, 2), (-1, -2)),
)


class Placing:
    """What is taken on one view during one painting; words that come later give way."""

    def __init__(self) -> None:
        self.taken: list[QRectF] = []

    def begin(self, rulers: list[QRectF]) -> None:
        """A new painting: only the rulers are there."""
        self.taken = list(rulers)

    def take(self, rect: QRectF) -> None:
        """Something stands there that cannot give way."""
        self.taken.append(rect)

    def place(self, rect: QRectF, bounds: QRectF) -> QRectF:
        """The nearest free place for words that would cover a rectangle; that with least covered where none is free."""
        best = min(
            (_inside(rect.translated(x, y), bounds) for x, y in self._moves(rect)),
            key=lambda moved: (self._covered(moved), (moved.topLeft() - rect.topLeft()).manhattanLength()),
        )
        self.taken.append(best)
        return best

    def _moves(self, rect: QRectF) -> list[tuple[float, float]]:
        """None; to each side of whatever lies there; and by whole words."""
        moves = [(across * (rect.width() + APART), down * (rect.height() + APART)) for across, down in ELSEWHERE]
        for each in self.taken:
            if each.intersects(rect):
                moves += [(each.right() + APART - rect.left(), 0.0), (each.left() - APART - rect.right(), 0.0)]
                moves += [(0.0, each.bottom() + APART - rect.top()), (0.0, each.top() - APART - rect.bottom())]
        return moves

    def _covered(self, rect: QRectF) -> float:
        return sum(_area(rect.intersected(each)) for each in self.taken)


def placed(painter: QPainter, rect: QRectF) -> QPointF:
    """How far words that would cover a rectangle of a view are to be moved."""
    device = painter.device()
    if not isinstance(device, QWidget) or not painter.transform().isIdentity():
        return QPointF(0.0, 0.0)
    placing = getattr(device, "placing", None)
    bounds = QRectF(device.rect())
    found = placing.place(rect, bounds) if isinstance(placing, Placing) else _inside(rect, bounds)
    return found.topLeft() - rect.topLeft()


def taken(painter: QPainter, rect: QRectF) -> QPointF:
    """Words that belong to a place of the sheet cover a rectangle of a view; how far they are to be moved so that the
    view's edge does not cut through them."""
    device = painter.device()
    placing = getattr(device, "placing", None)
    if not isinstance(placing, Placing) or not isinstance(device, QWidget) or not painter.transform().isIdentity():
        return QPointF(0.0, 0.0)
    bounds = QRectF(device.rect())
    if not rect.intersects(bounds):
        return QPointF(0.0, 0.0)
    whole = _inside(rect, bounds)
    placing.take(whole)
    return whole.topLeft() - rect.topLeft()


def _inside(rect: QRectF, bounds: QRectF) -> QRectF:
    """Moved as little as it takes to lie within bounds."""
    left = min(max(rect.left(), bounds.left() + APART), max(bounds.right() - rect.width() - APART, bounds.left()))
    top = min(max(rect.top(), bounds.top() + APART), max(bounds.bottom() - rect.height() - APART, bounds.top()))
    return QRectF(left, top, rect.width(), rect.height())


def _area(rect: QRectF) -> float:
    return rect.width() * rect.height() if rect.isValid() else 0.0
