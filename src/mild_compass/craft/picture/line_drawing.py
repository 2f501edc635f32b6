"""A line drawing of a photo, fit to trace: few, clean lines as vectors.

Edges are the ridges of a colour gradient (J. Canny, IEEE PAMI 8(6), 1986; several channels together by S. Di Zenzo,
CVGIP 33, 1986), chained from junction to junction, joined where they go on across gaps, and ranked by how telling they
are, led by the masses. What is straight is drawn straight.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import cv2
import numpy as np
import shapely
from numpy.typing import NDArray

from mild_compass.craft.geometry.frame_map import FrameMap
from mild_compass.craft.memo import Memo
from mild_compass.craft.picture.chains import Crowded, chains_of, joined_chains, lengths
from mild_compass.craft.picture.framed import bare_paper, laid_on_sheet, sized
from mild_compass.craft.picture.line_kinds import LineKind, split_by_kind
from mild_compass.craft.picture.straight_runs import straightened
from mild_compass.craft.picture.telling import CROWDED, Lead, crowd_of, of_parts, ordered, scores

if TYPE_CHECKING:
    from mild_compass.craft.picture.load import Picture
    from mild_compass.plan.paper import Paper
    from mild_compass.plan.study import Frame

    Array = NDArray[np.float64]
    Channels = NDArray[np.float32]

LONGEST_PX = 900  # along the longer side: bounds the time
SMOOTH_PX = 1.4
WEIGHTS = (1.0, 0.6, 0.6)  # of L*, a* and b*: a drawing follows values before hues
WEAK_STEP, STRONG_STEP = 0.6, 1.4  # of colour to a pixel: an edge begins where it is strong and is followed while weak
JOINS = ((9.0, 40.0), (18.0, 35.0), (28.0, 18.0))  # the wider the gap, the straighter a line must go on: px, degrees
IN_A_CROWD = (9.0, 25.0)
CM_A_MINUTE, SECONDS_A_LINE = 40.0, 2.5  # of a hand that traces: common practice, no published source
LEAST_SHARE = 0.012  # of the diagonal: shorter lines are crumbs at any amount
EASE_PX, LEAVE_PX = 2.0, 0.6  # how far along a line it is eased, and how far it may then leave its edge
STRAIGHT_PX = 1.3  # a run no further off a straight line is one
GRADIENT_UNITS = 200.0  # whole numbers to a step, for the edge detector

Ranked = tuple[tuple[NDArray[np.float64], ...], tuple[LineKind, ...], NDArray[np.float64]]  # lines, kinds, amounts
_CHAINS: Memo[Ranked] = Memo(3)


@dataclass(frozen=True, eq=False, slots=True)
class LineDrawing:
    """Lines on the sheet in mm, the most telling first, and what each is; ``amounts`` is for each line that was found,
    drawn or not, the amount at which it comes in."""

    lines_mm: tuple[Array, ...]
    kinds: tuple[LineKind, ...] = ()
    amounts: tuple[float, ...] = ()

    @property
    def length_mm(self) -> float:
        """All lines together."""
        return float(lengths(list(self.lines_mm)).sum())

    @property
    def minutes(self) -> float:
        """About how long a hand takes to trace them."""
        return self.length_mm / 10 / CM_A_MINUTE + len(self.lines_mm) * SECONDS_A_LINE / 60

    def amount_of(self, count: int) -> float:
        """The amount at which so many lines are drawn, or all."""
        return self.amounts[count - 1] if 0 < count <= len(self.amounts) else 100.0


def line_drawing(
    picture: Picture,
    frame: Frame,
    paper: Paper,
    amount: float,
    aims: tuple[tuple[float, float, float], ...] = (),
    lead: Lead | None = None,
) -> LineDrawing:
    """The lines of what the frame shows, from none (0) through the usual (95) to all that was found (100).

    ``aims`` are the vanishing points (x, y, w) in photo pixels: a straight line that runs to one within what tracing
    can tell is drawn to it. ``lead`` is what the masses say of lines.
    """
    ranked, kinds, amounts = _CHAINS.of(
        picture, (frame, paper, aims, lead), lambda: _ranked(picture, frame, paper, aims, lead)
    )
    count = min(len(ranked), max(1, int((amounts <= amount + 1e-9).sum()))) if amount > 0 else 0
    return LineDrawing(ranked[:count], kinds[:count], tuple(amounts.tolist()))


def _ranked(
    picture: Picture, frame: Frame, paper: Paper, aims: tuple[tuple[float, float, float], ...], lead: Lead | None
) -> Ranked:
    frame_map = FrameMap.of(frame, paper)
    box, photo_px = frame_map.box, (picture.width_px, picture.height_px)
    width, height = sized(frame_map, LONGEST_PX)
    rgb = laid_on_sheet(picture.rgb, photo_px, frame_map, width, height)
    if min(rgb.shape[:2]) < 8:
        return (), (), np.zeros(0)
    on, step = edges(np.ascontiguousarray(rgb))
    bare = bare_paper(photo_px, frame_map, width, height)
    if bare.any():
        on = on & ~cv2.dilate(bare.astype(np.uint8), np.ones((5, 5), np.uint8)).astype(bool)
    grey = cv2.GaussianBlur(cv2.cvtColor(rgb, cv2.COLOR_RGB2GRAY), (0, 0), SMOOTH_PX).astype(np.float32)
    crowd = crowd_of(on, grey)
    chains = [chain for chain in chains_of(on) if len(chain) > 3]
    for gap_px, bend_deg in JOINS:
        chains = joined_chains(chains, gap_px, bend_deg, Crowded(crowd > CROWDED, *IN_A_CROWD))
    diagonal = float(np.hypot(width, height))
    chains = [chain for chain, long in zip(chains, lengths(chains), strict=True) if long >= LEAST_SHARE * diagonal]
    if not chains:
        return (), (), np.zeros(0)
    scale = np.array([box.width / width, box.height / height])
    standing = near = np.zeros((height, width), np.float32)
    if lead is not None:
        standing, near = (
            np.asarray(cv2.resize(each, (width, height)), np.float32) for each in (lead.standing, lead.near)
        )
    outlines = [(each - box[:2]) / scale for each in lead.outlines_mm] if lead else []
    ranked, amounts = ordered(chains, scores(chains, step, standing), crowd, near, outlines)
    points = [np.append((frame_map.matrix() @ np.array(aim))[:2], aim[2]) for aim in aims]
    whole = cleaned(ranked)
    clean, kinds, of = split_by_kind(rgb, whole)
    amounts = of_parts(amounts[of], lengths(clean) / lengths(whole)[of], np.array([kind == "shadow" for kind in kinds]))
    order = np.argsort(amounts, kind="stable")
    lines = [clean[k] * scale + box[:2] for k in order]
    straight = straightened(lines, points, STRAIGHT_PX * float(scale[0]), diagonal * float(scale[0]))
    return tuple(straight), tuple(kinds[k] for k in order), amounts[order]


def edges(rgb: NDArray[np.uint8]) -> tuple[NDArray[np.bool_], Channels]:
    """Where thin edges run in a picture (h, w, 3), and the step of colour to a pixel everywhere (h, w)."""
    colour = cv2.cvtColor(rgb.astype(np.float32) / 255, cv2.COLOR_RGB2Lab)
    colour = cv2.GaussianBlur(cv2.bilateralFilter(colour, 7, 9, 3), (0, 0), SMOOTH_PX) * np.array(WEIGHTS, np.float32)
    across = cv2.Sobel(colour, cv2.CV_32F, 1, 0, scale=1 / 8)
    down = cv2.Sobel(colour, cv2.CV_32F, 0, 1, scale=1 / 8)
    xx, yy, xy = (across**2).sum(-1), (down**2).sum(-1), (across * down).sum(-1)
    angle = 0.5 * np.arctan2(2 * xy, xx - yy)
    step = np.sqrt((xx + yy + np.hypot(xx - yy, 2 * xy)) / 2)
    dx, dy = (
        np.clip(step * way * GRADIENT_UNITS, -32000, 32000).astype(np.int16) for way in (np.cos(angle), np.sin(angle))
    )
    found = cv2.Canny(dx, dy, WEAK_STEP * GRADIENT_UNITS, STRONG_STEP * GRADIENT_UNITS, L2gradient=True)
    return found > 0, step


def cleaned(chains: list[Array]) -> list[Array]:
    """Chains of pixels eased along themselves and told with as few points as hold them."""
    if not chains:
        return []
    eased_ones = [gaussian_smoothed(chain) for chain in chains]
    which = np.repeat(np.arange(len(chains)), [len(line) for line in eased_ones])
    simple = shapely.simplify(shapely.linestrings(np.concatenate(eased_ones), indices=which), LEAVE_PX)
    points, owner = shapely.get_coordinates(simple, return_index=True)
    return list(np.split(points, np.flatnonzero(np.diff(owner)) + 1))


def gaussian_smoothed(line: Array) -> Array:
    """A line with the steps of its pixels taken out; its ends stay where they are."""
    if len(line) < 5:
        return line
    reach = min(int(3 * EASE_PX), len(line) - 2)
    weight = np.exp(-0.5 * (np.arange(-reach, reach + 1) / EASE_PX) ** 2)
    weight /= weight.sum()
    if np.array_equal(line[0], line[-1]):
        padded = np.concatenate([line[-reach - 1 : -1], line, line[1 : reach + 1]])
    else:  # turned over about its ends, which then stay where they are
        padded = np.concatenate([2 * line[0] - line[reach:0:-1], line, 2 * line[-1] - line[-2 : -reach - 2 : -1]])
    return np.stack([np.convolve(padded[:, axis], weight, "valid") for axis in (0, 1)], 1)
