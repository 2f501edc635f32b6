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
APART = 9.0  # ΔE (CIE 1976) between the far sides of an outline


def kinds_of(rgb: Rgb, lines: list[Array]) -> list[LineKind]:
    """The kind of each line (n, 2) in pixels of a picture (h, w, 3)."""
    light = cv2.GaussianBlur(LINEAR[rgb].astype(np.float32), (0, 0), 1.5)
    linear = np.asarray(np.log(light + 0.01), np.float32)
    soft = cv2.GaussianBlur(rgb, (0, 0), 3.0).astype(np.float32) / 255
    lab = np.asarray(cv2.cvtColor(soft, cv2.COLOR_RGB2Lab), np.float32)
    return [_kind(line, linear, lab) for line in lines]


def _kind(line: Array, linear: NDArray[np.float32], lab: NDArray[np.float32]) -> LineKind:
    spots, aside = _along(line)
    fall = _at(linear, spots + NEAR_PX * aside) - _at(linear, spots - NEAR_PX * aside)
    mean = np.abs(fall.mean(1))
    same = (np.abs(fall - fall.mean(1, keepdims=True)).max(1) <= SAME_SURFACE + 0.08 * mean) & (mean >= LEAST_FALL)
    if float(same.mean()) >= MOSTLY:
        return "shadow"
    far = _at(lab, spots + FAR_PX * aside) - _at(lab, spots - FAR_PX * aside)
    return "outline" if float(np.median(np.sqrt((far**2).sum(1)))) >= APART else "inner"


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
    x, y = (spots[:, axis].astype(np.float32)[:, None] - np.float32(0.5) for axis in (0, 1))
    found = cv2.remap(values, x, y, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
    return np.asarray(found[:, 0], np.float64)
