"""Multilevel thresholds of L*: even, by the histogram, or by hand."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from mild_compass.plan.tones import ValuePlan

BINS = 128  # of the histogram: 0.8 L* each, less than a step the eye sees


def even_thresholds(count: int) -> tuple[float, ...]:
    """Equal steps from black to white."""
    return tuple(100.0 * k / count for k in range(1, count))


def found_thresholds(lightness: NDArray[np.floating], count: int) -> tuple[float, ...]:
    """Multi-level Otsu thresholds (N. Otsu, IEEE SMC 9(1), 1979) of L* values of any shape.

    Dynamic programming over a histogram of 128 bins gives the exact optimum. A picture with fewer different
    values than wanted falls back on even steps.
    """
    histogram, edges = np.histogram(lightness, BINS, (0.0, 100.0))
    if np.count_nonzero(histogram) < count:
        return even_thresholds(count)
    centres = (edges[1:] + edges[:-1]) / 2
    weight = np.concatenate([[0.0], np.cumsum(histogram)])
    moment = np.concatenate([[0.0], np.cumsum(histogram * centres)])
    w = weight[None, :] - weight[:, None]
    m = moment[None, :] - moment[:, None]
    with np.errstate(divide="ignore", invalid="ignore"):
        gain = np.where(w > 0, m**2 / w, -np.inf)
    gain[np.tril_indices(BINS + 1)] = -np.inf
    best, origin = gain[0], []
    for _ in range(count - 1):
        candidates = best[:, None] + gain
        origin.append(candidates.argmax(0))
        best = candidates.max(0)
    cuts, at = [], BINS
    for row in reversed(origin):
        at = int(row[at])
        cuts.append(at)
    return tuple(float(edges[cut]) for cut in reversed(cuts))


def thresholds_for(values: ValuePlan, lightness: NDArray[np.floating]) -> tuple[float, ...]:
    """The thresholds a value plan asks for on this picture."""
    if values.method == "by hand":
        return values.thresholds
    return even_thresholds(values.count) if values.method == "even" else found_thresholds(lightness, values.count)
