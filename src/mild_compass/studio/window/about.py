"""What the application is: its version, the libraries' versions, and the last messages to be handed on."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import QDialog, QDialogButtonBox, QVBoxLayout, QWidget

from mild_compass.studio.record import last_messages, versions
from mild_compass.studio.widgets import button, plain_label, soft

PURPOSE = (
    "Plans a composition before the first mark and carries it to the sheet, in millimetres. "
    "Nothing is ever sent anywhere: what is written down about faults stays on this machine until you hand it on."
)


def about_dialog(parent: QWidget) -> QDialog:
    """The page, ready to be shown."""
    dialog = QDialog(parent)
    dialog.setWindowTitle("About Mild Compass")
    dialog.setMinimumWidth(380)
    layout = QVBoxLayout(dialog)
    told = plain_label(versions())
    told.setTextFormat(Qt.TextFormat.PlainText)
    told.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
    layout.addWidget(told)
    layout.addWidget(soft(PURPOSE))
    copied = soft("")

    def copy() -> None:
        QGuiApplication.clipboard().setText(f"{versions()}\n\n{last_messages()}\n")
        copied.setText("Copied. Paste them into a message to whoever helps you.")

    layout.addWidget(button("Copy the last messages", copy))
    layout.addWidget(copied)
    buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Close)
    buttons.rejected.connect(dialog.reject)
    layout.addWidget(buttons)
    return dialog
