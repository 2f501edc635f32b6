"""What every guide looks like: polylines in photo pixels, and the number that matters."""

from __future__ import annotations

from dataclasses import dataclass
from math import cos, radians, sin
from typing import TYPE_CHECKING

import numpy as np

from mild_compass.craft.perspective.light import reflected_points, shadow_points
from mild_compass.craft.perspective.spacing import parted_points, spaced_points
from mild_compass.craft.perspective.things import silhouette

if TYPE_CHECKING:
    from collections.abc import Callable

    from numpy.typing import NDArray

    from mild_compass.craft.perspective.camera import Camera
    from mild_compass.craft.perspective.horizon import HorizonLine
    from mild_compass.plan.guides import Guide, Light
    from mild_compass.plan.model import PerspectivePlan

    Array = NDArray[np.float64]

ROUND = 64  # points of a circle
ROOF = 0.42  # of the gable's width, from eaves to ridge: common practice, no published source
FLOOR_AHEAD_M = 1.5  # where the floor begins without a place of its own


@dataclass(frozen=True, eq=False, slots=True)
class GuideLines:
    """Polylines (n, 2) in photo pixels of the guide itself, of its shadow and its reflection; its words and place."""

    guide: Guide
    lines: tuple[Array, ...]
    shadow: tuple[Array, ...] = ()
    reflection: tuple[Array, ...] = ()
    words: str = ""


@dataclass(frozen=True, eq=False, slots=True)
class _Solid:
    """A guide in the scene: polylines (n, 3) in metres, and flat outlines that throw a shadow."""

    lines: list[Array]
    throws: list[Array]


def lines_of_guides(plan: PerspectivePlan, horizon: HorizonLine | None, camera: Camera | None) -> list[GuideLines]:
    """Every guide that is shown; one that cannot be drawn (above the horizon, say) has no lines and says why."""
    if camera is None or horizon is None:
        return []
    return [_drawn(guide, plan, horizon, camera) for guide in plan.guides if guide.shown]


def _drawn(guide: Guide, plan: PerspectivePlan, horizon: HorizonLine, camera: Camera) -> GuideLines:
    if any(not np.isfinite(point).all() for point in camera.on_ground(_ground_points(guide))):
        return GuideLines(guide, (), words="above the horizon: nothing stands on the ground there")
    solid = SOLIDS[guide.kind](guide, horizon, camera)
    if solid is None:
        return GuideLines(guide, (), words="cannot be drawn here")
    shadow: tuple[Array, ...] = ()
    if guide.shadow and plan.light.kind != "none":
        shadow = _seen([_shadow_of(outline, plan.light, camera) for outline in solid.throws], camera)
    mirror: tuple[Array, ...] = ()
    if guide.reflected and plan.water_m is not None:
        mirror = _seen([reflected_points(line, plan.water_m) for line in solid.lines], camera)
    return GuideLines(guide, _seen(solid.lines, camera), shadow, mirror, _words(guide, camera))


def _ground_points(guide: Guide) -> Array:
    """Those of its points that must lie on the ground."""
    points = np.array(guide.points, np.float64).reshape(-1, 2)
    if guide.kind == "level line":
        return points[[0, 2]] if len(points) > 2 else points[:1]
    if guide.kind == "rectangle":
        low = points[:2, 1].max()
        return np.array([[points[:2, 0].mean(), low], *points[2:]])
    return points


def _words(guide: Guide, camera: Camera) -> str:
    if guide.kind == "level line":
        tall = f"{camera.height_of(guide.points[0], guide.points[1]):.2f} m"
        return f"{guide.name} {tall}".strip()
    if guide.name:
        return guide.name
    if guide.kind == "figure":
        return f"{guide.thing} {guide.height_m:.2f} m" if guide.thing != "own" else f"{guide.height_m:.2f} m"
    return {"row": f"{guide.count} posts", "floor": f"squares of {guide.width_m:g} m"}.get(guide.kind, "")


def _seen(lines: list[Array], camera: Camera) -> tuple[Array, ...]:
    """Scene polylines as the camera sees them, broken where they pass behind the eye."""
    found: list[Array] = []
    for line in lines:
        points = camera.seen(line)
        good = np.isfinite(points).all(1)
        edges = np.flatnonzero(np.diff(np.concatenate([[False], good, [False]]).astype(int)))
        found += [points[a:b] for a, b in zip(edges[::2], edges[1::2], strict=True) if b - a > 1]
    return tuple(found)


def _shadow_of(outline: Array, light: Light, camera: Camera) -> Array:
    fallen = shadow_points(outline, light, camera)
    return np.asarray(fallen[np.isfinite(fallen).all(1)].reshape(-1, 3))


def _up(height_m: float) -> Array:
    return np.array([0.0, 0.0, height_m])


def _upright(foot: Array, height_m: float) -> Array:
    return np.stack([foot, foot + _up(height_m)])


# -- one function a kind --------------------------------------------------------------------------------------


def _figure(guide: Guide, _: HorizonLine, camera: Camera) -> _Solid | None:
    """A silhouette that faces the artist."""
    foot = camera.on_ground([guide.points[0]])[0]
    outline = silhouette(guide.thing) * guide.height_m
    away = foot[:2] / max(float(np.hypot(*foot[:2])), 1e-9)
    across = np.array([away[1], -away[0], 0.0])
    body = foot + outline[:, :1] * across + outline[:, 1:] * (0, 0, 1)
    return _Solid([body], [body])


def _row(guide: Guide, horizon: HorizonLine, camera: Camera) -> _Solid | None:
    feet_px = spaced_points(guide.points[0], guide.points[1], _toward(guide, horizon), guide.count)
    feet = camera.on_ground(feet_px)
    feet = feet[np.isfinite(feet).all(1)]
    posts = [_upright(foot, guide.height_m) for foot in feet]
    rails = [feet, feet + _up(guide.height_m)]
    return _Solid([*posts, *rails], posts)


def _toward(guide: Guide, horizon: HorizonLine) -> Array:
    """Where the line through the first two points meets the horizon, (x, y, w)."""
    first, second = (np.array([*point, 1.0]) for point in guide.points[:2])
    return np.cross(np.cross(first, second), horizon.line)


def _division(guide: Guide, horizon: HorizonLine, camera: Camera) -> _Solid | None:
    marks = parted_points(guide.points[0], guide.points[1], _toward(guide, horizon), guide.count)
    feet = camera.on_ground(np.concatenate([[guide.points[0]], marks, [guide.points[1]]]))
    if not np.isfinite(feet).all():
        return None
    posts = [_upright(foot, guide.height_m) for foot in feet]
    return _Solid([feet, feet + _up(guide.height_m), *posts], posts)


def _level_line(guide: Guide, _: HorizonLine, camera: Camera) -> _Solid | None:
    """A height carried along the ground: foot and top, and where the same height comes to at a third place."""
    height = camera.height_of(guide.points[0], guide.points[1])
    if not np.isfinite(height) or height <= 0:
        return None
    feet = camera.on_ground([guide.points[0], *guide.points[2:]])
    posts = [_upright(foot, height) for foot in feet]
    return _Solid([*posts, feet, feet + _up(height)], posts)


def _rectangle(guide: Guide, _: HorizonLine, camera: Camera) -> _Solid | None:
    """A rectangle round a thing, facing the artist, carried along the ground to another place."""
    (x0, y0), (x1, y1) = guide.points[:2]
    low, high = max(y0, y1), min(y0, y1)
    left, right, foot = camera.on_ground([[min(x0, x1), low], [max(x0, x1), low], [(x0 + x1) / 2, low]])
    height = camera.height_of(((x0 + x1) / 2, low), ((x0 + x1) / 2, high))
    width = float(np.hypot(*(right - left)[:2]))
    if not np.isfinite(height) or height <= 0 or not np.isfinite(width):
        return None
    places = [foot, *camera.on_ground(guide.points[2:])] if len(guide.points) > 2 else [foot]
    frames = []
    for place in places:
        away = place[:2] / max(float(np.hypot(*place[:2])), 1e-9)
        half = np.array([away[1], -away[0], 0.0]) * width / 2
        up = _up(height)
        frames.append(np.stack([place - half, place + half, place + half + up, place - half + up, place - half]))
    ties = [np.stack([frames[0][k], frames[-1][k]]) for k in range(4)] if len(frames) > 1 else []
    return _Solid([*frames, *ties], frames)


def _box(guide: Guide, _: HorizonLine, camera: Camera) -> _Solid | None:
    corner = camera.on_ground([guide.points[0]])[0]
    across, back = _turned(guide.turn_deg)
    base = [corner, corner + guide.width_m * across]
    base += [base[1] + guide.depth_m * back, corner + guide.depth_m * back]
    floor = np.array([*base, base[0]])
    top = floor + _up(guide.height_m)
    lines = [floor, top, *(np.stack([floor[k], top[k]]) for k in range(4))]
    throws = [top, *(np.stack([floor[k], floor[k + 1], top[k + 1], top[k], floor[k]]) for k in range(4))]
    if guide.gable:
        rise = _up(ROOF * guide.width_m)
        ridge = np.stack([(top[0] + top[1]) / 2 + rise, (top[2] + top[3]) / 2 + rise])
        gables = [np.stack([top[a], ridge[k], top[b]]) for k, (a, b) in enumerate(((0, 1), (3, 2)))]
        # The middle of the wall by its diagonals, and the ridge's foot over it.
        middle = np.stack([(floor[0] + floor[1]) / 2, ridge[0]])
        lines += [ridge, *gables, middle]
        throws += [np.concatenate([each, each[:1]]) for each in gables]
    return _Solid(lines, throws)


def _turned(turn_deg: float) -> tuple[Array, Array]:
    """Unit vectors on the ground: along the front, and back from it, turned clockwise as seen from above."""
    turn = radians(turn_deg)
    return np.array([cos(turn), sin(turn), 0.0]), np.array([-sin(turn), cos(turn), 0.0])


def circle_m(centre: Array, width_m: float) -> Array:
    """A level circle (ROUND + 1, 3) round a place of the scene."""
    angle = np.linspace(0, 2 * np.pi, ROUND + 1)
    return np.asarray(centre + np.stack([np.cos(angle), np.sin(angle), np.zeros(ROUND + 1)], 1) * width_m / 2)


def _circle(guide: Guide, _: HorizonLine, camera: Camera) -> _Solid | None:
    """On the ground; with a height also the same circle that high, as of a tub or a tower."""
    centre = camera.on_ground([guide.points[0]])[0]
    round_ = circle_m(centre, guide.width_m)
    top = round_ + _up(guide.height_m)
    sides = [np.stack([round_[k], top[k]]) for k in range(0, ROUND, ROUND // 4)]
    return _Solid([round_, top, *sides], [top])


def _arch(guide: Guide, _: HorizonLine, camera: Camera) -> _Solid | None:
    """Two posts and a half circle over them, in an upright plane at any turn."""
    foot = camera.on_ground([guide.points[0]])[0]
    across, _back = _turned(guide.turn_deg)
    angle = np.linspace(0, np.pi, ROUND // 2 + 1)[:, None]
    middle = foot + _up(guide.height_m)
    half = guide.width_m / 2
    bow = middle + half * (np.cos(angle) * across + np.sin(angle) * (0, 0, 1))
    outline = np.concatenate([[foot + half * across], bow, [foot - half * across]])
    return _Solid([outline], [outline])


def _floor(guide: Guide, _: HorizonLine, camera: Camera) -> _Solid | None:
    start = camera.on_ground([guide.points[0]])[0] if guide.points else np.array([0.0, FLOOR_AHEAD_M, 0.0])
    across, back = _turned(guide.turn_deg)
    size, half = guide.width_m, guide.count / 2
    marks = np.arange(guide.count + 1)
    lines = []
    for k in marks:
        side = start + (k - half) * size * across
        lines.append(np.linspace(side, side + guide.count * size * back, 24))
        near = start + k * size * back
        lines.append(np.linspace(near - half * size * across, near + half * size * across, 24))
    return _Solid(lines, [])


SOLIDS: dict[str, Callable[[Guide, HorizonLine, Camera], _Solid | None]] = {
    "figure": _figure,
    "row": _row,
    "rectangle": _rectangle,
    "division": _division,
    "level line": _level_line,
    "box": _box,
    "circle": _circle,
    "arch": _arch,
    "floor": _floor,
}
