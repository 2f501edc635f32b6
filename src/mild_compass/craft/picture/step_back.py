"""What can still be seen of the sheet from across the room.

At a distance d one minute of arc covers d·tan(1/60°), the finest that visual acuity 1.0 resolves (ISO 8596).
"""

from __future__ import annotations

from math import log, pi, radians, sqrt, tan

DISTANCES_M = (1.0, 10.0)
ARC_MINUTE = tan(radians(1 / 60))  # the smallest detail a usual eye tells apart: ISO 8596, acuity 1.0
VANISHED = 0.015  # of its contrast is left of a grating of one minute of arc: under 2 %, also in bytes
# A Gaussian leaves exp(−2π²σ²/P²) of the contrast of a grating of period P.
SIGMA_OF_PERIOD = sqrt(-log(VANISHED) / (2 * pi**2))


def finest_mm(distance_m: float) -> float:
    """What one minute of arc covers on the sheet, in mm: 0.27 at 3 ft, 2.66 at 30 ft."""
    return 1000 * distance_m * ARC_MINUTE


def step_back_sigma_mm(distance_m: float) -> float:
    """Blur on the sheet, in mm, that takes away what cannot be resolved from there and leaves what can."""
    return SIGMA_OF_PERIOD * finest_mm(distance_m)
