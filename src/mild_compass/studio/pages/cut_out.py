"""A photo from which an element is cut by its outline, to be placed into the study."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QWidget

from mild_compass.studio.board.empty import paint_words
from mild_compass.studio.board.marks import paint_lasso
from mild_compass.studio.derived.looks import comparison
from mild_compass.studio.derived.thumbs import Thumbs

if TYPE_CHECKING:
    from mild_compass.plan.pictures import Point, Reference
    from mild_compass.studio.pages.parts import Parts

EDGE, STEP_PX = 24.0, 3.0


class CutOutPage(QWidget):
    """Shows the photo chosen on the contact sheet; ``outlined`` is sent with its id and the outline in its pixels."""

    outlined = Signal(str, object)

    def __init__(self, parts: Parts) -> None:
        session, computed, work, sheet = parts.session, parts.computed, parts.work, parts.contact_sheet
        super().__init__()
        self._session, self._sheet = session, sheet
        self.surround = "#777777"
        self.source = ""
        self._trail: list[QPointF] = []
        self.thumbs = Thumbs("cut out", session, work, 1, self)
        self.thumbs.changed.connect(self.update)
        computed.changed.connect(self.refresh)
        self.setCursor(Qt.CursorShape.CrossCursor)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Photo to cut an element from")
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)

    @property
    def settled(self) -> bool:
        """Whether the photo is there."""
        return self.thumbs.settled

    @property
    def photo(self) -> Reference | None:
        """The photo to cut from: the one told, or chosen on the contact sheet; if none is, not the study's own."""
        plan, study = self._session.plan, self._session.plan.study
        own = study.ground if study else ""
        for wanted in (self.source, self._sheet.chosen if self._sheet.chosen != own else ""):
            found = next((each for each in plan.references if each.id == wanted), None)
            if found is not None:
                return found
        others = (each for each in plan.references if each.id != own)
        return next(others, None) or next(iter(plan.references), None)

    def cut_from(self, reference_id: str) -> None:
        """Cut from this photo."""
        self.source = reference_id
        self.refresh()

    def refresh(self) -> None:
        """Ask for the photo while the page is seen."""
        photo = self.photo
        if self.isVisible() and photo is not None:
            file = self._session.workspace.photos.file(photo.sha256)
            self.thumbs.want({photo.sha256: (comparison, (file, photo.name))})
            self.update()

    def showEvent(self, event: object) -> None:
        self._trail.clear()
        self.refresh()

    def page(self) -> QRectF:
        """Where the photo lies on the widget."""
        photo = self.photo
        assert photo is not None
        scale = min((self.width() - 2 * EDGE) / photo.width_px, (self.height() - 2 * EDGE) / photo.height_px)
        width, height = photo.width_px * scale, photo.height_px * scale
        return QRectF((self.width() - width) / 2, (self.height() - height) / 2, width, height)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), QColor(self.surround))
        photo = self.photo
        if photo is None:
            paint_words(painter, self.rect(), "Lend an element", "Add photos first: here a figure is cut out of one.")
        else:
            made = self.thumbs.get(photo.sha256)
            if made:
                painter.drawImage(self.page(), made[0])
            paint_lasso(painter, np.array([(p.x(), p.y()) for p in self._trail]), closed=True)
        painter.end()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if self.photo is not None and event.button() == Qt.MouseButton.LeftButton:
            self._trail = [event.position()]

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._trail and (event.position() - self._trail[-1]).manhattanLength() >= STEP_PX:
            self._trail.append(event.position())
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        trail, self._trail = self._trail, []
        self.update()
        photo = self.photo
        if photo is None or len(trail) < 3:
            return
        page = self.page()
        scale = photo.width_px / page.width()

        def on_photo(point: QPointF) -> Point:
            x, y = (point.x() - page.left()) * scale, (point.y() - page.top()) * scale
            return min(max(x, 0.0), float(photo.width_px)), min(max(y, 0.0), float(photo.height_px))

        self.outlined.emit(photo.id, tuple(on_photo(point) for point in trail))
