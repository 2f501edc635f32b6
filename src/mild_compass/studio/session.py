"""One open plan: its history, its file, its working folder. Views send edits here and hear of every change."""

from __future__ import annotations

import logging
from dataclasses import replace
from itertools import count
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, QTimer, Signal

from mild_compass.craft.memo import STORE
from mild_compass.plan.edits.references import add_reference
from mild_compass.plan.errors import PlanError
from mild_compass.plan.history import History
from mild_compass.plan.identity import with_id
from mild_compass.plan.model import Plan
from mild_compass.plan.times import now
from mild_compass.plan.workspace import Claim, Workspace
from mild_compass.studio.requests.heap import give_back_soon
from mild_compass.studio.requests.journal import Journal
from mild_compass.studio.requests.owner import Owner

if TYPE_CHECKING:
    from collections.abc import Callable, Sequence
    from pathlib import Path

    from mild_compass.plan.edits.base import Edit
    from mild_compass.plan.pictures import Reference

log = logging.getLogger(__name__)
PATIENCE_S = 5.0
WARM_AFTER_MS = 1000  # once the first window stands; before that nobody has drawn anything
NEVER_SAVED = Plan(name="\0")


class Session(QObject):
    """Begin / update / commit / cancel of edits, undo and redo; which file and which working folder belong to the plan.

    ``changed`` is sent whenever the visible plan changes, also for the previews of a gesture; ``leaving`` before
    another plan is taken up, or asked for, so that what goes on can write itself down; ``replaced`` when it has been;
    ``photos_back`` when photos that had gone are there again; ``said`` carries sentences for the artist.
    """

    changed = Signal()
    leaving = Signal()
    replaced = Signal()
    photos_back = Signal()
    saved_changed = Signal()
    said = Signal(str)

    def __init__(self, root: Path, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.root = root
        self.workspace = Workspace.fresh(root)
        self.file: Path | None = None
        self.journal = Journal(self)
        self.journal.failed.connect(self.said)
        QTimer.singleShot(WARM_AFTER_MS, self.journal, self.journal.warm)
        self._history = History(with_id(Plan()))
        self._saved = self._history.plan
        self._preview: Plan | None = None
        self._claim: Claim | None = None

    @property
    def plan(self) -> Plan:
        """The plan as it is shown: with the preview of the gesture in hand."""
        return self._preview or self._history.plan

    @property
    def committed(self) -> Plan:
        """The plan without the gesture in hand: what is saved."""
        return self._history.plan

    @property
    def in_gesture(self) -> bool:
        """Whether something is being dragged."""
        return self._preview is not None

    @property
    def unsaved(self) -> bool:
        """Whether the plan differs from its file; to have looked at a station for a while is no difference."""
        plan = self._history.plan
        return plan is not self._saved and replace(plan, spent=self._saved.spent) != self._saved

    @property
    def undo_label(self) -> str | None:
        """What undo would take back."""
        return self._history.undo_label

    @property
    def redo_label(self) -> str | None:
        """What redo would do again."""
        return self._history.redo_label

    def owner(self) -> Owner:
        """What is in hand now, as requests carry it."""
        study = self._history.plan.study
        return Owner(self.workspace, study.id if study else "", (study.ground or "blank sheet") if study else "")

    def apply(self, *edits: Edit) -> bool:
        """Make edits, each as one undo step; a PlanError becomes a sentence, changes nothing and ends the row."""
        self._preview = None
        done = True
        try:
            for edit in edits:
                done = self._history.apply(edit, now()) and done
        except PlanError as error:
            self.said.emit(str(error))
            done = False
        self._after_change()
        return done

    def record(self, change: Callable[[Plan], Plan]) -> bool:
        """Write down what has happened, as a time or a step that is done: it is no step of undo and outlives it."""
        try:
            self._history.record(change)
        except PlanError as error:
            self.said.emit(str(error))
            return False
        if self._preview is not None:  # the hand goes on with what it holds
            self._preview = change(self._preview)
        self._after_change()
        return True

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

    def steps_back(self, most: int) -> tuple[tuple[int, str], ...]:
        """The last steps, the latest first: how many steps back each is, and its label."""
        return self._history.steps(most)

    def jump_back(self, steps: int) -> None:
        """Take back so many steps at once; redo brings them back one by one."""
        self._preview = None
        self._history.jump_back(steps)
        self._after_change()

    def redo(self) -> None:
        """Do the step again that was taken back."""
        self._preview = None
        self._history.redo()
        self._after_change()

    def add_photos(self, photos: Sequence[Reference]) -> bool:
        """Add photos whose bytes are in the working folder, each as one undo step and with an id of its own."""
        taken = {reference.id for reference in self._history.plan.references}
        free = (f"photo-{k}" for k in count(1) if f"photo-{k}" not in taken)
        return self.apply(*(add_reference(replace(photo, id=new)) for photo, new in zip(photos, free, strict=False)))

    def have_back(self, names: Sequence[str]) -> None:
        """Photos of the plan that had gone are there again: what could not be made of them can be now."""
        self.said.emit(f"{', '.join(names)} {'is' if len(names) == 1 else 'are'} back.")
        self.photos_back.emit()
        self.changed.emit()

    def start_with(self, plan: Plan, workspace: Workspace, file: Path | None, saved: bool = True) -> None:
        """Take up another plan; the old working folder is let go."""
        plan = with_id(plan)
        self.leaving.emit()
        if workspace is not self.workspace:
            self.journal.let_go(self.workspace)
        self.workspace, self.file = workspace, file
        self._history, self._preview = History(plan), None
        STORE.forget()  # what was made of the plan before
        give_back_soon()
        self._saved = plan if saved else NEVER_SAVED
        self._claim_file()
        if not saved:
            self.journal.keep(workspace, plan, file)
        self.replaced.emit()
        self.saved_changed.emit()
        self.changed.emit()

    def new(self) -> None:
        """Take up an empty plan."""
        self.start_with(Plan(), Workspace.fresh(self.root), None)

    def saved(self, path: Path, plan: Plan) -> None:
        """A plan of this session has been written to a file; what was changed since stays in the journal."""
        moved = path != self.file
        if plan.id != self._history.plan.id:  # it is a copy now
            self._history.record(lambda each: replace(each, id=plan.id, copy_of=plan.copy_of))
        self.file, self._saved = path, plan
        if moved:
            self._claim_file()
        self._keep_safe()
        self.saved_changed.emit()

    def close(self, keep: bool = False) -> None:
        """End the session; the working folder goes, or stays to be offered at the next start."""
        STORE.forget()
        if self._claim is not None:
            self._claim.release()
            self._claim = None
        if keep:
            self.journal.keep(self.workspace, self.committed, self.file)
        else:
            self.journal.let_go(self.workspace)
        if not self.journal.close(PATIENCE_S):
            log.warning("the journal was still being written at the end")
        if keep:
            self.workspace.leave()

    def _claim_file(self) -> None:
        """Mark the plan's file as open here, and say so when it is open elsewhere too."""
        if self._claim is not None:
            self._claim.release()
            self._claim = None
        if self.file is not None:
            self._claim = Claim(self.root, self.file)
            if not self._claim.alone:
                self.said.emit(
                    f"{self.file.name} is open in another window too. Saving here would replace what is saved there; "
                    "close one of them, or save this one under another name."
                )

    def _after_change(self) -> None:
        self._keep_safe()
        self.saved_changed.emit()
        self.changed.emit()

    def _keep_safe(self) -> None:
        """Have the journal hold what the file does not."""
        if self.unsaved:
            self.journal.keep(self.workspace, self._history.plan, self.file)
        else:
            self.journal.forget(self.workspace)
