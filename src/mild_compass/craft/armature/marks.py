"""From a study to what is judged: its big lines and key points on the sheet, its armatures, its tolerance."""

from __future__ import annotations

from math import hypot
from typing import TYPE_CHECKING

import numpy as np

from mild_compass.craft.armature.constructions import in_box, lines_of, own_lines
from mild_compass.craft.armature.lock_in import Locked, Marks, Tolerance, locked
from mild_compass.plan.structure import CONSTRUCTION_NAMES

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from mild_compass.craft.geometry.frame_map import FrameMap
    from mild_compass.craft.geometry.lines import Box
    from mild_compass.plan.structure import BigLine, Construction, Structure
    from mild_compass.plan.study import Study

    Array = NDArray[np.float64]


def ends_px(lines: tuple[BigLine, ...]) -> Array:
    """Both ends of big lines (n, 2, 2), in photo pixels."""
    found = [[[each.x0_px, each.y0_px], [each.x1_px, each.y1_px]] for each in lines]
    return np.array(found, np.float64).reshape(-1, 2, 2)


def marks_on_sheet(structure: Structure, frame_map: FrameMap) -> Marks:
    """Big lines and key points in mm."""
    points = np.array([[each.x_px, each.y_px] for each in structure.points], np.float64).reshape(-1, 2)
    lines = frame_map.to_sheet(ends_px(structure.lines).reshape(-1, 2)).reshape(-1, 2, 2)
    contrast = np.array([max(each.contrast, 1.0) for each in structure.lines], np.float64)
    return Marks(lines, contrast, frame_map.to_sheet(points))


def tolerance(structure: Structure, box: Box) -> Tolerance:
    """Within what a line locks on this sheet."""
    return Tolerance(structure.near_share * hypot(box.width, box.height), structure.angle_deg)


def armatures(
    structure: Structure, box: Box, names: tuple[Construction, ...] = CONSTRUCTION_NAMES
) -> dict[Construction, Array]:
    """Lines of constructions in mm, by name; those that have none in this rectangle are left out."""
    ratio = box.width / box.height
    found = {name: lines_of(name, ratio, structure.theme_end, structure.nested) for name in names}
    return {name: in_box(lines, box) for name, lines in found.items() if len(lines)}


def drawn_lines(study: Study, box: Box) -> Array:
    """All lines of the armature that is drawn (k, 2, 2), in mm: the constructions switched on, and own lines."""
    parts = [*armatures(study.structure, box, study.armature).values(), own_lines(study.structure, box)]
    return np.concatenate([part.reshape(-1, 2, 2) for part in parts])


def locked_now(study: Study, frame_map: FrameMap) -> Locked:
    """What locks onto the armature that is drawn; cheap enough for every move of a drag."""
    structure, box = study.structure, frame_map.box
    return locked(marks_on_sheet(structure, frame_map), drawn_lines(study, box), box, tolerance(structure, box))
