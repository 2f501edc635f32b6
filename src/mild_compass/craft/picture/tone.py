"""From sRGB bytes to the lightness the eye sees.

sRGB to linear light: IEC 61966-2-1. Luminance Y: Rec. 709 weights at D65. L*: ISO/CIE 11664-4.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike, NDArray

Rgb = NDArray[np.uint8]
Lightness = NDArray[np.float32]
WEIGHTS = (0.2126, 0.7152, 0.0722)  # ITU-R BT.709


def _linear_table() -> NDArray[np.float64]:
    v = np.arange(256) / 255
    return np.where(v <= 0.04045, v / 12.92, ((v + 0.055) / 1.055) ** 2.4)


LINEAR = _linear_table()
_WEIGHTED = np.stack([LINEAR * weight for weight in WEIGHTS]).astype(np.float32)


def luminance(rgb: Rgb) -> NDArray[np.float32]:
    """Relative luminance Y in 0-1 of sRGB bytes (..., 3)."""
    return np.asarray(_WEIGHTED[0][rgb[..., 0]] + _WEIGHTED[1][rgb[..., 1]] + _WEIGHTED[2][rgb[..., 2]])


def lightness_of_luminance(y: NDArray[np.floating]) -> NDArray[np.float64]:
    """L* in 0-100 of relative luminance in 0-1."""
    y = np.asarray(y, np.float64)
    return np.where(y > (6 / 29) ** 3, 116 * np.cbrt(y) - 16, y * (29 / 3) ** 3)


_FINE = 1 << 14
_LIGHTNESS = lightness_of_luminance(np.arange(_FINE + 1) / _FINE).astype(np.float32)
_SLOPE = np.append(np.diff(_LIGHTNESS), np.float32(0))


def lightness(rgb: Rgb) -> Lightness:
    """L* of sRGB bytes (..., 3), to about 0.001 by table."""
    y = luminance(rgb) * np.float32(_FINE)
    index = np.minimum(y.astype(np.int32), _FINE)
    return np.asarray(_LIGHTNESS[index] + _SLOPE[index] * (y - index), np.float32)


_STEPS = lightness_of_luminance(LINEAR)
_BETWEEN = np.append((_STEPS[1:] + _STEPS[:-1]) / 2, np.inf)  # L* half way from each grey to the next
_A_UNIT = 50  # table places to a unit of L*: so fine that two next to each other hold no more than one step
_GREYS_BELOW = np.searchsorted(_BETWEEN, np.arange(100 * _A_UNIT + 1) / _A_UNIT - 1 / _A_UNIT).astype(np.uint8)


def grey_of_lightness(values: ArrayLike) -> NDArray[np.uint8]:
    """The sRGB grey byte that shows each L*."""
    values = np.asarray(values)
    place = (np.clip(values, 0, 100) * _A_UNIT).astype(np.int32)
    below = _GREYS_BELOW[place]  # what lies before the place; the step within it is looked at itself
    return np.asarray(below + (values > _BETWEEN[below]), np.uint8)


def luminance_of_lightness(values: ArrayLike) -> NDArray[np.float64]:
    """Relative luminance in 0-1 of L* in 0-100."""
    values = np.asarray(values, np.float64)
    return np.where(values > 8, ((values + 16) / 116) ** 3, values * (3 / 29) ** 3)


def to_bytes(linear: ArrayLike) -> Rgb:
    """The nearest sRGB bytes of linear light in 0-1, of any shape."""
    return np.searchsorted((LINEAR[1:] + LINEAR[:-1]) / 2, np.asarray(linear)).astype(np.uint8)
