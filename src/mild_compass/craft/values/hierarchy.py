"""Shapes that merge in a fixed nested order, from crumbs to two: a picture made simpler step by step.

Each step gives one shape the value of a neighbour, where that costs the least fit for the border it saves (region
merging under the piecewise constant model: G. Koepfler, C. Lopez, J.-M. Morel, SIAM J. Numer. Anal. 31, 1994). Ties
go to the smaller shape, then to the one that begins first, then to the darker value: it is deterministic.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from mild_compass.craft.checkpoint import checkpoint
from mild_compass.craft.compiled import compiled
from mild_compass.craft.values.fitting import divided, fitted
from mild_compass.craft.values.flattening import flattened
from mild_compass.craft.values.order import merging_order, stops_of
from mild_compass.craft.values.shapes import areas_of, borders_of, shapes_of, sums_of

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from mild_compass.craft.values.shapes import Labels

    Array = NDArray[np.float64]
    Flags = NDArray[np.bool_]
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
SIMPLEST = 100.0


@dataclass(frozen=True, eq=False, slots=True)
class Hierarchy:
    """Nested shapes of a picture.

    ``labels`` (h, w) numbers the crumbs; ``values`` (n,) are theirs at the beginning. Step k gives the shape of crumb
    ``moved[k]`` the value ``to[k]`` and joins it with the shapes of its new value beside it: crumb ``gone[j]`` goes to
    crumb ``taker[j]``, for j up to ``joined[k]``. The arrays of stops tell where one may stand: how many steps that is,
    its price in variances, the loss of fit (L*² · px), the border (px) and the shapes that are left; loss and border
    are monotone.
    """

    labels: Labels
    values: Steps
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
        values, owner, count = self.values.copy(), np.arange(len(self.values)), int(self.stop_steps[stop])
        values[self.moved[:count]] = self.to[:count]  # of several the last
        joined = int(self.joined[count - 1]) if count else 0
        owner[self.gone[:joined]] = self.taker[:joined]
        return _valued(self.labels, owner, values)


@compiled
def _valued(labels: Labels, owner: Numbers, values: Steps) -> Steps:
    """The value of each pixel (h, w): that of the crumb which its own has gone to, from one to the next."""
    told = np.empty(len(owner), np.uint8)
    for crumb in range(len(owner)):
        at = crumb
        while owner[at] != at:
            owner[at] = owner[owner[at]]
            at = owner[at]
        told[crumb] = values[at]
    steps = np.empty(labels.shape, np.uint8)
    for y in range(labels.shape[0]):
        for x in range(labels.shape[1]):
            steps[y, x] = told[labels[y, x]]
    return steps


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
    shapes, values = shapes_of(base)
    solid = _sizes(shapes, weight, len(values)) >= smallest_px
    other = _others(base, crumbs, shapes, solid)
    labels, values = shapes_of(other)
    kept = (values > 0) & (_sizes(labels, weight, len(values)) >= smallest_px)
    return _let_in(kept, labels, other, base, shapes, solid)


def _sizes(labels: Labels, weight: Lightness | None, count: int) -> Array:
    """The pixels of each shape, fewer where border is dearer."""
    areas = areas_of(labels, count).astype(np.float64)
    if weight is None:
        return areas
    return np.asarray(areas**2 / np.maximum(sums_of(labels, weight, count)[1], 1e-9))


@compiled
def _others(base: Steps, crumbs: Steps, shapes: Labels, solid: Flags) -> Steps:
    """One more than the value of each pixel of the crumbs that is not the same in a solid shape of the base; 0 where it
    is."""
    other = np.empty_like(base)
    for y in range(base.shape[0]):
        for x in range(base.shape[1]):
            same = crumbs[y, x] == base[y, x] and solid[shapes[y, x]]
            other[y, x] = 0 if same else crumbs[y, x] + 1
    return other


@compiled
def _let_in(kept: Flags, labels: Labels, other: Steps, base: Steps, shapes: Labels, solid: Flags) -> Steps:
    """Crumbs that are kept put on the base, but those beside a pixel of their own value that is not part of them: of a
    solid shape of the base, or another crumb's."""
    height, width = labels.shape
    for y in range(height):
        for x in range(width):
            if not other[y, x] or not kept[labels[y, x]]:
                continue
            for v, u in ((y, x - 1), (y, x + 1), (y - 1, x), (y + 1, x)):
                if v < 0 or v >= height or u < 0 or u >= width or labels[v, u] == labels[y, x]:
                    continue
                if other[v, u] == other[y, x] or (base[v, u] + 1 == other[y, x] and solid[shapes[v, u]]):
                    kept[labels[y, x]] = False
    steps = base.copy()
    for y in range(height):
        for x in range(width):
            if kept[labels[y, x]]:
                steps[y, x] = other[y, x] - 1
    return steps


def _merged(
    steps: Steps, flat: Flat, thresholds: tuple[float, ...], means: tuple[float, ...], smallest_px: float
) -> Hierarchy:
    labels, values = shapes_of(steps)
    sizes = _sizes(labels, flat.weight, len(values)) / max(smallest_px, 1e-9)
    shape_price = PRICE_OF_A_SHAPE * max(steps.shape) / 600
    each = _costs(labels, flat.lightness, thresholds, means, len(values))
    order = merging_order(values.copy(), each, sizes, *borders_of(labels, flat.weight), shape_price)
    price = order.price / flat.variance
    stops = stops_of(order.forced, price, order.loss)
    return Hierarchy(
        labels,
        values.astype(np.uint8),
        order.moved,
        order.to.astype(np.uint8),
        order.joined[1:],
        order.gone,
        order.taker,
        stops,
        price[stops],
        order.loss[stops],
        order.border[stops],
        len(values) - order.joined[stops],
    )


def _costs(
    labels: Labels, lightness: Lightness, thresholds: tuple[float, ...], means: tuple[float, ...], count: int
) -> Array:
    """What each value costs each shape (count, n): its squared differences, so that two values cost the same at the
    threshold between them."""
    areas, sums, squares = sums_of(labels, lightness, count)
    found = [squares - 2 * means[0] * sums + areas * means[0] ** 2]
    for k, mark in enumerate(thresholds):
        found.append(found[-1] + 2 * (means[k + 1] - means[k]) * (mark * areas - sums))
    return np.stack(found, 1)
