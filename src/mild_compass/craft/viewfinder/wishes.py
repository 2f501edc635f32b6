"""What a frame must hold and what it must leave outside, and whether any frame can."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

from mild_compass.craft.geometry.lines import Box
from mild_compass.plan.framing import widest_px

if TYPE_CHECKING:
    from mild_compass.plan.pictures import Ground
    from mild_compass.plan.study import Study


@dataclass(frozen=True, slots=True)
class Wish:
    """A box in photo pixels with its name."""

    name: str
    box: Box


@dataclass(frozen=True, slots=True)
class Wishes:
    """What must be inside, and what must be outside."""

    within: tuple[Wish, ...]
    without: tuple[Wish, ...] = ()


def wishes_of(study: Study, leave_out: bool = True) -> Wishes:
    """Rings and areas to keep inside; left-out areas outside, when they are to stay there."""
    rings = tuple(
        Wish(
            f"the {ring.name}",
            Box(
                ring.x_px - ring.radius_x_px,
                ring.y_px - ring.radius_y_px,
                ring.x_px + ring.radius_x_px,
                ring.y_px + ring.radius_y_px,
            ),
        )
        for ring in study.rings
    )
    kept = tuple(Wish(a.name, Box(a.left_px, a.top_px, a.right_px, a.bottom_px)) for a in study.keep)
    gone = tuple(
        Wish(each.name or "what is left out", Box(*each.bounds))
        for each in study.departures
        if each.kind == "leave out" and each.outcome != "dropped"
    )
    return Wishes((*rings, *kept), gone if leave_out else ())


def conflict(wishes: Wishes, photo: Ground, ratio: float) -> str | None:
    """The sentence that says which wish cannot be met; None when nothing speaks against them all."""
    width = widest_px(photo, ratio)
    height = width / ratio
    for wish in wishes.within:
        box = wish.box
        if box.left < 0 or box.top < 0 or box.right > photo.width_px or box.bottom > photo.height_px:
            return f"{_capital(wish.name)} reaches beyond the photo: no frame on it can hold it whole. Draw it smaller."
        if box.width > width or box.height > height:
            return (
                f"{_capital(wish.name)} is larger than any frame of this proportion on this photo. "
                "Draw it smaller, or choose a sheet of another proportion."
            )
    for number, one in enumerate(wishes.within):
        for other in wishes.within[:number]:
            both = _around(one.box, other.box)
            if both.width > width or both.height > height:
                return f"No frame of this proportion holds both {other.name} and {one.name}. Let one of them go."
    for gone in wishes.without:
        for wish in wishes.within:
            if _meet(gone.box, wish.box):
                return (
                    f"{_capital(gone.name)} cannot stay outside: it overlaps {wish.name}, which must be inside. "
                    "Move one of them, or let left-out areas be inside; they are flattened anyway."
                )
    return None


def _around(a: Box, b: Box) -> Box:
    return Box(min(a.left, b.left), min(a.top, b.top), max(a.right, b.right), max(a.bottom, b.bottom))


def _meet(a: Box, b: Box) -> bool:
    return a.left < b.right and b.left < a.right and a.top < b.bottom and b.top < a.bottom


def _capital(words: str) -> str:
    return words[:1].upper() + words[1:]
