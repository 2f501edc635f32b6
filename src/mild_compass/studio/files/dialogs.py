"""Asking for files: the native dialogs, and the folder they begin in."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Any, Literal

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFileDialog, QMessageBox

from mild_compass.plan.model import Plan

if TYPE_CHECKING:
    from PySide6.QtWidgets import QWidget

    from mild_compass.studio.settings.settings import Settings

Changed = Literal["save as", "mine", "theirs"]
SUFFIX = ".mildplan"
PLAN_KIND = "Mild Compass plans"
PHOTO_FILTER = "Photos (*.jpg *.jpeg *.png *.webp *.tif *.tiff *.heic *.heif);;All files (*)"


def file_name(name: str) -> str:
    """A plan's name as a file name."""
    return "".join(sign if sign.isalnum() or sign in " -_" else "-" for sign in name).strip() or "plan"


class Dialogs:
    """Each answer changes the folder the next one begins in."""

    def __init__(self, parent: QWidget, settings: Settings) -> None:
        self._parent, self._settings = parent, settings

    def photos(self) -> list[Path]:
        """Photos to be added."""
        names, _ = QFileDialog.getOpenFileNames(self._parent, "Add photos", self._folder, PHOTO_FILTER)
        return [self._remembered(Path(name)) for name in names]

    def drawings(self) -> list[Path]:
        """Photos of the artist's own drawing."""
        names, _ = QFileDialog.getOpenFileNames(self._parent, "Photos of your drawing", self._folder, PHOTO_FILTER)
        return [self._remembered(Path(name)) for name in names]

    def folder(self, title: str = "Add a folder of photos") -> Path | None:
        """A folder, of photos to be added if nothing else is said."""
        name = QFileDialog.getExistingDirectory(self._parent, title, self._folder)
        if not name:
            return None
        self._settings.remember(folder=name)
        return Path(name)

    def plan(self) -> Path | None:
        """A plan to be opened."""
        name, _ = QFileDialog.getOpenFileName(
            self._parent, "Open a plan", self._folder, f"{PLAN_KIND} (*{SUFFIX});;All files (*)"
        )
        return self._remembered(Path(name)) if name else None

    def target(self, title: str, name: str, suffix: str, kind: str = "") -> Path | None:
        """A file to be written; the dialog adds the suffix and asks before one is replaced."""
        dialog = QFileDialog(self._parent, title, self._folder, f"{kind or suffix[1:].upper()} (*{suffix})")
        dialog.setAcceptMode(QFileDialog.AcceptMode.AcceptSave)
        dialog.setDefaultSuffix(suffix[1:])
        dialog.selectFile(f"{file_name(name)}{suffix}")
        if dialog.exec() != QFileDialog.DialogCode.Accepted:
            return None
        return self._remembered(Path(dialog.selectedFiles()[0]))

    def keep_changes(self, name: str) -> bool | None:
        """Whether the changes of a plan are to be saved (True), given up (False), or nothing is to be done (None)."""
        box = QMessageBox(self._parent)
        box.setWindowTitle("Save the plan?")
        box.setTextFormat(Qt.TextFormat.PlainText)
        box.setText(f"“{name}” has changes that are not saved.")
        save = box.addButton("Save", QMessageBox.ButtonRole.AcceptRole)
        drop = box.addButton("Discard the changes", QMessageBox.ButtonRole.DestructiveRole)
        box.addButton("Cancel", QMessageBox.ButtonRole.RejectRole)
        box.setDefaultButton(save)
        box.exec()
        answer = box.clickedButton()
        return True if answer is save else False if answer is drop else None

    def changed_elsewhere(self, name: str) -> Changed | None:
        """What to do with a file that somebody else has written meanwhile."""
        box = QMessageBox(self._parent)
        box.setWindowTitle("Changed elsewhere")
        box.setTextFormat(Qt.TextFormat.PlainText)
        box.setText(f"{name} has been changed since you opened or saved it, perhaps in another window.")
        other = box.addButton("Save mine under another name", QMessageBox.ButtonRole.AcceptRole)
        mine = box.addButton("Replace it with mine", QMessageBox.ButtonRole.DestructiveRole)
        theirs = box.addButton("Take theirs, drop mine", QMessageBox.ButtonRole.DestructiveRole)
        box.addButton("Cancel", QMessageBox.ButtonRole.RejectRole)
        box.setDefaultButton(other)
        box.exec()
        answers: dict[Any, Changed] = {other: "save as", mine: "mine", theirs: "theirs"}
        return next((answer for each, answer in answers.items() if each is box.clickedButton()), None)

    def _remembered(self, path: Path) -> Path:
        self._settings.remember(folder=str(path.parent))
        return path

    @property
    def _folder(self) -> str:
        return self._settings.now.folder


def is_unnamed(plan: Plan) -> bool:
    """Whether the artist has not named the plan yet."""
    return plan.name == Plan().name
