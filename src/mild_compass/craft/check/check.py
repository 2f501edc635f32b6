"""Document rectification, recognition and registration: from a photo of the drawing to what is off."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

import numpy as np

from mild_compass.craft.check import sentences
from mild_compass.craft.check.asked import PlanSegments
from mild_compass.craft.check.checked import Checked
from mild_compass.craft.check.compared import compared, corners_of
from mild_compass.craft.check.corners import found_sheet
from mild_compass.craft.check.flat import flattened
from mild_compass.craft.check.proportion import aspect_ratio_of
from mild_compass.craft.check.recognition import recognised
from mild_compass.craft.check.sides import Sides, by_hand, fitted_sides, rolled

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from mild_compass.craft.check.asked import Asked

    Rgb = NDArray[np.uint8]

LEAST_PX = 600
LEAST_PX_PER_MM = 1.5
PX_OFF = 0.35  # what corners are off besides their own error: lenses are not as simple as one number
RATIO_OFF, RATIO_NONSENSE, SCAN_OFF = 0.035, 0.3, 0.02  # in ln
LEAST_DRAWN = 0.08  # of the lines looked for: less is chance
MANY_PARTS, SHEARED_PERCENT = 5, 0.3


def check(rgb: Rgb, asked: Asked) -> Checked:
    """What is off in a photo (h, w, 3) of a drawing; with a sentence instead where that cannot be told."""
    longest = max(rgb.shape[:2])
    if longest < LEAST_PX:
        return Checked(False, problem=sentences.too_small(longest, 2 * LEAST_PX))
    seen = _sides(rgb, asked)
    if seen is None:
        return Checked(False, problem=sentences.NO_SHEET)
    flat = flattened(rgb, _turned_to(seen.sides, asked), asked.width_mm, asked.height_mm)
    corners = corners_of(flat.sides)
    if flat.px_per_mm < LEAST_PX_PER_MM:
        return Checked(False, corners, sentences.TOO_FAR, seen.remark, flat)
    every = PlanSegments.of_lines(asked.lines)
    found = recognised(flat, rgb, asked, every)
    if isinstance(found, str):
        return Checked(False, corners, found, seen.remark, flat)
    flat, ink, coarse = found
    told = compared(flat, ink, coarse, asked, every, seen.sure, seen.remark)
    if told.drawn_share < LEAST_DRAWN or not told.places:
        return Checked(False, corners, sentences.NOT_THIS, seen.remark, flat)
    return Checked(False, corners, sentences.BY_CHANCE, seen.remark, flat) if followed_by_chance(told) else told


def followed_by_chance(told: Checked) -> bool:
    """Whether more parts are off than a hand moves, besides a whole that no hand shears so."""
    parts = sum(part.sure for part in told.parts)
    return told.whole is not None and parts >= MANY_PARTS and abs(told.whole.shear_percent) >= SHEARED_PERCENT


@dataclass(frozen=True, eq=False, slots=True)
class _Seen:
    """The sheet in the photo, whether its corners may be trusted, and what is to be said of it."""

    sides: Sides
    sure: bool
    remark: str = ""


def _sides(rgb: Rgb, asked: Asked) -> _Seen | None:
    size = (rgb.shape[1], rgb.shape[0])
    wanted = max(asked.width_mm, asked.height_mm) / min(asked.width_mm, asked.height_mm)
    if asked.corners_px:
        return _Seen(_with_bow(rgb, by_hand(np.array(asked.corners_px), size)), True)
    found = found_sheet(rgb, wanted)
    if found is not None:
        sides = replace(found.sides, sigma_px=np.hypot(found.sides.sigma_px, PX_OFF))
        told = aspect_ratio_of(sides, size, asked.focal_35mm)
        off = min(abs(np.log(each / wanted)) for each in told.span)
        if off <= RATIO_OFF:
            return _Seen(sides, found.sure)
        if off <= RATIO_NONSENSE:
            return _Seen(sides, False, sentences.other_proportion(told.ratio, told.name, wanted, asked.paper))
    if abs(np.log(max(size) / min(size) / wanted)) < SCAN_OFF:
        width, height = size
        sides = by_hand(np.array([[0.0, 0], [width, 0], [width, height], [0, height]]), size, sigma_px=0.01 * width)
        return _Seen(sides, False, sentences.SCANNED)
    return None


def _with_bow(rgb: Rgb, sides: Sides) -> Sides:
    """Corners set by hand stay; the bow of the lens is taken from the sheet's edges where these are near."""
    fitted = fitted_sides(rgb, sides.corners_px)
    reach = 0.012 * np.hypot(*rgb.shape[:2])
    if fitted is None or np.hypot(*(fitted.corners_px - sides.corners_px).T).max() > reach:
        return sides
    return replace(sides, bow=fitted.bow)


def _turned_to(sides: Sides, asked: Asked) -> Sides:
    """The corners begun anew so that the sheet's long side lies along the plan's."""
    if asked.corners_px:
        return sides
    side = np.hypot(*(np.roll(sides.corners_px, -1, 0) - sides.corners_px).T)
    lies_across = side[0] + side[2] > side[1] + side[3]
    turned = 0 if lies_across == (asked.width_mm >= asked.height_mm) else 1
    corners = np.roll(sides.corners_px, turned, 0)
    if corners[0].sum() > corners[2].sum():  # as it lies in the photo, until the lines tell
        turned += 2
    return rolled(sides, turned)
