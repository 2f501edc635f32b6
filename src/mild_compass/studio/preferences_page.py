"""The preferences dialog."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QApplication, QDialog, QDialogButtonBox, QVBoxLayout

from mild_compass.studio import preferences as store
from mild_compass.studio.theme.apply import apply_theme
from mild_compass.studio.widgets import Choice, form, soft

if TYPE_CHECKING:
    from mild_compass.studio.window import Window


def ask_preferences(window: Window) -> None:
    """Show the dialog and take over what was chosen."""
    dialog = QDialog(window)
    dialog.setWindowTitle("Preferences")
    present = window.preferences
    unit = Choice([("millimetres", "mm"), ("inches, to 1/16", "in")], "Unit of length")
    chrome = Choice([("as the desktop", "as the desktop"), ("light", "light"), ("dark", "dark")], "Window")
    surround = Choice([("dark grey (L* 20)", 20), ("middle grey (L* 50)", 50), ("light grey (L* 80)", 80)], "Surround")
    for control, value in ((unit, present.unit), (chrome, present.chrome), (surround, present.surround)):
        control.show_value(value)
    buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Ok | QDialogButtonBox.StandardButton.Cancel)
    buttons.accepted.connect(dialog.accept)
    buttons.rejected.connect(dialog.reject)
    layout = QVBoxLayout(dialog)
    layout.addWidget(form(("Lengths in", unit), ("Window", chrome), ("Round the board", surround)))
    layout.addWidget(
        soft("A middle grey round the picture lets tones be judged best. Light or dark shows fully at the next start.")
    )
    layout.addWidget(buttons)
    if dialog.exec() != QDialog.DialogCode.Accepted:
        return
    chosen = replace(present, unit=unit.value, chrome=chrome.value, surround=surround.value)
    store.save(chosen)
    application = QApplication.instance()
    assert isinstance(application, QApplication)
    apply_theme(application, chosen.chrome)
    window.use_preferences(chosen)
