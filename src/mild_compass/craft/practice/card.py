"""A question of a drill: what is seen on its card, what is asked, and how an answer is judged."""

from __future__ import annotations

from dataclasses import dataclass
from math import cos, hypot, pi, sin
from typing import TYPE_CHECKING, Literal

if TYPE_CHECKING:
    from collections.abc import Callable

Spot = tuple[float, float]  # in mm on the card, from its top left corner
Rgb = tuple[int, int, int]
AnswerKind = Literal["point", "number", "choice", "order", "places"]
Answer = float | int | Spot | tuple[int, ...] | tuple[Spot, ...]
CARD_MM = (240.0, 160.0)
PAPER: Rgb = (250, 249, 246)
INK: Rgb = (40, 40, 42)


@dataclass(frozen=True, slots=True)
class Line:
    """A polyline in ink."""

    points: tuple[Spot, ...]
    width_mm: float = 0.6
    dashed: bool = False


@dataclass(frozen=True, slots=True)
class Area:
    """A flat shape."""

    points: tuple[Spot, ...]
    rgb: Rgb


@dataclass(frozen=True, slots=True)
class Word:
    """A few letters, their middle at a place."""

    text: str
    at: Spot


@dataclass(frozen=True, slots=True)
class PhotoCard:
    """The framed picture of the current study fills the card."""


Mark = Line | Area | Word | PhotoCard


@dataclass(frozen=True, slots=True)
class Judged:
    """An answer judged: its signed error in the drill's unit (None where only right or wrong can be said), whether it
    was right at this level, the error in words, and the truth to be shown."""

    error: float | None
    right: bool
    words: str
    truth: tuple[Mark, ...] = ()


@dataclass(frozen=True, eq=False, slots=True)
class Question:
    """One question. ``choices`` are the outlines that can be chosen; ``seen_s`` is how long the card is shown before
    it is covered, 0 for as long as one likes; ``allowed`` is the error still right, or the difference that is seen."""

    drill: str
    prompt: str
    kind: AnswerKind
    marks: tuple[Mark, ...]
    judge: Callable[[Answer], Judged]
    allowed: float
    size_mm: Spot = CARD_MM
    choices: tuple[tuple[Spot, ...], ...] = ()
    count: int = 1
    seen_s: float = 0.0
    unit: str = ""
    own: bool = False  # on the artist's own reference
    line: tuple[Spot, Spot] | None = None  # a point is taken to its nearest place on it


def box(left: float, top: float, right: float, bottom: float) -> tuple[Spot, ...]:
    """The outline of an upright rectangle."""
    return (left, top), (right, top), (right, bottom), (left, bottom), (left, top)


def cross(at: Spot, arm: float = 3.0) -> tuple[Mark, Mark]:
    """A small cross at a place."""
    x, y = at
    return Line(((x - arm, y), (x + arm, y)), 0.5), Line(((x, y - arm), (x, y + arm)), 0.5)


def dot(at: Spot, radius: float = 1.2, rgb: Rgb = INK) -> Area:
    """A dot at a place."""
    x, y = at
    ring = tuple((x + radius * cos(k * pi / 8), y + radius * sin(k * pi / 8)) for k in range(16))
    return Area(ring, rgb)


def onto(line: tuple[Spot, Spot], at: Spot) -> float:
    """How far along a line, in mm from its first end, the nearest place to a point lies."""
    (x0, y0), (x1, y1) = line
    length = hypot(x1 - x0, y1 - y0)
    return ((at[0] - x0) * (x1 - x0) + (at[1] - y0) * (y1 - y0)) / length


def along(line: tuple[Spot, Spot], mm: float) -> Spot:
    """The place so far along a line."""
    (x0, y0), (x1, y1) = line
    length = hypot(x1 - x0, y1 - y0)
    return x0 + (x1 - x0) * mm / length, y0 + (y1 - y0) * mm / length


def off(error: float, unit: str, more: str, less: str, digits: int = 1) -> str:
    """An error in words with its direction; nothing off below what is shown."""
    shown = f"{abs(error):.{digits}f}"
    if float(shown) == 0:
        return "Exactly."
    space = "" if unit in ("°", "") else " "
    return f"{shown}{space}{unit} {more if error > 0 else less}."
