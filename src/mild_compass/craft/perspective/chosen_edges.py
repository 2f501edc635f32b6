"""Which of a family's edges make its set: long and true ones whose own point is the one that all edges tell together.

A few edges tell a point of their own, off the joint one by chance. By how much follows to first order from how far each
edge misses the joint point and how that changes with the point (one Gauss-Newton step of what ``vanishing`` does), so
that every exchange of one edge for another can be weighed at once.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from mild_compass.craft.perspective.joint_model import FIRST, points_of
from mild_compass.craft.perspective.vanishing import misfits, slopes, tangent_at

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from mild_compass.craft.perspective.joint import JointCamera

    Array = NDArray[np.float64]
    Numbers = NDArray[np.intp]

MOST, LEAST, POOL = 8, 3, 24  # edges of a set; those looked at
TRUE_SHARE = 0.5 / 1500  # of the longer side: edges that run truer than that are taken by length
NEAR_ENOUGH_RAD = 2e-4  # about a third of a pixel on a picture of 1500
ALONG = 0.05  # a level point that lies elsewhere along the horizon does not move it
BETTER = 0.9


def chosen_edges(lines: Array, error_px: Array, camera: JointCamera, family: int) -> Numbers:
    """Which of the picture's edges (n, 2, 2), with errors (n,) across them in px, to take for a family: their numbers.

    Begun with the longest of those that run true; then one is exchanged for another, or left out, as long as that
    brings the point of the chosen ones nearer to the camera's.
    """
    members = np.flatnonzero(camera.families == family)
    length = np.hypot(*(lines[members, 1] - lines[members, 0]).T)
    off = camera.off(lines[members], family, as_seen=True)
    worth = length / (1 + (off**2 + error_px[members] ** 2) / (TRUE_SHARE * camera.unit_px) ** 2)
    pool = members[np.argsort(-worth, kind="stable")][:POOL]
    pulls = _Influence((lines[pool] - camera.middle_px) / camera.unit_px, camera.row, family)
    now = list(range(min(MOST, len(pool))))
    miss = float(pulls.missed([now])[0])
    while miss > NEAR_ENOUGH_RAD:
        rest = [k for k in range(len(pool)) if k not in now]
        tried = [[*now[:i], *now[i + 1 :], k] for i in range(len(now)) for k in rest]
        fewer = [[*now[:i], *now[i + 1 :]] for i in range(len(now))] if len(now) > LEAST else []
        found = [(each, some) for group in (tried, fewer) if group
                 for each, some in zip(pulls.missed(group).tolist(), group, strict=True)]  # fmt: skip
        best = min(found, default=(np.inf, now))
        if best[0] > BETTER * miss:
            break
        miss, now = best
    return pool[now]


class _Influence:
    """How each edge (n, 2, 2), in units about the picture's middle, pulls on the point of a family."""

    def __init__(self, edges: Array, row: Array, family: int) -> None:
        point = _unit(points_of(row)[family])
        if family == 0:
            sides, self.counts = tangent_at(point), np.ones(2)
        else:
            across = _unit(np.cross(*points_of(np.append(row[:FIRST], (0.5, -0.5)))[1:]))  # the horizon's pole
            sides, self.counts = np.stack([across, np.cross(point, across)]), np.array([1.0, ALONG])
        slope, miss = slopes(point, sides, edges), misfits(point, edges)
        self.normal = np.einsum("ni,nj->nij", slope, slope)
        self.gradient = slope * miss[:, None]

    def missed(self, choices: list[list[int]]) -> Array:
        """How far off the point of each choice lies, in radians as seen by a lens as long as the picture is wide."""
        some = np.array(choices)
        normal = self.normal[some].sum(1) + 1e-12 * np.eye(2)
        moved = np.linalg.solve(normal, -self.gradient[some].sum(1)[..., None])[..., 0]
        return np.asarray(np.abs(moved * self.counts).max(1))


def _unit(point: Array) -> Array:
    unit = point / np.linalg.norm(point)
    return np.asarray(unit if unit[2] >= 0 else -unit)
