"""A sentence in place: what happened, what is kept, what to do."""

from __future__ import annotations

from PySide6.QtCore import Qt, QTimer
from PySide6.QtWidgets import QFrame, QHBoxLayout, QToolButton, QWidget

from mild_compass.studio.widgets import Wrapped

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
        self.words = Wrapped()
        close = QToolButton()
        close.setText("×")
        close.setProperty("flat", True)
        close.setAccessibleName("Close the notice")
        close.clicked.connect(self.hide)
        layout.addWidget(self.words, 1, Qt.AlignmentFlag.AlignVCenter)
        layout.addWidget(close, 0, Qt.AlignmentFlag.AlignTop)
        self._away = QTimer(self, singleShot=True, interval=SHOWN_MS)
        self._away.timeout.connect(self.hide)
        self.hide()

    def say(self, sentence: str) -> None:
        """Show a sentence for a while."""
        self.words.setText(sentence)
        self.setAccessibleName(sentence)
        self.settle()
        self.show()
        self.raise_()
        self._away.start()

    def settle(self) -> None:
        """Lie at the foot of what it is laid over, as wide as that and as high as the words need."""
        width = self._over.width() - 2 * EDGE
        self.resize(width, self.height())
        self._row.activate()
        height = self.sizeHint().height()
        self.setGeometry(EDGE, self._over.height() - height - EDGE, width, height)
