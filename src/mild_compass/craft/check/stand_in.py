"""A simulator of hand and phone: a photo of the plan's own lines, drawn with a chosen clumsiness on a sheet on a table.

For trying the check without a drawing, and for the demo. The sheet is drawn flat and then thrown through a camera.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, Literal

import cv2
import numpy as np

if TYPE_CHECKING:
    from collections.abc import Sequence

    from numpy.typing import NDArray

    from mild_compass.craft.check.pieces import PlanLine

    Array = NDArray[np.float64]
    Rgb = NDArray[np.uint8]

HandName = Literal["steady", "ordinary", "clumsy"]
PHOTO_PX = (2800, 2100)
CANVAS_PX = 3400
GROUND_RGB = (164.0, 120.0, 78.0)
PAPER_RGB = (246.0, 243.0, 234.0)
FOCAL = 0.78  # of the photo's longer side, as of a phone


@dataclass(frozen=True, slots=True)
class Clumsiness:
    """How far the hand errs: the whole (mm, %, degrees), parts besides, how many, the wobble, and what is left out.

    ``tilt_deg`` and ``lamp`` are the phone's: how slanted, how much darker the far end. ``values`` is how far the tones
    err, in L*.
    """

    shift_mm: float
    scale_percent: float
    turn_deg: float
    part_mm: float
    parts: int
    wobble_mm: float
    left_out: float
    tilt_deg: float = 12.0
    bow: float = 0.02
    lamp: float = 0.22
    values: float = 6.0


HANDS: dict[HandName, Clumsiness] = {
    "steady": Clumsiness(0.6, 0.2, 0.1, 1.8, 1, 0.08, 0.03, 6.0, values=3.0),
    "ordinary": Clumsiness(1.8, 0.7, 0.35, 3.0, 2, 0.14, 0.08),
    "clumsy": Clumsiness(3.5, 1.5, 0.8, 4.5, 3, 0.22, 0.15, 18.0, lamp=0.35, values=11.0),
}


def drawn_badly(
    lines: Sequence[PlanLine],
    size_mm: tuple[float, float],
    hand: Clumsiness,
    seed: int,
    tones: NDArray[np.float32] | None = None,
    box_mm: tuple[float, float, float, float] | None = None,
    photo_px: tuple[int, int] = PHOTO_PX,
) -> Rgb:
    """A photo (h, w, 3) of the lines drawn with that hand; ``tones`` (L*, h, w) lie in the box (mm) where given."""
    chance = np.random.default_rng(seed)
    fine = CANVAS_PX / max(size_mm)
    whole = _whole(size_mm, hand, chance)
    strokes = _strayed(lines, size_mm, hand, whole, chance)
    canvas = np.full((round(size_mm[1] * fine), round(size_mm[0] * fine)), 1.0, np.float32)
    if tones is not None and box_mm is not None:
        _shade(canvas, tones, box_mm, fine, hand, whole, chance)
    for stroke in strokes:
        _pencil(canvas, stroke, fine, chance)
    canvas *= 1 + 0.012 * _grain(canvas.shape, chance, 2)
    return _photographed(canvas, hand, chance, photo_px)


# -- the hand --------------------------------------------------------------------------------------------------


def _whole(size_mm: tuple[float, float], hand: Clumsiness, chance: np.random.Generator) -> Array:
    """How the whole is off: an affine map (2, 3) of mm."""
    about = np.array(size_mm) / 2
    grow, turn = chance.choice([-1, 1], 2) * (hand.scale_percent / 100, np.radians(hand.turn_deg))
    c, s = np.cos(turn), np.sin(turn)
    linear = (1 + grow) * np.array([[c, -s], [s, c]])
    return np.column_stack([linear, about + _way(chance) * hand.shift_mm - linear @ about])


def _strayed(
    lines: Sequence[PlanLine], size_mm: tuple[float, float], hand: Clumsiness, whole: Array, chance: np.random.Generator
) -> list[Array]:
    """The lines where the hand has put them: a few parts elsewhere, the whole off, a wobble, some left out."""
    middles = np.array([line.points_mm.mean(0) for line in lines]).reshape(-1, 2)
    about = np.array(size_mm) / 2
    moved = np.zeros((len(lines), 2))
    reach = 0.16 * min(size_mm)
    for _ in range(hand.parts if len(lines) > 6 else 0):
        centre = middles[chance.integers(len(middles))]
        moved[np.hypot(*(middles - centre).T) < reach] = _way(chance) * hand.part_mm * chance.uniform(0.8, 1.2)
    missing = middles[chance.integers(len(middles))] if len(lines) else about
    far = np.hypot(*(middles - missing).T)
    gone = far < np.quantile(far, hand.left_out) if len(far) else np.zeros(0, bool)
    found = []
    for line, step, left_out in zip(lines, moved, gone, strict=True):
        if left_out:
            continue
        points = _evenly(np.asarray(line.points_mm, np.float64)) + step
        points = points @ whole[:, :2].T + whole[:, 2]
        found.append(points + _wobble(len(points), hand.wobble_mm, chance))
    return found


def _way(chance: np.random.Generator) -> Array:
    angle = chance.uniform(0, 2 * np.pi)
    return np.array([np.cos(angle), np.sin(angle)])


def _evenly(points: Array, step_mm: float = 1.0) -> Array:
    way = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(points, axis=0).T))])
    at = np.union1d(way, np.arange(0.0, way[-1], step_mm))
    return np.stack([np.interp(at, way, points[:, axis]) for axis in range(2)], 1)


def _wobble(count: int, size_mm: float, chance: np.random.Generator) -> Array:
    """A slow drift of the pencil: noise smoothed over some 12 mm."""
    noise = chance.normal(size=(count + 48, 2))
    kernel = np.hanning(25)
    smooth = np.stack([np.convolve(noise[:, axis], kernel, "same") for axis in range(2)], 1)[24 : 24 + count]
    return np.asarray(smooth / np.sqrt((kernel**2).sum()) * size_mm)


def _pencil(canvas: NDArray[np.float32], stroke: Array, fine: float, chance: np.random.Generator) -> None:
    """A stroke pressed now more, now less, its graphite broken by the paper's tooth."""
    width = max(1, round(chance.uniform(0.3, 0.48) * fine))
    low = np.floor(stroke.min(0) * fine).astype(int) - width - 2
    high = np.ceil(stroke.max(0) * fine).astype(int) + width + 2
    x0, y0 = np.maximum(low, 0)
    x1, y1 = np.minimum(high, canvas.shape[::-1])
    if x1 <= x0 or y1 <= y0:
        return
    mask = np.zeros((y1 - y0, x1 - x0), np.uint8)
    points = np.round((stroke * fine - (x0 + 0.5, y0 + 0.5)) * 16).astype(np.int32)
    cv2.polylines(mask, [points], False, 255, width, cv2.LINE_AA, 4)
    press = chance.uniform(0.5, 0.72) * (1 + 0.22 * _grain(mask.shape, chance, 2))
    here = canvas[y0:y1, x0:x1]
    np.minimum(here, 1 - mask.astype(np.float32) / 255 * np.clip(press, 0.2, 0.9), out=here)


def _grain(shape: tuple[int, ...], chance: np.random.Generator, size: int) -> NDArray[np.float32]:
    coarse = chance.normal(size=(shape[0] // size + 2, shape[1] // size + 2)).astype(np.float32)
    return np.asarray(cv2.resize(coarse, (shape[1], shape[0]), interpolation=cv2.INTER_LINEAR))


def _shade(
    canvas: NDArray[np.float32],
    tones: NDArray[np.float32],
    box_mm: tuple[float, float, float, float],
    fine: float,
    hand: Clumsiness,
    whole: Array,
    chance: np.random.Generator,
) -> None:
    """Flat tones, each a little too light or too dark, with hatching in them."""
    levels = np.unique(tones)
    tones = np.array(tones)
    for level in levels:
        if level < 96:
            tones[tones == level] = np.clip(level + chance.normal(0, hand.values), 8, 99)
    left, top, right, bottom = (round(side * fine) for side in box_mm)
    flat = cv2.resize(tones, (right - left, bottom - top), interpolation=cv2.INTER_NEAREST)
    y, x = np.mgrid[0 : bottom - top, 0 : right - left].astype(np.float32)
    hatch = np.sin((x + y) / (0.32 * fine)) * 1.3 + _grain(flat.shape, chance, 3) * 1.2
    lightness = np.clip(flat + np.where(flat < 96, hatch, 0), 3, 100)
    linear = np.where(lightness > 8, ((lightness + 16) / 116) ** 3, lightness / 903.3)
    # The canvas is a share of the paper's own sRGB.
    share = np.where(linear > 0.0031308, 1.055 * np.maximum(linear, 1e-6) ** (1 / 2.4) - 0.055, 12.92 * linear)
    paper = np.ones_like(canvas)
    paper[top:bottom, left:right] = share
    moved = np.column_stack([whole[:, :2], whole[:, 2] * fine])
    np.minimum(canvas, cv2.warpAffine(paper, moved, canvas.shape[::-1], borderValue=1.0), out=canvas)


# -- the phone -------------------------------------------------------------------------------------------------


def _photographed(
    canvas: NDArray[np.float32], hand: Clumsiness, chance: np.random.Generator, photo_px: tuple[int, int]
) -> Rgb:
    high, wide = canvas.shape
    width, height = photo_px if wide >= high else photo_px[::-1]
    corners = _corners(wide / high, width, height, hand, chance)
    square = np.array([[0.0, 0], [wide, 0], [wide, high], [0, high]], np.float32)
    inverse = np.linalg.inv(cv2.getPerspectiveTransform(square, corners.astype(np.float32)))
    y, x = np.mgrid[0:height, 0:width].astype(np.float32)
    unit = np.hypot(width, height) / 2
    u, v = (x + 0.5 - width / 2) / unit, (y + 0.5 - height / 2) / unit
    grown = 1 + hand.bow * (u * u + v * v)  # a lens that draws straight edges as slight bows
    u, v = u * grown * unit + width / 2, v * grown * unit + height / 2
    depth = inverse[2, 0] * u + inverse[2, 1] * v + inverse[2, 2]
    at_x = ((inverse[0, 0] * u + inverse[0, 1] * v + inverse[0, 2]) / depth - 0.5).astype(np.float32)
    at_y = ((inverse[1, 0] * u + inverse[1, 1] * v + inverse[1, 2]) / depth - 0.5).astype(np.float32)
    soft = cv2.GaussianBlur(canvas, (0, 0), max(0.4, 0.35 * wide / width))
    sheet = cv2.remap(soft, at_x, at_y, cv2.INTER_LINEAR, borderMode=cv2.BORDER_CONSTANT, borderValue=1.0)
    inside = np.clip(
        np.minimum(np.minimum(at_x, wide - 1 - at_x), np.minimum(at_y, high - 1 - at_y)) * width / wide + 1, 0, 1
    )
    shadow = cv2.GaussianBlur(np.roll(inside, (9, 6), (0, 1)), (0, 0), 7)
    table = _wood(width, height, chance) * (1 - 0.35 * shadow)[..., None]
    picture = table * (1 - inside)[..., None] + (sheet * inside)[..., None] * np.array(PAPER_RGB, np.float32)
    way = _way(chance)
    light = 1.0 - hand.lamp * (0.5 + (x / width - 0.5) * way[0] + (y / height - 0.5) * way[1])
    warm = np.array([1.0, 0.985, 0.955], np.float32)
    picture = cv2.GaussianBlur(picture * light[..., None] * warm, (0, 0), 0.7)
    picture += chance.normal(0, 1.8, (height, width, 1)).astype(np.float32)
    return np.asarray(np.clip(picture, 0, 255), np.uint8)


def _corners(ratio: float, width: int, height: int, hand: Clumsiness, chance: np.random.Generator) -> Array:
    """Where the sheet's corners fall: seen from above with a tilt, nearly filling the photo."""
    half = np.array([ratio, 1.0]) / max(ratio, 1.0) / 2
    flat = np.array([[-1, -1], [1, -1], [1, 1], [-1, 1.0]]) * half
    axis, turn = chance.uniform(0, 2 * np.pi), np.radians(chance.normal(0, 1.5))
    lean = cv2.Rodrigues(np.array([np.cos(axis), np.sin(axis), 0.0]) * np.radians(hand.tilt_deg))[0]
    spin = cv2.Rodrigues(np.array([0, 0, turn]))[0]
    there = np.column_stack([flat, np.zeros(4)]) @ (lean @ spin).T + (0, 0, 1.15)
    seen = there[:, :2] / there[:, 2:] * FOCAL
    span = np.ptp(seen, axis=0)
    grown = 0.88 * min(width / span[0], height / span[1])
    return np.asarray((seen - (seen.min(0) + seen.max(0)) / 2) * grown + (width / 2, height / 2))


def _wood(width: int, height: int, chance: np.random.Generator) -> NDArray[np.float32]:
    y, x = np.mgrid[0:height:2, 0:width:2].astype(np.float32)
    grain = cv2.resize(
        chance.normal(size=(y.shape[0] // 2, 12)).astype(np.float32), y.shape[::-1], interpolation=cv2.INTER_CUBIC
    )
    board = 0.06 * np.sin(y // 260 * 2.4)
    tone = 1 + 0.06 * grain + board + 0.02 * np.sin(x / 210 + y / 35)
    tone[np.abs(y % 260) < 4] *= 0.72
    table = tone[..., None] * np.array(GROUND_RGB, np.float32) * 0.62
    return np.asarray(cv2.resize(table.astype(np.float32), (width, height), interpolation=cv2.INTER_LINEAR))
