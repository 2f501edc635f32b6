"""All measures as one table: places from the datum lines, lengths, what lines up, the two sides of a thing."""

from __future__ import annotations

from math import isfinite
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHeaderView, QTableWidgetItem

from mild_compass.studio.pages.plain_table import PlainTable

if TYPE_CHECKING:
    from mild_compass.craft.sheet.measure import Measures
    from mild_compass.studio.pages.parts import Parts

HEADS = ("", "Name", "On the sheet", "On your print", "In the unit", "Lies or leans")
EMPTY = ("Nothing measured yet", "Take up Measure: halve the frame, click places, drag lengths. They are listed here.")
FIGURES = (2, 3, 4)
ON_PRINT = 3


class MeasuresPage(PlainTable):
    """One row a measure, in the order in which they are used."""

    def __init__(self, parts: Parts) -> None:
        computed = parts.computed
        super().__init__(HEADS, *EMPTY, "Measures on the sheet")
        self._computed = computed
        head = self.horizontalHeader()
        for column in range(len(HEADS) - 1):
            head.setSectionResizeMode(column, QHeaderView.ResizeMode.ResizeToContents)
        computed.changed.connect(self.refresh)

    def showEvent(self, event: object) -> None:
        self.refresh()

    def refresh(self) -> None:
        """Follow the plan while the page is seen."""
        study = self._computed.plan.study
        if not self.isVisible() or study is None or self._computed.in_gesture:
            return
        from mild_compass.craft.geometry.frame_map import FrameMap
        from mild_compass.craft.sheet.measure import study_measures

        frame_map = FrameMap.of(study.frame, self._computed.plan.paper)
        plan = self._computed.plan
        found = study_measures(study, plan.ground(study), plan.paper)
        rows = [*self._measured(found), *self._derived(frame_map)]
        self.setRowCount(len(rows))
        self.setColumnHidden(ON_PRINT, study.measured is None)
        for number, row in enumerate(rows):
            for column, words in enumerate(row):
                item = QTableWidgetItem(words)
                side = Qt.AlignmentFlag.AlignRight if column in FIGURES else Qt.AlignmentFlag.AlignLeft
                item.setTextAlignment(side | Qt.AlignmentFlag.AlignVCenter)
                item.setToolTip(words)
                self.setItem(number, column, item)

    def _told(self, mm: float) -> str:
        from mild_compass.craft.sheet_sizes.lengths import format_length

        return format_length(mm, self._computed.unit)

    def _measured(self, found: Measures) -> list[tuple[str, ...]]:
        from mild_compass.craft.sheet.measure import side_words

        rows: list[tuple[str, ...]] = []
        for datum in found.datums:
            edge = "from the left edge" if datum.kind == "upright" else "from the top edge"
            rows.append(("datum", datum.name, self._told(datum.at_mm), "", "", edge))
        for point in found.points:
            offs = zip(found.datums, point.from_datums_mm, strict=True)
            told = [f"{side_words(d.kind, off, self._told(abs(off)))} {d.name}" for d, off in offs]
            rows.append(
                ("place", point.name, f"{self._told(point.x_mm)}, {self._told(point.y_mm)}", "", "", "; ".join(told))
            )
        for length in found.lengths:
            units = f"{length.units:.2f}" if isfinite(length.units) else ""
            on_print = self._told(length.print_mm) if isfinite(length.print_mm) else ""
            rows.append(("length", length.name, self._told(length.length_mm), on_print, units, length.lean))
        for shape in found.negatives:
            size = f"{self._told(shape.width_mm)} × {self._told(shape.height_mm)}"
            rows.append(("between", shape.name, size, "", "", f"{100 * shape.share:.1f} % of the picture"))
        return rows

    def _derived(self, frame_map: object) -> list[tuple[str, ...]]:
        from mild_compass.craft.sheet.alignments import alignments
        from mild_compass.craft.sheet.symmetry import compared_sides

        study = self._computed.plan.study
        assert study is not None
        rows: list[tuple[str, ...]] = [
            (each.relation, f"{each.first} – {each.second}", self._told(each.off_mm), "", "", each.words)
            for each in alignments(study.measures, frame_map)  # type: ignore[arg-type]
        ]
        if study.measures.symmetry is not None:
            sides = compared_sides(study.measures.symmetry, frame_map)  # type: ignore[arg-type]
            rows.append(("axis", "axis of the thing", "", "", "", sides.lean))
            for side in sides.rows:
                told = f"left {self._told(side.left_mm)}, right {self._told(side.right_mm)}"
                rows.append(("sides", f"{self._told(side.along_mm)} down", self._told(side.off_mm), "", "", told))
        return rows
