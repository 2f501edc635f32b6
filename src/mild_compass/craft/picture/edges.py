"""Straight edges in a picture: found, measured across, and a traced line laid onto the edge it meant.

All functions take L* as an array (h, w) and lines (n, 2, 2) in its pixels, pixel centres at .5.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

import cv2
import numpy as np

if TYPE_CHECKING:
    from numpy.typing import NDArray

    Array = NDArray[np.float64]

LONGEST_PX = 1000  # of the picture in which edges are looked for
LEAST_LENGTH = 0.02  # of the diagonal: shorter pieces are texture
ANGLE_DEG, OFFSET_PX, GAP_SHARE = 2.5, 2.5, 0.04  # pieces within these are one line
MOST_PIECES = 700  # longest first: bounds the time
BENT_TIMES = 2.6  # how much looser pieces are joined where a lens may have bowed them
ACROSS_PX = 2.5  # how far beside a line its two sides are looked at
SAMPLES = 25
ROW_OF_SAMPLES = 8192  # within OpenCV's limit of 32 767 for one row


def found_lines(
    values: NDArray[np.float32], most: int = 60, bent: bool = False, shortest: float = LEAST_LENGTH
) -> tuple[Array, Array]:
    """The big lines (n, 2, 2) of a picture and the step of L* across each (n,), by length times contrast.

    Segments by the line segment detector of R. Grompone von Gioi et al. (IEEE PAMI 32(4), 2010) in OpenCV; pieces of
    one straight edge are joined; with ``bent`` also those of one edge that a lens has bowed. ``shortest`` is a share of
    the diagonal.
    """
    shrink = min(1.0, LONGEST_PX / max(values.shape))
    size = (max(1, round(values.shape[1] * shrink)), max(1, round(values.shape[0] * shrink)))
    small = values if shrink == 1 else cv2.resize(values, size, interpolation=cv2.INTER_AREA).reshape(size[::-1])
    if min(small.shape) < 8:
        return np.zeros((0, 2, 2)), np.zeros(0)
    grey = np.clip(small * 2.55, 0, 255).astype(np.uint8)
    detected = cv2.createLineSegmentDetector(cv2.LSD_REFINE_STD).detect(grey)[0]
    if detected is None:
        return np.zeros((0, 2, 2)), np.zeros(0)
    pieces = detected.reshape(-1, 2, 2).astype(np.float64) + 0.5
    diagonal = float(np.hypot(*small.shape))
    pieces = pieces[_lengths(pieces) >= shortest * diagonal / 2]
    lines = joined(
        pieces[np.argsort(-_lengths(pieces), kind="stable")][:MOST_PIECES],
        GAP_SHARE * diagonal,
        BENT_TIMES if bent else 1.0,
    )
    lines = lines[_lengths(lines) >= shortest * diagonal]
    steps = steps_across(small, lines)
    order = np.argsort(-_lengths(lines) * steps, kind="stable")[:most]
    scale = np.array(values.shape[::-1]) / small.shape[::-1]
    return lines[order] * scale, steps[order]


def _lengths(lines: Array) -> Array:
    return np.asarray(np.hypot(*(lines[:, 1] - lines[:, 0]).T), np.float64)


def joined(pieces: Array, gap_px: float, loose: float = 1.0) -> Array:
    """Pieces (n, 2, 2), the longest first, with those that lie on one straight line within a gap made one."""
    left = list(range(len(pieces)))
    lines: list[Array] = []
    while left:
        line = pieces[left.pop(0)]
        grown = True
        while grown:
            grown = False
            rest = pieces[left]
            hits = _continue(line, rest, gap_px, loose)
            if hits.any():
                line = _spanned(line, rest[hits])
                left = [index for index, hit in zip(left, hits, strict=True) if not hit]
                grown = True
        lines.append(line)
    return np.array(lines, np.float64).reshape(-1, 2, 2)


def _continue(line: Array, others: Array, gap_px: float, loose: float) -> NDArray[np.bool_]:
    """Which of the others lie on the same straight line, overlapping it or not further on than the gap."""
    way = line[1] - line[0]
    length = float(np.hypot(*way))
    way = way / length
    square = np.array([-way[1], way[0]])
    off = np.abs((others - line[0]) @ square).max(1, initial=0)
    along = (others - line[0]) @ way
    steps = others[:, 1] - others[:, 0]
    lean = np.abs(steps @ square) / np.maximum(np.hypot(*steps.T), 1e-9)
    low, high = along.min(1, initial=np.inf), along.max(1, initial=-np.inf)
    return np.asarray(
        (off <= loose * OFFSET_PX)
        & (lean <= np.sin(np.radians(loose * ANGLE_DEG)))
        & (low <= length + gap_px)
        & (high >= -gap_px)
    )


def _spanned(line: Array, others: Array) -> Array:
    """The straight line through all pieces (total least squares, each end weighing as much), from end to end."""
    points = np.concatenate([line[None], others]).reshape(-1, 2)
    middle = points.mean(0)
    way = np.linalg.svd(points - middle)[2][0]
    along = (points - middle) @ way
    return np.stack([middle + along.min() * way, middle + along.max() * way])


def steps_across(values: NDArray[np.float32], lines: Array) -> Array:
    """|difference of L*| between the two sides of each line (n,), as the median along it."""
    if not len(lines):
        return np.zeros(0)
    share = ((np.arange(SAMPLES) + 0.5) / SAMPLES)[None, :, None]
    points = lines[:, None, 0] + share * (lines[:, None, 1] - lines[:, None, 0])
    square = _squares(lines)[:, None, :] * ACROSS_PX
    return np.asarray(np.median(np.abs(sampled(values, points + square) - sampled(values, points - square)), axis=1))


def _squares(lines: Array) -> Array:
    """Unit vectors (n, 2) at right angles to lines."""
    way = lines[:, 1] - lines[:, 0]
    way = way / np.maximum(np.hypot(*way.T), 1e-9)[:, None]
    return np.stack([-way[:, 1], way[:, 0]], 1)


def sampled(values: NDArray[np.float32], points: Array) -> Array:
    """L* at points (…, 2), between pixels in proportion, beyond the picture as at its rim."""
    flat = points.reshape(-1, 2).astype(np.float32) - np.float32(0.5)
    count = len(flat)
    rows = -(-count // ROW_OF_SAMPLES)  # OpenCV takes no longer row than 32 767
    laid = np.resize(flat, (rows, ROW_OF_SAMPLES, 2)) if rows > 1 else flat[None]
    found = cv2.remap(
        np.asarray(values, np.float32), laid[..., 0], laid[..., 1], cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE
    )
    return np.asarray(found.ravel()[:count].reshape(points.shape[:-1]), np.float64)


LEAST_TRACED_PX = 4.0  # of a traced line: shorter ones have no direction
PROFILES, STEP_PX = 61, 0.5  # across the line: how many, and how finely each is sampled
PROFILE_BLUR = 1.5  # samples
FLAT_SLOPE = 0.6  # L* a pixel: where the steepest places are flatter, there is no edge
ROUNDS, LEAST_AGREEING = 6, 0.4  # of the fit; the share of profiles that must agree with it
NEARNESS = 0.5  # of the reach: how far off the traced line an edge is still likely to be meant
APART_PX, BESIDE_PX = 2.5, 2.5  # another edge lies further off than that; places of one edge lie within
AS_LIKELY = 0.8  # of the best: then nobody can tell which of two was meant


def edge_under(values: NDArray[np.float32], line: Array, reach_px: float) -> Array | None:
    """The straight edge (2, 2) that a traced line (2, 2) meant, or None where there is none, or two are as likely.

    Of all straight lines whose ends lie within reach of the traced ones the one is taken along which L* steps most,
    always the same way, the nearer ones being likelier; then it is laid through the steepest places beside it (iterated
    weighted least squares, W. Cleveland's tricube weights). The ends keep their place along the line.
    """
    way = line[1] - line[0]
    length = float(np.hypot(*way))
    if length < LEAST_TRACED_PX or reach_px < 1:
        return None
    share = (np.arange(PROFILES) + 0.5) / PROFILES
    offsets = np.arange(-reach_px, reach_px + STEP_PX / 2, STEP_PX)
    square = _squares(line[None])[0]
    points = line[0] + share[:, None, None] * way + offsets[None, :, None] * square
    profile = cv2.GaussianBlur(sampled(values, points), (0, 0), PROFILE_BLUR)
    slope = np.gradient(profile, STEP_PX, axis=1)
    chosen = _clearest(slope, share, offsets, reach_px)
    if chosen is None:
        return None
    start = chosen[0] + share * (chosen[1] - chosen[0])
    sign = np.sign(_along(slope, share, offsets, chosen[:1], chosen[1:])[0]) or 1.0
    rising = np.maximum(sign * slope, 0) * (np.abs(offsets[None] - start[:, None]) <= BESIDE_PX)
    off, strength = _peaks(rising[None], offsets, rising[None])
    off, strength = off[0], strength[0]
    weight = strength.copy()
    fit = np.array([chosen[1] - chosen[0], chosen[0]])
    for _ in range(ROUNDS):
        fit = np.polyfit(share, off, 1, w=np.sqrt(np.maximum(weight, 1e-9)))
        miss = np.abs(off - np.polyval(fit, share))
        wide = max(1.0, 4 * float(np.median(miss)))
        weight = strength * np.clip(1 - (miss / wide) ** 3, 0, 1) ** 3
    if (weight > 0).mean() < LEAST_AGREEING:
        return None
    ends = np.array([0.0, 1.0])
    return np.asarray(line + np.polyval(fit, ends)[:, None] * square)


def _clearest(slope: Array, share: Array, offsets: Array, reach_px: float) -> Array | None:
    """Offsets (2,) of both ends of the line along which L* steps most; None where nothing steps, or two do alike."""
    first, second = (each.ravel() for each in np.meshgrid(offsets, offsets, indexing="ij"))
    step = np.abs(_along(slope, share, offsets, first, second))
    likely = step * np.exp(-0.5 * (first**2 + first * second + second**2) / 3 / (NEARNESS * reach_px) ** 2)
    best = int(likely.argmax())
    if step[best] < FLAT_SLOPE:
        return None
    here = np.array([first[best], second[best]])
    apart = np.maximum(np.abs(first - here[0]), np.abs(second - here[1])) > APART_PX
    crossing = (first - here[0]) * (second - here[1]) < 0  # shares some of the same edge: no other one
    rivals = apart & ~crossing
    if rivals.any() and float(likely[rivals].max()) > AS_LIKELY * likely[best]:
        return None
    return here


def _along(slope: Array, share: Array, offsets: Array, first: Array, second: Array) -> Array:
    """The mean step along lines by the offsets of their ends (n,)."""
    place = (first[:, None] + share[None] * (second - first)[:, None] - offsets[0]) / STEP_PX
    low = np.clip(np.floor(place).astype(np.intp), 0, slope.shape[1] - 2)
    part = place - low
    rows = np.arange(len(share))[None]
    return np.asarray(((1 - part) * slope[rows, low] + part * slope[rows, low + 1]).mean(1))


FINE_REACH_PX, FINE_STEP_PX, FINE_PROFILES = 3.0, 0.5, 25
MOST_OFF = 3.0  # times the usual miss: places along the edge further off are of something else


def sharpened(values: NDArray[np.float32], lines: Array) -> tuple[Array, Array]:
    """Found lines (n, 2, 2) laid onto their edges to a part of a pixel, and how far each edge's places miss it (n,).

    Across the line at each of its places the steepest slope is found, between samples by a parabola; a straight line
    is fitted through them without those that are far off. A line under which no edge is found stays as it is, with
    an infinite miss.
    """
    if not len(lines):
        return lines, np.zeros(0)
    share = (np.arange(FINE_PROFILES) + 0.5) / FINE_PROFILES
    offsets = np.arange(-FINE_REACH_PX, FINE_REACH_PX + FINE_STEP_PX / 2, FINE_STEP_PX)
    square = _squares(lines)
    along = lines[:, None, 0] + share[None, :, None] * (lines[:, None, 1] - lines[:, None, 0])
    profile = sampled(values, along[:, :, None] + offsets[None, None, :, None] * square[:, None, None])
    slope = np.gradient(profile, FINE_STEP_PX, axis=2)
    sign = np.sign(np.median(slope[..., len(offsets) // 2 - 1 : len(offsets) // 2 + 2].sum(2), axis=1))
    slope = np.maximum(slope * sign[:, None, None], 0)
    off, at = _peaks(slope, offsets, slope * np.exp(-0.5 * (offsets / 2.0) ** 2))
    weight = (at > FLAT_SLOPE).astype(np.float64)
    terms = np.stack([np.ones(FINE_PROFILES), share - 0.5], 1)
    fit = np.zeros((len(lines), 2))
    miss = np.full(len(lines), np.inf)
    for _ in range(4):
        normal = np.einsum("nk,ki,kj->nij", weight, terms, terms) + 1e-9 * np.eye(2)
        fit = np.linalg.solve(normal, np.einsum("nk,ki,nk->ni", weight, terms, off)[..., None])[..., 0]
        rest = np.abs(off - fit @ terms.T)
        many = weight.sum(1)
        miss = np.sqrt((weight * rest**2).sum(1) / np.maximum(many - 2, 1))
        weight = ((at > FLAT_SLOPE) & (rest <= np.maximum(MOST_OFF * miss, 0.3)[:, None])).astype(np.float64)
    held = (weight.sum(1) >= LEAST_AGREEING * FINE_PROFILES) & (np.abs(fit).max(1) < FINE_REACH_PX)
    moved = fit[:, 0, None] + fit[:, 1, None] * np.array([-0.5, 0.5])
    found = lines + np.where(held[:, None], moved, 0.0)[..., None] * square[:, None]
    return found, np.where(held, miss, np.inf)


def _peaks(slope: Array, offsets: Array, worth: Array) -> tuple[Array, Array]:
    """Where slopes (…, k) over evenly spaced offsets peak, between samples by a parabola, and how steep they are there.

    Of several peaks that of most ``worth`` is taken.
    """
    best = np.clip(worth.argmax(-1), 1, len(offsets) - 2)[..., None]
    before, at, after = (np.take_along_axis(slope, best + k, -1)[..., 0] for k in (-1, 0, 1))
    bend = before - 2 * at + after
    peak = np.where(bend < -1e-9, 0.5 * (before - after) / np.where(bend < -1e-9, bend, -1.0), 0.0)
    return offsets[best[..., 0]] + (offsets[1] - offsets[0]) * np.clip(peak, -1, 1), at
