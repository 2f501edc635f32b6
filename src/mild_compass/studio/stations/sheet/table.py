"""All measures as a table, to read, to save and to print."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING

from mild_compass.studio.stations.instrument import Instrument
from mild_compass.studio.widgets import button, form, soft

if TYPE_CHECKING:
    from PySide6.QtWidgets import QWidget


class TableInstrument(Instrument):
    """The numbers to carry to the paper with a ruler."""

    name = "table"
    words = "Table of measures"
    icon = "chart"
    tells = ("units", "measured", "sides")
    hint = "Every number to carry to the paper with a ruler."
    page = "measures"

    def options(self) -> QWidget:
        files = self.desk.files
        return form(
            soft("Lengths are those on your sheet. Print the table and keep it beside you."),
            button("Save the table as PDF…", partial(files.exports.choose_table, ".pdf"), main=True),
            button("Save as CSV…", partial(files.exports.choose_table, ".csv"), tip="For a spreadsheet, in mm"),
        )
