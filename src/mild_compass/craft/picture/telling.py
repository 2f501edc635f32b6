"""How telling the lines of a photo are, and in which order a hand would want them.

A line tells by its length, its step, how far it stands out from what lies round it (after C. Grigorescu, N. Petkov, M.
Westenberg, IEEE Trans. Image Processing 12, 2003), and by how long it stays a border of the masses while the picture is
made simpler (after the ultrametric contour map of P. Arbeláez, M. Maire, C. Fowlkes, J. Malik, IEEE PAMI 33, 2011).
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import cv2
import numpy as np
import shapely

from mild_compass.craft.picture.chains import Crowded, joined_chains, lengths

if TYPE_CHECKING:
    from numpy.typing import NDArray

    Array = NDArray[np.float64]
    Channel = NDArray[np.float32]

FULL_STEP = 6.0  # steps above that count alike
ROUND_PX = 10.0  # how far round a line its step is compared
STANDING = 3.3  # how much more a border tells that stays to the last, before the square root
USUAL_AMOUNT = 95.0  # up to there lines come by their length, then by how telling they are
USUAL, FAINT = (0.235, 0.685), (0.765, 1.37)  # the score of a usual line, less the more faint texture there is
MEETING = (12.0, 165.0)  # px, degrees: usual lines that meet so are drawn in one stroke, round the corner
MEETING_IN_A_CROWD = (8.0, 150.0)
STEEP = 0.75  # how fast the amount falls with the length of the usual lines
CROWD_PX, CROWDED, IN_A_CROWD = 14.0, 0.11, 0.6  # how far round, from where, and what a line in it still counts
SHORT_IN_A_CROWD = 0.65  # lines are short there: how telling they are counts as if they were longer
SHADOW = 0.7  # what the edge of a shadow counts, which is drawn faintly and last (common practice, no published source)
LED_SHARE = 0.1  # of the diagonal: a shorter part of an outline is nothing to trace
NEAR_A_SUBJECT = 2.0  # so much more a line counts in a subject
RIM_PX = 31  # so much wider a crowd is where outlines are looked for, which run along its rim
STEP_PX = 4.0  # along an outline
BESIDE_PX = 4.0  # a line no further from an outline of the masses is that outline


@dataclass(frozen=True, eq=False, slots=True)
class Lead:
    """What the masses say of lines: for how much of the way to the simplest picture a border stands (h, w, 0 to 1),
    how near a subject is (h, w, 0 to 1), and the outlines on the sheet in mm that stand for most of it."""

    standing: Channel
    near: Channel
    outlines_mm: tuple[Array, ...]


def scores(chains: list[Array], step: Channel, standing: Channel) -> Array:
    """How telling lines (n, 2) are: long, clear, clearer than what lies round them, and borders of masses.

    ``step`` (h, w) is that of colour to a pixel, ``standing`` as in Lead, of the same size.
    """
    around = np.asarray(cv2.GaussianBlur(step, (0, 0), ROUND_PX), np.float32)
    clear = _means(step, chains)
    stands_out = clear / (_means(around, chains) + 0.1)
    stays = np.sqrt(1 + STANDING * _means(standing, chains))
    return lengths(chains) / float(np.hypot(*step.shape)) * np.minimum(clear, FULL_STEP) * stands_out * stays


def _means(values: Channel, lines: list[Array]) -> Array:
    """The mean of a picture (h, w) along each line (n,)."""
    if not lines:
        return np.zeros(0)
    counts = np.array([len(line) for line in lines])
    columns, rows = np.clip(
        np.floor(np.concatenate(lines)).astype(int), 0, (values.shape[1] - 1, values.shape[0] - 1)
    ).T
    return np.asarray(np.add.reduceat(values[rows, columns].astype(np.float64), np.cumsum(counts) - counts) / counts)


def ordered(
    chains: list[Array], told: Array, crowd: Channel, near: Channel, outlines: list[Array]
) -> tuple[list[Array], Array]:
    """Lines, the most telling first, and the amount (0 to 100) at which each comes in.

    Those that are telling enough for the usual amount are joined where they meet, and come by their length; in a crowd
    the outlines of the masses stand for what runs along them, and other lines count less. In a subject all count more.
    """
    told = np.where(_means(crowd, chains) > CROWDED, told / SHORT_IN_A_CROWD, told)
    usual = float(np.clip(FAINT[0] - FAINT[1] * float(np.median(told)), *USUAL))
    most = [chain for chain, score in zip(chains, told, strict=True) if score >= usual]
    rest = [(chain, score) for chain, score in zip(chains, told, strict=True) if score < usual]
    rim = np.asarray(cv2.dilate(crowd, cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (RIM_PX, RIM_PX))), np.float32)
    led = [part for outline in outlines for part in _where(outline, rim, CROWDED)]
    most = joined_chains(_without(most, led), *MEETING, Crowded(crowd > CROWDED, *MEETING_IN_A_CROWD))
    lines = [*most, *led]
    crowded = (_means(crowd, lines) > CROWDED) & (np.arange(len(lines)) < len(most))
    counted = lengths(lines) * np.where(crowded, IN_A_CROWD, 1.0) * (1 + NEAR_A_SUBJECT * _means(near, lines))
    above = USUAL_AMOUNT * (counted.min(initial=np.inf) / counted) ** STEEP
    below = 100 - (100 - USUAL_AMOUNT) * np.array([score for _, score in rest]) / usual
    lines += [chain for chain, _ in rest]
    amounts = np.concatenate([above, below])
    order = np.argsort(amounts, kind="stable")
    return [lines[k] for k in order], amounts[order]


def of_parts(amounts: Array, share: Array, shadow: NDArray[np.bool_]) -> Array:
    """The amounts (n,) at which parts of lines come in, from those of the lines and how much of one each part is: a
    part of a usual line comes by its own length, and the edge of a shadow after outlines that are as long."""
    counted = share * np.where(shadow, SHADOW, 1.0)
    usual = np.minimum(amounts / counted**STEEP, USUAL_AMOUNT)
    return np.asarray(np.where(amounts <= USUAL_AMOUNT, usual, amounts))


def crowd_of(on: NDArray[np.bool_], grey: Channel) -> Channel:
    """How thickly edges lie that run every way (h, w): leaves, not bars nor a grid of them, which have two ways.

    The share of edge pixels round each, times how little their directions agree, also as a cross.
    """
    across, down = cv2.Sobel(grey, cv2.CV_32F, 1, 0), cv2.Sobel(grey, cv2.CV_32F, 0, 1)
    size = across**2 + down**2 + np.float32(1e-9)
    cos2, sin2 = (across**2 - down**2) / size, 2 * across * down / size
    edge = on.astype(np.float32)

    def near(values: Channel) -> Channel:
        return np.asarray(cv2.GaussianBlur(edge * values, (0, 0), CROWD_PX), np.float32)

    thick = near(np.ones_like(edge))
    agree = np.maximum(np.hypot(near(cos2), near(sin2)), np.hypot(near(cos2**2 - sin2**2), near(2 * cos2 * sin2)))
    return np.asarray(thick - np.minimum(agree, thick), np.float32)


def _where(line: Array, values: Channel, least: float) -> list[Array]:
    """The parts of a line along which values are over a limit, short gaps closed; those of some length."""
    points = shapely.get_coordinates(shapely.segmentize(shapely.LineString(line), STEP_PX))
    columns, rows = np.clip(np.floor(points).astype(int), 0, (values.shape[1] - 1, values.shape[0] - 1)).T
    shortest = LED_SHARE * float(np.hypot(*values.shape))
    over = (values[rows, columns] > least).astype(np.uint8)[None]
    gap = np.ones((1, 2 * round(shortest / STEP_PX) + 1), np.uint8)
    over = cv2.morphologyEx(over, cv2.MORPH_CLOSE, gap)[0] > 0
    cuts = np.flatnonzero(np.diff(over)) + 1
    parts = [part for part, is_over in zip(np.split(points, cuts), np.split(over, cuts), strict=True) if is_over[0]]
    return [part for part in parts if len(part) > 2 and float(lengths([part])[0]) >= shortest]


def _without(lines: list[Array], led: list[Array]) -> list[Array]:
    """Lines less what runs along an outline that stands for it; what is left of one in crumbs goes with it."""
    if not led:
        return lines
    beside = shapely.union_all(shapely.buffer([shapely.LineString(each) for each in led], BESIDE_PX))
    shapely.prepare(beside)
    found = []
    for line in lines:
        shape = shapely.LineString(line)
        if not shapely.intersects(beside, shape):
            found.append(line)
            continue
        parts = shapely.get_parts(shapely.line_merge(shapely.difference(shape, beside)))
        found += [shapely.get_coordinates(part) for part in parts if part.length >= min(shape.length, 3 * BESIDE_PX)]
    return found
