"""The bench: the station's instruments, all in view, and below them the options of the chosen one."""

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

from mild_compass.studio.theme.apply import text_times
from mild_compass.studio.theme.icons import give_icon
from mild_compass.studio.widgets import rule, soft

if TYPE_CHECKING:
    from collections.abc import Callable

    from mild_compass.studio.stations.instrument import Instrument
    from mild_compass.studio.words import Needs

WIDTH = 236
LACKING: dict[Needs, str] = {
    "nothing": "",
    "a study": "Add a photo first, at References, or begin with a blank sheet.",
    "a photo": "This study stands on a blank sheet. What this instrument does needs a photo.",
}


class Options(QWidget):
    """The options of one instrument under its hint; where something is lacking, a sentence says what."""

    def __init__(self, instrument: Instrument) -> None:
        super().__init__()
        layout = QVBoxLayout(self)
        layout.setContentsMargins(14, 6, 8, 8)
        self._lacking = soft("")
        self._lacking.hide()
        self.controls = instrument.options()
        layout.addWidget(self._lacking)
        layout.addWidget(soft(instrument.hint))
        if self.controls is not None:
            layout.addWidget(self.controls)
        layout.addStretch(1)

    def show_lacking(self, needs: Needs) -> None:
        """Say what is lacking before this instrument is of use, or nothing."""
        self._lacking.setText(LACKING[needs])
        self._lacking.setVisible(needs != "nothing")
        if self.controls is not None:
            self.controls.setEnabled(needs == "nothing")


class BenchPage(QWidget):
    """One station's instruments; made once, so that they keep what they have in hand. Options are made at first use."""

    def __init__(
        self, instruments: list[Instrument], first: str, make_row: Callable[[Instrument], QToolButton]
    ) -> None:
        super().__init__()
        self.instruments, self.chosen = instruments, first
        self.rows: dict[str, QToolButton] = {}
        self.options: dict[str, Options] = {}
        self._stack = QStackedWidget()
        self._scroll = QScrollArea()
        self._scroll.setWidgetResizable(True)
        self._scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._scroll.setFrameShape(QFrame.Shape.NoFrame)
        self._scroll.setWidget(self._stack)
        self._scroll.setAccessibleName("Options")
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 8, 0, 0)
        layout.setSpacing(0)
        layout.addWidget(self._list(make_row))
        layout.addSpacing(6)
        layout.addWidget(rule())
        layout.addWidget(self._scroll, 1)

    def _list(self, make_row: Callable[[Instrument], QToolButton]) -> QWidget:
        """All instruments, always in view."""
        rows = QWidget()
        rows.setAccessibleName("Instruments")
        layout = QVBoxLayout(rows)
        layout.setContentsMargins(8, 0, 8, 0)
        layout.setSpacing(1)
        group = QButtonGroup(self)
        for instrument in self.instruments:
            row = self.rows[instrument.name] = make_row(instrument)
            group.addButton(row)
            layout.addWidget(row)
        return rows

    @property
    def in_hand(self) -> Instrument:
        """The chosen instrument."""
        return next((each for each in self.instruments if each.name == self.chosen), self.instruments[0])

    def take_up(self, name: str) -> Instrument:
        """Show the options of one instrument."""
        self.chosen = name
        found = self.in_hand
        self.chosen = found.name
        if found.name not in self.options:
            self._stack.addWidget(self.options.setdefault(found.name, Options(found)))
        for key, options in self.options.items():
            # Only the one in view counts for the height: the stack would else be as high as the highest of all.
            policy = QSizePolicy.Policy.Preferred if key == found.name else QSizePolicy.Policy.Ignored
            options.setSizePolicy(QSizePolicy.Policy.Preferred, policy)
        self._stack.setCurrentWidget(self.options[found.name])
        self._stack.adjustSize()
        self._scroll.verticalScrollBar().setValue(0)
        self.rows[found.name].setChecked(True)
        return found


class Bench(QStackedWidget):
    """Rows of icon and word; no floating palettes."""

    taken = Signal(object)

    def __init__(self) -> None:
        super().__init__()
        self.setFixedWidth(round(WIDTH * text_times()))
        self.setAccessibleName("Bench")
        self._pages: dict[str, BenchPage] = {}
        self._at = ""

    @property
    def page(self) -> BenchPage:
        """The station's page in view."""
        return self._pages[self._at]

    @property
    def instruments(self) -> list[Instrument]:
        """The instruments on the bench now."""
        return self.page.instruments

    def has(self, station: str) -> bool:
        """Whether a station's instruments have been laid out before."""
        return station in self._pages

    def lay_out(self, station: str, instruments: list[Instrument], first: str) -> None:
        """Make the page of a station."""
        page = self._pages[station] = BenchPage(instruments, first, self._row)
        self.addWidget(page)

    def turn_to(self, station: str, instrument: str = "") -> None:
        """Show a station's page with an instrument in hand: the one told, or the one that was last."""
        self._at = station
        self.setCurrentWidget(self.page)
        self.take_up(instrument or self.page.chosen)

    def _row(self, instrument: Instrument) -> QToolButton:
        row = QToolButton()
        row.setText(instrument.words)
        give_icon(row, instrument.icon)
        row.setIconSize(QSize(20, 20))
        row.setToolButtonStyle(Qt.ToolButtonStyle.ToolButtonTextBesideIcon)
        row.setCheckable(True)
        row.setProperty("instrument", True)
        row.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        row.setToolTip(instrument.hint)
        row.toggled.connect(lambda on: self._toggled(instrument.name, on))
        return row

    def _toggled(self, name: str, on: bool) -> None:
        """By a click, or by a reader of the screen, which toggles without one."""
        if on and self.page.chosen != name:
            self.take_up(name)

    def take_up(self, name: str) -> None:
        """Take up an instrument by name."""
        self.taken.emit(self.page.take_up(name))

    def put_down(self) -> None:
        """Back to the first instrument: Look, where there is one."""
        self.take_up(self.instruments[0].name)

    def refresh(self, has_study: bool, has_photo: bool) -> None:
        """Let the options of the instrument in hand show what the plan says."""
        instrument = self.page.in_hand
        lacking: Needs = "nothing"
        if instrument.needs != "nothing" and not has_study:
            lacking = "a study"
        elif instrument.needs == "a photo" and not has_photo:
            lacking = "a photo"
        self.page.options[instrument.name].show_lacking(lacking)
        if lacking == "nothing":
            instrument.refresh()
