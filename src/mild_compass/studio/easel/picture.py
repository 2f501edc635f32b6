"""The picture of the step at the easel, and the ways of looking while a key is held."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QRectF, QSizeF, Qt
from PySide6.QtGui import QImage, QPainter, QPaintEvent
from PySide6.QtWidgets import QSizePolicy, QWidget

from mild_compass.studio.derived.looks import looked_at

if TYPE_CHECKING:
    from mild_compass.studio.words import Hold


class StepPicture(QWidget):
    """The step's picture; held, the photo in its place: as it is, squinted at, in values; mirrored on top of that."""

    def __init__(self) -> None:
        super().__init__()
        self._image: QImage | None = None
        self._photo: QImage | None = None
        self._ways: dict[str, QImage] = {}
        self._held: set[Hold] = set()
        self.setMinimumSize(240, 180)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setAccessibleName("Picture of the step")

    def show_image(self, image: QImage | None, photo: QImage | None) -> None:
        """Another step's picture, and the study's photo."""
        self._image = image
        if photo is not self._photo:
            self._photo, self._ways = photo, {}
        self.update()

    def hold(self, name: Hold, on: bool) -> None:
        """Look in another way while it is held."""
        (self._held.add if on else self._held.discard)(name)
        self.update()

    def let_go(self) -> None:
        """Nothing is held any more."""
        self._held.clear()
        self.update()

    @property
    def shown(self) -> QImage | None:
        """What is seen now, before it is mirrored."""
        photo = self._photo
        if photo is None:
            return self._image
        for way in ("squint", "values"):
            if way in self._held:
                if way not in self._ways:
                    self._ways[way] = looked_at(photo, way)
                return self._ways[way]
        return photo if "as taken" in self._held else self._image

    def paintEvent(self, event: QPaintEvent) -> None:
        image = self.shown
        if image is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        size = QSizeF(image.size()).scaled(QSizeF(self.size()), Qt.AspectRatioMode.KeepAspectRatio)
        place = QRectF(
            (self.width() - size.width()) / 2, (self.height() - size.height()) / 2, size.width(), size.height()
        )
        if "mirror" in self._held:
            painter.translate(self.width(), 0)
            painter.scale(-1, 1)
        painter.drawImage(place, image)
        painter.end()
