"""Planned departures at the easel: what was meant here, and what became of it."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from mild_compass.plan.departure_kinds import kind_of
from mild_compass.studio.widgets import Line, Wrapped, button

if TYPE_CHECKING:
    from mild_compass.plan.record import Outcome
    from mild_compass.plan.study import Departure


class DepartureBox(QWidget):
    """One departure at a time: kept, changed or dropped, and why; Enter in the line settles nothing by itself."""

    settled = Signal(str, str, str)  # id, outcome, why
    left = Signal()  # the line has been finished: the keys belong to the easel again

    def __init__(self) -> None:
        super().__init__()
        self._shown: Departure | None = None
        self._words = Wrapped()
        self._why = Line()
        self._why.setAccessibleName("Why")
        self._why.setPlaceholderText("Why? (may stay empty)")
        self._why.returnPressed.connect(self.left)
        row = QHBoxLayout()
        outcomes: tuple[Outcome, ...] = ("kept", "changed", "dropped")
        for outcome in outcomes:
            row.addWidget(button(outcome.capitalize(), partial(self._settle, outcome)))
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(self._words)
        layout.addWidget(self._why)
        layout.addLayout(row)
        self.hide()

    def show_departure(self, departure: Departure | None) -> None:
        """Show one that is still open, or none."""
        if departure != self._shown:
            self._shown = departure
            self._why.clear()
            if departure is not None:
                reason = f", because {departure.reason}" if departure.reason else ""
                words = f"{kind_of(departure.kind).verb} {departure.name or 'this'}"
                self._words.setText(f"Here you planned to {words}{reason}. What becomes of it?")
        self.setVisible(departure is not None)

    def _settle(self, outcome: Outcome) -> None:
        if self._shown is not None:
            self.settled.emit(self._shown.id, outcome, self._why.text().strip())
            self.left.emit()
