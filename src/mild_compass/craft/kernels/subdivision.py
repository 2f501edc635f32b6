"""A planar subdivision from lines: which cross, and the faces between them: the Python side of subdivision.c.

Line k holds points (n, 2) from ``first[k]`` to ``first[k + 1]``.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from mild_compass.craft.kernels.library import COUNT, DOUBLES, FLAGS, NUMBERS, REAL, kernel

if TYPE_CHECKING:
    from numpy.typing import NDArray

    Array = NDArray[np.float64]
    Flags = NDArray[np.bool_]
    Numbers = NDArray[np.int64]

CELL_PX = 4.0  # the side of a cell of the grid: some pieces of a line long
NOUGHT_PX2 = 1e-9  # of an area: what lies nearer to a line lies on it

_find_crossing = kernel("find_crossing", DOUBLES, COUNT, NUMBERS, COUNT, REAL, REAL, FLAGS, returns=COUNT)
_walk_faces = kernel(
    "walk_faces", NUMBERS, NUMBERS, NUMBERS, NUMBERS, COUNT, COUNT, NUMBERS, NUMBERS, NUMBERS, returns=COUNT
)
_ring_points = kernel(
    "ring_points", DOUBLES, NUMBERS, NUMBERS, NUMBERS, COUNT, DOUBLES, NUMBERS, DOUBLES, returns=COUNT
)


def crossing_lines(points: Array, first: Numbers) -> Flags:
    """Lines (m,) that cross or touch another or themselves, but where they end in the same point."""
    wrong = np.empty(len(first) - 1, np.bool_)
    _find_crossing(points, len(points), first, len(wrong), CELL_PX, NOUGHT_PX2, wrong)
    return wrong


def face_walks(
    node: Numbers, way: Numbers, table: Numbers, face: Numbers, outside: int
) -> tuple[Numbers, Numbers, Numbers]:
    """Walks along half-edges with the same face to the left all the way round: the ends (n,) at which lines are
    entered, 2k for the start of line k and 2k + 1 for its end, where among these each walk begins (w + 1,), and its
    face (w,).

    Of each end (n,): its node, the way it goes from there (0 right, 1 down, 2 left, 3 up) and the face left of a line
    entered there; ``table`` (nodes, 4) is the end that goes each way from a node, -1 where none does.
    """
    ends, begins, labels = (
        np.empty(len(node), np.int64),
        np.empty(len(node) + 1, np.int64),
        np.empty(len(node), np.int64),
    )
    walks = _walk_faces(node, way, table, face, len(node), outside, ends, begins, labels)
    return ends[: begins[walks]], begins[: walks + 1], labels[:walks]


def rings(points: Array, first: Numbers, ends: Numbers, begins: Numbers) -> tuple[Array, Numbers, Array]:
    """The walks as rings of points (n, 2), where each begins among these (w + 1,), and twice its signed area (w,)."""
    walks = len(begins) - 1
    around, starts, areas = np.empty((2 * len(points), 2)), np.empty(walks + 1, np.int64), np.empty(walks)
    count = _ring_points(points, first, ends, begins, walks, around, starts, areas)
    return around[:count], starts, areas
