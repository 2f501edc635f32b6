"""Icons drawn for this application, in the ink of the chrome."""

from __future__ import annotations

from PySide6.QtCore import QByteArray, QRectF, Qt
from PySide6.QtGui import QIcon, QPainter, QPixmap
from PySide6.QtSvg import QSvgRenderer

from mild_compass.assets import ICONS


def pixmap(name: str, colour: str, size: int = 20, ratio: float = 2.0) -> QPixmap:
    """One icon as a pixmap of size device-independent pixels."""
    text = (ICONS / f"{name}.svg").read_text().replace("currentColor", colour)
    image = QPixmap(round(size * ratio), round(size * ratio))
    image.fill(Qt.GlobalColor.transparent)
    painter = QPainter(image)
    QSvgRenderer(QByteArray(text.encode())).render(painter, QRectF(image.rect()))
    painter.end()
    image.setDevicePixelRatio(ratio)
    return image


def icon(name: str, colour: str, pale: str) -> QIcon:
    """One icon with its pale form for things that cannot be used."""
    found = QIcon(pixmap(name, colour))
    found.addPixmap(pixmap(name, pale), QIcon.Mode.Disabled)
    return found
