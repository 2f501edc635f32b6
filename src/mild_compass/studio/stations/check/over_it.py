"""The plan laid over the drawing, in all the ways people compare two pictures."""

from __future__ import annotations

from typing import TYPE_CHECKING

from mild_compass.studio.stations.instrument import Instrument
from mild_compass.studio.widgets import Choice, Tick, form, soft

if TYPE_CHECKING:
    from PySide6.QtWidgets import QWidget

    from mild_compass.studio.pages.over_it import OverItPage

WAYS = (
    ("two inks", "two inks"),
    ("drawing alone", "drawing"),
    ("plan alone", "plan"),
    ("side by side", "side by side"),
    ("wiping edge", "wipe"),
    ("difference", "difference"),
)


class OverItInstrument(Instrument):
    """Two inks, side by side, a wiping edge, the difference, blinking while a key is held, mirrored, upside down."""

    name = "over it"
    words = "Plan over drawing"
    icon = "swap"
    hint = "Hold B to blink between plan and drawing, Q squint, W values, E mirror, R step back. Drag the wiping edge."
    page = "over it"

    def options(self) -> QWidget:
        self._way = Choice(list(WAYS), "How they are laid over each other")
        self._way.chosen.connect(lambda way: self._page.look(way=way))
        self._moved = Tick("Whole taken out")
        self._moved.setToolTip(
            "The plan is shifted, resized and turned as the whole drawing is: what is left is inside."
        )
        self._moved.chosen.connect(lambda on: self._page.look(moved=on))
        self._down = Tick("Upside down")
        self._down.chosen.connect(lambda on: self._page.look(upside_down=on))
        return form(
            ("Seen as", self._way),
            self._moved,
            self._down,
            soft("Upside down and in the mirror the eye forgets what it knows, and sees what is there."),
        )

    @property
    def _page(self) -> OverItPage:
        return self.desk.page("over it")  # type: ignore[return-value]

    def refresh(self) -> None:
        self._way.show_value(self._page.laid.way)
        self._moved.show_value(self._page.laid.moved)
        self._down.show_value(self._page.laid.upside_down)
        self._page.refresh()
