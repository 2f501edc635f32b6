"""How an eye measures: its bias (what it is off by on the whole) and its precision (how much it scatters)."""

from __future__ import annotations

from dataclasses import dataclass
from math import sqrt
from statistics import mean, stdev
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from collections.abc import Sequence

LEAST = 5  # answers before anything is said
CERTAINTY = 0.95  # of an interval, as usual


@dataclass(frozen=True, slots=True)
class Eye:
    """Mean and standard deviation of signed errors, each with its 95 % interval, and from how many."""

    bias: float
    bias_low: float
    bias_high: float
    spread: float
    spread_low: float
    spread_high: float
    count: int

    @property
    def leans(self) -> bool:
        """Whether the bias is beyond chance."""
        return not self.bias_low <= 0 <= self.bias_high


def eye_of(errors: Sequence[float]) -> Eye | None:
    """The eye behind signed errors; None while there are too few, or all are the same.

    Student's t for the mean, chi-squared for the standard deviation (any handbook of statistics).
    """
    count = len(errors)
    if count < LEAST:
        return None
    bias, spread = mean(errors), stdev(errors)
    if spread == 0:
        return None
    from scipy.special import chdtri, stdtrit  # the quantiles alone: the room of statistics takes two seconds to load

    beyond = (1 - CERTAINTY) / 2
    reach = float(stdtrit(count - 1, 1 - beyond)) * spread / sqrt(count)
    low, high = float(chdtri(count - 1, beyond)), float(chdtri(count - 1, 1 - beyond))
    freedom = count - 1
    return Eye(
        bias, bias - reach, bias + reach, spread, spread * sqrt(freedom / low), spread * sqrt(freedom / high), count
    )
