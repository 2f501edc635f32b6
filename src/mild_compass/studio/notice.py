"""A sentence in place: what happened, what is kept, what to do."""

from __future__ import annotations

from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QFrame, QHBoxLayout, QLabel, QToolButton

SHOWN_MS = 12_000


class Notice(QFrame):
    """A strip above the margin line; goes by itself after a while, or when closed."""

    def __init__(self) -> None:
        super().__init__()
        self.setProperty("card", True)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(12, 5, 6, 5)
        self.words = QLabel()
        self.words.setWordWrap(True)
        close = QToolButton()
        close.setText("×")
        close.setProperty("flat", True)
        close.setAccessibleName("Close the notice")
        close.clicked.connect(self.hide)
        layout.addWidget(self.words, 1)
        layout.addWidget(close)
        self._away = QTimer(self, singleShot=True, interval=SHOWN_MS)
        self._away.timeout.connect(self.hide)
        self.hide()

    def say(self, sentence: str) -> None:
        """Show a sentence."""
        self.words.setText(sentence)
        self.setAccessibleName(sentence)
        self.show()
        self._away.start()
