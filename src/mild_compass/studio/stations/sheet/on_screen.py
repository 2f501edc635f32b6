"""On a screen or wall: the sheet at its true size on this monitor, or for a projector."""

from __future__ import annotations

from typing import TYPE_CHECKING

from mild_compass.plan.errors import PlanError
from mild_compass.studio.stations.instrument import Instrument
from mild_compass.studio.widgets import Choice, button, form, number_entry, rule, soft

if TYPE_CHECKING:
    from PySide6.QtWidgets import QWidget

WAYS = (("lines and photo", True), ("lines only", False))


class OnScreenInstrument(Instrument):
    """What is printed, shown over the whole screen."""

    name = "on screen"
    words = "Screen or wall"
    icon = "screen"
    hint = "The sheet at its true size on this monitor, to lay the paper against; or thrown onto a canvas."

    def options(self) -> QWidget:
        self._photo = Choice(WAYS, "What is shown")
        self._photo.show_value(True)
        self._bar = number_entry("What the 100 mm bar measures on this screen", "mm")
        self._bar.chosen.connect(self._measured)
        return form(
            ("Show", self._photo),
            button("At true size", lambda: self.desk.show_on_screen("true size", self._photo.value), main=True),
            soft("Measure the bar there with a ruler on the glass, once for each screen."),
            ("Bar", self._bar),
            rule(),
            soft("For a projector: drag the four corners to the canvas's, T for a test pattern."),
            button("On the wall or canvas", lambda: self.desk.show_on_screen("wall", self._photo.value)),
        )

    def refresh(self) -> None:
        self._bar.show_value(round(self.desk.settings.bar_on(self._screen()), 2))

    def _screen(self) -> str:
        from mild_compass.studio.settings.screens import name_of

        return name_of(self.desk.contact_sheet.screen())

    def _measured(self, bar_mm: float) -> None:
        try:
            self.desk.settings.measure_screen(self._screen(), bar_mm)
        except PlanError as error:
            self._bar.refuse(str(error))
