"""The string check: how far each end of a drawn line is from the string to its vanishing point, in mm."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike, NDArray

Array = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class StringCheck:
    """What to do with one end of a line; off_mm is measured square to the string."""

    end: str
    action: str
    off_mm: float

    @property
    def words(self) -> str:
        """For instance "raise its right end 2.5 mm"."""
        return f"{self.action} its {self.end} end {abs(self.off_mm):.1f} mm"


def string_checks(start_mm: ArrayLike, end_mm: ArrayLike, vanishing_mm: ArrayLike) -> tuple[StringCheck, StringCheck]:
    """For each end: signed distance to the line through the other end and the vanishing point (x, y, w) in mm."""
    a, b = np.asarray(start_mm, np.float64), np.asarray(end_mm, np.float64)
    steep = abs(b[1] - a[1]) > abs(b[0] - a[0])
    axis = 1 if steep else 0
    low, high = (a, b) if a[axis] <= b[axis] else (b, a)
    names = ("upper", "lower") if steep else ("left", "right")
    return _check(low, high, vanishing_mm, names[0], steep), _check(high, low, vanishing_mm, names[1], steep)


def _check(moving: Array, fixed: Array, vanishing_mm: ArrayLike, name: str, steep: bool) -> StringCheck:
    x, y, w = np.asarray(vanishing_mm, np.float64)
    normal = np.array([w * fixed[1] - y, x - w * fixed[0]])
    length = float(np.hypot(*normal))
    if length == 0:
        return StringCheck(name, "keep", 0.0)
    normal /= length
    off = float(normal @ (moving - fixed))
    target = moving - off * normal
    if steep:
        action = "move left" if target[0] < moving[0] else "move right"
    else:
        action = "raise" if target[1] < moving[1] else "lower"
    return StringCheck(name, action, off)
