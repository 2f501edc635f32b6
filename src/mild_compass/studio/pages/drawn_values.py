"""Masses, measures or strings: what is planned, what is drawn, and what that makes."""

from __future__ import annotations

from typing import TYPE_CHECKING, Literal

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHeaderView, QTableWidgetItem

from mild_compass.studio.pages.plain_table import PlainTable

if TYPE_CHECKING:
    from mild_compass.craft.worked import Worked
    from mild_compass.studio.pages.parts import Parts

What = Literal["values", "measures", "strings"]
HEADS: dict[str, tuple[str, ...]] = {
    "values": ("Mass", "Planned L*", "Drawn L*", "Off, in steps", "What it is", "Area"),
    "measures": ("Measure", "Planned", "Drawn", "Off", "What it is", "Known to"),
    "strings": ("Edge", "To the point", "Off", "Known to", "What to do", ""),
}
EMPTY = (
    "No drawing to compare yet",
    "Add a photo of your drawing under “The drawing”. For values say there that it shows values.",
)
FIGURES = {"values": (1, 2, 3, 5), "measures": (1, 2, 3, 5), "strings": (2, 3)}
Row = tuple[str, ...]


class DrawnValuesPage(PlainTable):
    """One row a mass, a measure or an edge."""

    def __init__(self, parts: Parts) -> None:
        super().__init__(HEADS["values"], *EMPTY, "Values and measures as drawn")
        self._computed = parts.computed
        self.what: What = "values"
        self._made_of: object = None  # what the rows shown were made of: measuring the columns takes a while
        self.horizontalHeader().setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
        self.horizontalHeader().setSectionResizeMode(4, QHeaderView.ResizeMode.Stretch)
        parts.computed.changed.connect(self.refresh)

    @property
    def settled(self) -> bool:
        """Whether the drawing is there."""
        return self._computed.checks.now.settled

    def look(self, what: What) -> None:
        """List something else."""
        self.what = what
        self.refresh()

    def showEvent(self, event: object) -> None:
        self.refresh()

    def refresh(self) -> None:
        """Follow the plan while the page is seen."""
        if not self.isVisible() or self._computed.in_gesture:
            return
        self._computed.checks.look()
        worked = self._computed.worked()
        made_of = worked and (
            self.what,
            worked.check,
            worked.tones,
            worked.study,
            worked.frame_map,
            self._computed.unit,
        )
        if made_of and made_of == self._made_of:
            return
        self._made_of = made_of
        rows = self._rows(worked) if worked is not None and worked.check is not None else []
        self.setHorizontalHeaderLabels(list(HEADS[self.what]))
        self.setRowCount(len(rows))
        for number, row in enumerate(rows):
            for column, words in enumerate(row):
                item = QTableWidgetItem(words)
                right = column in FIGURES[self.what]
                side = Qt.AlignmentFlag.AlignRight if right else Qt.AlignmentFlag.AlignLeft
                item.setTextAlignment(side | Qt.AlignmentFlag.AlignVCenter)
                item.setToolTip(words)
                self.setItem(number, column, item)

    def _rows(self, worked: Worked) -> list[Row]:
        if self.what == "values":
            return self._values(worked)
        return self._measures(worked) if self.what == "measures" else self._strings(worked)

    def _length(self, mm: float) -> str:
        from mild_compass.craft.sheet_sizes.lengths import format_length

        return format_length(mm, self._computed.unit)

    def _values(self, worked: Worked) -> list[Row]:
        found: list[Row] = []
        for each in worked.tones.values if worked.tones is not None else ():
            off = each.steps_off
            words = "as planned" if abs(off) <= 0.5 else f"too {'light' if off > 0 else 'dark'}"
            found.append(
                (
                    each.name,
                    f"{each.planned:.0f}",
                    f"{each.drawn:.0f}",
                    f"{off:+.1f}".replace("-0.0", "0.0").replace("+0.0", "0.0"),
                    words,
                    f"{each.area_mm2 / 100:.1f} cm²",
                )
            )
        return found

    def _measures(self, worked: Worked) -> list[Row]:
        from mild_compass.craft.check.where import drawn_lengths

        assert worked.check is not None
        found: list[Row] = []
        for each in drawn_lengths(worked.check, worked):
            if each.drawn_mm is None:
                found.append(
                    (each.name, self._length(each.planned_mm), "–", "", "its ends are not drawn, or not told", "")
                )
                continue
            off = each.drawn_mm - each.planned_mm
            words = (
                f"{abs(each.off_percent):.1f} % too {'long' if off > 0 else 'short'}" if each.is_off else "as planned"
            )
            known = f"± {self._length(2 * each.sigma_mm)}"
            found.append(
                (
                    each.name,
                    self._length(each.planned_mm),
                    self._length(each.drawn_mm),
                    f"{off:+.1f}".replace("-0.0", "0.0").replace("+0.0", "0.0"),
                    words,
                    known,
                )
            )
        return found

    def _strings(self, worked: Worked) -> list[Row]:
        from mild_compass.craft.check.where import drawn_strings

        assert worked.check is not None
        return [
            (
                each.name,
                each.letter,
                self._length(abs(each.check.off_mm)),
                f"± {self._length(2 * each.sigma_mm)}",
                each.check.words if each.is_off else "runs to its point",
                "",
            )
            for each in drawn_strings(worked.check, worked)
        ]
