"""One open plan: its history, its file, its working folder. Views send edits here and hear of every change."""

from __future__ import annotations

from datetime import datetime
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, QTimer, Signal

from mild_compass.plan.edits.references import add_reference
from mild_compass.plan.errors import PlanError
from mild_compass.plan.history import History
from mild_compass.plan.model import Plan, Reference
from mild_compass.plan.workspace import Claim, Workspace

if TYPE_CHECKING:
    from pathlib import Path

    from mild_compass.plan.edits.base import Edit
    from mild_compass.studio.work import Work

JOURNAL_MS = 400


class Session(QObject):
    """Begin / update / commit / cancel of edits, undo and redo, save and open.

    ``changed`` is sent whenever the visible plan changes, also for the previews of a gesture; ``said`` carries
    sentences for the artist.
    """

    changed = Signal()
    saved_changed = Signal()
    said = Signal(str)

    def __init__(self, root: Path, work: Work, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._root, self._work = root, work
        self.workspace = Workspace.fresh(root)
        self.file: Path | None = None
        self._history = History(Plan())
        self._saved = self._history.plan
        self._preview: Plan | None = None
        self._claim: Claim | None = None
        self._journal = QTimer(self, singleShot=True, interval=JOURNAL_MS)
        self._journal.timeout.connect(self._write_journal)

    @property
    def plan(self) -> Plan:
        """The plan as it is shown: with the preview of the gesture in hand."""
        return self._preview or self._history.plan

    @property
    def in_gesture(self) -> bool:
        """Whether something is being dragged."""
        return self._preview is not None

    @property
    def unsaved(self) -> bool:
        """Whether the plan differs from its file."""
        return self._history.plan != self._saved

    @property
    def undo_label(self) -> str | None:
        """What undo would take back."""
        return self._history.undo_label

    @property
    def redo_label(self) -> str | None:
        """What redo would do again."""
        return self._history.redo_label

    def apply(self, edit: Edit) -> bool:
        """Make an edit as one undo step; a PlanError becomes a sentence and changes nothing."""
        self._preview = None
        try:
            done = self._history.apply(edit, now())
        except PlanError as error:
            self.said.emit(str(error))
            done = False
        self._after_change()
        return done

    def preview(self, edit: Edit) -> None:
        """Show what an edit would do while the hand is still moving."""
        try:
            self._preview = edit.change(self._history.plan)
        except PlanError:
            return  # the hand is somewhere impossible: keep showing the last possible place
        self.changed.emit()

    def cancel(self) -> None:
        """Drop the gesture in hand."""
        if self._preview is not None:
            self._preview = None
            self.changed.emit()

    def undo(self) -> None:
        """Take back the last step."""
        self._preview = None
        self._history.undo()
        self._after_change()

    def redo(self) -> None:
        """Do the step again that was taken back."""
        self._preview = None
        self._history.redo()
        self._after_change()

    def store_photo(self, data: bytes) -> str:
        """Put a photo's bytes into the working folder; its SHA-256."""
        return self.workspace.photos.add(data)

    def add_photo(self, name: str, digest: str, size: tuple[int, int], focal_35mm: float = 0.0) -> bool:
        """Add a stored photo to the plan."""
        taken = {reference.id for reference in self.plan.references}
        number = next(k for k in range(1, len(taken) + 2) if f"photo-{k}" not in taken)
        return self.apply(add_reference(Reference(f"photo-{number}", name, digest, *size, focal_35mm=focal_35mm)))

    def start_with(self, plan: Plan, workspace: Workspace, file: Path | None, saved: bool = True) -> None:
        """Take up another plan; the old working folder is let go."""
        if workspace is not self.workspace:
            self.workspace.close()
        self.workspace, self.file = workspace, file
        self._history, self._preview = History(plan), None
        self._saved = plan if saved else Plan(name="\0")
        self._claim_file()
        self._journal.stop()
        if not saved:
            self._journal.start()
        self.saved_changed.emit()
        self.changed.emit()

    def new(self) -> None:
        """Take up an empty plan."""
        self.start_with(Plan(), Workspace.fresh(self._root), None)

    def open(self, path: Path) -> None:
        """Take up a plan file; a PlanError leaves everything as it was."""
        from mild_compass.plan import archive

        workspace = Workspace.fresh(self._root)
        try:
            plan = archive.read(path, workspace.photos)
        except PlanError:
            workspace.close()
            raise
        self.start_with(plan, workspace, path)

    def save(self, path: Path, preview_png: bytes | None) -> None:
        """Write the plan's file; a PlanError leaves the old file whole."""
        from mild_compass.plan import archive

        plan = self._history.plan
        archive.write(path, plan, self.workspace.photos, preview_png)
        moved = path != self.file
        self.file, self._saved = path, plan
        if moved:
            self._claim_file()
        self._forget_journal()
        self.saved_changed.emit()

    def close(self) -> None:
        """End the session; the working folder goes."""
        self._journal.stop()
        if self._claim is not None:
            self._claim.release()
            self._claim = None
        self.workspace.close()

    def _claim_file(self) -> None:
        """Mark the plan's file as open here, and say so when it is open elsewhere too."""
        if self._claim is not None:
            self._claim.release()
            self._claim = None
        if self.file is not None:
            self._claim = Claim(self._root, self.file)
            if not self._claim.alone:
                self.said.emit(
                    f"{self.file.name} is open in another window too. Saving here would replace what is saved there; "
                    "close one of them, or save this one under another name."
                )

    def _after_change(self) -> None:
        if self.unsaved:
            self._journal.start()
        else:
            self._forget_journal()
        self.saved_changed.emit()
        self.changed.emit()

    def _forget_journal(self) -> None:
        self._journal.stop()
        self._work.drop("journal")
        self.workspace.forget_journal()

    def _write_journal(self) -> None:
        """Keep a safety copy, off the interface's thread: the disk may be slow."""
        workspace = self.workspace
        self._work.ask(
            "journal",
            workspace.keep,
            self._history.plan,
            self.file,
            # A plan saved in the meantime needs no safety copy any more.
            then=lambda _: None if self.unsaved else workspace.forget_journal(),
            otherwise=lambda error: self.said.emit(f"The safety copy could not be written: {error}"),
        )


def now() -> str:
    """The time as the logbook writes it."""
    return datetime.now().astimezone().isoformat(timespec="seconds")
