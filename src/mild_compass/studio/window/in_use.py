"""How long each station has been in use: only while the window is in front and somebody does something."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, QTimer
from PySide6.QtGui import QCursor

from mild_compass.plan.edits.work import with_time

if TYPE_CHECKING:
    from PySide6.QtWidgets import QWidget

    from mild_compass.plan.stations import StationName
    from mild_compass.studio.session import Session

TICK_S, REST_S, WRITTEN_EACH_S = 5, 60, 60


class InUse(QObject):
    """Looks every few seconds whether pointer or plan have moved within the last minute; writes once a minute."""

    def __init__(self, window: QWidget, session: Session) -> None:
        super().__init__(window)
        self._window, self._session = window, session
        self._station: StationName | None = None
        self._pending_s = 0.0
        self._idle_s = 0.0
        self._seen: tuple[object, ...] = ()
        self._timer = QTimer(self, interval=1000 * TICK_S)
        self._timer.timeout.connect(self.tick)
        self._timer.start()
        session.replaced.connect(self._begin_anew)

    def visit(self, station: StationName) -> None:
        """Another station is in hand: what was spent at the last one is written."""
        if station != self._station:
            self.write()
            self._station = station

    def tick(self) -> None:
        """Some seconds have gone."""
        pointer = QCursor.pos()
        seen = (pointer.x(), pointer.y(), id(self._session.plan))
        self._idle_s = 0.0 if seen != self._seen else self._idle_s + TICK_S
        self._seen = seen
        if self._window.isActiveWindow() and self._idle_s < REST_S and self._session.committed.study is not None:
            self._pending_s += TICK_S
        if self._pending_s >= WRITTEN_EACH_S:
            self.write()

    def write(self) -> None:
        """Write what has come together."""
        station, seconds = self._station, self._pending_s
        if station is None or not seconds or self._session.in_gesture:
            return
        self._pending_s = 0.0
        self._session.record(lambda plan: with_time(plan, station, seconds))
        self._seen = (*self._seen[:2], id(self._session.plan))

    def _begin_anew(self) -> None:
        self._pending_s = 0.0
