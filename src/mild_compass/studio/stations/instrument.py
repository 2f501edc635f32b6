"""What an instrument is: a row on the bench, options, and how its marks are handled on the board."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt

from mild_compass.craft.sheet_sizes.lengths import format_length

if TYPE_CHECKING:
    from collections.abc import Callable

    from PySide6.QtGui import QPainter
    from PySide6.QtWidgets import QWidget

    from mild_compass.craft.geometry.frame_map import FrameMap
    from mild_compass.plan.edits.base import Edit
    from mild_compass.plan.model import Plan, StationName, Study
    from mild_compass.studio.board.board import Board, BoardPoint
    from mild_compass.studio.board.sight import PhotoSight, Sight
    from mild_compass.studio.board.view import Fill
    from mild_compass.studio.computed import Computed
    from mild_compass.studio.files import Files
    from mild_compass.studio.pages.contact_sheet import ContactSheet
    from mild_compass.studio.session import Session
    from mild_compass.studio.stations.table import Page
    from mild_compass.studio.work import Work


@dataclass(frozen=True, eq=False, slots=True)
class Desk:
    """What every instrument may reach for.

    ``page`` finds a page by name, ``take`` takes up another instrument of the station, ``go_to`` goes to a station
    and takes up one there.
    """

    session: Session
    computed: Computed
    contact_sheet: ContactSheet
    files: Files
    work: Work
    find_board: Callable[[], Board]
    page: Callable[[Page], QWidget]
    take: Callable[[str], None]
    go_to: Callable[[StationName, str], None]

    @property
    def board(self) -> Board:
        """The board, which is made when first needed."""
        return self.find_board()

    @property
    def plan(self) -> Plan:
        """The plan as it is shown."""
        return self.session.plan

    @property
    def study(self) -> Study:
        """The current study; instruments are only in hand while there is one."""
        assert self.plan.study is not None
        return self.plan.study

    @property
    def px_per_mm(self) -> float:
        """Photo pixels to a millimetre on the sheet."""
        return 1 / self.frame_map.mm_per_px

    @property
    def frame_map(self) -> FrameMap:
        """Photo to sheet, for the current study."""
        from mild_compass.craft.geometry.frame_map import FrameMap

        return FrameMap.of(self.study.frame, self.plan.paper)

    def on_photo(self, dx_mm: float, dy_mm: float) -> tuple[float, float]:
        """A step on the sheet in mm as a step on the photo in pixels."""
        frame_map = self.frame_map
        dx, dy = (frame_map.to_photo((dx_mm, dy_mm)) - frame_map.to_photo((0.0, 0.0))).tolist()
        return dx, dy

    def length(self, mm: float) -> str:
        """A length in the artist's unit."""
        return format_length(mm, self.computed.unit)


class Instrument:
    """Base of all instruments; on its own it is Look: the hand moves the paper, nothing is changed."""

    name = "look"
    words = "Look"
    icon = "look"
    hint = "Drag to move the paper, wheel to zoom, F to fit."
    page: Page | None = None  # what stands in the middle while it is in hand; None for the station's own
    cursor = Qt.CursorShape.OpenHandCursor
    fill: Fill | None = None  # what the board shows when it is taken up; None leaves that as it is
    layers: tuple[str, ...] | None = None  # what the board draws while it is in hand; None for the station's
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

    def typed_value(self) -> str | None:
        """The value Enter lets one type, or None."""
        return None

    def set_typed(self, text: str) -> bool:
        """Take a typed value; False keeps the field open."""
        return True

    def accepted(self, refusal: str) -> bool:
        """Say a refusal, if there is one; whether there was none."""
        if refusal:
            self.desk.session.said.emit(refusal)
        return not refusal

    def tag(self) -> str | None:
        """The number that matters, shown at the pointer."""
        return None

    def paint(self, painter: QPainter, photo: PhotoSight, sheet: Sight) -> None:
        """Draw handles and marks; the sights map photo pixels and sheet mm to the widget."""

    def commit(self, edit: Edit) -> bool:
        """Send an edit as one undo step."""
        return self.desk.session.apply(edit)
