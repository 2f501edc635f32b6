"""The picture as it will be drawn: the photo with the planned departures. The photo itself is never touched."""

from __future__ import annotations

from dataclasses import dataclass
from math import ceil, floor, hypot
from typing import TYPE_CHECKING

import cv2
import numpy as np

from mild_compass.craft.perspective.lens import straightened_picture
from mild_compass.craft.picture.flatten import flattened
from mild_compass.craft.picture.load import Picture
from mild_compass.craft.picture.squint import blurred
from mild_compass.craft.picture.straighten import straightened
from mild_compass.craft.picture.tone import LINEAR, WEIGHTS, lightness, luminance_of_lightness, to_bytes
from mild_compass.plan.departure_kinds import kind_of

if TYPE_CHECKING:
    from collections.abc import Callable, Mapping, Sequence

    from numpy.typing import NDArray

    from mild_compass.craft.picture.tone import Rgb
    from mild_compass.plan.guides import Lens
    from mild_compass.plan.pictures import Point
    from mild_compass.plan.study import Departure

LINE_WIDTH = 0.004  # of the photo's diagonal, for a line carried on at size 1
LOST_DETAIL = 0.02  # of an area's diagonal: what is finer than that goes
FINER = 4  # times a pixel, for the edge of an area
SOFT_EDGE = 0.06  # of an area's diagonal, for what is darkened or loses detail


@dataclass(frozen=True, slots=True)
class _Part:
    """A window of whole pixels on a raster."""

    left: int
    top: int
    right: int
    bottom: int

    @classmethod
    def around(cls, points: NDArray[np.float64], room: float, shape: tuple[int, ...]) -> _Part:
        low, high = points.min(0) - room, points.max(0) + room
        return cls(
            min(max(0, floor(low[0])), shape[1]),
            min(max(0, floor(low[1])), shape[0]),
            max(0, min(shape[1], ceil(high[0]))),
            max(0, min(shape[0], ceil(high[1]))),
        )

    @property
    def empty(self) -> bool:
        return self.right <= self.left or self.bottom <= self.top

    def of(self, raster: Rgb) -> Rgb:
        return raster[self.top : self.bottom, self.left : self.right]


def active(departures: Sequence[Departure]) -> tuple[Departure, ...]:
    """Those that are still to be drawn: all but the dropped ones."""
    return tuple(each for each in departures if each.outcome != "dropped")


def departed(
    picture: Picture, departures: Sequence[Departure], sources: Mapping[str, Picture], lens: Lens | None = None
) -> Picture:
    """The picture straightened, then with the departures made one after the other.

    ``sources`` are the photos that lend elements, as they were taken.
    """
    todo = active(departures)
    if not todo and (lens is None or lens.plain):
        return picture
    size = (picture.width_px, picture.height_px)
    rgb = picture.rgb.copy() if lens is None else straightened_picture(picture.rgb, size, lens).copy()
    scale = (rgb.shape[1] / picture.width_px, rgb.shape[0] / picture.height_px)
    painting = _Painting(rgb, scale, sources)
    for each in todo:
        _depart(painting, each)
    return Picture(rgb, picture.width_px, picture.height_px)


@dataclass(frozen=True, slots=True)
class _Painting:
    """A picture being worked on in place: its pixels, raster pixels to a photo pixel, the photos that lend."""

    rgb: Rgb
    scale: tuple[float, float]
    sources: Mapping[str, Picture]

    def points(self, departure: Departure) -> NDArray[np.float64]:
        return np.array(departure.points, np.float64) * self.scale


def _depart(painting: _Painting, departure: Departure) -> None:
    """Make one departure in place, in the way its row of the table names."""
    PAINTERS[kind_of(departure.kind).painted](painting, departure)


def _lay_in(painting: _Painting, departure: Departure) -> None:
    """Put an element of another photo into the picture, where that photo is at hand."""
    source = painting.sources.get(departure.source)
    if source is not None:
        _put(painting.rgb, departure, painting.scale, source.rgb, source.rgb.shape[1] / source.width_px)


def _move(painting: _Painting, departure: Departure) -> None:
    untouched = painting.rgb.copy()
    _leave_out(painting.rgb, painting.points(departure))
    _put(painting.rgb, departure, painting.scale, untouched, painting.scale[0])


def outline_mask(points: NDArray[np.float64], part: _Part, soft_px: float = 0.0) -> NDArray[np.float32]:
    """Weight 0-1 inside an outline (n, 2), for a window of the raster, with edges as soft as asked for."""
    height, width = part.bottom - part.top, part.right - part.left
    # Filled four times as fine: OpenCV's own soft edges are half a pixel off down the picture and too wide.
    mask = np.zeros((FINER * height, FINER * width), np.uint8)
    fixed = np.round((FINER * (points - (part.left, part.top)) - 0.5) * 16).astype(np.int32)
    cv2.fillPoly(mask, [fixed.reshape(-1, 1, 2)], 255, shift=4)
    found = np.asarray(cv2.resize(mask, (width, height), interpolation=cv2.INTER_AREA), np.float32) / 255
    return np.asarray(cv2.GaussianBlur(found, (0, 0), soft_px) if soft_px > 0.3 else found, np.float32)


def _size(points: NDArray[np.float64]) -> float:
    return float(hypot(*np.ptp(points, axis=0)))


def _leave_out(rgb: Rgb, points: NDArray[np.float64]) -> None:
    part = _Part.around(points, 4 + 0.3 * _size(points), rgb.shape)
    if part.empty:
        return
    here = part.of(rgb)
    gone = outline_mask(points, part)
    wide = np.asarray(cv2.dilate((gone > 0).astype(np.uint8), np.ones((3, 3), np.uint8)), np.uint8)
    filled = flattened(here.astype(np.float32), 1 - wide.astype(np.float32))
    filled = np.asarray(cv2.GaussianBlur(filled, (0, 0), max(0.6, 0.02 * _size(points))), np.float32)
    _blend(here, filled, np.maximum(gone, _feather(wide)))


def _feather(mask: NDArray[np.uint8]) -> NDArray[np.float32]:
    return np.asarray(cv2.GaussianBlur(mask.astype(np.float32), (0, 0), 1.0), np.float32)


def _blend(here: Rgb, new: NDArray[np.float32], weight: NDArray[np.float32]) -> None:
    mixed = here + weight[..., None] * (new - here)
    here[...] = np.clip(np.round(mixed), 0, 255).astype(np.uint8)


def _cover(rgb: Rgb, points: NDArray[np.float64], value: float) -> None:
    """One plain tone of this L*, in the colour the area has on the whole."""
    part = _Part.around(points, 2, rgb.shape)
    if part.empty:
        return
    here, weight = part.of(rgb), outline_mask(points, part)
    if weight.sum() <= 0:
        return
    mean = (LINEAR[here] * weight[..., None]).sum((0, 1)) / weight.sum()
    _blend(here, plain_tone(mean, value), weight)


def plain_tone(linear: NDArray[np.float64], value: float) -> NDArray[np.float32]:
    """sRGB (3,) of one L* in the hue of a linear colour (3,); what no screen shows is led toward grey."""
    wanted = float(luminance_of_lightness(value))
    grey = np.full(3, wanted)
    luminance = float(linear @ WEIGHTS)
    tinted = linear * (wanted / luminance) if luminance > 1e-6 else grey
    top = float(tinted.max())
    if top > 1:
        tinted = grey + (tinted - grey) * (1 - wanted) / (top - wanted)
    return to_bytes(tinted).astype(np.float32)


def _soft_part(rgb: Rgb, points: NDArray[np.float64]) -> tuple[Rgb, NDArray[np.float32]]:
    """The window of the picture round an area, and the area's weight in it, with a soft edge."""
    soft = SOFT_EDGE * _size(points)
    part = _Part.around(points, 3 * soft + 2, rgb.shape)
    if part.empty:
        return part.of(rgb), np.zeros((0, 0), np.float32)
    return part.of(rgb), outline_mask(points, part, soft)


def _lose_detail(rgb: Rgb, points: NDArray[np.float64]) -> None:
    here, weight = _soft_part(rgb, points)
    if here.size:
        _blend(here, blurred(here, max(1.0, LOST_DETAIL * _size(points))).astype(np.float32), weight)


def _shift_lightness(rgb: Rgb, points: NDArray[np.float64], by: float) -> None:
    here, weight = _soft_part(rgb, points)
    if here.size:
        values = lightness(here).astype(np.float64)
        _give_lightness(here, values, values + weight * by)


def _stretch_contrast(rgb: Rgb, points: NDArray[np.float64], share: float) -> None:
    """More contrast about the area's own mean for a share above 0, less for one below."""
    here, weight = _soft_part(rgb, points)
    if here.size:
        values = lightness(here).astype(np.float64)
        mean = float((values * weight).sum() / max(float(weight.sum()), 1e-9))
        _give_lightness(here, values, values + share * weight * (values - mean))


def _grade(rgb: Rgb, points: NDArray[np.float64], value: float) -> None:
    """Darker by ``value`` at the beginning of the line and beyond, fading to nothing at its end."""
    start, end = points[0], points[-1]
    way = end - start
    long = float(way @ way)
    if long <= 0:
        return
    rows, columns = np.mgrid[: rgb.shape[0], : rgb.shape[1]]
    along = ((columns + 0.5 - start[0]) * way[0] + (rows + 0.5 - start[1]) * way[1]) / long
    fade = np.clip(1 - along, 0, 1)
    values = lightness(rgb).astype(np.float64)
    _give_lightness(rgb, values, values - value * fade * fade * (3 - 2 * fade))


def _give_lightness(here: Rgb, values: NDArray[np.float64], wanted: NDArray[np.float64]) -> None:
    """Change L* and keep the hue; what gets too light for it is led toward white."""
    factor = luminance_of_lightness(np.clip(wanted, 0, 100)) / np.maximum(luminance_of_lightness(values), 1e-9)
    linear = LINEAR[here] * factor[..., None]
    over = np.maximum(linear.max(-1) - 1, 0)[..., None]
    here[...] = to_bytes(np.clip(linear + over * (linear.max(-1, keepdims=True) - linear) / 2, 0, 1))


def _carry_on(rgb: Rgb, points: NDArray[np.float64], size: float) -> None:
    """A line from the first point to the last in the tone it starts from."""
    height, width = rgb.shape[:2]
    thick = max(1, round(size * LINE_WIDTH * hypot(height, width)))
    x, y = (int(np.clip(v, 0, n - 1)) for v, n in zip(points[0], (width, height), strict=True))
    reach = max(1, thick // 2)
    start = rgb[max(0, y - reach) : y + reach + 1, max(0, x - reach) : x + reach + 1]
    tone = np.median(start.reshape(-1, 3), axis=0)
    ends = np.round((points[[0, -1]] - 0.5) * 16).astype(int)
    cv2.line(rgb, ends[0].tolist(), ends[1].tolist(), tone.tolist(), thick, cv2.LINE_AA, 4)


def _put(rgb: Rgb, departure: Departure, scale: tuple[float, float], source: Rgb, source_scale: float) -> None:
    """Lay an element into the picture: cut out by its outline, sized, mirrored, its rim a little soft."""
    target = _array(departure.placed()) * scale
    part = _Part.around(target, 2, rgb.shape)
    if part.empty:
        return
    left, top, right, bottom = departure.bounds
    middle = np.array([(left + right) / 2, (top + bottom) / 2]) * source_scale
    side = -1.0 if departure.mirrored else 1.0
    grow = departure.size * scale[0] / source_scale
    # From the window's pixels back to the source's: both counted from pixel middles.
    at = np.array([departure.x_px * scale[0], departure.y_px * scale[1]]) - (part.left, part.top)
    back = np.array([[side / grow, 0, 0], [0, 1 / grow, 0]])
    back[:, 2] = middle - 0.5 - back[:, :2] @ (at - 0.5)
    if grow < 0.6:
        source = np.asarray(cv2.GaussianBlur(source, (0, 0), 0.4 / grow), np.uint8)
    size = (part.right - part.left, part.bottom - part.top)
    flags = cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP
    laid = cv2.warpAffine(source, back, size, flags=flags, borderMode=cv2.BORDER_REPLICATE)
    _blend(part.of(rgb), laid.astype(np.float32), outline_mask(target, part, 0.7))


def _array(points: tuple[Point, ...]) -> NDArray[np.float64]:
    return np.array(points, np.float64)


# How each row of the table of kinds is painted; a row that names another way fails at once.
PAINTERS: dict[str, Callable[[_Painting, Departure], None]] = {
    "flatten": lambda on, each: _leave_out(on.rgb, on.points(each)),
    "cover": lambda on, each: _cover(on.rgb, on.points(each), each.value),
    "darken": lambda on, each: _shift_lightness(on.rgb, on.points(each), -each.value),
    "lighten": lambda on, each: _shift_lightness(on.rgb, on.points(each), each.value),
    "quieten": lambda on, each: _stretch_contrast(on.rgb, on.points(each), -each.value / 100),
    "sharpen": lambda on, each: _stretch_contrast(on.rgb, on.points(each), each.value / 100),
    "grade": lambda on, each: _grade(on.rgb, on.points(each), each.value),
    "blur": lambda on, each: _lose_detail(on.rgb, on.points(each)),
    "carry on": lambda on, each: _carry_on(on.rgb, on.points(each), each.size),
    "straighten": lambda on, each: straightened(on.rgb, on.points(each)),
    "move": _move,
    "lay in": _lay_in,
}
