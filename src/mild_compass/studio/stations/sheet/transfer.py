"""How the plan gets onto the paper, method by method."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

from mild_compass.craft.sheet.transfer import METHOD_WORDS
from mild_compass.plan.edits.sheet import change_sheet
from mild_compass.studio.stations.instrument import Instrument
from mild_compass.studio.widgets import Choice, button, form, soft

if TYPE_CHECKING:
    from PySide6.QtWidgets import QWidget

    from mild_compass.studio.pages.transfer_page import TransferPage


class TransferInstrument(Instrument):
    """What to print, which side, which pencil, in which order: for this plan."""

    name = "transfer"
    words = "Transfer"
    icon = "swap"
    tells = ("transfers", "squares", "mirrored")
    hint = "What to print, which side, which pencil, in which order: for this plan and this method."
    page = "transfer"

    def options(self) -> QWidget:
        self._method = Choice([(words, method) for method, words in METHOD_WORDS.items()], "Method")
        self._method.chosen.connect(self._choose)
        return form(
            self._method,
            soft("The guide beside this is made for your sheet, your pages and your medium."),
            button("Set the print up so", self._set_up, main=True, tip="Ticks the layers and the mirroring it needs"),
            button("Save the guide as PDF…", self._save),
        )

    @property
    def _page(self) -> TransferPage:
        return self.desk.page("transfer")  # type: ignore[return-value]

    def refresh(self) -> None:
        self._method.show_value(self.desk.study.sheet.method)
        self._page.refresh()

    def _choose(self, method: str) -> None:
        self.commit(change_sheet(replace(self.desk.study.sheet, method=method)))  # type: ignore[arg-type]

    def _set_up(self) -> None:
        guide = self._page.guide
        if guide is None:
            return
        if guide.settings == self.desk.study.sheet:
            self.desk.say("The print is set up so already.")
        elif self.commit(change_sheet(guide.settings)):
            self.desk.say("The print is set up for this method. Ctrl+Z takes it back.")

    def _save(self) -> None:
        if self._page.guide is not None:
            self.desk.files.exports.choose_guide(self._page.guide)
