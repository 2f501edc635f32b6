"""The checks of one drawing over time: a small plot, and a table under it."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QHeaderView, QTableWidgetItem, QVBoxLayout, QWidget

from mild_compass.studio.board.empty import paint_words
from mild_compass.studio.pages.plain_table import PlainTable

if TYPE_CHECKING:
    from mild_compass.craft.check.over_time import CheckRow
    from mild_compass.studio.pages.parts import Parts

HEADS = ("", "Taken", "Shows", "Mean", "Worst", "Parts off", "Drawn", "Since then")
EMPTY = ("No drawing yet", "Photograph your sheet now and then; here you see whether it is getting nearer to the plan.")
LEAST_MM = 1.0
MEAN, WORST = "#1f3f8f", "#9e3b21"


class _Plot(QWidget):
    """Mean and worst in mm, a place for each photo; told apart by their marks as well as by their ink."""

    def __init__(self) -> None:
        super().__init__()
        self.rows: list[CheckRow] = []
        self.setFixedHeight(230)
        self.setAccessibleName("Mean and worst error of each photo")

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        ink = self.palette().windowText().color()
        rows = [row for row in self.rows if row.mean_mm is not None]
        if not rows:
            paint_words(painter, self.rect(), *EMPTY, ink.name())
            painter.end()
            return
        area = QRectF(64, 24, self.width() - 190, self.height() - 62)
        top = max(LEAST_MM, *(row.worst_mm or 0 for row in rows)) * 1.12
        self._paint_axes(painter, area, top, ink)
        for number, row in enumerate(rows):
            painter.setPen(ink)
            x = self._x(area, number, len(rows))
            words = QRectF(x - 70, area.bottom() + 6, 140, 18)
            painter.drawText(words, Qt.AlignmentFlag.AlignHCenter, f"{number + 1}  {row.stage}")
        for name, colour, values in (
            ("worst", WORST, [row.worst_mm or 0.0 for row in rows]),
            ("in the mean", MEAN, [row.mean_mm or 0.0 for row in rows]),
        ):
            points = [
                QPointF(self._x(area, n, len(rows)), area.bottom() - area.height() * v / top)
                for n, v in enumerate(values)
            ]
            painter.setPen(QPen(QColor(colour), 2))
            painter.drawPolyline(points)
            painter.setBrush(QColor(colour))
            for at in points:
                if name == "worst":
                    painter.drawRect(QRectF(at.x() - 3.5, at.y() - 3.5, 7, 7))
                else:
                    painter.drawEllipse(at, 4, 4)
            painter.setPen(QColor(colour) if self.palette().window().color().lightness() > 128 else ink)
            painter.drawText(points[-1] + QPointF(12, 4), f"{name}, {values[-1]:.1f} mm")
        painter.end()

    @staticmethod
    def _x(area: QRectF, number: int, count: int) -> float:
        return area.left() + area.width() * (number + 0.5) / count

    def _paint_axes(self, painter: QPainter, area: QRectF, top: float, ink: QColor) -> None:
        pale = QColor(ink)
        pale.setAlpha(50)
        step = next(step for step in (0.5, 1.0, 2.0, 5.0, 10.0, 50.0) if top / step <= 6 or step == 50.0)
        value = 0.0
        while value <= top:
            y = area.bottom() - area.height() * value / top
            painter.setPen(QPen(pale, 1))
            painter.drawLine(QPointF(area.left(), y), QPointF(area.right(), y))
            painter.setPen(ink)
            painter.drawText(
                QRectF(0, y - 9, 56, 18), Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, f"{value:g} mm"
            )
            value += step


class OverTimePage(QWidget):
    """Every photo of the drawing, the earliest first."""

    def __init__(self, parts: Parts) -> None:
        super().__init__()
        self._session, self._computed = parts.session, parts.computed
        self._plot = _Plot()
        self._table = PlainTable(HEADS, "", "", "Checks over time")
        head = self._table.horizontalHeader()
        head.setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
        head.setSectionResizeMode(len(HEADS) - 1, QHeaderView.ResizeMode.Stretch)
        self._table.setWordWrap(True)
        layout = QVBoxLayout(self)
        layout.addWidget(self._plot)
        layout.addWidget(self._table, 1)
        parts.computed.changed.connect(self.refresh)

    @property
    def settled(self) -> bool:
        """Whether every photo has been looked at."""
        return self._computed.checks.now.settled and self._computed.checks.earlier.wanted() is None

    def showEvent(self, event: object) -> None:
        self.refresh()

    def hideEvent(self, event: object) -> None:
        self._computed.checks.earlier.wanted_now = False

    def refresh(self) -> None:
        """Follow the plan while the page is seen."""
        if not self.isVisible() or self._computed.in_gesture:
            return
        checks = self._computed.checks
        checks.look()
        checks.earlier.wanted_now = True
        checks.earlier.ask()
        rows = self._rows()
        self._plot.rows = rows
        self._plot.update()
        self._table.setRowCount(len(rows))
        for number, row in enumerate(rows):
            for column, words in enumerate(self._words(number, row)):
                item = QTableWidgetItem(words)
                side = Qt.AlignmentFlag.AlignRight if column in (3, 4, 5, 6) else Qt.AlignmentFlag.AlignLeft
                item.setTextAlignment(side | Qt.AlignmentFlag.AlignVCenter)
                item.setToolTip(words)
                self._table.setItem(number, column, item)
        self._table.resizeRowsToContents()

    def _rows(self) -> list[CheckRow]:
        from mild_compass.craft.check.over_time import check_row

        worked = self._computed.worked()
        found, before = [], None
        for drawing in self._session.plan.drawings:
            made = self._computed.checks.earlier.of(drawing)
            if made is None or worked is None:
                continue
            found.append(check_row(drawing, made.checked, worked, before))
            before = made.checked if not made.checked.problem else before
        return found

    def _words(self, number: int, row: CheckRow) -> tuple[str, ...]:
        from mild_compass.craft.sheet_sizes.lengths import format_length

        taken = row.taken.replace("T", " ")[:16]
        if row.problem:
            return (str(number + 1), taken, row.stage, "–", "–", "–", "–", row.problem)
        told = [format_length(mm, self._computed.unit) if mm is not None else "–" for mm in (row.mean_mm, row.worst_mm)]
        mended = f"mended: {', '.join(row.mended)}" if row.mended else ""
        still = f"still off: {', '.join(row.still)}" if row.still else ""
        words = "; ".join(filter(None, (mended, still)))
        return (str(number + 1), taken, row.stage, *told, str(row.off), f"{row.drawn_percent:.0f} %", words)
