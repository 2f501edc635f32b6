"""What follows from the plan, gathered: views read it here and hear of every change."""

from __future__ import annotations

import gc
from typing import TYPE_CHECKING, Any

from PySide6.QtCore import QObject, Signal

from mild_compass.studio.derived.checks import StudyChecks
from mild_compass.studio.derived.loop_scheduler import LoopScheduler
from mild_compass.studio.derived.masses import DrawnMasses, StudyMasses
from mild_compass.studio.derived.pictures import Pictures
from mild_compass.studio.derived.structure import StudyStructure
from mild_compass.studio.derived.views import Views
from mild_compass.studio.derived.work_order import StudyOrder

if TYPE_CHECKING:
    from PySide6.QtGui import QImage

    from mild_compass.craft.armature.report import LockReport
    from mild_compass.craft.perspective.worked import WorkedPerspective
    from mild_compass.craft.sheet.printer import Printer
    from mild_compass.craft.sheet_sizes.lengths import Unit
    from mild_compass.craft.stage.staged import Staged
    from mild_compass.craft.values.masses import Masses
    from mild_compass.craft.worked import Worked
    from mild_compass.plan.model import Plan
    from mild_compass.studio.derived.checks import DrawnCheck
    from mild_compass.studio.derived.derived import Derived
    from mild_compass.studio.derived.looks import Looks
    from mild_compass.studio.memory import Memory
    from mild_compass.studio.requests.superseding import LatestWins
    from mild_compass.studio.session import Session
    from mild_compass.studio.settings.settings import Settings


class Computed(QObject):
    """Watches a session; ``changed`` is sent when the plan, the settings or anything derived has changed."""

    changed = Signal()

    def __init__(
        self,
        session: Session,
        work: LatestWins,
        settings: Settings,
        memory: Memory,
        parent: QObject | None = None,
    ) -> None:
        super().__init__(parent)
        self._session, self._work, self._settings, self._memory = session, work, settings, memory
        self.turns = LoopScheduler(session)
        self.pictures = Pictures(session, work)
        self._masses = StudyMasses(session, work, self.turns, lambda: self.looks, self.refresh)
        self._structure = StudyStructure(session, work)
        self.views = Views(session, work, lambda: self.looks)
        self.checks = StudyChecks(session, work, lambda: self.looks if self.looks_current else None)
        self.work_order = StudyOrder(session, work, self.worked, lambda: memory.own_times)
        # In this order, so that what is made from another is asked for after it.
        self._kept_up: tuple[Derived[Any], ...] = (
            *self.pictures.values,
            self._structure.locks,
            self._structure.staged,
            self._structure.shadows,
            *self._masses.values,
        )
        for kept in self._kept_up:
            kept.changed.connect(self.refresh)
        for seen in (
            *self.views.values,
            self._masses.measured,
            self.checks.now,
            self.checks.earlier,
            self.work_order.made,
        ):
            seen.changed.connect(self.changed)
        self._frozen = False
        session.changed.connect(self.refresh)
        settings.changed.connect(self.changed)
        memory.changed.connect(self.changed)

    @property
    def plan(self) -> Plan:
        """The plan as it is shown."""
        return self._session.plan

    @property
    def in_gesture(self) -> bool:
        """Whether something is being dragged."""
        return self._session.in_gesture

    @property
    def unit(self) -> Unit:
        """The artist's unit of length."""
        return self._settings.now.unit

    @property
    def printer(self) -> Printer:
        """What the artist's printer makes of the bar."""
        return self._settings.now.printer

    @property
    def photo_looks(self) -> Looks | None:
        """The current study's photo as it was taken, or None until it has been read."""
        return self.pictures.as_taken

    @property
    def looks(self) -> Looks | None:
        """The current study's picture with its planned departures, or None until the photo has been read."""
        return self.pictures.looks

    @property
    def looks_current(self) -> bool:
        """Whether the picture has all planned departures in it."""
        return self.pictures.current

    @property
    def masses(self) -> Masses | None:
        """The masses, the last ones of the same picture until new ones are there."""
        return self._masses.shown

    def work_on_masses(self, on: bool) -> None:
        """Whether masses are worked on, so that they are wanted as soon as the hand rests."""
        if on != self._masses.worked_on:
            self._masses.worked_on = on
            self.refresh()

    @property
    def masses_image(self) -> QImage | None:
        """The picture of the masses."""
        return self._masses.image

    @property
    def drawn_masses(self) -> DrawnMasses | None:
        """The masses with their outlines; None until they are there."""
        return self._masses.drawn.value

    @property
    def measured_masses(self) -> Masses | None:
        """The masses as shown, once their edges have been measured, which is begun by asking; None before."""
        self._masses.measured.refresh()
        return self._masses.measured.value

    @property
    def edges_shown(self) -> Masses | None:
        """The same to be looked at: the last ones until new ones are there."""
        self._masses.measured.refresh()
        return self._masses.measured_shown

    @property
    def masses_current(self) -> bool:
        """Whether the masses belong to the plan as it is shown."""
        return self._masses.now is not None

    @property
    def masses_on_their_way(self) -> bool:
        """Whether they are worked on and being made just now."""
        return self._masses.on_their_way

    @property
    def problem(self) -> str:
        """Why picture or masses cannot be shown, in a sentence; empty otherwise."""
        return self.pictures.problem or self._masses.problem

    @property
    def locks(self) -> LockReport | None:
        """How the armatures lock, and how well by chance; None while that is being worked out."""
        return self._structure.locks.value

    @property
    def drawing_check(self) -> DrawnCheck | None:
        """The drawing against the plan, the last one until a new one is there; looking at it has it made."""
        self.checks.look()
        return self.checks.shown

    @property
    def settled(self) -> bool:
        """Whether there is nothing to wait for: everything is there, or cannot be made and says so."""
        first_idea = self._masses.tried  # nobody waits for it
        return self._work.idle and all(value.settled for value in self._kept_up if value is not first_idea)

    @property
    def scene(self) -> Staged:
        """The stage's lines, the last ones until new ones are there."""
        return self._structure.scene

    def perspective(self) -> WorkedPerspective | None:
        """Points and horizon of the current study."""
        return self._structure.perspective.value

    def worked(self) -> Worked | None:
        """The current study with everything computed; masses only when they are current."""
        from mild_compass.craft.worked import worked_study

        picture = self.looks.picture if self.looks and self.looks.complete else None
        masses = self._masses.now
        drawn = self.work_order.made.last
        order = drawn[1].order if drawn is not None and drawn[0][1] is masses else None
        check, tones = self.checks.told()
        return worked_study(
            self.plan,
            masses=masses,
            output=self._settings.output,
            perspective=self.perspective(),
            picture=picture,
            locks=self.locks,
            measured=self._masses.measured.value is not None,
            check=check,
            tones=tones,
            own=self._memory.own_times,
            order=order,
            elsewhere=self._memory.elsewhere,
        )

    def refresh(self) -> None:
        """Look what the plan needs now and ask for what is missing."""
        self._masses.follow()
        for value in self._kept_up:
            value.refresh()
        if not self._frozen and self.pictures.full.value is not None:
            self._freeze()
        self.changed.emit()

    def _freeze(self) -> None:
        """Have the garbage collector leave the libraries alone.

        By now the slow ones are loaded and stay; going through them again and again would hold up the hand for some
        40 ms each time. What is garbage by now is collected first, lest it stay for ever.
        """
        self._frozen = True
        gc.collect()
        gc.freeze()
