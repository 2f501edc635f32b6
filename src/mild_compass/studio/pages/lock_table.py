"""The table of all armatures: what locks, how well random frames do, and a plain verdict."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QFrame, QTableWidgetItem, QVBoxLayout

from mild_compass.studio.pages.plain_table import PlainTable
from mild_compass.studio.widgets import Wrapped

if TYPE_CHECKING:
    from mild_compass.craft.armature.report import LockReport
    from mild_compass.plan.structure import Construction
    from mild_compass.studio.pages.parts import Parts

HEADS = ("Armature", "Lock", "Locked share", "Chance share", "As good by chance", "Corrected")
HOW = "Find or trace big lines first. Then every armature is laid over them, and over a thousand random frames."


class LockTable(QFrame):
    """One row an armature, the least likely by chance first; double click draws it."""

    chosen_changed = Signal()
    activated = Signal(str)

    def __init__(self, parts: Parts) -> None:
        computed = parts.computed
        super().__init__()
        self._computed = computed
        self._shown: LockReport | None = None
        self._names: list[Construction] = []
        self.verdict = Wrapped()
        self.verdict.setProperty("head", True)
        name = "Armatures, what locks and how likely by chance"
        self.table = PlainTable(HEADS, "Does it lock, or is it luck?", HOW, name)
        self.table.itemSelectionChanged.connect(self.chosen_changed)
        self.table.cellDoubleClicked.connect(lambda row, _: self.activated.emit(self._names[row]))
        self._note = Wrapped()
        self._note.setProperty("soft", True)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(18, 14, 18, 14)
        layout.addWidget(self.verdict)
        layout.addWidget(self.table, 1)
        layout.addWidget(self._note)
        computed.changed.connect(self.refresh)
        self.setFocusProxy(self.table)

    @property
    def chosen(self) -> Construction | None:
        """The armature whose row is chosen."""
        rows = {index.row() for index in self.table.selectedIndexes()}
        return self._names[rows.pop()] if rows else None

    def showEvent(self, event: object) -> None:
        self.refresh()

    def refresh(self) -> None:
        """Follow the report while the page is seen; the old one stays until the new one is there."""
        if not self.isVisible():
            return
        report, study = self._computed.locks, self._computed.plan.study
        nothing = study is None or not (study.structure.lines or study.structure.points)
        if nothing:
            self._names, self._shown = [], None
            self.table.setRowCount(0)
            self.verdict.setText("")
            self._note.setText("")
        elif report is not None and report is not self._shown:
            self._show(report)

    def _show(self, report: LockReport) -> None:
        from mild_compass.craft.armature.constructions import titled
        from mild_compass.craft.armature.lock_in import CHANCES
        from mild_compass.craft.armature.report import verdict_words

        self._shown, kept = report, self.chosen
        self._names = [trial.construction for trial in report.trials]
        self.table.setRowCount(len(self._names))
        for row, trial in enumerate(report.trials):
            held = trial.locked
            cells = (
                titled(trial.construction),
                f"{held.locked} of {held.counted}",
                f"{100 * held.score:.0f} %",
                f"{100 * trial.chance_mean:.0f} %",
                f"{100 * trial.p:.1f} in 100",
                f"{100 * trial.p_holm:.0f} in 100" + (" ●" if trial.evidence else ""),
            )
            for column, words in enumerate(cells):
                item = QTableWidgetItem(words)
                side = Qt.AlignmentFlag.AlignLeft if column == 0 else Qt.AlignmentFlag.AlignRight
                item.setTextAlignment(side | Qt.AlignmentFlag.AlignVCenter)
                self.table.setItem(row, column, item)
        if kept in self._names:
            self.table.selectRow(self._names.index(kept))
        best = report.trials[0]
        self.verdict.setText(verdict_words(best, len(report.trials)))
        self._note.setText(
            f"Chance: {CHANCES} random frames, up to 15 % off and 0.85 to 1.15 times as large, always the same ones. "
            f"Corrected for having looked at {len(report.trials)} armatures (Holm). ● chance is a poor explanation."
        )
