"""A study moved along with its picture when that is straightened: every mark stays on what it marks."""

from __future__ import annotations

from dataclasses import is_dataclass, replace
from functools import cache
from math import atan2, degrees, radians, tan
from types import NoneType
from typing import TYPE_CHECKING, Any, get_args, get_type_hints

import numpy as np

from mild_compass.craft.perspective.camera import guessed_focal
from mild_compass.craft.perspective.lens import keystone, original_points, straightened_points
from mild_compass.craft.perspective.up import uprights_point
from mild_compass.craft.perspective.worked import centre_of, work_out
from mild_compass.plan.edits.perspective import put_straightened
from mild_compass.plan.errors import PlanError
from mild_compass.plan.guides import Lens, Light
from mild_compass.plan.perspective import Horizon
from mild_compass.plan.stage import Thing
from mild_compass.plan.study import Departure, Frame, KeepArea, Study

if TYPE_CHECKING:
    from collections.abc import Callable, Iterable

    from mild_compass.plan.edits.base import Edit
    from mild_compass.plan.pictures import Ground, Point


Place = tuple[float, float]
LEAST_KEPT = 1 / 3  # a lens of 28 mm tipped by 25 degrees leaves more
REACH_PX = 500.0  # either side, for the direction of a line


class _Mover:
    """Takes points from one straightening of a photo to another."""

    def __init__(self, old: Lens, new: Lens, photo: Ground) -> None:
        self._old, self._new, self._centre = old, new, centre_of(photo)

    def points(self, points: Iterable[Point]) -> tuple[Point, ...]:
        given = np.array(list(points), np.float64).reshape(-1, 2)
        if not len(given):
            return ()
        taken = original_points(given, self._old, self._centre)
        moved = straightened_points(taken, self._new, self._centre)
        return tuple((float(x), float(y)) for x, y in moved)


def straightened(study: Study, photo: Ground, lens: Lens) -> Edit:
    """The edit that gives a study another lens and moves all its marks along; the frame stays where it is.

    Whatever of a study is a place on its picture is found by its type, so that a new kind of mark goes along too.
    """

    def moved() -> Study:
        along: Study = _moved(study, Study, _Mover(study.perspective.lens, lens, photo))
        return replace(along, perspective=replace(along.perspective, lens=lens))

    return put_straightened(study.id, moved)


def _moved(value: Any, hint: Any, move: _Mover) -> Any:
    """A value of a type with every place in it moved."""
    if value is None or isinstance(value, STAYS):
        return value
    if hint == Place:
        return move.points([value])[0]
    if hint == tuple[Place, ...]:
        return move.points(value)
    if is_dataclass(value):
        return SPECIAL.get(type(value), _moved_thing)(value, move)
    if isinstance(value, tuple):
        kinds = get_args(hint)
        if not kinds or kinds[-1] is Ellipsis:
            kinds = (kinds[0] if kinds else Any,) * len(value)
        return tuple(_moved(each, kind, move) for each, kind in zip(value, kinds, strict=True))
    return value


def _moved_thing(thing: Any, move: _Mover) -> Any:
    """Places in fields of their own, and places told by two fields, across and down."""
    kind: Any = type(thing)
    hints = _hints(kind)
    changes = {}
    for name, hint in hints.items():
        options = [each for each in get_args(hint) if each is not NoneType] if NoneType in get_args(hint) else [hint]
        old = getattr(thing, name)
        new = old if name.endswith("_mm") else _moved(old, options[0], move)
        if new is not old:
            changes[name] = new
    for across, down in (("x_px", "y_px"), ("x0_px", "y0_px"), ("x1_px", "y1_px")):
        if across in hints and down in hints:
            changes[across], changes[down] = move.points([(getattr(thing, across), getattr(thing, down))])[0]
    return replace(thing, **changes)


@cache
def _hints(kind: Any) -> dict[str, Any]:
    return get_type_hints(kind)


def _departure(departure: Departure, move: _Mover) -> Departure:
    """What is borrowed has its outline in another photo."""
    moved: Departure = _moved_thing(departure, move)
    return replace(moved, points=departure.points) if departure.kind == "borrow" else moved


def _keep(area: KeepArea, move: _Mover) -> KeepArea:
    corners = move.points([(x, y) for x in (area.left_px, area.right_px) for y in (area.top_px, area.bottom_px)])
    xs, ys = zip(*corners, strict=True)
    return replace(area, left_px=min(xs), top_px=min(ys), right_px=max(xs), bottom_px=max(ys))


def _light(light: Light, move: _Mover) -> Light:
    """A lamp that has never been stood anywhere has no place to be moved from."""
    return light if light.foot == (0.0, 0.0) else replace(light, foot=move.points([light.foot])[0])


def _horizon(horizon: Horizon, move: _Mover) -> Horizon:
    rise = REACH_PX * tan(radians(horizon.tilt_deg))
    (x0, y0), (x1, y1) = move.points(
        [(horizon.x_px - REACH_PX, horizon.y_px - rise), (horizon.x_px + REACH_PX, horizon.y_px + rise)]
    )
    tilt = degrees(atan2(y1 - y0, x1 - x0))
    return Horizon((y0 + y1) / 2, max(-45.0, min(45.0, tilt)), (x0 + x1) / 2)


STAYS = (Frame, Lens, Thing)  # a cut-out's outline lies in another photo
SPECIAL: dict[type, Callable[[Any, _Mover], Any]] = {
    Departure: _departure, KeepArea: _keep, Horizon: _horizon, Light: _light,
}  # fmt: skip


def uprights_lens(study: Study, photo: Ground) -> Lens:
    """The lens that makes the traced uprights upright; a PlanError says what is missing.

    Raises:
        PlanError: no uprights are traced, or they do not tell the lens.
    """
    worked = work_out(study.perspective, photo)
    focal = worked.focals[0].px if worked.focals else guessed_focal(photo.width_px, photo.height_px).px
    upright = uprights_point(study.perspective, focal, centre_of(photo))
    if upright is None:
        raise PlanError("Trace two uprights first, as a set of their own, and say that the set is upright.")
    lens = study.perspective.lens
    turn = keystone(upright, focal, centre_of(photo))
    if lens.turn != (0.0, 0.0, 0.0):
        turn = _after(lens.turn, turn)
    if max(map(abs, turn)) > 0.7:
        raise PlanError(
            "These uprights lean so much that straightening them would tear the picture. It stays as it is."
        )
    made = Lens(lens.k1, turn, focal if lens.plain else lens.focal_px)
    if _kept(made, photo) < LEAST_KEPT:
        raise PlanError(
            "Set upright, less than a third of the picture would be left. It stays as it is; look whether the "
            "uprights are traced along true uprights."
        )
    return made


def _kept(lens: Lens, photo: Ground) -> float:
    """The share of the straightened picture that shows something of the photo."""
    across, down = (np.arange(40) + 0.5) / 40 * photo.width_px, (np.arange(30) + 0.5) / 30 * photo.height_px
    places = np.stack(np.meshgrid(across, down), -1).reshape(-1, 2)
    x, y = original_points(places, lens, centre_of(photo)).T
    return float(((x >= 0) & (x <= photo.width_px) & (y >= 0) & (y <= photo.height_px)).mean())


def _after(first: tuple[float, float, float], second: tuple[float, float, float]) -> tuple[float, float, float]:
    """One rotation after another, as a rotation vector."""
    import cv2

    both = cv2.Rodrigues(np.array(second))[0] @ cv2.Rodrigues(np.array(first))[0]
    x, y, z = cv2.Rodrigues(both)[0].ravel().tolist()
    return x, y, z
