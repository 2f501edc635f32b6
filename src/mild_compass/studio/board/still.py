"""What does not move with the hand: painted once and kept, then shown again for as long as nothing of it changes."""

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
        self._last: tuple[object, ...] | None = None
        self._kept: tuple[object, ...] | None = None
        self._pixmap = QPixmap()

    def show(
        self,
        painter: QPainter,
        widget: QWidget,
        key: tuple[object, ...],
        paint: Callable[[QPainter], None],
        ground: QColor | Qt.GlobalColor = Qt.GlobalColor.transparent,
        at_once: bool = False,
    ) -> None:
        """Lay it down, painted anew where what it was painted of (the key) is not the same.

        It is kept, on its ground, when it is painted for the second time, or ``at_once``: what changes each time is
        not worth keeping.
        """
        ratio = abs(painter.deviceTransform().m22())  # finer than the widget where a picture is made of it
        whole = (*key, widget.size().toTuple(), ratio)
        if whole == self._kept:
            painter.drawPixmap(0, 0, self._pixmap)
        elif whole == self._last or at_once:
            self._keep(painter, widget, whole, ratio, paint, ground)
            painter.drawPixmap(0, 0, self._pixmap)
        else:
            painter.save()
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            paint(painter)
            painter.restore()
        self._last = whole

    def _keep(
        self,
        painter: QPainter,
        widget: QWidget,
        whole: tuple[object, ...],
        ratio: float,
        paint: Callable[[QPainter], None],
        ground: QColor | Qt.GlobalColor,
    ) -> None:
        self._pixmap = QPixmap(widget.size() * ratio)
        self._pixmap.setDevicePixelRatio(ratio)
        self._pixmap.fill(ground)
        still = QPainter(self._pixmap)
        still.setFont(painter.font())
        still.setRenderHint(QPainter.RenderHint.Antialiasing)
        paint(still)
        still.end()
        self._kept = whole
