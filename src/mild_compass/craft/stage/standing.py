"""Standing elsewhere with everything left where it is: a lamp, too, keeps its place on the ground."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

import numpy as np

from mild_compass.craft.perspective.worked import work_out
from mild_compass.craft.stage.scene import from_eye, on_plan
from mild_compass.plan.edits.stage import stand
from mild_compass.plan.stage import Stage

if TYPE_CHECKING:
    from mild_compass.plan.edits.base import Edit
    from mild_compass.plan.pictures import Ground
    from mild_compass.plan.study import Study


def stood_at(study: Study, ground: Ground, x_m: float, y_m: float, heading_deg: float) -> Edit:
    """The edit that has the artist stand at a place of the plan; a lamp that comes to lie behind stays as it was."""
    light, camera = study.perspective.light, work_out(study.perspective, ground).camera
    if light.kind != "lamp" or camera is None:
        return stand(x_m, y_m, heading_deg)
    before = study.stage or Stage()
    after = replace(before, eye_x_m=x_m, eye_y_m=y_m, heading_deg=heading_deg)
    place = camera.on_ground([light.foot])
    there = from_eye(after, on_plan(before, place[:, :2]))
    foot = camera.seen(np.column_stack([there, [0.0]]))[0]
    if not np.isfinite(foot).all():
        return stand(x_m, y_m, heading_deg)
    return stand(x_m, y_m, heading_deg, (float(foot[0]), float(foot[1])))
