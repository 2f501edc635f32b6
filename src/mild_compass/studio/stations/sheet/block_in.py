"""The order of drawing, step by step."""

from __future__ import annotations

from typing import TYPE_CHECKING

from mild_compass.studio.stations.instrument import Instrument
from mild_compass.studio.widgets import button, form, soft

if TYPE_CHECKING:
    from PySide6.QtWidgets import QWidget

    from mild_compass.studio.pages.block_in import BlockInPage


class BlockInInstrument(Instrument):
    """Halves, then the largest lines and shapes, the small things last."""

    name = "block-in"
    words = "Order of drawing"
    icon = "ladder"
    hint = "Halves first, then the largest lines and shapes; the small things last."
    page = "block-in"

    def options(self) -> QWidget:
        return form(
            soft(
                "Each step draws more things than the one before, each of them smaller. "
                "Big lines come from Armature, shapes from Simple shapes, the rest from the photo."
            ),
            button(
                "Save the steps as PDF…", lambda: self.desk.files.exports.choose_block_in(self._page.steps), main=True
            ),
        )

    @property
    def _page(self) -> BlockInPage:
        return self.desk.page("block-in")  # type: ignore[return-value]

    def refresh(self) -> None:
        self._page.refresh()
