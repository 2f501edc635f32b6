"""The stage as a picture in flat values: every face with what is its own, less where it is in half-light or shadow.

How much less is common practice, no published source: a thing's shadow is about half as light as its light.
"""

from __future__ import annotations

from dataclasses import dataclass
from types import MappingProxyType
from typing import TYPE_CHECKING

import cv2
import numpy as np

from mild_compass.craft.picture.load import Picture
from mild_compass.craft.picture.tone import grey_of_lightness
from mild_compass.craft.stage.hidden import faces_before_the_eye
from mild_compass.craft.stage.light import GROUND, HALF, Lit
from mild_compass.craft.stage.scene import from_eye, places_of, turn_of
from mild_compass.craft.stage.water import flat_things, mirrored, waters
from mild_compass.plan.stage import row_of

if TYPE_CHECKING:
    from collections.abc import Mapping

    from numpy.typing import NDArray

    from mild_compass.craft.stage.scene import Faces, Scene
    from mild_compass.plan.stage import Stage

    Array = NDArray[np.float64]

HALF_LIGHT, SHADOW, CORE, CAST = 0.8, 0.5, 0.42, 0.46  # of a face's own L*
CORE_TURN = -0.35  # on round things the shadow is darkest just past the turn; further on it gets light back
FINE = 16  # sub-pixels as OpenCV counts them: 4 bits
MIRROR = 0.75  # of what is seen in still water is reflection; the rest is the water's own value
NOTHING = -2  # the number of no face
BARE, MARKED = 3.0, 12.0  # L* darker than its paper: where a mark begins, and where it is all mark
PAPER_PERCENTILE = 90  # of the values within a sketch's outline: most of it is bare


@dataclass(frozen=True, eq=False, slots=True)
class Seen:
    """What is seen at each pixel (h, w): the number of the face, GROUND or NOTHING; and how near it is (1/m)."""

    faces: NDArray[np.int32]
    near: NDArray[np.float32]


def factors(turned: Array) -> Array:
    """Of each face's own value, what is left of it by its turn to the light."""
    return np.asarray(np.where(turned >= HALF, 1.0, np.where(turned > 0, HALF_LIGHT, SHADOW)))


def _round_off(values: Array, seen: Seen, faces: Faces, lit: Lit, scene: Scene, scale: float) -> None:
    """On round parts light, half-light, core shadow and shadow run as the surface turns, not facet by facet."""
    on = np.append(faces.rounds >= 0, (False, False))[seen.faces]  # GROUND and NOTHING count from the end
    rows, columns = np.nonzero(on)
    if lit.source is None or not len(rows):
        return
    numbers, which = np.unique(seen.faces[on], return_inverse=True)
    corners = faces.corners[numbers]
    towards = lit.source.towards(corners.reshape(-1, 3)).reshape(corners.shape)
    turned = (faces.bent[numbers] * towards).sum(2)
    spots = _pixels(corners, scene.camera.focal.px, scene.camera.centre_px, scale)
    middle = spots.mean(1)
    # As the turn changes over a facet, so over its picture: evenly.
    from_middle = np.concatenate([spots - middle[:, None], np.ones((*turned.shape, 1))], 2)
    plane = (np.linalg.pinv(from_middle) @ turned[..., None])[which, :, 0]
    x, y = columns + 0.5 - middle[which, 0], rows + 0.5 - middle[which, 1]
    turn = plane[:, 0] * x + plane[:, 1] * y + plane[:, 2]
    part = np.where((turn <= 0) & (turn > CORE_TURN), CORE, factors(turn))
    values[on] = faces.tones[numbers][which] * part


def seen_faces(
    faces: Faces,
    ground: Faces,
    scene: Scene,
    size: tuple[int, int],
    scale: float,
    without: NDArray[np.intp] | tuple[int, ...] = (),
) -> Seen:
    """Which face is seen where, on a picture of (height, width) whose pixels are ``scale`` of the ground's.

    The things numbered in ``without`` are looked through.
    """
    height, width = size
    numbers = np.full(size, NOTHING, np.int32)
    near = np.zeros(size, np.float32)
    columns, rows = np.arange(width) + 0.5, np.arange(height) + 0.5
    camera = scene.camera
    x = (columns / scale - camera.centre_px[0]) / camera.focal.px
    y = (rows / scale - camera.centre_px[1]) / camera.focal.px
    order = np.argsort(faces.laid_on, kind="stable")  # what lies on others comes after them
    order = order[~np.isin(faces.things[order], without)]
    corners = np.concatenate([ground.corners, faces.corners[order]])
    normals = np.concatenate([np.repeat(ground.normals[:1], len(ground), 0), faces.normals[order]])
    number_of = np.concatenate([np.full(len(ground), GROUND), order])
    closer = np.concatenate([np.ones(len(ground)), np.where(faces.laid_on[order], 1.0 + 1e-4, 1.0)])
    away = (corners[:, 0] * normals).sum(1)
    spots = _pixels(corners, camera.focal.px, camera.centre_px, scale)
    left, top, right, foot = _windows(spots, size).T
    for k in np.flatnonzero((np.abs(away) >= 1e-12) & (right > left) & (foot > top)).tolist():
        down, across = slice(top[k], foot[k]), slice(left[k], right[k])
        mask = _within(spots[k], columns[across], rows[down])
        normal = normals[k]
        depth = ((normal[0] * x[across])[None] + (normal[1] * y[down])[:, None] + normal[2]) / away[k] * closer[k]
        there = near[down, across]
        nearer = mask & (depth > there)
        there[nearer] = depth[nearer]
        numbers[down, across][nearer] = number_of[k]
    return Seen(numbers, near)


def _windows(spots: Array, size: tuple[int, int]) -> NDArray[np.int64]:
    """The first and the last column and row (…, 4) of the picture, left, top, right and foot, that hold places
    (…, n, 2); the last one is not in it any more."""
    first = np.floor(np.clip(spots.min(-2), 0, size[::-1]))
    last = np.ceil(np.clip(spots.max(-2) + 1, 0, size[::-1]))
    return np.concatenate([first, last], -1).astype(np.int64)


def _window(spots: Array, size: tuple[int, int]) -> tuple[slice, slice] | None:
    """Rows and columns of the picture that hold these places; None where it holds none of them."""
    left, top, right, foot = _windows(spots, size).tolist()
    return (slice(top, foot), slice(left, right)) if right > left and foot > top else None


def _pixels(points: Array, focal_px: float, centre_px: tuple[float, float], scale: float) -> Array:
    return np.asarray((points[..., :2] / points[..., 2:] * focal_px + centre_px) * scale)


def _within(spots: Array, x: NDArray[np.floating], y: NDArray[np.floating]) -> NDArray[np.bool_]:
    """Which pixels' middles lie within a convex outline; exactly, so that the shares of the faces are right."""
    after = np.concatenate([spots[1:], spots[:1]])
    way = after - spots
    area = float((spots[:, 0] * after[:, 1] - spots[:, 1] * after[:, 0]).sum())
    found = np.ones((len(y), len(x)), bool)
    for (px, py), (dx, dy) in zip(spots.tolist(), (np.sign(area) * way).tolist(), strict=True):
        if dx or dy:
            found &= (dx * (y - py))[:, None] >= (dy * (x - px))[None]
    return found


def _fill(mask: NDArray[np.uint8], *rings: Array) -> None:
    """Fill outlines, holes left out; places are told from the pixels' corners, OpenCV counts from their middles."""
    limit = 1 << 24
    fine = [np.clip(np.round((ring - 0.5) * FINE), -limit, limit).astype(np.int32) for ring in rings]
    cv2.fillPoly(mask, fine, 255, shift=4)


def stage_picture(
    stage: Stage,
    scene: Scene,
    faces: Faces,
    lit: Lit,
    size_px: tuple[int, int],
    longest_px: int,
    sources: Mapping[str, Picture] = MappingProxyType({}),
) -> Picture:
    """The picture of a stage; ``size_px`` is width and height of the ground the study stands on.

    ``sources`` are the photos that cut-outs are of; one that is missing is painted in the thing's own value.
    """
    width_px, height_px = size_px
    scale = min(1.0, longest_px / max(width_px, height_px))
    size = max(1, round(height_px * scale)), max(1, round(width_px * scale))
    sketches = [k for k, thing in enumerate(stage.things) if thing.clear_paper and thing.source in sources]
    whole = seen_faces(faces, lit.ground, scene, size, scale)
    seen = seen_faces(faces, lit.ground, scene, size, scale, tuple(sketches)) if sketches else whole
    own = np.concatenate([faces.tones * factors(lit.turned), [stage.sky_tone, stage.ground_tone]])
    values = own[seen.faces]  # NOTHING and GROUND count from the end: sky, then ground
    plain = np.concatenate([faces.tones, [stage.sky_tone, stage.ground_tone]])
    _round_off(values, seen, faces, lit, scene, scale)
    for number, thing in enumerate(stage.things):
        if row_of(thing.kind).pictured and thing.source in sources and not thing.clear_paper:
            _paint_cut_out(values, seen, faces, lit, (number, stage, scene, scale), sources[thing.source])
    for cast in lit.shadows:
        rings = [_pixels(ring, scene.camera.focal.px, scene.camera.centre_px, scale) for ring in cast.rings()]
        window = _window(np.concatenate(rings), size) if rings else None
        if window is None:
            continue
        rows, columns = window
        mask = np.zeros((rows.stop - rows.start, columns.stop - columns.start), np.uint8)
        _fill(mask, *(ring - (columns.start, rows.start) for ring in rings))
        there = seen.faces[rows, columns]
        dark = (mask > 0) & np.isin(there, _lying_on(cast.face, faces, lit.ground))
        values[rows, columns][dark] = np.minimum(values[rows, columns][dark], CAST * plain[there[dark]])
    for level_m, at_level in waters(stage).items():
        _reflect(values, seen, faces, lit, (at_level, level_m, stage, scene, scale))
    for number in sketches:
        source = sources[stage.things[number].source]
        _paint_cut_out(values, whole, faces, lit, (number, stage, scene, scale), source)
    grey = grey_of_lightness(values.astype(np.float32))
    return Picture(np.repeat(grey[..., None], 3, 2), width_px, height_px)


def _paint_cut_out(
    values: Array, seen: Seen, faces: Faces, lit: Lit, where: tuple[int, Stage, Scene, float], source: Picture
) -> None:
    """The photo within a cut-out's outline, upright where it stands, darker where the light does not reach it."""
    number, stage, scene, scale = where
    thing, camera = stage.things[number], scene.camera
    outline = np.array(thing.points) * source.scale
    (left, top), (right, foot) = outline.min(0), outline.max(0)
    wide = thing.height_m * (right - left) / max(foot - top, 1e-9)
    flat = np.array([[-wide / 2, 0.0], [wide / 2, 0.0]]) @ turn_of(thing)[:2, :2].T
    for place in places_of(thing):
        low, high = thing.base_m, thing.base_m + thing.height_m
        ends = from_eye(stage, flat + place)
        space = np.array([[*ends[0], high], [*ends[1], high], [*ends[1], low], [*ends[0], low]])
        spots = camera.seen(space) * scale
        if not np.isfinite(spots).all():
            continue
        corners = np.array([[left, top], [right, top], [right, foot], [left, foot]])
        onto = cv2.getPerspectiveTransform(corners.astype(np.float32), spots.astype(np.float32))
        laid = cv2.warpPerspective(source.lightness, onto, values.shape[::-1], flags=cv2.INTER_AREA)
        mine = faces.things == number
        on = np.isin(seen.faces, np.flatnonzero(mine)) & _within(spots, *_middles(values.shape))
        lit_side = float(lit.turned[mine].max(initial=0.0))
        shown = laid[on] * (factors(np.array([lit_side]))[0])
        if thing.clear_paper:
            mark = np.clip((_paper(source, outline) - laid[on] - BARE) / (MARKED - BARE), 0, 1)
            shown = mark * shown + (1 - mark) * values[on]
        values[on] = shown


def _paper(source: Picture, outline: Array) -> float:
    """L* of the paper a sketch was made on: the light part of what its outline holds."""
    mask = np.zeros(source.lightness.shape, np.uint8)
    _fill(mask, outline)
    inside = source.lightness[mask > 0]
    return float(np.percentile(inside, PAPER_PERCENTILE)) if inside.size else 100.0


def _reflect(
    values: Array, seen: Seen, faces: Faces, lit: Lit, where: tuple[list[int], float, Stage, Scene, float]
) -> None:
    """In water what stands over it is seen once more: darks a little lighter, lights a little darker."""
    water, level_m, stage, scene, scale = where
    surface = np.isin(seen.faces, np.flatnonzero(np.isin(faces.things, water)))
    if not surface.any() or scene.camera.eye_m <= level_m:
        return
    twin = mirrored(stage, scene, level_m)
    images = faces_before_the_eye(twin.faces.part(~np.isin(twin.faces.things, flat_things(stage))))
    none = lit.ground.part(np.zeros(0, np.intp))
    below = seen_faces(images, none, scene, (values.shape[0], values.shape[1]), scale)
    turned = np.ones(len(images))
    if lit.source is not None:  # each as it is lit itself, not as its image would be
        middles = images.corners.mean(1) @ twin.camera.axes + (0, 0, twin.camera.eye_m - scene.camera.eye_m)
        turned = (
            (images.normals @ twin.camera.axes)
            @ scene.camera.axes.T
            * lit.source.towards(middles @ scene.camera.axes.T)
        ).sum(1)
    shown = np.concatenate([images.tones * factors(turned), [stage.sky_tone]])
    image = shown[np.where(below.faces[surface] >= 0, below.faces[surface], -1)]
    values[surface] = MIRROR * image + (1 - MIRROR) * values[surface]


def _middles(shape: tuple[int, ...]) -> tuple[NDArray[np.floating], NDArray[np.floating]]:
    return np.arange(shape[1]) + 0.5, np.arange(shape[0]) + 0.5


def _lying_on(face: int, faces: Faces, ground: Faces) -> NDArray[np.intp]:
    """A face, and what lies on it: doors share their wall's shadow, roads that of the ground."""
    on_ground = face == GROUND
    normal, at = (
        (ground.normals[0], ground.corners[0, 0]) if on_ground else (faces.normals[face], faces.corners[face, 0])
    )
    laid = np.flatnonzero(faces.laid_on) if on_ground or faces.rounds[face] < 0 else np.zeros(0, np.intp)
    flat = np.abs((faces.corners[laid, 0] - at) @ normal) < 1e-6
    return np.append(laid[flat & (faces.normals[laid] @ normal > 0.999)], face)
