"""What every guide looks like: polylines in photo pixels, and the number that matters."""

from __future__ import annotations

from dataclasses import dataclass, field
from math import asin, cos, degrees, hypot, isfinite, radians, sin
from typing import TYPE_CHECKING

import numpy as np

from mild_compass.craft.perspective.light import reflected_points, shadow_points
from mild_compass.craft.perspective.spacing import parted_points, posts_toward, spaced_by_three, spaced_points
from mild_compass.craft.perspective.things import silhouette

if TYPE_CHECKING:
    from collections.abc import Callable, Sequence

    from numpy.typing import NDArray

    from mild_compass.craft.perspective.camera import Camera
    from mild_compass.craft.perspective.horizon import HorizonLine
    from mild_compass.plan.guides import Guide, Light
    from mild_compass.plan.perspective import PerspectivePlan
    from mild_compass.plan.pictures import Point

    Array = NDArray[np.float64]

ROUND = 40  # points of a circle
_ANGLE = np.linspace(0, 2 * np.pi, ROUND + 1)
CIRCLE = np.stack([np.cos(_ANGLE), np.sin(_ANGLE), 0 * _ANGLE], 1)
BASE = np.array([[0, 0], [1, 0], [1, 1], [0, 1], [0, 0]], np.float64)  # of a box, in its two sides
MANY_POINTS = 20  # of a polyline: while the hand moves every other will do
FOOT_PX, FOOT_DEG = 2.0, 0.5  # a foot set down by hand is off by about that; how much off its point a row may run
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
    """A guide in the scene, in metres: blocks (k, n, 3) of k polylines, and of flat outlines that throw a shadow."""

    lines: list[Array]
    throws: list[Array]


def lines_of_guides(plan: PerspectivePlan, horizon: HorizonLine | None, camera: Camera | None) -> list[GuideLines]:
    """Every guide that is shown; one that cannot be drawn (above the horizon, say) has no lines and says why."""
    if camera is None or horizon is None:
        return []
    stood = [_stood(guide, plan, horizon, camera) for guide in plan.guides if guide.shown]
    return [
        GuideLines(
            each.guide, _seen(each.own, camera), _seen(each.shadow, camera), _seen(each.mirror, camera), each.words
        )
        for each in stood
    ]


def quick_lines(plan: PerspectivePlan, horizon: HorizonLine | None, camera: Camera | None) -> Array:
    """All guides as loose segments (n, 2, 2) in photo pixels, without shadows, reflections and words.

    Everything is seen by the camera at once: this is done for every move while the horizon is dragged.
    """
    if camera is None or horizon is None:
        return np.zeros((0, 2, 2))
    stood = [_solid(guide, horizon, camera) for guide in plan.guides if guide.shown]
    blocks = [block for solid in stood if solid is not None for block in solid.lines]
    blocks = [block[:, ::2] if block.shape[1] > MANY_POINTS else block for block in blocks]
    if not blocks:
        return np.zeros((0, 2, 2))
    points = camera.seen(np.concatenate([block.reshape(-1, 3) for block in blocks]))
    lengths = np.repeat([block.shape[1] for block in blocks], [block.shape[0] for block in blocks])
    begins = np.ones(len(points), bool)
    begins[np.cumsum(lengths) - 1] = False  # the last point of a polyline begins no segment
    starts = np.flatnonzero(begins)
    segments = np.stack([points[starts], points[starts + 1]], 1)
    return np.asarray(segments[np.isfinite(segments[:, :, 0]).all(1)])


@dataclass(frozen=True, eq=False, slots=True)
class _Stood:
    """A guide in the scene: blocks of its own polylines, its shadow's and its reflection's, and its words."""

    guide: Guide
    words: str
    own: list[Array] = field(default_factory=list)
    shadow: list[Array] = field(default_factory=list)
    mirror: list[Array] = field(default_factory=list)


def _solid(guide: Guide, horizon: HorizonLine, camera: Camera) -> _Solid | None:
    """The guide in the scene; None where it cannot stand."""
    return SOLIDS[guide.kind](guide, horizon, camera) if _on_the_ground(guide, horizon) else None


def _on_the_ground(guide: Guide, horizon: HorizonLine) -> bool:
    return all(horizon.is_above(x, y) for x, y in ground_points(guide))


def _stood(guide: Guide, plan: PerspectivePlan, horizon: HorizonLine, camera: Camera) -> _Stood:
    solid = _solid(guide, horizon, camera)
    if solid is None and not _on_the_ground(guide, horizon):
        return _Stood(guide, "above the horizon: nothing stands on the ground there")
    if solid is None:
        return _Stood(guide, "where it cannot be drawn")
    shadow: list[Array] = []
    if guide.shadow and plan.light.kind != "none":
        shadow = _shadows_of(solid.throws, plan.light, camera)
    mirror: list[Array] = []
    if guide.reflected and plan.water_m is not None:
        mirror = [reflected_points(block.reshape(-1, 3), plan.water_m).reshape(block.shape) for block in solid.lines]
    return _Stood(guide, _words(guide, camera), solid.lines, shadow, mirror)


def ground_points(guide: Guide) -> list[tuple[float, float]]:
    """Those of its points that must lie on the ground."""
    points = list(guide.points)
    if guide.kind == "level line":
        return [points[0], *points[2:]]
    if guide.kind == "rectangle":
        (x0, y0), (x1, y1) = points[:2]
        return [((x0 + x1) / 2, max(y0, y1)), *points[2:]]
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


def _seen(blocks: list[Array], camera: Camera) -> tuple[Array, ...]:
    """Scene polylines as the camera sees them, broken where they pass behind the eye."""
    found: list[Array] = []
    for block in blocks:
        for points in camera.seen(block.reshape(-1, 3)).reshape(*block.shape[:2], 2):
            good = np.isfinite(points[:, 0])
            found += [points] if good.all() else _pieces(points, good)
    return tuple(found)


def _pieces(points: Array, good: NDArray[np.bool_]) -> list[Array]:
    """The runs of a polyline that are seen."""
    edges = np.flatnonzero(np.diff(np.concatenate([[False], good, [False]]).astype(int)))
    return [points[a:b] for a, b in zip(edges[::2], edges[1::2], strict=True) if b - a > 1]


def _shadows_of(blocks: list[Array], light: Light, camera: Camera) -> list[Array]:
    """What the outlines throw on the ground; the parts that would fall behind the light or the eye are left out."""
    found = []
    for outline in (outline for block in blocks for outline in block):
        fallen = shadow_points(outline, light, camera)
        fallen = fallen[np.isfinite(fallen[:, 0])]
        if len(fallen) > 1:
            found.append(fallen[None])
    return found


def _up(height_m: float) -> Array:
    return np.array([0.0, 0.0, height_m])


def _raised(points: Array, height_m: float) -> Array:
    """Points (n, 3) and the same so much higher (2, n, 3)."""
    both = np.empty((2, *points.shape))
    both[:] = points
    both[1, :, 2] += height_m
    return both


def _fence(feet: Array, height_m: float) -> _Solid:
    """Uprights on feet (n, 3), joined along the ground and along their tops."""
    both = _raised(feet, height_m)
    posts = both.transpose(1, 0, 2)
    return _Solid([posts, both], [posts])


# -- one function a kind --------------------------------------------------------------------------------------


def _figure(guide: Guide, _: HorizonLine, camera: Camera) -> _Solid | None:
    """A silhouette that faces the artist."""
    foot = camera.ground_of(guide.points[0])
    outline = silhouette(guide.thing) * guide.height_m
    x, y, _z = foot.tolist()
    away = max(hypot(x, y), 1e-9)
    body = foot + outline @ np.array([[y / away, -x / away, 0], [0, 0, 1]])
    return _Solid([body[None]], [body[None]])


def _row(guide: Guide, horizon: HorizonLine, camera: Camera) -> _Solid | None:
    feet = feet_of_row(guide, horizon, camera)
    feet = feet[np.isfinite(feet[:, 0])]
    if not len(feet):
        return None
    return _fence(feet, guide.height_m)


def feet_of_row(guide: Guide, horizon: HorizonLine, camera: Camera) -> Array:
    """Where the posts stand (n, 3): by a distance on the ground, or by two or three given ones."""
    if guide.spacing_m:
        first, second = _on_ground(guide.points[:2], camera)
        step = (second - first) * guide.spacing_m / max(float(np.linalg.norm(second - first)), 1e-9)
        return np.asarray(first + np.arange(guide.count)[:, None] * step)
    aim = _aim(guide, horizon)
    if aim is not None:
        feet_px = posts_toward(guide.points[:3], aim, guide.count)
    elif len(guide.points) > 2:
        feet_px = spaced_by_three(guide.points[0], guide.points[1], guide.points[2], guide.count)
    else:
        feet_px = spaced_points(guide.points[0], guide.points[1], _toward(guide, horizon), guide.count)
    return _on_ground(feet_px.tolist(), camera)


def _aim(guide: Guide, horizon: HorizonLine) -> Array | None:
    """The known point that a row runs to: the one its feet point at, as nearly as they are set down by hand."""
    feet = np.array(guide.points[:3])
    way, middle = feet[-1] - feet[0], feet.mean(0)
    length = float(np.hypot(*way))
    best, found = FOOT_DEG + degrees(3 * FOOT_PX / max(length, 1e-9)), None
    for aim in horizon.aims:
        toward = aim[:2] - aim[2] * middle
        size = float(np.hypot(*toward)) * length
        if size > 0:
            off = degrees(asin(min(1.0, abs(float(toward[0] * way[1] - toward[1] * way[0])) / size)))
            if off < best:
                best, found = off, aim
    return found


def third_post(guide: Guide, horizon: HorizonLine) -> Point | None:
    """Where the third post of a row comes by the first two, in photo pixels; None behind the eye."""
    x, y = spaced_points(guide.points[0], guide.points[1], _toward(guide, horizon), 3)[2].tolist()
    return (x, y) if isfinite(x) else None


def _on_ground(points_px: Sequence[Sequence[float]], camera: Camera) -> Array:
    return np.array([camera.ground_of(point) for point in points_px])


def _toward(guide: Guide, horizon: HorizonLine) -> tuple[float, float, float]:
    """Where the line through the first two points meets the horizon, (x, y, w)."""
    (x0, y0), (x1, y1) = guide.points[:2]
    a, b, c = y0 - y1, x1 - x0, x0 * y1 - x1 * y0
    p, q, r = horizon.line.tolist()
    return b * r - c * q, c * p - a * r, a * q - b * p


def _division(guide: Guide, horizon: HorizonLine, camera: Camera) -> _Solid | None:
    marks = parted_points(guide.points[0], guide.points[1], _toward(guide, horizon), guide.count)
    feet = _on_ground([guide.points[0], *marks.tolist(), guide.points[1]], camera)
    if not np.isfinite(feet).all():
        return None
    return _fence(feet, guide.height_m)


def _level_line(guide: Guide, _: HorizonLine, camera: Camera) -> _Solid | None:
    """A height carried along the ground: foot and top, and where the same height comes to at a third place."""
    height = camera.height_of(guide.points[0], guide.points[1])
    if not isfinite(height) or height <= 0:
        return None
    feet = _on_ground([guide.points[0], *guide.points[2:]], camera)
    return _fence(feet, height)


def _rectangle(guide: Guide, _: HorizonLine, camera: Camera) -> _Solid | None:
    """A rectangle round a thing, facing the artist, carried along the ground to another place."""
    (x0, y0), (x1, y1) = guide.points[:2]
    low, high = max(y0, y1), min(y0, y1)
    left, right, foot = (camera.ground_of((x, low)) for x in (min(x0, x1), max(x0, x1), (x0 + x1) / 2))
    height = camera.height_of(((x0 + x1) / 2, low), ((x0 + x1) / 2, high))
    width = hypot(*(right - left)[:2].tolist())
    if not isfinite(height) or height <= 0 or not isfinite(width):
        return None
    frames = []
    for place in (foot, *(camera.ground_of(point) for point in guide.points[2:])):
        x, y, _z = place.tolist()
        half = width / 2 / max(hypot(x, y), 1e-9)
        across, up = y * half, x * half
        corners = [(-across, up, 0), (across, -up, 0), (across, -up, height), (-across, up, height), (-across, up, 0)]
        frames.append(place + np.array(corners))
    ties = [np.stack([frames[0][:4], frames[-1][:4]], 1)] if len(frames) > 1 else []
    outlines = np.array(frames)
    return _Solid([outlines, *ties], [outlines])


def _box(guide: Guide, _: HorizonLine, camera: Camera) -> _Solid | None:
    corner = camera.ground_of(guide.points[0])
    across, back = _turned(guide.turn_deg)
    right, behind = guide.width_m * across, guide.depth_m * back
    both = _raised(corner + BASE @ np.array([right, behind]), guide.height_m)
    floor, top = both
    lines = [both, both[:, :4].transpose(1, 0, 2)]
    throws = [top[None], np.stack([floor[:4], floor[1:], top[1:], top[:4], floor[:4]], 1)]
    if guide.gable:
        rise = _up(guide.rise_m)
        ridge = np.stack([(top[0] + top[1]) / 2 + rise, (top[2] + top[3]) / 2 + rise])
        gables = np.array([[top[0], ridge[0], top[1], top[0]], [top[3], ridge[1], top[2], top[3]]])
        # The middle of the wall by its diagonals, and the ridge's foot over it.
        middle = np.stack([(floor[0] + floor[1]) / 2, ridge[0]])
        lines += [np.stack([ridge, middle]), gables[:, :3]]
        throws.append(gables)
    return _Solid(lines, throws)


def _turned(turn_deg: float) -> tuple[Array, Array]:
    """Unit vectors on the ground: along the front, and back from it, turned clockwise as seen from above."""
    turn = radians(turn_deg)
    return np.array([cos(turn), sin(turn), 0.0]), np.array([-sin(turn), cos(turn), 0.0])


def circle_m(centre: Array, width_m: float) -> Array:
    """A level circle (ROUND + 1, 3) round a place of the scene."""
    return np.asarray(centre + CIRCLE * (width_m / 2))


def _circle(guide: Guide, _: HorizonLine, camera: Camera) -> _Solid | None:
    """On the ground; with a height also the same circle that high, as of a tub or a tower."""
    centre = camera.ground_of(guide.points[0])
    both = _raised(circle_m(centre, guide.width_m), guide.height_m)
    sides = both[:, : ROUND : ROUND // 4].transpose(1, 0, 2)
    return _Solid([both, sides], [both[1:]])


def _arch(guide: Guide, _: HorizonLine, camera: Camera) -> _Solid | None:
    """Two posts and a half circle over them, in an upright plane at any turn."""
    foot = camera.ground_of(guide.points[0])
    across, _back = _turned(guide.turn_deg)
    half = guide.width_m / 2
    bow = half * CIRCLE[: ROUND // 2 + 1]
    outline = np.empty((len(bow) + 2, 3))
    outline[1:-1] = foot + bow[:, :1] * across + bow[:, 1:2] * (0, 0, 1) + _up(guide.height_m)
    outline[0], outline[-1] = foot + half * across, foot - half * across
    return _Solid([outline[None]], [outline[None]])


def _floor(guide: Guide, _: HorizonLine, camera: Camera) -> _Solid | None:
    start = camera.ground_of(guide.points[0]) if guide.points else np.array([0.0, FLOOR_AHEAD_M, 0.0])
    across, back = _turned(guide.turn_deg)
    size, half = guide.width_m, guide.count / 2
    marks = np.arange(guide.count + 1)[:, None, None] * size
    along = np.array([[[0.0], [guide.count * size]]])
    going = start + (marks - half * size) * across + along * back
    lying = start + marks * back + (along - half * size) * across
    lines = camera.in_front(np.concatenate([going, lying]))
    return _Solid([lines], []) if len(lines) else None


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
