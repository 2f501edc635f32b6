"""What the armature and the perspective derive: how the armatures lock; points and horizon."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from mild_compass.studio.derived.derived import Derived, Key

if TYPE_CHECKING:
    from mild_compass.craft.armature.report import LockReport
    from mild_compass.craft.perspective.worked import WorkedPerspective
    from mild_compass.studio.requests.work import Work
    from mild_compass.studio.session import Session


def _locks(*inputs: Any) -> LockReport:
    from mild_compass.craft.armature.report import lock_report

    return lock_report(*inputs)


def _perspective(*inputs: Any) -> WorkedPerspective:
    from mild_compass.craft.perspective.worked import work_out

    return work_out(*inputs)


class StudyStructure:
    """Two values that need no picture, only marks."""

    def __init__(self, session: Session, work: Work) -> None:
        self._session = session
        self.locks: Derived[LockReport] = Derived(
            "locks", session, work, self._locks_key, _locks, arguments=self._locks_inputs
        )
        self.perspective: Derived[WorkedPerspective] = Derived(
            "perspective", session, work, self._perspective_key, _perspective, when="at once"
        )
        self.values = (self.locks, self.perspective)

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
        return (plan.study.perspective, plan.ground(plan.study)) if plan.study else None
