"""A checkerboard ICM sweep on a Potts energy: a picture fitted by a few flat values, with a price on every border.

The piecewise constant model of D. Mumford & J. Shah, Comm. Pure Appl. Math. 42, 1989, its values given: the flattened
picture divided at the thresholds, and then the sum of squared differences plus so much for each pixel of border made
less by single pixels (J. Besag, J. Royal Stat. Soc. B 48, 1986).
"""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from mild_compass.craft.kernels import potts

if TYPE_CHECKING:
    from numpy.typing import NDArray

    Array = NDArray[np.float32]
    Steps = NDArray[np.uint8]

NO_VALUE = 7  # beyond the edge; there are at most seven, 0 to 6
MOST_TURNS = 40  # where border is dearer here than there, two pixels might change over for ever


def divided(lightness: Array, thresholds: tuple[float, ...]) -> Steps:
    """The value of each pixel (h, w): how many thresholds its L* reaches."""
    return potts.reached(np.ascontiguousarray(lightness), np.array(thresholds, np.float32))


def fitted(
    steps: Steps,
    lightness: Array,
    thresholds: tuple[float, ...],
    means: tuple[float, ...],
    price: float,
    weight: Array | None = None,
) -> Steps:
    """Values (h, w) brought nearer to the cheapest: every second pixel at a border, as on a chessboard, takes what is
    cheapest beside its four neighbours, again and again until none there would take another value than it has.

    A value costs its squared difference from the L* (h, w), so that two cost the same at the threshold between them,
    and each side of a pixel beside another value the ``price``, ``weight`` (h, w) times that in places.
    """
    marks, rises = np.array(thresholds, np.float32), np.float32(2) * np.diff(np.array(means, np.float32))
    prices = np.full((1, 1), price, np.float32) if weight is None else np.float32(price) * weight
    return potts.descended(steps, lightness, marks, rises, prices, MOST_TURNS)
