"""The value at a spot: L*, Munsell value, the artist's own scale; and colours whose lightness is misjudged by their
hue."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cache
from typing import TYPE_CHECKING

import cv2
import numpy as np

from mild_compass.craft.picture.tone import LINEAR, WEIGHTS, lightness_of_luminance
from mild_compass.craft.values.munsell import munsell_value

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from mild_compass.craft.picture.tone import Rgb

STRONG = 32.0  # CIELAB chroma from which a colour is strong: common practice, no published source, as is the next
DECEIVES = 14.0  # L* below (or above) what its hue suggests
LEAST_SHARE = 0.002  # of the picture: smaller places deceive nobody
WORST = 4
HUES = (
    *((48, "red"), (80, "orange"), (112, "yellow"), (175, "green"), (225, "blue-green"), (312, "blue")),
    *((345, "violet"), (361, "red")),
)
SPOT_MM = 2.0


@dataclass(frozen=True, slots=True)
class Spot:
    """The value of a place."""

    lightness: float
    munsell: float
    step: int | None


def value_of(rgb: Rgb, thresholds: tuple[float, ...] = ()) -> Spot:
    """The mean value of sRGB bytes (..., 3), mixed in linear light; its step on the artist's scale, from 0."""
    mixed = LINEAR[np.asarray(rgb).reshape(-1, 3)].mean(0)
    y = float(mixed @ WEIGHTS)
    value = float(lightness_of_luminance(np.array(y)))
    step = int(np.digitize(value, thresholds)) if thresholds else None
    return Spot(value, float(munsell_value(100 * y)), step)


@dataclass(frozen=True, slots=True)
class Trap:
    """A strong colour darker (or lighter) than its hue suggests; its place and size in shares of the picture."""

    hue: str
    x: float
    y: float
    share: float
    lightness: float
    suggested: float


@cache
def pure_lightness() -> NDArray[np.float32]:
    """L* of the most saturated screen colour of every CIELAB hue angle, by whole degrees (360,)."""
    ramp = np.linspace(0, 1, 256, dtype=np.float32)
    zero, one = np.zeros_like(ramp), np.ones_like(ramp)
    sides = [
        (one, ramp, zero),
        (1 - ramp, one, zero),
        (zero, one, ramp),
        (zero, 1 - ramp, one),
        (ramp, zero, one),
        (one, zero, 1 - ramp),
    ]
    lab = cv2.cvtColor(np.concatenate([np.stack(side, 1) for side in sides])[None], cv2.COLOR_RGB2Lab)[0]
    hue = np.degrees(np.arctan2(lab[:, 2], lab[:, 1])) % 360
    order = np.argsort(hue)
    return np.asarray(np.interp(np.arange(360), hue[order], lab[order, 0], period=360), np.float32)


def deceit(rgb: Rgb) -> NDArray[np.float32]:
    """By how much every place of sRGB bytes (h, w, 3) is lighter than its hue suggests (negative: darker); 0 if pale.

    A painter takes a saturated yellow for a light and misjudges unlit reds (common practice, no published source);
    what the hue suggests is taken as the L* of its most saturated screen colour.
    """
    lab = cv2.cvtColor(rgb.astype(np.float32) / 255, cv2.COLOR_RGB2Lab)
    chroma = np.hypot(lab[..., 1], lab[..., 2])
    hue = np.degrees(np.arctan2(lab[..., 2], lab[..., 1])).astype(np.int32) % 360
    return np.asarray(np.where(chroma >= STRONG, lab[..., 0] - pure_lightness()[hue], 0), np.float32)


def traps(rgb: Rgb) -> list[Trap]:
    """The places of a framed picture (h, w, 3) whose value deceives most, by area times amount."""
    soft = np.asarray(cv2.GaussianBlur(rgb, (0, 0), max(0.8, 0.003 * float(np.hypot(*rgb.shape[:2])))), np.uint8)
    amount = deceit(soft)
    _, labels, stats, middles = cv2.connectedComponentsWithStats((np.abs(amount) >= DECEIVES).astype(np.uint8))
    least = LEAST_SHARE * amount.size
    areas = stats[1:, cv2.CC_STAT_AREA]
    lab = cv2.cvtColor(soft.astype(np.float32) / 255, cv2.COLOR_RGB2Lab)
    found = []
    for k in (np.flatnonzero(areas >= least) + 1).tolist():
        inside = labels == k
        value, a, b = lab[inside].mean(0).tolist()
        suggested = value - float(amount[inside].mean())
        y, x = _within(inside, middles[k])
        share = float(stats[k, cv2.CC_STAT_AREA]) / amount.size
        found.append(Trap(_hue_word(a, b), (x + 0.5) / rgb.shape[1], (y + 0.5) / rgb.shape[0], share, value, suggested))
    return sorted(found, key=lambda trap: -trap.share * abs(trap.lightness - trap.suggested))[:WORST]


def _within(inside: NDArray[np.bool_], middle: NDArray[np.float64]) -> tuple[int, int]:
    """The pixel (row, column) of a shape nearest to its middle."""
    rows, columns = np.nonzero(inside)
    nearest = int(((columns - middle[0]) ** 2 + (rows - middle[1]) ** 2).argmin())
    return int(rows[nearest]), int(columns[nearest])


def _hue_word(a: float, b: float) -> str:
    hue = float(np.degrees(np.arctan2(b, a))) % 360
    return next(word for end, word in HUES if hue < end)
