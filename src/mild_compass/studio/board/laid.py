"""Plan and drawing laid over each other: two inks, side by side, a wiping edge, the difference."""

from __future__ import annotations

from typing import TYPE_CHECKING, Literal

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSizeF, Qt
from PySide6.QtGui import QColor, QImage, QPainter, QPen, QPixmap, QTransform

from mild_compass.studio.board.marks import paint_word
from mild_compass.studio.board.strokes import casing, pen
from mild_compass.studio.painting import polygon

if TYPE_CHECKING:
    from mild_compass.plan.paper import Paper
    from mild_compass.studio.derived.checks import DrawnCheck
    from mild_compass.studio.words import Hold

Laid = Literal["two inks", "drawing", "plan", "side by side", "wipe", "difference"]
GAP = 14.0
COVERING_PX, INK_PX = 4.0, 1.4
SMALL_PX = 400.0  # a sheet that is smaller on the screen has finer lines
PLAN_INK, PAPER = "#1f3f8f", "#fdfdfb"
BACK_SHRINK = 6  # stepped back: what three metres leave of a drawing's detail, about


class LaidOver:
    """How the two are laid over each other, and the painting of it, ``rim`` px from the edges of a view."""

    def __init__(self, rim: float) -> None:
        self._rim = rim
        self.way: Laid = "two inks"
        self.moved = False  # the plan as the whole drawing is shifted, resized and turned
        self.upside_down = False
        self.blink = False
        self.edge = 0.5  # of the width: where the plan ends and the drawing begins
        self.holds: set[Hold] = set()
        self._plan: tuple[tuple[object, ...], QPixmap] | None = None

    def wipe_to(self, x: float, size: QSizeF, paper: Paper) -> None:
        """Put the wiping edge where the hand is, x px from the left of a view."""
        target = self._target(paper, size)
        self.wipe((x - target.left()) / target.width())

    def wipe(self, edge: float) -> None:
        """Put the wiping edge at a share of the width."""
        self.edge = min(max(edge, 0.0), 1.0)

    def paint(self, painter: QPainter, size: QSizeF, paper: Paper, made: DrawnCheck) -> None:
        """Paint them into a view of that size."""
        painter.setRenderHints(QPainter.RenderHint.SmoothPixmapTransform | QPainter.RenderHint.Antialiasing)
        if "mirror" in self.holds:
            painter.setTransform(QTransform(-1, 0, 0, 1, size.width(), 0), True)
        if self.upside_down:
            painter.setTransform(QTransform(-1, 0, 0, -1, size.width(), size.height()), True)
        whole = self._target(paper, size)
        if self.blink:
            (self._paint_plan if self.way != "plan" else self._paint_drawing)(painter, whole, made, paper)
        elif self.way == "side by side":
            half = QSizeF(size.width() / 2 + GAP / 2, size.height())
            self._paint_plan(painter, self._target(paper, half), made, paper)
            self._paint_drawing(painter, self._target(paper, half, size.width() / 2 - GAP / 2), made, paper)
        elif self.way == "plan":
            self._paint_plan(painter, whole, made, paper)
        elif self.way == "wipe":
            self._paint_wiped(painter, whole, made, paper)
        else:
            self._paint_drawing(painter, whole, made, paper)
            if self.way in ("two inks", "difference"):
                painter.drawPixmap(whole.topLeft(), self._plan_pixmap(painter, whole, made, paper, on_paper=False))

    def _target(self, paper: Paper, size: QSizeF, left: float = 0.0) -> QRectF:
        room = (size.width() - 2 * self._rim, size.height() - 2 * self._rim)
        scale = max(min(room[0] / paper.width_mm, room[1] / paper.height_mm), 1e-3)
        w, h = paper.width_mm * scale, paper.height_mm * scale
        return QRectF(left + (size.width() - w) / 2, (size.height() - h) / 2, w, h)

    def _image(self, made: DrawnCheck) -> QImage:
        way = "squint" if "squint" in self.holds else "values" if "values" in self.holds else "colour"
        image = made.flat[way]  # type: ignore[index]
        if "step back" in self.holds:
            small = (max(1, image.width() // BACK_SHRINK), max(1, image.height() // BACK_SHRINK))
            return image.scaled(
                *small, Qt.AspectRatioMode.IgnoreAspectRatio, Qt.TransformationMode.SmoothTransformation
            )
        return image

    def _paint_drawing(self, painter: QPainter, target: QRectF, made: DrawnCheck, _: Paper) -> None:
        painter.drawImage(target, self._image(made))

    def _paint_plan(self, painter: QPainter, target: QRectF, made: DrawnCheck, paper: Paper) -> None:
        painter.drawPixmap(target.topLeft(), self._plan_pixmap(painter, target, made, paper, on_paper=True))

    def _paint_wiped(self, painter: QPainter, target: QRectF, made: DrawnCheck, paper: Paper) -> None:
        at = target.left() + self.edge * target.width()
        self._paint_drawing(painter, target, made, paper)
        painter.save()
        painter.setClipRect(QRectF(target.left(), target.top(), at - target.left(), target.height()))
        self._paint_plan(painter, target, made, paper)
        painter.restore()
        for line in (casing(2.0), pen("subject", 2.0)):
            painter.setPen(line)
            painter.drawLine(QPointF(at, target.top() - 8), QPointF(at, target.bottom() + 8))
        paint_word(painter, "plan", at - 36, target.top() - 6)
        paint_word(painter, "drawing", at + 10, target.top() - 6)

    def _plan_pixmap(
        self, painter: QPainter, target: QRectF, made: DrawnCheck, paper: Paper, on_paper: bool
    ) -> QPixmap:
        """The plan's lines once for a size, then only copied: wiping must feel like moving paper."""
        ratio = painter.device().devicePixelRatioF()
        width, height = round(target.width()), round(target.height())
        key = (made, width, height, on_paper, self.moved, self.way == "difference", ratio)
        if self._plan is None or self._plan[0] != key:
            pixmap = QPixmap(max(round(target.width() * ratio), 1), max(round(target.height() * ratio), 1))
            pixmap.setDevicePixelRatio(ratio)
            pixmap.fill(QColor(PAPER) if on_paper else Qt.GlobalColor.transparent)
            matrix = made.checked.matrix if self.moved else None
            scale = target.width() / paper.width_mm
            _draw_plan(pixmap, made, scale, matrix, on_paper, self.way == "difference" and not on_paper)
            self._plan = (key, pixmap)
        return self._plan[1]


def _draw_plan(
    pixmap: QPixmap,
    made: DrawnCheck,
    scale: float,
    matrix: np.ndarray | None,
    on_paper: bool,
    covering: bool,
) -> None:
    """The plan's lines. Where they cover, what is drawn where it belongs goes under them, and the rest stands out."""
    inner = QPainter(pixmap)
    inner.setRenderHint(QPainter.RenderHint.Antialiasing)
    runs = []
    for line in made.lines:
        points = np.asarray(line.points_mm)
        if matrix is not None:
            points = points @ matrix[:, :2].T + matrix[:, 2]
        runs.append(polygon(points * scale))
    small = pixmap.deviceIndependentSize().width() < SMALL_PX
    width = COVERING_PX if covering else INK_PX
    width = width / 2 if small else width
    ink = QPen(QColor(PAPER) if covering else QColor(PLAN_INK), width)
    # A pale rim first, so that the ink reads on dark tones.
    for line_pen in (ink,) if on_paper or covering or small else (casing(width, 110), ink):
        inner.setPen(line_pen)
        for run in runs:
            inner.drawPolyline(run)
    inner.end()
