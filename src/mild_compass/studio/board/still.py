"""What does not move with the hand: painted once, then shown again for as long as nothing of it changes."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtGui import QColor, QPainter, QPixmap

if TYPE_CHECKING:
    from collections.abc import Callable

    from PySide6.QtWidgets import QWidget


class Still:
    """The still part of one widget's painting."""

    def __init__(self) -> None:
        self._key: tuple[object, ...] | None = None
        self._pixmap = QPixmap()

    def show(
        self,
        painter: QPainter,
        widget: QWidget,
        key: tuple[object, ...],
        paint: Callable[[QPainter], None],
        ground: QColor | Qt.GlobalColor = Qt.GlobalColor.transparent,
    ) -> None:
        """Lay it down, painted anew on its ground where what it was painted of (the key) is not the same."""
        ratio = widget.devicePixelRatioF()
        whole = (*key, widget.size().toTuple(), ratio)
        if whole != self._key:
            self._pixmap = QPixmap(widget.size() * ratio)
            self._pixmap.setDevicePixelRatio(ratio)
            self._pixmap.fill(ground)
            still = QPainter(self._pixmap)
            still.setFont(painter.font())
            still.setRenderHint(QPainter.RenderHint.Antialiasing)
            paint(still)
            still.end()
            self._key = whole
        painter.drawPixmap(0, 0, self._pixmap)
