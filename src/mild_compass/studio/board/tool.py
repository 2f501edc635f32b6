"""What the board holds in the hand, as far as the board knows it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, Protocol

from PySide6.QtCore import Qt

if TYPE_CHECKING:
    from PySide6.QtGui import QPainter

    from mild_compass.studio.board.sight import PhotoSight, Sight
    from mild_compass.studio.words import Fill


@dataclass(frozen=True, slots=True)
class BoardPoint:
    """The pointer in all three coordinate systems, and how far a hand reaches in photo pixels."""

    widget: tuple[float, float]
    photo_px: tuple[float, float]
    sheet_mm: tuple[float, float]
    reach_px: float
    shift: bool = False


class Tool(Protocol):
    """Gestures, keys and marks of one instrument."""

    cursor: Qt.CursorShape
    fill: Fill | None  # what the board shows when it is taken up; None leaves that as it is
    layers: tuple[str, ...] | None  # what the board draws while it is in hand; None for the station's
    beside_before: bool  # whether the companion shows the photo as it was taken, to compare with

    def press(self, at: BoardPoint) -> bool:
        """Take hold of something; False lets the board pan instead."""

    def drag(self, at: BoardPoint) -> None:
        """Move what is held."""

    def release(self, at: BoardPoint) -> None:
        """Let go: one undo step."""

    def cancel(self) -> None:
        """Drop what is held and leave the plan as it was."""

    def hover(self, at: BoardPoint) -> Qt.CursorShape:
        """The pointer's form over a place."""

    def nudge(self, dx_mm: float, dy_mm: float) -> None:
        """Move the chosen mark by so many mm on the sheet."""

    def put_away(self) -> None:
        """Another instrument is taken up."""

    def delete(self) -> None:
        """Remove the chosen mark."""

    def as_the_hand_drew(self) -> None:
        """Take back what was laid onto the photo's own edge."""

    def typed_value(self) -> str | None:
        """The value Enter lets one type, or None."""

    def set_typed(self, text: str) -> bool:
        """Take a typed value; False keeps the field open."""

    def tag(self) -> str | None:
        """The number that matters, shown at the pointer."""

    def paint(self, painter: QPainter, photo: PhotoSight, sheet: Sight) -> None:
        """Draw handles and marks; the sights map photo pixels and sheet mm to the widget."""
