"""What rectangle have I got: the nearest named ratio, and what to trim to reach it."""

from __future__ import annotations

from dataclasses import dataclass
from math import log, sqrt

NAMED: tuple[tuple[str, float], ...] = (
    ("1:1 (square)", 1.0),
    ("5:4", 5 / 4),
    ("4:3", 4 / 3),
    ("√2", sqrt(2)),
    ("3:2", 3 / 2),
    ("golden section φ", (1 + sqrt(5)) / 2),
    ("5:3", 5 / 3),
    ("√3", sqrt(3)),
    ("16:9", 16 / 9),
    ("2:1 (√4)", 2.0),
    ("√5", sqrt(5)),
    ("5:2", 5 / 2),
    ("3:1", 3.0),
)


@dataclass(frozen=True, slots=True)
class NearestRatio:
    """The named ratio nearest to a rectangle; at most one of the trims is more than nothing."""

    name: str
    off_percent: float
    trim_width_mm: float
    trim_height_mm: float


def trim_to(name: str, width_mm: float, height_mm: float) -> tuple[float, float]:
    """What to take off the width and off the height to reach a named ratio; at most one is more than nothing."""
    value = dict(NAMED)[name]
    wanted = value if width_mm >= height_mm else 1 / value
    return max(0.0, width_mm - height_mm * wanted), max(0.0, height_mm - width_mm / wanted)


def nearest_ratio(width_mm: float, height_mm: float) -> NearestRatio:
    """Nearest by |ln(r / named)|, long side over short; the trim keeps the other side whole."""
    ratio = max(width_mm, height_mm) / min(width_mm, height_mm)
    name, value = min(NAMED, key=lambda named: abs(log(ratio / named[1])))
    return NearestRatio(name, 100 * (ratio / value - 1), *trim_to(name, width_mm, height_mm))
