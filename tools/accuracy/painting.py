"""Painting a scene as a camera sees it, then making it as bad as photos are: bow, blur, noise, leaves, JPEG."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import cv2
import numpy as np

if TYPE_CHECKING:
    from .cameras import KnownCamera
    from .worlds import World

NEAR_M, TIMES, ROOM = 0.1, 2, 0.35  # painted so many times as large, and by so much wider, for the bow
SKY = 225.0


@dataclass(frozen=True, slots=True)
class Spoilt:
    """How a picture is spoilt: blur and noise in pixels and grey levels, JPEG quality, leaves over a third of it."""

    blur_px: float = 0.6
    noise: float = 2.0
    quality: int = 85
    leaves: bool = False


def painted(world: World, camera: KnownCamera, hand: np.random.Generator, spoilt: Spoilt) -> np.ndarray:
    """The picture (h, w, 3), from the furthest face to the nearest."""
    width, height = camera.size_px
    room = ROOM if camera.k1 else 0.0
    wide, tall = round(width * (1 + 2 * room)) * TIMES, round(height * (1 + 2 * room)) * TIMES
    canvas = np.full((tall, wide), SKY, np.uint8)
    shift = np.array([room * width, room * height])
    for corners, grey, _ in sorted(world.faces, key=lambda face: _order(face, camera)):
        local = _before((corners - (0, 0, camera.eye_m)) @ camera.turn.T)
        if len(local) < 3:
            continue
        spots = local[:, :2] / local[:, 2:] * camera.focal_px + camera.centre_px + shift
        fixed = np.clip(np.round((spots * TIMES - 0.5) * 16), -(2**27), 2**27).astype(np.int32)
        cv2.fillPoly(canvas, [fixed], float(np.clip(grey, 3, 252)), cv2.LINE_AA, 4)
    if camera.k1:
        canvas = _as_the_lens_shows(canvas, camera, shift)
    picture = cv2.resize(canvas, (width, height), interpolation=cv2.INTER_AREA).astype(np.float32)
    if spoilt.leaves:
        _cover_with_leaves(picture, hand)
    picture = cv2.GaussianBlur(picture, (0, 0), max(spoilt.blur_px, 0.05))
    picture += hand.normal(0, spoilt.noise, picture.shape).astype(np.float32)
    packed = cv2.imencode(".jpg", np.clip(picture, 0, 255).astype(np.uint8), [cv2.IMWRITE_JPEG_QUALITY, spoilt.quality])
    grey = cv2.imdecode(packed[1], cv2.IMREAD_GRAYSCALE)
    return np.repeat(grey[..., None], 3, 2)


def _order(face: tuple[np.ndarray, float, int], camera: KnownCamera) -> tuple[int, float, int]:
    """Ground first; then by how far away; what lies on a face right after it."""
    corners, _, on = face
    if on < 0:
        return 0, 0.0, on
    middle = corners.mean(0) - (0, 0, camera.eye_m)
    return 1, -round(float(np.linalg.norm(middle[:2])), 6) if not on else -float(np.linalg.norm(middle[:2])), on


def _before(local: np.ndarray) -> np.ndarray:
    """A face cut off where it comes too near to the eye."""
    kept: list[np.ndarray] = []
    for k in range(len(local)):
        a, b = local[k], local[(k + 1) % len(local)]
        if a[2] >= NEAR_M:
            kept.append(a)
        if (a[2] - NEAR_M) * (b[2] - NEAR_M) < 0:
            kept.append(a + (NEAR_M - a[2]) / (b[2] - a[2]) * (b - a))
    return np.array(kept).reshape(-1, 3)


def _as_the_lens_shows(canvas: np.ndarray, camera: KnownCamera, shift: np.ndarray) -> np.ndarray:
    """The straight picture bowed: for each pixel of the photo the place of the straight one, by a table of radii."""
    width, height = camera.size_px
    x, y = np.meshgrid((np.arange(width * TIMES) + 0.5) / TIMES, (np.arange(height * TIMES) + 0.5) / TIMES)
    u, v = (x - camera.centre_px[0]) / camera.focal_px, (y - camera.centre_px[1]) / camera.focal_px
    far = np.hypot(u, v)
    radius = np.linspace(0, 2 * float(far.max()), 20_001)
    shown = radius * (1 + camera.k1 * radius**2)
    rising = np.append(True, np.diff(shown) > 0).cumprod().astype(bool)
    share = np.interp(far, shown[rising], radius[rising]) / np.maximum(far, 1e-9)
    at_x = ((u * share * camera.focal_px + camera.centre_px[0] + shift[0]) * TIMES - 0.5).astype(np.float32)
    at_y = ((v * share * camera.focal_px + camera.centre_px[1] + shift[1]) * TIMES - 0.5).astype(np.float32)
    return cv2.remap(canvas, at_x, at_y, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)


def _cover_with_leaves(picture: np.ndarray, hand: np.random.Generator) -> None:
    """Leaves over a third of the picture: small ovals of every turn and grey, in a few heaps."""
    height, width = picture.shape
    heap = np.zeros((height, width), np.uint8)
    while (heap > 0).mean() < 0.33:
        size = (int(hand.uniform(0.08, 0.25) * width), int(hand.uniform(0.08, 0.3) * height))
        middle = (int(hand.uniform(0, width)), int(hand.uniform(0, height)))
        cv2.ellipse(heap, middle, size, 0, 0, 360, 255, -1)
    rows, columns = np.nonzero(heap)
    for k in hand.integers(0, len(rows), 9000):
        axes = (int(hand.integers(3, 16)), int(hand.integers(2, 7)))
        grey = float(hand.uniform(20, 200))
        cv2.ellipse(
            picture, (int(columns[k]), int(rows[k])), axes, float(hand.uniform(0, 180)), 0, 360, grey, -1, cv2.LINE_AA
        )
