"""The same thing going wrong in several plans."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from collections.abc import Iterable

    from mild_compass.plan.record import Way

LEAST = 2  # plans, this one among them
NUMBERS = ("first", "second", "third", "fourth", "fifth", "sixth", "seventh", "eighth", "ninth", "tenth")
# What is said of a topic that became more, or less; anything else is told by its own words.
WORDS: dict[tuple[str, Way], str] = {
    ("darks", "more"): "whose darks took more than planned",
    ("darks", "less"): "whose darks took less than planned",
    ("lights", "more"): "whose lights took more than planned",
    ("lights", "less"): "whose lights were closed more than planned",
    ("time", "more"): "that took longer than planned",
    ("time", "less"): "that was done sooner than planned",
    ("where the eye ends", "more"): "in which the eye ends elsewhere than planned",
    ("the size of the drawing", "more"): "drawn larger than planned",
    ("the size of the drawing", "less"): "drawn smaller than planned",
    ("measured lengths", "more"): "with a length drawn too long",
    ("measured lengths", "less"): "with a length drawn too short",
    ("lines", "more"): "with parts off their place",
    ("how light the masses are", "more"): "with a mass too light",
    ("how light the masses are", "less"): "with a mass too dark",
}


@dataclass(frozen=True, slots=True)
class Wrong:
    """Something of a plan that went otherwise: in which plan, what it is about, more or less, in the plan's words."""

    plan: str
    topic: str
    way: Way
    planned: str
    learned: str = ""


@dataclass(frozen=True, slots=True)
class Repeated:
    """A topic that went wrong in the same way in this plan and in others, by name."""

    topic: str
    way: Way
    words: str
    plans: tuple[str, ...]
    learned: tuple[str, ...]


def repeated(here: Iterable[Wrong], elsewhere: Iterable[Wrong]) -> tuple[Repeated, ...]:
    """What went wrong here as it did in other plans, the most frequent first."""
    others: dict[tuple[str, Way], list[Wrong]] = {}
    for each in elsewhere:
        others.setdefault((each.topic, each.way), []).append(each)
    found = {}
    for each in here:
        same = others.get((each.topic, each.way), [])
        plans = tuple(dict.fromkeys(other.plan for other in same if other.plan != each.plan))
        if len(plans) + 1 < LEAST:
            continue
        learned = tuple(dict.fromkeys(other.learned for other in same if other.learned))
        found[each.topic, each.way] = Repeated(
            each.topic, each.way, f"The {_number(len(plans) + 1)} picture {_words(each)}.", plans, learned
        )
    return tuple(sorted(found.values(), key=lambda each: -len(each.plans)))


def _number(count: int) -> str:
    return NUMBERS[count - 1] if count <= len(NUMBERS) else f"{count}th"


def _words(wrong: Wrong) -> str:
    return WORDS.get((wrong.topic, wrong.way), f"in which the plan to {wrong.topic} did not hold")
