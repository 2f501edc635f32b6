"""Pictures and numbers out of the window into other programs: by the clipboard, or dragged with the mouse."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QEvent, QMimeData, QObject, QPoint, QPointF, Qt
from PySide6.QtGui import QDrag, QGuiApplication, QMouseEvent, QPixmap
from PySide6.QtWidgets import QApplication, QTableWidget, QWidget

if TYPE_CHECKING:
    from collections.abc import Callable

    from PySide6.QtGui import QImage

TIMES = 3  # as many dots each way as on the screen
SHOWN_PX = 160  # of the small picture that goes with the pointer


def picture_of(widget: QWidget) -> QImage:
    """What a part of the window shows, fine enough to be printed small."""
    pixmap = QPixmap(widget.size() * TIMES)
    pixmap.setDevicePixelRatio(TIMES)
    pixmap.fill(Qt.GlobalColor.white)
    widget.render(pixmap, QPoint(0, 0))
    image = pixmap.toImage()
    image.setDevicePixelRatio(1.0)
    return image


def words_of_table(table: QTableWidget) -> str:
    """All that stands in a table, as other programs take tables: a tab between cells, a line to a row."""
    heads = [item.text() if (item := table.horizontalHeaderItem(k)) else "" for k in range(table.columnCount())]
    rows = [
        [item.text() if (item := table.item(row, column)) else "" for column in range(table.columnCount())]
        for row in range(table.rowCount())
    ]
    return "\n".join("\t".join(cells) for cells in (heads, *rows))


def as_picture(image: QImage) -> QMimeData:
    """A picture as other programs take it."""
    made = QMimeData()
    made.setImageData(image)
    return made


def as_text(words: str) -> QMimeData:
    """Words as other programs take them."""
    made = QMimeData()
    made.setText(words)
    return made


def copy(what: QMimeData) -> None:
    """Put it on the clipboard."""
    QGuiApplication.clipboard().setMimeData(what)


class TakenOut(QObject):
    """Lets something be dragged out of a widget: ``made`` gives what is taken at a place of it, or None.

    Nothing else changes: pressing and moving reach the widget as before, until the hand has gone far enough.
    """

    def __init__(self, widget: QWidget, made: Callable[[QPointF], QMimeData | None]) -> None:
        super().__init__(widget)
        self._widget, self._made = widget, made
        self._from: QPointF | None = None
        widget.installEventFilter(self)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if not isinstance(event, QMouseEvent):
            return False
        if event.type() == QEvent.Type.MouseButtonPress and event.button() == Qt.MouseButton.LeftButton:
            self._from = event.position()
        elif event.type() == QEvent.Type.MouseButtonRelease:
            self._from = None
        elif event.type() == QEvent.Type.MouseMove and self._from is not None:
            far = (event.position() - self._from).manhattanLength()
            if event.buttons() & Qt.MouseButton.LeftButton and far >= QApplication.startDragDistance():
                self._drag(self._from)
                return True
        return False

    def _drag(self, place: QPointF) -> None:
        self._from = None
        what = self._made(place)
        if what is None:
            return
        drag = QDrag(self._widget)
        drag.setMimeData(what)
        shown = QPixmap.fromImage(what.imageData()) if what.hasImage() else self._widget.grab()
        drag.setPixmap(shown.scaledToWidth(min(SHOWN_PX, shown.width()), Qt.TransformationMode.SmoothTransformation))
        drag.exec(Qt.DropAction.CopyAction)
