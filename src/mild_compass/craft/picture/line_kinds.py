"""What a line of a photo is: the outline of something, a line inside it, or the edge of a shadow.

Across a shadow's edge all three channels of light fall by nearly the same share, for the surface is the same (after S.
Barnard & G. Finlayson, Color Research & Application 25, 2000), and by the little that they differ they differ alike all
over the picture, for it is one light that shadows lack; across an outline what lies further off differs too. Where
nearly all edges fall alike, as in a grey picture, none is said to be a shadow's.
"""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise
from typing import TYPE_CHECKING, Literal

import cv2
import numpy as np

from mild_compass.craft.picture.tone import LINEAR

if TYPE_CHECKING:
    from numpy.typing import NDArray

    Array = NDArray[np.float64]
    Rgb = NDArray[np.uint8]
    Numbers = NDArray[np.intp]

LineKind = Literal["outline", "inner", "shadow"]
EVERY_PX = 3.0  # a place along the line is looked at
NEAR_PX, FAR_PX = 5.0, 15.0  # to either side: the surface itself, and what it belongs to
SAME_SURFACE = 0.10  # how far the channels' logarithms of falling may lie apart
LEAST_FALL = 0.35  # natural logarithm: a shadow is a third darker at least
MOSTLY = 0.6  # of the places
ONE_LIGHT, LEAST_PLACES = 0.18, 60  # of the fall; fewer places do not tell what light shadows lack
DEEPER = 1.8  # times as deep as shadows mostly are in the picture one may be
MOST_ALIKE = 0.75  # of the places where a channel falls: if more fall alike, as in grey pictures, colours do not tell
LEAST_RUN = 30  # places: a shorter stretch of another kind goes with what it is part of
ROW_OF_SPOTS = 8192  # within OpenCV's limit of 32 767 for one row
APART = 9.0  # ΔE (CIE 1976) between the far sides of an outline


def split_by_kind(rgb: Rgb, lines: list[Array]) -> tuple[list[Array], list[LineKind], Numbers]:
    """Lines (n, 2) in pixels of a picture (h, w, 3), parted where one goes over from an outline to a shadow's edge:
    the parts in their order, the kind of each, and the number of the line that it was part of."""
    if not lines:
        return [], [], np.zeros(0, np.intp)
    light = cv2.GaussianBlur(LINEAR[rgb].astype(np.float32), (0, 0), 1.5)
    linear = np.asarray(np.log(light + 0.01), np.float32)
    soft = cv2.GaussianBlur(rgb, (0, 0), 3.0).astype(np.float32) / 255
    lab = np.asarray(cv2.cvtColor(soft, cv2.COLOR_RGB2Lab), np.float32)
    along = [_along(line) for line in lines]
    spots, aside = (np.concatenate(each) for each in zip(*along, strict=True))
    ends = np.cumsum([len(each) for each, _ in along])[:-1]
    fall = _at(linear, spots + NEAR_PX * aside) - _at(linear, spots - NEAR_PX * aside)
    far = _at(lab, spots + FAR_PX * aside) - _at(lab, spots - FAR_PX * aside)
    apart, falls = np.split(np.sqrt((far**2).sum(1)), ends), np.split(fall, ends)
    shaded = _shaded(fall)
    if float(shaded.sum()) > MOST_ALIKE * int((np.abs(fall).max(1) >= LEAST_FALL).sum()):
        shaded[:] = False
    lacked = _light_of(fall[shaded])
    parts: list[Array] = []
    kinds: list[LineKind] = []
    of: list[int] = []
    for number, flags in enumerate(np.split(shaded, ends)):
        runs = _runs(flags, falls[number], lacked)
        parts += _cut(lines[number], [stop / len(flags) for *_, stop in runs[:-1]])
        kinds += [_kind(shade, apart[number][start:stop]) for shade, start, stop in runs]
        of += [number] * len(runs)
    return parts, kinds, np.array(of, np.intp)


@dataclass(frozen=True, eq=False, slots=True)
class _Light:
    """What shadows lack: how the channels' falls differ, as shares of the fall (2,), and how deep one mostly is."""

    hue: Array
    depth: float

    def is_lacking(self, fall: Array) -> bool:
        """Whether the channels (n, 3) fall so along a line."""
        middle = np.asarray(np.median(_falling(fall), 0), np.float64)
        off = float(np.hypot(*(_hues(middle[None])[0] - self.hue)))
        return bool(off <= ONE_LIGHT and float(middle.mean()) <= DEEPER * self.depth)


def _light_of(fall: Array) -> _Light | None:
    """How the channels (n, 3) mostly fall where the edge of a shadow may be; None where too few places tell."""
    if len(fall) < LEAST_PLACES:
        return None
    falling = _falling(fall)
    hues = _hues(falling)
    times, *sides = np.histogram2d(hues[:, 0], hues[:, 1], bins=24, range=((-0.6, 0.6), (-0.6, 0.6)))
    at = np.unravel_index(cv2.GaussianBlur(times, (0, 0), 1.2).argmax(), times.shape)
    hue = np.array([(side[k] + side[k + 1]) / 2 for side, k in zip(sides, at, strict=True)])
    for _ in range(2):
        near = np.hypot(*(hues - hue).T) < ONE_LIGHT
        hue = hues[near].mean(0) if near.any() else hue
    return _Light(hue, float(np.median(falling[near].mean(1))) if near.any() else np.inf)


def _falling(fall: Array) -> Array:
    """Falls (n, 3) toward the darker side, whichever that is."""
    return np.asarray(fall * np.sign(fall.mean(1, keepdims=True)))


def _hues(fall: Array) -> Array:
    """By how much the channels' falls (n, 3) differ, red from green and green from blue, as shares of the fall."""
    middle = np.maximum(fall.mean(1), LEAST_FALL)
    return np.asarray(np.stack([fall[:, 0] - fall[:, 1], fall[:, 1] - fall[:, 2]], 1) / middle[:, None])


def _runs(shaded: NDArray[np.bool_], fall: Array, light: _Light | None) -> list[tuple[bool, int, int]]:
    """The stretches of a line that are a shadow's edge, and those that are not: which, from which place, and to."""
    count = len(shaded)
    cuts = [0, count]
    if count >= 2 * LEAST_RUN:
        padded = np.pad(shaded.astype(np.float64), LEAST_RUN, mode="reflect")
        wide = 2 * LEAST_RUN + 1
        mostly = np.convolve(padded, np.full(wide, 1 / wide), "valid") >= MOSTLY
        for cut in (np.flatnonzero(np.diff(mostly)) + 1).tolist():
            if cut - cuts[-2] >= LEAST_RUN and count - cut >= LEAST_RUN:
                cuts.insert(-1, cut)
    found: list[tuple[bool, int, int]] = []
    for start, stop in pairwise(cuts):
        shade = float(shaded[start:stop].mean()) >= MOSTLY and (light is None or light.is_lacking(fall[start:stop]))
        if found and found[-1][0] == shade:
            found[-1] = (shade, found[-1][1], stop)
        else:
            found.append((shade, start, stop))
    return found


def _cut(line: Array, shares: list[float]) -> list[Array]:
    """A line cut at so much of its length."""
    length = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(line, axis=0).T))])
    at = np.array(shares) * length[-1]
    spots = np.stack([np.interp(at, length, line[:, axis]) for axis in (0, 1)], 1)
    numbers = [0, *np.searchsorted(length, at).tolist(), len(line)]
    inner = [line[a:b] for a, b in pairwise(numbers)]
    heads = [[], *([spot] for spot in spots)]
    tails = [*([spot] for spot in spots), []]
    return [np.concatenate([np.reshape(head, (-1, 2)), part, np.reshape(tail, (-1, 2))])
            for head, part, tail in zip(heads, inner, tails, strict=True)]  # fmt: skip


def _shaded(fall: Array) -> NDArray[np.bool_]:
    """Where all channels fall alike (n, 3), as across a shadow's edge."""
    middle = fall.mean(1, keepdims=True)
    same = np.abs(fall - middle).max(1) <= SAME_SURFACE + 0.08 * np.abs(middle[:, 0])
    return np.asarray(same & (np.abs(middle[:, 0]) >= LEAST_FALL))


def _kind(shade: bool, apart: Array) -> LineKind:
    if shade:
        return "shadow"
    return "outline" if float(np.median(apart)) >= APART else "inner"


def _along(line: Array) -> tuple[Array, Array]:
    """Places on a line and the unit vectors across it."""
    length = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(line, axis=0).T))])
    count = max(3, round(length[-1] / EVERY_PX))
    at = (np.arange(count) + 0.5) / count * length[-1]
    spots = np.stack([np.interp(at, length, line[:, axis]) for axis in (0, 1)], 1)
    way = np.gradient(spots, axis=0)
    way /= np.maximum(np.hypot(*way.T), 1e-9)[:, None]
    return spots, np.stack([way[:, 1], -way[:, 0]], 1)


def _at(values: NDArray[np.float32], spots: Array) -> Array:
    """A picture (h, w, 3) at places (n, 2)."""
    rows = -(-len(spots) // ROW_OF_SPOTS)  # OpenCV takes no longer row than 32 767
    laid = np.resize(spots.astype(np.float32) - np.float32(0.5), (rows, ROW_OF_SPOTS, 2))
    found = cv2.remap(values, laid[..., 0], laid[..., 1], cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
    return np.asarray(found.reshape(-1, values.shape[2])[: len(spots)], np.float64)
