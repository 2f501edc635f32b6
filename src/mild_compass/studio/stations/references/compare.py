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
    tells = ("print_size", "enlarged")
    needs = "a photo"
    page = "compare"
    hint = "The photos picked on the contact sheet, at the same scale. The wheel and dragging move them together."

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
            self._state.setText(
                "The first two kept photos. Pick others under Photos: tick “To be set side by side”, or Ctrl+click."
            )
