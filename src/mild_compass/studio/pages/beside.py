"""A picture with steps beside it: the picture takes what the steps leave."""

from __future__ import annotations

from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from PySide6.QtCore import QSize

LEAST_PX, MOST_PX, SHARE = 220, 680, 0.56  # of the picture: its sides, and its share of the page's width


def picture_room(page: QSize, words_px: int, foot_px: int) -> tuple[float, float]:
    """Width and height for the picture on a page whose steps need so much beside it, and so much room below it."""
    wide = min(SHARE * page.width(), page.width() - words_px, MOST_PX)
    return max(wide, LEAST_PX), min(max(page.height() - foot_px, LEAST_PX), MOST_PX)
