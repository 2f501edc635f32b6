"""All keys on one page (F1)."""

from __future__ import annotations

from PySide6.QtWidgets import QDialog, QDialogButtonBox, QGridLayout, QLabel, QVBoxLayout, QWidget

KEYS: tuple[tuple[str, str], ...] = (
    ("1 – 7", "go to a station"),
    ("Tab", "change board and companion over"),
    ("hold Q  W  E  R", "squint, values only, mirror, step back"),
    ("F", "show all of it"),
    ("+  −", "zoom; the wheel zooms at the pointer"),
    ("Space and drag", "move the paper"),
    ("arrows", "nudge 1 mm; with Shift 10 mm, with Ctrl 0.1 mm"),
    ("Enter", "type a value for the mark in hand"),
    ("Delete", "remove the chosen mark"),
    ("Esc", "drop what is held, end the instrument"),
    ("N", "write a note"),
    ("K", "keep this study, go on with a copy"),
    ("[  ]", "previous and next study"),
    ("F6", "go round route, bench, board, readings, margin line"),
    ("Ctrl+Z  Ctrl+Shift+Z", "undo, redo"),
    ("Ctrl+N  Ctrl+O  Ctrl+S", "new, open, save"),
    ("Ctrl+P  Ctrl+Shift+P", "print the sheet, save it as PDF"),
)


def keys_dialog(parent: QWidget) -> QDialog:
    """The page, ready to be shown."""
    dialog = QDialog(parent)
    dialog.setWindowTitle("Keys")
    layout = QVBoxLayout(dialog)
    grid = QGridLayout()
    grid.setHorizontalSpacing(24)
    grid.setVerticalSpacing(6)
    for row, (keys, words) in enumerate(KEYS):
        label = QLabel(keys)
        label.setProperty("head", True)
        grid.addWidget(label, row, 0)
        grid.addWidget(QLabel(words), row, 1)
    layout.addLayout(grid)
    buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Close)
    buttons.rejected.connect(dialog.reject)
    layout.addWidget(buttons)
    return dialog
