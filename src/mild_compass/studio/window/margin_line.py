"""The margin line: where the pointer is, a one-line note, ways of looking, zoom."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QHBoxLayout, QLineEdit, QToolButton, QWidget

from mild_compass.craft.sheet_sizes.lengths import Unit, format_length
from mild_compass.studio.commands.table import HOLDS, tip
from mild_compass.studio.theme.icons import give_icon
from mild_compass.studio.widgets import plain_label

if TYPE_CHECKING:
    from mild_compass.studio.words import Hold


class MarginLine(QWidget):
    """A note goes to the logbook with its station and study; hold buttons work while they are held."""

    noted = Signal(str)
    held = Signal(str, bool)
    fit = Signal()

    def __init__(self) -> None:
        super().__init__()
        layout = QHBoxLayout(self)
        layout.setContentsMargins(8, 4, 8, 4)
        layout.setSpacing(6)
        self._place = plain_label()
        self._place.setFixedWidth(206)
        self.note = QLineEdit()
        self.note.setAccessibleName("Note for the logbook")
        self.note.setToolTip(tip("note"))
        self.note.returnPressed.connect(self._note)
        layout.addWidget(self._place)
        layout.addWidget(self.note, 1)
        self._looks: list[QWidget] = [self._hold_button(name, key, words) for name, key, _, words in HOLDS]
        for tool in self._looks:
            layout.addWidget(tool)
        self._zoom = plain_label()
        self._zoom.setMinimumWidth(52)
        layout.addWidget(self._zoom)
        fit = QToolButton()
        give_icon(fit, "fit")
        fit.setProperty("flat", True)
        fit.setToolTip(tip("fit"))
        fit.setAccessibleName("Fit")
        fit.clicked.connect(self.fit)
        layout.addWidget(fit)
        self._board_tools: list[QWidget] = [self._zoom, fit]
        self.show_pointer(None, "mm")

    def _hold_button(self, name: Hold, key: str, words: str) -> QToolButton:
        held = QToolButton()
        held.setText(name.capitalize())
        held.setProperty("hold", True)
        held.setToolTip(f"{words}, while held ({key})")
        held.pressed.connect(lambda: self.held.emit(name, True))
        held.released.connect(lambda: self.held.emit(name, False))
        return held

    def _note(self) -> None:
        if self.note.text().strip():
            self.noted.emit(self.note.text())
            self.note.clear()

    def show_looks(self, looks: bool, board: bool) -> None:
        """Ways of looking where there are pictures; zoom where there is a board."""
        for tool in self._looks:
            tool.setVisible(looks)
        for tool in self._board_tools:
            tool.setVisible(board)

    def show_question(self, question: str) -> None:
        """The question fit for the station."""
        self.note.setPlaceholderText(question)

    def show_pointer(self, point_mm: tuple[float, float] | None, unit: Unit) -> None:
        """Where the pointer is on the sheet."""
        if point_mm is None:
            self._place.setText("")
            return
        x, y = point_mm
        if unit == "mm":
            self._place.setText(f"x {x:.1f}   y {y:.1f} mm".replace("-", "−"))
        else:
            self._place.setText(f"x {format_length(x, unit)}   y {format_length(y, unit)}")

    def show_zoom(self, percent: float | None) -> None:
        """How large the sheet is shown against its true size on this screen."""
        self._zoom.setText("" if percent is None else f"{percent:.0f} %")
        self._zoom.setToolTip("Size on this screen against true size")
