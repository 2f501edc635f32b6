"""The aspect ratio and focal length of a rectangle seen in perspective, and which known sheet it would be.

With square pixels and the optical centre in the middle of the photo a rectangle's proportion follows from its picture
(Z. Zhang & L. He, Whiteboard scanning and image enhancement, Digital Signal Processing 17, 2007).
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from mild_compass.craft.sheet_sizes.papers import UPRIGHT_SIZES_MM

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from mild_compass.craft.check.sides import Sides

LENSES_35MM = (23.0, 27.0, 35.0, 52.0, 77.0)  # of phones, as on 36 mm film
NAMED_WITHIN = 0.02


@dataclass(frozen=True, slots=True)
class AspectRatio:
    """The longer over the shorter side, for each focal length that may be, and a known sheet of that proportion."""

    ratio: float
    span: tuple[float, ...]
    name: str


def aspect_ratio_of(sides: Sides, size_px: tuple[int, int], focal_35mm: float = 0.0) -> AspectRatio:
    """The proportion of the sheet with given corners in a photo of a size."""
    unit = sides.homography(1.0, 1.0)
    centred = np.array([[1, 0, -sides.centre_px[0]], [0, 1, -sides.centre_px[1]], [0, 0, 1]]) @ unit
    lenses = (focal_35mm,) if focal_35mm else LENSES_35MM
    told = []
    for lens in lenses:
        focal = lens / 36.0 * max(size_px)
        one, other = (float(np.linalg.norm(centred[:, n] / (focal, focal, 1.0))) for n in (0, 1))
        told.append(max(one, other) / min(one, other))
    known = focal_from_rectangle(centred)
    if known and not focal_35mm and min(LENSES_35MM) <= known / max(size_px) * 36.0 <= max(LENSES_35MM):
        one, other = (float(np.linalg.norm(centred[:, n] / (known, known, 1.0))) for n in (0, 1))
        ratio = max(one, other) / min(one, other)
    else:
        ratio = float(np.median(told))
    span = (*told, ratio)
    known_by = {name: abs(float(np.log(max(size) / min(size) / ratio))) for name, size in UPRIGHT_SIZES_MM.items()}
    best = min(known_by, key=known_by.__getitem__)
    return AspectRatio(ratio, span, best if known_by[best] < NAMED_WITHIN else "")


def focal_from_rectangle(centred: NDArray[np.float64]) -> float:
    """The focal length in pixels that sets the two directions of a rectangle square; 0 where they do not tell."""
    across, down = centred[:, 0], centred[:, 1]
    slope = across[2] * down[2]
    square = -(across[0] * down[0] + across[1] * down[1]) / slope if abs(slope) > 1e-9 else -1.0
    return float(np.sqrt(square)) if square > 0 else 0.0
