"""Instruments of the logbook: the record and its export."""

from __future__ import annotations

from typing import TYPE_CHECKING

from mild_compass.studio.desk import Desk
from mild_compass.studio.stations.instrument import Instrument
from mild_compass.studio.widgets import button, form, soft

if TYPE_CHECKING:
    from PySide6.QtWidgets import QWidget


class RecordInstrument(Instrument):
    """Exports the logbook."""

    name = "record"
    words = "Record"
    icon = "book"
    needs = "nothing"
    hint = "Decisions are written by themselves. Add your own notes in the line at the bottom of any station."

    def options(self) -> QWidget:
        self._export = button("Save as text (Markdown)…", self.desk.files.exports.choose_logbook, main=True)
        return form(self._export, soft("Ctrl+Z brings a deleted line back."))

    def refresh(self) -> None:
        self._export.setEnabled(bool(self.desk.plan.log))


def instruments(desk: Desk) -> list[Instrument]:
    """The instruments of this station."""
    return [RecordInstrument(desk)]
