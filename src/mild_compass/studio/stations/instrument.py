"""What an instrument is: a row on the bench, options, and how its marks are handled on the board."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import Qt

if TYPE_CHECKING:
    from PySide6.QtGui import QPainter
    from PySide6.QtWidgets import QWidget

    from mild_compass.plan.edits.base import Edit
    from mild_compass.studio.board.sight import PhotoSight, Sight
    from mild_compass.studio.board.tool import BoardPoint
    from mild_compass.studio.desk import Desk
    from mild_compass.studio.words import Fill, Needs, Page

OTHER_STUDY = "{} was called off: another study is in hand now. Nothing was changed; ask again there."


class Instrument:
    """Base of all instruments; on its own it is Look: the hand moves the paper, nothing is changed."""

    name = "look"
    words = "Look"
    icon = "look"
    hint = "Drag to move the paper, wheel to zoom, F to fit."
    page: Page | None = None  # what stands in the middle while it is in hand; None for the station's own
    needs: Needs = "a study"  # what must be there before it is of use
    cursor = Qt.CursorShape.OpenHandCursor
    fill: Fill | None = None  # what the board shows when it is taken up; None leaves that as it is
    layers: tuple[str, ...] | None = None  # what the board draws while it is in hand; None for the station's
    tells: tuple[str, ...] = ()  # the beginnings of the keys of readings that this instrument is about
    beside_before = False  # whether the companion shows the photo as it was taken, to compare with

    def __init__(self, desk: Desk) -> None:
        self.desk = desk

    def options(self) -> QWidget | None:
        """Controls shown under the instrument on the bench; made once."""
        return None

    def refresh(self) -> None:
        """Show the plan's values in the options."""

    def press(self, at: BoardPoint) -> bool:
        """Take hold of something; False lets the board pan instead."""
        return False

    def drag(self, at: BoardPoint) -> None:
        """Move what is held."""

    def release(self, at: BoardPoint) -> None:
        """Let go: one undo step."""

    def cancel(self) -> None:
        """Drop what is held and leave the plan as it was."""
        self.desk.session.cancel()

    def hover(self, at: BoardPoint) -> Qt.CursorShape:
        """The pointer's form over a place."""
        return self.cursor

    def nudge(self, dx_mm: float, dy_mm: float) -> None:
        """Move the chosen mark by so many mm on the sheet."""

    def put_away(self) -> None:
        """Another instrument is taken up."""

    def delete(self) -> None:
        """Remove the chosen mark."""

    def as_the_hand_drew(self) -> None:
        """Take back what was laid onto the photo's own edge: the line stays as the hand drew it."""

    def typed_value(self) -> str | None:
        """The value Enter lets one type, or None."""
        return None

    def set_typed(self, text: str) -> bool:
        """Take a typed value; False keeps the field open."""
        return True

    def accepted(self, refusal: str) -> bool:
        """Say a refusal, if there is one; whether there was none."""
        if refusal:
            self.desk.say(refusal)
        return not refusal

    def tag(self) -> str | None:
        """The number that matters, shown at the pointer."""
        return None

    def paint(self, painter: QPainter, photo: PhotoSight, sheet: Sight) -> None:
        """Draw handles and marks; the sights map photo pixels and sheet mm to the widget."""

    def commit(self, edit: Edit) -> bool:
        """Send an edit as one undo step."""
        return self.desk.session.apply(edit)
