"""Planned and done: the page in the middle is filled in; here stands what it is for."""

from __future__ import annotations

from typing import TYPE_CHECKING

from mild_compass.studio.stations.instrument import Instrument
from mild_compass.studio.widgets import button, form, rule, soft

if TYPE_CHECKING:
    from PySide6.QtWidgets import QWidget

    from mild_compass.studio.pages.planned_done import PlannedDonePage

WORDS = (
    "What can be measured on a photo of the drawing stands there by itself. Say of the rest whether it was kept, "
    "changed or dropped, and what you learned in a line."
)


class DoneInstrument(Instrument):
    """Each thing planned beside what came out."""

    name = "done"
    words = "Planned and done"
    icon = "keep"
    tells = ("to tell", "again")
    page = "planned and done"
    hint = "What was planned, what came out, and what was learned."

    def options(self) -> QWidget:
        self._state = soft("")
        self._check = button("Check a photo of it", lambda: self.desk.go_to("check", "drawing"))
        return form(self._state, soft(WORDS), rule(), self._check)

    @property
    def _page(self) -> PlannedDonePage:
        return self.desk.page("planned and done")  # type: ignore[return-value]

    def refresh(self) -> None:
        page = self._page
        page.refresh()
        told, every = page.told
        self._state.setText(f"{told} of {every} things are told." if every else "Nothing is planned yet.")
        self.desk.memory.look_round()
