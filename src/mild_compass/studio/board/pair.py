"""Board and companion: the two halves of the job, what each shows, and how they change over."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QObject

from mild_compass.studio.board.board import Board
from mild_compass.studio.board.companion import Companion
from mild_compass.studio.words import SHEET_LAYERS, StationView, station_view

if TYPE_CHECKING:
    from mild_compass.studio.derived.computed import Computed
    from mild_compass.studio.words import Hold, Mode

SMALL_LAYERS = ("armature", "frame")
PLANNED = ("frame", "lines", "stage", "shapes", "guides")  # what a drawing is compared with


class BoardPair(QObject):
    """Made at the first visit to a station that has a board."""

    def __init__(self, computed: Computed, parent: QObject) -> None:
        super().__init__(parent)
        self._computed = computed
        self.board, self.companion = Board(computed), Companion(computed)
        self._station: StationView = station_view("viewfinder")
        self.companion.view.pointed.connect(self.board.show_cross)
        self.companion.swapped.connect(self.swap)
        self.board.swapped.connect(self.swap)

    def show_station(self, view: StationView) -> None:
        """Board and companion as a station wants them on arrival."""
        self._station = view
        self.board.fill, self.board.mode = view.fill, view.mode
        self.show_layers()

    def show_layers(self) -> None:
        """The layers of the station on both; on the sheet those that are printed."""
        layers, board = self._station.layers, self.board
        if self._station.name == "check":
            self._show_check()
            return
        own = board.instrument.layers if board.instrument is not None else None
        board.printed = layers == (SHEET_LAYERS,) and own is None
        if own is not None:
            layers = own
        elif layers == (SHEET_LAYERS,):
            study = self._computed.plan.study
            layers = study.sheet.layers if study else ("frame",)
            board.fill = "colour" if "picture" in layers else "paper"
        outlined = "masses" in board.layers and self._station.name == "values"
        board.layers = (*layers, "masses") if outlined else layers
        small = tuple(layer for layer in layers if layer in SMALL_LAYERS)
        before = board.instrument is not None and board.instrument.beside_before
        mode: Mode = "photo" if before or board.mode == "sheet" else "sheet"
        self.companion.show_mode(mode, () if before else small, before)

    def _show_check(self) -> None:
        """The drawing on one, the sheet as planned on the other."""
        board, drawn = self.board, self.board.fill == "drawing"
        board.printed = False
        board.layers = () if drawn else PLANNED
        self.companion.show_sheet("paper" if drawn else "drawing", PLANNED if drawn else ())

    def swap(self) -> None:
        """Change board and companion over."""
        board = self.board
        if self._station.name == "check":
            board.fill = "paper" if board.fill == "drawing" else "drawing"
            self.show_layers()
            board.update()
            return
        board.set_mode("sheet" if board.mode == "photo" else "photo")
        if board.mode == "sheet" and self._station.mode == "photo":
            board.fill = "colour"
        self.show_layers()
        board.update()

    def hold(self, name: Hold, on: bool) -> None:
        """Look through squint, values, mirror or step back while it is held."""
        for view in (self.board, self.companion.view):
            view.hold(name, on)

    def show_surround(self, colour: str) -> None:
        """The grey round the pictures."""
        for view in (self.board, self.companion.view):
            view.surround = colour
            view.update()
