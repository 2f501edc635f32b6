"""Every line with its string: which end to raise or lower so that it runs true to its point."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from mild_compass.craft.armature.marks import ends_px
from mild_compass.craft.perspective.string_check import StringCheck, string_checks
from mild_compass.craft.perspective.vanishing import ends
from mild_compass.craft.perspective.worked import homogeneous_on_sheet

if TYPE_CHECKING:
    from mild_compass.craft.geometry.frame_map import FrameMap
    from mild_compass.craft.perspective.worked import WorkedPerspective
    from mild_compass.plan.study import Study

NEAR_DEG = 6.0  # a big line belongs to the point it runs to within so many degrees, or to none


@dataclass(frozen=True, slots=True)
class StringRow:
    """A line's name, its point's letter, its length on the sheet, and what to do with each end."""

    name: str
    letter: str
    length_mm: float
    checks: tuple[StringCheck, StringCheck]

    @property
    def worst_mm(self) -> float:
        """How far the end that is further off is from its string."""
        return max(abs(check.off_mm) for check in self.checks)


def string_rows(study: Study, worked: WorkedPerspective, frame_map: FrameMap) -> list[StringRow]:
    """Traced edges set by set, then big lines that run to one of the points."""
    rows = []
    for each in study.perspective.sets:
        point = worked.point(each.letter)
        if point is None:
            continue
        target = homogeneous_on_sheet(point, frame_map)
        for number, segment in enumerate(ends(each.edges), 1):
            rows.append(_row(f"{each.letter}{number}", each.letter, frame_map.to_sheet(segment), target))
    for line, segment in zip(study.structure.lines, ends_px(study.structure.lines), strict=True):
        on_sheet = frame_map.to_sheet(segment)
        letter = _nearest(on_sheet, worked, frame_map)
        aim = next((each for each in worked.aims if each.letter == letter), None)
        if aim is not None:
            rows.append(_row(line.name or "big line", letter, on_sheet, homogeneous_on_sheet(aim, frame_map)))
    return rows


def _row(name: str, letter: str, segment: np.ndarray, target: np.ndarray) -> StringRow:
    return StringRow(
        name, letter, float(np.hypot(*(segment[1] - segment[0]))), string_checks(segment[0], segment[1], target)
    )


def _nearest(segment: np.ndarray, worked: WorkedPerspective, frame_map: FrameMap) -> str:
    """The letter of the point a line runs to most nearly, or nothing."""
    best, letter = NEAR_DEG, ""
    middle, way = segment.mean(0), segment[1] - segment[0]
    for point in worked.aims:
        x, y, w = homogeneous_on_sheet(point, frame_map)
        toward = np.array([x - w * middle[0], y - w * middle[1]])
        size = float(np.hypot(*toward) * np.hypot(*way))
        if size == 0:
            continue
        off = float(np.degrees(np.arcsin(min(1.0, abs(toward[0] * way[1] - toward[1] * way[0]) / size))))
        if off < best:
            best, letter = off, point.letter
    return letter
