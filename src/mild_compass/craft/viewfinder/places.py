"""Where each school likes to see a subject: lines and crossings, as shares of the frame."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cache
from typing import TYPE_CHECKING

import numpy as np

from mild_compass.craft.armature.constructions import fourteen_lines, meetings

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from mild_compass.craft.geometry.lines import Box
    from mild_compass.plan.study import School


@dataclass(frozen=True, slots=True)
class Nearest:
    """The liked place nearest to a point: its name, and how far off the point is in mm."""

    name: str
    off_mm: float


def nearest_place(school: School, across: float, down: float, box: Box) -> Nearest | None:
    """The nearest line or crossing of a school; None for a school without lines."""
    if school == "thirds":
        return _upright_line(across, (1 / 3, 2 / 3), "third", box)
    if school == "quarters and cross":
        return _upright_line(across, (1 / 4, 3 / 4), "quarter", box)
    if school == "armature":
        return _crossing(armature_nodes(), across, down, box, "crossing of the armature")
    if school == "dynamic symmetry":
        return _crossing(eyes(box), across, down, box, "eye of the rectangle")
    return None


def _upright_line(across: float, lines: tuple[float, float], word: str, box: Box) -> Nearest:
    line = min(lines, key=lambda each: abs(each - across))
    side = "left" if line < 0.5 else "right"
    return Nearest(f"the {side} {word}", abs(across - line) * box.width)


def _crossing(points: NDArray[np.float64], across: float, down: float, box: Box, word: str) -> Nearest:
    off = np.hypot((points[:, 0] - across) * box.width, (points[:, 1] - down) * box.height)
    return Nearest(f"the nearest {word}", float(off.min()))


@cache
def armature_nodes() -> NDArray[np.float64]:
    """The crossings (29, 2) of the 14-line armature inside the rectangle."""
    inside = [(x, y) for x, y in meetings(fourteen_lines()) if 0 < x < 1 and 0 < y < 1]
    return np.array(sorted((float(x), float(y)) for x, y in inside))


def eyes(box: Box) -> NDArray[np.float64]:
    """The feet (4, 2) of the reciprocals on the diagonals (Hambidge, The Elements of Dynamic Symmetry, 1920)."""
    far = box.width**2 / (box.width**2 + box.height**2)
    return np.array([[far, far], [1 - far, 1 - far], [far, 1 - far], [1 - far, far]])
