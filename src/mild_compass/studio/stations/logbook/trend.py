"""The trend of the practice, and its export."""

from __future__ import annotations

from typing import TYPE_CHECKING

from mild_compass.studio.stations.instrument import Instrument
from mild_compass.studio.stations.logbook.practice import INVENTED
from mild_compass.studio.widgets import Choice, button, form, rule, soft

if TYPE_CHECKING:
    from PySide6.QtWidgets import QWidget

    from mild_compass.studio.pages.trend import TrendPage


class TrendInstrument(Instrument):
    """Which drill is plotted; all of them stand in the table."""

    name = "trend"
    words = "Trend"
    icon = "trend"
    page = "trend"
    needs = "nothing"
    hint = "Whether the eye measures better than before, and where it leans. Nothing is claimed that may be luck."

    def options(self) -> QWidget:
        from mild_compass.craft.practice.drills import DRILLS
        from mild_compass.craft.practice.trend import HOW

        self._drill = Choice([(row.title, row.name) for row in DRILLS if row.signed], "Drill plotted")
        self._drill.chosen.connect(self._choose)
        self._invented = soft(INVENTED)
        self._export = button("Save as CSV…", self.desk.files.exports.choose_practice)
        return form(self._drill, self._invented, rule(), soft(HOW), rule(), self._export)

    @property
    def _page(self) -> TrendPage:
        return self.desk.page("trend")  # type: ignore[return-value]

    def refresh(self) -> None:
        page = self._page
        page.refresh()
        self._drill.show_value(page.drill)
        self._invented.setVisible(self.desk.memory.is_invented)
        self._export.setEnabled(bool(self.desk.memory.history.answers))

    def _choose(self, name: str) -> None:
        self._page.show_drill(name)
