"""A line drawing of a photo, fit to trace: few, clean lines as vectors.

Edges are the ridges of a colour gradient (J. Canny, IEEE PAMI 8(6), 1986; several channels together by S. Di Zenzo,
CVGIP 33, 1986), chained from junction to junction, joined where they go on across small gaps, ranked by length and
step, eased and simplified.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import cv2
import numpy as np
import shapely

from mild_compass.craft.geometry.frame_map import FrameMap
from mild_compass.craft.kept import Kept
from mild_compass.craft.picture.chains import chains_of, joined_chains, lengths
from mild_compass.craft.picture.framed import bare_paper, laid_on_sheet, sized

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from mild_compass.craft.picture.load import Picture
    from mild_compass.plan.model import Frame, Paper

    Array = NDArray[np.float64]
    Channels = NDArray[np.float32]

LONGEST_PX = 900
SMOOTH_PX = 1.6
WEIGHTS = (1.0, 0.6, 0.6)  # of L*, a* and b*: a drawing follows values before hues
WEAK_STEP, STRONG_STEP = 0.8, 2.0  # of colour to a pixel: an edge begins where it is strong and is followed while weak
FULL_STEP = 6.0  # steps above that count alike
JOIN_PX, JOIN_DEG = 9.0, 35.0
LEAST_SHARE = 0.012  # of the diagonal: shorter lines are crumbs at any amount
EASE_PX, LEAVE_PX = 2.0, 0.6  # how far along a line it is eased, and how far it may then leave its edge
GRADIENT_UNITS = 200.0  # whole numbers to a step, for the edge detector

_CHAINS: Kept[tuple[tuple[Array, ...], Array]] = Kept(3)


@dataclass(frozen=True, eq=False, slots=True)
class LineDrawing:
    """Lines on the sheet in mm, the most telling first."""

    lines_mm: tuple[Array, ...]

    @property
    def length_mm(self) -> float:
        """All lines together."""
        return float(lengths(list(self.lines_mm)).sum())


def line_drawing(picture: Picture, frame: Frame, paper: Paper, amount: float) -> LineDrawing:
    """The lines of what the frame shows; ``amount`` is the percentage of all that was found, by length."""
    ranked, long = _CHAINS.of(picture, (frame, paper), lambda: _ranked(picture, frame, paper))
    if not ranked:
        return LineDrawing(())
    upto = int(np.searchsorted(np.cumsum(long), amount / 100 * long.sum() + 1e-9, side="right"))
    return LineDrawing(ranked[: max(upto, 1 if amount > 0 else 0)])


def _ranked(picture: Picture, frame: Frame, paper: Paper) -> tuple[tuple[Array, ...], Array]:
    frame_map = FrameMap.of(frame, paper)
    box, photo_px = frame_map.box, (picture.width_px, picture.height_px)
    width, height = sized(frame_map, LONGEST_PX)
    rgb = laid_on_sheet(picture.rgb, photo_px, frame_map, width, height)
    if min(rgb.shape[:2]) < 8:
        return (), np.zeros(0)
    on, step = edges(np.ascontiguousarray(rgb))
    bare = bare_paper(photo_px, frame_map, width, height)
    if bare.any():
        on = on & ~cv2.dilate(bare.astype(np.uint8), np.ones((5, 5), np.uint8)).astype(bool)
    chains = joined_chains([chain for chain in chains_of(on) if len(chain) > 3], JOIN_PX, JOIN_DEG)
    long = lengths(chains)
    kept = [k for k in range(len(chains)) if long[k] >= LEAST_SHARE * np.hypot(width, height)]
    score = [long[k] * min(_mean_step(step, chains[k]), FULL_STEP) for k in kept]
    order = [kept[k] for k in np.argsort(-np.array(score), kind="stable")]
    scale = np.array([box.width / width, box.height / height])
    lines = tuple(line * scale + box[:2] for line in cleaned([chains[k] for k in order]))
    return lines, lengths(list(lines))


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


def _mean_step(step: Channels, chain: Array) -> float:
    columns, rows = np.minimum(np.floor(chain).astype(int), (step.shape[1] - 1, step.shape[0] - 1)).T
    return float(step[rows, columns].mean())


def cleaned(chains: list[Array]) -> list[Array]:
    """Chains of pixels eased along themselves and told with as few points as hold them."""
    if not chains:
        return []
    eased_ones = [eased(chain) for chain in chains]
    which = np.repeat(np.arange(len(chains)), [len(line) for line in eased_ones])
    simple = shapely.simplify(shapely.linestrings(np.concatenate(eased_ones), indices=which), LEAVE_PX)
    points, owner = shapely.get_coordinates(simple, return_index=True)
    return list(np.split(points, np.flatnonzero(np.diff(owner)) + 1))


def eased(line: Array) -> Array:
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
