"""The logbook on the board's place: notes and decisions in order."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFrame, QHBoxLayout, QScrollArea, QVBoxLayout, QWidget

from mild_compass.output.markdown import when
from mild_compass.plan.edits.logbook import delete_line
from mild_compass.studio.widgets import Wrapped, button, plain_label, soft

if TYPE_CHECKING:
    from mild_compass.plan.model import LogEntry
    from mild_compass.studio.pages.parts import Parts


class LogbookPage(QScrollArea):
    """One row per entry; notes stand out, decisions are quiet."""

    def __init__(self, parts: Parts) -> None:
        session, computed = parts.session, parts.computed
        super().__init__()
        self._session = session
        self.setWidgetResizable(True)
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setAccessibleName("Logbook")
        self._shown: tuple[LogEntry, ...] | None = None
        computed.changed.connect(self.refresh)

    def refresh(self) -> None:
        """Lay the page out again when the log has changed and the page is seen."""
        if not self.isVisible() or self._shown == self._session.plan.log:
            return
        self._shown = self._session.plan.log
        page = QWidget()
        layout = QVBoxLayout(page)
        layout.setContentsMargins(28, 20, 28, 20)
        layout.setSpacing(6)
        day = ""
        for index, entry in enumerate(self._shown):
            date, _ = when(entry)
            if date != day:
                day = date
                head = plain_label(date)
                head.setProperty("head", True)
                layout.addWidget(head)
            layout.addWidget(self._row(index, entry))
        if not self._shown:
            layout.addWidget(
                soft("Nothing yet. What you decide is written here by itself; add notes in the line below.")
            )
        layout.addStretch(1)
        self.setWidget(page)

    def showEvent(self, event: object) -> None:
        self.refresh()

    def _row(self, index: int, entry: LogEntry) -> QWidget:
        row = QFrame()
        row.setProperty("card", entry.kind == "note")
        layout = QHBoxLayout(row)
        layout.setContentsMargins(10, 4, 6, 4)
        layout.setSpacing(12)
        where = entry.station.capitalize() + (f" · {entry.study}" if entry.study else "")
        for text, width in ((when(entry)[1], 44), (where, 118)):
            label = plain_label(text)
            label.setProperty("soft", True)
            label.setFixedWidth(width)
            layout.addWidget(label, 0, Qt.AlignmentFlag.AlignTop)
        words = Wrapped(f"“{entry.text}”" if entry.kind == "note" else entry.text)
        words.setProperty("soft", entry.kind != "note")
        layout.addWidget(words, 1, Qt.AlignmentFlag.AlignTop)
        away = button("×", lambda: self._session.apply(delete_line(index)), tip="Delete this line")
        away.setProperty("flat", True)
        away.setFixedSize(24, 20)
        away.setAccessibleName(f"Delete: {entry.text[:40]}")
        layout.addWidget(away, 0, Qt.AlignmentFlag.AlignTop)
        return row
