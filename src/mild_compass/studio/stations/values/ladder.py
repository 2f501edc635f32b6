"""The same picture in two, three, four and five values, side by side."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

from mild_compass.plan.edits.values import change_values
from mild_compass.studio.desk import Desk
from mild_compass.studio.stations.instrument import Instrument
from mild_compass.studio.widgets import button, form, soft

if TYPE_CHECKING:
    from PySide6.QtWidgets import QWidget

    from mild_compass.studio.pages.ladder import LadderPage


class LadderInstrument(Instrument):
    """Shows the ladder, and takes one of its rungs."""

    name = "ladder"
    words = "Ladder of values"
    icon = "ladder"
    tells = ("share", "dark_share")
    needs = "a photo"
    page = "ladder"
    hint = "How few values hold the picture together? Click a picture, then take its number of values."

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk)
        self._joined = False

    def options(self) -> QWidget:
        self._take = button("Take this number of values", self._take_it, main=True)
        self._told = soft("")
        return form(self._take, self._told)

    @property
    def _page(self) -> LadderPage:
        page: LadderPage = self.desk.page("ladder")  # type: ignore[assignment]
        if not self._joined:
            page.selected.connect(lambda _: self.refresh())
            self._joined = True
        return page

    def refresh(self) -> None:
        page, values = self._page, self.desk.study.values
        page.refresh()
        self._take.setEnabled(page.count is not None and page.count != values.count)
        now = f"The study has {values.count} values."
        self._told.setText(f"{now} Changes by hand are kept, as far as they fit." if values.changes else now)

    def _take_it(self) -> None:
        count = self._page.count
        if count is not None:
            values = self.desk.study.values
            method = "found" if values.method == "by hand" else values.method
            self.commit(change_values(replace(values, count=count, method=method, thresholds=())))
