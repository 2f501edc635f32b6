"""The route: the stations on one thin line, each with its headline; the needle marks where we are."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QFont, QFontMetrics, QKeyEvent, QMouseEvent, QPainter, QPainterPath, QPaintEvent, QPen
from PySide6.QtWidgets import QAbstractButton, QSizePolicy, QWidget

from mild_compass.craft.stations import STATIONS
from mild_compass.studio.theme.in_use import colours
from mild_compass.studio.widgets import plain_tip

if TYPE_CHECKING:
    from collections.abc import Mapping, Set

    from mild_compass.plan.stations import StationName


class _Stop(QAbstractButton):
    """A station as a reader of the screen finds it: it can be pressed, and is not in the way of the mouse."""

    def __init__(self, route: QWidget) -> None:
        super().__init__(route)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)

    def paintEvent(self, event: QPaintEvent) -> None:
        """The route paints them all."""


def fitting(headline: str, metrics: QFontMetrics, room_px: int) -> str:
    """As many of a headline's parts as there is room for, the first ones; the tip over the station tells them all."""
    parts = headline.split(", ")
    while len(parts) > 1 and metrics.horizontalAdvance(", ".join(parts)) > room_px:
        parts.pop()
    words = ", ".join(parts)
    fits = metrics.horizontalAdvance(words) <= room_px
    return words if fits else metrics.elidedText(words, Qt.TextElideMode.ElideRight, room_px)


class Route(QWidget):
    """Click, arrow keys or digit keys go to a station."""

    chosen = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self.current: StationName = "viewfinder"
        self.headlines: Mapping[StationName, str] = {}
        self._warned: Set[StationName] = frozenset()
        self._over: int | None = None
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setAccessibleName("Route")
        self._stops = [self._stop(index) for index in range(len(STATIONS))]

    def sizeHint(self) -> QSize:
        return QSize(800, 56)

    def _stop(self, index: int) -> _Stop:
        stop = _Stop(self)
        stop.setAccessibleName(f"{index + 1} {STATIONS[index].title}")
        stop.clicked.connect(lambda: self.chosen.emit(STATIONS[index].name))
        return stop

    def resizeEvent(self, event: object) -> None:
        for index, stop in enumerate(self._stops):
            stop.setGeometry(round(index * self._width()), 0, round(self._width()), self.height())

    def show_state(self, current: StationName, headlines: Mapping[StationName, str], warned: Set[StationName]) -> None:
        """Show where we are, what each station says, and which has a warning."""
        self.current, self.headlines, self._warned = current, headlines, warned
        said = "; ".join(f"{each.title} {headlines.get(each.name, '')}" for each in STATIONS)
        self.setAccessibleDescription(f"At {current}. {said}")
        for stop, each in zip(self._stops, STATIONS, strict=True):
            stop.setAccessibleDescription(("Here. " if each.name == current else "") + headlines.get(each.name, ""))
        self.update()

    def _width(self) -> float:
        return self.width() / len(STATIONS)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        paint, width = colours(), self._width()
        painter.fillRect(self.rect(), QColor(paint.window))
        line = 15.0
        painter.setPen(QPen(QColor(paint.pale_ink), 1))
        painter.drawLine(QPointF(16, line), QPointF(self.width() - width + 16, line))
        for index, station in enumerate(STATIONS):
            here = station.name == self.current
            x = index * width + 16
            if index == self._over and not here:
                painter.fillRect(QRectF(index * width + 2, 25, width - 8, 30), QColor(paint.hover))
            self._paint_mark(painter, x, line, here, station.name)
            self._paint_words(painter, index, station.title, self.headlines.get(station.name, ""), here)
        if self.hasFocus():
            painter.setPen(QPen(QColor(paint.accent), 1, Qt.PenStyle.DotLine))
            painter.drawRect(QRectF(self.rect()).adjusted(1, 1, -1, -1))
        painter.end()

    def _paint_mark(self, painter: QPainter, x: float, y: float, here: bool, name: StationName) -> None:
        paint = colours()
        path = QPainterPath()
        if here:
            for k, (dx, dy) in enumerate(((0, -13), (6, 0), (0, 13), (-6, 0))):
                (path.moveTo if k == 0 else path.lineTo)(x + dx, y + dy)
            path.closeSubpath()
            painter.fillPath(path, QColor(paint.accent))
            return
        quiet = not self.headlines.get(name)
        painter.setPen(QPen(QColor(paint.pale_ink if quiet else paint.soft_ink), 1.2))
        painter.setBrush(QColor(paint.window))
        painter.drawEllipse(QPointF(x, y), 4, 4)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        if name in self._warned:
            painter.setPen(QPen(QColor(paint.accent), 2))
            painter.drawLine(QPointF(x, y - 11), QPointF(x, y - 5))

    def _paint_words(self, painter: QPainter, index: int, title: str, headline: str, here: bool) -> None:
        paint, width = colours(), self._width()
        font = QFont(self.font())
        font.setPixelSize(13)
        font.setWeight(QFont.Weight.DemiBold if here else QFont.Weight.Normal)
        painter.setFont(font)
        painter.setPen(QColor(paint.ink if headline or here else paint.pale_ink))
        left, room = index * width + 8, width - 14
        words = painter.fontMetrics().elidedText(f"{index + 1} {title}", Qt.TextElideMode.ElideRight, round(room))
        painter.drawText(QPointF(left, 39), words)
        font.setPixelSize(11)
        font.setWeight(QFont.Weight.Normal)
        painter.setFont(font)
        painter.setPen(QColor(paint.soft_ink))
        painter.drawText(QPointF(left, 53), fitting(headline, painter.fontMetrics(), round(room)))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        index = int(event.position().x() // self._width())
        if 0 <= index < len(STATIONS):
            self.chosen.emit(STATIONS[index].name)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        self._over = int(event.position().x() // self._width())
        if 0 <= self._over < len(STATIONS):
            station = STATIONS[self._over]
            self.setToolTip(plain_tip(f"{station.title} ({self._over + 1})  {self.headlines.get(station.name, '')}"))
        self.update()

    def leaveEvent(self, event: object) -> None:
        self._over = None
        self.update()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        step = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(Qt.Key(event.key()))
        if step is None:
            super().keyPressEvent(event)
            return
        names = [station.name for station in STATIONS]
        self.chosen.emit(names[(names.index(self.current) + step) % len(names)])
