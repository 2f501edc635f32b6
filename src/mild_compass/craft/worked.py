"""One study with all that is computed about it: what readings and headlines are made from."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

from mild_compass.craft.geometry.frame_map import FrameMap
from mild_compass.craft.perspective.worked import WorkedPerspective, work_out
from mild_compass.craft.sheet.printer import USUAL_OUTPUT, OutputSettings, Printer

if TYPE_CHECKING:
    from mild_compass.craft.armature.report import LockReport
    from mild_compass.craft.check.checked import Checked
    from mild_compass.craft.check.tones import DrawnTones
    from mild_compass.craft.logbook.repeated import Wrong
    from mild_compass.craft.perspective.horizon import HorizonLine
    from mild_compass.craft.picture.load import Picture
    from mild_compass.craft.sheet_sizes.lengths import Unit
    from mild_compass.craft.values.masses import Masses
    from mild_compass.craft.work.own_times import OwnTimes
    from mild_compass.craft.work.planned import WorkingOrder
    from mild_compass.plan.model import Plan
    from mild_compass.plan.pictures import Ground
    from mild_compass.plan.study import Study


@dataclass(frozen=True, eq=False, slots=True)
class Worked:
    """A study, what it stands on, its sheet, and the computed parts; what is None is on its way, and so are the edges
    of the masses where these are not ``measured``."""

    plan: Plan
    study: Study
    ground: Ground
    frame_map: FrameMap
    perspective: WorkedPerspective
    masses: Masses | None = None
    output: OutputSettings = USUAL_OUTPUT
    picture: Picture | None = None
    locks: LockReport | None = None
    measured: bool = True
    check: Checked | None = None  # of the drawing that is chosen
    tones: DrawnTones | None = None
    own: OwnTimes | None = None  # the artist's, from all sittings
    order: WorkingOrder | None = None
    elsewhere: tuple[Wrong, ...] = ()  # what went otherwise than planned in other plans

    @property
    def has_picture(self) -> bool:
        """Whether there are values to be seen: a photo, or a stage with a light on it."""
        return self.plan.has_picture(self.study)

    @property
    def unit(self) -> Unit:
        """The artist's unit of length."""
        return self.output.unit

    @property
    def printer(self) -> Printer:
        """What the artist's printer makes of the bar."""
        return self.output.printer

    @property
    def horizon_share(self) -> float | None:
        """How far down the frame the horizon lies at its upright middle (0 top, 1 bottom); None without one."""
        if self.perspective.horizon is None:
            return None
        box = self.frame_map.box
        return (height_at_middle(self.perspective.horizon, self.frame_map) - box.top) / box.height


def height_at_middle(horizon: HorizonLine, frame_map: FrameMap) -> float:
    """Where a horizon crosses the upright middle of the picture, in mm down the sheet."""
    (x0, y0), (x1, y1) = horizon.through(frame_map).tolist()
    share = ((frame_map.box.left + frame_map.box.right) / 2 - x0) / (x1 - x0)
    return float(y0 + share * (y1 - y0))


def worked_study(
    plan: Plan,
    *,
    masses: Masses | None = None,
    output: OutputSettings = USUAL_OUTPUT,
    perspective: WorkedPerspective | None = None,
    picture: Picture | None = None,
    locks: LockReport | None = None,
    measured: bool = True,
    check: Checked | None = None,
    tones: DrawnTones | None = None,
    own: OwnTimes | None = None,
    order: WorkingOrder | None = None,
    elsewhere: tuple[Wrong, ...] = (),
) -> Worked | None:
    """Work out the current study; None while the plan has no study. A perspective already known is taken as it is."""
    study = plan.study
    if study is None:
        return None
    return Worked(
        plan,
        study,
        plan.ground(study),
        FrameMap.of(study.frame, plan.paper),
        perspective or work_out(study.perspective, plan.ground(study), study.stage),
        masses,
        output,
        picture,
        locks,
        measured,
        check,
        tones,
        own,
        order,
        elsewhere,
    )
