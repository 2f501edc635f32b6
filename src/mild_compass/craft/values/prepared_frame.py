"""The framed picture preprocessed for segmentation: smoothed, flattened, and its thresholds found."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise
from typing import TYPE_CHECKING

import cv2
import numpy as np
from numpy.typing import NDArray

from mild_compass.craft.geometry.lines import picture_box
from mild_compass.craft.memo import Memo
from mild_compass.craft.picture.framed import Framed, framed_lightness
from mild_compass.craft.values.detail import DetailWeight, border_weight
from mild_compass.craft.values.hierarchy import Flat, flat_of
from mild_compass.craft.values.potts_fit import divided
from mild_compass.craft.values.shapes import sums_of
from mild_compass.craft.values.thresholds import thresholds_for

if TYPE_CHECKING:
    from collections.abc import Hashable

    from mild_compass.craft.picture.load import Picture
    from mild_compass.plan.paper import Paper
    from mild_compass.plan.study import Frame
    from mild_compass.plan.tones import ValuePlan

# While thresholds are tried the smoothed and flattened pictures stay the same.
_SMOOTHED: Memo[tuple[Framed, NDArray[np.float32]]] = Memo(3)
_FLAT: Memo[Flat] = Memo(3)
_THRESHOLDS: Memo[tuple[float, ...]] = Memo(3)  # asked for several times for one division
LONGEST_PX = 600  # a mass edge is drawn to about half a millimetre on A3; more pixels would say no more


@dataclass(frozen=True, eq=False, slots=True)
class PreparedFrame:
    """The framed picture as it is and smoothed, and its size on the sheet."""

    framed: Framed
    smooth: NDArray[np.float32]
    mm_per_px: float

    @classmethod
    def of(cls, picture: Picture, frame: Frame, paper: Paper, longest_px: int) -> PreparedFrame:
        """Made once for each picture and frame."""
        framed, smooth = _SMOOTHED.of(
            picture, (frame, paper, longest_px), lambda: _framed_and_smoothed(picture, frame, paper, longest_px)
        )
        return cls(framed, smooth, picture_box(paper, frame).width / framed.values.shape[1])

    def threshold_bands(self, values: ValuePlan) -> tuple[tuple[float, ...], tuple[float, ...]]:
        """Where the values part for a fit, and their means."""
        thresholds = self.thresholds(values)
        means = shown_of(self.framed.values, divided(self.smooth, thresholds), values.count, thresholds)
        if values.method == "found":  # the picture decides: each pixel goes to the value it is nearest to
            thresholds = tuple((a + b) / 2 for a, b in pairwise(means))
        return thresholds, means

    def thresholds(self, values: ValuePlan) -> tuple[float, ...]:
        """Where the values part, found on what the photo covers."""

        def found() -> tuple[float, ...]:
            bare = self.framed.bare
            return thresholds_for(values, self.smooth if bare is None else Framed(self.smooth, bare).covered)

        return _THRESHOLDS.of(self.smooth, (values.count, values.method, values.thresholds), found)


def is_flattened(
    picture: Picture, frame: Frame, paper: Paper, values: ValuePlan, counts: tuple[DetailWeight, ...] = ()
) -> bool:
    """Whether the picture has been flattened for masses already."""
    return _FLAT.has(picture, flat_key(frame, paper, values, counts))


def flat_key(frame: Frame, paper: Paper, values: ValuePlan, counts: tuple[DetailWeight, ...]) -> Hashable:
    """All but the photo that a flattened picture is made from."""
    return frame, paper, (values.detail, counts) if counts else (0.0, ()), values.areas


def flat_for(picture: Picture, frame: Frame, paper: Paper, values: ValuePlan, counts: tuple[DetailWeight, ...]) -> Flat:
    """The picture flattened, the same for all thresholds."""

    def made() -> Flat:
        lightness = PreparedFrame.of(picture, frame, paper, LONGEST_PX).framed.values
        weight = border_weight(lightness.shape, frame, paper, counts, values.detail, values.areas)
        return flat_of(lightness, weight)

    return _FLAT.of(picture, flat_key(frame, paper, values, counts), made)


def shown_of(
    values: NDArray[np.float32], steps: NDArray[np.uint8], count: int, thresholds: tuple[float, ...]
) -> tuple[float, ...]:
    """The mean L* of each value's own pixels; the middle of its interval where it has none."""
    edges, (numbers, totals) = (0.0, *thresholds, 100.0), sums_of(steps, values, count)
    return tuple(float(totals[k] / numbers[k]) if numbers[k] else (edges[k] + edges[k + 1]) / 2 for k in range(count))


def _framed_and_smoothed(
    picture: Picture, frame: Frame, paper: Paper, longest_px: int
) -> tuple[Framed, NDArray[np.float32]]:
    framed = framed_lightness(picture, frame, paper, longest_px)
    framed = Framed(np.ascontiguousarray(framed.values), framed.bare)  # as the loops take it
    return framed, _smoothed(framed.values, longest_px / LONGEST_PX)


def _smoothed(values: NDArray[np.float32], scale: float) -> NDArray[np.float32]:
    """Edge-preserving smoothing: a median for the specks, a bilateral filter for the texture."""
    if min(values.shape) < 3:
        return values
    eight = cv2.medianBlur(np.round(values * 2.55).astype(np.uint8), 5 if scale > 0.7 else 3)
    return np.asarray(cv2.bilateralFilter(eight, 7 if scale > 0.7 else 3, 28, 5 * scale), np.float32) / np.float32(2.55)
