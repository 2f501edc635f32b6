"""Straightening one edge the lens has bent: the picture near it is shifted until the edge lies on its chord."""

from __future__ import annotations

from typing import TYPE_CHECKING

import cv2
import numpy as np

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from mild_compass.craft.picture.tone import Rgb

SPREAD = 3.0  # the shift dies away over so many times the largest bend
LEAST_SPREAD = 0.05  # … and at least over this share of the edge's length


def straightened(rgb: Rgb, points: NDArray[np.float64]) -> None:
    """Shift pixels in place so that the edge traced by points (n, 2), in pixels, comes to lie straight.

    The ends stay. Square to the chord the shift is that of the traced edge, dying away smoothly to nothing.
    """
    start, end = points[0], points[-1]
    length = float(np.hypot(*(end - start)))
    if length < 2 or len(points) < 3:
        return
    along = (end - start) / length
    square = np.array([-along[1], along[0]])
    places = (points - start) @ along
    bends = (points - start) @ square
    order = np.argsort(places, kind="stable")
    places, bends = places[order], bends[order]
    spread = max(SPREAD * float(np.abs(bends).max()), LEAST_SPREAD * length)
    low = np.floor(np.minimum(start, end) - 2 * spread).astype(int)
    high = np.ceil(np.maximum(start, end) + 2 * spread).astype(int)
    left, top = max(0, low[0]), max(0, low[1])
    right, bottom = min(rgb.shape[1], high[0]), min(rgb.shape[0], high[1])
    if right <= left or bottom <= top:
        return
    x, y = np.meshgrid(np.arange(left, right) + 0.5, np.arange(top, bottom) + 0.5)
    t = (x - start[0]) * along[0] + (y - start[1]) * along[1]
    off = (x - start[0]) * square[0] + (y - start[1]) * square[1]
    bend = np.interp(t, places, bends, left=0.0, right=0.0)
    shift = bend * np.exp(-((off / spread) ** 2))
    map_x = (x + shift * square[0] - 0.5).astype(np.float32)
    map_y = (y + shift * square[1] - 0.5).astype(np.float32)
    rgb[top:bottom, left:right] = cv2.remap(rgb, map_x, map_y, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
