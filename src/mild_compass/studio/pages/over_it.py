"""Plan and drawing over each other: two inks, side by side, a wiping edge, the difference, blinking."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QWidget

from mild_compass.studio.board.empty import paint_words
from mild_compass.studio.board.laid import LaidOver

if TYPE_CHECKING:
    from PySide6.QtGui import QKeyEvent

    from mild_compass.studio.board.laid import Laid
    from mild_compass.studio.derived.checks import DrawnCheck
    from mild_compass.studio.pages.parts import Parts
    from mild_compass.studio.words import Hold

EDGE = 22.0


class OverItPage(QWidget):
    """Follows the check of the drawing; B blinks while it is held, dragging moves the wiping edge."""

    def __init__(self, parts: Parts) -> None:
        super().__init__()
        self._session, self._computed = parts.session, parts.computed
        self.surround = "#777777"
        self.laid = LaidOver(EDGE)
        parts.computed.changed.connect(self.refresh)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Plan over drawing")
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)

    @property
    def settled(self) -> bool:
        """Whether the drawing is there."""
        return self._computed.checks.now.settled

    def look(self, way: Laid | None = None, moved: bool | None = None, upside_down: bool | None = None) -> None:
        """Look in another way."""
        laid = self.laid
        laid.way = laid.way if way is None else way
        laid.moved = laid.moved if moved is None else moved
        laid.upside_down = laid.upside_down if upside_down is None else upside_down
        self.update()

    def hold(self, name: Hold, on: bool) -> None:
        """Squint, values, mirror or step back while it is held."""
        (self.laid.holds.add if on else self.laid.holds.discard)(name)
        self.update()

    def refresh(self) -> None:
        """Follow the plan while the page is seen."""
        if self.isVisible():
            self.update()

    def showEvent(self, event: object) -> None:
        self.refresh()

    # -- the hand -------------------------------------------------------------------------------------------------

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_B and not event.isAutoRepeat():
            self.laid.blink = True
            self.update()
        elif self.laid.way == "wipe" and event.key() in (Qt.Key.Key_Left, Qt.Key.Key_Right):
            step = -0.02 if event.key() == Qt.Key.Key_Left else 0.02
            self.laid.wipe(self.laid.edge + step)
            self.update()
        else:
            super().keyPressEvent(event)

    def keyReleaseEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_B and not event.isAutoRepeat():
            self.laid.blink = False
            self.update()
        else:
            super().keyReleaseEvent(event)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.mouseMoveEvent(event)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self.laid.way != "wipe" or not event.buttons() & Qt.MouseButton.LeftButton:
            return
        self.laid.wipe_to(event.position().x(), self.size().toSizeF(), self._session.plan.paper)
        self.update()

    # -- painting -------------------------------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), QColor(self.surround))
        made = self._computed.drawing_check
        if self._session.plan.drawing is None or made is None or not made.flat:
            self._paint_nothing(painter, made)
            return
        self.laid.paint(painter, self.size().toSizeF(), self._session.plan.paper, made)
        painter.end()

    def _paint_nothing(self, painter: QPainter, made: DrawnCheck | None) -> None:
        if self._session.plan.drawing is None:
            paint_words(
                painter, self.rect(), "Plan over drawing", "Add a photo of your drawing first, under “The drawing”."
            )
        elif made is None and self._computed.checks.called_off:
            paint_words(painter, self.rect(), "Nothing to lay over", self._computed.checks.now.problem)
        elif made is None:
            paint_words(painter, self.rect(), "The drawing is being looked at …", "")
        else:
            paint_words(painter, self.rect(), "The sheet could not be laid flat", made.checked.problem)
        painter.end()
