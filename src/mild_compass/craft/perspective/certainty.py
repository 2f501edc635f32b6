"""How sure one can be of a suggested horizon.

The probability was fitted to made pictures with a known camera (``tools/accuracy``, docs/accuracy.md), so that of the
answers told with a certainty about so many are right. In leaves and other clutter an answer must be more certain to be
called sure: there the chance agreement of short edges is what makes it wrong.
"""

from __future__ import annotations

from dataclasses import dataclass
from math import erf, exp, log, sqrt
from typing import TYPE_CHECKING, Literal

import numpy as np

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from mild_compass.craft.perspective.joint import DeleteHalfSpread, JointCamera

    Array = NDArray[np.float64]

Certainty = Literal["sure", "likely", "not sure"]
RIGHT_HEIGHT, RIGHT_TILT_DEG = 0.01, 1.0  # a horizon within these of the true one is right
WIDER = 1.4  # spreads by the found edges' own misfit are too narrow by about that
MOST_GAP = 10.0
LOOSE_SHARE = 0.045  # of the diagonal: so short an edge that belongs to nothing is likely texture
CLUTTERED, CLUTTERED_SOFT = 0.04, 0.01  # the share of loose edges that leaves have and clear pictures have not
# Of all clear pictures tuned on one in a hundred is then called sure and wrong, of those with leaves one.
SURE, SURE_IN_CLUTTER, LIKELY = 0.9, 0.95, 0.7
# Fitted on the tuning half of the made pictures by tools/accuracy/calibrate.py.
CALIBRATED = (
    *(-8.9625, 0.1599, 0.6126, 0.3887, 0.2664, 0.0786, -1.8232, -0.0945, 0.3869),
    *(-0.5328, 0.3069, 0.0592, 0.3438, 0.9369, 0.3407, 0.0157, 0.0545, -0.9656),
)


def features(
    cameras: list[JointCamera], missed: float, height_px: float, sway: DeleteHalfSpread, fit: Fit, told: bool
) -> tuple[float, ...]:
    """What certainty is told from: the horizon's spreads, how much likelier it is than another, how it moves when half
    of the edges are left out, how many edges agree and how well, whether the photo tells its lens, and whether it is
    cluttered."""
    best = cameras[0]
    high, tilted = max(best.height_spread_px / height_px, 1e-5), max(best.tilt_spread_deg, 1e-3)
    within = erf(RIGHT_HEIGHT / (WIDER * high * sqrt(2))) * erf(RIGHT_TILT_DEG / (WIDER * tilted * sqrt(2)))
    within = min(max(within, 1e-3), 0.999)
    gap = best.score - cameras[1].score if len(cameras) > 1 else MOST_GAP
    upright, *level = best.counts
    most, second = sorted((*level, 0, 0), reverse=True)[:2]
    return (
        *(log(within / (1 - within)), log(high), log(tilted), min(gap, MOST_GAP)),
        *(log(upright + most + second + 1), log(min(missed, 1.0) + 0.003)),
        *(log(sway.height[0] + 5e-4), log(sway.tilt_deg[0] + 0.02)),
        *(log(sway.height[1] + 5e-4), log(sway.tilt_deg[1] + 0.02)),
        *(log(upright + 1), log(most + 1), log(second + 1)),
        *(fit.share, log(max(fit.misfit, 0.05)), float(told)),
        1 / (1 + exp((CLUTTERED - fit.loose) / CLUTTERED_SOFT)),
    )


@dataclass(frozen=True, slots=True)
class Fit:
    """The share of the found length that belongs to a family, its misfit in usual errors (root mean square), and the
    share of all edges that are short and belong to none: in leaves and other texture there are many."""

    share: float
    misfit: float
    loose: float


def fit_of(lines: Array, error_px: Array, weight: Array, camera: JointCamera, diagonal_px: float) -> Fit:
    """How well edges (n, 2, 2) agree with a camera, in a photo with so long a diagonal."""
    plain = np.hypot(*(lines[:, 1] - lines[:, 0]).T)
    length = plain * weight
    members = [camera.families == k for k in range(len(camera.counts))]
    each = np.concatenate([camera.off(lines[some], k) / error_px[some] for k, some in enumerate(members)])
    share = float(length[camera.families >= 0].sum() / length.sum())
    loose = float(((camera.families < 0) & (plain < LOOSE_SHARE * diagonal_px)).mean())
    return Fit(share, float(np.sqrt(np.mean(each**2))) if len(each) else 1.0, loose)


def certainty_of(told: tuple[float, ...]) -> tuple[float, Certainty]:
    """The probability that an answer with such features is right, and what it is called."""
    value = CALIBRATED[0] + sum(weight * each for weight, each in zip(CALIBRATED[1:], told, strict=True))
    probability = 1 / (1 + exp(-max(min(value, 30.0), -30.0)))
    if probability >= (SURE_IN_CLUTTER if told[-1] > 0.5 else SURE):
        return probability, "sure"
    return probability, "likely" if probability >= LIKELY else "not sure"
