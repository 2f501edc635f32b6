"""Find frames: thousands of frames of the sheet's proportion, ranked by the readings the artist has ticked."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import cv2
import numpy as np

from mild_compass.craft.geometry.lines import Box
from mild_compass.craft.viewfinder import scores
from mild_compass.craft.viewfinder.judging import contrast_energy
from mild_compass.craft.viewfinder.rules import rules_of
from mild_compass.craft.viewfinder.scores import Candidates, Criterion
from mild_compass.craft.viewfinder.tables import Tables
from mild_compass.craft.viewfinder.wishes import Wishes, conflict, wishes_of
from mild_compass.plan.errors import PlanError
from mild_compass.plan.framing import widest_px
from mild_compass.plan.study import Frame

if TYPE_CHECKING:
    from collections.abc import Callable

    from numpy.typing import NDArray

    from mild_compass.craft.picture.load import Picture
    from mild_compass.craft.viewfinder.rules import Rules
    from mild_compass.plan.pictures import Ground
    from mild_compass.plan.study import Study

    Array = NDArray[np.float64]

SMALL_PX = 256
SCALE_STEP, OFFSET_STEP = 0.96, 0.01
MOST_OVERLAP = 0.70  # intersection over union: frames more alike than that are one suggestion
BLOCK = 8192  # frames at once: bounds memory


@dataclass(frozen=True, slots=True)
class Ask:
    """What is asked for: the readings that count, how small a frame may be, whether left-out areas stay outside."""

    criteria: tuple[Criterion, ...] = scores.USUAL
    smallest: float = 0.4
    leave_out: bool = True


@dataclass(frozen=True, slots=True)
class Found:
    """One suggestion: the frame, its score (0-1), and why, in words."""

    frame: Frame
    score: float
    reasons: tuple[str, ...]


class SearchCancelledError(Exception):
    """The artist has called the search off."""


def find_frames(
    picture: Picture,
    study: Study,
    photo: Ground,
    ratio: float,
    ask: Ask,
    horizon_px: float | None = None,
    cancelled: Callable[[], bool] = lambda: False,
) -> list[Found]:
    """The best frames, none much like another; a PlanError says which wish cannot be met.

    ``horizon_px`` is the height of a level horizon on the photo. Deterministic; raises SearchCancelledError when
    ``cancelled`` says so between two blocks of frames.

    Raises:
        PlanError: which wish no frame can meet.
    """
    wishes = wishes_of(study, ask.leave_out)
    sentence = conflict(wishes, photo, ratio)
    if sentence is not None:
        raise PlanError(sentence)
    search = Search.of(picture, study, photo, ask, horizon_px)
    frames = candidates(photo, ratio, ask.smallest, search.tables.values.shape, wishes)
    if not len(frames):
        raise PlanError(
            "No frame of this proportion meets all wishes at once. Let one of them go, or allow smaller frames."
        )
    parts = []
    for start in range(0, len(frames), BLOCK):
        if cancelled():
            raise SearchCancelledError
        parts.append(search.judged(frames.part(start, start + BLOCK)))
    judged = Judged.joined(parts)
    best = thinned(frames, judged.total)
    return [
        Found(search.frame(frames, index, ratio), float(judged.total[index]), judged.reasons(index)) for index in best
    ]


def candidates(photo: Ground, ratio: float, smallest: float, shape: tuple[int, ...], wishes: Wishes) -> Candidates:
    """All frames of a ratio on a grid of scales and offsets that meet the wishes, the large ones first."""
    widest = widest_px(photo, ratio)
    scale_x, scale_y = shape[1] / photo.width_px, shape[0] / photo.height_px
    found: list[NDArray[np.float64]] = []
    scale = 1.0
    while scale >= smallest - 1e-9:
        width, height = widest * scale, widest * scale / ratio
        xs = _offsets(photo.width_px - width, OFFSET_STEP * photo.width_px)
        ys = _offsets(photo.height_px - height, OFFSET_STEP * photo.height_px)
        x, y = (part.ravel() for part in np.meshgrid(xs, ys))
        keep = _meeting(x, y, width, height, wishes)
        found.append(np.stack([x[keep], y[keep], x[keep] + width, y[keep] + height], 1))
        scale *= SCALE_STEP
    exact = np.concatenate(found)
    edges = np.round(exact * (scale_x, scale_y, scale_x, scale_y)).astype(np.int64)
    wide_enough = (edges[:, 2] - edges[:, 0] >= 8) & (edges[:, 3] - edges[:, 1] >= 8)
    left, top, right, bottom = edges[wide_enough].T
    exact_px = np.stack([exact[:, 0], exact[:, 1], exact[:, 2] - exact[:, 0]], 1)[wide_enough]
    return Candidates(exact_px, left, top, np.minimum(right, shape[1]), np.minimum(bottom, shape[0]))


def _offsets(room: float, step: float) -> Array:
    """From nothing to the end of the room in even steps, both ends among them."""
    if room <= 1e-9:
        return np.zeros(1)
    return np.linspace(0, room, max(2, round(room / step) + 1))


def _meeting(x: Array, y: Array, width: float, height: float, wishes: Wishes) -> NDArray[np.bool_]:
    keep = np.ones(len(x), bool)
    for wish in wishes.within:
        box = wish.box
        keep &= (x <= box.left) & (y <= box.top) & (x + width >= box.right) & (y + height >= box.bottom)
    for wish in wishes.without:
        box = wish.box
        keep &= (x >= box.right) | (x + width <= box.left) | (y >= box.bottom) | (y + height <= box.top)
    return keep


@dataclass(frozen=True, eq=False, slots=True)
class Judged:
    """Scores (n,) by criterion, their weighted mean, and the numbers that the words are made from."""

    by: dict[Criterion, Array]
    told: dict[str, Array]
    names: dict[str, str]

    @property
    def total(self) -> Array:
        """The mean of the scores that apply."""
        return np.mean(list(self.by.values()), axis=0) if self.by else np.zeros(0)

    @classmethod
    def joined(cls, parts: list[Judged]) -> Judged:
        """Several blocks as one."""
        by = {name: np.concatenate([part.by[name] for part in parts]) for name in parts[0].by}
        told = {name: np.concatenate([part.told[name] for part in parts]) for name in parts[0].told}
        return cls(by, told, parts[0].names)

    def reasons(self, index: int) -> tuple[str, ...]:
        """What speaks for a frame, by how far it is above the others in it; then what speaks against it most."""
        gain = {name: float(score[index] - score.mean()) for name, score in self.by.items()}
        good = [name for name in sorted(gain, key=lambda name: -gain[name]) if self.by[name][index] >= 0.5][:3]
        words = [self._words(name, index) for name in good]
        worst = min(self.by, key=lambda name: float(self.by[name][index]))
        if self.by[worst][index] < 0.35:
            words.append(f"but {self._words(worst, index)}")
        return tuple(words)

    def _words(self, name: Criterion, index: int) -> str:
        value = {key: float(array[index]) for key, array in self.told.items()}
        side = "left" if value.get("tip", 0) < 0 else "right"
        score = float(self.by[name][index])
        words: dict[Criterion, Callable[[], str]] = {
            "placement": lambda: f"{self.names['subject']} {100 * value['across']:.0f} % across",
            "lead room": lambda: f"{value['lead']:.1f} × room ahead",
            "air": lambda: "air all round it" if score >= 0.5 else "an edge all but touched",
            "edges": lambda: "quiet edges" if score >= 0.5 else "something pulls at the edge",
            "level": lambda: "hangs level" if score >= 0.5 else f"tips {side}",
            "one side": lambda: f"weight to the {side}" if score >= 0.5 else "weight on both sides",
            "dark and light": lambda: f"dark {100 * value['dark']:.0f} : light {100 - 100 * value['dark']:.0f}",
            "full": lambda: "nothing to spare" if score >= 0.5 else "a strip says nothing",
            "horizon": lambda: f"horizon {100 * value['horizon']:.0f} % down",
        }
        return words[name]()


@dataclass(frozen=True, eq=False, slots=True)
class Search:
    """A picture made ready for judging many frames."""

    tables: Tables
    study: Study
    photo: Ground
    criteria: tuple[Criterion, ...]
    rules: Rules
    horizon_px: float | None

    @classmethod
    def of(cls, picture: Picture, study: Study, photo: Ground, ask: Ask, horizon_px: float | None = None) -> Search:
        """Make the tables from the small form of a picture."""
        values = small_values(picture)
        tables = Tables(values, contrast_energy(values))
        return cls(tables, study, photo, ask.criteria, rules_of(study), horizon_px)

    @property
    def scale(self) -> tuple[float, float]:
        """Small pixels to a photo pixel, across and down."""
        height, width = self.tables.values.shape
        return width / self.photo.width_px, height / self.photo.height_px

    def frame(self, frames: Candidates, index: int, ratio: float) -> Frame:
        """A candidate in photo pixels, upright, of exactly the ratio."""
        x, y, width = frames.exact_px[index].tolist()
        old = self.study.frame
        return Frame(x, y, width, width / ratio, 0.0, old.flipped, old.proportion)

    def judged(self, frames: Candidates) -> Judged:
        """Score frames by every criterion that is asked for and applies."""
        found = scores.tones(self.tables, frames)
        dark = scores.dark_share(found.pixels)
        by: dict[Criterion, Array] = {}
        told = {"tip": found.tip, "dark": dark}
        names: dict[str, str] = {}
        self._judge_rings(frames, by, told, names)
        if "edges" in self.criteria:
            loud = scores.edge_loudness(self.tables, frames, found, self.rules)
            by["edges"] = 1 - np.minimum(1, loud / scores.LOUD_EDGE)
        if "level" in self.criteria:
            by["level"] = 1 - np.abs(found.tip)
        if "one side" in self.criteria:
            by["one side"] = np.minimum(1, np.abs(found.tip) / scores.GOOD_LEAN)
        if "dark and light" in self.criteria:
            by["dark and light"] = np.minimum(1, np.abs(dark - 0.5) / scores.GOOD_SHARE)
        if "full" in self.criteria:
            shares = scores.strip_energy(self.tables, frames)
            by["full"] = np.minimum(1, shares / self.rules.spare_energy).mean(1)
        if "horizon" in self.criteria and self.horizon_px is not None:
            share = (self.horizon_px * self.scale[1] - frames.top) / frames.height
            told["horizon"] = share
            by["horizon"] = np.minimum(1, np.abs(share - 0.5) / scores.GOOD_HORIZON)
        return Judged(by, told, names)

    def _judge_rings(
        self, frames: Candidates, by: dict[Criterion, Array], told: dict[str, Array], names: dict[str, str]
    ) -> None:
        """Rings count by their order: the first in full, the second half, the third a third."""
        placed, led, air, weights, led_weights = [], [], [], [], []
        for number, ring in enumerate(self.study.rings):
            weight = 1 / (number + 1)
            across = (ring.x_px * self.scale[0] - frames.left) / frames.width
            down = (ring.y_px * self.scale[1] - frames.top) / frames.height
            sides = scores.gaps(ring, frames, self.scale)
            shape = Box(0.0, 0.0, float(frames.width[0]), float(frames.height[0]))
            placed.append(weight * scores.placement_score(self.study.school, across, down, self.rules, shape))
            touching = 3 * self.rules.tangent * np.minimum(frames.width, frames.height)
            air.append(weight * np.clip(sides.min(1) / touching, 0, 1))
            weights.append(weight)
            if number == 0:
                told["across"], names["subject"] = across, ring.name
            if ring.facing != "nowhere":
                ratio = scores.lead_ratio(ring, sides)
                led.append(weight * np.minimum(1, ratio / scores.GOOD_LEAD))
                led_weights.append(weight)
                told.setdefault("lead", ratio)
        if placed and "placement" in self.criteria:
            by["placement"] = np.sum(placed, 0) / sum(weights)
        if air and "air" in self.criteria:
            by["air"] = np.sum(air, 0) / sum(weights)
        if led and "lead room" in self.criteria:
            by["lead room"] = np.sum(led, 0) / sum(led_weights)


def small_values(picture: Picture) -> NDArray[np.float32]:
    """L* of the whole photo with its longest side at most SMALL_PX."""
    values = picture.lightness
    shrink = SMALL_PX / max(values.shape)
    if shrink >= 1:
        return values
    size = (max(1, round(values.shape[1] * shrink)), max(1, round(values.shape[0] * shrink)))
    return np.asarray(cv2.resize(values, size, interpolation=cv2.INTER_AREA), np.float32).reshape(size[::-1])


def thinned(frames: Candidates, total: Array, wanted: int = scores.WANTED) -> list[int]:
    """Indices of the best frames, none of which overlaps a better one by more than MOST_OVERLAP."""
    order = np.argsort(-total, kind="stable")
    left, top, right, bottom = (
        getattr(frames, side)[order].astype(np.float64) for side in ("left", "top", "right", "bottom")
    )
    area = (right - left) * (bottom - top)
    free = np.ones(len(order), bool)
    chosen: list[int] = []
    while len(chosen) < wanted and free.any():
        best = int(np.argmax(free))
        chosen.append(int(order[best]))
        across = np.minimum(right, right[best]) - np.maximum(left, left[best])
        down = np.minimum(bottom, bottom[best]) - np.maximum(top, top[best])
        both = np.maximum(across, 0) * np.maximum(down, 0)
        free &= both / (area + area[best] - both) <= MOST_OVERLAP
    return chosen
