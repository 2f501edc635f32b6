"""The trend: one drill plotted session by session with its spread, and all drills in a table."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QHeaderView, QTableWidgetItem, QVBoxLayout, QWidget

from mild_compass.studio.board.empty import paint_words
from mild_compass.studio.pages.plain_table import PlainTable

if TYPE_CHECKING:
    from mild_compass.craft.practice.drills import Drill
    from mild_compass.craft.practice.history import History
    from mild_compass.studio.pages.parts import Parts

HEADS = ("Drill (answers)", "Leans", "Scatter", "Settles at", "Over the sessions")
EMPTY = ("No practice yet", "Answer some questions at Practice; here you see how your eye measures and where it leans.")
NUMBERS = (2, 3)
VERDICTS = {
    "better": "better",
    "worse": "worse",
    "no change": "no change",
    "too few": "too few days",
}
MIDDLE = "#a2391f"
LEFT, TOP, RIGHT, FOOT = 66, 46, 30, 42


class _Plot(QWidget):
    """Each answer a dot at its session, the middle of each session a bar; the line of no error across."""

    def __init__(self) -> None:
        super().__init__()
        self.drill: Drill | None = None
        self.sessions: list[list[float]] = []
        self.days: list[str] = []
        self.words = ""
        self.setFixedHeight(270)
        self.setAccessibleName("Errors of one drill, session by session")

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        ink = self.palette().windowText().color()
        if self.drill is None or not self.sessions:
            paint_words(painter, self.rect(), *EMPTY, ink.name())
            painter.end()
            return
        area = QRectF(LEFT, TOP, self.width() - LEFT - RIGHT, self.height() - TOP - FOOT)
        top = max(0.1, *(abs(error) for session in self.sessions for error in session)) * 1.08
        painter.setPen(ink)
        painter.drawText(QRectF(LEFT, 4, area.width(), 36), Qt.TextFlag.TextWordWrap, self.words)
        self._paint_axis(painter, area, top, ink)
        for place, session in enumerate(self.sessions):
            self._paint_session(painter, area, top, place, session)
        painter.end()

    def _paint_axis(self, painter: QPainter, area: QRectF, top: float, ink: QColor) -> None:
        assert self.drill is not None
        pale = QColor(ink)
        pale.setAlpha(60)
        middle = area.center().y()
        for share in (-1, -0.5, 0, 0.5, 1):
            y = middle - share * area.height() / 2
            painter.setPen(QPen(ink if share == 0 else pale, 1))
            painter.drawLine(QPointF(area.left(), y), QPointF(area.right(), y))
            painter.setPen(ink)
            words = QRectF(0, y - 9, LEFT - 8, 18)
            number = f"{share * top:+.1f}".replace("-", "−") if share else "0"
            painter.drawText(words, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, number)
        painter.drawText(QRectF(0, TOP - 30, LEFT - 8, 18), Qt.AlignmentFlag.AlignRight, self.drill.unit)
        for place in {0, len(self.days) - 1, len(self.days) // 2}:
            x = self._x(area, place)
            box = QRectF(min(max(x - 45, area.left() - 20), area.right() - 80), area.bottom() + 8, 90, 18)
            painter.drawText(box, Qt.AlignmentFlag.AlignHCenter, self.days[place])

    def _paint_session(self, painter: QPainter, area: QRectF, top: float, place: int, session: list[float]) -> None:
        x, middle, half = self._x(area, place), area.center().y(), area.height() / 2
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(38, 57, 158, 110))
        for error in session:
            painter.drawEllipse(QPointF(x, middle - error / top * half), 2.8, 2.8)
        y = middle - sum(session) / len(session) / top * half
        painter.setPen(QPen(QColor(MIDDLE), 2.4))
        painter.drawLine(QPointF(x - 7, y), QPointF(x + 7, y))

    def _x(self, area: QRectF, place: int) -> float:
        return area.left() + area.width() * (place + 0.5) / len(self.sessions)


class TrendPage(QWidget):
    """Follows the practice while it is seen."""

    def __init__(self, parts: Parts) -> None:
        super().__init__()
        self._memory = parts.memory
        self._plot = _Plot()
        self.table = PlainTable(HEADS, *EMPTY, "All drills")
        for column in NUMBERS:
            self.table.horizontalHeader().setSectionResizeMode(column, QHeaderView.ResizeMode.ResizeToContents)
        self.table.verticalHeader().setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
        self.drill = ""
        self._shown: History | None = None
        self._names: list[str] = []
        layout = QVBoxLayout(self)
        layout.setContentsMargins(24, 16, 24, 16)
        layout.setSpacing(10)
        layout.addWidget(self._plot)
        layout.addWidget(self.table, 1)
        layout.addStretch(0)
        self.table.itemSelectionChanged.connect(self._choose_row)
        self._memory.changed.connect(self.refresh)

    def showEvent(self, event: object) -> None:
        self.refresh()

    def refresh(self) -> None:
        """Show the history as it is now."""
        history = self._memory.history
        if not self.isVisible() or history is self._shown:
            return
        self._shown = history
        from mild_compass.craft.practice.drills import DRILLS

        done = [row for row in DRILLS if history.of(row.name)]
        self._names = [row.name for row in done]
        trends = history.trends()
        self.table.setRowCount(len(done))
        self.table.setVisible(bool(done))
        for place, row in enumerate(done):
            self._show_row(place, row, history, VERDICTS[trends[row.name].verdict] if row.signed else "not told")
        signed = [row.name for row in done if row.signed]
        self.show_drill(self.drill if self.drill in signed else signed[0] if signed else "")

    def show_drill(self, name: str) -> None:
        """Plot another drill."""
        from mild_compass.craft.practice.drills import drill
        from mild_compass.craft.practice.history import said

        self.drill = name
        history = self._memory.history
        plot = self._plot
        plot.drill = drill(name) if name else None
        plot.sessions, plot.days = (history.sessions(name), history.days(name)) if name else ([], [])
        eye = history.eye(name) if name else None
        plot.words = said(name, eye) if eye is not None else "Too few answers to say how this eye measures."
        plot.update()

    def _show_row(self, place: int, row: Drill, history: History, verdict: str) -> None:
        eye, at = history.eye(row.name), history.settles_at(row.name)
        space = "" if row.unit == "°" else " "
        leans = scatter = "–"
        if eye is not None:
            leans = "no lean" if not eye.leans else f"{abs(eye.bias):.1f}{space}{row.unit} {_lean(row, eye.bias)}"
            scatter = f"{eye.spread:.1f}{space}{row.unit}"
        within = f"{at:.1f}{space}{row.unit}" if at is not None else "–"
        cells = (f"{row.title} ({len(history.of(row.name))})", leans, scatter, within, verdict)
        for column, text in enumerate(cells):
            item = QTableWidgetItem(text)
            if column in NUMBERS:
                item.setTextAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
            self.table.setItem(place, column, item)

    def _choose_row(self) -> None:
        from mild_compass.craft.practice.drills import drill

        place = self.table.currentRow()
        if 0 <= place < len(self._names) and drill(self._names[place]).signed:
            self.show_drill(self._names[place])


def _lean(row: Drill, bias: float) -> str:
    return row.more if bias > 0 else row.less
