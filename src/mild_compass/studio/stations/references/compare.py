"""Photos side by side at the same scale."""

from __future__ import annotations

from typing import TYPE_CHECKING

from mild_compass.studio.stations.instrument import Instrument
from mild_compass.studio.widgets import Tick, button, form, soft

if TYPE_CHECKING:
    from PySide6.QtWidgets import QWidget

    from mild_compass.studio.pages.compare import ComparePage


class CompareInstrument(Instrument):
    """Compares the photos picked on the contact sheet."""

    name = "compare"
    words = "Side by side"
    icon = "compare"
    page = "compare"
    hint = "Ctrl+click photos on the contact sheet to pick them; here they stand side by side. Wheel and drag move all."

    def options(self) -> QWidget:
        self._values = Tick("Values only")
        self._values.chosen.connect(lambda on: self._page.look(on))
        self._state = soft("")
        return form(self._state, self._values, button("All of every photo", lambda: self._page.fit()))

    @property
    def _page(self) -> ComparePage:
        return self.desk.page("compare")  # type: ignore[return-value]

    def refresh(self) -> None:
        picked = len(self.desk.contact_sheet.picked)
        if picked >= 2:
            self._state.setText(f"{min(picked, 6)} photos picked.")
        else:
            self._state.setText("The first two kept photos; pick others with Ctrl+click on the contact sheet.")
