"""Region borders as hard, soft or lost: by gradient contrast across them and the width of the transition (edge blur).

The width is that from 10 to 90 % of the step, in mm on the sheet. Where hard ends and lost begins is common practice,
no published source.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import cv2
import numpy as np

from mild_compass.craft.memo import Memo

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from mild_compass.craft.geometry.frame_map import FrameMap
    from mild_compass.craft.values.masses import Masses
    from mild_compass.plan.tones import EdgeChange, EdgeKind

    Array = NDArray[np.float64]

HARD_MM = 2.4  # a transition no wider than that is hard
LOST_STEP = 6.0  # L*: with less contrast an edge is lost
STRETCH_MM = 24.0  # so long a piece of border is judged by itself
LOOK_MM = 6.0  # so far to either side
LEAST_LOOK_PX = 4.0
BESIDE = 3  # places along the border that are averaged, either way
NEAR_MM = 12.0  # a change by hand further from any border than that belongs to none


@dataclass(frozen=True, eq=False, slots=True)
class Edge:
    """A stretch of border (n, 2) in mm on the sheet: its kind, whether that is the artist's, its contrast in L* and
    the width of its transition, its length, and the values beside it, dark and light."""

    line_mm: Array
    kind: EdgeKind
    by_hand: bool
    contrast: float
    width_mm: float
    length_mm: float
    values: tuple[int, int]

    @property
    def hardness(self) -> float:
        """Contrast to a mm of transition."""
        return self.contrast / max(self.width_mm, HARD_MM / 2)

    @property
    def middle_mm(self) -> tuple[float, float]:
        """A place on it."""
        x, y = self.line_mm[len(self.line_mm) // 2].tolist()
        return x, y


_MEASURED: Memo[tuple[tuple[Edge, int], ...]] = Memo(3)


def edges_of(masses: Masses, changes: tuple[EdgeChange, ...], frame_map: FrameMap) -> tuple[Edge, ...]:
    """All borders of the masses in stretches, as the photo has them or as the artist wants them."""
    measured = measured_edges(masses)
    wanted = _by_hand(masses, changes, frame_map)
    found = []
    for edge, border in measured:
        kind = wanted.get(border)
        found.append(edge if kind is None else _changed(edge, kind))
    return tuple(found)


def measured_edges(masses: Masses) -> tuple[tuple[Edge, int], ...]:
    """All stretches as the photo has them, each with the number of its border."""
    return _MEASURED.of(masses, None, lambda: _measured(masses))


def border_at(masses: Masses, place_mm: tuple[float, float]) -> int | None:
    """The number of the border that passes nearest to a place on the sheet; None where none is near."""
    best, least = None, NEAR_MM
    for number, line in enumerate(masses.borders_mm):
        way = np.diff(line, axis=0)
        share = ((np.array(place_mm) - line[:-1]) * way).sum(1) / np.maximum((way**2).sum(1), 1e-12)
        nearest = line[:-1] + np.clip(share, 0, 1)[:, None] * way
        away = float(np.hypot(*(nearest - place_mm).T).min())
        if away < least:
            best, least = number, away
    return best


def _by_hand(masses: Masses, changes: tuple[EdgeChange, ...], frame_map: FrameMap) -> dict[int, EdgeKind]:
    found: dict[int, EdgeKind] = {}
    for change in changes:
        x, y = frame_map.to_sheet(change.place).tolist()
        border = border_at(masses, (x, y))
        if border is not None:
            found[border] = change.kind
    return found


def _changed(edge: Edge, kind: EdgeKind) -> Edge:
    return Edge(edge.line_mm, kind, True, edge.contrast, edge.width_mm, edge.length_mm, edge.values)


def _measured(masses: Masses) -> tuple[tuple[Edge, int], ...]:
    """Each border cut into stretches, each with the number of its border; like neighbours are one."""
    found: list[tuple[Edge, int]] = []
    per_mm = 1 / masses.mm_per_step_px
    for number, (line, border_mm) in enumerate(zip(masses.shapes.borders, masses.borders_mm, strict=True)):
        left, right = masses.shapes.values[masses.shapes.beside[number]].tolist()
        beside = (min(left, right), max(left, right))
        spots, aside, places_mm = _along(line, border_mm)
        if len(spots) < 2:
            continue
        contrast, width_px = profile(masses.lightness, spots, aside, max(LOOK_MM * per_mm, LEAST_LOOK_PX))
        long = float(np.hypot(*np.diff(places_mm, axis=0).T).sum())
        pieces = max(1, round(long / STRETCH_MM))
        for part in np.array_split(np.arange(len(spots)), pieces):
            if len(part) < 2:
                continue
            step, wide = float(np.median(contrast[part])), float(np.median(width_px[part])) * masses.mm_per_step_px
            stretch = places_mm[part[0] : part[-1] + 2]
            length = float(np.hypot(*np.diff(stretch, axis=0).T).sum())
            edge = Edge(stretch, kind_of(step, wide), False, step, wide, length, beside)
            if found and found[-1][1] == number and found[-1][0].kind == edge.kind:
                found[-1] = (_together(found[-1][0], edge), number)
            else:
                found.append((edge, number))
    return tuple(found)


def kind_of(contrast: float, width_mm: float) -> EdgeKind:
    """Hard, soft or lost."""
    if contrast < LOST_STEP:
        return "lost"
    return "hard" if width_mm <= HARD_MM else "soft"


def _together(one: Edge, other: Edge) -> Edge:
    total = one.length_mm + other.length_mm
    share = one.length_mm / total
    return Edge(
        np.concatenate([one.line_mm[:-1], other.line_mm]),
        one.kind,
        False,
        share * one.contrast + (1 - share) * other.contrast,
        share * one.width_mm + (1 - share) * other.width_mm,
        total,
        one.values,
    )


def _along(line: Array, border_mm: Array) -> tuple[Array, Array, Array]:
    """Places about a pixel apart on a border, in pixels, the unit vectors across it, and the places in mm."""
    length = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(line, axis=0).T))])
    count = max(2, round(length[-1]))
    at = (np.arange(count) + 0.5) / count * length[-1]
    spots, on_sheet = (
        np.stack([np.interp(at, length, each[:, axis]) for axis in (0, 1)], 1) for each in (line, border_mm)
    )
    way = np.gradient(spots, axis=0)
    way /= np.maximum(np.hypot(*way.T), 1e-9)[:, None]
    return spots, np.stack([way[:, 1], -way[:, 0]], 1), np.concatenate([border_mm[:1], on_sheet, border_mm[-1:]])


def profile(lightness: NDArray[np.float32], spots: Array, aside: Array, reach_px: float) -> tuple[Array, Array]:
    """The contrast in L* (n,) across a border at places (n, 2), pixels, and the width in which it is passed, from 10 to
    90 %, in pixels."""
    offsets = np.arange(-reach_px, reach_px + 0.25, 0.5)
    points = spots[:, None] + offsets[None, :, None] * aside[:, None]
    x, y = (points[..., axis].astype(np.float32) - np.float32(0.5) for axis in (0, 1))
    seen = cv2.remap(lightness, x, y, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
    kernel = np.ones((min(2 * BESIDE + 1, len(spots) | 1), 1)) / min(2 * BESIDE + 1, len(spots) | 1)
    values = np.asarray(cv2.filter2D(seen, -1, kernel, borderType=cv2.BORDER_REPLICATE), np.float64)
    middle = len(offsets) // 2
    sign = np.where(values[:, middle:].mean(1) >= values[:, :middle].mean(1), 1.0, -1.0)
    rising = values * sign[:, None]
    # From the middle out the step ends where it is steep no more: other edges further off are not part of it.
    low, high = _foot(rising[:, middle::-1], -1.0), _foot(rising[:, middle:], 1.0)
    step = np.maximum(high - low, 0.0)
    width = np.zeros(len(spots))
    for share, side in ((0.1, slice(middle, None, -1)), (0.9, slice(middle, None))):
        level = low + share * step
        part = rising[:, side]
        beyond = part <= level[:, None] if share < 0.5 else part >= level[:, None]
        first = np.where(beyond.any(1), beyond.argmax(1), part.shape[1] - 1)
        before = np.maximum(first - 1, 0)
        rows = np.arange(len(part))
        a, b = part[rows, before], part[rows, first]
        inside = np.where(np.abs(b - a) > 1e-9, (level - a) / np.where(np.abs(b - a) > 1e-9, b - a, 1.0), 1.0)
        width += 0.5 * (before + np.clip(inside, 0, 1) * (first - before))
    return step, np.maximum(width, 0.0)


FLAT_SLOPE = 0.12  # of the steepest of a profile: where it is flatter the step has ended


def _foot(outward: Array, sign: float) -> Array:
    """The value (n,) at which profiles (n, m), read outward from the middle, level out."""
    slope = np.diff(outward, axis=1) * sign
    steepest = np.maximum(slope[:, : max(3, slope.shape[1] // 2)].max(1), 1e-6)
    flat = slope < np.maximum(FLAT_SLOPE * steepest, 0.05)[:, None]
    # A step that begins a little beside the border is still the same one.
    past = np.cumsum(~flat, axis=1) > 0
    ended = flat & (past | (np.arange(flat.shape[1]) >= 4)[None, :])
    at = np.where(ended.any(1), ended.argmax(1), slope.shape[1] - 1)
    return np.asarray(outward[np.arange(len(outward)), at])


def shares(edges: tuple[Edge, ...]) -> dict[EdgeKind, float]:
    """The share of all length for each kind; nothing without borders."""
    total = sum(edge.length_mm for edge in edges)
    kinds: tuple[EdgeKind, ...] = ("hard", "soft", "lost")
    return {k: sum(e.length_mm for e in edges if e.kind == k) / total for k in kinds} if total else {}
