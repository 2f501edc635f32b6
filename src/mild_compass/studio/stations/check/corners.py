"""The four corners of the sheet in the photo."""

from __future__ import annotations

from typing import TYPE_CHECKING

from mild_compass.plan.edits.check import set_corners
from mild_compass.studio.desk import Desk
from mild_compass.studio.stations.instrument import Instrument
from mild_compass.studio.widgets import button, form, soft

if TYPE_CHECKING:
    from PySide6.QtWidgets import QWidget

    from mild_compass.studio.pages.corners_page import CornersPage


class CornersInstrument(Instrument):
    """Shows the corners that were found, to be dragged where they are not right."""

    name = "corners"
    words = "Corners of the sheet"
    icon = "frame"
    tells = ("corners", "problem")
    hint = "The corners are found by themselves. Where one is not on the paper's corner, drag it; the loupe helps."
    page = "corners"

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk)
        self._told: object = None

    def options(self) -> QWidget:
        self._state = soft("")
        self._again = button("Find them again", self._find)
        self._turn = button("Turn by a quarter", self._turned)
        page = self._page
        page.dragged.connect(self._set)
        return form(
            self._state,
            soft("The corner marked 1 is the top left of the sheet as the plan has it."),
            self._turn,
            self._again,
        )

    @property
    def _page(self) -> CornersPage:
        return self.desk.page("corners")  # type: ignore[return-value]

    def _set(self, corners_px: object) -> None:
        drawing = self.desk.plan.drawing
        if drawing is not None:
            self.commit(set_corners(drawing.id, corners_px))  # type: ignore[arg-type]

    def _find(self) -> None:
        self._set(())

    def _turned(self) -> None:
        corners = self._page.corners
        if corners:
            self._set((*corners[1:], corners[0]))

    def refresh(self) -> None:
        drawing, made = self.desk.plan.drawing, self.desk.computed.checks.shown
        self._again.setEnabled(drawing is not None and bool(drawing.corners_px))
        self._turn.setEnabled(bool(self._page.corners))
        if drawing is None:
            self._state.setText("Add a photo of the drawing first.")
        elif drawing.corners_px:
            self._state.setText("These corners were set by hand.")
        elif made is None:
            self._state.setText("They are being looked for …")
        elif made.checked.sure:
            self._state.setText("Found, and sure of it: within a few tenths of a millimetre.")
        elif made.checked.corners_px:
            self._state.setText("Found, but not sure. Look at each of them, and drag what is not right.")
        else:
            self._state.setText("No sheet could be told from its ground. Drag the four marks onto its corners.")
        self._page.refresh()
