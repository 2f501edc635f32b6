"""The logbook on the board's place: notes and decisions in order."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFrame, QHBoxLayout, QLabel, QScrollArea, QVBoxLayout, QWidget

from mild_compass.craft.logbook.timeline import when
from mild_compass.plan.edits.logbook import delete_line
from mild_compass.studio.widgets import Wrapped, button, plain_label, soft

if TYPE_CHECKING:
    from collections.abc import Callable

    from mild_compass.plan.model import LogEntry
    from mild_compass.studio.pages.parts import Parts

AT_ONCE = 200  # lines; those before are a click away
NOTHING_YET = "Nothing yet. What you decide is written here by itself; add notes in the line below."


class LogbookPage(QScrollArea):
    """One row per entry, the latest at the foot; notes stand out, decisions are quiet.

    Rows that are there stay: only what has come or gone is laid out.
    """

    def __init__(self, parts: Parts) -> None:
        super().__init__()
        self._session = parts.session
        self.setWidgetResizable(True)
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setAccessibleName("Logbook")
        self._shown: tuple[LogEntry, ...] = ()
        self._rows: list[_Row] = []
        self._most = AT_ONCE
        page = QWidget()
        layout = QVBoxLayout(page)
        layout.setContentsMargins(28, 20, 28, 20)
        layout.setSpacing(6)
        self._earlier = button("", self._show_earlier)
        self._empty = soft(NOTHING_YET)
        layout.addWidget(self._earlier, 0, Qt.AlignmentFlag.AlignLeft)
        layout.addWidget(self._empty)
        self._lines = QVBoxLayout()
        self._lines.setSpacing(6)
        layout.addLayout(self._lines)
        layout.addStretch(1)
        self.setWidget(page)
        parts.session.replaced.connect(self._begin_anew)
        parts.computed.changed.connect(self.refresh)

    def refresh(self) -> None:
        """Follow the log while the page is seen."""
        log = self._session.plan.log
        if not self.isVisible() or (self._shown is log and self._rows):
            return
        self._shown = log
        wanted = log[-self._most :]
        self._take_away({id(entry) for entry in wanted})
        for place, entry in enumerate(wanted):
            if place == len(self._rows) or self._rows[place].entry is not entry:
                row = _Row(entry, self._delete)
                self._rows.insert(place, row)
                self._lines.insertWidget(place, row)
        day = ""
        for row in self._rows:
            row.head.setVisible(row.day != day)
            day = row.day
        before = len(log) - len(wanted)
        self._earlier.setText(f"Show the lines before ({before})")
        self._earlier.setVisible(before > 0)
        self._empty.setVisible(not log)

    def showEvent(self, event: object) -> None:
        self.refresh()

    def _take_away(self, wanted: set[int]) -> None:
        kept = []
        for row in self._rows:
            if id(row.entry) in wanted:
                kept.append(row)
            else:
                self._lines.removeWidget(row)
                row.deleteLater()
                row.hide()
        self._rows = kept

    def _show_earlier(self) -> None:
        self._most += AT_ONCE
        self._shown = ()
        self.refresh()

    def _begin_anew(self) -> None:
        self._most = AT_ONCE
        self._shown = ()

    def _delete(self, entry: LogEntry) -> None:
        self._session.apply(delete_line(self._session.plan.log.index(entry)))


class _Row(QWidget):
    """A line of the log, under its day where a new one begins."""

    def __init__(self, entry: LogEntry, delete: Callable[[LogEntry], object]) -> None:
        super().__init__()
        self.entry = entry
        self.day, time = when(entry.time)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(6)
        self.head: QLabel = plain_label(self.day)
        self.head.setProperty("head", True)
        layout.addWidget(self.head)
        layout.addWidget(_line(entry, time, delete))


def _line(entry: LogEntry, time: str, delete: Callable[[LogEntry], object]) -> QWidget:
    row = QFrame()
    row.setProperty("card", entry.kind == "note")
    layout = QHBoxLayout(row)
    layout.setContentsMargins(10, 4, 6, 4)
    layout.setSpacing(12)
    where = entry.station.capitalize() + (f" · {entry.study}" if entry.study else "")
    for text, width in ((time, 44), (where, 118)):
        label = plain_label(text)
        label.setProperty("soft", True)
        label.setFixedWidth(width)
        layout.addWidget(label, 0, Qt.AlignmentFlag.AlignTop)
    words = Wrapped(f"“{entry.text}”" if entry.kind == "note" else entry.text)
    words.setProperty("soft", entry.kind != "note")
    layout.addWidget(words, 1, Qt.AlignmentFlag.AlignTop)
    away = button("×", lambda: delete(entry), tip="Delete this line")
    away.setProperty("flat", True)
    away.setFixedSize(24, 20)
    away.setAccessibleName(f"Delete: {entry.text[:40]}")
    layout.addWidget(away, 0, Qt.AlignmentFlag.AlignTop)
    return row
