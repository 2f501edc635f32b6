"""A region-merging hierarchy (dendrogram of a region adjacency graph): nested shapes from crumbs to two.

Each step gives one shape the value of a neighbour, where that costs the least fit for the border it saves (region
merging under the piecewise constant model: G. Koepfler, C. Lopez, J.-M. Morel, SIAM J. Numer. Anal. 31, 1994). Ties
go to the smaller shape, then to the one that begins first, then to the darker value: it is deterministic.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from mild_compass.craft.checkpoint import checkpoint
from mild_compass.craft.kernels import runs
from mild_compass.craft.kernels.adjacency import merging_order, stops_of
from mild_compass.craft.values.potts_fit import NO_VALUE, divided, fitted
from mild_compass.craft.values.shapes import Shapes, shapes_of
from mild_compass.craft.values.total_variation import flattened

if TYPE_CHECKING:
    from numpy.typing import NDArray

    Array = NDArray[np.float64]
    Lightness = NDArray[np.float32]
    Numbers = NDArray[np.int64]
    Steps = NDArray[np.uint8]

# How far the picture is flattened, L* · px where it deviates by 1 L*, and the price of a pixel of border in its
# variances by which what is divided then is fitted: for the borders there are, and for what is let in besides.
BASE, CRUMBS = (1.31, 2.0), (0.39, 0.7)
GROWS = 0.8  # a picture of stronger contrasts is flattened further, but not quite in proportion
EVEN_PRICE = 1.7  # of a pixel of border, in variances: how dear it is to flatten the base so far
PRICE_OF_A_SHAPE = 80.0  # in pixels of border, on a picture of 600: one shape less is worth something by itself
EVEN = 50.0  # how simple a picture is at that price
DOUBLED_EVERY = 8.0  # steps of simplicity
SIMPLEST = 100.0  # the slider's end


@dataclass(frozen=True, eq=False, slots=True)
class Hierarchy:
    """Nested shapes of a picture.

    ``crumbs`` (n,) are the shapes at the beginning. Step k gives the shape of crumb ``moved[k]`` the value ``to[k]``
    and joins it with the shapes of its new value beside it: crumb ``gone[j]`` goes to crumb ``taker[j]``, for j up to
    ``joined[k]``. The arrays of stops tell where one may stand: how many steps that is, its price in variances, the
    loss of fit (L*² · px), the border (px) and the shapes that are left; loss and border are monotone.
    """

    crumbs: Shapes
    moved: Numbers
    to: Steps
    joined: Numbers
    gone: Numbers
    taker: Numbers
    stop_steps: Numbers
    prices: Array
    losses: Array
    borders: Array
    counts: Numbers

    def stop_at(self, simple: float) -> int:
        """The stop for so much simplicity, 0 to 100; at 100 as few shapes as there can be."""
        if simple >= SIMPLEST:
            return len(self.stop_steps) - 1
        return max(0, int(np.searchsorted(self.prices, price_at(simple), side="right")) - 1)

    def steps_at(self, stop: int) -> Steps:
        """The value of each pixel (h, w) at a stop."""
        values, owner, count = self.crumbs.values.copy(), np.arange(len(self.crumbs.values)), int(self.stop_steps[stop])
        values[self.moved[:count]] = self.to[:count]  # of several the last
        joined = int(self.joined[count - 1]) if count else 0
        owner[self.gone[:joined]] = self.taker[:joined]
        return self.crumbs.filled(runs.resolved_values(owner, values))


def price_at(simple: float) -> float:
    """The price of border, in variances, for so much simplicity."""
    return float(EVEN_PRICE * 2 ** ((simple - EVEN) / DOUBLED_EVERY))


@dataclass(frozen=True, eq=False, slots=True)
class Flat:
    """A picture made ready for all its divisions: its L* (h, w) as it is, flattened for the base and less for the
    crumbs; ``weight`` (h, w) makes border dearer (over 1) or cheaper in places, and shapes that may stay larger or
    smaller."""

    lightness: Lightness
    base: Lightness
    crumbs: Lightness
    weight: Lightness | None
    variance: float


def flat_of(lightness: Lightness, weight: Lightness | None = None) -> Flat:
    """L* values (h, w) made ready."""
    variance = max(float(lightness.var()), 1.0)
    base, crumbs = (flattened(lightness, each[0] * variance ** (GROWS / 2), weight) for each in (BASE, CRUMBS))
    return Flat(lightness, base, crumbs, weight, variance)


def hierarchy_of(flat: Flat, thresholds: tuple[float, ...], means: tuple[float, ...], smallest_px: float) -> Hierarchy:
    """Nested shapes of a picture parted by thresholds into values with these means."""
    base = _fitted(flat, flat.base, thresholds, means, BASE[1])
    checkpoint()
    crumbs = _fitted(flat, flat.crumbs, thresholds, means, CRUMBS[1])
    checkpoint()
    return _merged(with_islands(base, crumbs, smallest_px, flat.weight), flat, thresholds, means, smallest_px)


def _fitted(
    flat: Flat, less: Lightness, thresholds: tuple[float, ...], means: tuple[float, ...], price: float
) -> Steps:
    return fitted(divided(less, thresholds), flat.lightness, thresholds, means, price * flat.variance, flat.weight)


def with_islands(base: Steps, crumbs: Steps, smallest_px: float, weight: Lightness | None) -> Steps:
    """A fitted picture with the crumbs let in that touch nothing of their own value: so they can vanish again without
    moving any other border. What is too small in the picture is as if it were not there."""
    shapes = shapes_of(base)
    solid = _sizes(shapes, weight) >= smallest_px
    firm = base.copy()
    runs.fill_some(firm, shapes.begins, shapes.numbers, np.where(solid, shapes.values, NO_VALUE), ~solid)
    other = np.where(crumbs == firm, np.uint8(NO_VALUE), crumbs)
    beside = shapes_of(other)
    kept = (beside.values != NO_VALUE) & (_sizes(beside, weight) >= smallest_px)
    runs.drop_touching(kept, firm, beside.begins, beside.numbers, beside.values)
    steps = base.copy()
    runs.fill_some(steps, beside.begins, beside.numbers, beside.values, kept)
    return steps


def _sizes(shapes: Shapes, weight: Lightness | None) -> Array:
    """The pixels of each shape, fewer where border is dearer."""
    areas = shapes.areas().astype(np.float64)
    return areas if weight is None else np.asarray(areas**2 / np.maximum(shapes.sums(weight)[0], 1e-9))


def _merged(
    steps: Steps, flat: Flat, thresholds: tuple[float, ...], means: tuple[float, ...], smallest_px: float
) -> Hierarchy:
    crumbs = shapes_of(steps)
    sizes = _sizes(crumbs, flat.weight) / max(smallest_px, 1e-9)
    shape_price = PRICE_OF_A_SHAPE * max(steps.shape) / 600
    each = _costs(crumbs, flat.lightness, thresholds, means)
    order = merging_order(crumbs.values.copy(), each, sizes, *crumbs.borders(flat.weight), shape_price)
    price = order.price / flat.variance
    stops = stops_of(order.forced, price, order.loss)
    return Hierarchy(
        crumbs,
        order.moved,
        order.to.astype(np.uint8),
        order.joined[1:],
        order.gone,
        order.taker,
        stops,
        price[stops],
        order.loss[stops],
        order.border[stops],
        len(crumbs.values) - order.joined[stops],
    )


def _costs(shapes: Shapes, lightness: Lightness, thresholds: tuple[float, ...], means: tuple[float, ...]) -> Array:
    """What each value costs each shape (count, n): its squared differences, so that two values cost the same at the
    threshold between them."""
    areas, (sums, squares) = shapes.areas(), shapes.sums(lightness)
    found = [squares - 2 * means[0] * sums + areas * means[0] ** 2]
    for k, mark in enumerate(thresholds):
        found.append(found[-1] + 2 * (means[k + 1] - means[k]) * (mark * areas - sums))
    return np.stack(found, 1)
