"""Plan and drawing over each other: two inks, side by side, a wiping edge, the difference, blinking."""

from __future__ import annotations

from typing import TYPE_CHECKING, Literal

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QImage, QMouseEvent, QPainter, QPaintEvent, QPen, QPixmap, QTransform
from PySide6.QtWidgets import QWidget

from mild_compass.studio.board.empty import paint_words
from mild_compass.studio.board.marks import paint_word
from mild_compass.studio.board.strokes import casing, pen

if TYPE_CHECKING:
    from PySide6.QtGui import QKeyEvent

    from mild_compass.studio.derived.checks import DrawnCheck
    from mild_compass.studio.pages.parts import Parts
    from mild_compass.studio.words import Hold

Laid = Literal["two inks", "drawing", "plan", "side by side", "wipe", "difference"]
EDGE, GAP = 22.0, 14.0
COVERING_PX = 4.0
PLAN_INK, PAPER = "#1f3f8f", "#fdfdfb"
BACK_SHRINK = 6  # stepped back: what three metres leave of a drawing's detail, about


class OverItPage(QWidget):
    """Follows the check of the drawing; B blinks while it is held, dragging moves the wiping edge."""

    def __init__(self, parts: Parts) -> None:
        super().__init__()
        self._session, self._computed = parts.session, parts.computed
        self.surround = "#777777"
        self.way: Laid = "two inks"
        self.moved = False
        self.upside_down = False
        self.edge = 0.5  # of the width: where the plan ends and the drawing begins
        self._blink = False
        self._holds: set[Hold] = set()
        self._plan: tuple[tuple[object, ...], QPixmap] | None = None
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
        self.way = self.way if way is None else way
        self.moved = self.moved if moved is None else moved
        self.upside_down = self.upside_down if upside_down is None else upside_down
        self.update()

    def hold(self, name: Hold, on: bool) -> None:
        """Squint, values, mirror or step back while it is held."""
        (self._holds.add if on else self._holds.discard)(name)
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
            self._blink = True
            self.update()
        elif self.way == "wipe" and event.key() in (Qt.Key.Key_Left, Qt.Key.Key_Right):
            step = -0.02 if event.key() == Qt.Key.Key_Left else 0.02
            self.edge = min(max(self.edge + step, 0.0), 1.0)
            self.update()
        else:
            super().keyPressEvent(event)

    def keyReleaseEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_B and not event.isAutoRepeat():
            self._blink = False
            self.update()
        else:
            super().keyReleaseEvent(event)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.mouseMoveEvent(event)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self.way != "wipe" or not event.buttons() & Qt.MouseButton.LeftButton:
            return
        target = self._target(self.width())
        self.edge = min(max((event.position().x() - target.left()) / target.width(), 0.0), 1.0)
        self.update()

    # -- painting -------------------------------------------------------------------------------------------------

    def _target(self, width: float, left: float = 0.0) -> QRectF:
        paper = self._session.plan.paper
        scale = min((width - 2 * EDGE) / paper.width_mm, (self.height() - 2 * EDGE) / paper.height_mm)
        w, h = paper.width_mm * scale, paper.height_mm * scale
        return QRectF(left + (width - w) / 2, (self.height() - h) / 2, w, h)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHints(QPainter.RenderHint.SmoothPixmapTransform | QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), QColor(self.surround))
        made = self._computed.drawing_check
        if self._session.plan.drawing is None or made is None or not made.flat:
            self._paint_nothing(painter, made)
            return
        if "mirror" in self._holds:
            painter.setTransform(QTransform(-1, 0, 0, 1, self.width(), 0), True)
        if self.upside_down:
            painter.setTransform(QTransform(-1, 0, 0, -1, self.width(), self.height()), True)
        self._paint_laid(painter, made)
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

    def _paint_laid(self, painter: QPainter, made: DrawnCheck) -> None:
        whole = self._target(self.width())
        if self._blink:
            (self._paint_plan if self.way != "plan" else self._paint_drawing)(painter, whole, made)
        elif self.way == "side by side":
            half = self.width() / 2
            left, right = self._target(half + GAP / 2), self._target(half + GAP / 2, half - GAP / 2)
            self._paint_plan(painter, left, made)
            self._paint_drawing(painter, right, made)
        elif self.way == "plan":
            self._paint_plan(painter, whole, made)
        elif self.way == "wipe":
            self._paint_wiped(painter, whole, made)
        else:
            self._paint_drawing(painter, whole, made)
            if self.way in ("two inks", "difference"):
                painter.drawPixmap(whole.topLeft(), self._plan_pixmap(whole, made, on_paper=False))

    def _image(self, made: DrawnCheck) -> QImage:
        way = "squint" if "squint" in self._holds else "values" if "values" in self._holds else "colour"
        image = made.flat[way]  # type: ignore[index]
        if "step back" in self._holds:
            small = (max(1, image.width() // BACK_SHRINK), max(1, image.height() // BACK_SHRINK))
            return image.scaled(
                *small, Qt.AspectRatioMode.IgnoreAspectRatio, Qt.TransformationMode.SmoothTransformation
            )
        return image

    def _paint_drawing(self, painter: QPainter, target: QRectF, made: DrawnCheck) -> None:
        painter.drawImage(target, self._image(made))

    def _paint_plan(self, painter: QPainter, target: QRectF, made: DrawnCheck) -> None:
        painter.drawPixmap(target.topLeft(), self._plan_pixmap(target, made, on_paper=True))

    def _paint_wiped(self, painter: QPainter, target: QRectF, made: DrawnCheck) -> None:
        at = target.left() + self.edge * target.width()
        self._paint_drawing(painter, target, made)
        painter.save()
        painter.setClipRect(QRectF(target.left(), target.top(), at - target.left(), target.height()))
        self._paint_plan(painter, target, made)
        painter.restore()
        for line in (casing(2.0), pen("subject", 2.0)):
            painter.setPen(line)
            painter.drawLine(QPointF(at, target.top() - 8), QPointF(at, target.bottom() + 8))
        paint_word(painter, "plan", at - 36, target.top() - 6)
        paint_word(painter, "drawing", at + 10, target.top() - 6)

    def _plan_pixmap(self, target: QRectF, made: DrawnCheck, on_paper: bool) -> QPixmap:
        """The plan's lines once for a size, then only copied: wiping must feel like moving paper."""
        ratio = self.devicePixelRatioF()
        key = (
            made,
            round(target.width()),
            round(target.height()),
            on_paper,
            self.moved,
            self.way == "difference",
            ratio,
        )
        if self._plan is None or self._plan[0] != key:
            pixmap = QPixmap(round(target.width() * ratio), round(target.height() * ratio))
            pixmap.setDevicePixelRatio(ratio)
            pixmap.fill(QColor(PAPER) if on_paper else Qt.GlobalColor.transparent)
            inner = QPainter(pixmap)
            inner.setRenderHint(QPainter.RenderHint.Antialiasing)
            # What is drawn where it belongs is covered by the plan's lines in paper; the rest stands out.
            covering = self.way == "difference" and not on_paper
            ink = QColor(PAPER) if covering else QColor(PLAN_INK)
            inner.setPen(QPen(ink, COVERING_PX if covering else 1.4))
            scale = target.width() / self._session.plan.paper.width_mm
            matrix = made.checked.matrix if self.moved else None
            runs = []
            for line in made.lines:
                points = np.asarray(line.points_mm)
                if matrix is not None:
                    points = points @ matrix[:, :2].T + matrix[:, 2]
                runs.append([QPointF(x, y) for x, y in (points * scale).tolist()])
            if not on_paper and not covering:  # a pale rim, so that the ink reads on dark tones
                inner.setPen(casing(1.4, 110))
                for run in runs:
                    inner.drawPolyline(run)
                inner.setPen(QPen(ink, 1.4))
            for run in runs:
                inner.drawPolyline(run)
            inner.end()
            self._plan = (key, pixmap)
        return self._plan[1]
