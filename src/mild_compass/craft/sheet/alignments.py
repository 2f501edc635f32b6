"""What lines up with what: plumb, level, and equal lengths, within a tolerance on the sheet."""

from __future__ import annotations

from dataclasses import dataclass
from math import hypot
from typing import TYPE_CHECKING, Literal

import numpy as np

from mild_compass.craft.sheet.measure import length_name, lengths_mm, point_name, points_mm

if TYPE_CHECKING:
    from collections.abc import Iterator

    from mild_compass.craft.geometry.frame_map import FrameMap
    from mild_compass.plan.sheet import MeasurePlan

Relation = Literal["plumb", "level", "equal"]
WORDS: dict[Relation, str] = {"plumb": "stands plumb with", "level": "lies level with", "equal": "is as long as"}
NEAR_MM = 3.0  # places nearer to each other than that are one place


@dataclass(frozen=True, slots=True)
class Alignment:
    """Two named things that line up, how far they are off it, and the line to show, in mm."""

    relation: Relation
    first: str
    second: str
    off_mm: float
    line_mm: tuple[tuple[float, float], tuple[float, float]]

    @property
    def words(self) -> str:
        """As "eave lies level with lamp"."""
        return f"{self.first} {WORDS[self.relation]} {self.second}"


def _close_pairs(values: np.ndarray, tolerance: float) -> Iterator[tuple[int, int]]:
    """All pairs of a list that differ by no more than the tolerance; sorted once, so that few are compared."""
    order = np.argsort(values, kind="stable")
    for place, first in enumerate(order):
        for second in order[place + 1 :]:
            if values[second] - values[first] > tolerance:
                break
            yield int(first), int(second)


def alignments(plan: MeasurePlan, frame_map: FrameMap) -> list[Alignment]:
    """Pairs of places that are plumb or level and pairs of equal lengths, the truest first."""
    at = points_mm(plan, frame_map)
    names = [point_name(point.name, k) for k, point in enumerate(plan.points)]
    found: list[Alignment] = []
    ways: tuple[tuple[int, Relation], ...] = ((0, "plumb"), (1, "level"))
    for axis, relation in ways:
        for a, b in _close_pairs(at[:, axis], plan.tolerance_mm):
            if hypot(*(at[a] - at[b])) > NEAR_MM:
                first, second = sorted((a, b))
                off = float(abs(at[a, axis] - at[b, axis]))
                found.append(_alignment(relation, names[first], names[second], off, at[[first, second]]))
    ends = lengths_mm(plan, frame_map)
    long = np.hypot(*(ends[:, 1] - ends[:, 0]).T) if len(ends) else np.zeros(0)
    for a, b in _close_pairs(long, plan.tolerance_mm):
        first, second = sorted((a, b))
        one, other = (length_name(plan.lengths[k].name, k) for k in (first, second))
        middles = ends[[first, second]].mean(1)
        found.append(_alignment("equal", one, other, float(abs(long[a] - long[b])), middles))
    return sorted(found, key=lambda each: each.off_mm)


def _alignment(relation: Relation, first: str, second: str, off_mm: float, line: np.ndarray) -> Alignment:
    (x0, y0), (x1, y1) = line.tolist()
    return Alignment(relation, first, second, off_mm, ((x0, y0), (x1, y1)))
