"""What rectangle have I got: a chart of named ratios with the sheet marked on it, and trimming to one of them."""

from __future__ import annotations

from math import log

from PySide6.QtCore import QPointF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QWidget

from mild_compass.craft.armature.named_ratios import NAMED, trim_to
from mild_compass.craft.sheet_sizes.papers import trimmed
from mild_compass.plan.edits.viewfinder import choose_paper
from mild_compass.plan.errors import PlanError
from mild_compass.studio.desk import Desk
from mild_compass.studio.stations.instrument import Instrument
from mild_compass.studio.widgets import button, form, soft

TOP, FOOT, ROW = 10, 10, 21


class RatioChart(QWidget):
    """Named ratios down a scale of their logarithm, the sheet's own marked by the needle; click chooses one."""

    chosen = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self.ratio, self.picked = 1.0, ""
        self.setFixedHeight(TOP + FOOT + ROW * len(NAMED))
        self.setAccessibleName("Named ratios")
        self.setCursor(Qt.CursorShape.PointingHandCursor)

    def sizeHint(self) -> QSize:
        return QSize(200, self.height())

    def _y(self, ratio: float) -> float:
        """Names stand evenly; a ratio between two of them stands between them by its logarithm."""
        values = [value for _, value in NAMED]
        if ratio >= values[-1]:
            return TOP + ROW * (len(values) - 1) + min(10.0, 20 * log(ratio / values[-1]))
        index = max(k for k, value in enumerate(values) if value <= ratio + 1e-9)
        share = log(ratio / values[index]) / log(values[index + 1] / values[index])
        return TOP + ROW * (index + max(0.0, share))

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        ink = self.palette().windowText().color()
        painter.setPen(QPen(ink, 1))
        painter.drawLine(QPointF(20, TOP), QPointF(20, TOP + ROW * (len(NAMED) - 1)))
        for index, (name, value) in enumerate(NAMED):
            y = TOP + ROW * index
            painter.drawLine(QPointF(15, y), QPointF(25, y))
            font = painter.font()
            font.setBold(name == self.picked)
            painter.setFont(font)
            painter.drawText(QPointF(34, y + 5), name)
            painter.drawText(QPointF(self.width() - 44, y + 5), f"{value:.3f}")
        at = self._y(self.ratio)
        painter.setBrush(QColor("#a2391f"))
        painter.setPen(QPen(QColor("#a2391f"), 1))
        painter.drawPolygon(QPolygonF([QPointF(6, at), QPointF(13, at - 6), QPointF(20, at), QPointF(13, at + 6)]))
        painter.end()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        index = min(max(round((event.position().y() - TOP) / ROW), 0), len(NAMED) - 1)
        self.picked = NAMED[index][0]
        self.chosen.emit(self.picked)
        self.update()


class RectangleInstrument(Instrument):
    """Tells which named rectangle the picture is near, and trims the sheet to any of them."""

    name = "rectangle"
    words = "What rectangle is it"
    icon = "chart"
    tells = ("ratio", "nearest_ratio")
    hint = "Your picture's proportion among the named ones. Click a name to see what to trim."

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk)
        self._picked = ""

    def options(self) -> QWidget:
        self._words, self._trim_words = soft(""), soft("")
        self._chart = RatioChart()
        self._chart.chosen.connect(self._pick)
        self._trim = button("Trim the sheet to it", self._trim_it)
        return form(self._words, self._chart, self._trim_words, self._trim)

    def refresh(self) -> None:
        box = self.desk.frame_map.box
        self._chart.ratio = max(box.width, box.height) / min(box.width, box.height)
        self._chart.update()
        length = self.desk.length
        self._words.setText(f"{length(box.width)} × {length(box.height)}, 1 : {self._chart.ratio:.3f}")
        self._trim.setEnabled(bool(self._picked))
        if not self._picked:
            self._trim_words.setText("Click a name.")
            return
        wide, high = trim_to(self._picked, box.width, box.height)
        side = "width" if wide else "height"
        told = f"{length(max(wide, high))} off the {side}" if max(wide, high) > 0.05 else "nothing"
        self._trim_words.setText(f"To reach {self._picked}: trim {told}.")

    def _pick(self, name: str) -> None:
        self._picked = name
        self.refresh()

    def _trim_it(self) -> None:
        box = self.desk.frame_map.box
        try:
            self.commit(choose_paper(trimmed(self.desk.plan.paper, *trim_to(self._picked, box.width, box.height))))
        except PlanError as error:
            self.desk.say(str(error))
