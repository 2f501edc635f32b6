"""How the viewfinder moves: by hand, by its handles, by arrow keys, always on the photo and in the sheet's ratio."""

from __future__ import annotations

from typing import Literal

from mild_compass.plan.framing import SMALLEST_SHARE, widest_px
from mild_compass.plan.model import Frame, Paper, Reference

Handle = Literal["top left", "top", "top right", "right", "bottom right", "bottom", "bottom left", "left"]


def moved(frame: Frame, dx_px: float, dy_px: float, photo: Reference) -> Frame:
    """The frame shifted by so many pixels, stopped at the photo's edge."""
    x = min(max(frame.x_px + dx_px, 0.0), photo.width_px - frame.width_px)
    y = min(max(frame.y_px + dy_px, 0.0), photo.height_px - frame.height_px)
    return Frame(x, y, frame.width_px, frame.height_px)


def handle_points(frame: Frame) -> dict[Handle, tuple[float, float]]:
    """Where the eight handles sit, in photo pixels."""
    left, top = frame.x_px, frame.y_px
    right, bottom = left + frame.width_px, top + frame.height_px
    middle_x, middle_y = (left + right) / 2, (top + bottom) / 2
    return {
        "top left": (left, top),
        "top": (middle_x, top),
        "top right": (right, top),
        "right": (right, middle_y),
        "bottom right": (right, bottom),
        "bottom": (middle_x, bottom),
        "bottom left": (left, bottom),
        "left": (left, middle_y),
    }


def resized(frame: Frame, handle: Handle, x_px: float, y_px: float, photo: Reference, paper: Paper) -> Frame:
    """The frame with one handle dragged to a point: the opposite side or corner stays, the ratio is kept."""
    ratio = paper.ratio
    anchor_x, anchor_y = _anchor(frame, handle)
    wanted_x, wanted_y = abs(x_px - anchor_x), abs(y_px - anchor_y) * ratio
    if handle in ("left", "right"):
        width = wanted_x
    elif handle in ("top", "bottom"):
        width = wanted_y
    else:
        width = max(wanted_x, wanted_y)
    width = min(width, _room(anchor_x, handle, "left", "right", photo.width_px))
    width = min(width, _room(anchor_y, handle, "top", "bottom", photo.height_px) * ratio)
    width = max(width, SMALLEST_SHARE * widest_px(photo, ratio))
    height = width / ratio
    x = anchor_x - width * _share(handle, "left", "right")
    y = anchor_y - height * _share(handle, "top", "bottom")
    return moved(Frame(x, y, width, height), 0, 0, photo)


def scaled_about_centre(frame: Frame, width_px: float, photo: Reference, paper: Paper) -> Frame:
    """The frame at another width, about its centre where the photo has room."""
    widest = widest_px(photo, paper.ratio)
    width = min(max(width_px, SMALLEST_SHARE * widest), widest)
    height = width / paper.ratio
    x, y = frame.x_px + (frame.width_px - width) / 2, frame.y_px + (frame.height_px - height) / 2
    return moved(Frame(x, y, width, height), 0, 0, photo)


def _anchor(frame: Frame, handle: Handle) -> tuple[float, float]:
    """The point that stays: the opposite corner, or the middle of the opposite side."""
    x = frame.x_px + frame.width_px * _share(handle, "left", "right")
    y = frame.y_px + frame.height_px * _share(handle, "top", "bottom")
    return x, y


def _share(handle: Handle, low: str, high: str) -> float:
    """Where the anchor sits between the low and the high side: opposite the handle, or half-way."""
    if low in handle.split():
        return 1.0
    return 0.0 if high in handle.split() else 0.5


def _room(anchor: float, handle: Handle, low: str, high: str, size: float) -> float:
    """How wide a frame anchored there can grow before it leaves the photo."""
    if low in handle.split():
        return anchor
    if high in handle.split():
        return size - anchor
    return 2 * min(anchor, size - anchor)
