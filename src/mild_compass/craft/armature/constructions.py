"""Construction lines of a rectangle, as fractions of its width and height."""

from __future__ import annotations

from fractions import Fraction
from itertools import combinations
from typing import TYPE_CHECKING

import numpy as np

from mild_compass.craft.viewfinder.threads import THREADS

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from mild_compass.plan.model import Construction

Exact = tuple[Fraction, Fraction]


def fourteen_lines() -> tuple[tuple[Exact, Exact], ...]:
    """The armature of the rectangle in exact fractions (Charles Bouleau, The Painter's Secret Geometry, 1963).

    Two diagonals, eight lines from the corners to the midpoints of the opposite sides, four lines joining
    the midpoints of neighbouring sides.
    """
    zero, half, one = Fraction(0), Fraction(1, 2), Fraction(1)
    corners = [(zero, zero), (one, zero), (one, one), (zero, one)]
    middles = [(half, zero), (one, half), (half, one), (zero, half)]
    diagonals = [(corners[0], corners[2]), (corners[1], corners[3])]
    to_sides = [(corner, middle) for corner in corners for middle in middles if _across(corner, middle)]
    rhombus = [(middles[k], middles[(k + 1) % 4]) for k in range(4)]
    return (*diagonals, *to_sides, *rhombus)


def _across(corner: Exact, middle: Exact) -> bool:
    """Whether a side's midpoint lies on a side that does not touch the corner."""
    return corner[0] != middle[0] and corner[1] != middle[1]


def meetings(lines: tuple[tuple[Exact, Exact], ...]) -> set[Exact]:
    """All points of the unit square where two of the segments meet, in exact arithmetic."""
    found: set[Exact] = set()
    for (a, b), (c, d) in combinations(lines, 2):
        r, s = (b[0] - a[0], b[1] - a[1]), (d[0] - c[0], d[1] - c[1])
        turn = r[0] * s[1] - r[1] * s[0]
        if turn == 0:
            continue
        q = (c[0] - a[0], c[1] - a[1])
        t = (q[0] * s[1] - q[1] * s[0]) / turn
        u = (q[0] * r[1] - q[1] * r[0]) / turn
        if 0 <= t <= 1 and 0 <= u <= 1:
            found.add((a[0] + t * r[0], a[1] + t * r[1]))
    return found


CONSTRUCTIONS: dict[Construction, NDArray[np.float64]] = {
    "fourteen": np.array([[[float(x), float(y)] for x, y in line] for line in fourteen_lines()]),
    "diagonals": THREADS["diagonals"],
    "thirds": THREADS["thirds"],
    "quarters": THREADS["quarters"],
}
