"""Two or more photos side by side at the same scale; zoomed and moved together."""

from __future__ import annotations

from math import ceil
from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFont, QImage, QMouseEvent, QPainter, QPaintEvent, QWheelEvent
from PySide6.QtWidgets import QWidget

from mild_compass.studio.board.empty import paint_words
from mild_compass.studio.derived.looks import comparison
from mild_compass.studio.derived.thumbs import Thumbs

if TYPE_CHECKING:
    from mild_compass.plan.model import Plan
    from mild_compass.plan.pictures import Reference
    from mild_compass.studio.pages.parts import Parts
    from mild_compass.studio.words import Hold

MOST = 6
GAP, CAPTION = 10, 22
CLOSEST = 12.0


class ComparePage(QWidget):
    """Shows the photos picked on the contact sheet, or the kept ones when none is picked."""

    def __init__(self, parts: Parts) -> None:
        session, computed, work, sheet = parts.session, parts.computed, parts.work, parts.contact_sheet
        super().__init__()
        self._session, self._sheet = session, sheet
        self.surround = "#777777"
        self.values_only = False
        self.zoom, self._middle = 1.0, (0.5, 0.5)
        self._mirrored = False
        self._from: QPointF | None = None
        self.thumbs = Thumbs("comparison", session, work, MOST, self)
        self.thumbs.changed.connect(self.update)
        computed.changed.connect(self.refresh)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Photos side by side")
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)

    @property
    def settled(self) -> bool:
        """Whether all photos shown are there."""
        return self.thumbs.settled

    @property
    def photos(self) -> list[Reference]:
        """Those picked, in the plan's order; the first kept ones when fewer than two are picked."""
        plan: Plan = self._session.plan
        picked = [photo for photo in plan.references if photo.id in self._sheet.picked]
        if len(picked) < 2:
            picked = [photo for photo in plan.references if photo.standing == "kept"][:2]
        return picked[:MOST]

    def refresh(self) -> None:
        """Ask for what is missing while the page is seen."""
        if self.isVisible():
            folder = self._session.workspace.photos
            self.thumbs.want(
                {photo.sha256: (comparison, (folder.file(photo.sha256), photo.name)) for photo in self.photos}
            )
            self.update()

    def showEvent(self, event: object) -> None:
        self.refresh()

    def look(self, values_only: bool) -> None:
        """In colour or in values only."""
        self.values_only = values_only
        self.update()

    def hold(self, name: Hold, on: bool) -> None:
        """Values only or mirrored while held."""
        if name == "values":
            self.look(on)
        elif name == "mirror":
            self._mirrored = on
            self.update()

    def fit(self) -> None:
        """All of every photo again."""
        self.zoom, self._middle = 1.0, (0.5, 0.5)
        self.update()

    def _cells(self) -> list[QRectF]:
        """One cell a photo: in a row, or in two rows where that leaves them larger."""
        count = max(1, len(self.photos))
        ratio = max((photo.width_px / photo.height_px for photo in self.photos), default=1.5)
        best: tuple[float, int] = (0.0, 1)
        for columns in range(1, count + 1):
            rows = ceil(count / columns)
            wide = (self.width() - GAP * (columns + 1)) / columns
            high = (self.height() - (GAP + CAPTION) * rows - GAP) / rows
            best = max(best, (min(wide, high * ratio), columns))
        columns = best[1]
        rows = ceil(count / columns)
        wide = (self.width() - GAP * (columns + 1)) / columns
        high = (self.height() - (GAP + CAPTION) * rows - GAP) / rows
        return [
            QRectF(GAP + (k % columns) * (wide + GAP), GAP + (k // columns) * (high + GAP + CAPTION), wide, high)
            for k in range(count)
        ]

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.fillRect(self.rect(), QColor(self.surround))
        cells = self._cells()
        if not self.photos:
            paint_words(
                painter, self.rect(), "Two or more photos side by side", "Add photos first, and keep two of them."
            )
        for photo, cell in zip(self.photos, cells, strict=False):
            made = self.thumbs.get(photo.sha256)
            self._paint_photo(painter, photo, cell, made[1 if self.values_only else 0] if made else None)
        painter.end()

    def _paint_photo(self, painter: QPainter, photo: Reference, cell: QRectF, image: QImage | None) -> None:
        # The same scale for all: that at which the largest of them fits its cell.
        wide = max(each.width_px / each.height_px for each in self.photos)
        height = min(cell.height(), cell.width() / wide) * self.zoom
        width = height * photo.width_px / photo.height_px
        left = cell.center().x() - self._middle[0] * width
        top = cell.center().y() - self._middle[1] * height
        painter.save()
        painter.setClipRect(cell)
        if self._mirrored:
            painter.translate(2 * cell.center().x(), 0)
            painter.scale(-1, 1)
        if image is None:
            painter.fillRect(QRectF(left, top, width, height), QColor("#9a9a9a"))
        else:
            painter.drawImage(QRectF(left, top, width, height), image)
        painter.restore()
        font = QFont(painter.font())
        font.setPixelSize(12)
        font.setWeight(QFont.Weight.DemiBold)
        painter.setFont(font)
        painter.setPen(QColor("#1c1c1c" if self.surround == "#c6c6c6" else "#ffffff"))
        words = photo.name + (f" · {photo.reason}" if photo.reason else "")
        words = painter.fontMetrics().elidedText(words, Qt.TextElideMode.ElideMiddle, round(cell.width()))
        painter.drawText(QPointF(cell.left(), cell.bottom() + 16), words)

    def wheelEvent(self, event: QWheelEvent) -> None:
        self.zoom = min(max(self.zoom * 1.0015 ** event.angleDelta().y(), 1.0), CLOSEST)
        self._settle()
        event.accept()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._from = event.position()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._from is None:
            return
        step, self._from = event.position() - self._from, event.position()
        cell = self._cells()[0]
        size = min(cell.height(), cell.width()) * self.zoom
        self._middle = (self._middle[0] - step.x() / size, self._middle[1] - step.y() / size)
        self._settle()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self._from = None

    def _settle(self) -> None:
        """Keep the photos in sight: zoomed out they sit in the middle."""
        room = 0.5 - 0.5 / self.zoom
        self._middle = tuple(min(max(each, 0.5 - room), 0.5 + room) for each in self._middle)  # type: ignore[assignment]
        self.update()
