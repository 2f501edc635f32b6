"""What a line of a photo is: the outline of something, a line inside it, or the edge of a shadow.

Across a shadow's edge all three channels of light fall by nearly the same share, for the surface is the same (after S.
Barnard & G. Finlayson, Color Research & Application 25, 2000); across an outline what lies further off differs too.
"""

from __future__ import annotations

from typing import TYPE_CHECKING, Literal

import cv2
import numpy as np

from mild_compass.craft.picture.tone import LINEAR

if TYPE_CHECKING:
    from numpy.typing import NDArray

    Array = NDArray[np.float64]
    Rgb = NDArray[np.uint8]

LineKind = Literal["outline", "inner", "shadow"]
EVERY_PX = 3.0  # a place along the line is looked at
NEAR_PX, FAR_PX = 5.0, 15.0  # to either side: the surface itself, and what it belongs to
SAME_SURFACE = 0.10  # how far the channels' logarithms of falling may lie apart
LEAST_FALL = 0.35  # natural logarithm: a shadow is a third darker at least
MOSTLY = 0.6  # of the places
ROW_OF_SPOTS = 8192
APART = 9.0  # ΔE (CIE 1976) between the far sides of an outline


def kinds_of(rgb: Rgb, lines: list[Array]) -> list[LineKind]:
    """The kind of each line (n, 2) in pixels of a picture (h, w, 3)."""
    light = cv2.GaussianBlur(LINEAR[rgb].astype(np.float32), (0, 0), 1.5)
    linear = np.asarray(np.log(light + 0.01), np.float32)
    soft = cv2.GaussianBlur(rgb, (0, 0), 3.0).astype(np.float32) / 255
    lab = np.asarray(cv2.cvtColor(soft, cv2.COLOR_RGB2Lab), np.float32)
    along = [_along(line) for line in lines]
    if not along:
        return []
    spots, aside = (np.concatenate(each) for each in zip(*along, strict=True))
    ends = np.cumsum([len(each) for each, _ in along])[:-1]
    fall = _at(linear, spots + NEAR_PX * aside) - _at(linear, spots - NEAR_PX * aside)
    far = _at(lab, spots + FAR_PX * aside) - _at(lab, spots - FAR_PX * aside)
    apart = np.sqrt((far**2).sum(1))
    return [_kind(*each) for each in zip(np.split(_shaded(fall), ends), np.split(apart, ends), strict=True)]


def _shaded(fall: Array) -> NDArray[np.bool_]:
    """Where all channels fall alike (n, 3), as across a shadow's edge."""
    middle = fall.mean(1, keepdims=True)
    same = np.abs(fall - middle).max(1) <= SAME_SURFACE + 0.08 * np.abs(middle[:, 0])
    return np.asarray(same & (np.abs(middle[:, 0]) >= LEAST_FALL))


def _kind(shaded: NDArray[np.bool_], apart: Array) -> LineKind:
    if float(shaded.mean()) >= MOSTLY:
        return "shadow"
    return "outline" if float(np.median(apart)) >= APART else "inner"


def _along(line: Array) -> tuple[Array, Array]:
    """Places on a line and the unit vectors across it."""
    length = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(line, axis=0).T))])
    count = max(3, round(length[-1] / EVERY_PX))
    at = (np.arange(count) + 0.5) / count * length[-1]
    spots = np.stack([np.interp(at, length, line[:, axis]) for axis in (0, 1)], 1)
    way = np.gradient(spots, axis=0)
    way /= np.maximum(np.hypot(*way.T), 1e-9)[:, None]
    return spots, np.stack([way[:, 1], -way[:, 0]], 1)


def _at(values: NDArray[np.float32], spots: Array) -> Array:
    """A picture (h, w, 3) at places (n, 2)."""
    rows = -(-len(spots) // ROW_OF_SPOTS)  # OpenCV takes no longer row than 32 767
    laid = np.resize(spots.astype(np.float32) - np.float32(0.5), (rows, ROW_OF_SPOTS, 2))
    found = cv2.remap(values, laid[..., 0], laid[..., 1], cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
    return np.asarray(found.reshape(-1, values.shape[2])[: len(spots)], np.float64)
