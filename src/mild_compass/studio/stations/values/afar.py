"""Stepping back from the sheet: what is too fine to be seen from there disappears."""

from __future__ import annotations

from typing import TYPE_CHECKING

from mild_compass.craft.picture.step_back import DISTANCES_M, finest_mm
from mild_compass.studio.desk import Desk
from mild_compass.studio.stations.instrument import Instrument
from mild_compass.studio.widgets import Tick, form, number_entry, soft

if TYPE_CHECKING:
    from PySide6.QtWidgets import QWidget


class AfarInstrument(Instrument):
    """Sets from how far the sheet is looked at while R is held, or for as long as it is ticked."""

    name = "afar"
    words = "Step back"
    icon = "afar"
    tells = ("focus", "read")
    needs = "a photo"
    hint = "What works as a tiny picture works on the sheet. Step back from it, at its true size, before you draw it."
    fill = "colour"

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk)
        self._stays = False

    def options(self) -> QWidget:
        self._distance = number_entry("How far back", "m")
        self._distance.chosen.connect(self._set_distance)
        self._stay = Tick("Stay there")
        self._stay.chosen.connect(self._stay_there)
        self._finest = soft("")
        return form(("From", self._distance), self._stay, self._finest, soft("Hold R on any view, Q to squint."))

    def refresh(self) -> None:
        distance = self.desk.computed.views.step_back_m
        self._distance.show_value(distance)
        self._finest.setText(
            f"From {distance:g} m nothing finer than {finest_mm(distance):.2f} mm on the sheet is seen."
        )
        self._stay.show_value("step back" in self.desk.board.holds)

    def _set_distance(self, distance_m: float) -> None:
        low, high = DISTANCES_M
        if not low <= distance_m <= high:
            self._distance.refuse(f"Between {low:g} and {high:g} m. It stays as it was.")
            return
        self.desk.computed.views.step_back_m = distance_m
        self.refresh()
        self.desk.board.update()

    def _stay_there(self, on: bool) -> None:
        self.desk.board.hold("step back", on)

    def put_away(self) -> None:
        self.desk.board.hold("step back", False)
