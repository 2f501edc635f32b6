"""Every number, text and list of a plan within bounds: found by type, so that a new field cannot be forgotten.

A pair of numbers is a place, and a number whose name ends in ``_px`` is a coordinate or a length on the photo: both
stay within a sensible reach beyond it. Texts can be encoded and are not endless, lists are not endless, no number is
endless or none. What an edit has not touched is not looked at again.
"""

from __future__ import annotations

from dataclasses import fields, is_dataclass
from functools import cache
from itertools import compress, count
from math import isfinite
from operator import is_not
from typing import TYPE_CHECKING, Any, get_args

from mild_compass.plan.errors import PlanError
from mild_compass.plan.model import Plan
from mild_compass.plan.study import Study
from mild_compass.plan.texts import require_text

if TYPE_CHECKING:
    from collections.abc import Iterable

REACH = 10.0  # of the photo's longer side, beyond it on every side
LEAST_REACH_PX = 20_000.0
MOST_NUMBER = 1e9
MOST_ITEMS = 20_000
LENS = "focal_px"  # no place on the photo: a lens may be longer than it is wide


def require_bounded(plan: Plan, before: Plan | None = None) -> None:
    """Check all of a plan, or what differs from the plan before.

    Raises:
        PlanError: something is too far, too long, too many, or not a number.
    """
    sizes = {photo.id: max(photo.width_px, photo.height_px) for photo in plan.references}
    old = {study.id: study for study in before.studies} if before is not None else {}
    for study in plan.studies:
        if study is not old.get(study.id):
            longest = max([sizes.get(study.ground, 0), *sizes.values()])
            reach = max(REACH * longest, LEAST_REACH_PX)
            _require(study, "", reach, old.get(study.id))
    for each in fields(Plan):
        if each.name != "studies":
            _require(getattr(plan, each.name), each.name, MOST_NUMBER, getattr(before, each.name, None))
    _require_known(plan)


def _require(value: Any, name: str, reach: float, before: Any) -> None:
    if value is before:
        return
    if isinstance(value, str):
        require_text(value)
    elif isinstance(value, bool) or value is None:
        return
    elif isinstance(value, int | float):
        _require_number(value, name, reach)
    elif isinstance(value, tuple):
        _require_all(value, name, reach, before)
    elif is_dataclass(value):
        known = before if type(before) is type(value) else None
        kind: Any = type(value)
        for field in _names(kind):
            _require(getattr(value, field), field, reach, getattr(known, field, None))


def _require_all(values: tuple[Any, ...], name: str, reach: float, before: Any) -> None:
    if len(values) > MOST_ITEMS:
        raise PlanError(f"{len(values)} of one kind are too many; {MOST_ITEMS} is the most. Remove some first.")
    known = before if isinstance(before, tuple) else ()
    place = len(values) == 2 and all(isinstance(each, int | float) for each in values)
    head = _alike(values, known)
    foot = _alike(values[head:][::-1], known[head:][::-1])
    old = {id(each) for each in known[head : len(known) - foot]}
    for each in values[head : len(values) - foot]:
        if isinstance(each, int | float) or id(each) not in old:
            _require(each, "place_px" if place and not name.endswith("_mm") else name, reach, None)


def _alike(values: tuple[Any, ...], before: tuple[Any, ...]) -> int:
    """How many of the first are the very same: of a long log or list an edit changes little, mostly at its end."""
    most = min(len(values), len(before))
    return next(compress(count(), map(is_not, values, before)), most)


def _require_number(value: float, name: str, reach: float) -> None:
    if isinstance(value, int) and abs(value) > MOST_NUMBER:
        raise PlanError("A number in the plan is far too large. Nothing was changed.")
    if not isfinite(value) or abs(value) > MOST_NUMBER:
        raise PlanError("A number in the plan is far too large, or none at all. Nothing was changed.")
    if name.endswith("_px") and name != LENS and abs(value) > reach:
        raise PlanError("This lies too far off the photo. Nothing was changed; keep it nearer.")


@cache
def _names(kind: Any) -> tuple[str, ...]:
    return tuple(each.name for each in fields(kind))


def _require_known(plan: Plan) -> None:
    """Words that are one of a few are one of them, wherever an edit has put them."""
    for study in plan.studies:
        for name, allowed in _literals(Study).items():
            _require_one_of(getattr(study, name), allowed, name)


def _require_one_of(value: Any, allowed: Iterable[str], name: str) -> None:
    for each in value if isinstance(value, tuple) else (value,):
        if each not in allowed:
            raise PlanError(f"“{str(each)[:40]}” is not a known {name}. Nothing was changed.")


@cache
def _literals(kind: type) -> dict[str, tuple[str, ...]]:
    """The fields of a class that hold one word of a few, or several such words."""
    from typing import Literal, get_origin, get_type_hints

    found = {}
    for name, hint in get_type_hints(kind).items():
        inner = get_args(hint)[0] if get_origin(hint) is tuple and get_args(hint) else hint
        if get_origin(inner) is Literal:
            found[name] = get_args(inner)
    return found
