"""The slow part of the armature's readings, made in the background: all armatures against chance, and the nudge."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

from mild_compass.craft.armature.chance import Trial, trials
from mild_compass.craft.armature.constructions import titled
from mild_compass.craft.armature.marks import armatures, marks_on_sheet, tolerance
from mild_compass.craft.armature.nudge import Nudged, nudge
from mild_compass.craft.geometry.frame_map import FrameMap

if TYPE_CHECKING:
    from mild_compass.plan.paper import Paper
    from mild_compass.plan.pictures import Ground
    from mild_compass.plan.structure import Construction
    from mild_compass.plan.study import Study


@dataclass(frozen=True, eq=False, slots=True)
class LockReport:
    """Every armature that has lines in this rectangle, the least likely by chance first; the nudge where one helps."""

    trials: tuple[Trial, ...]
    nudged: Nudged | None = None

    def trial(self, construction: Construction) -> Trial | None:
        """The trial of one armature."""
        return next((each for each in self.trials if each.construction == construction), None)


def lock_report(study: Study, photo: Ground, paper: Paper) -> LockReport:
    """Judge a study; nothing in it where there are no big lines and no key points."""
    frame_map = FrameMap.of(study.frame, paper)
    marks, box = marks_on_sheet(study.structure, frame_map), frame_map.box
    if marks.empty:
        return LockReport(())
    found = trials(marks, armatures(study.structure, box), box, tolerance(study.structure, box))
    return LockReport(tuple(found), nudge(study, photo, paper))


def times_in_100(p: float) -> str:
    """A share as people say it."""
    hundred = 100 * p
    if hundred < 1:
        return "less than once in 100"
    return "once in 100" if round(hundred) == 1 else f"{hundred:.0f} times in 100"


def verdict_words(trial: Trial, looked_at: int) -> str:
    """For instance "9 of 14 lock; a random frame does as well 31 times in 100: no evidence of design"."""
    held = trial.locked
    text = (
        f"{titled(trial.construction)}: {held.locked} of {held.counted} lock; a random frame "
        f"does as well {times_in_100(trial.p)}"
    )
    if trial.p <= 0.05 and not trial.evidence:
        return f"{text}, but {looked_at} armatures were looked at: no evidence of design."
    return f"{text}: {'hardly chance' if trial.evidence else 'no evidence of design'}."
