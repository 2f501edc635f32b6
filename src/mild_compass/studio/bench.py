"""The bench: the station's instruments, and under the chosen one its options."""

from __future__ import annotations

from PySide6.QtCore import QSize, Qt, Signal
from PySide6.QtWidgets import QButtonGroup, QFrame, QScrollArea, QSizePolicy, QToolButton, QVBoxLayout, QWidget

from mild_compass.studio.stations.instrument import Instrument
from mild_compass.studio.theme.icons import icon
from mild_compass.studio.theme.palette import Palette
from mild_compass.studio.widgets import soft

WIDTH = 236


class Bench(QScrollArea):
    """Rows of icon and word; no floating palettes."""

    taken = Signal(object)

    def __init__(self, palette: Palette) -> None:
        super().__init__()
        self.colours = palette
        self.setFixedWidth(WIDTH)
        self.setWidgetResizable(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setAccessibleName("Bench")
        self.instruments: list[Instrument] = []
        self._pages: dict[str, QWidget] = {}
        self._rows: dict[str, QToolButton] = {}
        self.chosen: Instrument | None = None

    def lay_out(self, instruments: list[Instrument], first: str) -> None:
        """Put a station's instruments on the bench and take up the first."""
        self.instruments = instruments
        page = QWidget()
        layout = QVBoxLayout(page)
        layout.setContentsMargins(8, 8, 8, 8)
        layout.setSpacing(2)
        group = QButtonGroup(page)
        self._pages, self._rows = {}, {}
        for instrument in instruments:
            row = self._row(instrument)
            group.addButton(row)
            layout.addWidget(row)
            self._rows[instrument.name] = row
            options = QWidget()
            inner = QVBoxLayout(options)
            inner.setContentsMargins(6, 2, 0, 6)
            inner.addWidget(soft(instrument.hint))
            controls = instrument.options()
            if controls is not None:
                inner.addWidget(controls)
            layout.addWidget(options)
            self._pages[instrument.name] = options
        layout.addStretch(1)
        self.setWidget(page)
        self.take(first)

    def _row(self, instrument: Instrument) -> QToolButton:
        row = QToolButton()
        row.setText(instrument.words)
        row.setIcon(icon(instrument.icon, self.colours.ink, self.colours.pale_ink))
        row.setIconSize(QSize(20, 20))
        row.setToolButtonStyle(Qt.ToolButtonStyle.ToolButtonTextBesideIcon)
        row.setCheckable(True)
        row.setProperty("instrument", True)
        row.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        row.setToolTip(instrument.hint)
        row.clicked.connect(lambda: self.take(instrument.name))
        return row

    def take(self, name: str) -> None:
        """Take up an instrument by name."""
        self.chosen = next((each for each in self.instruments if each.name == name), self.instruments[0])
        for key, options in self._pages.items():
            options.setVisible(key == self.chosen.name)
        self._rows[self.chosen.name].setChecked(True)
        self.taken.emit(self.chosen)

    def put_down(self) -> None:
        """Back to the first instrument: Look, where there is one."""
        self.take(self.instruments[0].name)

    def refresh(self, has_study: bool) -> None:
        """Let the options of every instrument show what the plan says."""
        for instrument in self.instruments:
            options = self._pages[instrument.name]
            options.setEnabled(has_study or instrument.name in ("photos", "paper"))
            if has_study or instrument.name in ("photos", "paper"):
                instrument.refresh()
