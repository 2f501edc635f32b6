"""The one table of drills: names, what they are about, how they are asked, how far off is usual at the start."""

from __future__ import annotations

from dataclasses import dataclass
from importlib import import_module
from typing import TYPE_CHECKING

from mild_compass.craft.practice.staircase import allowed_at

if TYPE_CHECKING:
    from collections.abc import Callable
    from random import Random

    from mild_compass.craft.practice.card import Question


@dataclass(frozen=True, slots=True)
class Drill:
    """One drill.

    ``module`` of this room has a function ``name_question(chance, allowed)`` for it. ``easiest`` is what is allowed at
    the first level, in ``unit`` (or, where one of several is chosen, how different they are); ``usual`` is about what a
    beginner is off by: common practice, no published source. ``more`` and ``less`` say what a positive and a negative
    error mean. ``signed`` is whether errors have a size and a direction.
    """

    name: str
    title: str
    unit: str
    minutes: int
    easiest: float
    usual: float
    more: str
    less: str
    module: str
    signed: bool = True

    def question(self, chance: Random, level: int) -> Question:
        """A question at a level of difficulty, on a made picture."""
        module = import_module(f"mild_compass.craft.practice.{self.module}")
        make: Callable[[Random, float], Question] = getattr(module, f"{self.name.replace(' ', '_')}_question")
        return make(chance, allowed_at(level, self.easiest))


DRILLS: tuple[Drill, ...] = (
    Drill("halve", "Halve a line", "mm", 1, 8.0, 2.5, "too far right", "too far left", "lengths"),
    Drill("third", "A third of a line", "mm", 1, 8.0, 4.0, "too long", "too short", "lengths"),
    Drill("angle", "An angle against the upright", "°", 1, 15.0, 5.0, "too flat", "too steep", "angles"),
    Drill("width to height", "Width to height", "%", 1, 30.0, 12.0, "too wide", "too narrow", "lengths"),
    Drill("heads", "How many heads", "heads", 1, 1.5, 0.7, "too many", "too few", "lengths"),
    Drill("units", "One length in another", "units", 1, 1.0, 0.4, "too many", "too few", "lengths"),
    Drill("value", "A value on the scale", "steps", 1, 2.0, 0.8, "too light", "too dark", "tones"),
    Drill("lighter", "Which is lighter", "L*", 1, 24.0, 6.0, "", "", "tones", signed=False),
    Drill("lightest three", "The lightest three in order", "L*", 1, 14.0, 5.0, "", "", "tones", signed=False),
    Drill("eye level", "Eye level in a street", "mm", 2, 15.0, 6.0, "too high", "too low", "depth"),
    Drill("runs to", "Where a line runs to", "mm", 2, 30.0, 12.0, "too far", "too near", "depth"),
    Drill("next post", "The next post in a row", "mm", 2, 8.0, 3.0, "too far on", "too near", "depth"),
    Drill("ellipse", "The ellipse of a turned circle", "mm", 2, 8.0, 3.0, "too round", "too flat", "angles"),
    Drill("balance", "The balance point", "mm", 2, 20.0, 8.0, "too far right", "too far left", "lengths"),
    Drill("crop", "Which crop is the sheet's proportion", "%", 2, 25.0, 6.0, "", "", "places", signed=False),
    Drill("memory", "Five points from memory", "mm", 3, 25.0, 10.0, "too far out", "too far in", "places"),
)


def drill(name: str) -> Drill:
    """The drill of this name."""
    return next(each for each in DRILLS if each.name == name)


def names() -> tuple[str, ...]:
    """All drills by name."""
    return tuple(each.name for each in DRILLS)
