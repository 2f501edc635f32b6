"""The values of a drawing against those planned: each mass's drawn L*, told against the paper's own white.

The light on the sheet is a smooth surface through the bare paper of the margins (where there are none, through what is
palest); a value is what is left after dividing by it, on paper of L* 95 (common practice, no published source).
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import cv2
import numpy as np

from mild_compass.craft.check.sheet_state import cover
from mild_compass.craft.check.whole import applied
from mild_compass.craft.values.names import names_of
from mild_compass.craft.values.reads import reads_of

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from mild_compass.craft.check.flat import FlatSheet
    from mild_compass.craft.geometry.lines import Box
    from mild_compass.craft.values.masses import Masses

    Array = NDArray[np.float64]

PAPER_LIGHTNESS = 95.0
SHOWN_WHITE = 0.97
PX_PER_MM = 1.5  # values are broad
MARGIN_MM, RIM_MM = 4.0, 1.5  # bare paper round the picture that is wide enough to judge the light by; off its rims
INSET_MM = 1.6  # of a mass's border: there two values mix
LEAST_MM2, MOST_MASSES = 60.0, 40
TONED, TONED_SHARE = 7.0, 0.25  # darker than paper by so much L*; of what is planned darker: there are tones


@dataclass(frozen=True, slots=True)
class DrawnValue:
    """A planned mass and its value as drawn, in L*, how many steps of the plan too light (+) or too dark (-)."""

    name: str
    planned: float
    drawn: float
    steps_off: float
    area_mm2: float
    centre_mm: tuple[float, float]
    outline_mm: tuple[tuple[float, float], ...] = ()


@dataclass(frozen=True, eq=False, slots=True)
class DrawnTones:
    """All masses compared, the largest first; the drawing's L* over the picture (h, w); where its first read lies."""

    values: tuple[DrawnValue, ...]
    lightness: NDArray[np.float32]
    first_read_mm: tuple[float, float] | None


def lightness_of(flat: FlatSheet, box: Box) -> NDArray[np.float32]:
    """L* (h, w) of a flat sheet in even light, PX_PER_MM pixels to a mm."""
    size = (round(flat.width_mm * PX_PER_MM), round(flat.height_mm * PX_PER_MM))
    small = cv2.resize(flat.rgb, size, interpolation=cv2.INTER_AREA).astype(np.float32) / 255
    linear = np.where(small > 0.04045, ((small + 0.055) / 1.055) ** 2.4, small / 12.92)
    luminance = np.maximum(linear @ np.array([0.2126, 0.7152, 0.0722], np.float32), 1e-4)
    paper = ((PAPER_LIGHTNESS + 16) / 116) ** 3
    share = luminance / _light(luminance[..., None], flat, box)[..., 0] * paper
    return np.asarray(116 * np.cbrt(np.clip(share, 0.0089, 1.0)) - 16, np.float32)


def in_even_light(flat: FlatSheet, box: Box) -> NDArray[np.uint8]:
    """The sheet (h, w, 3) to be looked at: the slope of the light and its colour taken out, tones left as they are."""
    size = (round(flat.width_mm * PX_PER_MM), round(flat.height_mm * PX_PER_MM))
    small = cv2.resize(flat.rgb, size, interpolation=cv2.INTER_AREA).astype(np.float32) / 255
    light = _light(np.maximum(small, np.float32(1e-3)), flat, box)  # in sRGB's own steps: only a look
    gain = cv2.resize(SHOWN_WHITE / np.clip(light, 0.05, None), flat.rgb.shape[1::-1], interpolation=cv2.INTER_LINEAR)
    return np.asarray(np.clip(flat.rgb * gain, 0, 255), np.uint8)


def _light(channels: NDArray[np.float32], flat: FlatSheet, box: Box) -> NDArray[np.float32]:
    """What bare paper has in each of some channels (h, w, n) everywhere: a quadratic surface through what is bare."""
    height, width = channels.shape[:2]
    y, x = np.mgrid[0:height, 0:width].astype(np.float32)
    at_x, at_y = x / PX_PER_MM, y / PX_PER_MM
    edge = np.minimum(np.minimum(at_x, flat.width_mm - at_x), np.minimum(at_y, flat.height_mm - at_y))
    inside = (
        (at_x > box.left - RIM_MM)
        & (at_x < box.right + RIM_MM)
        & (at_y > box.top - RIM_MM)
        & (at_y < box.bottom + RIM_MM)
    )
    margins = min(box.left, box.top, flat.width_mm - box.right, flat.height_mm - box.bottom)
    bare = (edge > RIM_MM) & ~inside if margins >= MARGIN_MM else edge > RIM_MM
    hidden = cover(flat.rgb, flat.px_per_mm).astype(np.uint8)
    if margins >= MARGIN_MM:
        bare &= cv2.resize(hidden, (width, height), interpolation=cv2.INTER_NEAREST) == 0
    u, v = x / width - 0.5, y / height - 0.5
    basis = np.stack([np.ones_like(u), u, v, u * u, u * v, v * v], -1)
    rows = basis[bare][::3].astype(np.float64)
    logarithms = np.log(channels[bare][::3].astype(np.float64))
    found = np.stack([_surface(rows, logarithms[:, k]) for k in range(channels.shape[2])], 1)
    return np.asarray(np.exp(basis @ found.astype(np.float32)), np.float32)


def _surface(rows: Array, target: Array) -> Array:
    """Factors (6,) by which rows (n, 6) come nearest to a target (n,); what is darker than the surface is not bare: it
    counts less and less."""
    weight = np.ones(len(rows))
    found: Array = np.zeros(rows.shape[1])
    for _ in range(12):
        weighted = rows.T * weight
        found = np.asarray(np.linalg.lstsq(weighted @ rows, weighted @ target, rcond=None)[0], np.float64)
        off = target - rows @ found
        spread = max(0.015, float(np.median(abs(off)))) if len(off) else 1.0
        weight = np.where(off > 0, 1 / (1 + (off / (3 * spread)) ** 2), 1 / (1 + (off / spread) ** 2) ** 2)
    return found


def drawn_tones(flat: FlatSheet, masses: Masses, box: Box, whole: Array | None) -> DrawnTones | None:
    """Planned masses against the drawing's values; None where there are no tones to compare yet."""
    lightness = lightness_of(flat, box)
    matrix = np.column_stack([np.eye(2), np.zeros(2)]) if whole is None else whole
    shown = np.array(masses.shown)
    steps = masses.steps
    per_mm = steps.shape[1] / box.width
    seen = _in_plan(lightness, steps.shape, box, per_mm, matrix)
    drawn_dark = seen < PAPER_LIGHTNESS - TONED
    darker = steps < len(shown) - 1
    if not darker.any() or drawn_dark[darker].mean() < TONED_SHARE:
        return None
    reads = reads_of(seen)
    first = (box.left + reads[0].x * box.width, box.top + reads[0].y * box.height) if reads else None
    return DrawnTones(tuple(_compared(seen, steps, shown, box, per_mm)), seen, first)


def _in_plan(
    lightness: NDArray[np.float32], shape: tuple[int, ...], box: Box, per_mm: float, matrix: Array
) -> NDArray[np.float32]:
    """The drawing's L* (h, w) where the plan's masses are, the whole's shift and size taken out."""
    height, width = shape
    y, x = np.mgrid[0:height, 0:width]
    at = np.stack([box.left + (x + 0.5) / per_mm, box.top + (y + 0.5) / per_mm], -1)
    xy = (applied(matrix, at) * PX_PER_MM - 0.5).astype(np.float32)
    return np.asarray(
        cv2.remap(lightness, xy[..., 0], xy[..., 1], cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE), np.float32
    )


def _compared(
    seen: NDArray[np.float32], steps: NDArray[np.uint8], shown: Array, box: Box, per_mm: float
) -> list[DrawnValue]:
    inset = 2 * max(1, round(INSET_MM * per_mm)) + 1
    spacing = float(np.ptp(shown) / max(len(shown) - 1, 1)) or 1.0
    names = names_of(len(shown))
    found = []
    for step, planned in enumerate(shown):
        mask = (steps == step).astype(np.uint8)
        core = cv2.erode(cv2.copyMakeBorder(mask, *(1,) * 4, cv2.BORDER_CONSTANT, value=1), np.ones((inset, inset)))[
            1:-1, 1:-1
        ]
        count, labels, stats, centres = cv2.connectedComponentsWithStats(core, connectivity=4)
        order = sorted(range(1, count), key=lambda n: -stats[n, cv2.CC_STAT_AREA])
        for number, n in enumerate(order, 1):
            area = float(stats[n, cv2.CC_STAT_AREA]) / per_mm**2
            if area < LEAST_MM2:
                break
            mine = labels == n
            drawn = float(np.median(seen[mine]))
            outline = max(
                cv2.findContours(mine.astype(np.uint8), cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_SIMPLE)[0], key=len
            )
            line = tuple(
                (box.left + (x + 0.5) / per_mm, box.top + (y + 0.5) / per_mm) for x, y in outline[:, 0].tolist()
            )
            centre = (box.left + float(centres[n, 0]) / per_mm, box.top + float(centres[n, 1]) / per_mm)
            found.append(
                DrawnValue(
                    f"{names[step]} {number}",
                    float(planned),
                    drawn,
                    (drawn - float(planned)) / spacing,
                    area,
                    centre,
                    line,
                )
            )
    found.sort(key=lambda each: -each.area_mm2)
    return found[:MOST_MASSES]
