"""Flattening a part of a picture into its surroundings, as if what stood there had never been."""

from __future__ import annotations

from typing import TYPE_CHECKING

import cv2
import numpy as np

if TYPE_CHECKING:
    from numpy.typing import NDArray


def flattened(colours: NDArray[np.float32], known: NDArray[np.float32]) -> NDArray[np.float32]:
    """The picture (h, w, 3) with everything that is not known (weights 0-1 of shape (h, w)) filled from around it.

    Pull-push interpolation: known colours are averaged down a pyramid until every place has one, and handed up again
    (S. Gortler, R. Grzeszczuk, R. Szeliski, M. Cohen, The Lumigraph, SIGGRAPH 1996, section 3.4). A picture of which
    nothing is known is returned as its own mean.
    """
    if known.max(initial=0) <= 0:
        return np.broadcast_to(colours.mean((0, 1)), colours.shape).astype(np.float32)
    return _filled(colours, np.clip(known, 0, 1).astype(np.float32))


def _filled(colours: NDArray[np.float32], known: NDArray[np.float32]) -> NDArray[np.float32]:
    height, width = known.shape
    if known.min() >= 1 or max(height, width) == 1:
        return colours
    half = ((width + 1) // 2, (height + 1) // 2)
    weight = _resized(known, half)
    pulled = _resized(colours * known[..., None], half) / np.maximum(weight, 1e-6)[..., None]
    # A place with any known colour below it counts as known: four times the mean is one known pixel of four.
    coarse = _filled(pulled.astype(np.float32), np.minimum(1, 4 * weight).astype(np.float32))
    pushed = cv2.resize(coarse, (width, height), interpolation=cv2.INTER_LINEAR).reshape(height, width, 3)
    return np.asarray(colours * known[..., None] + pushed * (1 - known[..., None]), np.float32)


def _resized(array: NDArray[np.float32], size: tuple[int, int]) -> NDArray[np.float32]:
    small = cv2.resize(array, size, interpolation=cv2.INTER_AREA)
    return np.asarray(small, np.float32).reshape(size[1], size[0], *array.shape[2:])
