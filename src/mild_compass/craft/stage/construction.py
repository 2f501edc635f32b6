"""Construction lines of the things on a stage: on to their points, height lines, diagonals; drawn lightly, then lifted.

Everything is laid out in metres and seen as the things themselves are; common practice, from any handbook of
perspective.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from mild_compass.craft.stage.scene import from_eye, places_of, turn_of
from mild_compass.plan.stage import row_of

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from mild_compass.craft.perspective.camera import Camera
    from mild_compass.plan.stage import Stage, Thing

    Array = NDArray[np.float64]

FAR_M = 1e6  # so far on a line that it ends at its point, as near as any pencil can tell
LEVEL = 1e-3  # of a direction: one so nearly across the line of sight has no point on any paper
LEAST_ROW = 3  # two things have no rhythm to construct


def construction(stage: Stage, camera: Camera) -> tuple[tuple[Array, ...], ...]:
    """Of each thing its construction lines as segments (2, 2) in photo pixels, what lies behind the eye left out."""
    return tuple(_seen(stage, camera, _lines(stage, camera, thing)) for thing in stage.things)


def corners_of(stage: Stage, thing: Thing) -> Array:
    """Feet of its four corners on the plan with their height (4, 3), the one nearest to the eye first, then round."""
    w, d = thing.width_m / 2, thing.depth_m / 2
    flat = np.array([[-w, -d], [w, -d], [w, d], [-w, d]]) @ turn_of(thing)[:2, :2].T + (thing.x_m, thing.y_m)
    nearest = int(np.hypot(*from_eye(stage, flat).T).argmin())
    return np.column_stack([np.roll(flat, -nearest, 0), np.full(4, thing.base_m)])


def _seen(stage: Stage, camera: Camera, segments: list[Array]) -> tuple[Array, ...]:
    if not segments:
        return ()
    ends = from_eye(stage, np.concatenate(segments)).reshape(-1, 2, 3)
    spots = camera.seen(camera.in_front(ends).reshape(-1, 3)).reshape(-1, 2, 2)
    return tuple(spots[np.isfinite(spots).all((1, 2))])


def _lines(stage: Stage, camera: Camera, thing: Thing) -> list[Array]:
    if thing.count >= LEAST_ROW:
        return _row(stage, camera, thing)
    if thing.count == 1 and row_of(thing.kind).square:
        return [*_box(stage, camera, thing), *_gable(thing)]
    return []


def _box(stage: Stage, camera: Camera, thing: Thing) -> list[Array]:
    """From the nearest upright's foot and top on to both points."""
    feet = corners_of(stage, thing)
    tops = feet + np.array([0, 0, thing.height_m])
    lines = [_onward(stage, camera, level[0], level[k]) for level in (feet, tops) for k in (1, 3)]
    return [line for line in lines if line is not None]


def _onward(stage: Stage, camera: Camera, start: Array, towards: Array) -> Array | None:
    """A line through two places on to its point; None where it has none before the eye."""
    way = towards - start
    size = float(np.linalg.norm(way))
    if size < 1e-9:
        return None
    way = way / size
    first, second = from_eye(stage, np.stack([start, start + way]))
    ahead = float((second - first) @ camera.axes[2])
    if abs(ahead) < LEVEL:
        return None
    return np.stack([start if ahead > 0 else towards, start + np.sign(ahead) * FAR_M * way])


def _gable(thing: Thing) -> list[Array]:
    """The diagonals of both gable walls, and the upright through their crossing on which the ridge ends."""
    if not row_of(thing.kind).roofed or thing.roof != "gable":
        return []
    turn = turn_of(thing)
    w, foot, eaves = thing.width_m / 2, thing.base_m, thing.base_m + thing.height_m
    ridge = eaves + w * float(np.tan(np.radians(thing.pitch_deg)))
    found = []
    for y in (-thing.depth_m / 2, thing.depth_m / 2):
        wall = np.array([
            [[-w, y, foot], [w, y, eaves]], [[w, y, foot], [-w, y, eaves]], [[0, y, foot], [0, y, ridge]],
        ])  # fmt: skip
        found += list(wall @ turn.T + (thing.x_m, thing.y_m, 0.0))
    return found


def _row(stage: Stage, camera: Camera, thing: Thing) -> list[Array]:
    """The line of the feet and the line of the tops, on to their point; and for upright things the diagonals that
    space them: from a top through the next one's middle to the foot after it."""
    places = places_of(thing)
    feet = np.column_stack([places, np.full(len(places), thing.base_m)])
    tops = feet + np.array([0, 0, thing.height_m])
    levels = [feet] if row_of(thing.kind).flat else [feet, tops]
    found = []
    for level in levels:
        onward = _onward(stage, camera, level[0], level[-1])
        found.append(onward if onward is not None else level[[0, -1]])
    if len(levels) > 1:
        middles = (feet + tops) / 2
        found.append(middles[[0, -1]])
        found += [np.stack([tops[k], feet[k + 2]]) for k in range(len(feet) - 2)]
    return found
