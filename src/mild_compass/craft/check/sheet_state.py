"""What state a flat sheet is in: bare, drawn on, painted over, covered by a hand."""

from __future__ import annotations

from typing import TYPE_CHECKING

import cv2
import numpy as np

from mild_compass.craft.check.ridges import ridges_of

if TYPE_CHECKING:
    from numpy.typing import NDArray

LEAST_INKED = 0.0012  # of the sheet within a line: a frame alone is twice that
ENOUGH_PX_PER_MM = 2.5
STRONG = 8.0  # times the paper's own noise
PAINTED_SHARE, TONE = 0.6, 9.0  # of the sheet that is darker or more coloured than paper by so much L*, a*, b*
COVER_CHROMA = 14.0


def inked(ink: NDArray[np.float32], px_per_mm: float) -> bool:
    """Whether there is anything drawn on the sheet, away from its edges."""
    rim = round(3 * px_per_mm)
    inside = ink[rim:-rim, rim:-rim]
    if px_per_mm > 2 * ENOUGH_PX_PER_MM:  # half as fine tells as well whether there is a line
        inside = np.asarray(cv2.resize(inside, None, fx=0.5, fy=0.5, interpolation=cv2.INTER_AREA), np.float32)
        px_per_mm /= 2
    second = ridges_of(inside, px_per_mm).second
    across = -np.minimum(second[..., 0], second[..., 2])
    lines = cv2.morphologyEx((across > STRONG).astype(np.uint8), cv2.MORPH_OPEN, np.ones((2, 2), np.uint8))
    _, _, stats, _ = cv2.connectedComponentsWithStats(lines)
    spans = np.maximum(stats[1:, cv2.CC_STAT_WIDTH], stats[1:, cv2.CC_STAT_HEIGHT])
    long = stats[1:, cv2.CC_STAT_AREA][spans > 2 * px_per_mm]
    return bool(long.sum() > LEAST_INKED * lines.size)


def _coarse_lab(rgb: NDArray[np.uint8], px_per_mm: float) -> NDArray[np.float32]:
    """The sheet without its lines, about a pixel to a mm, in L*, a*, b*."""
    size = (max(8, round(rgb.shape[1] / px_per_mm)), max(8, round(rgb.shape[0] / px_per_mm)))
    small = cv2.resize(rgb, size, interpolation=cv2.INTER_AREA)
    closed = cv2.morphologyEx(small, cv2.MORPH_CLOSE, np.ones((3, 3), np.uint8))
    return np.asarray(cv2.cvtColor(closed.astype(np.float32) / 255, cv2.COLOR_RGB2LAB), np.float32)


def painted(rgb: NDArray[np.uint8], px_per_mm: float) -> bool:
    """Whether most of the sheet is covered with tone or colour: its own paler rim is no measure for it then."""
    lab = _coarse_lab(rgb, px_per_mm)
    paper = np.quantile(lab.reshape(-1, 3), 0.97, axis=0)[0]
    hue = lab[..., 1:] - np.median(lab[_pale(lab)][:, 1:], axis=0)
    rough = abs(lab[..., 0] - cv2.GaussianBlur(lab[..., 0], (0, 0), 6.0)) > 3.0
    toned = (np.hypot(hue[..., 0], hue[..., 1]) > TONE) | (rough & (lab[..., 0] < paper - TONE))
    return bool(toned.mean() > PAINTED_SHARE)


def _pale(lab: NDArray[np.float32]) -> NDArray[np.bool_]:
    return np.asarray(lab[..., 0] >= np.quantile(lab[..., 0], 0.8))


def cover(rgb: NDArray[np.uint8], px_per_mm: float) -> NDArray[np.bool_]:
    """Where something else than paper and pencil lies on the sheet, as a hand or a sleeve: about a pixel to a mm."""
    lab = _coarse_lab(rgb, px_per_mm)
    pale = np.median(lab[_pale(lab)], axis=0)
    off = np.hypot(lab[..., 1] - pale[1], lab[..., 2] - pale[2]) > COVER_CHROMA  # tones of graphite have no hue
    return np.asarray(cv2.morphologyEx(off.astype(np.uint8), cv2.MORPH_OPEN, np.ones((9, 9), np.uint8)) > 0)
