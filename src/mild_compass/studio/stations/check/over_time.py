"""Several photos of one drawing: whether it is getting nearer to the plan."""

from __future__ import annotations

from typing import TYPE_CHECKING

from mild_compass.studio.stations.instrument import Instrument
from mild_compass.studio.widgets import form, soft

if TYPE_CHECKING:
    from PySide6.QtWidgets import QWidget

    from mild_compass.studio.pages.over_time import OverTimePage


class OverTimeInstrument(Instrument):
    """Mean and worst error of every photo of the drawing, what was mended since, what is still off."""

    name = "over time"
    words = "Over time"
    icon = "chart"
    hint = "Every photo of this drawing, the first at the left: is it getting nearer to the plan?"
    page = "over time"

    def options(self) -> QWidget:
        return form(
            soft("Each photo is compared with the plan as it is now, so that they can be compared with one another.")
        )

    @property
    def _page(self) -> OverTimePage:
        return self.desk.page("over time")  # type: ignore[return-value]

    def refresh(self) -> None:
        self._page.refresh()
