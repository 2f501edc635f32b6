"""What an instrument may reach for."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

from mild_compass.craft.sheet_sizes.lengths import format_length

if TYPE_CHECKING:
    from collections.abc import Callable

    from PySide6.QtWidgets import QWidget

    from mild_compass.craft.geometry.frame_map import FrameMap
    from mild_compass.plan.model import Plan
    from mild_compass.plan.pictures import Ground
    from mild_compass.plan.stations import StationName
    from mild_compass.plan.study import Study
    from mild_compass.studio.board.board import Board
    from mild_compass.studio.derived.computed import Computed
    from mild_compass.studio.files.files import Files
    from mild_compass.studio.memory import Memory
    from mild_compass.studio.pages.contact_sheet import ContactSheet
    from mild_compass.studio.requests.jobs import Jobs
    from mild_compass.studio.requests.superseding import LatestWins
    from mild_compass.studio.session import Session
    from mild_compass.studio.settings.settings import Settings
    from mild_compass.studio.words import Page


@dataclass(frozen=True, eq=False, slots=True)
class Desk:
    """The plan and what follows from it, board and pages, files, and the two kinds of request.

    ``page`` finds a page by name, ``take_up`` takes up another instrument of the station, ``go_to`` goes to a station
    and takes up one there; ``memory`` is what is kept from plan to plan.
    """

    session: Session
    computed: Computed
    contact_sheet: ContactSheet
    files: Files
    work: LatestWins
    jobs: Jobs
    settings: Settings
    find_board: Callable[[], Board]
    page: Callable[[Page], QWidget]
    take_up: Callable[[str], None]
    go_to: Callable[[StationName, str], None]
    memory: Memory
    go_to_easel: Callable[[], None]
    show_on_screen: Callable[[str, bool], None]

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
    def ground(self) -> Ground:
        """What the current study stands on."""
        return self.plan.ground(self.study)

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

    def say(self, sentence: str) -> None:
        """Tell the artist something."""
        self.session.said.emit(sentence)
