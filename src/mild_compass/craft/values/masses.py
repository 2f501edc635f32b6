"""A picture simplified to a few masses."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import cv2
import numpy as np
from numpy.typing import NDArray

from mild_compass.craft.geometry.lines import picture_box
from mild_compass.craft.kept import Kept
from mild_compass.craft.picture.framed import Framed, framed_lightness
from mild_compass.craft.values.by_hand import Unfit, with_changes
from mild_compass.craft.values.merging import without_small
from mild_compass.craft.values.outlines import MassShapes, mass_shapes
from mild_compass.craft.values.thresholds import thresholds_for

if TYPE_CHECKING:
    from mild_compass.craft.picture.load import Picture
    from mild_compass.plan.model import Frame, Paper, ValuePlan

# While thresholds are tried the smoothed picture stays the same.
_SMOOTHED: Kept[tuple[Framed, NDArray[np.float32]]] = Kept(3)
LONGEST_PX = 600  # a mass edge is drawn to about half a millimetre on A3; more pixels would say no more


@dataclass(frozen=True, eq=False, slots=True)
class Masses:
    """The framed picture in a few values, dark to light.

    ``steps`` (h, w) holds the value of every pixel; ``shown`` the L* each value is drawn with; ``shares`` adds up
    to 1; ``counts`` are the shapes per value; ``borders_mm`` are the shared outlines on the sheet; ``lightness`` (h, w)
    is the L* they were made from.
    """

    thresholds: tuple[float, ...]
    steps: NDArray[np.uint8]
    shown: tuple[float, ...]
    shares: tuple[float, ...]
    counts: tuple[int, ...]
    shapes: MassShapes
    borders_mm: tuple[NDArray[np.float64], ...]
    distribution: NDArray[np.float64]
    mm_per_step_px: float
    largest_share: float
    largest_value: int
    lightness: NDArray[np.float32]
    unfit: tuple[Unfit, ...] = ()


@dataclass(frozen=True, eq=False, slots=True)
class FlatMasses:
    """The masses without their outlines: what find_masses begins with."""

    raw: NDArray[np.float32]
    thresholds: tuple[float, ...]
    steps: NDArray[np.uint8]
    shown: tuple[float, ...]
    unfit: tuple[Unfit, ...]


def flat_masses(
    picture: Picture, frame: Frame, paper: Paper, values: ValuePlan, longest_px: int = LONGEST_PX
) -> FlatMasses:
    """Smooth without softening edges, divide by the thresholds, drop what is too small to draw.

    A small longest_px gives a rough answer in a few milliseconds, to be looked at while something is dragged.
    """
    framed, smooth = _SMOOTHED.of(
        picture, (frame, paper, longest_px), lambda: _framed_and_smoothed(picture, frame, paper, longest_px)
    )
    raw = framed.values
    thresholds = thresholds_for(values, smooth if framed.bare is None else Framed(smooth, framed.bare).covered)
    steps = np.digitize(smooth, np.array(thresholds)).astype(np.uint8)
    mm_per_px = picture_box(paper, frame).width / raw.shape[1]
    smallest_px = values.smallest_mm2 / mm_per_px**2
    steps = without_small(steps, smallest_px)
    unfit: tuple[Unfit, ...] = ()
    if values.changes:
        steps, unfit = with_changes(steps, values, frame, paper)
        steps = without_small(steps, smallest_px)
    return FlatMasses(raw, thresholds, steps, _shown(smooth, steps, values.count, thresholds), unfit)


def find_masses(picture: Picture, frame: Frame, paper: Paper, values: ValuePlan) -> Masses:
    """The masses with their shared outlines, shares and counts."""
    return with_outlines(flat_masses(picture, frame, paper, values), frame, paper, values)


def with_outlines(flat: FlatMasses, frame: Frame, paper: Paper, values: ValuePlan) -> Masses:
    """Flat masses with their outlines traced, which takes most of the time."""
    raw, steps = flat.raw, flat.steps
    box = picture_box(paper, frame)
    mm_per_px = box.width / raw.shape[1]
    shapes = mass_shapes(steps, tolerance_px=values.softness_mm / mm_per_px)
    total = np.bincount(steps.ravel(), minlength=values.count)
    areas = np.array([polygon.area for polygon in shapes.polygons])
    shrink = np.array([mm_per_px, box.height / raw.shape[0]])
    return Masses(
        flat.thresholds,
        steps,
        flat.shown,
        tuple(float(n) for n in total / steps.size),
        tuple(int((shapes.values == value).sum()) for value in range(values.count)),
        shapes,
        tuple(border * shrink + box[:2] for border in shapes.borders),
        np.bincount(np.clip(raw, 0, 99.99).astype(np.intp).ravel(), minlength=100) / raw.size,
        mm_per_px,
        float(areas.max() / steps.size),
        int(shapes.values[areas.argmax()]),
        raw,
        flat.unfit,
    )


def _framed_and_smoothed(
    picture: Picture, frame: Frame, paper: Paper, longest_px: int
) -> tuple[Framed, NDArray[np.float32]]:
    framed = framed_lightness(picture, frame, paper, longest_px)
    return framed, _smoothed(framed.values, longest_px / LONGEST_PX)


def _smoothed(values: NDArray[np.float32], scale: float) -> NDArray[np.float32]:
    """Edge-preserving smoothing: a median for the specks, a bilateral filter for the texture."""
    if min(values.shape) < 3:
        return values
    eight = cv2.medianBlur(np.round(values * 2.55).astype(np.uint8), 5 if scale > 0.7 else 3)
    return np.asarray(cv2.bilateralFilter(eight, 7 if scale > 0.7 else 3, 28, 5 * scale), np.float32) / np.float32(2.55)


def _shown(
    values: NDArray[np.float32], steps: NDArray[np.uint8], count: int, thresholds: tuple[float, ...]
) -> tuple[float, ...]:
    """The mean L* of each value's own pixels; the middle of its interval where it has none."""
    edges = (0.0, *thresholds, 100.0)
    totals = np.bincount(steps.ravel(), values.ravel().astype(np.float64), minlength=count)
    numbers = np.bincount(steps.ravel(), minlength=count)
    return tuple(float(totals[k] / numbers[k]) if numbers[k] else (edges[k] + edges[k + 1]) / 2 for k in range(count))
