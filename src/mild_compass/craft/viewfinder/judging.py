"""What can be measured inside a frame: edges, spare strips, balance, dark and light.

All functions take L* of the framed picture as an array (h, w) and answer in shares of the frame (0-1), x to the
right, y down.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import cv2
import numpy as np

from mild_compass.craft.values.thresholds import found_thresholds
from mild_compass.craft.viewfinder.gaps import SIDES, Side

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from mild_compass.craft.viewfinder.rules import Rules


@dataclass(frozen=True, slots=True)
class EdgePatch:
    """A bright or dark patch cut by the frame's edge; bounds in shares, pull in L* times share of area."""

    side: Side
    left: float
    top: float
    right: float
    bottom: float
    bright: bool
    pull: float


def edge_patches(values: NDArray[np.floating], rules: Rules) -> list[EdgePatch]:
    """Patches in the border band that stand out from the frame's median, strongest first."""
    height, width = values.shape
    band = max(1, round(rules.edge_band * min(height, width)))
    step = np.asarray(values, np.float64) - float(np.median(values))
    found: list[EdgePatch] = []
    for side in SIDES:
        part = _band(step, side, band)
        for bright in (True, False):
            mask = (part > rules.edge_step) if bright else (part < -rules.edge_step)
            found += _patches(mask, np.abs(part), side, bright, (height, width), rules)
    return sorted(found, key=lambda patch: -patch.pull)


def _band(values: NDArray[np.float64], side: Side, band: int) -> NDArray[np.float64]:
    return {
        "left": values[:, :band],
        "right": values[:, -band:],
        "top": values[:band],
        "bottom": values[-band:],
    }[side]


def _patches(
    mask: NDArray[np.bool_],
    strength: NDArray[np.float64],
    side: Side,
    bright: bool,
    shape: tuple[int, int],
    rules: Rules,
) -> list[EdgePatch]:
    height, width = shape
    _, labels, stats, _ = cv2.connectedComponentsWithStats(mask.astype(np.uint8), connectivity=8)
    x0 = width - mask.shape[1] if side == "right" else 0
    y0 = height - mask.shape[0] if side == "bottom" else 0
    level = side in ("top", "bottom")
    found = []
    for index, (x, y, w, h, area) in enumerate(stats[1:], 1):
        along = w / width if level else h / height
        share = area / (height * width)
        if share < rules.edge_least or along > rules.edge_longest:
            continue
        weight = rules.bright_weight if bright else 1.0
        pull = weight * float(strength[labels == index].mean()) * share
        found.append(
            EdgePatch(
                side,
                (x0 + x) / width,
                (y0 + y) / height,
                (x0 + x + w) / width,
                (y0 + y + h) / height,
                bright,
                pull,
            )
        )
    return found


def contrast_energy(values: NDArray[np.floating]) -> NDArray[np.float64]:
    """Squared slope of L* at every pixel (h, w): where something happens."""
    smooth = cv2.GaussianBlur(np.asarray(values, np.float64), (0, 0), 1.0)
    slope_y, slope_x = np.gradient(smooth) if min(values.shape) > 1 else (np.zeros_like(smooth),) * 2
    return np.asarray(slope_x**2 + slope_y**2)


def spare_strips(values: NDArray[np.floating], rules: Rules) -> dict[Side, float]:
    """Per side the widest strip, as a share of width or height, that holds next to nothing of the contrast.

    A strip ends where it would hold the set share of all contrast energy, or a contrast as strong as the
    picture's stronger ones (its 98th percentile).
    """
    energy = contrast_energy(values)
    total = float(energy.sum())
    if total <= 0:
        return dict.fromkeys(SIDES, 0.0)
    strong = float(np.percentile(energy, 98))
    found: dict[Side, float] = {}
    for side in SIDES:
        along = 0 if side in ("left", "right") else 1
        sums, peaks = energy.sum(along), energy.max(along)
        if side in ("right", "bottom"):
            sums, peaks = sums[::-1], peaks[::-1]
        busy = (np.cumsum(sums) > rules.spare_energy * total) | (np.maximum.accumulate(peaks) > strong)
        found[side] = float(np.argmax(busy)) / len(sums) if busy.any() else 1.0
    return found


@dataclass(frozen=True, slots=True)
class Balance:
    """The steelyard: where the picture hangs level, and how far it tips (-1 left … 1 right)."""

    fulcrum: float
    tip: float


def steelyard(values: NDArray[np.floating]) -> Balance:
    """Moments of visual weight about the upright middle (Henry R. Poore, Pictorial Composition, 1903).

    The weight of a place is its distance from the median L*; a light weight far out holds a heavy one near the
    middle. ``tip`` is the moment over the sum of all moments taken as positive.
    """
    weight = np.abs(np.asarray(values, np.float64) - np.median(values)).sum(0)
    place = (np.arange(len(weight)) + 0.5) / len(weight)
    total, arms = float(weight.sum()), place - 0.5
    if total <= 0:
        return Balance(0.5, 0.0)
    lever = float((weight * np.abs(arms)).sum())
    return Balance(float((weight * place).sum()) / total, float((weight * arms).sum()) / lever if lever else 0.0)


@dataclass(frozen=True, slots=True)
class DarkAndLight:
    """Share of the frame darker than the threshold, in all and in its left and right halves."""

    threshold: float
    dark: float
    dark_left: float
    dark_right: float


def dark_and_light(values: NDArray[np.floating]) -> DarkAndLight:
    """Dark against light (A. W. Dow, Composition, 1899) at Otsu's threshold (IEEE SMC 9(1), 1979)."""
    threshold = found_thresholds(values, 2)[0]
    dark = np.asarray(values) < threshold
    half = max(1, dark.shape[1] // 2)
    return DarkAndLight(threshold, float(dark.mean()), float(dark[:, :half].mean()), float(dark[:, -half:].mean()))
