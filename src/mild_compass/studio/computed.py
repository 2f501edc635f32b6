"""What follows from the plan, kept up to date: pictures, masses, points, readings' raw material.

Cheap things are computed at once and kept by the identity of their inputs; heavy things go to the workers, and
answers that come too late are dropped.
"""

from __future__ import annotations

import gc
from time import monotonic
from typing import TYPE_CHECKING, Any

from PySide6.QtCore import QObject, QTimer, Signal

from mild_compass.craft.sheet.printer import TRUE_PRINTER
from mild_compass.plan.errors import PlanError
from mild_compass.studio.looks import Looks, all_looks, colour_looks, departed_looks, masses_image
from mild_compass.studio.sheet_views import SheetViews
from mild_compass.studio.value_views import ValueViews, same

if TYPE_CHECKING:
    from collections.abc import Callable

    from PySide6.QtGui import QImage

    from mild_compass.craft.armature.report import LockReport
    from mild_compass.craft.perspective.worked import WorkedPerspective
    from mild_compass.craft.picture.load import Picture
    from mild_compass.craft.sheet_sizes.lengths import Unit
    from mild_compass.craft.values.masses import FlatMasses, Masses
    from mild_compass.craft.worked import Worked
    from mild_compass.plan.guides import Lens
    from mild_compass.plan.model import Departure, Frame, Paper, PerspectivePlan, Plan, Reference, Study, ValuePlan
    from mild_compass.studio.session import Session
    from mild_compass.studio.work import Work

MASSES_PAUSE_MS = 4
LOOKS_KEPT = 3
ROUGH_PX, ROUGH_PAUSE_MS = 130, 90
TURN_S = 0.02


def _compute_flat(*inputs: Any) -> tuple[FlatMasses, QImage]:
    from mild_compass.craft.values.masses import flat_masses

    flat = flat_masses(*inputs)
    return flat, masses_image(flat)


def _compute_masses(flat: FlatMasses, _: Picture, *inputs: Any) -> Masses:
    from mild_compass.craft.values.masses import with_outlines

    return with_outlines(flat, *inputs)


def _compute_locks(study: Study, photo: Reference, paper: Paper) -> LockReport:
    from mild_compass.craft.armature.report import lock_report

    return lock_report(study, photo, paper)


def _compute_rough_masses(picture: Picture, frame: Frame, paper: Paper, values: ValuePlan) -> QImage:
    from mild_compass.craft.values.masses import flat_masses

    return masses_image(flat_masses(picture, frame, paper, values, ROUGH_PX))


class Computed(QObject):
    """Watches a session; ``changed`` is sent when anything computed has changed."""

    changed = Signal()

    def __init__(self, session: Session, work: Work, unit: Unit = "mm", parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._session, self._work = session, work
        self.unit: Unit = unit
        self.printer = TRUE_PRINTER
        self._looks: dict[str, Looks] = {}
        self._looks_asked = ""
        self._failed: set[str] = set()
        self._departed: tuple[Picture, tuple[Any, ...], Looks] | None = None
        self._departed_asked: tuple[Picture, tuple[Any, ...]] | None = None
        self._locks: tuple[tuple[Any, ...], LockReport | None] | None = None
        self._locks_asked: tuple[Any, ...] | None = None
        self._perspective: tuple[PerspectivePlan, Reference, WorkedPerspective] | None = None
        self._masses_of: tuple[Any, ...] | None = None
        self._masses_asked: tuple[Any, ...] | None = None
        self._rough_of: tuple[Any, ...] | None = None
        self._masses_failed_of: tuple[Any, ...] | None = None
        self.masses: Masses | None = None
        self.masses_image: QImage | None = None
        self.views = ValueViews(self, work, session.said.emit)
        self.views.changed.connect(self.changed)
        self.sheet_views = SheetViews(self, work, session.said.emit)
        self.sheet_views.changed.connect(self.changed)
        self._pause = QTimer(self, singleShot=True, interval=MASSES_PAUSE_MS)
        self._pause.timeout.connect(self._ask_for_masses)
        self._last_turn = 0.0
        self._rough_pause = QTimer(self, singleShot=True, interval=ROUGH_PAUSE_MS)
        self._rough_pause.timeout.connect(self._follow_roughly)
        session.changed.connect(self.refresh)

    @property
    def plan(self) -> Plan:
        """The plan as it is shown."""
        return self._session.plan

    @property
    def in_gesture(self) -> bool:
        """Whether something is being dragged."""
        return self._session.in_gesture

    @property
    def photo_looks(self) -> Looks | None:
        """The current study's photo as it is, or None until it has been read."""
        study = self.plan.study
        return self._looks.get(self.plan.reference(study.reference).sha256) if study else None

    @property
    def looks(self) -> Looks | None:
        """The current study's picture with its planned departures, or None until the photo has been read.

        While departures are being worked in, the picture before the last of them.
        """
        looks, made = self.photo_looks, self._departed
        if looks is None or not self._changes() or made is None or made[0] is not looks.picture:
            return looks
        return made[2]

    @property
    def looks_current(self) -> bool:
        """Whether the picture has all planned departures in it."""
        looks, changes = self.photo_looks, self._changes()
        if looks is None or not changes:
            return looks is not None
        made = self._departed
        return made is not None and made[0] is looks.picture and made[1] == changes

    def _changes(self) -> tuple[Lens, tuple[Departure, ...]] | tuple[()]:
        """What is done to the photo: the straightening and the departures; empty when it is shown as taken."""
        study = self.plan.study
        if study is None:
            return ()
        lens, todo = study.perspective.lens, tuple(each for each in study.departures if each.outcome != "dropped")
        return (lens, todo) if todo or not lens.plain else ()

    @property
    def masses_current(self) -> bool:
        """Whether the masses belong to the plan as it is shown."""
        wanted = self._masses_inputs()
        return wanted is not None and self._masses_of is not None and same(self._masses_of, wanted)

    @property
    def settled(self) -> bool:
        """Whether everything has been computed."""
        failed = self._photo_failed or self._masses_failed
        ready = self.plan.study is None or (self.masses_current and self.looks_current) or failed
        return self._work.idle and not self._pause.isActive() and ready

    @property
    def _masses_failed(self) -> bool:
        return self._masses_failed_of is not None and self._masses_failed_of == self._masses_inputs()

    @property
    def _photo_failed(self) -> bool:
        study = self.plan.study
        return study is not None and self.plan.reference(study.reference).sha256 in self._failed

    def perspective(self) -> WorkedPerspective | None:
        """Points and horizon of the current study."""
        study = self.plan.study
        if study is None:
            return None
        from mild_compass.craft.perspective.worked import work_out

        photo = self.plan.reference(study.reference)
        if self._perspective is None or self._perspective[:2] != (study.perspective, photo):
            self._perspective = (study.perspective, photo, work_out(study.perspective, photo))
        return self._perspective[2]

    def worked(self) -> Worked | None:
        """The current study with everything computed; masses only when they are current."""
        from mild_compass.craft.worked import worked_study

        masses = self.masses if self.masses_current else None
        picture = self.looks.picture if self.looks and self.looks.complete else None
        return worked_study(self.plan, masses, self.unit, self.perspective(), picture, self.locks, self.printer)

    def refresh(self) -> None:
        """Look what the plan needs now and ask for what is missing."""
        self._want_looks()
        if not self._session.in_gesture:
            self._want_departed()
            self._want_locks()
        if self._session.in_gesture:
            self._pause.stop()
            self._work.drop("masses")
            self._masses_asked = None
            if not self._rough_pause.isActive():
                self._rough_pause.start(ROUGH_PAUSE_MS)
        elif not self.masses_current:
            self._pause.start()
        self.changed.emit()

    def offer_looks(self, digest: str, looks: Looks) -> None:
        """Take over looks that are there already, as when a photo has just been added."""
        if not self._looks:
            self._keep(digest, looks)

    def in_turn(self, task: Callable[[], None]) -> bool:
        """Run something that takes some milliseconds; during a drag only when nothing such has just been run.

        Such things come one at a time, so that the event loop gets round in between. False when it has to wait.
        """
        if self._session.in_gesture and monotonic() - self._last_turn < TURN_S:
            return False
        task()
        self._last_turn = monotonic()
        return True

    def forget_photos(self) -> None:
        """Drop all pictures, as when another plan is opened."""
        self._looks.clear()
        self._looks_asked = ""
        self._departed, self._departed_asked = None, None
        self._locks, self._locks_asked = None, None
        self.views.forget()
        self.sheet_views.forget()
        self._failed.clear()
        self.masses, self.masses_image, self._masses_of, self._masses_asked = None, None, None, None

    def _want_looks(self) -> None:
        study = self.plan.study
        if study is None:
            return
        photo = self.plan.reference(study.reference)
        if photo.sha256 in self._looks or photo.sha256 in self._failed or photo.sha256 == self._looks_asked:
            return
        try:
            data = self._session.workspace.photos.read(photo.sha256, photo.name)
        except PlanError as error:
            self._fail(photo.sha256, error)
            return
        self._looks_asked = photo.sha256
        self._work.ask(
            "looks",
            colour_looks,
            data,
            photo.name,
            then=lambda looks: self._take_colour(photo.sha256, looks),
            otherwise=lambda error: self._fail(photo.sha256, error),
        )

    def _want_departed(self) -> None:
        """Ask for the picture with the planned departures, when they have changed."""
        looks, changes = self.photo_looks, self._changes()
        if looks is None or not changes or not looks.complete or self.looks_current:
            return
        asked = self._departed_asked
        if asked is not None and asked[0] is looks.picture and asked[1] == changes:
            return
        self._departed_asked = (looks.picture, changes)
        lens, departures = changes
        lenders = {each.source: self.plan.reference(each.source) for each in departures if each.source}
        files = {key: (self._session.workspace.photos.file(photo.sha256), photo.name) for key, photo in lenders.items()}
        self._work.ask(
            "departed",
            departed_looks,
            looks.picture,
            lens,
            departures,
            files,
            then=lambda made: self._take_departed(looks.picture, changes, made),
            otherwise=lambda error: self._fail_departed(error),
        )

    @property
    def locks(self) -> LockReport | None:
        """How the armatures lock, and how well by chance; None while that is being worked out."""
        return self._locks[1] if self._locks is not None and self._locks[0] == self._locks_inputs() else None

    def _locks_inputs(self) -> tuple[Any, ...] | None:
        study = self.plan.study
        if study is None or not (study.structure.lines or study.structure.points):
            return None
        wishes = (study.rings, study.keep)
        return study.reference, study.frame, self.plan.paper, study.armature, study.structure, wishes

    def _want_locks(self) -> None:
        """Ask for the armatures' report when anything it depends on has changed."""
        inputs, study = self._locks_inputs(), self.plan.study
        if inputs is None or study is None or inputs in (self._locks_asked, self._locks and self._locks[0]):
            return
        self._locks_asked = inputs
        self._work.ask(
            "locks",
            _compute_locks,
            *(study, self.plan.reference(study.reference), self.plan.paper),
            then=lambda report: self._take_locks(inputs, report),
            otherwise=lambda error: self._take_locks(inputs, None, error),
        )

    def _take_locks(self, inputs: tuple[Any, ...], report: LockReport | None, error: PlanError | None = None) -> None:
        self._locks, self._locks_asked = (inputs, report), None
        if error is not None:
            self._session.said.emit(str(error))
        self.changed.emit()

    def _take_departed(self, picture: Picture, changes: tuple[Any, ...], looks: Looks) -> None:
        self._departed, self._departed_asked = (picture, changes, looks), None
        self.refresh()

    def _fail_departed(self, error: PlanError) -> None:
        self._session.said.emit(str(error))

    def _fail(self, digest: str, error: PlanError) -> None:
        self._looks_asked = ""
        self._failed.add(digest)
        self._session.said.emit(str(error))
        self.changed.emit()

    def _take_colour(self, digest: str, looks: Looks) -> None:
        self._looks_asked = ""
        self._keep(digest, looks)
        self.refresh()

    def _keep(self, digest: str, looks: Looks) -> None:
        """Keep the looks of the photos used last, and ask for their other forms."""
        self._looks[digest] = looks
        for old in list(self._looks)[:-LOOKS_KEPT]:
            del self._looks[old]
        self._work.ask(
            "other looks",
            all_looks,
            looks,
            then=lambda full: self._take_all(digest, full),
            otherwise=lambda error: self._session.said.emit(str(error)),
        )

    def _take_all(self, digest: str, looks: Looks) -> None:
        if digest in self._looks:
            self._looks[digest] = looks
        # By now the slow libraries are loaded and stay: the garbage collector need not look through them again and
        # again, which would hold up the hand for some 40 ms each time.
        gc.freeze()
        self._want_departed()
        self.changed.emit()

    def _masses_inputs(self) -> tuple[Any, ...] | None:
        study, looks = self.plan.study, self.looks
        if study is None or looks is None:
            return None
        return looks.picture, study.frame, self.plan.paper, study.values

    def _follow_roughly(self) -> None:
        if not self.in_turn(self._show_rough_masses):
            self._rough_pause.start(round(1000 * TURN_S))

    def _show_rough_masses(self) -> None:
        """While something is dragged: a rough picture of the masses.

        It takes a few milliseconds and is done right here: a worker would take turns with the painting and make
        the hand wait longer than that.
        """
        inputs = self._masses_inputs()
        if inputs is None or not self._session.in_gesture or self._rough_of == inputs:
            return
        self._rough_of, self._masses_of = inputs, None
        self.masses_image = _compute_rough_masses(*inputs)
        self.changed.emit()

    def _ask_for_masses(self) -> None:
        inputs = self._masses_inputs()
        if inputs is None or self.masses_current or self._masses_failed:
            return
        if self._masses_asked is not None and same(self._masses_asked, inputs):
            return
        self._masses_asked = inputs
        self._work.ask(
            "masses",
            _compute_flat,
            *inputs,
            then=lambda answer: self._take_flat(inputs, *answer),
            otherwise=lambda error: self._fail_masses(inputs, error),
        )

    def _take_flat(self, inputs: tuple[Any, ...], flat: FlatMasses, image: QImage) -> None:
        """The picture of the masses is there; their outlines take a little longer."""
        self.masses_image = image
        self._work.ask(
            "masses",
            _compute_masses,
            flat,
            *inputs,
            then=lambda masses: self._take_masses(inputs, masses),
            otherwise=lambda error: self._fail_masses(inputs, error),
        )
        self.changed.emit()

    def _fail_masses(self, inputs: tuple[Any, ...], error: PlanError) -> None:
        self._masses_failed_of, self._masses_asked = inputs, None
        self._session.said.emit(str(error))

    def _take_masses(self, inputs: tuple[Any, ...], masses: Masses) -> None:
        self._masses_of, self._masses_asked = inputs, None
        self.masses = masses
        if not self.masses_current:
            self._pause.start()
        self.changed.emit()
