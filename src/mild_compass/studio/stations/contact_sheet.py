"""The contact sheet: all photos at equal height, kept or set aside."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, QRect, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QFont, QImage, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from mild_compass.plan.errors import PlanError
from mild_compass.studio.board.empty import paint_first_page
from mild_compass.studio.looks import image_of

if TYPE_CHECKING:
    from mild_compass.plan.model import Plan, Reference
    from mild_compass.studio.computed import Computed
    from mild_compass.studio.session import Session
    from mild_compass.studio.work import Work

THUMB_PX = 360
GAP, CAPTION, EDGE = 16, 42, 20


def _thumbnail(data: bytes, name: str) -> QImage:
    from mild_compass.craft.picture.load import read_proxy

    return image_of(read_proxy(data, name, THUMB_PX).rgb)


class ContactSheet(QWidget):
    """Rows of photos; click chooses one, double click works from it."""

    selected = Signal(str)
    activated = Signal(str)
    wants_photos = Signal()

    def __init__(self, session: Session, computed: Computed, work: Work, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session, self._work = session, work
        self.surround = "#777777"
        self.chosen = ""
        self._thumbs: dict[str, QImage | None] = {}
        self._places: dict[str, QRect] = {}
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Contact sheet")
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        computed.changed.connect(self.refresh)

    @property
    def settled(self) -> bool:
        """Whether every thumbnail is there."""
        return all(photo.sha256 in self._thumbs for photo in self.plan.references)

    @property
    def plan(self) -> Plan:
        """The plan as it is shown."""
        return self._session.plan

    def sizeHint(self) -> QSize:
        return QSize(600, 400)

    def refresh(self) -> None:
        """Ask for the thumbnails that are missing, one after the other."""
        ids = [photo.id for photo in self.plan.references]
        if self.chosen not in ids:
            study = self.plan.study
            self.chosen = study.reference if study else ""
        if self.isVisible():
            self._ask_for_next()
        self.update()

    def showEvent(self, event: object) -> None:
        self.refresh()

    def _ask_for_next(self) -> None:
        photo = next((each for each in self.plan.references if each.sha256 not in self._thumbs), None)
        if photo is None:
            return
        try:
            data = self._session.workspace.photos.read(photo.sha256, photo.name)
        except PlanError as error:
            self._take(photo, None)
            self._session.said.emit(str(error))
            return
        self._work.ask(
            "thumbnail",
            _thumbnail,
            data,
            photo.name,
            then=lambda image: self._take(photo, image),
            otherwise=lambda _: self._take(photo, None),
        )

    def _take(self, photo: Reference, image: QImage | None) -> None:
        self._thumbs[photo.sha256] = image
        self._ask_for_next()
        self.update()

    def _lay_out(self) -> None:
        """Equal heights, as large as lets all rows fit."""
        self._places = {}
        photos = self.plan.references
        for height in range(300, 60, -6):
            x, y = EDGE, EDGE
            places: dict[str, QRect] = {}
            for photo in photos:
                width = max(24, round(height * photo.width_px / photo.height_px))
                if x > EDGE and x + width > self.width() - EDGE:
                    x, y = EDGE, y + height + CAPTION + GAP
                places[photo.id] = QRect(x, y, min(width, self.width() - 2 * EDGE), height)
                x += width + GAP
            used = max((place.right() for place in places.values()), default=0) + EDGE
            shift = max(0, (self.width() - used) // 2)
            self._places = {key: place.translated(shift, 0) for key, place in places.items()}
            if y + height + CAPTION <= self.height() - EDGE // 2:
                return

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), QColor(self.surround))
        if not self.plan.references:
            paint_first_page(painter, self.rect())
        self._lay_out()
        for photo in self.plan.references:
            self._paint_photo(painter, photo, self._places[photo.id])
        painter.end()

    def _paint_photo(self, painter: QPainter, photo: Reference, place: QRect) -> None:
        image = self._thumbs.get(photo.sha256)
        aside = photo.standing == "set aside"
        painter.setOpacity(0.42 if aside else 1.0)
        if image is not None:
            painter.drawImage(place, image)
        else:
            painter.fillRect(place, QColor("#9a9a9a"))
        painter.setOpacity(1.0)
        if aside:
            painter.setPen(QPen(QColor("#f4f4f2"), 1.4))
            painter.drawLine(place.bottomLeft(), place.topRight())
        if photo.id == self.chosen:
            painter.setPen(QPen(QColor("#f7f7f5"), 5))
            painter.drawRect(QRectF(place).adjusted(-3, -3, 3, 3))
            painter.setPen(QPen(QColor("#a2391f"), 2.4))
            painter.drawRect(QRectF(place).adjusted(-3, -3, 3, 3))
        self._paint_caption(painter, photo, place)

    def _paint_caption(self, painter: QPainter, photo: Reference, place: QRect) -> None:
        font = QFont(painter.font())
        font.setPixelSize(12)
        font.setWeight(QFont.Weight.DemiBold)
        painter.setFont(font)
        light = self.surround == "#c6c6c6"
        painter.setPen(QColor("#1c1c1c" if light else "#ffffff"))
        study = self.plan.study
        used = study is not None and study.reference == photo.id
        metrics = painter.fontMetrics()
        name = metrics.elidedText(photo.name, Qt.TextElideMode.ElideMiddle, place.width())
        painter.drawText(QPointF(place.left(), place.bottom() + 18), name)
        font.setWeight(QFont.Weight.Normal)
        painter.setFont(font)
        words = "kept" if photo.standing == "kept" else "set aside"
        if photo.reason:
            words += f": {photo.reason}"
        if used:
            words += " · in use"
        words = painter.fontMetrics().elidedText(words, Qt.TextElideMode.ElideRight, place.width())
        painter.drawText(QPointF(place.left(), place.bottom() + 34), words)

    def _at(self, point: QPointF) -> str | None:
        return next((key for key, place in self._places.items() if place.contains(point.toPoint())), None)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if not self.plan.references:
            self.wants_photos.emit()
            return
        hit = self._at(event.position())
        if hit is not None:
            self._choose(hit)

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        hit = self._at(event.position())
        if hit is not None:
            self.activated.emit(hit)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        ids = [photo.id for photo in self.plan.references]
        step = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(Qt.Key(event.key()))
        if ids and step is not None:
            self._choose(ids[(ids.index(self.chosen) + step) % len(ids)])
        elif ids and event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.activated.emit(self.chosen)
        else:
            super().keyPressEvent(event)

    def _choose(self, key: str) -> None:
        self.chosen = key
        self.selected.emit(key)
        self.update()
