"""The string check as a table: line, point, what to do with either end."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QTableWidgetItem

from mild_compass.studio.pages.plain_table import PlainTable

if TYPE_CHECKING:
    from mild_compass.craft.perspective.string_check import StringCheck
    from mild_compass.studio.pages.parts import Parts

HEADS = ("Line", "Point", "Length", "Left or upper end", "Right or lower end")
EMPTY = ("Every line on its string", "Trace two edges that run back, and each line is checked against its point here.")


class StringPage(PlainTable):
    """One row a line, as the sets are lettered."""

    def __init__(self, parts: Parts) -> None:
        computed = parts.computed
        super().__init__(HEADS, *EMPTY, "String check of every line")
        self._computed = computed
        computed.changed.connect(self.refresh)

    def showEvent(self, event: object) -> None:
        self.refresh()

    def refresh(self) -> None:
        """Follow the plan while the page is seen."""
        study, worked = self._computed.plan.study, self._computed.perspective()
        if not self.isVisible() or study is None or worked is None or self._computed.in_gesture:
            return
        from mild_compass.craft.geometry.frame_map import FrameMap
        from mild_compass.craft.perspective.string_table import string_rows
        from mild_compass.craft.sheet_sizes.lengths import format_length

        unit = self._computed.unit
        rows = string_rows(study, worked, FrameMap.of(study.frame, self._computed.plan.paper))
        self.setRowCount(len(rows))
        for number, row in enumerate(rows):
            cells = (row.name, row.letter, format_length(row.length_mm, unit), *map(self._said, row.checks))
            for column, words in enumerate(cells):
                item = QTableWidgetItem(words)
                side = Qt.AlignmentFlag.AlignRight if column == 2 else Qt.AlignmentFlag.AlignLeft
                item.setTextAlignment(side | Qt.AlignmentFlag.AlignVCenter)
                self.setItem(number, column, item)

    def _said(self, check: StringCheck) -> str:
        from mild_compass.craft.sheet_sizes.lengths import format_length, least_told

        unit = self._computed.unit
        if abs(check.off_mm) < least_told(unit):
            return "true"
        return f"{check.action} {format_length(abs(check.off_mm), unit)}"
