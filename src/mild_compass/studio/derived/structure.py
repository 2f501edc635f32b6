"""What the armature and the perspective derive: how the armatures lock; points and horizon."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING, Any

from mild_compass.studio.derived.derived import Derived, Key

if TYPE_CHECKING:
    from mild_compass.craft.armature.report import LockReport
    from mild_compass.craft.perspective.worked import WorkedPerspective
    from mild_compass.craft.stage.staged import Staged
    from mild_compass.plan.pictures import Ground
    from mild_compass.plan.study import Study
    from mild_compass.studio.requests.superseding import LatestWins
    from mild_compass.studio.session import Session


def _locks(*inputs: Any) -> LockReport:
    from mild_compass.craft.armature.report import lock_report

    return lock_report(*inputs)


def _perspective(*inputs: Any) -> WorkedPerspective:
    from mild_compass.craft.perspective.worked import work_out

    return work_out(*inputs)


def _staged(study: Study, ground: Ground) -> Staged:
    from mild_compass.craft.perspective.worked import work_out
    from mild_compass.craft.sheet.stage_layers import staged_of
    from mild_compass.craft.stage.staged import Staged

    return staged_of(study, work_out(study.perspective, ground)) or Staged(())


def _shadows(study: Study, ground: Ground) -> tuple[Any, ...]:
    """The edges of the shadows, and what is seen in water: they take longer than the lines and follow them."""
    from mild_compass.craft.perspective.worked import work_out
    from mild_compass.craft.sheet.stage_layers import reflections_of, shadows_of

    worked = work_out(study.perspective, ground)
    return shadows_of(study, worked), reflections_of(study, worked)


_NONE: tuple[Any, ...] = ((), ())


class StudyStructure:
    """Four values that need no picture, only marks and things."""

    def __init__(self, session: Session, work: LatestWins) -> None:
        self._session = session
        self._scene: tuple[Staged, tuple[Any, ...], Staged] | None = None  # lines, shadows, and both in one
        self._nothing: Staged | None = None
        self.locks: Derived[LockReport] = Derived(
            "locks", session, work, self._locks_key, _locks, arguments=self._locks_inputs
        )
        self.perspective: Derived[WorkedPerspective] = Derived(
            "perspective", session, work, self._perspective_key, _perspective, when="at once"
        )
        self.staged: Derived[Staged] = Derived(
            "stage", session, work, self._staged_key, _staged, arguments=self._staged_inputs, most=8
        )
        self.shadows: Derived[tuple[Any, ...]] = Derived(
            "stage shadows", session, work, self._staged_key, _shadows, arguments=self._staged_inputs, most=8
        )

    @property
    def scene(self) -> Staged:
        """The stage's lines, or until they are there those of the same study made last."""
        found = self.staged.value
        if found is None and self.staged.last is not None and self._session.plan.study is not None:
            key, made = self.staged.last
            found = made if key[0] == self._session.plan.study.id else None
        if found is None:
            if self._nothing is None:
                from mild_compass.craft.stage.staged import Staged

                self._nothing = Staged(())
            found = self._nothing
        shadows = self.shadows.value or _NONE
        if self._scene is None or self._scene[0] is not found or self._scene[1] is not shadows:
            self._scene = (found, shadows, replace(found, shadows=shadows[0], reflections=shadows[1]))
        return self._scene[2]

    def _staged_key(self) -> Key | None:
        plan, study = self._session.plan, self._session.plan.study
        if study is None or not study.staged:
            return None
        return study.id, study.stage, study.perspective, plan.ground(study)

    def _staged_inputs(self) -> tuple[Any, ...]:
        plan = self._session.plan
        assert plan.study is not None
        return plan.study, plan.ground(plan.study)

    def _locks_key(self) -> Key | None:
        plan, study = self._session.plan, self._session.plan.study
        if study is None or not (study.structure.lines or study.structure.points):
            return None
        return study.ground, study.frame, plan.paper, study.armature, study.structure, study.rings, study.keep

    def _locks_inputs(self) -> tuple[Any, ...]:
        plan = self._session.plan
        assert plan.study is not None
        return plan.study, plan.ground(plan.study), plan.paper

    def _perspective_key(self) -> Key | None:
        plan = self._session.plan
        return (plan.study.perspective, plan.ground(plan.study), plan.study.stage) if plan.study else None
