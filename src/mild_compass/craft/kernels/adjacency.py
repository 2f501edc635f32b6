"""Greedy merging on a region adjacency graph: the Python side of adjacency.c."""

from __future__ import annotations

from typing import TYPE_CHECKING, NamedTuple

import numpy as np

from mild_compass.craft.kernels.library import COUNT, DOUBLES, FLAGS, NUMBERS, REAL, kernel

if TYPE_CHECKING:
    from numpy.typing import NDArray

    Array = NDArray[np.float64]
    Flags = NDArray[np.bool_]
    Numbers = NDArray[np.int64]

_GRAPH = (NUMBERS, NUMBERS, DOUBLES, COUNT)  # an edge's two regions, its length, the number of edges
_absorb_small = kernel("absorb_small", NUMBERS, NUMBERS, COUNT, *_GRAPH, REAL, NUMBERS, returns=COUNT)
_order_merges = kernel(
    "order_merges",
    *(NUMBERS, DOUBLES, DOUBLES, COUNT, COUNT),
    *_GRAPH,
    REAL,
    *(NUMBERS, NUMBERS, NUMBERS, NUMBERS, NUMBERS, FLAGS, DOUBLES, DOUBLES, DOUBLES),
    returns=COUNT,
)
_find_stops = kernel("find_stops", FLAGS, DOUBLES, DOUBLES, COUNT, NUMBERS, returns=COUNT)


class Order(NamedTuple):
    """The steps (n,) of a merging: the region that takes a value, and which; each region that is joined (j,) and the
    one it goes to; and from before the first step (n + 1,) how many are joined, whether one was forced, its price, the
    loss and the border."""

    moved: Numbers
    to: Numbers
    gone: Numbers
    taker: Numbers
    joined: Numbers
    forced: Flags
    price: Array
    loss: Array
    border: Array


def owners_without_small(
    areas: Numbers, values: Numbers, one: Numbers, other: Numbers, lengths: Array, smallest_px: float
) -> Numbers:
    """Which region each of n ends in when every one under a size goes to the neighbour that shares most border (ties:
    the nearer value, the darker, the first), the smallest first; what has grown is judged anew. ``areas`` is
    changed."""
    owner = np.empty(len(areas), np.int64)
    _absorb_small(areas, values, len(areas), one, other, lengths, len(one), smallest_px, owner)
    return owner


def merging_order(
    values: Numbers, costs: Array, sizes: Array, one: Numbers, other: Numbers, lengths: Array, region_price: float
) -> Order:
    """Merge regions (n,) with their costs (n, k) at each value, their sizes in those of the smallest, and the edges
    (m,) of their graph: each time that which costs the least fit for the border it saves, until two are left.

    ``values``, ``costs`` and ``sizes`` are changed. Region merging under the piecewise constant model (G. Koepfler,
    C. Lopez, J.-M. Morel, SIAM J. Numer. Anal. 31, 1994).
    """
    n, levels = costs.shape
    moved, to, gone, taker = (np.empty(n, np.int64) for _ in range(4))
    joined, forced = np.zeros(n + 1, np.int64), np.zeros(n + 1, np.bool_)
    price, loss, border = (np.zeros(n + 1) for _ in range(3))
    k = _order_merges(
        *(values, costs, sizes, n, levels, one, other, lengths, len(one), region_price),
        *(moved, to, gone, taker, joined, forced, price, loss, border),
    )
    left = joined[k]
    along = slice(k + 1)
    return Order(
        *(moved[:k], to[:k], gone[:left], taker[:left], joined[along], forced[along]),
        *(price[along], loss[along], border[along]),
    )


def stops_of(forced: Flags, price: Array, loss: Array) -> Numbers:
    """The steps after which one may stand: not before what is forced away, and a step that gains fit goes with the one
    before it."""
    kept = np.empty(len(forced), np.int64)
    count = _find_stops(forced, price, loss, len(forced), kept)
    return kept[:count]
