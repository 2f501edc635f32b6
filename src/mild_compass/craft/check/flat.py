"""Rectification (homography and radial term) and illumination flattening against the paper's white."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import cv2
import numpy as np

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from mild_compass.craft.check.sides import Sides

    Array = NDArray[np.float64]
    Rgb = NDArray[np.uint8]
    Grey = NDArray[np.float32]

MOST_PIXELS = 4.5e6  # bounds memory: 54 MB of three floats each
MOST_PX_PER_MM = 10.0
LIGHT_MM = 9.0  # the paper's white is looked for so far round a place


@dataclass(frozen=True, eq=False, slots=True)
class FlatSheet:
    """A sheet seen from straight above: sRGB (h, w, 3) as photographed, and where in the photo it came from.

    Pixel (x, y) shows the sheet around ((x + 0.5), (y + 0.5)) / ``px_per_mm``. ``homography`` takes mm to pixels of the
    photo without its bow.
    """

    rgb: Rgb
    px_per_mm: float
    sides: Sides
    homography: Array
    width_mm: float
    height_mm: float

    def to_photo(self, points_mm: Array) -> Array:
        """Points of the sheet (n, 2) in mm to pixels of the photo as taken."""
        return to_photo(np.asarray(points_mm, np.float64), self.homography, self.sides)

    def to_sheet(self, points_px: Array) -> Array:
        """And back: pixels of the photo (n, 2) to mm on the sheet."""
        flat = self.sides.unbowed(np.asarray(points_px, np.float64))
        return np.asarray(
            cv2.perspectiveTransform(flat.reshape(1, -1, 2), np.linalg.inv(self.homography))[0], np.float64
        )


def to_photo(points_mm: Array, homography: Array, sides: Sides) -> Array:
    """Points of the sheet (n, 2) in mm to pixels of the photo as taken."""
    flat = cv2.perspectiveTransform(points_mm.reshape(1, -1, 2), homography)[0]
    return sides.bowed(np.asarray(flat, np.float64))


def flattened(
    rgb: Rgb, sides: Sides, width_mm: float, height_mm: float, most_px_per_mm: float = MOST_PX_PER_MM
) -> FlatSheet:
    """The sheet between the four corners, the first of which is its top left, as fine as the photo shows it."""
    homography = sides.homography(width_mm, height_mm)
    area = float(cv2.contourArea(sides.corners_px.astype(np.float32)))
    native = np.sqrt(area / (width_mm * height_mm))
    fine = float(min(most_px_per_mm, max(native, 0.5), np.sqrt(MOST_PIXELS / (width_mm * height_mm))))
    width, height = round(width_mm * fine), round(height_mm * fine)
    # The bow is slow: a coarse map of it drawn out by cubic steps is right to a hundredth of a pixel.
    coarse = 8
    across, down = np.arange(-2, width // coarse + 4) * coarse, np.arange(-2, height // coarse + 4) * coarse
    grid = np.stack(np.meshgrid((across + 0.5) / fine, (down + 0.5) / fine), -1)
    source = (to_photo(grid.reshape(-1, 2), homography, sides) - 0.5).reshape(*grid.shape).astype(np.float32)
    x, y = np.meshgrid(np.arange(width, dtype=np.float32), np.arange(height, dtype=np.float32))
    at = cv2.remap(source, x / coarse + 2, y / coarse + 2, cv2.INTER_CUBIC)
    picture = rgb
    if native > 1.6 * fine:  # seen smaller than it is: softened first, lest thin lines break up
        picture = np.asarray(cv2.GaussianBlur(rgb, (0, 0), 0.45 * native / fine), np.uint8)
    flat = cv2.remap(picture, at[..., 0], at[..., 1], cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
    return FlatSheet(np.asarray(flat, np.uint8), fine, sides, homography, width_mm, height_mm)


def paper_white(rgb: Rgb, px_per_mm: float) -> Grey:
    """The light on the bare paper everywhere (h, w, 3), 0 to 255, from what is palest round each place."""
    step = max(1, round(px_per_mm * 1.2))
    small = rgb[step // 2 :: step, step // 2 :: step]
    reach = 2 * max(1, round(LIGHT_MM / 2)) + 1
    # Dust and noise are palest by chance: a median first.
    around = np.ones((reach, reach), np.uint8)
    calm = [cv2.medianBlur(np.ascontiguousarray(small[..., channel]), 3) for channel in range(3)]
    pale = np.stack([cv2.morphologyEx(each, cv2.MORPH_CLOSE, around) for each in calm], -1)
    pale = cv2.GaussianBlur(pale.astype(np.float32), (0, 0), reach / 3)
    return np.asarray(cv2.resize(pale, rgb.shape[1::-1], interpolation=cv2.INTER_LINEAR), np.float32)


def ink_of(rgb: Rgb, px_per_mm: float) -> Grey:
    """How dark each place is against the paper round it (h, w): 0 bare, 1 black."""
    grey = cv2.cvtColor(rgb, cv2.COLOR_RGB2GRAY)
    light = np.maximum(cv2.cvtColor(paper_white(rgb, px_per_mm), cv2.COLOR_RGB2GRAY), 8.0)
    return np.asarray(np.clip(1 - grey / light, -0.2, 1), np.float32)
