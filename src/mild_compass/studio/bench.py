"""The bench: the station's instruments, and under the chosen one its options."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QSize, Qt, Signal
from PySide6.QtWidgets import (
    QButtonGroup,
    QFrame,
    QScrollArea,
    QSizePolicy,
    QStackedWidget,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from mild_compass.studio.theme.icons import icon
from mild_compass.studio.widgets import soft

if TYPE_CHECKING:
    from collections.abc import Callable

    from mild_compass.studio.stations.instrument import Instrument
    from mild_compass.studio.theme.palette import Palette

WIDTH = 236
WITHOUT_A_PHOTO = ("photos", "paper")


class BenchPage(QWidget):
    """One station's instruments; made once, so that they keep what they have in hand."""

    def __init__(
        self, instruments: list[Instrument], first: str, make_row: Callable[[Instrument], QToolButton]
    ) -> None:
        super().__init__()
        self.instruments, self.chosen = instruments, first
        self.rows: dict[str, QToolButton] = {}
        self.options: dict[str, QWidget] = {}
        layout = QVBoxLayout(self)
        layout.setContentsMargins(8, 8, 8, 8)
        layout.setSpacing(2)
        group = QButtonGroup(self)
        for instrument in instruments:
            row = self.rows[instrument.name] = make_row(instrument)
            group.addButton(row)
            layout.addWidget(row)
            layout.addWidget(self._options_of(instrument))
        layout.addStretch(1)

    def _options_of(self, instrument: Instrument) -> QWidget:
        options = self.options[instrument.name] = QWidget()
        inner = QVBoxLayout(options)
        inner.setContentsMargins(6, 2, 0, 6)
        inner.addWidget(soft(instrument.hint))
        controls = instrument.options()
        if controls is not None:
            inner.addWidget(controls)
        return options

    @property
    def in_hand(self) -> Instrument:
        """The chosen instrument."""
        return next((each for each in self.instruments if each.name == self.chosen), self.instruments[0])

    def take(self, name: str) -> Instrument:
        """Unfold the options of one instrument."""
        self.chosen = name
        found = self.in_hand
        self.chosen = found.name
        for key, options in self.options.items():
            options.setVisible(key == found.name)
        self.rows[found.name].setChecked(True)
        return found


class Bench(QStackedWidget):
    """Rows of icon and word; no floating palettes."""

    taken = Signal(object)

    def __init__(self, palette: Palette) -> None:
        super().__init__()
        self.colours = palette
        self.setFixedWidth(WIDTH)
        self.setAccessibleName("Bench")
        self._pages: dict[str, BenchPage] = {}
        self._scrolls: dict[str, QScrollArea] = {}
        self._at = ""

    @property
    def instruments(self) -> list[Instrument]:
        """The instruments on the bench now."""
        return self._pages[self._at].instruments

    def has(self, station: str) -> bool:
        """Whether a station's instruments have been laid out before."""
        return station in self._pages

    def lay_out(self, station: str, instruments: list[Instrument], first: str) -> None:
        """Make the page of a station."""
        page = BenchPage(instruments, first, self._row)
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        scroll.setFrameShape(QFrame.Shape.NoFrame)
        scroll.setWidget(page)
        self.addWidget(scroll)
        self._pages[station], self._scrolls[station] = page, scroll

    def turn_to(self, station: str, instrument: str = "") -> None:
        """Show a station's page with an instrument in hand: the one told, or the one that was last."""
        self._at = station
        self.setCurrentWidget(self._scrolls[station])
        self.take(instrument or self._pages[station].chosen)

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
        self.taken.emit(self._pages[self._at].take(name))

    def put_down(self) -> None:
        """Back to the first instrument: Look, where there is one."""
        self.take(self.instruments[0].name)

    def refresh(self, has_study: bool) -> None:
        """Let the options of the instrument in hand show what the plan says."""
        page = self._pages[self._at]
        instrument = page.in_hand
        usable = has_study or instrument.name in WITHOUT_A_PHOTO
        page.options[instrument.name].setEnabled(usable)
        if usable:
            instrument.refresh()
