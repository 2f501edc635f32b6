"""Small controls bound to plan values: they show what the plan says, send an edit, and never echo."""

from __future__ import annotations

from html import escape
from math import isfinite
from typing import TYPE_CHECKING, Any

from PySide6.QtCore import QEvent, QRect, QSignalBlocker, Qt, Signal
from PySide6.QtGui import QKeyEvent, QKeySequence
from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QFormLayout,
    QFrame,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QListWidget,
    QPlainTextEdit,
    QPushButton,
    QSizePolicy,
    QSlider,
    QVBoxLayout,
    QWidget,
)

from mild_compass.craft.sheet_sizes.lengths import Unit, format_length, parse_length_mm
from mild_compass.plan.errors import PlanError

if TYPE_CHECKING:
    from collections.abc import Callable, Sequence

    from PySide6.QtGui import QFocusEvent, QResizeEvent

LEAST_WRAP_PX = 40  # narrower a label is only until it is laid out


class Wrapped(QLabel):
    """Words that wrap and take exactly the height they need; layouts alone guess it from another width."""

    def __init__(self, text: str = "") -> None:
        super().__init__(text)
        self._fitted: tuple[int, str, str] | None = None
        self.setWordWrap(True)
        self.setTextFormat(Qt.TextFormat.PlainText)

    def setText(self, text: str) -> None:
        super().setText(text)
        self._fit()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._fit()

    def _fit(self) -> None:
        self.ensurePolished()
        width = max(self.width(), LEAST_WRAP_PX)
        fitted = (width, self.text(), self.font().key())
        if fitted == self._fitted:  # only its height was changed, by itself
            return
        self._fitted = fitted
        page = QRect(0, 0, width, 10_000)
        wrapped = self.fontMetrics().boundingRect(page, Qt.TextFlag.TextWordWrap, self.text())
        self.setFixedHeight(wrapped.height() + 1)


def plain_label(text: str = "") -> QLabel:
    """Words as they are: a name that looks like a tag is shown, and never followed into a file."""
    label = QLabel(text)
    label.setTextFormat(Qt.TextFormat.PlainText)
    return label


def plain_tip(text: str) -> str:
    """A tooltip of words as they are."""
    return f"<span>{escape(text)}</span>" if "<" in text or "&" in text else text


def soft(text: str) -> QLabel:
    """A quiet explanatory line."""
    label = Wrapped(text)
    label.setProperty("soft", True)
    return label


def button(text: str, action: Callable[[], Any], main: bool = False, tip: str = "") -> QPushButton:
    """A push button; main marks the one main action of a station."""
    made = QPushButton(text)
    made.setProperty("main", main)
    made.setToolTip(tip)
    made.clicked.connect(lambda: action())
    return made


class Names(QListWidget):
    """A short list of things by name, one of them chosen; long names are shortened, never scrolled sideways."""

    chosen = Signal(int)
    ticked = Signal(int, bool)  # in a list whose names can be ticked

    def __init__(self, name: str, rows: int, ticked: bool = False) -> None:
        super().__init__()
        if ticked:
            self.itemChanged.connect(
                lambda item: self.ticked.emit(self.row(item), item.checkState() == Qt.CheckState.Checked)
            )
        self.setAccessibleName(name)
        self.setFixedHeight(22 * rows + 4)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setTextElideMode(Qt.TextElideMode.ElideRight)
        self.currentRowChanged.connect(self.chosen)

    def show_names(self, names: Sequence[str], row: int, ticks: Sequence[bool] = ()) -> None:
        """Show names, which is chosen and which are ticked, without sending that back."""
        with QSignalBlocker(self):
            if self.count() != len(names):
                self.clear()
                self.addItems(names)
            for index, name in enumerate(names):
                item = self.item(index)
                item.setText(name)
                item.setToolTip(plain_tip(name))
                if ticks:
                    item.setCheckState(Qt.CheckState.Checked if ticks[index] else Qt.CheckState.Unchecked)
            self.setCurrentRow(row)


def rule() -> QFrame:
    """A hairline."""
    line = QFrame()
    line.setProperty("line", True)
    line.setFixedHeight(1)
    return line


class Choice(QComboBox):
    """A list of named values."""

    chosen = Signal(object)

    def __init__(self, items: Sequence[tuple[str, Any]], name: str) -> None:
        super().__init__()
        self.setAccessibleName(name)
        self.setAccessibleDescription(name)  # on Linux a reader takes the value shown for a list's name
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setMinimumContentsLength(6)
        self._values: list[Any] = []
        self.set_items(items)
        self.activated.connect(lambda index: self.chosen.emit(self._values[index]))

    @property
    def value(self) -> Any:
        """The value shown."""
        return self._values[self.currentIndex()] if self.currentIndex() >= 0 else None

    def pick(self, value: Any) -> None:
        """Choose a value as a click in the list does."""
        self.setCurrentIndex(self._values.index(value))
        self.activated.emit(self.currentIndex())

    def set_items(self, items: Sequence[tuple[str, Any]]) -> None:
        """Replace the list, quietly."""
        # The values are kept here: handing Python values to the list costs a tenth of a second at the start.
        self._values = [value for _, value in items]
        with QSignalBlocker(self):
            self.clear()
            self.addItems([text for text, _ in items])

    def show_value(self, value: Any) -> None:
        """Show a value without sending it back."""
        with QSignalBlocker(self):
            self.setCurrentIndex(self._values.index(value) if value in self._values else -1)


class Tick(QCheckBox):
    """A box to tick."""

    chosen = Signal(bool)

    def __init__(self, text: str) -> None:
        super().__init__(text)
        self.toggled.connect(self.chosen)  # a reader of the screen toggles without a click

    def show_value(self, value: bool) -> None:
        """Show a value without sending it back."""
        with QSignalBlocker(self):
            self.setChecked(value)


class Line(QLineEdit):
    """A line that keeps Ctrl+Z to itself only while something typed in it is not taken yet."""

    def event(self, event: QEvent) -> bool:
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.ShortcutOverride and not self.isModified():
            undo, redo = QKeySequence.StandardKey.Undo, QKeySequence.StandardKey.Redo
            if event.matches(undo) or event.matches(redo):
                event.ignore()
                return False
        return super().event(event)


class Entry(QWidget):
    """A typed value with its error in place: a wrong one gives a sentence and changes nothing."""

    chosen = Signal(object)

    def __init__(self, name: str, parse: Callable[[str], Any], show: Callable[[Any], str]) -> None:
        super().__init__()
        self._parse, self._show = parse, show
        self._value: Any = None
        self.line = Line()
        self.line.setAccessibleName(name)
        self._error = Wrapped()
        self._error.setProperty("error", True)
        self._error.hide()
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(2)
        layout.addWidget(self.line)
        layout.addWidget(self._error)
        self.line.editingFinished.connect(self._finished)

    def show_value(self, value: Any) -> None:
        """Show a value; what is being typed is left alone."""
        self._value = value
        if not (self.line.hasFocus() and self.line.isModified()):
            self.line.setText(self._show(value))
            self.line.setCursorPosition(0)
            self._error.hide()

    def type_in(self, text: str) -> str:
        """Take a text as if it had been typed here; the sentence of refusal, or nothing."""
        self.line.setText(text)
        self.line.setModified(True)
        self._finished()
        return self.error

    def refuse(self, sentence: str) -> None:
        """Say in place why a value was not taken."""
        self._error.setText(sentence)
        self._error.show()

    @property
    def error(self) -> str:
        """The sentence shown in place, or nothing."""
        return "" if self._error.isHidden() else self._error.text()

    def _finished(self) -> None:
        if not self.line.isModified():
            return
        self.line.setModified(False)
        try:
            value = self._parse(self.line.text())
        except PlanError as error:
            self.refuse(str(error))
            return
        self._error.hide()
        before = self._value
        self.chosen.emit(value)
        if self._value == before and not self.error:
            self.line.setText(self._show(self._value))


class Sentence(Entry):
    """A few words of the artist's own; in a form it has the full width, under its label."""

    def __init__(self, name: str) -> None:
        super().__init__(name, str.strip, str)


class Writing(QPlainTextEdit):
    """A few words over as many lines as they need; Enter, or leaving it, takes them over."""

    chosen = Signal(str)

    def __init__(self, name: str, placeholder: str) -> None:
        super().__init__()
        self._value = ""
        self.setAccessibleName(name)
        self.setPlaceholderText(placeholder)
        self.setTabChangesFocus(True)
        self.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.textChanged.connect(self._fit)
        self._fit()

    def show_value(self, value: str) -> None:
        """Show a value without sending it back; what is being typed is left alone."""
        self._value = value
        if not (self.hasFocus() and self.document().isModified()) and self.toPlainText() != value:
            with QSignalBlocker(self):
                self.setPlainText(value)
            self.document().setModified(False)
            self._fit()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self._finish()
        else:
            super().keyPressEvent(event)

    def focusOutEvent(self, event: QFocusEvent) -> None:
        super().focusOutEvent(event)
        self._finish()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._fit()

    def _finish(self) -> None:
        words = " ".join(self.toPlainText().split())
        if self.document().isModified():
            self.document().setModified(False)
            if words != self._value:
                self.chosen.emit(words)

    def _fit(self) -> None:
        """As high as its words; a document of lines counts its height in lines."""
        lines = max(1, round(self.document().size().height()))
        around = self.height() - self.viewport().height() if self.isVisible() else 10
        self.setFixedHeight(lines * self.fontMetrics().lineSpacing() + 8 + max(around, 10))


class LengthEntry(Entry):
    """A length in mm or inches."""

    def __init__(self, name: str, unit: Callable[[], Unit]) -> None:
        super().__init__(
            name, lambda text: parse_length_mm(text, unit()), lambda value: format_length(value, unit(), 1)
        )


def number_entry(name: str, unit: str) -> Entry:
    """A plain number with its unit shown behind it."""

    def parse(text: str) -> float:
        try:
            number = float(text.replace(unit, "").replace(",", ".").strip())
        except ValueError as error:
            raise PlanError(f"“{text.strip()[:20]}” is not a number. Type for instance 40.") from error
        if not isfinite(number):
            raise PlanError(f"“{text.strip()[:20]}” is not a number to work with. Type for instance 40.")
        return number

    return Entry(name, parse, lambda value: f"{value:g} {unit}".strip())


class Slide(QWidget):
    """An amount on a slider, with words for its two ends: sent while it is dragged, and once more as settled."""

    moved = Signal(float)
    settled = Signal(float)

    def __init__(self, name: str, low: float, high: float, words: tuple[str, str]) -> None:
        super().__init__()
        self.bar = QSlider(Qt.Orientation.Horizontal)
        self.bar.setAccessibleName(name)
        self.bar.setRange(round(low), round(high))
        self.bar.setPageStep(max(1, round((high - low) / 10)))
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addWidget(self.bar)
        ends = QHBoxLayout()
        for number, text in enumerate(words):
            if number:
                ends.addStretch(1)
            word = plain_label(text)
            word.setProperty("soft", True)
            ends.addWidget(word)
        layout.addLayout(ends)
        self.bar.valueChanged.connect(self._changed)
        self.bar.sliderReleased.connect(lambda: self.settled.emit(float(self.bar.value())))

    def show_value(self, value: float) -> None:
        """Show a value without sending it back; one that is being dragged is left alone."""
        if not self.bar.isSliderDown():
            with QSignalBlocker(self.bar):
                self.bar.setValue(round(value))

    def _changed(self, value: int) -> None:
        # By keys, by the wheel and by a click beside the handle each step is settled.
        (self.moved if self.bar.isSliderDown() else self.settled).emit(float(value))


def _side_by_side(left: QWidget, right: QWidget) -> QWidget:
    pair = QWidget()
    layout = QHBoxLayout(pair)
    layout.setContentsMargins(0, 0, 0, 0)
    layout.addWidget(left, 1)
    layout.addWidget(right, 1)
    return pair


def form(*rows: tuple[str | QWidget, QWidget] | QWidget) -> QWidget:
    """Controls under each other, with their words before them."""
    page = QWidget()
    layout = QFormLayout(page)
    layout.setContentsMargins(4, 4, 2, 8)
    layout.setHorizontalSpacing(8)
    layout.setVerticalSpacing(6)
    layout.setFieldGrowthPolicy(QFormLayout.FieldGrowthPolicy.AllNonFixedFieldsGrow)
    layout.setLabelAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
    for row in rows:
        if not isinstance(row, tuple):
            layout.addRow(row)
            continue
        first, control = row
        if isinstance(first, QWidget):
            layout.addRow(_side_by_side(first, control))
            continue
        label = plain_label(first)
        label.setBuddy(control)
        if isinstance(control, Sentence | Slide):
            layout.addRow(label)
            layout.addRow(control)
        else:
            layout.addRow(label, control)
    return page
