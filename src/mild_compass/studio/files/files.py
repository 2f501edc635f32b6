"""All that goes through a file dialog or touches the disk for the artist, gathered."""

from __future__ import annotations

from functools import cached_property
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject

from mild_compass.plan.errors import PlanError
from mild_compass.plan.workspace import Workspace
from mild_compass.studio.files.dialogs import SUFFIX, Dialogs
from mild_compass.studio.files.drawings import DrawingFiles
from mild_compass.studio.files.exports import Exports
from mild_compass.studio.files.photos import PhotoFiles
from mild_compass.studio.files.plans import PlanFiles
from mild_compass.studio.files.watched import WatchedFolder

if TYPE_CHECKING:
    from pathlib import Path

    from PySide6.QtWidgets import QWidget

    from mild_compass.studio.derived.computed import Computed
    from mild_compass.studio.files.printing import Printing
    from mild_compass.studio.memory import Memory
    from mild_compass.studio.requests.jobs import Jobs
    from mild_compass.studio.requests.superseding import LatestWins
    from mild_compass.studio.session import Session
    from mild_compass.studio.settings.settings import Settings


MOST_RECENT = 6


def take_up_demo(session: Session, memory: Memory, scene: str) -> None:
    """A demo plan in a fresh working folder, with a practice of invented weeks."""
    from mild_compass.demo import plan_of
    from mild_compass.demo.practice import invented_practice

    try:
        workspace = Workspace.fresh(session.root)
    except OSError as error:
        session.said.emit(f"The demo plan could not be begun ({error.strerror or error}). Make room, and try again.")
        return
    try:
        session.start_with(plan_of(scene, workspace.photos), workspace, None)
    except PlanError as error:
        workspace.close()
        session.said.emit(str(error))
        return
    memory.pretend(invented_practice)


class Files(QObject):
    """Photos in, plans in and out, sheets and pages out, the printer."""

    def __init__(
        self, parent: QWidget, session: Session, computed: Computed, work: LatestWins, jobs: Jobs, settings: Settings,
        memory: Memory,
    ) -> None:  # fmt: skip
        super().__init__(parent)
        self.dialogs = Dialogs(parent, settings)
        self.photos = PhotoFiles(self.dialogs, session, computed, jobs, self)
        self.drawings = DrawingFiles(self.dialogs, session, computed, work, jobs, self)
        self.plans = PlanFiles(self.dialogs, session, computed, jobs, self)
        self.exports = Exports(self.dialogs, session, computed, jobs, settings, memory)
        self.watched = WatchedFolder("watched photos", lambda: self.dialogs.folder(), session, work, self)
        self.watched.came.connect(self.photos.add)
        self.watched.lost.connect(session.said)
        self._parent, self._session, self._jobs = parent, session, jobs
        self._settings, self._memory = settings, memory
        session.saved_changed.connect(self._remember_plan)

    @cached_property
    def printing(self) -> Printing:
        """The printer; Qt's part for it is slow to load and loaded when first asked for."""
        from mild_compass.studio.files import printing

        return printing.Printing(self._parent, self.exports, self._session, self._jobs, self._settings)

    def _remember_plan(self) -> None:
        """The plan's file is the first of those opened last."""
        file = str(self._session.file) if self._session.file is not None else ""
        recent = self._settings.now.recent
        if file and recent[:1] != (file,):
            self._settings.remember(recent=(file, *(each for each in recent if each != file))[:MOST_RECENT])

    def open_demo(self, scene: str = "glasshouse") -> None:
        """Take up a demo plan, after asking about the present one."""
        self.plans.leave_then(lambda: take_up_demo(self._session, self._memory, scene))

    def plan_folder(self) -> Path | None:
        """A folder of plans, asked for."""
        return self.dialogs.folder("A folder your plans are in")

    def open_or_add(self, paths: list[Path], of_the_drawing: bool = False) -> None:
        """Open a plan, or add photos, whichever the files are; photos are of the motif, or of the drawing."""
        plans = [path for path in paths if path.suffix.lower() == SUFFIX]
        photos = [path for path in paths if path.suffix.lower() != SUFFIX]
        if plans:
            self.plans.leave_then(lambda: self.plans.open(plans[0]))
        if photos and of_the_drawing:
            self.drawings.add(photos)
        elif photos:
            self.photos.add(photos)
