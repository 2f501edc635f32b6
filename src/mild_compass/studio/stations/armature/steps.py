"""How to draw a construction with ruler and compass on this sheet."""

from __future__ import annotations

from typing import TYPE_CHECKING

from mild_compass.craft.armature.constructions import titled
from mild_compass.plan.structure import CONSTRUCTION_NAMES
from mild_compass.studio.stations.instrument import Instrument
from mild_compass.studio.widgets import Choice, button, form, soft

if TYPE_CHECKING:
    from PySide6.QtWidgets import QWidget

    from mild_compass.studio.pages.steps_page import StepsPage


class StepsInstrument(Instrument):
    """Shows the numbered steps of one construction, and prints them."""

    name = "steps"
    words = "How to draw it"
    icon = "compass"
    page = "steps"
    hint = "Numbered steps for ruler and compass, with the lengths on your sheet. No screen needed at the easel."

    def options(self) -> QWidget:
        self._which = Choice([(titled(name), name) for name in CONSTRUCTION_NAMES], "Steps for")
        self._which.chosen.connect(lambda name: self._page.show_construction(name))
        return form(
            self._which,
            button("Save the steps as PDF…", lambda: self.desk.files.exports.choose_steps(self._page.construction)),
            soft("One page for the drawing table."),
        )

    @property
    def _page(self) -> StepsPage:
        return self.desk.page("steps")  # type: ignore[return-value]

    def refresh(self) -> None:
        drawn = self.desk.study.armature
        page = self._page
        if not page.chosen_by_hand and drawn:
            page.construction = drawn[0]
        page.refresh()
        self._which.show_value(page.construction)
