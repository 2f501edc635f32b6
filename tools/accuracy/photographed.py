"""Made photos of pencil drawings with known truth: for the tests and the table, apart from what the application ships.

The strokes themselves are thrown through a camera of their own and filled as polygons, so that no raster of the sheet
is resampled; the ground, the lamp, a hand's shadow and the noise come on top.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from itertools import pairwise
from typing import Literal

import cv2
import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]
FINE = 4
Table = Literal["wood", "checks", "dark", "grey", "stripes"]


@dataclass(frozen=True)
class Moved:
    """A part that was drawn elsewhere: all strokes whose middle lies in a circle, about its middle."""

    centre_mm: tuple[float, float]
    radius_mm: float
    shift_mm: tuple[float, float] = (0.0, 0.0)
    scale: float = 1.0
    turn_deg: float = 0.0

    def holds(self, line_mm: Array) -> bool:
        """Whether a stroke belongs to it."""
        return bool(np.hypot(*(line_mm.mean(0) - self.centre_mm)) < self.radius_mm)

    def moved(self, points_mm: Array) -> Array:
        """Where points of the part come to lie."""
        return _similar(points_mm, np.array(self.centre_mm), self.shift_mm, self.scale, self.turn_deg)


@dataclass(frozen=True)
class Hand:
    """How it was drawn: the whole off, parts off besides, how much the pencil wobbles, its width and darkness."""

    shift_mm: tuple[float, float] = (0.0, 0.0)
    scale: float = 1.0
    turn_deg: float = 0.0
    parts: tuple[Moved, ...] = ()
    wobble_mm: float = 0.12
    width_mm: float = 0.4
    dark: float = 0.55


@dataclass(frozen=True)
class Shot:
    """How it was photographed."""

    size_px: tuple[int, int] = (4000, 3000)
    tilt_deg: float = 10.0
    tilt_about_deg: float = 30.0
    turn_deg: float = 3.0
    fill: float = 0.85
    aside: tuple[float, float] = (0.0, 0.0)  # of the picture's size
    bow: float = 0.0  # k1 of points divided by the focal length
    table: Table = "wood"
    lamp: float = 0.2  # how much darker the far end is
    shadow: bool = False
    noise: float = 2.0
    quality: int = 88
    focal_35mm: float = 27.0


@dataclass(frozen=True)
class Photographed:
    """A made photo, and what is true of it: the corners of the sheet in pixels, and where each stroke went (mm)."""

    rgb: NDArray[np.uint8]
    corners_px: Array
    drawn_mm: tuple[Array, ...]
    parts_of: tuple[int, ...]  # the part each stroke belongs to, or -1
    hand: Hand = field(default_factory=Hand)

    def jpeg(self, quality: int = 88) -> bytes:
        """The photo as a file."""
        return bytes(cv2.imencode(".jpg", self.rgb[..., ::-1], [cv2.IMWRITE_JPEG_QUALITY, quality])[1])


def _similar(points: Array, about: Array, shift: tuple[float, float], scale: float, turn_deg: float) -> Array:
    c, s = np.cos(np.radians(turn_deg)), np.sin(np.radians(turn_deg))
    return np.asarray((points - about) @ (scale * np.array([[c, -s], [s, c]])).T + about + shift)


def dense(line_mm: Array, step_mm: float = 0.5) -> Array:
    """Places along a line (n, 2), about so far apart, its corners among them."""
    runs = [line_mm[:1]]
    for a, b in pairwise(line_mm):
        count = max(1, int(np.ceil(np.hypot(*(b - a)) / step_mm)))
        runs.append(a + (b - a) * np.arange(1, count + 1)[:, None] / count)
    return np.concatenate(runs)


def _wobbled(line: Array, amount_mm: float, chance: np.random.Generator) -> Array:
    """Slow waves across the way the hand goes, about a wave every 25 mm."""
    way = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(line, axis=0).T))])
    wave = np.zeros((len(line), 2))
    for length in (60.0, 28.0, 13.0):
        for axis in range(2):
            size = chance.normal(0, amount_mm / 1.7)
            wave[:, axis] += size * np.sin(2 * np.pi * way / length + chance.uniform(0, 6.3))
    return line + wave


class _Camera:
    """A camera over the sheet: where points of the paper (mm) fall in the photo."""

    def __init__(self, paper_mm: tuple[float, float], shot: Shot) -> None:
        width, height = shot.size_px
        self.focal = shot.focal_35mm / 36.0 * max(width, height)
        self.middle = np.array([width / 2, height / 2])
        self.bow = shot.bow
        about, tilt = np.radians(shot.tilt_about_deg), np.radians(shot.tilt_deg)
        axis = np.array([np.cos(about), np.sin(about), 0.0])
        lean = cv2.Rodrigues(axis * tilt)[0]
        spin = cv2.Rodrigues(np.array([0, 0, np.radians(shot.turn_deg)]))[0]
        self.rotation = lean @ spin
        self.about = np.array(paper_mm) / 2
        low, high = 50.0, 20000.0
        for _ in range(60):  # the distance at which the sheet fills its share
            self.away = np.array([0.0, 0.0, (low + high) / 2])
            corners = self.seen(_corners(paper_mm))
            span = np.ptp(corners, axis=0) / (width, height)
            low, high = ((low + high) / 2, high) if span.max() > shot.fill else (low, (low + high) / 2)
        centred = self.middle - (corners.min(0) + corners.max(0)) / 2
        aside = np.array(shot.aside) * (width, height)
        self.away[:2] = (centred + aside) / self.focal * self.away[2]

    def seen(self, points_mm: Array) -> Array:
        flat = np.concatenate([points_mm - self.about, np.zeros((len(points_mm), 1))], 1)
        there = flat @ self.rotation.T + self.away
        ray = there[:, :2] / there[:, 2:]
        ray = ray * (1 + self.bow * (ray**2).sum(1, keepdims=True))
        return np.asarray(ray * self.focal + self.middle)


def _corners(paper_mm: tuple[float, float]) -> Array:
    w, h = paper_mm
    return np.array([[0.0, 0], [w, 0], [w, h], [0, h]])


def _filled(mask: NDArray[np.uint8], outline_px: Array, value: int = 255) -> None:
    cv2.fillPoly(mask, [np.round((outline_px - 0.5) * 16).astype(np.int32)], value, cv2.LINE_AA, 4)


def _table(shot: Shot, chance: np.random.Generator) -> NDArray[np.float32]:
    width, height = shot.size_px
    y, x = np.mgrid[0:height:4, 0:width:4].astype(np.float32)
    turn = chance.uniform(-0.5, 0.5)
    along, across = x * np.cos(turn) + y * np.sin(turn), y * np.cos(turn) - x * np.sin(turn)
    if shot.table == "wood":
        grain = np.sin(across / 23 + 3 * np.sin(along / 700 + across / 260)) * 10 + np.sin(across / 7) * 4
        tone = np.array([150.0, 108, 70]) + chance.uniform(-25, 25)
        ground = tone + grain[..., None]
        ground[(across // 420).astype(int) % 7 == 0] *= 0.93
        ground[np.abs(across % 420) < 6] *= 0.6
    elif shot.table == "checks":
        size = chance.uniform(120, 260)
        pick = ((along // size + across // size) % 2)[..., None]
        ground = np.array([188.0, 60, 55]) * pick + np.array([225.0, 220, 210]) * (1 - pick)
    elif shot.table == "stripes":
        pick = ((across // chance.uniform(60, 140)) % 3 == 0)[..., None]
        ground = np.array([70.0, 90, 130]) * pick + np.array([150.0, 160, 170]) * (1 - pick)
    else:
        level = 55.0 if shot.table == "dark" else 135.0
        ground = np.full((*x.shape, 3), level) + chance.normal(0, 4, (*x.shape, 1))
    return cv2.resize(ground.astype(np.float32), (width, height), interpolation=cv2.INTER_LINEAR)


def photographed(
    lines_mm: list[Array], paper_mm: tuple[float, float], hand: Hand, shot: Shot, seed: int
) -> Photographed:
    """A photo of the lines as a hand has drawn them on a sheet that lies on a table."""
    chance = np.random.default_rng(seed)
    about = np.array(paper_mm) / 2
    drawn, parts_of = [], []
    for line in lines_mm:
        mine = next((n for n, part in enumerate(hand.parts) if part.holds(line)), -1)
        points = dense(np.asarray(line, np.float64))
        if mine >= 0:
            points = hand.parts[mine].moved(points)
        points = _similar(points, about, hand.shift_mm, hand.scale, hand.turn_deg)
        drawn.append(_wobbled(points, hand.wobble_mm, chance))
        parts_of.append(mine)
    camera = _Camera(paper_mm, shot)
    width, height = shot.size_px
    picture = _table(shot, chance)
    outline = camera.seen(dense(_corners(paper_mm)[[0, 1, 2, 3, 0]], 3.0))
    fine = np.zeros((height * FINE, width * FINE), np.uint8)  # an anti-aliased polygon of OpenCV is a pixel too large
    cv2.fillPoly(fine, [np.round((outline * FINE - 0.5) * 16).astype(np.int32)], 255, cv2.LINE_8, 4)
    sheet = cv2.resize(fine, (width, height), interpolation=cv2.INTER_AREA)
    share = (sheet.astype(np.float32) / 255)[..., None]
    paper = np.array([238.0, 236, 229], np.float32) + chance.normal(0, 1.5)
    picture = picture * (1 - share) + paper * share
    ink = np.zeros((height, width), np.float32)
    mask = np.zeros((height, width), np.uint8)
    for line in drawn:
        mask[:] = 0 if len(drawn) < 4 else mask
        half = hand.width_mm / 2 * chance.uniform(0.8, 1.25)
        step = np.gradient(line, axis=0) if len(line) > 1 else np.array([[1.0, 0]])
        side = np.stack([-step[:, 1], step[:, 0]], 1) / np.maximum(np.hypot(*step.T), 1e-9)[:, None]
        left, right = camera.seen(line + side * half), camera.seen(line - side * half)
        low = np.floor(np.minimum(left.min(0), right.min(0)) - 3).astype(int)
        high = np.ceil(np.maximum(left.max(0), right.max(0)) + 3).astype(int)
        x0, y0, x1, y1 = max(low[0], 0), max(low[1], 0), min(high[0], width), min(high[1], height)
        if x1 <= x0 or y1 <= y0:
            continue
        spot = np.zeros((y1 - y0, x1 - x0), np.uint8)
        for n in range(len(line) - 1):
            _filled(spot, np.array([left[n], left[n + 1], right[n + 1], right[n]]) - (x0, y0))
        dark = hand.dark * chance.uniform(0.8, 1.15)
        here = ink[y0:y1, x0:x1]
        np.maximum(here, spot.astype(np.float32) / 255 * dark, out=here)
    grain = cv2.resize(chance.normal(1, 0.18, (height // 3, width // 3)).astype(np.float32), (width, height))
    picture = picture * (1 - ink * np.clip(grain, 0.4, 1.4))[..., None]
    y, x = np.mgrid[0:height:8, 0:width:8].astype(np.float32)
    way = chance.uniform(0, 6.3)
    slope = (x / width - 0.5) * np.cos(way) + (y / height - 0.5) * np.sin(way)
    light = 0.97 - shot.lamp * (0.5 + slope) * 0.9
    if shot.shadow:
        light = light * _hand_shadow(light.shape, chance)
    light = cv2.resize(light.astype(np.float32), (width, height), interpolation=cv2.INTER_LINEAR)
    picture = picture * light[..., None]
    picture = cv2.GaussianBlur(picture, (0, 0), 0.8)
    picture += chance.normal(0, shot.noise, picture.shape).astype(np.float32)
    rgb = np.clip(picture, 0, 255).astype(np.uint8)
    return Photographed(rgb, camera.seen(_corners(paper_mm)), tuple(drawn), tuple(parts_of), hand)


def _hand_shadow(shape: tuple[int, ...], chance: np.random.Generator) -> NDArray[np.float32]:
    """Fingers and an arm from one side, with a soft rim."""
    height, width = shape
    mask = np.zeros(shape, np.float32)
    start = np.array([chance.uniform(0.2, 0.9) * width, height * 1.05])
    palm = np.array([chance.uniform(0.3, 0.7) * width, chance.uniform(0.45, 0.7) * height])
    cv2.line(mask, tuple(start.astype(int).tolist()), tuple(palm.astype(int).tolist()), 1.0, int(width * 0.12))
    for finger in range(4):
        tip = palm + np.array([-0.11 + finger * 0.06, -0.16 - 0.01 * finger]) * (width, height)
        cv2.line(mask, tuple(palm.astype(int).tolist()), tuple(tip.astype(int).tolist()), 1.0, int(width * 0.03))
    return 1 - chance.uniform(0.2, 0.4) * cv2.GaussianBlur(mask, (0, 0), width * 0.01)


def random_hand(paper_mm: tuple[float, float], lines_mm: list[Array], seed: int) -> Hand:
    """A hand that is off: shifts up to 4 mm, 2 %, 1°, and one or two parts off by 1.5 to 6 mm besides."""
    chance = np.random.default_rng(seed * 7 + 1)
    middles = np.array([line.mean(0) for line in lines_mm])
    parts: list[Moved] = []
    for _ in range(int(chance.integers(1, 3))):
        for _ in range(30):
            centre = middles[chance.integers(len(middles))] + chance.normal(0, 8, 2)
            radius = float(chance.uniform(0.1, 0.18) * min(paper_mm))
            inside = [line for line in lines_mm if np.hypot(*(line.mean(0) - centre)) < radius]
            clear = all(np.hypot(*(centre - part.centre_mm)) > radius + part.radius_mm + 10 for part in parts)
            if clear and len(inside) >= 4 and len(inside) < 0.35 * len(lines_mm):
                way = chance.uniform(0, 2 * np.pi)
                far = chance.uniform(1.5, 6)
                turned = chance.random() < 0.3
                parts.append(
                    Moved(
                        (float(centre[0]), float(centre[1])), radius,
                        (float(far * np.cos(way)), float(far * np.sin(way))),
                        float(chance.uniform(0.95, 1.05)) if turned else 1.0,
                        float(chance.uniform(-2, 2)) if turned else 0.0,
                    )
                )  # fmt: skip
                break
    way, far = chance.uniform(0, 2 * np.pi), chance.uniform(0, 4)
    return Hand(
        (float(far * np.cos(way)), float(far * np.sin(way))),
        float(chance.uniform(0.98, 1.02)),
        float(chance.uniform(-1, 1)),
        tuple(parts),
        float(chance.uniform(0.05, 0.2)),
        float(chance.uniform(0.3, 0.55)),
        float(chance.uniform(0.4, 0.75)),
    )


def random_shot(across: bool, seed: int) -> Shot:
    """Tilts to 25°, bow -0.05 to 0.03, all tables, now and then a shadow or a corner cut off."""
    chance = np.random.default_rng(seed * 11 + 5)
    tables: tuple[Table, ...] = ("wood", "checks", "dark", "grey", "stripes")
    cut = chance.random() < 0.15
    turned = 180.0 if chance.random() < 0.15 else 0.0
    fill = float(chance.uniform(0.82, 0.95))
    return Shot(
        (4000, 3000) if across else (3000, 4000),
        float(chance.uniform(0, 25)),
        float(chance.uniform(0, 360)),
        float(chance.normal(0, 4)) + turned,
        fill,
        (float(chance.choice([-1, 1]) * 0.06), float(chance.choice([-1, 1]) * 0.06)) if cut else (0.0, 0.0),
        float(chance.uniform(-0.05, 0.03)),
        tables[seed % len(tables)],
        float(chance.uniform(0.05, 0.4)),
        bool(chance.random() < 0.3),
        float(chance.uniform(1, 4)),
        int(chance.integers(75, 95)),
        float(chance.uniform(24, 35)),
    )
