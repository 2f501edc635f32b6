"""A stage worked out for its study: which lines are seen and which are behind, the shadows, all in photo pixels."""

from __future__ import annotations

from dataclasses import dataclass
from threading import Lock
from typing import TYPE_CHECKING

import numpy as np
import shapely

from mild_compass.craft.memo import Memo
from mild_compass.craft.stage.body import MOST_CORNERS
from mild_compass.craft.stage.hidden import Parts, before_the_eye, faces_before_the_eye, seen_parts
from mild_compass.craft.stage.light import CastShadow, Lit, light_up
from mild_compass.craft.stage.scene import (
    Edges,
    Faces,
    Scene,
    on_circles,
    on_picture,
    scene_of,
)
from mild_compass.craft.stage.screens import with_screens
from mild_compass.craft.stage.visibility_update import updated_visibility
from mild_compass.craft.stage.water import reflected_lines, waters

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from mild_compass.craft.perspective.camera import Camera
    from mild_compass.plan.guides import Light
    from mild_compass.plan.stage import Stage

    Array = NDArray[np.float64]

GROUND_REACH_M = 400.0
SPECK_PX = 0.2  # a line shorter than that is rounding
FINE = 6  # points along a chord of a circle
ON_BORDER = 1e-5  # of a shadow's size: nearer than that to its receiver's border, an edge is that border


@dataclass(frozen=True, eq=False, slots=True)
class ThingLines:
    """One thing's lines as polylines (k, 2) in photo pixels: what is seen of it, what is behind."""

    seen: tuple[Array, ...]
    behind: tuple[Array, ...]


@dataclass(frozen=True, eq=False, slots=True)
class Staged:
    """The lines of all things in order; what is seen of them in water and the edges of the shadows that are seen, None
    while those are not known."""

    things: tuple[ThingLines, ...]
    reflections: tuple[Array, ...] | None = None
    shadows: tuple[Array, ...] | None = None


@dataclass(frozen=True, eq=False, slots=True)
class Lighted:
    """A scene's faces before the eye and how they are lit."""

    scene: Scene
    faces: Faces
    lit: Lit


_STAGED: Memo[Staged] = Memo(12)
_LIGHTED: Memo[Lighted] = Memo(6)
_SHADOWS: Memo[tuple[Array, ...]] = Memo(6)
_REFLECTIONS: Memo[tuple[Array, ...]] = Memo(6)
_LIGHTING = Lock()


def _key(camera: Camera) -> tuple[object, ...]:
    return camera.focal.px, camera.centre_px, camera.eye_m, tuple(camera.axes.ravel().tolist())


def staged(stage: Stage, camera: Camera) -> Staged:
    """The lines of a stage; kept, so that what has not changed is not worked out twice."""
    return _STAGED.of(stage, _key(camera), lambda: _work_out(stage, camera))


def shadow_lines(stage: Stage, camera: Camera, light: Light) -> tuple[Array, ...]:
    """The edges of the cast shadows that are seen, as polylines in photo pixels; kept likewise."""
    if light.kind == "none":
        return ()
    return _SHADOWS.of(stage, (_key(camera), light), lambda: _shadow_edges(stage, lighted(stage, camera, light)))


def reflections(stage: Stage, camera: Camera) -> tuple[Array, ...]:
    """What is seen of all things in still water, as polylines in photo pixels; kept likewise."""
    if not waters(stage):
        return ()

    def make() -> tuple[Array, ...]:
        scene = scene_of(stage, camera)
        return reflected_lines(stage, scene, with_screens(stage, scene, faces_before_the_eye(scene.faces)))

    return _REFLECTIONS.of(stage, _key(camera), make)


def lighted(stage: Stage, camera: Camera, light: Light) -> Lighted:
    """The stage's faces in its light; kept likewise."""

    def make() -> Lighted:
        scene = scene_of(stage, camera)
        faces = faces_before_the_eye(scene.faces)
        return Lighted(scene, faces, light_up(scene, faces, ground_of(scene), light))

    with _LIGHTING:  # two that ask at one time wait for one answer
        return _LIGHTED.of(stage, (_key(camera), light), make)


def ground_of(scene: Scene) -> Faces:
    """The piece of level ground before the eye, as one face."""
    far = GROUND_REACH_M
    corners = np.array([[-far, -far, 0.0], [far, -far, 0.0], [far, far, 0.0], [-far, far, 0.0]])
    local = (corners - (0, 0, scene.camera.eye_m)) @ scene.camera.axes.T
    padded = np.concatenate([local, np.repeat(local[-1:], MOST_CORNERS - 4, 0)])[None]
    none = np.array([-1])
    up = scene.up[None].copy()
    bent = np.repeat(up[:, None], MOST_CORNERS, 1)
    return faces_before_the_eye(Faces(padded, up, np.zeros(1), none, np.array([False]), none, bent))


def quick_lines(stage: Stage, camera: Camera) -> Array:
    """All lines of a stage, seen or not, as segments (n, 2, 2) in photo pixels: for what is in the hand."""
    edges = before_the_eye(scene_of(stage, camera).edges)
    return on_picture(edges.ends.reshape(-1, 3), camera).reshape(-1, 2, 2)


def _work_out(stage: Stage, camera: Camera) -> Staged:
    scene = scene_of(stage, camera)
    edges, parts = updated_visibility(
        stage, scene, (_key(camera), stage.eye_x_m, stage.eye_y_m, stage.heading_deg, stage.screens)
    )
    return Staged(_by_thing(edges, parts, scene, len(stage.things)))


def _by_thing(edges: Edges, parts: Parts, scene: Scene, count: int) -> tuple[ThingLines, ...]:
    owners = edges.things[parts.edges]
    ends = _ends_of(edges, parts)
    spots = on_picture(ends.reshape(-1, 3), scene.camera).reshape(-1, 2, 2)
    straight = (edges.curves[parts.edges] < 0) & (edges.rounds[parts.edges] < 0)
    outline = edges.rounds[parts.edges] >= 0
    curved = np.flatnonzero(edges.curves[parts.edges] >= 0)
    found: list[dict[bool, list[Array]]] = [{True: [], False: []} for _ in range(count)]
    for k in np.flatnonzero(straight).tolist():
        found[owners[k]][bool(parts.seen[k])].append(spots[k])
    for number in np.unique(owners[outline]).tolist():
        mine = outline & (owners == number)
        # What is behind of a round outline is no construction line anybody draws.
        found[number][True] += _merged(spots[mine & parts.seen])
    for owner, seen, line in _arcs(edges, parts, curved, scene):
        found[owner][seen].append(line)
    return tuple(ThingLines(_drawable(each[True]), _drawable(each[False])) for each in found)


def _drawable(lines: list[Array]) -> tuple[Array, ...]:
    """Without specks too short for any pencil."""
    if not lines:
        return ()
    starts = np.cumsum([0, *(len(line) for line in lines[:-1])])
    spots = np.concatenate(lines)
    size = np.maximum.reduceat(spots, starts) - np.minimum.reduceat(spots, starts)
    drawn = np.asarray((size > SPECK_PX).any(1))
    return tuple(line for line, long in zip(lines, drawn.tolist(), strict=True) if long)


def _ends_of(edges: Edges, parts: Parts) -> Array:
    ends = edges.ends[parts.edges]
    way = ends[:, 1] - ends[:, 0]
    return np.stack([ends[:, 0] + parts.shares[:, :1] * way, ends[:, 0] + parts.shares[:, 1:] * way], 1)


def _merged(segments: Array) -> list[Array]:
    """Segments (n, 2, 2) that meet, as lines."""
    if not len(segments):
        return []
    lines = shapely.line_merge(shapely.multilinestrings(shapely.linestrings(np.round(segments, 6))))
    return [shapely.get_coordinates(line) for line in shapely.get_parts(lines)]


def _arcs(edges: Edges, parts: Parts, curved: NDArray[np.intp], scene: Scene) -> list[tuple[int, bool, Array]]:
    """The seen and hidden arcs of circles, joined over their chords and drawn on the true circle."""
    if not len(curved):
        return []
    number = parts.edges[curved]
    along, curves, seen = edges.along[number], edges.curves[number], parts.seen[curved]
    way = along[:, 1] - along[:, 0]
    low, high = along[:, 0] + parts.shares[curved, 0] * way, along[:, 0] + parts.shares[curved, 1] * way
    broken = (curves[1:] != curves[:-1]) | (seen[1:] != seen[:-1]) | (np.abs(low[1:] - high[:-1]) >= 1e-6)
    firsts = np.flatnonzero(np.append(True, broken))
    lasts = np.append(firsts[1:], len(curved)) - 1
    counts = np.maximum(2, FINE * (lasts - firsts + 1) + 1)
    starts = np.cumsum(counts) - counts
    place = np.arange(counts.sum()) - np.repeat(starts, counts)
    begin, span = low[firsts], high[lasts] - low[firsts]
    angles = np.repeat(begin, counts) + place * np.repeat(span / (counts - 1), counts)
    spots = on_picture(on_circles(np.repeat(scene.circles[curves[firsts]], counts, 0), angles), scene.camera)
    lines = np.split(spots, starts[1:])
    owners, shown = edges.things[number[firsts]].tolist(), seen[firsts].tolist()
    return list(zip(owners, shown, lines, strict=True))


def _shadow_edges(stage: Stage, lighted: Lighted) -> tuple[Array, ...]:
    """The edges of cast shadows, but for where they run along the border of what they fall on."""
    faces = lighted.faces
    segments = [segment for cast in lighted.lit.shadows if _flat(cast, faces) for segment in _inner(cast, lighted)]
    if not segments:
        return ()
    ends = np.concatenate(segments)
    none = np.full(len(ends), -1)
    # Lifted by a hair towards the eye, so that what they lie on does not hide them.
    ends = ends * (1 - 1e-6)
    edges = before_the_eye(Edges(ends, none, none, np.zeros((len(ends), 2)), none, np.zeros(len(ends))))
    parts = seen_parts(edges, with_screens(stage, lighted.scene, faces))
    spots = on_picture(_ends_of(edges, parts).reshape(-1, 3), lighted.scene.camera).reshape(-1, 2, 2)
    return tuple(_merged(spots[parts.seen]))


def _flat(cast: CastShadow, faces: Faces) -> bool:
    """Shadows on round things are seen in values; their edges over the facets are no lines to draw."""
    return cast.face < 0 or bool(faces.rounds[cast.face] < 0)


def _inner(cast: CastShadow, lighted: Lighted) -> list[Array]:
    receiver = lighted.lit.ground.corners[0] if cast.face < 0 else lighted.faces.corners[cast.face]
    off = receiver - cast.plane.origin
    flat = np.column_stack([off @ cast.plane.across, off @ cast.plane.along])
    border = shapely.boundary(shapely.convex_hull(shapely.multipoints(flat)))
    near = ON_BORDER * max(1.0, float(np.ptp(flat, axis=0).max()))
    found = []
    for part in shapely.get_parts(cast.area):
        if part.geom_type != "Polygon":
            continue
        for ring in (part.exterior, *part.interiors):
            spots = shapely.get_coordinates(ring)
            middles = shapely.points((spots[1:] + spots[:-1]) / 2)
            inside = shapely.distance(middles, border) > near
            space = cast.plane.to_space(spots)
            found.append(np.stack([space[:-1], space[1:]], 1)[inside])
    return found
