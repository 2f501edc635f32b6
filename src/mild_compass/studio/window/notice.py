"""A sentence in place: what happened, what is kept, what to do."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import Qt, QTimer
from PySide6.QtWidgets import QFrame, QHBoxLayout, QProgressBar, QPushButton, QToolButton, QWidget

from mild_compass.studio.widgets import Wrapped, plain_label

if TYPE_CHECKING:
    from collections.abc import Callable

SHOWN_MS = 12_000
EDGE = 12


class Notice(QFrame):
    """A strip laid over the foot of the board, so that nothing moves when it comes and goes."""

    def __init__(self, over: QWidget) -> None:
        super().__init__(over)
        self._over = over
        self.setProperty("card", True)
        self._row = layout = QHBoxLayout(self)
        layout.setContentsMargins(12, 6, 6, 6)
        self.words, self._far = Wrapped(), plain_label()
        close = QToolButton()
        close.setText("×")
        close.setProperty("flat", True)
        close.setAccessibleName("Close the notice")
        close.clicked.connect(self._end)
        layout.addWidget(self.words, 1, Qt.AlignmentFlag.AlignVCenter)
        layout.addWidget(close, 0, Qt.AlignmentFlag.AlignTop)
        self._bar = QProgressBar()
        self._bar.setTextVisible(False)
        self._bar.setFixedSize(180, 8)
        self._stop = QPushButton("Call it off")
        self._stop.setProperty("small", True)
        self._stop.clicked.connect(lambda: self._stop_now())
        self._stop_now: Callable[[], object] = self.hide
        for each in (self._stop, self._bar, self._far):
            each.hide()
            layout.insertWidget(1, each, 0, Qt.AlignmentFlag.AlignVCenter)
        self._away = QTimer(self, singleShot=True, interval=SHOWN_MS)
        self._away.timeout.connect(self._end)
        self.hide()

    def say(self, sentence: str) -> None:
        """Show a sentence for a while."""
        self.words.setText(sentence)
        self.setAccessibleName(sentence)
        self.settle()
        self.show()
        self.raise_()
        self._away.start()

    def show_progress(
        self, progress: tuple[int, int] | None, words: str, call_off: Callable[[], object] | None
    ) -> None:
        """How far something long has come (0 of 0: nobody knows), with a way out where there is one.

        None puts it away again.
        """
        for each in (self._bar, self._far):
            each.setVisible(progress is not None)
        self._stop.setVisible(progress is not None and call_off is not None)
        if progress is None:
            if not self._away.isActive():
                self.hide()
            return
        done, total = progress
        self._bar.setRange(0, total)
        self._bar.setValue(done)
        self._stop_now = call_off or self.hide
        self._far.setText(f"{words}: {done} of {total}" if total else f"{words} …")
        if not self._away.isActive():
            self.words.setText("")
        self.settle()
        self.show()
        self.raise_()

    def _end(self) -> None:
        """Put the sentence away; what is under way still shows."""
        self._away.stop()
        self.words.setText("")
        self.setVisible(self._bar.isVisibleTo(self))

    def settle(self) -> None:
        """Lie at the foot of what it is laid over, as wide as that and as high as the words need."""
        width = self._over.width() - 2 * EDGE
        self.resize(width, self.height())
        self._row.activate()
        height = self.sizeHint().height()
        self.setGeometry(EDGE, self._over.height() - height - EDGE, width, height)
