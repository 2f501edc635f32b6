"""Plans in and out: new, open, save; asking before anything is lost."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from PySide6.QtCore import QObject, QTimer

from mild_compass.plan.edits.studies import rename_plan
from mild_compass.plan.errors import ChangedElsewhere, PlanError
from mild_compass.plan.identity import copied
from mild_compass.plan.texts import clean_name
from mild_compass.plan.workspace import Workspace
from mild_compass.studio.files.dialogs import PLAN_KIND, SUFFIX, Dialogs, is_unnamed

if TYPE_CHECKING:
    from collections.abc import Callable
    from pathlib import Path

    from mild_compass.plan.archive import FileMark
    from mild_compass.plan.model import Plan
    from mild_compass.plan.photos import PhotoFolder
    from mild_compass.studio.derived.computed import Computed
    from mild_compass.studio.requests.jobs import CancelToken, Jobs
    from mild_compass.studio.session import Session

PATIENCE_MS = 5000


def read_plan(path: Path, root: Path, stop: CancelToken) -> tuple[Plan, Workspace, FileMark | None]:
    """A plan file's plan, in a working folder of its own, and the file's mark; a PlanError leaves no folder behind."""
    from mild_compass.plan import archive

    workspace = Workspace.fresh(root)
    try:
        return archive.read(path, workspace.photos, stop.check), workspace, archive.mark_of(path)
    except PlanError:
        workspace.close()
        raise


Marks = dict["Path", "FileMark | None"]


def write_plan(
    path: Path, plan: Plan, photos: PhotoFolder, picture: Any, marks: Marks, own: bool, stop: CancelToken
) -> Path:
    """Write a plan with its photos and a small picture, and remember the mark of the file written.

    The plan's ``own`` file must still be the one that bears the mark remembered of it.

    Raises:
        ChangedElsewhere: it is another one now.
        PlanError: it cannot be written; the old file is whole.
    """
    from mild_compass.output.raster import preview_png
    from mild_compass.plan import archive

    known = marks.get(path)
    if own and known is not None and path.exists() and archive.mark_of(path) != known:
        raise ChangedElsewhere(f"{path.name} has been changed elsewhere. Nothing was written yet.")
    study = plan.study
    preview = preview_png(picture, study.frame, plan.paper) if study and picture else None
    archive.write(path, plan, photos, preview, stop.check)
    marks[path] = archive.mark_of(path)
    return path


class PlanFiles(QObject):
    """Saving and opening are jobs; whatever else is asked for meanwhile, each is reported once."""

    def __init__(self, dialogs: Dialogs, session: Session, computed: Computed, jobs: Jobs, parent: QObject) -> None:
        super().__init__(parent)
        self._dialogs, self._session, self._computed, self._jobs = dialogs, session, computed, jobs
        self._being_saved: Plan | None = None
        self._marks: Marks = {}  # of files as they were opened or saved here
        self._after_save: list[Callable[[], None]] = []
        self.patience_ms = PATIENCE_MS

    def new(self) -> None:
        """Start an empty plan, after asking about the old one."""
        self.leave_then(self._session.new)

    def choose(self) -> None:
        """Ask for a plan and open it."""
        self.leave_then(self._choose)

    def _choose(self) -> None:
        path = self._dialogs.plan()
        if path is not None:
            self.open(path)

    def open(self, path: Path) -> None:
        """Open a plan; what is wrong with it is said in place, and the present plan stays."""
        path = path.absolute()  # a relative path would mean another file after a start elsewhere
        before = self._session.committed
        self._jobs.do(
            f"Opening {path.name}",
            read_plan,
            *(path, self._session.root),
            done=lambda found: self._take(path, before, *found),
            failed=lambda error: self._session.said.emit(f"{error} The plan on the board is still here."),
            touches=path,
            stoppable=True,
        )

    def _take(self, path: Path, before: Plan, plan: Plan, workspace: Workspace, mark: FileMark | None) -> None:
        """Take up a plan that has been read; where the one on the board was worked on meanwhile, ask first."""
        from mild_compass.plan.archive import lost_words

        session = self._session

        def take_up() -> None:
            self._marks[path] = mark
            session.start_with(plan, workspace, path)
            lost = lost_words(plan, workspace.photos)
            if lost:
                session.said.emit(lost)

        if session.committed is before:
            take_up()
        else:
            self.leave_then(take_up, stay=lambda: session.journal.let_go(workspace))

    def save(self, then: Callable[[], None] | None = None) -> bool:
        """Save to the plan's file, asking for one the first time; go on with something when it is saved.

        False when no file was named.
        """
        if self._session.file is None:
            return self.save_as(then)
        self.write(self._session.file, then)
        return True

    def save_as(self, then: Callable[[], None] | None = None) -> bool:
        """Ask for a file and save to it; False when none was named."""
        path = self._dialogs.target("Save the plan", self._session.plan.name, SUFFIX, PLAN_KIND)
        if path is None:
            return False
        self.write(path, then)
        return True

    def write(self, path: Path, then: Callable[[], None] | None = None, replacing: bool = False) -> None:
        """Save to a file, in the background; one that was written elsewhere meanwhile only when told to replace it."""
        session, path = self._session, path.absolute()
        if is_unnamed(session.plan):
            session.apply(rename_plan(clean_name(path.stem)))
        state, workspace, looks = session.committed, session.workspace, self._computed.looks
        own = path == session.file and not replacing
        original = session.file.name if session.file is not None and path != session.file else ""
        plan = copied(state) if original else state
        self._being_saved = state
        if then is not None:
            self._after_save.append(then)
        self._jobs.do(
            f"Saving {path.name}",
            write_plan,
            *(path, plan, workspace.photos, looks.picture if looks else None, self._marks, own),
            done=lambda _: self._saved(path, plan, state, workspace, original),
            failed=lambda error: self._refused(path, state, error),
            called_off=lambda: self._not_saved(state, f"Saving {path.name} was called off. The old file is kept."),
            touches=path,
            stoppable=True,
        )

    def _saved(self, path: Path, plan: Plan, state: Plan, workspace: Workspace, original: str) -> None:
        if workspace is self._session.workspace:
            self._session.saved(path, plan)
        copy = f" You go on with this copy; {original} stays as it was saved last." if original else ""
        self._session.said.emit(f"Saved as {path.name}.{copy}")
        if self._being_saved is state:
            self._being_saved, todo = None, self._after_save
            self._after_save = []
            for each in todo:
                self.leave_then(each)

    def _refused(self, path: Path, plan: Plan, error: PlanError) -> None:
        after = self._after_save[-1] if self._after_save else None
        self._not_saved(plan, str(error))
        if not isinstance(error, ChangedElsewhere):
            return
        answer = self._dialogs.changed_elsewhere(path.name)
        if answer == "mine":
            self.write(path, after, replacing=True)
        elif answer == "save as":
            self.save_as(after)
        elif answer == "theirs":
            self.open(path)  # what is here stays safe until theirs has been read

    def _not_saved(self, plan: Plan, sentence: str) -> None:
        self._session.said.emit(sentence)
        if self._being_saved is plan:
            self._being_saved = None
            self._after_save = []

    def leave_then(
        self, go_on: Callable[[], None], late: Callable[[], None] | None = None, stay: Callable[[], None] | None = None
    ) -> None:
        """Go on once the present plan may be put away: nothing unsaved, saved now, or given up on purpose.

        A save that is on its way is waited for, with ``late`` no longer than five seconds; ``stay`` is called when the
        artist stays.
        """
        self._session.leaving.emit()
        if not self._session.unsaved:
            go_on()
            return
        on_its_way = self._being_saved is self._session.committed
        answer = True if on_its_way else self._dialogs.keep_changes(self._session.plan.name)
        if answer is False:
            go_on()
            return
        if on_its_way:
            self._after_save.append(go_on)
        elif not (answer and self.save(go_on)):
            if stay is not None:
                stay()
            return
        if late is not None:
            self._hurry(go_on, late)

    def _hurry(self, go_on: Callable[[], None], late: Callable[[], None]) -> None:
        """Let something else happen when the save takes too long."""
        self._session.said.emit("The plan is still being saved; closing waits for it for up to five seconds.")

        def too_late() -> None:
            if go_on in self._after_save:
                self._after_save.remove(go_on)
                late()

        QTimer.singleShot(self.patience_ms, self, too_late)
