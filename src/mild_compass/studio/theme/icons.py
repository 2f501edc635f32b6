"""Icons drawn for this application, in the ink of the chrome."""

from __future__ import annotations

from functools import cache
from typing import TYPE_CHECKING

from PySide6.QtCore import QByteArray, QRectF, Qt
from PySide6.QtGui import QAction, QIcon, QPainter, QPixmap
from PySide6.QtSvg import QSvgRenderer
from PySide6.QtWidgets import QAbstractButton

from mild_compass.assets import ICONS
from mild_compass.studio.theme.in_use import colours

if TYPE_CHECKING:
    from collections.abc import Iterable

    from PySide6.QtWidgets import QWidget

GIVEN = "icon given"


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


def icon(name: str) -> QIcon:
    """One icon in the ink in use, with its pale form for things that cannot be used."""
    return _drawn(name, colours().ink, colours().off_ink)


@cache
def _drawn(name: str, ink: str, off_ink: str) -> QIcon:
    """Made once for all rows of a list."""
    found = QIcon(pixmap(name, ink))
    found.addPixmap(pixmap(name, off_ink), QIcon.Mode.Disabled)
    return found


def give_icon(to: QAction | QAbstractButton, name: str) -> None:
    """Show an icon, now and after light and dark have changed."""
    to.setIcon(icon(name))
    to.setProperty(GIVEN, name)


def renew_icons(widgets: Iterable[QWidget]) -> None:
    """Draw the icons of these widgets and of their commands anew, in the ink in use."""
    for widget in widgets:
        given = [each for each in widget.actions() if each.property(GIVEN)]
        if isinstance(widget, QAbstractButton) and widget.property(GIVEN):
            give_icon(widget, widget.property(GIVEN))
        for action in given:
            give_icon(action, action.property(GIVEN))
