"""Munsell value of a luminance, by the quintic of ASTM D1535."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

if TYPE_CHECKING:
    from numpy.typing import ArrayLike, NDArray

QUINTIC = (1.1914, -0.22533, 0.23352, -0.020484, 0.00081939)  # of V, V², … V⁵: Y in percent (ASTM D1535-08)
NEWTON = 8  # steps, more than it takes


def luminance_of_munsell(value: ArrayLike) -> NDArray[np.float64]:
    """Y in percent of Munsell values 0-10."""
    v = np.asarray(value, np.float64)
    return np.asarray(sum(factor * v ** (k + 1) for k, factor in enumerate(QUINTIC)), np.float64)


def munsell_value(luminance_percent: ArrayLike) -> NDArray[np.float64]:
    """Munsell value 0-10 of Y in percent, by Newton's method from the cube root."""
    y = np.asarray(luminance_percent, np.float64)
    v = np.clip(2.2 * np.cbrt(y), 0, 10)
    for _ in range(NEWTON):
        slope = sum((k + 1) * factor * v**k for k, factor in enumerate(QUINTIC))
        v = np.clip(v - (luminance_of_munsell(v) - y) / slope, 0, 10)
    return np.asarray(v)
