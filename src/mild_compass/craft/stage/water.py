"""Reflections in still water: everything above it once more, as far below it, seen only through its surface."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

import numpy as np
import shapely

from mild_compass.craft.stage.hidden import before_the_eye, faces_before_the_eye, seen_parts
from mild_compass.craft.stage.scene import joined_faces, on_picture, scene_of
from mild_compass.plan.stage import row_of

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from mild_compass.craft.stage.scene import Faces, Scene
    from mild_compass.plan.stage import Stage

    Array = NDArray[np.float64]


def waters(stage: Stage) -> dict[float, list[int]]:
    """The waters on a stage by how high they lie, lowest first: which things they are."""
    found: dict[float, list[int]] = {}
    for level_m, number in sorted(
        (thing.base_m, k) for k, thing in enumerate(stage.things) if row_of(thing.kind).mirrors
    ):
        found.setdefault(level_m, []).append(number)
    return found


def mirrored(stage: Stage, scene: Scene, level_m: float) -> Scene:
    """Everything mirrored in a level plane, as the camera has it: what an eye as far below the plane would see."""
    camera = scene.camera
    return scene_of(stage, replace(camera, axes=camera.axes * (1.0, 1.0, -1.0), eye_m=2 * level_m - camera.eye_m))


def flat_things(stage: Stage) -> list[int]:
    """Roads and waters themselves: they lie in the ground and have no image in it."""
    return [k for k, thing in enumerate(stage.things) if row_of(thing.kind).flat]


def reflected_lines(stage: Stage, scene: Scene, faces: Faces) -> tuple[Array, ...]:
    """What is seen in the waters, as polylines (k, 2) in photo pixels."""
    found: list[Array] = []
    flat = flat_things(stage)
    for level_m, mine in waters(stage).items():
        surfaces = faces.corners[np.isin(faces.things, mine)]
        outlines = [shapely.multipoints(on_picture(face, scene.camera)) for face in surfaces]
        surface = shapely.union_all(shapely.convex_hull(outlines))
        if shapely.is_empty(surface) or scene.camera.eye_m <= level_m:
            continue
        twin = mirrored(stage, scene, level_m)
        edges = before_the_eye(twin.edges.part(~np.isin(twin.edges.things, flat)))
        spots = on_picture(edges.ends.reshape(-1, 3), scene.camera).reshape(-1, 2, 2)
        edges = edges.part(shapely.intersects(shapely.linestrings(spots), shapely.envelope(surface)))
        images = faces_before_the_eye(twin.faces.part(~np.isin(twin.faces.things, flat)))
        # The things themselves stand before their images; none of their round parts is that of an image.
        real = replace(faces, rounds=np.full(len(faces), -1))
        parts = seen_parts(edges, joined_faces([images, real]), twin.up, twin.camera.eye_m - level_m)
        way = edges.ends[parts.edges]
        ends = way[:, :1] + parts.shares[..., None] * (way[:, 1:] - way[:, :1])
        spots = on_picture(ends[parts.seen].reshape(-1, 3), scene.camera).reshape(-1, 2, 2)
        if not len(spots):
            continue
        lines = shapely.line_merge(shapely.multilinestrings(shapely.linestrings(np.round(spots, 6))))
        inside = shapely.get_parts(shapely.intersection(lines, surface))
        found += [shapely.get_coordinates(part) for part in inside if part.geom_type == "LineString" and part.length]
    return tuple(found)
