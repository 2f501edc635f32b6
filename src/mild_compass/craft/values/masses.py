"""Segmentation of a picture into a few flat values: the masses."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np
import shapely
from numpy.typing import NDArray

from mild_compass.craft.checkpoint import checkpoint
from mild_compass.craft.geometry.lines import picture_box
from mild_compass.craft.kernels.raster import lightness_histogram
from mild_compass.craft.memo import Memo
from mild_compass.craft.picture.tone import grey_of_lightness
from mild_compass.craft.values.by_hand import StaleChange, with_changes
from mild_compass.craft.values.detail import DetailWeight, what_counts
from mild_compass.craft.values.drawn import paint, painted
from mild_compass.craft.values.hierarchy import Hierarchy, hierarchy_of
from mild_compass.craft.values.merging import without_small
from mild_compass.craft.values.outlines import MassShapes, mass_shapes
from mild_compass.craft.values.potts_fit import divided
from mild_compass.craft.values.prepared_frame import LONGEST_PX, PreparedFrame, flat_for, flat_key, shown_of
from mild_compass.craft.values.tracing import LevelCrossing

if TYPE_CHECKING:
    from collections.abc import Hashable

    from mild_compass.craft.picture.load import Picture
    from mild_compass.plan.paper import Paper
    from mild_compass.plan.study import Frame, Study
    from mild_compass.plan.tones import ValuePlan

_DISTRIBUTIONS: Memo[NDArray[np.float64]] = Memo(3)
_NESTED: Memo[Hierarchy] = Memo(6)


@dataclass(frozen=True, eq=False, slots=True)
class Masses:
    """The framed picture in a few values, dark to light.

    ``steps`` (h, w) holds the value of every pixel; ``shown`` the L* each value is drawn with; ``shares`` adds up
    to 1; ``counts`` are the shapes per value; ``borders_mm`` are the shared outlines on the sheet, ``border_mm`` long
    together; ``lightness`` (h, w) is the L* they were made from.
    """

    thresholds: tuple[float, ...]
    steps: NDArray[np.uint8]
    shown: tuple[float, ...]
    shares: tuple[float, ...]
    counts: tuple[int, ...]
    shapes: MassShapes
    borders_mm: tuple[NDArray[np.float64], ...]
    border_mm: float
    distribution: NDArray[np.float64]
    mm_per_step_px: float
    largest_share: float
    largest_value: int
    lightness: NDArray[np.float32]
    unfit: tuple[StaleChange, ...] = ()

    def painted(self, longest_px: int) -> NDArray[np.float32]:
        """L* (h, w) of the masses as a flat picture with its longer side so long."""
        return painted(self.shapes, self.shown, self.steps.shape, self.size(longest_px))

    def greys(self, longest_px: int) -> NDArray[np.uint8]:
        """The same in the greys that are shown, blended as these are where two values share a pixel."""
        levels = grey_of_lightness(self.shown).tolist()
        found = np.empty(self.size(longest_px)[::-1], np.uint8)
        paint(self.shapes, levels, self.steps.shape, found, 0.5)
        return found

    def lighter(self, value: int, size: tuple[int, int]) -> NDArray[np.float32]:
        """How much of each pixel (h, w) of a picture in a size (width, height) is so light or lighter, 0 to 1."""
        levels = [float(k >= value) for k in range(len(self.shown))]
        return painted(self.shapes, levels, self.steps.shape, size)

    def step_map(self, longest_px: int) -> NDArray[np.uint8]:
        """The value of each pixel (h, w) of such a picture: that which has most of it."""
        size = self.size(longest_px)
        found = np.zeros(size[::-1], np.uint8)
        for value in range(1, len(self.shown)):
            found += self.lighter(value, size) > np.float32(0.5)
        return found

    def size(self, longest_px: int) -> tuple[int, int]:
        """Width and height of a picture of the masses whose longer side has so many pixels."""
        height, width = self.steps.shape
        scale = longest_px / max(height, width)
        return max(1, round(width * scale)), max(1, round(height * scale))


@dataclass(frozen=True, eq=False, slots=True)
class FlatMasses:
    """The masses without their outlines: what find_masses begins with."""

    raw: NDArray[np.float32]
    thresholds: tuple[float, ...]
    steps: NDArray[np.uint8]
    shown: tuple[float, ...]
    unfit: tuple[StaleChange, ...]


def quick_masses(
    picture: Picture, frame: Frame, paper: Paper, values: ValuePlan, longest_px: int = LONGEST_PX
) -> FlatMasses:
    """A first idea: smooth without softening edges, divide by the thresholds, drop what is too small to draw.

    A small longest_px gives it in a few milliseconds, to be looked at while something is dragged.
    """
    view = PreparedFrame.of(picture, frame, paper, longest_px)
    thresholds = view.thresholds(values)
    steps = without_small(divided(view.smooth, thresholds), values.smallest_mm2 / view.mm_per_px**2)
    return _told(view, values, frame, paper, thresholds, steps)


def near_masses(
    picture: Picture, frame: Frame, paper: Paper, values: ValuePlan, counts: tuple[DetailWeight, ...] = ()
) -> FlatMasses:
    """Nearly the masses, in a few milliseconds once the picture is flattened: this divided at the thresholds."""
    flat, view = flat_for(picture, frame, paper, values, counts), PreparedFrame.of(picture, frame, paper, LONGEST_PX)
    return _told(
        view, values, frame, paper, view.thresholds(values), divided(flat.base, view.threshold_bands(values)[0])
    )


def flat_masses(
    picture: Picture, frame: Frame, paper: Paper, values: ValuePlan, counts: tuple[DetailWeight, ...] = ()
) -> FlatMasses:
    """The masses as simple as the artist wants them, from their hierarchy; ``counts`` is where detail counts."""
    view = PreparedFrame.of(picture, frame, paper, LONGEST_PX)
    thresholds = view.thresholds(values)
    nested = hierarchy_for(picture, frame, paper, values, counts)
    steps = nested.steps_at(nested.stop_at(values.simple))
    return _told(view, values, frame, paper, thresholds, steps)


def hierarchy_for(
    picture: Picture, frame: Frame, paper: Paper, values: ValuePlan, counts: tuple[DetailWeight, ...] = ()
) -> Hierarchy:
    """The nested shapes that a value plan chooses from; kept, so that choosing another stop takes no time."""
    key = _nested_key(frame, paper, values, counts)
    return _NESTED.of(picture, key, lambda: _nested(picture, frame, paper, values, counts))


def has_hierarchy(
    picture: Picture, frame: Frame, paper: Paper, values: ValuePlan, counts: tuple[DetailWeight, ...] = ()
) -> bool:
    """Whether the nested shapes are there already."""
    return _NESTED.has(picture, _nested_key(frame, paper, values, counts))


def _nested_key(frame: Frame, paper: Paper, values: ValuePlan, counts: tuple[DetailWeight, ...]) -> Hashable:
    flat = flat_key(frame, paper, values, counts)
    return flat, values.count, values.method, values.thresholds, values.smallest_mm2


def _nested(
    picture: Picture, frame: Frame, paper: Paper, values: ValuePlan, counts: tuple[DetailWeight, ...]
) -> Hierarchy:
    flat = flat_for(picture, frame, paper, values, counts)
    view = PreparedFrame.of(picture, frame, paper, LONGEST_PX)
    thresholds, means = view.threshold_bands(values)
    return hierarchy_of(flat, thresholds, means, values.smallest_mm2 / view.mm_per_px**2)


def _told(
    view: PreparedFrame,
    values: ValuePlan,
    frame: Frame,
    paper: Paper,
    thresholds: tuple[float, ...],
    steps: NDArray[np.uint8],
) -> FlatMasses:
    """The masses with what was changed by hand."""
    unfit: tuple[StaleChange, ...] = ()
    if values.changes:
        steps, unfit = with_changes(steps, values, frame, paper)
        steps = without_small(steps, values.smallest_mm2 / view.mm_per_px**2)
    shown = shown_of(view.smooth, steps, values.count, thresholds)
    return FlatMasses(view.framed.values, thresholds, steps, shown, unfit)


def find_masses(
    picture: Picture, frame: Frame, paper: Paper, values: ValuePlan, counts: tuple[DetailWeight, ...] = ()
) -> Masses:
    """The masses with their shared outlines, shares and counts."""
    return with_outlines(flat_masses(picture, frame, paper, values, counts), frame, paper, values)


def study_masses(picture: Picture, study: Study, paper: Paper) -> Masses:
    """The masses of a study."""
    return find_masses(picture, study.frame, paper, study.values, what_counts(study))


def with_outlines(flat: FlatMasses, frame: Frame, paper: Paper, values: ValuePlan) -> Masses:
    """Flat masses with their outlines drawn as curves."""
    checkpoint()
    raw, steps = flat.raw, flat.steps
    box = picture_box(paper, frame)
    mm_per_px = box.width / raw.shape[1]
    shapes = mass_shapes(steps, values.softness_mm / mm_per_px, LevelCrossing(raw, steps, flat.shown))
    shares = tuple(np.count_nonzero(steps == value) / steps.size for value in range(values.count))
    areas = shapely.area(shapes.polygons)
    borders_mm, border_mm = _on_sheet(shapes, np.array([mm_per_px, box.height / raw.shape[0]]), np.array(box[:2]))
    return Masses(
        flat.thresholds,
        steps,
        flat.shown,
        shares,
        tuple(int((shapes.values == value).sum()) for value in range(values.count)),
        shapes,
        borders_mm,
        border_mm,
        _DISTRIBUTIONS.of(raw, None, lambda: lightness_histogram(raw) / raw.size),
        mm_per_px,
        float(areas.max() / steps.size),
        int(shapes.values[areas.argmax()]),
        raw,
        flat.unfit,
    )


def _on_sheet(
    shapes: MassShapes, shrink: NDArray[np.float64], corner_mm: NDArray[np.float64]
) -> tuple[tuple[NDArray[np.float64], ...], float]:
    """The borders in mm, and how long they are together."""
    lines = shapes.lines
    points = lines.points * shrink + corner_mm
    sides = np.hypot(*np.diff(points, axis=0).T)
    sides[lines.first[1:-1] - 1] = 0  # from the end of one to the beginning of the next
    return lines.borders(points), float(np.add.reduceat(sides, lines.first[:-1])[lines.inner].sum())
