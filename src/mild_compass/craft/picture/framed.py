"""What the viewfinder shows of a picture, as it will stand on the sheet, with bare paper where the photo ends."""

from __future__ import annotations

from dataclasses import dataclass
from math import ceil, floor
from typing import TYPE_CHECKING, Any

import cv2
import numpy as np
from PIL import Image

from mild_compass.craft.geometry.frame_map import FrameMap
from mild_compass.plan.framing import reaches_beyond

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from mild_compass.craft.picture.load import Picture
    from mild_compass.plan.paper import Paper
    from mild_compass.plan.study import Frame

BARE_PAPER = 97.0  # L* of white paper that no photo covers
PAPER_WHITE = 255  # of a byte


@dataclass(frozen=True, eq=False, slots=True)
class Framed:
    """L* of the framed picture (h, w), and where bare paper is shown for want of photo (None for nowhere)."""

    values: NDArray[np.float32]
    bare: NDArray[np.bool_] | None = None

    @property
    def covered(self) -> NDArray[np.float32]:
        """The values that come from the photo, in a row when there is bare paper."""
        return self.values if self.bare is None or self.bare.all() else self.values[~self.bare]

    def filled(self, value: float) -> NDArray[np.float32]:
        """The values with bare paper at some value."""
        return self.values if self.bare is None else np.where(self.bare, np.float32(value), self.values)


def framed_lightness(picture: Picture, frame: Frame, paper: Paper, longest_px: int) -> Framed:
    """L* of what the viewfinder shows, with its longest side at most longest_px."""
    rough = 4 * longest_px < max(frame.width_px, frame.height_px) * picture.scale
    whole = picture.small_lightness if rough else picture.lightness
    size = (picture.width_px, picture.height_px)
    if frame.plain and not reaches_beyond(frame, size):
        return Framed(_cut(whole, frame, size, longest_px))
    frame_map = FrameMap.of(frame, paper)
    scale = max(frame.width_px * whole.shape[1] / size[0], frame.height_px * whole.shape[0] / size[1])
    longest = min(longest_px, max(1, round(scale)))
    width, height = sized(frame_map, longest)
    bare = bare_paper(size, frame_map, width, height) if reaches_beyond(frame, size) else None
    values = np.asarray(laid_on_sheet(whole, size, frame_map, width, height), np.float32)
    framed = Framed(values, bare)
    return Framed(framed.filled(BARE_PAPER), bare)


def framed_colour(picture: Picture, frame: Frame, frame_map: FrameMap, longest_px: int) -> NDArray[np.uint8]:
    """The framed picture (h, w, 3) with its longest side as given, white where the photo ends.

    It is printed and looked at, so the edges of the frame fall between pixels and come out exactly. Masses and reads
    are made from framed_lightness, which keeps whole pixels: those cost a tenth, and half a pixel is nothing to them.
    """
    width, height = sized(frame_map, longest_px)
    size = (picture.width_px, picture.height_px)
    beyond = reaches_beyond(frame, size)
    if frame.plain and not beyond:
        across, down = picture.rgb.shape[1] / size[0], picture.rgb.shape[0] / size[1]
        left, top = max(0.0, frame.x_px * across), max(0.0, frame.y_px * down)
        right = min((frame.x_px + frame.width_px) * across, float(picture.rgb.shape[1]))
        bottom = min((frame.y_px + frame.height_px) * down, float(picture.rgb.shape[0]))
        whole = Image.fromarray(picture.rgb)
        return np.asarray(whole.resize((width, height), Image.Resampling.LANCZOS, box=(left, top, right, bottom)))
    laid = laid_on_sheet(picture.rgb, size, frame_map, width, height)
    if beyond:
        laid[bare_paper(size, frame_map, width, height)] = PAPER_WHITE
    return np.asarray(laid)


def sized(frame_map: FrameMap, longest_px: int) -> tuple[int, int]:
    """Width and height in whole pixels of a picture of the frame with its longest side as given."""
    longest_mm = max(frame_map.box.width, frame_map.box.height)
    return (
        max(1, round(longest_px * frame_map.box.width / longest_mm)),
        max(1, round(longest_px * frame_map.box.height / longest_mm)),
    )


def laid_on_sheet(
    array: NDArray[Any], photo_px: tuple[int, int], frame_map: FrameMap, width: int, height: int
) -> NDArray[Any]:
    """The framed part of a raster (H, W) or (H, W, 3) of the whole photo, as (height, width) pixels of the sheet.

    Where the photo ends its last pixels go on; bare_paper tells where that is.
    """
    to_array = _to_array(array.shape, photo_px, frame_map, width, height)
    shrink = float(np.sqrt(abs(np.linalg.det(to_array[:, :2]))))
    if shrink > 1.5:
        small = (max(1, round(array.shape[1] / shrink)), max(1, round(array.shape[0] / shrink)))
        array = cv2.resize(array, small, interpolation=cv2.INTER_AREA)
        to_array = _to_array(array.shape, photo_px, frame_map, width, height)
    flags = cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP
    return np.asarray(cv2.warpAffine(array, to_array, (width, height), flags=flags, borderMode=cv2.BORDER_REPLICATE))


def bare_paper(photo_px: tuple[int, int], frame_map: FrameMap, width: int, height: int) -> NDArray[np.bool_]:
    """Which of (height, width) pixels of the frame lie beyond the photo, by their middles."""
    (a, b, c), (d, e, f) = _to_array((photo_px[1], photo_px[0]), photo_px, frame_map, width, height).tolist()
    x, y = np.arange(width)[None, :], np.arange(height)[:, None]
    across, down = a * x + b * y + c + 0.5, d * x + e * y + f + 0.5
    return np.asarray((across < 0) | (across > photo_px[0]) | (down < 0) | (down > photo_px[1]))


def _to_array(
    shape: tuple[int, ...], photo_px: tuple[int, int], frame_map: FrameMap, width: int, height: int
) -> NDArray[np.float64]:
    """The map (2, 3) from pixels of the frame to pixels of the raster, both counted from their middles."""
    box = frame_map.box
    corner_mm = np.array([[box.left, box.top], [box.right, box.top], [box.left, box.bottom]])
    corner = frame_map.to_photo(corner_mm) * (shape[1] / photo_px[0], shape[0] / photo_px[1])
    across, down = (corner[1] - corner[0]) / width, (corner[2] - corner[0]) / height
    shift = corner[0] + (across + down) / 2 - 0.5
    return np.stack([across, down, shift], 1)


def _cut(whole: NDArray[np.float32], frame: Frame, size: tuple[int, int], longest_px: int) -> NDArray[np.float32]:
    """The plain case: a run of whole pixels."""
    # Both ways apart: a photo one pixel wide cannot be made smaller in that direction.
    across, down = whole.shape[1] / size[0], whole.shape[0] / size[1]
    left, right = _pixels(frame.x_px * across, (frame.x_px + frame.width_px) * across, whole.shape[1])
    top, bottom = _pixels(frame.y_px * down, (frame.y_px + frame.height_px) * down, whole.shape[0])
    values = whole[top:bottom, left:right]
    shrink = longest_px / max(frame.width_px * across, frame.height_px * down)
    if shrink < 1:
        small = (max(1, round(values.shape[1] * shrink)), max(1, round(values.shape[0] * shrink)))
        values = np.asarray(cv2.resize(values, small, interpolation=cv2.INTER_AREA), np.float32).reshape(small[::-1])
    return values


def _pixels(low: float, high: float, size: int) -> tuple[int, int]:
    """The run of whole pixels that holds a stretch, at least one of them."""
    first = min(max(0, floor(low)), size - 1)
    return first, max(min(size, ceil(high)), first + 1)
