"""The middle of the window: the board, or one of the pages, and the companion that goes with the board."""

from __future__ import annotations

from functools import cached_property
from typing import TYPE_CHECKING, cast

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QApplication, QStackedWidget, QTableWidget, QWidget

from mild_compass.studio.pages.contact_sheet import ContactSheet
from mild_compass.studio.pages.parts import Parts
from mild_compass.studio.pages.rows import PictureRows
from mild_compass.studio.theme.palette import SURROUNDS

if TYPE_CHECKING:
    from mild_compass.studio.board.board import Board
    from mild_compass.studio.board.pair import BoardPair
    from mild_compass.studio.derived.computed import Computed
    from mild_compass.studio.memory import Memory
    from mild_compass.studio.requests.superseding import LatestWins
    from mild_compass.studio.session import Session
    from mild_compass.studio.settings.settings import Settings
    from mild_compass.studio.words import Hold, Page


class Middle(QStackedWidget):
    """Pages are made at the first visit, board and companion at the first visit to a station that has a board.

    ``board_made`` is sent then.
    """

    board_made = Signal()

    def __init__(
        self, session: Session, computed: Computed, work: LatestWins, settings: Settings, memory: Memory
    ) -> None:
        super().__init__()
        self._computed, self._settings = computed, settings
        self.contact_sheet = ContactSheet(session, computed, work, settings)
        self._parts = Parts(session, computed, work, settings, self.contact_sheet, memory)
        self._pages: dict[Page, QWidget] = {"contact sheet": self.contact_sheet}
        self._shown: dict[Page, QWidget] = {"contact sheet": self.contact_sheet.in_scroll()}
        self.at: Page = "contact sheet"
        self.addWidget(self._shown["contact sheet"])
        self._show_surround()
        settings.changed.connect(self._show_surround)

    @cached_property
    def pair(self) -> BoardPair:
        """Board and companion."""
        from mild_compass.studio.board.pair import BoardPair

        pair = BoardPair(self._computed, self)
        pair.show_surround(SURROUNDS[self._settings.now.surround])
        self.addWidget(pair.board)
        self.__dict__["pair"] = pair  # there for whoever hears of it
        self.board_made.emit()
        return pair

    @property
    def has_board(self) -> bool:
        """Whether the board has been made."""
        return "pair" in self.__dict__

    @property
    def board(self) -> Board:
        """The board."""
        return self.pair.board

    @property
    def at_a_board(self) -> bool:
        """Whether the board is in view."""
        return self.at == "board"

    @property
    def can_be_looked_at(self) -> bool:
        """Whether there are pictures in view to squint at."""
        return self.at_a_board or hasattr(self._pages[self.at], "hold")

    @property
    def table_in_hand(self) -> QTableWidget | None:
        """The table that has the focus, or else the first one of the page in view; the board has none."""
        if self.at_a_board:
            return None
        focused = QApplication.focusWidget()
        if isinstance(focused, QTableWidget) and self.isAncestorOf(focused):
            return focused
        found = self._pages[self.at].findChildren(QTableWidget)
        return next((each for each in found if each.isVisible()), None)

    @property
    def settled(self) -> bool:
        """Whether what is in view is as it will stay."""
        return bool(getattr(self._pages.get(self.at), "settled", True))

    def page(self, name: Page) -> QWidget:
        """What can stand in the middle; made at the first visit."""
        if name == "board":
            return self.board
        if name not in self._pages:
            from mild_compass.studio.pages.table import make_page

            page = self._pages[name] = make_page(name, self._parts)
            self._shown[name] = page.in_scroll() if isinstance(page, PictureRows) else page
            self.addWidget(self._shown[name])
            self._show_surround()
        return self._pages[name]

    def turn_to(self, name: Page) -> None:
        """Put a page in the middle."""
        page = self.page(name)
        self.at = name
        shown = self._shown.get(name, page)
        if self.currentWidget() is not shown:
            self.setCurrentWidget(shown)
        page.setFocus(Qt.FocusReason.OtherFocusReason)
        if self.has_board:
            self.pair.companion.setVisible(name == "board")

    def hold(self, name: Hold, on: bool) -> None:
        """Look through squint, values, mirror or step back while it is held."""
        if self.at_a_board:
            self.pair.hold(name, on)
        elif hasattr(self._pages[self.at], "hold"):
            cast("PictureRows", self._pages[self.at]).hold(name, on)

    def fit(self) -> None:
        """Show all of it."""
        if self.at_a_board:
            self.board.fit()
        elif hasattr(self._pages[self.at], "fit"):
            self._pages[self.at].fit()  # type: ignore[attr-defined]

    def take_focus(self) -> None:
        """Give the keys to what is in the middle."""
        (self.currentWidget() or self).setFocus()

    def _show_surround(self) -> None:
        colour = SURROUNDS[self._settings.now.surround]
        for page in self._pages.values():
            if hasattr(page, "surround"):
                page.surround = colour
                page.update()
        if self.has_board:
            self.pair.show_surround(colour)
