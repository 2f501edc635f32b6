"""Fingers on a view: one is the hand, two move the paper and pinch it, one that rests asks for the value."""

from __future__ import annotations

from math import hypot
from typing import TYPE_CHECKING, Protocol

from PySide6.QtCore import QEvent, QObject, QPointF, Qt, QTimer
from PySide6.QtGui import QMouseEvent, QTouchEvent

if TYPE_CHECKING:
    from collections.abc import Sequence

    from PySide6.QtGui import QEventPoint

REST_MS = 600
STILL_PX = 9.0  # a finger that has moved no further rests
TOUCHES = (QEvent.Type.TouchBegin, QEvent.Type.TouchUpdate, QEvent.Type.TouchEnd, QEvent.Type.TouchCancel)


class Touched(Protocol):
    """What fingers need of a view."""

    def setAttribute(self, attribute: Qt.WidgetAttribute) -> None:
        """As of a widget."""

    def installEventFilter(self, filter_: QObject) -> None:
        """As of a widget."""

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """The hand takes hold."""

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """The hand moves."""

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """The hand lets go."""

    def drop(self) -> None:
        """What the hand was about to do is dropped: it was meant to move the paper."""

    def pinch(self, factor: float, about: QPointF, moved: QPointF) -> None:
        """The paper is pinched and moved."""

    def rest(self) -> None:
        """A finger rests where it has taken hold."""


class Fingers(QObject):
    """Tells what the fingers on a view mean."""

    def __init__(self, view: Touched) -> None:
        super().__init__(view)  # type: ignore[arg-type]
        self._view = view
        view.setAttribute(Qt.WidgetAttribute.WA_AcceptTouchEvents)
        view.installEventFilter(self)
        self._count = 0  # the most fingers since the first came down
        self._from = QPointF()
        self._pinched: tuple[QPointF, float] | None = None
        self._rest = QTimer(self, singleShot=True, interval=REST_MS)
        self._rest.timeout.connect(self._rested)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() not in TOUCHES or not isinstance(event, QTouchEvent):
            return False
        points = event.points()
        if event.type() == QEvent.Type.TouchBegin:
            self._count, self._from = 1, points[0].position()
            self._as_mouse(QEvent.Type.MouseButtonPress, points[0])
            self._rest.start()
        elif event.type() in (QEvent.Type.TouchEnd, QEvent.Type.TouchCancel):
            self._lift(event, points)
        elif event.type() == QEvent.Type.TouchUpdate:
            self._move(points)
        event.accept()
        return True

    def _move(self, points: Sequence[QEventPoint]) -> None:
        down = [each for each in points if each.state() != each.State.Released]
        if len(down) >= 2:
            if self._count == 1:
                self._view.drop()
            self._count = max(self._count, len(down))
            self._rest.stop()
            self._pinch(down[0].position(), down[1].position())
        elif self._count == 1 and down:
            way = down[0].position() - self._from
            if way.manhattanLength() > STILL_PX:
                self._rest.stop()
            if not self._rest.isActive():
                self._as_mouse(QEvent.Type.MouseMove, down[0])
        else:
            self._pinched = None

    def _pinch(self, one: QPointF, other: QPointF) -> None:
        middle, way = (one + other) / 2, one - other
        apart = max(hypot(way.x(), way.y()), 1.0)
        if self._pinched is not None:
            before, were_apart = self._pinched
            self._view.pinch(apart / were_apart, middle, middle - before)
        self._pinched = (middle, apart)

    def _lift(self, event: QTouchEvent, points: Sequence[QEventPoint]) -> None:
        self._rest.stop()
        if self._count == 1 and event.type() == QEvent.Type.TouchEnd and points:
            self._as_mouse(QEvent.Type.MouseButtonRelease, points[0])
        elif self._count == 1:
            self._view.drop()
        self._count, self._pinched = 0, None

    def _rested(self) -> None:
        if self._count == 1:
            self._count = 2  # what follows is no drag any more
            self._view.rest()

    def _as_mouse(self, kind: QEvent.Type, point: QEventPoint) -> None:
        button, none = Qt.MouseButton.LeftButton, Qt.MouseButton.NoButton
        held = none if kind == QEvent.Type.MouseButtonRelease else button
        event = QMouseEvent(
            kind,
            point.position(),
            point.globalPosition(),
            none if kind == QEvent.Type.MouseMove else button,
            held,
            Qt.KeyboardModifier.NoModifier,
        )
        if kind == QEvent.Type.MouseButtonPress:
            self._view.mousePressEvent(event)
        elif kind == QEvent.Type.MouseMove:
            self._view.mouseMoveEvent(event)
        else:
            self._view.mouseReleaseEvent(event)
