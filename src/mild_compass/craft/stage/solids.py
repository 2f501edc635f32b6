"""The kinds of things as bodies. Proportions are common practice, no published source, but where one is named."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from functools import lru_cache
from math import tan
from typing import TYPE_CHECKING

import numpy as np
import shapely

from mild_compass.craft.stage.body import Body
from mild_compass.plan.stage import MOST_CROWNS

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from mild_compass.plan.stage import Opening, Thing, ThingKind, WallSide

    Array = NDArray[np.float64]

DARKER_ROOF, DARK_OPENING, DARK_WHEEL = 25.0, 30.0, 25.0
HEADS = 8.0  # Vitruvius, De architectura III.1: the head is an eighth of the height
ROUND, SLIM = 40, 12  # sides of round things, of posts
# Each wall's left end as seen from outside, in half widths and depths, and the way along it.
_WALLS: dict[WallSide, tuple[tuple[int, int], tuple[int, int]]] = {
    "front": ((-1, -1), (1, 0)),
    "right": ((1, -1), (0, 1)),
    "back": ((1, 1), (-1, 0)),
    "left": ((-1, 1), (0, -1)),
}
PORCH_ROOF_M, POST_M, RAIL_M = 0.14, 0.12, 0.09


def body_of(thing: Thing) -> Body:
    """The body of one thing as it stands unturned at the origin; the same for things that differ only in place."""
    plain = replace(thing, id="", name="", x_m=0.0, y_m=0.0, turn_deg=0.0, base_m=0.0, count=1, gap_m=0.0, row_deg=0.0)
    return _body_of(plain)


@lru_cache(maxsize=512)
def _body_of(thing: Thing) -> Body:
    body = Body()
    _MAKERS[thing.kind](body, thing)
    return body


def _darker(tone: float, by: float) -> float:
    return max(0.0, tone - by)


def _box(body: Body, thing: Thing) -> None:
    w, d = thing.width_m / 2, thing.depth_m / 2
    body.add_box((-w, w), (-d, d), (0.0, thing.height_m), thing.tone)


def _house(body: Body, thing: Thing) -> None:
    w, d, h, tone = thing.width_m / 2, thing.depth_m / 2, thing.height_m, thing.tone
    roof, slope = _darker(tone, DARKER_ROOF), tan(np.radians(thing.pitch_deg))
    if thing.roof == "flat":
        body.add_box((-w, w), (-d, d), (0.0, h), tone, roof)
    elif thing.roof == "lean-to":
        leaning = ((-w, 0.0), (w, 0.0), (w, h), (-w, h + 2 * w * slope))
        body.add_extruded(leaning, ((0, 1, 2, 3),), (-d, d), (tone, tone, roof, tone), tone, along_x=False)
    elif thing.roof == "gable":
        profile = ((-w, 0.0), (w, 0.0), (w, h), (0.0, h + w * slope), (-w, h))
        tones = (tone, tone, roof, roof, tone)
        body.add_extruded(profile, ((0, 1, 2, 3, 4),), (-d, d), tones, tone, along_x=False)
        for y in (-d, d):
            body.add_line((-w, y, h), (w, y, h))
    else:
        _hipped(body, thing, slope, roof)
    for opening in thing.openings:
        _opening(body, thing, opening)
    if thing.porch_m > 0:
        _porch(body, thing)


def _hipped(body: Body, thing: Thing, slope: float, roof: float) -> None:
    w, d, h = thing.width_m / 2, thing.depth_m / 2, thing.height_m
    body.add_box((-w, w), (-d, d), (0.0, h), thing.tone)
    rise = min(w, d) * slope
    first, last = ((0.0, -(d - w)), (0.0, d - w)) if d >= w else ((-(w - d), 0.0), (w - d, 0.0))
    a, b, c, e = body.add_points([(-w, -d, h), (w, -d, h), (w, d, h), (-w, d, h)])
    ridge = body.add_points([(*first, h + rise), (*last, h + rise)])
    p, q = ridge
    faces: tuple[tuple[int, ...], ...]
    if d >= w:
        faces = ((a, b, p), (b, c, q, p), (c, e, q), (e, a, p, q))
        hips = ((a, p), (b, p), (c, q), (e, q), (p, q))
    else:
        faces = ((a, b, q, p), (b, c, q), (c, e, p, q), (e, a, p))
        hips = ((a, p), (b, q), (c, q), (e, p), (p, q))
    for face in faces:
        body.add_face(face, roof)
    body.edges += hips


def _opening(body: Body, thing: Thing, opening: Opening) -> None:
    """A door or window on its wall, kept within it."""
    w, d = thing.width_m / 2, thing.depth_m / 2
    long = thing.width_m if opening.side in ("front", "back") else thing.depth_m
    low, high = min(opening.bottom_m, thing.height_m), min(opening.bottom_m + opening.height_m, thing.height_m)
    left, right = min(opening.left_m, long), min(opening.left_m + opening.width_m, long)
    if right - left < 1e-6 or high - low < 1e-6:
        return
    corner, way = _WALLS[opening.side]
    start, ahead = np.array([corner[0] * w, corner[1] * d, 0.0]), np.array([*way, 0.0])

    def at(along: float, up: float) -> Array:
        return np.asarray(start + along * ahead + (0.0, 0.0, up))

    corners = [at(left, low), at(right, low), at(right, high), at(left, high)]
    body.add_patch(np.array(corners), _darker(thing.tone, DARK_OPENING))
    if opening.kind == "window":
        middle, half = (left + right) / 2, (low + high) / 2
        body.add_line(at(middle, low), at(middle, high))
        body.add_line(at(left, half), at(right, half))


def _porch(body: Body, thing: Thing) -> None:
    w, d, p = 0.3 * thing.width_m, thing.depth_m / 2, thing.porch_m
    top = min(2.5, thing.height_m)
    body.add_box((-w, w), (-d - p, -d), (top - PORCH_ROOF_M, top), _darker(thing.tone, DARKER_ROOF))
    for x in (-w, w - POST_M):
        body.add_box((x, x + POST_M), (-d - p, -d - p + POST_M), (0.0, top - PORCH_ROOF_M), thing.tone)


def _fence(body: Body, thing: Thing) -> None:
    w, d, h = thing.width_m / 2, thing.depth_m / 2, thing.height_m
    posts = max(2, thing.parts)
    for k in range(posts):
        x = -w + k * (thing.width_m - POST_M) / (posts - 1)
        body.add_box((x, x + min(POST_M, thing.width_m)), (-d, d), (0.0, h), thing.tone)
    for share in (0.4, 0.85):
        body.add_box((-w, w), (-d / 2, d / 2), (share * h - RAIL_M / 2, share * h + RAIL_M / 2), thing.tone)


def _flat(body: Body, thing: Thing) -> None:
    w, d, z = thing.width_m / 2, thing.depth_m / 2, thing.height_m
    corners = body.add_points([(-w, -d, z), (w, -d, z), (w, d, z), (-w, d, z)])
    body.add_face(corners, thing.tone, laid_on=True)
    body.add_loop(corners)


def _pavement(body: Body, thing: Thing) -> None:
    w, d, h = thing.width_m / 2, thing.depth_m / 2, thing.height_m
    body.add_box((-w, w), (-d, d), (0.0, h), thing.tone)
    kerb = min(0.15, thing.width_m / 3)
    for x in (-w + kerb, w - kerb):
        body.add_line((x, -d, h), (x, d, h))
    for k in range(1, thing.parts):
        y = -d + k * thing.depth_m / thing.parts
        body.add_line((-w, y, h), (w, y, h))


def _steps(body: Body, thing: Thing) -> None:
    w, d, n = thing.width_m / 2, thing.depth_m / 2, thing.parts
    tread, riser = thing.depth_m / n, thing.height_m / n
    profile = [(d, 0.0), (d, thing.height_m)]
    for k in range(n, 0, -1):
        front = -d + (k - 1) * tread
        profile += [(front, k * riser), (front, (k - 1) * riser)]
    body.add_extruded(profile, (), (-w, w), [thing.tone] * len(profile), thing.tone)
    # The side is no convex face: an upright strip under each tread.
    for k in range(1, n + 1):
        y0, y1, z = -d + (k - 1) * tread, -d + k * tread, k * riser
        for x in (w, -w):
            strip = [(x, y0, 0.0), (x, y1, 0.0), (x, y1, z), (x, y0, z)]
            body.add_face(body.add_points(strip if x > 0 else strip[::-1]), thing.tone)


def _tree(body: Body, thing: Thing) -> None:
    h, trunk = thing.height_m, 0.3 * thing.height_m
    thick = 0.03 * h
    body.add_turned(((thick, 0.0), (0.8 * thick, trunk + 0.1 * h)), _darker(thing.tone, 12.0), SLIM, corners=(0,))
    count = min(max(1, thing.parts), MOST_CROWNS)
    crown = h - trunk
    for k in range(count):
        tall = crown if count == 1 else crown * (1.0 - 0.13 * k) * 0.75
        wide = thing.width_m / 2 if count == 1 else 0.62 * thing.width_m / 2
        x = 0.0 if count == 1 else (k / (count - 1) - 0.5) * 0.38 * thing.width_m
        low = h - tall - (crown - tall) * (0.0 if k == 0 else 0.25 if k % 2 else 0.9)
        _ball_at(body, (x, 0.0, low), wide, tall / 2, thing.tone, 24, 10)


def _ball_at(
    body: Body, foot: tuple[float, float, float], wide: float, half: float, tone: float, sides: int, rings: int
) -> None:
    """A ball or upright oval standing on a point."""
    angle = np.linspace(-np.pi / 2, np.pi / 2, rings + 1)
    profile = [(max(0.0, float(wide * np.cos(a))), float(half * (1 + np.sin(a)))) for a in angle]
    profile[0], profile[-1] = (0.0, 0.0), (0.0, 2 * half)
    body.add_turned(profile, tone, sides, foot)


def _post(body: Body, thing: Thing) -> None:
    r = thing.width_m / 2
    body.add_turned(((r, 0.0), (r, thing.height_m)), thing.tone, SLIM, corners=(0, 1))


def _lamp(body: Body, thing: Thing) -> None:
    r, h = 0.08 * thing.height_m / 4.5, thing.height_m
    head = min(thing.width_m / 2, 0.2 * h)
    foot = [(1.8 * r, 0.0), (1.8 * r, 0.08 * h)]
    body.add_turned(foot, thing.tone, SLIM, corners=(0, 1))
    body.add_turned([(r, 0.0), (0.7 * r, 0.92 * h - 2 * head)], thing.tone, SLIM, (0.0, 0.0, 0.08 * h))
    _ball_at(body, (0.0, 0.0, h - 2 * head), head, head, min(100.0, thing.tone + 40), 24, 10)


def _standing(body: Body, thing: Thing) -> None:
    h, head = thing.height_m, thing.height_m / HEADS
    wide, deep = thing.width_m / 2, thing.depth_m / thing.width_m
    # Feet, knees, hips, waist, shoulders, neck: heights in heads from the ground.
    profile = [(0.55, 0.0), (0.6, 2.0), (0.78, 4.0), (0.66, 5.0), (1.0, 6.5), (0.3, 6.9), (0.28, 7.05)]
    body.add_turned([(r * wide, z * head) for r, z in profile], thing.tone, 24, bulging=False, squash=deep)
    _ball_at(body, (0.0, 0.0, h - head), 0.38 * head, head / 2, min(100.0, thing.tone + 20), 24, 10)


def _sitting(body: Body, thing: Thing) -> None:
    h, w, d = thing.height_m, thing.width_m / 2, thing.depth_m / 2
    head = h / 6.2  # sitting on something low a grown figure is about six heads high
    seat = 0.34 * h
    body.add_box((-0.8 * w, 0.8 * w), (-d, -d + 0.25 * thing.depth_m), (0.0, seat), thing.tone)
    body.add_box((-0.8 * w, 0.8 * w), (-d, d), (seat, seat + 0.12 * h), thing.tone)
    body.add_box((-w, w), (0.2 * d, d), (seat + 0.12 * h, h - head), thing.tone)
    _ball_at(body, (0.0, 0.6 * d, h - head), 0.38 * head, head / 2, min(100.0, thing.tone + 20), 24, 10)


def _car(body: Body, thing: Thing) -> None:
    w, d, h = thing.width_m / 2, thing.depth_m / 2, thing.height_m
    wheel = 0.22 * h
    low, belt = 0.75 * wheel, 0.58 * h
    profile = (
        (-d, low),
        (d, low),
        (d, belt),
        (0.72 * d, h),
        (-0.18 * d, h),
        (-0.5 * d, belt),
        (-d, 0.92 * belt),
    )
    pieces = ((0, 1, 2, 5, 6), (2, 3, 4, 5))
    glass = _darker(thing.tone, 25)
    tones = (thing.tone, thing.tone, glass, thing.tone, glass, thing.tone, thing.tone)
    body.add_extruded(profile, pieces, (-w, w), tones, thing.tone)
    for y in (-0.62 * d, 0.6 * d):
        for x in (-w, w):
            body.add_wheel((x * 0.98, y, wheel), wheel, 0.12 * thing.width_m, _darker(thing.tone, DARK_WHEEL))


def _cart(body: Body, thing: Thing) -> None:
    w, d, h = thing.width_m / 2, thing.depth_m / 2, thing.height_m
    wheel = 0.4 * h
    body.add_box((-w, w), (-d, d), (0.8 * wheel, h), thing.tone, _darker(thing.tone, 20))
    for x in (-w, w):
        body.add_wheel((1.06 * x, 0.0, wheel), wheel, 0.07 * thing.width_m, _darker(thing.tone, DARK_WHEEL))
    for x in (-0.8 * w, 0.8 * w - 0.06):
        body.add_box((x, x + 0.06), (-d - 0.6 * thing.depth_m, -d), (0.85 * wheel, 0.85 * wheel + 0.06), thing.tone)


def _turned(*profile: tuple[float, float], corners: tuple[int, ...] = (0, -1), bulging: bool = False) -> Maker:
    """A maker of turned things from a profile in shares of its half width and of its height."""

    def make(body: Body, thing: Thing) -> None:
        r, h = thing.width_m / 2, thing.height_m
        numbers = tuple(k % len(profile) for k in corners)
        shape = [(a * r, b * h) for a, b in profile]
        body.add_turned(shape, thing.tone, ROUND, bulging=bulging, corners=numbers)

    return make


def _ball(body: Body, thing: Thing) -> None:
    _ball_at(body, (0.0, 0.0, 0.0), thing.width_m / 2, thing.height_m / 2, thing.tone, ROUND, 16)


def _half_ball(body: Body, thing: Thing) -> None:
    angle = np.linspace(0, np.pi / 2, 13)
    profile = [(float(thing.width_m / 2 * np.cos(a)), float(thing.height_m * np.sin(a))) for a in angle]
    profile[-1] = (0.0, thing.height_m)
    body.add_turned(profile, thing.tone, ROUND, corners=(0,))


def _cut_out(body: Body, thing: Thing) -> None:
    """The outline upright on its feet, as tall as it is said to be; as wide as it is in the photo."""
    flat = np.array(thing.points)
    (left, top), (right, foot) = flat.min(0).tolist(), flat.max(0).tolist()
    per_px = thing.height_m / max(foot - top, 1e-9)
    shape = np.column_stack([(flat[:, 0] - (left + right) / 2) * per_px, (foot - flat[:, 1]) * per_px])
    outline = shapely.make_valid(shapely.Polygon(shape))
    for part in shapely.get_parts(outline):
        if part.geom_type != "Polygon" or part.area <= 0:
            continue
        ring = shapely.get_coordinates(part.exterior)[:-1]
        corners = body.add_points(np.column_stack([ring[:, 0], np.zeros(len(ring)), ring[:, 1]]))
        body.add_loop(corners)
        for triangle in shapely.get_parts(shapely.constrained_delaunay_triangles(part)):
            three = shapely.get_coordinates(shapely.orient_polygons(triangle).exterior)[:3]
            numbers = body.add_points(np.column_stack([three[:, 0], np.zeros(3), three[:, 1]]))
            body.add_face(numbers, thing.tone)
            body.add_face(numbers[::-1], thing.tone)


Maker = Callable[[Body, "Thing"], None]
_MAKERS: dict[ThingKind, Maker] = {
    "block": _box,
    "house": _house,
    "wall": _box,
    "fence": _fence,
    "hedge": _box,
    "road": _flat,
    "pavement": _pavement,
    "steps": _steps,
    "tree": _tree,
    "post": _post,
    "lamp": _lamp,
    "standing figure": _standing,
    "sitting figure": _sitting,
    "car": _car,
    "cart": _cart,
    "cylinder": _turned((1, 0), (1, 1), bulging=True),
    "cup": _turned((0.6, 0), (0.72, 0.08), (0.9, 0.5), (1.0, 1.0)),
    "bottle": _turned(
        (0.92, 0), (1, 0.04), (1, 0.55), (0.9, 0.64), (0.55, 0.73), (0.4, 0.8), (0.36, 0.97), (0.42, 0.98), (0.42, 1)
    ),
    "bowl": _turned((0.4, 0), (0.42, 0.08), (0.75, 0.35), (0.93, 0.7), (1.0, 1.0)),
    "ball": _ball,
    "half ball": _half_ball,
    "water": _flat,
    "cut-out": _cut_out,
}
