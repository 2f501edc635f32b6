"""Frames found by the search, as small pictures with their reasons."""

from __future__ import annotations

from typing import TYPE_CHECKING

from mild_compass.studio.board.empty import paint_words
from mild_compass.studio.pages.rows import PictureRows, Tile

if TYPE_CHECKING:
    from PySide6.QtCore import QRect
    from PySide6.QtGui import QImage, QPainter

    from mild_compass.craft.viewfinder.search import Found
    from mild_compass.studio.pages.parts import Parts

INVITATION = "Ten clearly different frames"
HOW = "Thousands of frames of the sheet's proportion are judged by what you tick; rings and areas to keep stay inside."
LINES = 4


class FoundFrames(PictureRows):
    """Double click takes a frame; the plan is untouched until then."""

    def __init__(self, _: Parts) -> None:
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
        ink = "#f4f4f4" if self.surround != "#c6c6c6" else "#1c1c1c"
        paint_words(painter, area, *self.words, ink)
