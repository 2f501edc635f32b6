"""Frames found by the search, as small pictures with their reasons."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, QRect, QRectF, Qt
from PySide6.QtGui import QColor, QFont, QPainter

from mild_compass.studio.pages.rows import PictureRows, Tile

if TYPE_CHECKING:
    from PySide6.QtGui import QImage

    from mild_compass.craft.viewfinder.search import Found

INVITATION = "Ten clearly different frames"
HOW = (
    "Tick on the left what should count, then “Find frames”.\n"
    "Thousands of frames of the sheet's proportion are judged in a moment; rings and areas to keep stay inside."
)
LINES = 4


class FoundFrames(PictureRows):
    """Double click takes a frame; the plan is untouched until then."""

    def __init__(self) -> None:
        super().__init__("Frames found")
        self.found: list[Found] = []
        self.words = ("", "")
        self.empty = self._paint_empty
        self.say(INVITATION, HOW)

    def say(self, headline: str, words: str) -> None:
        """Say something in the middle of the empty page."""
        self.words = (headline, words)
        self.update()

    def show_found(self, found: list[Found], images: list[QImage], ratio: float) -> None:
        """Show the suggestions, the best first."""
        self.found = found
        tiles = [
            Tile(str(k), ratio, image, f"{k + 1}   {round(100 * each.score)} of 100", each.reasons)
            for k, (each, image) in enumerate(zip(found, images, strict=True))
        ]
        self.show_tiles(tiles, lines=LINES)

    def clear(self) -> None:
        """Show nothing, as when the photo has changed."""
        self.found = []
        self.show_tiles([])
        self.say(INVITATION, HOW)

    def frame_of(self, key: str) -> Found | None:
        """The suggestion behind a picture."""
        return self.found[int(key)] if key and int(key) < len(self.found) else None

    def _paint_empty(self, painter: QPainter, area: QRect) -> None:
        headline, words = self.words
        painter.setPen(QColor("#f4f4f4" if self.surround != "#c6c6c6" else "#1c1c1c"))
        font = QFont(painter.font())
        font.setPixelSize(22)
        font.setWeight(QFont.Weight.DemiBold)
        painter.setFont(font)
        middle = QPointF(area.center()).y()
        painter.drawText(QRectF(20, middle - 60, area.width() - 40, 34), Qt.AlignmentFlag.AlignHCenter, headline)
        font.setPixelSize(14)
        font.setWeight(QFont.Weight.Normal)
        painter.setFont(font)
        flags = Qt.AlignmentFlag.AlignHCenter | Qt.TextFlag.TextWordWrap
        painter.drawText(QRectF(60, middle - 16, area.width() - 120, 120), flags, words)
