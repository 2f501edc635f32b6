"""How the viewfinder moves: by hand, by its handles, by arrow keys, turned and flipped, as the sheet allows.

A frame stays on the photo unless it may reach ``beyond`` it; one that is beyond already is not pulled back.
"""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING, Literal

import numpy as np

from mild_compass.plan.framing import (
    LARGEST_SHARE,
    SMALLEST_SHARE,
    about,
    corners,
    fitted,
    is_beyond,
    on_photo,
    stretch_of,
    widest_px,
)
from mild_compass.plan.paper import Paper
from mild_compass.plan.pictures import Ground, Point
from mild_compass.plan.study import STRETCH, Frame

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from mild_compass.plan.study import Proportion

Handle = Literal["top left", "top", "top right", "right", "bottom right", "bottom", "bottom left", "left"]
PLACES: dict[Handle, tuple[float, float]] = {
    "top left": (-0.5, -0.5),
    "top": (0.0, -0.5),
    "top right": (0.5, -0.5),
    "right": (0.5, 0.0),
    "bottom right": (0.5, 0.5),
    "bottom": (0.0, 0.5),
    "bottom left": (-0.5, 0.5),
    "left": (-0.5, 0.0),
}


def moved(frame: Frame, dx_px: float, dy_px: float, photo: Ground, beyond: bool = False) -> Frame:
    """The frame shifted by so many pixels, stopped at the photo's edge; beyond it only the middle is held there."""
    x, y = frame.middle[0] + dx_px, frame.middle[1] + dy_px
    shifted = about(frame, (x, y), frame.width_px, frame.height_px)
    if not beyond and not is_beyond(frame, photo):
        return on_photo(shifted, photo)
    inside = (min(max(x, 0.0), float(photo.width_px)), min(max(y, 0.0), float(photo.height_px)))
    return about(frame, inside, frame.width_px, frame.height_px)


def handle_points(frame: Frame) -> dict[Handle, Point]:
    """Where the eight handles sit, in photo pixels."""
    axes, middle = _axes(frame), np.array(frame.middle)
    size = np.array([frame.width_px, frame.height_px])
    return {name: _point(middle + (np.array(place) * size) @ axes) for name, place in PLACES.items()}


def resized(
    frame: Frame, handle: Handle, x_px: float, y_px: float, photo: Ground, paper: Paper, beyond: bool = False
) -> Frame:
    """The frame with one handle dragged to a point: the opposite side or corner stays, the proportion is kept."""
    beyond = beyond or is_beyond(frame, photo)
    place, axes = np.array(PLACES[handle]), _axes(frame)
    anchor = np.array(frame.middle) - (place * (frame.width_px, frame.height_px)) @ axes
    wanted = np.abs(axes @ (np.array([x_px, y_px]) - anchor))
    size = _wanted_size(frame, place, wanted, photo, paper)
    room = 1.0 if beyond else _room(anchor, place, size, axes, photo)
    size = size * max(room, float((_smallest(photo, size) / size).max()))
    middle = _point(anchor + (place * size) @ axes)
    grown = about(frame, middle, float(size[0]), float(size[1]))
    return moved(grown, 0, 0, photo, True) if beyond else on_photo(grown, photo)


def _wanted_size(
    frame: Frame, place: NDArray[np.float64], wanted: NDArray[np.float64], photo: Ground, paper: Paper
) -> NDArray[np.float64]:
    """Width and height the hand asks for, as the frame's proportion allows."""
    old = np.array([frame.width_px, frame.height_px])
    if frame.proportion == "locked":
        width = float(np.array([wanted[0], wanted[1] * paper.ratio])[place != 0].max())
        return max(width, SMALLEST_SHARE * widest_px(photo, paper.ratio)) * np.array([1.0, 1 / paper.ratio])
    least = SMALLEST_SHARE * min(photo.width_px, photo.height_px)
    size = np.where(place != 0, np.maximum(wanted, least), old)
    if frame.proportion == "stretched":
        ratio = float(np.clip(size[0] / size[1], paper.ratio / (1 + STRETCH), paper.ratio / (1 - STRETCH)))
        # The side in hand leads where only one is in hand.
        size = np.array([size[0], size[0] / ratio]) if place[1] == 0 else np.array([size[1] * ratio, size[1]])
    return size


def _smallest(photo: Ground, size: NDArray[np.float64]) -> NDArray[np.float64]:
    ratio = float(size[0] / max(size[1], 1e-9))
    least = SMALLEST_SHARE * widest_px(photo, ratio)
    return np.array([least, least / max(ratio, 1e-9)])


def _room(
    anchor: NDArray[np.float64],
    place: NDArray[np.float64],
    size: NDArray[np.float64],
    axes: NDArray[np.float64],
    photo: Ground,
) -> float:
    """By how much (0-1) a frame anchored there must be smaller so that its corners stay on the photo."""
    least = 1.0
    for corner in ((-0.5, -0.5), (0.5, -0.5), (0.5, 0.5), (-0.5, 0.5)):
        step = ((place + corner) * size) @ axes
        for at, way, end in zip(anchor, step, (photo.width_px, photo.height_px), strict=True):
            if way > 1e-9:
                least = min(least, max(0.0, (end - at) / way))
            elif way < -1e-9:
                least = min(least, max(0.0, at / -way))
    return least


def scaled_about_centre(frame: Frame, width_px: float, photo: Ground, paper: Paper, beyond: bool = False) -> Frame:
    """The frame at another width, about its middle where the photo has room."""
    ratio = paper.ratio if frame.proportion == "locked" else frame.width_px / frame.height_px
    widest = widest_px(photo, ratio)
    beyond = beyond or is_beyond(frame, photo)
    width = min(max(width_px, SMALLEST_SHARE * widest), widest * (LARGEST_SHARE if beyond else 1))
    scaled = about(frame, frame.middle, width, width / ratio)
    return moved(scaled, 0, 0, photo, True) if beyond else on_photo(scaled, photo)


def turned_to(frame: Frame, degrees: float, photo: Ground, beyond: bool = False) -> Frame:
    """The frame turned about its middle, made smaller where its corners would leave the photo."""
    beyond = beyond or is_beyond(frame, photo)
    new = replace(frame, turn_deg=degrees)
    return new if beyond else on_photo(new, photo)


def flipped(frame: Frame) -> Frame:
    """Left and right changed over."""
    return replace(frame, flipped=not frame.flipped)


def with_proportion(frame: Frame, proportion: Proportion, photo: Ground, paper: Paper) -> Frame:
    """The frame with its proportion locked, free or stretched; what the sheet does not allow is fitted to it."""
    if proportion == "stretched" and abs(stretch_of(replace(frame, proportion="locked"), paper)) > STRETCH:
        frame = fitted(replace(frame, proportion="locked"), photo, paper)
    return fitted(replace(frame, proportion=proportion), photo, paper)


def shifted(frame: Frame, across: float, down: float, photo: Ground, beyond: bool = False) -> Frame:
    """The frame shifted by shares of its own width and height, as they lie on the sheet."""
    step = np.array([(-across if frame.flipped else across) * frame.width_px, down * frame.height_px]) @ _axes(frame)
    return moved(frame, float(step[0]), float(step[1]), photo, beyond)


def _axes(frame: Frame) -> NDArray[np.float64]:
    """Unit vectors (2, 2) along the frame's width and height, in photo pixels."""
    top_left, top_right, _, bottom_left = corners(frame)
    across = np.subtract(top_right, top_left) / frame.width_px
    return np.stack([across, np.subtract(bottom_left, top_left) / frame.height_px])


def _point(xy: NDArray[np.float64]) -> Point:
    return float(xy[0]), float(xy[1])
