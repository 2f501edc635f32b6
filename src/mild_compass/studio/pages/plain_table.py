"""A table to read, which says what it is for while it is empty."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtGui import QPainter
from PySide6.QtWidgets import QAbstractItemView, QHeaderView, QTableWidget

from mild_compass.studio.board.empty import paint_words

if TYPE_CHECKING:
    from PySide6.QtGui import QPaintEvent


LONG_HEAD = 10  # letters


class PlainTable(QTableWidget):
    """Whole rows are chosen, nothing is edited."""

    def __init__(self, heads: tuple[str, ...], headline: str, how: str, name: str) -> None:
        super().__init__(0, len(heads))
        self._headline, self._how = headline, how
        self.setHorizontalHeaderLabels(list(heads))
        self.verticalHeader().hide()
        self.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        self.setShowGrid(False)
        self.setAlternatingRowColors(True)
        self.horizontalHeader().setSectionResizeMode(QHeaderView.ResizeMode.Stretch)
        self.horizontalHeader().setDefaultAlignment(Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap)
        if any(len(head) >= LONG_HEAD for head in heads):  # such a one takes two lines in a narrow window
            self.horizontalHeader().setMinimumHeight(2 * self.fontMetrics().lineSpacing() + 8)
        self.setAccessibleName(name)

    def paintEvent(self, event: QPaintEvent) -> None:
        super().paintEvent(event)
        if self.rowCount() == 0:
            painter = QPainter(self.viewport())
            ink = self.palette().windowText().color().name()
            paint_words(painter, self.viewport().rect(), self._headline, self._how, ink)
            painter.end()
