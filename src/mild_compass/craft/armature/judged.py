"""One study under the drawn armature, for comparing several: its picture's big lines, what locks, how likely."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

from mild_compass.craft.armature.chance import trials
from mild_compass.craft.armature.lock_in import locked
from mild_compass.craft.armature.marks import armatures, drawn_lines, marks_on_sheet, tolerance
from mild_compass.craft.armature.tracing import found_big_lines
from mild_compass.craft.geometry.frame_map import FrameMap

if TYPE_CHECKING:
    from mild_compass.craft.picture.load import Picture
    from mild_compass.plan.paper import Paper
    from mild_compass.plan.study import Study


@dataclass(frozen=True, slots=True)
class UnderArmature:
    """How many of how many lines lock, their share of the weight, the likeliest p of the drawn armatures (or None)."""

    locked: int
    counted: int
    score: float
    p: float | None
    found: bool


def under_armature(study: Study, picture: Picture, paper: Paper) -> UnderArmature:
    """Judge a study by its traced lines, or where it has none by lines found in its picture."""
    found = not study.structure.lines
    if found:
        lines = found_big_lines(picture, study.frame, paper)
        study = replace(study, structure=replace(study.structure, lines=lines))
    frame_map = FrameMap.of(study.frame, paper)
    box, marks = frame_map.box, marks_on_sheet(study.structure, frame_map)
    within = tolerance(study.structure, box)
    held = locked(marks, drawn_lines(study, box), box, within)
    tried = trials(marks, armatures(study.structure, box, study.armature), box, within)
    return UnderArmature(held.locked, held.counted, held.score, tried[0].p if tried else None, found)
