"""One study with all that is computed about it: what readings and headlines are made from."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

from mild_compass.craft.geometry.frame_map import FrameMap
from mild_compass.craft.perspective.worked import WorkedPerspective, work_out

if TYPE_CHECKING:
    from mild_compass.craft.picture.load import Picture
    from mild_compass.craft.sheet_sizes.lengths import Unit
    from mild_compass.craft.values.masses import Masses
    from mild_compass.plan.model import Plan, Reference, Study


@dataclass(frozen=True, eq=False, slots=True)
class Worked:
    """A study, its photo and sheet, and the computed parts; masses and picture are None while they are on their way."""

    plan: Plan
    study: Study
    photo: Reference
    frame_map: FrameMap
    perspective: WorkedPerspective
    masses: Masses | None = None
    unit: Unit = "mm"
    picture: Picture | None = None

    @property
    def horizon_share(self) -> float | None:
        """How far down the frame the horizon lies at its upright middle (0 top, 1 bottom); None without one."""
        horizon, frame = self.perspective.horizon, self.study.frame
        if horizon is None:
            return None
        return (horizon.y_at(frame.x_px + frame.width_px / 2) - frame.y_px) / frame.height_px


def worked_study(
    plan: Plan,
    masses: Masses | None,
    unit: Unit = "mm",
    perspective: WorkedPerspective | None = None,
    picture: Picture | None = None,
) -> Worked | None:
    """Work out the current study; None while the plan has no photo. A perspective already known is taken as it is."""
    study = plan.study
    if study is None:
        return None
    return Worked(
        plan,
        study,
        plan.reference(study.reference),
        FrameMap.of(study.frame, plan.paper),
        perspective or work_out(study.perspective),
        masses,
        unit,
        picture,
    )
