"""All keys on one page, made from the table of commands."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QDialog, QDialogButtonBox, QGridLayout, QLabel, QVBoxLayout, QWidget

from mild_compass.studio.commands.table import BOARD_KEYS, COMMANDS, HOLDS
from mild_compass.studio.widgets import plain_label


def _sentence(words: str) -> str:
    words = words.removesuffix("…")
    return words[:1].lower() + words[1:]


def all_keys() -> list[tuple[str, str]]:
    """Keys and what they do: stations in one line, then the board, then everything else."""
    digits = [each.keys for each in COMMANDS if each.name.startswith("station ")]
    rest = [(each.keys, _sentence(each.words)) for each in COMMANDS if each.keys and each.keys not in digits]
    holds = [(f"hold {key}", _sentence(words)) for _, key, _, words in HOLDS]
    return [
        (f"{digits[0]} – {digits[-1]}", "go to a station"),
        ("Tab", "change board and companion over"),
        *holds,
        *BOARD_KEYS,
        *sorted(rest, key=lambda row: ("+" in row[0] and len(row[0]) > 1, row[0].startswith("F"))),
    ]


def keys_dialog(parent: QWidget) -> QDialog:
    """The page, ready to be shown, in two columns."""
    dialog = QDialog(parent)
    dialog.setWindowTitle("Keys")
    layout = QVBoxLayout(dialog)
    grid = QGridLayout()
    grid.setHorizontalSpacing(20)
    grid.setVerticalSpacing(5)
    rows = all_keys()
    half = (len(rows) + 1) // 2
    for index, (keys, words) in enumerate(rows):
        label = plain_label(keys)
        label.setProperty("head", True)
        column, row = 2 * (index // half), index % half
        grid.addWidget(label, row, column)
        grid.addWidget(plain_label(words), row, column + 1)
    for label in dialog.findChildren(QLabel):
        label.setTextFormat(Qt.TextFormat.PlainText)
    layout.addLayout(grid)
    buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Close)
    buttons.rejected.connect(dialog.reject)
    layout.addWidget(buttons)
    return dialog
