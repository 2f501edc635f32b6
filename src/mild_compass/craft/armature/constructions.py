"""Construction lines of a rectangle, as fractions of its width and height."""

from __future__ import annotations

from fractions import Fraction
from functools import lru_cache
from itertools import combinations
from math import sqrt
from typing import TYPE_CHECKING

import numpy as np

from mild_compass.craft.armature.themes import PHI, SAME, theme_lines, unique_lines
from mild_compass.craft.viewfinder.threads import THREADS

if TYPE_CHECKING:
    from collections.abc import Iterable

    from numpy.typing import NDArray

    from mild_compass.craft.geometry.lines import Box
    from mild_compass.plan.structure import Construction, Structure, ThemeEnd

    Lines = NDArray[np.float64]

Exact = tuple[Fraction, Fraction]

CONSTRUCTION_WORDS: dict[Construction, str] = {
    "fourteen": "14-line armature",
    "diagonals": "diagonals",
    "halves": "halves",
    "thirds": "thirds",
    "quarters": "quarters",
    "reciprocals": "reciprocals",
    "rabatment": "rabatment",
    "golden section": "golden section",
    "phi": "φ theme",
    "root 2": "√2 theme",
    "root 3": "√3 theme",
    "root 4": "√4 theme",
    "root 5": "√5 theme",
    "2:3": "musical 2:3",
    "3:4": "musical 3:4",
    "4:6:9": "musical 4:6:9",
    "9:12:16": "musical 9:12:16",
    "reading Z": "reading Z",
}
EXPLAINED: dict[Construction, str] = {
    "fourteen": "Both diagonals, each corner to the middles of the far sides, and the middles joined.",
    "diagonals": "From corner to corner.",
    "halves": "A cross through the middle.",
    "thirds": "Two lines each way.",
    "quarters": "Halved, and halved again.",
    "reciprocals": "From each corner at right angles to the diagonal; they cut off the same shape, smaller.",
    "rabatment": "The short side turned into the long one: the square in the rectangle, from either end.",
    "golden section": "Each side parted so that the small part is to the large one as that is to the whole.",
    "phi": "A golden rectangle placed in the frame, with its reciprocals.",
    "root 2": "A rectangle of 1 : 1.414 placed in the frame, with its reciprocals.",
    "root 3": "A rectangle of 1 : 1.732 placed in the frame, with its reciprocals.",
    "root 4": "A double square placed in the frame, with its reciprocals.",
    "root 5": "A rectangle of 1 : 2.236 placed in the frame, with its reciprocals.",
    "2:3": "Each side parted as a fifth in music, from both ends.",
    "3:4": "Each side parted as a fourth in music, from both ends.",
    "4:6:9": "Two fifths one upon the other, from both ends.",
    "9:12:16": "Two fourths one upon the other, from both ends.",
    "reading Z": "Across the top, down the diagonal, across the foot, as a page is read.",
}
# L. B. Alberti, De re aedificatoria, IX: the numbers that please the ear please the eye.
MUSICAL: dict[Construction, tuple[Fraction, ...]] = {
    "2:3": (Fraction(2, 3),),
    "3:4": (Fraction(3, 4),),
    "4:6:9": (Fraction(4, 9), Fraction(6, 9)),
    "9:12:16": (Fraction(9, 16), Fraction(12, 16)),
}
# Of rectangles whose longer side is the root of a number: Hambidge, The Elements of Dynamic Symmetry, 1926.
ROOTS: dict[Construction, float] = {
    "phi": PHI,
    "root 2": sqrt(2),
    "root 3": sqrt(3),
    "root 4": 2.0,
    "root 5": sqrt(5),
}


def titled(construction: Construction) -> str:
    """A construction's name at the start of a line."""
    words = CONSTRUCTION_WORDS[construction]
    return words if words[0] == "φ" else words[:1].upper() + words[1:]


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


def musical_marks(construction: Construction) -> tuple[Fraction, ...]:
    """Where a musical division parts a side, from both ends, in rising order."""
    marks = MUSICAL[construction]
    return tuple(sorted({*marks, *(1 - mark for mark in marks)}))


def ruled(across: Iterable[float], down: Iterable[float]) -> Lines:
    """Uprights at fractions of the width and levels at fractions of the height."""
    uprights = [[[x, 0.0], [x, 1.0]] for x in across]
    return np.array(uprights + [[[0.0, y], [1.0, y]] for y in down], np.float64).reshape(-1, 2, 2)


@lru_cache(maxsize=512)
def lines_of(construction: Construction, ratio: float, end: ThemeEnd = "both", nested: int = 0) -> Lines:
    """Lines (n, 2, 2) of a construction in a rectangle of a ratio (width over height), in fractions of it."""
    if construction in ("halves", "thirds", "quarters", "diagonals"):
        return THREADS[construction]
    if construction == "fourteen":
        return np.array([[[float(x), float(y)] for x, y in line] for line in fourteen_lines()])
    if construction == "reciprocals":
        return reciprocal_lines(ratio)
    if construction == "rabatment":
        return rabatment_lines(ratio, end)
    if construction == "golden section":
        marks = (1 / PHI**2, 1 / PHI)
        return ruled(marks, marks)
    if construction in MUSICAL:
        parts = [float(mark) for mark in musical_marks(construction)]
        return ruled(parts, parts)
    if construction == "reading Z":
        return np.array([[[0.0, 0.0], [1.0, 0.0]], [[1.0, 0.0], [0.0, 1.0]], [[0.0, 1.0], [1.0, 1.0]]])
    return theme_lines(ratio, ROOTS[construction], end, nested)


def reciprocal_lines(ratio: float) -> Lines:
    """Both diagonals, the reciprocals from the four corners, and the lines that cut off the reciprocal rectangles.

    A reciprocal meets the long side h²/w from the corner (Jay Hambidge, The Elements of Dynamic Symmetry, 1920).
    """
    share = 1 / ratio**2 if ratio >= 1 else ratio**2
    across = [[[0, 0], [share, 1]], [[0, 1], [share, 0]], [[1, 0], [1 - share, 1]], [[1, 1], [1 - share, 0]]]
    cuts = [[[share, 0], [share, 1]], [[1 - share, 0], [1 - share, 1]]]
    found = np.array(across + (cuts if share < 1 - SAME else []), np.float64)
    if ratio < 1:
        found = found[..., ::-1]
    return unique_lines(np.concatenate([THREADS["diagonals"], found]))


def rabatment_lines(ratio: float, end: ThemeEnd = "both") -> Lines:
    """The sides of the squares of the short side, laid at the first end (left or top), the second, or both."""
    side = 1 / ratio if ratio >= 1 else ratio
    marks = {"first": [side], "second": [1 - side], "both": [side, 1 - side]}[end]
    marks = [mark for mark in marks if SAME < mark < 1 - SAME]
    return unique_lines(ruled(marks, []) if ratio >= 1 else ruled([], marks))


def constructed(
    constructions: tuple[Construction, ...], structure: Structure, box: Box
) -> list[tuple[Construction, Lines]]:
    """Every chosen construction with its lines on the sheet, in mm."""
    ratio = box.width / box.height
    return [(name, in_box(lines_of(name, ratio, structure.theme_end, structure.nested), box)) for name in constructions]


def own_lines(structure: Structure, box: Box) -> Lines:
    """The artist's own lines on the sheet, in mm (n, 2, 2)."""
    fractions = [[[each.x0, each.y0], [each.x1, each.y1]] for each in structure.own]
    return in_box(np.array(fractions, np.float64).reshape(-1, 2, 2), box)


def in_box(fractions: Lines, box: Box) -> Lines:
    """Fractions of a rectangle as sheet points in mm."""
    return np.asarray(fractions * (box.width, box.height) + box[:2], np.float64)


def crossings(lines: Lines) -> Lines:
    """Points (n, 2) where two of the lines (m, 2, 2) cross or touch, each once, in the lines' own unit."""
    if len(lines) < 2:
        return np.zeros((0, 2))
    a, b = np.triu_indices(len(lines), 1)
    r, s = lines[a, 1] - lines[a, 0], lines[b, 1] - lines[b, 0]
    q = lines[b, 0] - lines[a, 0]
    turn = r[:, 0] * s[:, 1] - r[:, 1] * s[:, 0]
    size = np.hypot(*r.T) * np.hypot(*s.T)
    with np.errstate(divide="ignore", invalid="ignore"):
        t = (q[:, 0] * s[:, 1] - q[:, 1] * s[:, 0]) / turn
        u = (q[:, 0] * r[:, 1] - q[:, 1] * r[:, 0]) / turn
    slack = 1e-9
    met = (np.abs(turn) > slack * size) & (t >= -slack) & (t <= 1 + slack) & (u >= -slack) & (u <= 1 + slack)
    points = lines[a, 0][met] + t[met, None] * r[met]
    step = 1e-6 * max(1e-9, float(np.ptp(lines.reshape(-1, 2), axis=0).max()))
    _, first = np.unique(np.round(points / step).astype(np.int64), axis=0, return_index=True)
    return np.asarray(points[np.sort(first)])
