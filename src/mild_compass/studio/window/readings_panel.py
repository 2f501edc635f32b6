"""The readings: a summary in one breath, then cards: those of the instrument in hand first, the rest folded away."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, QSignalBlocker, QSize, Qt, Signal
from PySide6.QtGui import QColor, QPainter, QPainterPath, QPaintEvent, QPen
from PySide6.QtWidgets import (
    QFrame,
    QHBoxLayout,
    QLineEdit,
    QPushButton,
    QScrollArea,
    QSizePolicy,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from mild_compass.studio.taking_out import TakenOut, as_text
from mild_compass.studio.theme.apply import text_times
from mild_compass.studio.theme.in_use import colours
from mild_compass.studio.widgets import Wrapped, plain_label, soft

if TYPE_CHECKING:
    from mild_compass.craft.reading import Place, Reading, Verdict

VERDICT_WORDS: dict[Verdict, str] = {"fine": "fine", "look": "worth a look", "act": "act on this"}


class Mark(QWidget):
    """Fine, look or act: told apart by shape as well as by tone."""

    def __init__(self) -> None:
        super().__init__()
        self._verdict: Verdict = "fine"
        self.setFixedSize(14, 14)

    def show_verdict(self, verdict: Verdict) -> None:
        """Show another verdict."""
        self._verdict = verdict
        self.setAccessibleName(VERDICT_WORDS[verdict])
        self.setToolTip(VERDICT_WORDS[verdict].capitalize())
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        path = QPainterPath()
        if self._verdict == "fine":
            path.addEllipse(QPointF(7, 7), 3.6, 3.6)
            painter.setPen(QPen(QColor(colours().soft_ink), 1.3))
            painter.drawPath(path)
        elif self._verdict == "look":
            for k, (x, y) in enumerate(((7, 1.5), (12.5, 7), (7, 12.5), (1.5, 7))):
                (path.moveTo if k == 0 else path.lineTo)(x, y)
            path.closeSubpath()
            painter.fillPath(path, QColor(colours().ink))
        else:
            path.moveTo(7, 1)
            path.lineTo(13, 12.5)
            path.lineTo(1, 12.5)
            path.closeSubpath()
            painter.fillPath(path, QColor(colours().accent))
        painter.end()


class Card(QFrame):
    """One reading."""

    def __init__(self, panel: ReadingsPanel) -> None:
        super().__init__()
        self.setProperty("card", True)
        self._panel = panel
        self._reading: Reading | None = None
        self._mark = Mark()
        self._label, self._number, self._words = Wrapped(), plain_label(), soft("")
        self._label.setProperty("head", True)
        self._number.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        self.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Fixed)
        self._show, self._try, self._quiet = QPushButton("Show me"), QPushButton("Try it"), QPushButton("Not here")
        self._quiet.setToolTip("Silence this reading in this study, and say why")
        self._quiet.setCheckable(True)
        self._quiet.toggled.connect(self._ask_why)
        self._why = QLineEdit()
        self._why.setPlaceholderText("Why not here? Enter silences it.")
        self._why.setAccessibleName("Why not here")
        self._why.returnPressed.connect(self._silence)
        self._why.hide()
        self._explain = QToolButton()
        self._explain.setText("?")
        self._explain.setProperty("tiny", True)
        self._explain.setFixedSize(*(round(18 * text_times()),) * 2)
        self._explain.setAccessibleName("Why?")
        self._explain.setToolTip("Why? What is behind this, in the guide")
        self._explain.clicked.connect(self._ask_guide)
        self._show.setCheckable(True)
        TakenOut(self, lambda _: as_text(self._reading.text) if self._reading else None)
        self._show.toggled.connect(self._show_me)
        self._try.clicked.connect(self._try_it)
        self._lay_out()

    def _lay_out(self) -> None:
        head = QHBoxLayout()
        head.setSpacing(7)
        head.addWidget(self._mark)
        head.addWidget(self._label, 1)
        head.addWidget(self._number)
        head.addWidget(self._explain)
        foot = QHBoxLayout()
        for each in (self._show, self._try, self._quiet):
            each.setProperty("small", True)
            foot.addWidget(each)
        foot.addStretch(1)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(9, 7, 9, 7)
        layout.setSpacing(4)
        layout.addLayout(head)
        layout.addWidget(self._words)
        layout.addLayout(foot)
        layout.addWidget(self._why)

    def show_reading(self, reading: Reading) -> None:
        """Show another reading."""
        old, self._reading = self._reading, reading
        if old is not None and old.key != reading.key:
            self._quiet.setChecked(False)
        if old is not None and (old.text, old.shown, old.key) == (reading.text, reading.shown, reading.key):
            return  # the same words: nothing to lay out again
        self._mark.show_verdict(reading.verdict)
        self._label.setText(reading.label)
        self._number.setText(reading.shown)
        self._words.setText(reading.text)
        self._show.setVisible(reading.place is not None)
        self._try.setVisible(reading.remedy is not None)
        self._quiet.setVisible(reading.verdict != "fine")
        self.updateGeometry()

    def fit(self) -> None:
        """Take the height its words need now, so that the page lays it out once."""
        layout = self.layout()
        assert layout is not None
        layout.activate()

    def release_show(self) -> None:
        """Let the Show me button come up again."""
        with QSignalBlocker(self._show):
            self._show.setChecked(False)

    def _show_me(self, on: bool) -> None:
        place = self._reading.place if self._reading and on else None
        self._panel.show_place(self if on else None, place)

    def _try_it(self) -> None:
        if self._reading and self._reading.remedy is not None:
            self._panel.tried.emit(self._reading)

    def _ask_guide(self) -> None:
        if self._reading:
            self._panel.asked_why.emit(self._reading.key)

    def _ask_why(self, on: bool) -> None:
        self._why.setVisible(on)
        if on:
            self._why.setFocus()

    def _silence(self) -> None:
        reason = self._why.text().strip()
        self._why.clear()
        self._quiet.setChecked(False)
        if self._reading:
            self._panel.silenced.emit(self._reading, reason)


LEAST_FOLDED = 2  # a single card is not worth a line that hides it


def arranged(readings: list[Reading], tells: tuple[str, ...]) -> tuple[list[Reading], list[Reading]]:
    """The cards to be seen, those that an instrument is about first, and those that are folded away.

    ``tells`` are the beginnings of their keys. What is to be acted on is never folded away; nothing is where no card
    is about the instrument.
    """
    here = [each for each in readings if each.key.startswith(tells)]
    others = [each for each in readings if not each.key.startswith(tells)]
    folded = [each for each in others if each.verdict != "act"]
    if not here or len(folded) < LEAST_FOLDED:
        return readings, []
    return here + [each for each in others if each.verdict == "act"], folded


class ReadingsPanel(QScrollArea):
    """All cards of a station."""

    shown = Signal(object)  # Place or None
    tried = Signal(object)  # Reading
    silenced = Signal(object, str)  # Reading, why
    speak_again = Signal()
    asked_why = Signal(str)  # the reading's key

    def __init__(self) -> None:
        super().__init__()
        self.setWidgetResizable(True)
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setAccessibleName("Readings")
        page = QWidget()
        self._layout = QVBoxLayout(page)
        self._layout.setContentsMargins(8, 8, 8, 8)
        self._layout.setSpacing(6)
        self.summary = Wrapped()
        self.summary.setProperty("head", True)
        self._layout.addWidget(self.summary)
        self._silent = QPushButton()
        self._silent.setProperty("small", True)
        self._silent.clicked.connect(self.speak_again)
        self._fold = QPushButton()
        self._fold.setProperty("small", True)
        self._fold.setCheckable(True)
        self._fold.toggled.connect(self._lay_cards)
        for each in (self._fold, self._silent):
            each.hide()
            self._layout.addWidget(each, 0, Qt.AlignmentFlag.AlignLeft)
        self._layout.addStretch(1)
        self.setWidget(page)
        self._cards: list[Card] = []
        self._tells: tuple[str, ...] = ()
        self.readings: list[Reading] = []

    def sizeHint(self) -> QSize:
        return QSize(270, 300)

    def show_readings(self, readings: list[Reading], summary: str, silenced: int = 0) -> None:
        """Show a station's readings; cards are used again, so nothing flickers during a drag."""
        self._silent.setVisible(silenced > 0)
        self._silent.setText(f"{silenced} silenced here: let {'it' if silenced == 1 else 'them'} speak again")
        self.readings = readings
        self.summary.setText(summary)
        self._lay_cards()

    def be_about(self, tells: tuple[str, ...]) -> None:
        """Have the cards first whose keys begin like that: those of the instrument in hand."""
        if tells != self._tells:
            self._tells = tells
            self._lay_cards()

    def _lay_cards(self) -> None:
        """The cards first, then the line that folds the rest away, then the rest if it is unfolded."""
        seen, folded = arranged(self.readings, self._tells)
        self._fold.setVisible(bool(folded))
        looks = sum(each.verdict == "look" for each in folded)
        rest = f", {looks} worth a look" if looks else " at this station"
        more = f"{len(folded)} more{rest}"
        self._fold.setText("Fold the rest away" if self._fold.isChecked() else more)
        shown = seen + (folded if self._fold.isChecked() else [])
        while len(self._cards) < len(shown):
            card = Card(self)
            self._cards.append(card)
            self._layout.insertWidget(self._layout.count() - 2, card)
        for index, card in enumerate(self._cards):
            card.setVisible(index < len(shown))
            if index < len(shown):
                card.show_reading(shown[index])
                card.fit()
        self._order(len(seen) if folded else len(self._cards))

    def _order(self, before_fold: int) -> None:
        """Cards below the summary, the folding line after so many of them."""
        if self._layout.indexOf(self._fold) != 1 + before_fold:
            self._layout.removeWidget(self._fold)
            self._layout.insertWidget(1 + before_fold, self._fold, 0, Qt.AlignmentFlag.AlignLeft)

    def show_place(self, card: Card | None, place: Place | None) -> None:
        """One place at a time is lit up."""
        for each in self._cards:
            if each is not card:
                each.release_show()
        self.shown.emit(place)

    @property
    def words(self) -> str:
        """All that is told, folded away or not."""
        return "\n".join((self.summary.text(), *(f"{each.label}: {each.text}" for each in self.readings)))

    def clear_place(self) -> None:
        """Nothing is lit up any more."""
        self.show_place(None, None)
