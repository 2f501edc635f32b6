"""The preferences dialog."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtWidgets import QApplication, QDialog, QDialogButtonBox, QVBoxLayout, QWidget

from mild_compass.studio.theme.apply import apply_theme
from mild_compass.studio.widgets import Choice, form, soft

if TYPE_CHECKING:
    from mild_compass.studio.settings.settings import Settings


def ask_preferences(parent: QWidget, settings: Settings) -> None:
    """Show the dialog and take over what was chosen."""
    dialog = QDialog(parent)
    dialog.setWindowTitle("Preferences")
    present = settings.now
    unit = Choice([("millimetres", "mm"), ("inches, to 1/16", "in")], "Unit of length")
    page = Choice([("A4", "A4"), ("Letter", "Letter")], "The page in your printer")
    chrome = Choice([("as the desktop", "as the desktop"), ("light", "light"), ("dark", "dark")], "Window")
    surround = Choice([("dark grey (L* 20)", 20), ("middle grey (L* 50)", 50), ("light grey (L* 80)", 80)], "Surround")
    signals = [("nothing", "nothing"), ("a sound", "sound"), ("one slow flash", "flash")]
    signal = Choice(signals, "When something is dry, at the easel")
    shown = (
        (signal, present.signal),
        (unit, present.unit),
        (page, present.page),
        (chrome, present.chrome),
        (surround, present.surround),
    )
    for control, value in shown:
        control.show_value(value)
    buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Ok | QDialogButtonBox.StandardButton.Cancel)
    buttons.accepted.connect(dialog.accept)
    buttons.rejected.connect(dialog.reject)
    layout = QVBoxLayout(dialog)
    layout.addWidget(
        form(
            *(("Lengths in", unit), ("Page in the printer", page), ("Window", chrome), ("Round the board", surround)),
            ("When something is dry", signal),
        )
    )
    layout.addWidget(soft("A middle grey round the picture lets tones be judged best."))
    layout.addWidget(buttons)
    if dialog.exec() != QDialog.DialogCode.Accepted:
        return
    application = QApplication.instance()
    assert isinstance(application, QApplication)
    apply_theme(application, chrome.value)
    settings.change(unit=unit.value, page=page.value, chrome=chrome.value, surround=surround.value, signal=signal.value)
