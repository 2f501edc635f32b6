"""Themes: a root or golden rectangle placed inside another one, with its diagonals, its reciprocals, and theirs.

After Jay Hambidge, The Elements of Dynamic Symmetry, 1920: a root-n rectangle is made up of n of its own reciprocals;
a golden one less its reciprocal is a square.
"""

from __future__ import annotations

from dataclasses import dataclass
from math import sqrt
from typing import TYPE_CHECKING

import numpy as np

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from mild_compass.plan.structure import ThemeEnd

    Lines = NDArray[np.float64]

PHI = (1 + sqrt(5)) / 2  # the golden section: Euclid, Elements VI, definition 3
SAME = 1e-9  # lines closer than that, in fractions of the frame, are one

Line = list[list[float]]


@dataclass(frozen=True, slots=True)
class Rectangle:
    """An upright rectangle, x to the right, y down."""

    x: float
    y: float
    width: float
    height: float

    def diagonals(self) -> list[Line]:
        """From corner to corner."""
        left, top, right, bottom = self.x, self.y, self.x + self.width, self.y + self.height
        return [[[left, top], [right, bottom]], [[left, bottom], [right, top]]]

    def cut(self, share: float) -> Line:
        """The line square to the long side at a share of it."""
        if self.width >= self.height:
            x = self.x + share * self.width
            return [[x, self.y], [x, self.y + self.height]]
        y = self.y + share * self.height
        return [[self.x, y], [self.x + self.width, y]]

    def part(self, low: float, high: float) -> Rectangle:
        """What lies between two shares of the long side."""
        if self.width >= self.height:
            return Rectangle(self.x + low * self.width, self.y, (high - low) * self.width, self.height)
        return Rectangle(self.x, self.y + low * self.height, self.width, (high - low) * self.height)


def theme_lines(ratio: float, theme: float, end: ThemeEnd = "both", nested: int = 0) -> Lines:
    """Lines (n, 2, 2), in fractions of a frame of a ratio, of a rectangle of the ratio ``theme`` placed in it.

    It has the frame's full short side and lies at the left (top) as "first", the right (foot) as "second", or both.
    Drawn are its border, diagonals and reciprocals, and ``nested`` times more those of the reciprocal, which whirls.
    """
    long = max(ratio, 1 / ratio)
    found: list[Line] = []
    for at_end in {"first": (False,), "second": (True,), "both": (False, True)}[end]:
        found += _placed(Rectangle(0.0, 0.0, long, 1.0), theme, at_end, nested)
    lines = np.array(found, np.float64) / (long, 1.0)
    return unique_lines(lines if ratio >= 1 else lines[..., ::-1])


def _placed(frame: Rectangle, theme: float, at_end: bool, nested: int) -> list[Line]:
    share = min(1.0, (theme if frame.width >= theme else 1 / theme) / frame.width)
    placed = frame.part(1 - share, 1.0) if at_end else frame.part(0.0, share)
    border = [frame.cut(1 - share if at_end else share)] if share < 1 - SAME else []
    return border + _parted(placed, theme) + _whirled(placed, theme, at_end, nested)


def _parted(rectangle: Rectangle, theme: float) -> list[Line]:
    """Diagonals of a theme's rectangle, its reciprocals from the corners, and where they cut the long side."""
    share = 1 / theme**2
    found = rectangle.diagonals()
    for part in (rectangle.part(0.0, share), rectangle.part(1 - share, 1.0)):
        found += part.diagonals()
    count = round(theme**2)
    whole = abs(theme**2 - count) < SAME  # a root rectangle is made up of its reciprocals, a golden one is not
    marks = [k / count for k in range(1, count)] if whole else [share, 1 - share]
    return found + [rectangle.cut(mark) for mark in marks]


def _whirled(rectangle: Rectangle, theme: float, at_end: bool, nested: int) -> list[Line]:
    """The reciprocal at the inner end, its own at the next end round, and so on."""
    share, found, low = 1 / theme**2, [], at_end
    for step in range(nested):
        rectangle = rectangle.part(0.0, share) if low else rectangle.part(1 - share, 1.0)
        found += [*rectangle.diagonals(), rectangle.cut(share), rectangle.cut(1 - share)]
        low = not low if step % 2 else low
    return found


def unique_lines(lines: Lines) -> Lines:
    """The lines without those that lie on an earlier one with the same ends."""
    kept: list[Lines] = []
    for line in lines:
        if not any(abs(line - old).max() < SAME or abs(line[::-1] - old).max() < SAME for old in kept):
            kept.append(line)
    return np.array(kept, np.float64).reshape(-1, 2, 2)
