"""The string check of every traced edge and big line, as a table."""

from __future__ import annotations

from typing import TYPE_CHECKING

from mild_compass.studio.stations.instrument import Instrument
from mild_compass.studio.widgets import form, soft

if TYPE_CHECKING:
    from PySide6.QtWidgets import QWidget


class StringsInstrument(Instrument):
    """Tells for each line which end to raise or lower, and by how much."""

    name = "strings"
    words = "String check"
    icon = "string"
    tells = ("string",)
    page = "strings"
    hint = "What a string from the pin would say of every line: which end to raise or lower, in mm on the sheet."

    def options(self) -> QWidget:
        return form(soft("Lines traced at the armature are checked against the point they run to most nearly."))

    def refresh(self) -> None:
        self.desk.page("strings").refresh()  # type: ignore[attr-defined]
