"""Each planned mass and its value as drawn; each measure as drawn."""

from __future__ import annotations

from typing import TYPE_CHECKING

from mild_compass.studio.stations.instrument import Instrument
from mild_compass.studio.widgets import Choice, form, soft

if TYPE_CHECKING:
    from PySide6.QtWidgets import QWidget

    from mild_compass.studio.pages.drawn_values import DrawnValuesPage


class DrawnValuesInstrument(Instrument):
    """The values of the drawing against those of the plan, and the measures."""

    name = "drawn values"
    words = "Values and measures"
    icon = "masses"
    tells = ("value", "drawn_read", "length", "drawn_strings")
    hint = "What is planned, what is drawn, and what that makes: too light, too dark, too long, too short."
    page = "drawn values"

    def options(self) -> QWidget:
        self._what = Choice([("values", "values"), ("measures", "measures"), ("strings", "strings")], "What is listed")
        self._what.chosen.connect(lambda what: self._page.look(what))
        self._told = soft("")
        return form(("Listed are", self._what), self._told)

    @property
    def _page(self) -> DrawnValuesPage:
        return self.desk.page("drawn values")  # type: ignore[return-value]

    def refresh(self) -> None:
        self._what.show_value(self._page.what)
        words = {
            "values": "Values are told against the paper's own white, where the photo is said to show values.",
            "measures": "Lengths measured at Sheet, as the lines round their ends were drawn.",
            "strings": "Traced edges as drawn, against the string to their point.",
        }
        self._told.setText(words[self._page.what])
        self._page.refresh()
