"""Ridge detection of drawn lines, and the match profile of each piece across its place.

The response is the second derivative of the darkness across the direction looked for (C. Steger, IEEE PAMI 20(2),
1998), pressed together so that a faint line counts nearly as much as a dark one and noise counts for nothing.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import cv2
import numpy as np

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from mild_compass.craft.check.flat import Grey
    from mild_compass.craft.check.pieces import Pieces

    Array = NDArray[np.float64]

LINE_MM = 0.24  # half the width of a pencil line, about
STEP_MM = 0.1  # of the offsets looked at
NOISES = 3.0  # of the response of bare paper: less is no line
GRAIN_MM, CLEAR, GRAINY = 5.0, 0.32, 0.45  # how far round a place; of what lies there in ridges: lines; texture
MOST_ROWS = 32_000  # OpenCV's limit for one call


@dataclass(frozen=True, eq=False, slots=True)
class Ridges:
    """Second derivatives of the darkness (h, w, 3): xx, xy, yy, in units of the bare paper's own."""

    second: Grey
    px_per_mm: float

    def across(self, at_mm: NDArray[np.floating], normal: NDArray[np.floating]) -> NDArray[np.float32]:
        """How much of a line across ``normal`` there is at places (n, m, 2), normals (n, m or 1, 2): (n, m), 0 to 1."""
        found = []
        for start in range(0, len(at_mm), MOST_ROWS):
            xy = at_mm[start : start + MOST_ROWS].astype(np.float32) * np.float32(self.px_per_mm) - np.float32(0.5)
            n = normal.astype(np.float32, copy=False)[start : start + MOST_ROWS]
            seen = cv2.remap(self.second, xy[..., 0], xy[..., 1], cv2.INTER_LINEAR, borderMode=cv2.BORDER_CONSTANT)
            xx, xy2, yy = seen[..., 0], seen[..., 1], seen[..., 2]
            found.append(pressed(-(n[..., 0] ** 2 * xx + 2 * n[..., 0] * n[..., 1] * xy2 + n[..., 1] ** 2 * yy)))
        return np.asarray(np.concatenate(found), np.float32)


def pressed(response: NDArray[np.floating]) -> NDArray[np.floating]:
    """A response in units of the bare paper's own as how much of a line it is, 0 to 1."""
    over = np.maximum(response - NOISES, 0)
    return np.asarray(over / (over + 2 * NOISES), response.dtype)


def ridges_of(ink: Grey, px_per_mm: float, line_mm: float = LINE_MM) -> Ridges:
    """The ridges of a flat sheet's darkness (h, w)."""
    sigma = max(1.1, line_mm * px_per_mm)
    soft = cv2.GaussianBlur(ink, (0, 0), sigma)
    xx = cv2.Sobel(soft, cv2.CV_32F, 2, 0, ksize=3) / 4
    yy = cv2.Sobel(soft, cv2.CV_32F, 0, 2, ksize=3) / 4
    xy = cv2.Sobel(soft, cv2.CV_32F, 1, 1, ksize=3) / 4
    noise = 1.4826 * float(np.median(abs(xx[::5, ::5] - np.median(xx[::5, ::5]))))
    floor = 0.02 / max(sigma, 1.0) ** 2 / 2  # a drawing on perfectly smooth paper: what a hundredth of grey makes
    second = np.stack([xx, xy, yy], -1) / max(noise, floor / NOISES)
    return Ridges(np.asarray(second * _apart(second, px_per_mm)[..., None], np.float32), px_per_mm)


def _apart(second: NDArray[np.floating], px_per_mm: float) -> NDArray[np.float32]:
    """1 where lines stand apart, 0 in hatching and grain (h, w): there, anything would seem to be followed."""
    strong = np.maximum(-second[..., 0], -second[..., 2]) > 2 * NOISES
    reach = 2 * round(GRAIN_MM * px_per_mm / 2) + 1
    share = cv2.blur(strong.astype(np.float32), (reach, reach))
    return np.asarray(np.clip((GRAINY - share) / (GRAINY - CLEAR), 0, 1), np.float32)


@dataclass(frozen=True, eq=False, slots=True)
class Profiles:
    """How well each piece is followed (n, m) at offsets (m,) in mm along its normal from where it is expected."""

    followed: Array
    offsets: Array

    def slackened(self, slack_mm: float) -> Array:
        """The best within a slack to either side, at every offset."""
        reach = 2 * round(slack_mm / (self.offsets[1] - self.offsets[0])) + 1
        return np.asarray(cv2.dilate(self.followed, np.ones((1, reach))), np.float64)


def profiles(ridges: Ridges, pieces: Pieces, moved: Array, reach_mm: float) -> Profiles:
    """The profiles of all pieces about where an affine map ``moved`` (2, 3) of the sheet takes them."""
    count = round(reach_mm / STEP_MM)
    offsets = np.asarray(np.arange(-count, count + 1) * STEP_MM, np.float64)
    at = (pieces.at @ moved[:, :2].T + moved[:, 2]).astype(np.float32).reshape(-1, 2)
    normal = turned_normals(pieces.normal, moved).astype(np.float32).reshape(-1, 2)
    points = at[:, None] + normal[:, None] * offsets.astype(np.float32)[:, None]
    got = ridges.across(points, normal[:, None])
    if not len(pieces):
        return Profiles(np.zeros((0, len(offsets))), offsets)
    followed = got.reshape(len(pieces), -1, len(offsets)).mean(1)
    smooth = cv2.GaussianBlur(followed, (0, 0), sigmaX=0.8, sigmaY=1e-3)
    return Profiles(np.asarray(smooth, np.float64), offsets)


def turned_normals(normal: Array, moved: Array) -> Array:
    """Normals (…, 2) of lines that an affine map has moved."""
    found = normal @ np.linalg.inv(moved[:, :2])
    return np.asarray(found / np.hypot(found[..., 0], found[..., 1])[..., None])
