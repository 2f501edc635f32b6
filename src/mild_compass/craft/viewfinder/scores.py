"""How well frames answer the readings, many at a time: each score runs from 0 (bad) to 1 (good).

``Candidates`` are rectangles of whole pixels on a small picture; every measure takes all of them at once.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, Literal

import numpy as np

from mild_compass.craft.viewfinder.places import armature_nodes, eyes
from mild_compass.craft.viewfinder.tables import Tables, inside, tone_values

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from mild_compass.craft.geometry.lines import Box
    from mild_compass.craft.viewfinder.rules import Rules
    from mild_compass.plan.study import Ring, School

    Array = NDArray[np.float64]

Criterion = Literal["placement", "lead room", "air", "edges", "level", "one side", "dark and light", "full", "horizon"]

CRITERION_WORDS: dict[Criterion, str] = {
    "placement": "Subject well placed",
    "lead room": "Room ahead of it",
    "air": "Nothing touches the edge",
    "edges": "Quiet edges",
    "level": "Hangs level",
    "one side": "Weight to one side",
    "dark and light": "Dark or light leads",
    "full": "Nothing to spare",
    "horizon": "Horizon off half height",
}
USUAL: tuple[Criterion, ...] = ("placement", "lead room", "air", "edges", "level", "dark and light", "full", "horizon")

WANTED = 10  # suggestions shown
GOOD_LEAD, GOOD_LEAN, GOOD_SHARE, GOOD_HORIZON = 1.6, 0.5, 0.2, 0.15  # where a score is full
FULL_STRIP = 0.06  # of the side: the strips that are looked at for something happening in them
LOUD_EDGE = 6.0  # L* over the threshold, on average along the band, at which edges score nothing


@dataclass(frozen=True, eq=False, slots=True)
class Candidates:
    """Frames on a small picture, in whole pixels (n,), and exactly as left, top and width in photo pixels (n, 3)."""

    exact_px: Array
    left: NDArray[np.int64]
    top: NDArray[np.int64]
    right: NDArray[np.int64]
    bottom: NDArray[np.int64]

    def __len__(self) -> int:
        return len(self.left)

    def part(self, start: int, stop: int) -> Candidates:
        """Some of them."""
        part = slice(start, stop)
        return Candidates(self.exact_px[part], self.left[part], self.top[part], self.right[part], self.bottom[part])

    @property
    def width(self) -> Array:
        """Pixels across."""
        return (self.right - self.left).astype(np.float64)

    @property
    def height(self) -> Array:
        """Pixels down."""
        return (self.bottom - self.top).astype(np.float64)


@dataclass(frozen=True, eq=False, slots=True)
class Tones:
    """Pixels of each tone (n, BINS), the median's L* (n,), and moments of weight left and right of the middle."""

    pixels: Array
    median: Array
    left_moment: Array
    right_moment: Array

    @property
    def tip(self) -> Array:
        """The steelyard's tip, -1 left … 1 right, as in judging.steelyard."""
        lever = self.right_moment - self.left_moment
        return np.divide(self.right_moment + self.left_moment, lever, out=np.zeros_like(lever), where=lever > 1e-9)


def tones(tables: Tables, frames: Candidates) -> Tones:
    """Count tones and weigh both halves of every frame."""
    corners = (frames.left, frames.top, frames.right, frames.bottom)
    pixels = inside(tables.pixels, *corners)
    median = median_tone(pixels)
    middle = (frames.left + frames.right) / 2
    split = np.floor(middle).astype(np.int64)
    halves = (frames.left, frames.top, split, frames.bottom)
    left_pixels, left_places = inside(tables.pixels, *halves), inside(tables.places_doubled, *halves) / 2
    right_pixels = pixels - left_pixels
    right_places = inside(tables.places_doubled, *corners) / 2 - left_places
    weight = np.abs(tone_values()[None, :] - median[:, None])
    arm = middle[:, None]
    return Tones(
        pixels,
        median,
        ((left_places - left_pixels * arm) * weight).sum(1),
        ((right_places - right_pixels * arm) * weight).sum(1),
    )


def median_tone(pixels: Array) -> Array:
    """L* of the tone in which the middle pixel lies (n,)."""
    half = pixels.sum(1, keepdims=True) / 2
    return np.asarray(tone_values()[np.argmax(pixels.cumsum(1) >= half, 1)])


def dark_share(pixels: Array) -> Array:
    """Share of each frame darker than its own Otsu threshold (N. Otsu, IEEE SMC 9(1), 1979)."""
    count = pixels.cumsum(1)
    moment = (pixels * tone_values()).cumsum(1)
    total, whole = count[:, -1:], moment[:, -1:]
    with np.errstate(divide="ignore", invalid="ignore"):
        gain = (whole * count / total - moment) ** 2 / (count * (total - count))
    gain = np.where(np.isfinite(gain), gain, -1.0)
    cut = gain.argmax(1)
    return np.asarray(count[np.arange(len(count)), cut] / total[:, 0])


def edge_loudness(tables: Tables, frames: Candidates, found: Tones, rules: Rules) -> Array:
    """By how much, on average, the border band stands out beyond the threshold; bright places weigh more."""
    band = np.maximum(1, np.round(rules.edge_band * np.minimum(frames.width, frames.height))).astype(np.int64)
    inner = inside(tables.pixels, frames.left + band, frames.top + band, frames.right - band, frames.bottom - band)
    border = found.pixels - inner
    step = tone_values()[None, :] - found.median[:, None]
    beyond = np.maximum(np.abs(step) - rules.edge_step, 0) * np.where(step > 0, rules.bright_weight, 1.0)
    return np.asarray((border * beyond).sum(1) / np.maximum(border.sum(1), 1))


def strip_energy(tables: Tables, frames: Candidates) -> Array:
    """Contrast energy of the strips along the four sides (n, 4), as shares of the frame's."""
    left, top, right, bottom = frames.left, frames.top, frames.right, frames.bottom
    across = np.maximum(1, np.round(FULL_STRIP * frames.width)).astype(np.int64)
    down = np.maximum(1, np.round(FULL_STRIP * frames.height)).astype(np.int64)
    total = np.maximum(inside(tables.contrast, left, top, right, bottom), 1e-9)
    strips = (
        inside(tables.contrast, left, top, left + across, bottom),
        inside(tables.contrast, right - across, top, right, bottom),
        inside(tables.contrast, left, top, right, top + down),
        inside(tables.contrast, left, bottom - down, right, bottom),
    )
    return np.stack([strip / total for strip in strips], 1)


def placement_score(school: School, across: Array, down: Array, rules: Rules, shape: Box) -> Array:
    """How near a subject is to what its school likes; dead centre scores nothing. ``shape`` has the frame's ratio."""
    if school == "no grid":
        score = np.minimum(1, np.abs(across - 0.5) / 0.15)
    elif school in ("thirds", "quarters and cross"):
        line = 1 / 3 if school == "thirds" else 1 / 4
        off = np.minimum(np.abs(across - line), np.abs(across - 1 + line))
        score = 1 - np.minimum(1, off / (0.5 - line))
    else:
        points = armature_nodes() if school == "armature" else eyes(shape)
        points = points[np.abs(points[:, 0] - 0.5) > rules.dead_centre]
        far = np.hypot(
            across[:, None] - points[:, 0], (down[:, None] - points[:, 1]) * (shape.height / shape.width)
        ).min(1)
        score = 1 - np.minimum(1, far / 0.12)
    return np.where(np.abs(across - 0.5) <= rules.dead_centre, 0.0, score)


def gaps(ring: Ring, frames: Candidates, scale: tuple[float, float]) -> Array:
    """From a ring's bounds to left, right, top, bottom of every frame (n, 4), in small pixels."""
    x, y = ring.x_px * scale[0], ring.y_px * scale[1]
    wide, high = ring.radius_x_px * scale[0], ring.radius_y_px * scale[1]
    return np.stack(
        [x - wide - frames.left, frames.right - x - wide, y - high - frames.top, frames.bottom - y - high], 1
    )


def lead_ratio(ring: Ring, sides: Array) -> Array:
    """Room ahead over room behind (n,), from the gaps of a ring that faces somewhere."""
    ahead = {"left": 0, "right": 1, "up": 2, "down": 3}[ring.facing]
    return np.asarray(np.maximum(sides[:, ahead], 0) / np.maximum(sides[:, ahead ^ 1], 1e-3))
